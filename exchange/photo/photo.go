// Package photo takes in pictures from outside. Nothing of an uploaded file is kept
// but what is seen on it: it is recognised by its content, decoded, turned upright
// and written anew, so that neither its metadata (a place, a camera's serial
// number) nor anything hidden behind the picture stays.
package photo

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	_ "image/gif" // decoded, never written
	"image/jpeg"
	_ "image/png"
	"net/http"
	"strings"

	"github.com/bep/imagemeta"
	"golang.org/x/image/draw"
)

const (
	// MaxBytes is the largest file that is looked at.
	MaxBytes = 24 << 20
	// MaxPixels is the largest picture that is decoded, maxDecoded how many bytes one may take meanwhile.
	MaxPixels  = 50_000_000
	maxDecoded = 160 << 20
	// LongEdge and ThumbEdge are the longer edges of what is kept, in pixels; a
	// smaller picture keeps its size.
	LongEdge  = 2000
	ThumbEdge = 360
	quality   = 84
)

// Photo is a picture as it is kept: two JPEG files.
type Photo struct {
	Full, Thumb   []byte
	Width, Height int // of Full
}

// Refused is why a file is not taken, in words for the one who sent it.
type Refused string

func (r Refused) Error() string { return string(r) }

// decoding lets one picture be decoded at a time: each may take hundreds of
// megabytes while it is open.
var decoding = make(chan struct{}, 1)

// Read turns a file into a photo. The error is Refused for a file that cannot be
// taken, the context's when it ended while another picture was being decoded.
func Read(ctx context.Context, file []byte) (Photo, error) {
	if len(file) > MaxBytes {
		return Photo{}, Refused(fmt.Sprintf("the file is larger than %d MB", MaxBytes>>20))
	}
	size, format, err := image.DecodeConfig(bytes.NewReader(file))
	if err != nil {
		return Photo{}, notAPicture(file)
	}
	if size.Width < 1 || size.Height < 1 {
		return Photo{}, Refused("the picture has no size")
	}
	if pixels := int64(size.Width) * int64(size.Height); pixels > MaxPixels {
		return Photo{}, Refused(fmt.Sprintf("the picture has %d × %d = %.1f megapixels; at most %d are taken",
			size.Width, size.Height, float64(pixels)/1e6, MaxPixels/1_000_000))
	}
	if need := int64(size.Width) * int64(size.Height) * perPixel(size.ColorModel, file, format); need > maxDecoded {
		return Photo{}, Refused(fmt.Sprintf("the picture has %d × %d pixels of a kind that takes %d MB to open; at "+
			"most %d are "+
			"given to it: save it smaller, or as a plain JPEG", size.Width, size.Height, need>>20, maxDecoded>>20))
	}
	select {
	case decoding <- struct{}{}:
		defer func() { <-decoding }()
	case <-ctx.Done():
		return Photo{}, ctx.Err()
	}
	img, _, err := image.Decode(bytes.NewReader(file))
	if err != nil {
		return Photo{}, Refused("the " + strings.ToUpper(format) + " picture is damaged or cut off")
	}
	upright := turn(shrink(img, LongEdge), orientation(file, format))
	out := Photo{Width: upright.Bounds().Dx(), Height: upright.Bounds().Dy()}
	if out.Full, err = encode(upright); err != nil {
		return Photo{}, err
	}
	out.Thumb, err = encode(shrink(upright, ThumbEdge))
	return out, err
}

// perPixel is how many bytes a pixel takes at most while a picture is decoded: two a channel in deep
// ones; in a JPEG that comes in several passes the coefficients of all passes are held too.
func perPixel(model color.Model, file []byte, format string) int64 {
	switch {
	case format == "jpeg":
		return jpegBytes(file)
	case model == color.RGBA64Model || model == color.NRGBA64Model:
		return 8
	case model == color.RGBAModel || model == color.NRGBAModel:
		return 4
	}
	return 2
}

// jpegBytes is how many bytes a pixel of a JPEG takes, rounded up, from its frame header: a byte for
// each sample, and four more for the coefficients where it comes in several passes.
func jpegBytes(file []byte) int64 {
	const most = 4 * 5
	for i := 2; i+4 <= len(file) && file[i] == 0xff; {
		marker := file[i+1]
		if marker == 0xff { // filling
			i++
			continue
		}
		length := int(file[i+2])<<8 + int(file[i+3])
		if marker < 0xc0 || marker > 0xcf || marker == 0xc4 || marker == 0xc8 || marker == 0xcc {
			i += 2 + length
			continue
		}
		frame := file[i+4 : min(len(file), i+2+length)]
		if len(frame) < 6 || len(frame) < 6+3*int(frame[5]) {
			return most
		}
		samples, largest := 0, 1
		for k := range int(frame[5]) {
			sampling := frame[6+3*k+1]
			samples += int(sampling>>4) * int(sampling&15)
			largest = max(largest, int(sampling>>4)*int(sampling&15))
		}
		each := 1
		if marker == 0xc2 {
			each = 5
		}
		return int64((samples*each + largest - 1) / largest)
	}
	return most
}

