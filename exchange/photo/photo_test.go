package photo

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"strings"
	"testing"
)

// corner is a picture of 40 × 20, white with its upper left quarter black.
func corner() *image.RGBA {
	img := image.NewRGBA(image.Rect(0, 0, 40, 20))
	for y := range 20 {
		for x := range 40 {
			c := color.RGBA{255, 255, 255, 255}
			if x < 20 && y < 10 {
				c = color.RGBA{0, 0, 0, 255}
			}
			img.SetRGBA(x, y, c)
		}
	}
	return img
}

func jpegOf(t testing.TB, img image.Image) []byte {
	var buf bytes.Buffer
	if err := jpeg.Encode(&buf, img, &jpeg.Options{Quality: 100}); err != nil {
		t.Fatal(err)
	}
	return buf.Bytes()
}

// withExif puts an Exif block with an orientation and a telling text into a JPEG.
func withExif(file []byte, orientation uint16) []byte {
	const secret = "51.4779 N home"
	tiff := []byte("MM\x00\x2a\x00\x00\x00\x08\x00\x02")
	tiff = append(tiff, 0x01, 0x12, 0, 3, 0, 0, 0, 1)
	tiff = binary.BigEndian.AppendUint16(tiff, orientation)
	tiff = append(tiff, 0, 0)
	tiff = append(tiff, 0x01, 0x0e, 0, 2, 0, 0, 0, byte(len(secret)), 0, 0, 0, 38)
	tiff = append(tiff, 0, 0, 0, 0)
	tiff = append(tiff, secret...)
	block := append([]byte("Exif\x00\x00"), tiff...)
	head := []byte{0xff, 0xd8, 0xff, 0xe1}
	head = binary.BigEndian.AppendUint16(head, uint16(len(block)+2))
	return append(append(head, block...), file[2:]...)
}

// TestUpright: each of the eight ways a camera may have been held ends upright, with
// the dark quarter where it was seen, and nothing of the metadata is left.
func TestUpright(t *testing.T) {
	// Where the stored upper left corner belongs: top or bottom, left or right.
	for orientation, want := range map[uint16]struct{ bottom, right, tall bool }{
		1: {}, 2: {right: true}, 3: {bottom: true, right: true}, 4: {bottom: true},
		5: {tall: true}, 6: {right: true, tall: true}, 7: {bottom: true, right: true, tall: true},
		8: {bottom: true, tall: true},
	} {
		file := withExif(jpegOf(t, corner()), orientation)
		got, err := Read(t.Context(), file)
		if err != nil {
			t.Fatalf("orientation %d: %v", orientation, err)
		}
		img, err := jpeg.Decode(bytes.NewReader(got.Full))
		if err != nil {
			t.Fatal(err)
		}
		w, h := img.Bounds().Dx(), img.Bounds().Dy()
		if (h > w) != want.tall || w != got.Width || h != got.Height {
			t.Errorf("orientation %d: %d × %d, said %d × %d", orientation, w, h, got.Width, got.Height)
		}
		for _, bottom := range []bool{false, true} {
			for _, right := range []bool{false, true} {
				x, y := w/4, h/4
				if right {
					x = w * 3 / 4
				}
				if bottom {
					y = h * 3 / 4
				}
				r, _, _, _ := img.At(x, y).RGBA()
				if dark := r < 0x8000; dark != (bottom == want.bottom && right == want.right) {
					t.Errorf("orientation %d: bottom %t right %t is dark: %t", orientation, bottom, right, dark)
				}
			}
		}
		if bytes.Contains(got.Full, []byte("51.4779")) || bytes.Contains(got.Full, []byte("Exif")) ||
			!bytes.Contains(file, []byte("51.4779")) {
			t.Errorf("orientation %d: metadata is kept", orientation)
		}
	}
}

