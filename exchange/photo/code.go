package photo

import (
	"bytes"
	"context"
	"image/jpeg"
	"strings"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/datamatrix"
	"github.com/makiuchi-d/gozxing/oned"
	"github.com/makiuchi-d/gozxing/qrcode"
)

// codeEdge is the longer edge at which a picture is searched after it was not found whole: a code that fills it is read better
// smaller.
const codeEdge = 900

// Code reads the code that a picture shows: a QR or a Data Matrix code, or bars as on job labels and parts; "" where none is
// found. The error is Refused for what is no picture, as of Read.
func Code(ctx context.Context, file []byte) (string, error) {
	p, err := Read(ctx, file)
	if err != nil {
		return "", err
	}
	img, err := jpeg.Decode(bytes.NewReader(p.Full))
	if err != nil {
		return "", err
	}
	readers := []gozxing.Reader{oned.NewCode128Reader(), qrcode.NewQRCodeReader(), datamatrix.NewDataMatrixReader(),
		oned.NewMultiFormatUPCEANReader(nil), oned.NewCode39Reader()}
	hints := map[gozxing.DecodeHintType]any{gozxing.DecodeHintType_TRY_HARDER: true}
	small := shrink(img, codeEdge)
	for _, source := range []gozxing.LuminanceSource{gozxing.NewLuminanceSourceFromImage(img),
		gozxing.NewLuminanceSourceFromImage(small)} {
		bitmap, err := gozxing.NewBinaryBitmap(gozxing.NewHybridBinarizer(source))
		if err != nil {
			return "", err
		}
		for _, r := range readers {
			if ctx.Err() != nil {
				return "", ctx.Err()
			}
			found, err := r.Decode(bitmap, hints)
			r.Reset()
			if err == nil && strings.TrimSpace(found.GetText()) != "" {
				return strings.TrimSpace(found.GetText()), nil
			}
		}
	}
	return "", nil
}
