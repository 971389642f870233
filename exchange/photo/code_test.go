package photo

import (
	"bytes"
	"errors"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"testing"

	"github.com/boombuler/barcode"
	"github.com/boombuler/barcode/code128"
	"github.com/boombuler/barcode/qr"
)

// TestCode: what a label shows is read from a picture of it, upright or on its side; a picture without one has none, and what is
// no picture is refused.
func TestCode(t *testing.T) {
	bars, err := code128.Encode("YB-0042")
	if err != nil {
		t.Fatal(err)
	}
	square, err := qr.Encode("QT14-0042", qr.M, qr.Auto)
	if err != nil {
		t.Fatal(err)
	}
	for name, x := range map[string]struct {
		code barcode.Barcode
		w, h int
		turn bool
		want string
	}{
		"bars": {bars, 600, 120, false, "YB-0042"}, "bars on their side": {bars, 600, 120, true, "YB-0042"},
		"a QR code": {square, 400, 400, false, "QT14-0042"},
	} {
		scaled, err := barcode.Scale(x.code, x.w, x.h)
		if err != nil {
			t.Fatal(err)
		}
		got, err := Code(t.Context(), pictureOf(t, scaled, x.turn))
		if err != nil || got != x.want {
			t.Errorf("%s: %q, %v; want %q", name, got, err, x.want)
		}
	}
	if got, err := Code(t.Context(), pictureOf(t, nil, false)); err != nil || got != "" {
		t.Errorf("a bare wall: %q, %v", got, err)
	}
	var refused Refused
	if _, err := Code(t.Context(), []byte("no picture")); !errors.As(err, &refused) {
		t.Errorf("no picture: %v", err)
	}
}

// pictureOf is a photograph of a code on a grey bench.
func pictureOf(t *testing.T, code image.Image, turned bool) []byte {
	t.Helper()
	img := image.NewGray(image.Rect(0, 0, 1200, 900))
	draw.Draw(img, img.Bounds(), image.NewUniform(color.Gray{200}), image.Point{}, draw.Src)
	if code != nil {
		draw.Draw(img, image.Rect(200, 180, 900, 760), image.White, image.Point{}, draw.Src)
		draw.Draw(img, code.Bounds().Add(image.Pt(250, 280)), code, image.Point{}, draw.Src)
	}
	out := image.Image(img)
	if turned {
		side := image.NewGray(image.Rect(0, 0, 900, 1200))
		for y := range 900 {
			for x := range 1200 {
				side.SetGray(899-y, x, img.GrayAt(x, y))
			}
		}
		out = side
	}
	var b bytes.Buffer
	if err := png.Encode(&b, out); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}