// notAPicture says what a file is instead, as far as its content tells.
func notAPicture(file []byte) error {
	kind, _, _ := strings.Cut(http.DetectContentType(file), ";")
	head := strings.ToLower(string(file[:min(len(file), 512)]))
	switch {
	case len(file) == 0:
		return Refused("the file is empty")
	case strings.Contains(head, "<svg"):
		return Refused("an SVG file is a drawing that can carry scripts, not a photo; JPEG, PNG and GIF are taken")
	case len(file) > 12 && string(file[4:8]) == "ftyp":
		return Refused("the file is of a kind that cannot be read here (HEIC or a film); set the camera to JPEG, or " +
			"send it as JPEG or PNG")
	case kind == "image/jpeg" || kind == "image/png" || kind == "image/gif":
		return Refused("the picture is damaged: its beginning cannot be read")
	case strings.HasPrefix(kind, "image/"):
		return Refused(strings.ToUpper(strings.TrimPrefix(kind, "image/")) +
			" cannot be read here; JPEG, PNG and GIF are taken")
	}
	return Refused("its content is not a picture (" + kind + "), whatever its name says; JPEG, PNG and GIF are taken")
}

// shrink scales a picture down so that its longer edge is at most that long, on
// white where it lets through.
func shrink(img image.Image, edge int) *image.RGBA {
	b := img.Bounds()
	w, h := b.Dx(), b.Dy()
	if long := max(w, h); long > edge {
		w, h = max(1, w*edge/long), max(1, h*edge/long)
	}
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(out, out.Bounds(), image.NewUniform(color.White), image.Point{}, draw.Src)
	if w == b.Dx() && h == b.Dy() {
		draw.Draw(out, out.Bounds(), img, b.Min, draw.Over)
		return out
	}
	draw.ApproxBiLinear.Scale(out, out.Bounds(), img, b, draw.Over, nil)
	return out
}

func encode(img image.Image) ([]byte, error) {
	var buf bytes.Buffer
	err := jpeg.Encode(&buf, img, &jpeg.Options{Quality: quality})
	return buf.Bytes(), err
}

// orientation is the camera's note on how the picture must be turned, 1 to 8 as Exif
// has it; 1, upright, where there is none or it cannot be read.
func orientation(file []byte, format string) int {
	found := 1
	kind, ok := map[string]imagemeta.ImageFormat{"jpeg": imagemeta.JPEG, "png": imagemeta.PNG}[format]
	if !ok {
		return 1
	}
	_, err := imagemeta.Decode(imagemeta.Options{
		R: bytes.NewReader(file), ImageFormat: kind, Sources: imagemeta.EXIF, LimitNumTags: 500,
		ShouldHandleTag: func(tag imagemeta.TagInfo) bool { return tag.Tag == "Orientation" },
		HandleTag: func(tag imagemeta.TagInfo) error {
			if n, ok := tag.Value.(uint16); ok && n >= 1 && n <= 8 {
				found = int(n)
			}
			return imagemeta.ErrStopWalking
		},
	})
	if err != nil && !errors.Is(err, imagemeta.ErrStopWalking) {
		return 1
	}
	return found
}

// turn sets a picture upright by its Exif orientation.
func turn(img *image.RGBA, orientation int) *image.RGBA {
	if orientation == 1 {
		return img
	}
	w, h := img.Bounds().Dx(), img.Bounds().Dy()
	outW, outH := w, h
	if orientation >= 5 {
		outW, outH = h, w
	}
	out := image.NewRGBA(image.Rect(0, 0, outW, outH))
	for y := range outH {
		for x := range outW {
			sx, sy := x, y
			switch orientation {
			case 2: // mirrored
				sx = w - 1 - x
			case 3: // upside down
				sx, sy = w-1-x, h-1-y
			case 4: // mirrored, upside down
				sy = h - 1 - y
			case 5: // mirrored, lying on its left side
				sx, sy = y, x
			case 6: // lying on its left side
				sx, sy = y, h-1-x
			case 7: // mirrored, lying on its right side
				sx, sy = w-1-y, h-1-x
			case 8: // lying on its right side
				sx, sy = w-1-y, x
			}
			out.SetRGBA(x, y, img.RGBAAt(sx, sy))
		}
	}
	return out
}
