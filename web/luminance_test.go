package web_test

import (
	"math"
	"strconv"
	"testing"
)

// luminance is the relative luminance of a colour in sRGB (WCAG 2.2).
func luminance(t *testing.T, hex string) float64 {
	t.Helper()
	sum := 0.0
	for i, weight := range []float64{0.2126, 0.7152, 0.0722} {
		n, err := strconv.ParseUint(hex[2*i:2*i+2], 16, 8)
		if err != nil {
			t.Fatal(err)
		}
		c := float64(n) / 255
		if c <= 0.04045 {
			c /= 12.92
		} else {
			c = math.Pow((c+0.055)/1.055, 2.4)
		}
		sum += weight * c
	}
	return sum
}