// TestRefused: what is not a picture, or too much of one, is refused with its reason.
// deepPNG is the beginning of a picture with two bytes a channel.
func deepPNG(t *testing.T, width, height uint32) []byte {
	t.Helper()
	var out bytes.Buffer
	if err := png.Encode(&out, image.NewNRGBA64(image.Rect(0, 0, 1, 1))); err != nil {
		t.Fatal(err)
	}
	file := out.Bytes()
	binary.BigEndian.PutUint32(file[16:], width)
	binary.BigEndian.PutUint32(file[20:], height)
	binary.BigEndian.PutUint32(file[29:], crc32.ChecksumIEEE(file[12:29]))
	return file
}

// sized is a JPEG whose frame header says another size and kind.
func sized(file []byte, kind byte, width, height uint16) []byte {
	out := bytes.Clone(file)
	at := bytes.Index(out, []byte{0xff, 0xc0})
	out[at+1] = kind
	binary.BigEndian.PutUint16(out[at+5:], height)
	binary.BigEndian.PutUint16(out[at+7:], width)
	return out
}

func TestRefused(t *testing.T) {
	good := jpegOf(t, corner())
	var tooMany bytes.Buffer
	if err := png.Encode(&tooMany, image.NewGray(image.Rect(0, 0, 9000, 6000))); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		file []byte
		says string
	}{
		"empty":          {nil, "empty"},
		"text":           {[]byte("hello, I am a photo.jpg"), "not a picture (text/plain)"},
		"page":           {[]byte("<!doctype html><script>alert(1)</script>"), "not a picture (text/html)"},
		"svg":            {[]byte(`<?xml version="1.0"?><svg xmlns="http://www.w3.org/2000/svg"/>`), "SVG"},
		"heic":           {[]byte("\x00\x00\x00\x18ftypheic\x00\x00\x00\x00mif1heic"), "JPEG or PNG"},
		"webp":           {[]byte("RIFF\x24\x00\x00\x00WEBPVP8 \x18\x00\x00\x00"), "WEBP cannot be read"},
		"cut off":        {good[:len(good)-20], "damaged or cut off"},
		"claims only":    {[]byte("\xff\xd8\xff\xe0 and then nothing of a picture"), "damaged"},
		"54 megapixels":  {tooMany.Bytes(), "9000 × 6000 = 54.0 megapixels; at most 50"},
		"deep":           {deepPNG(t, 6000, 5000), "takes 228 MB to open"},
		"in passes":      {sized(good, 0xc2, 7000, 5000), "MB to open; at most 160"},
		"more than fits": {make([]byte, MaxBytes+1), "larger than 24 MB"},
	} {
		_, err := Read(t.Context(), c.file)
		var refused Refused
		if !errors.As(err, &refused) || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// TestSizes: a large picture is scaled down, a small one keeps its size, and a GIF
// with a hole stands on white.
func TestSizes(t *testing.T) {
	big, err := Read(t.Context(), jpegOf(t, image.NewGray(image.Rect(0, 0, 4000, 1000))))
	if err != nil || big.Width != LongEdge || big.Height != LongEdge/4 {
		t.Errorf("%d × %d, %v", big.Width, big.Height, err)
	}
	thumb, err := jpeg.DecodeConfig(bytes.NewReader(big.Thumb))
	if err != nil || thumb.Width != ThumbEdge {
		t.Errorf("thumb of %d, %v", thumb.Width, err)
	}
	var hole bytes.Buffer
	if err := gif.Encode(&hole, image.NewPaletted(image.Rect(0, 0, 9, 9),
		color.Palette{color.Transparent, color.Black}), nil); err != nil {
		t.Fatal(err)
	}
	small, err := Read(t.Context(), hole.Bytes())
	if err != nil || small.Width != 9 {
		t.Fatalf("%d, %v", small.Width, err)
	}
	img, err := jpeg.Decode(bytes.NewReader(small.Full))
	if err != nil {
		t.Fatal(err)
	}
	if r, _, _, _ := img.At(4, 4).RGBA(); r < 0xf000 {
		t.Error("the hole is not white")
	}
	decoding <- struct{}{}
	ctx, stop := context.WithCancel(t.Context())
	stop()
	if _, err := Read(ctx, hole.Bytes()); !errors.Is(err, context.Canceled) {
		t.Errorf("two at a time: %v", err)
	}
	<-decoding
}
