package browser

import (
	"bytes"
	"compress/zlib"
	"io"
	"math"
	"strconv"
	"strings"
	"testing"
)

// box is a rectangle or line in a PDF, in millimetres of paper.
type box struct{ w, h float64 }

// drawn reads the straight lines and rectangles of a PDF's pages, with the matrices that
// they are drawn under: what a ruler on the paper would measure.
func drawn(t *testing.T, pdf []byte) []box {
	t.Helper()
	var out []box
	for rest := pdf; ; {
		start := bytes.Index(rest, []byte("stream"))
		if start < 0 {
			return out
		}
		body := bytes.TrimLeft(rest[start+len("stream"):], "\r\n")
		end := bytes.Index(body, []byte("endstream"))
		if end < 0 {
			return out
		}
		if z, err := zlib.NewReader(bytes.NewReader(body[:end])); err == nil {
			content, _ := io.ReadAll(z)
			if bytes.Contains(content, []byte(" cm")) {
				out = append(out, shapes(string(content))...)
			}
		}
		rest = body[end+len("endstream"):]
	}
}

// shapes runs the path operators of a content stream.
func shapes(content string) []box {
	type matrix [6]float64
	times := func(a, b matrix) matrix {
		return matrix{a[0]*b[0] + a[1]*b[2], a[0]*b[1] + a[1]*b[3], a[2]*b[0] + a[3]*b[2], a[2]*b[1] + a[3]*b[3],
			a[4]*b[0] + a[5]*b[2] + b[4], a[4]*b[1] + a[5]*b[3] + b[5]}
	}
	const mm = 25.4 / 72
	now := matrix{1, 0, 0, 1, 0, 0}
	var stack []matrix
	var args []float64
	var out []box
	var x, y float64
	size := func(dx, dy float64) box {
		return box{math.Abs(dx*now[0]+dy*now[2]) * mm, math.Abs(dx*now[1]+dy*now[3]) * mm}
	}
	for _, word := range strings.Fields(content) {
		if n, err := strconv.ParseFloat(word, 64); err == nil {
			args = append(args, n)
			continue
		}
		k := len(args)
		switch {
		case word == "q":
			stack = append(stack, now)
		case word == "Q" && len(stack) > 0:
			now, stack = stack[len(stack)-1], stack[:len(stack)-1]
		case word == "cm" && k >= 6:
			now = times(matrix(args[k-6:]), now)
		case word == "m" && k >= 2:
			x, y = args[k-2], args[k-1]
		case word == "l" && k >= 2:
			out = append(out, size(args[k-2]-x, args[k-1]-y))
			x, y = args[k-2], args[k-1]
		case word == "re" && k >= 4:
			out = append(out, size(args[k-2], args[k-1]))
		}
		args = args[:0]
	}
	return out
}

func count(all []box, w, h float64) int {
	n := 0
	for _, b := range all {
		if math.Abs(b.w-w) < 0.12 && math.Abs(b.h-h) < 0.12 {
			n++
		}
	}
	return n
}

// TestMat prints the screw mat and measures it: 50 mm is 50 mm, screws have their true
// length at any scale, and one sheet or the stated number of them comes out.
func TestMat(t *testing.T) {
	b := open(t, application(t, true))
	for query, want := range map[string]struct{ sheets, checks, long int }{
		"": {1, 1, 9}, "?paper=letter": {1, 1, 9}, "?scale=1": {5, 5, 11}, "?t=m2a": {1, 1, 9},
	} {
		b.visit("/models/marrowby-osier-14/mat" + query)
		pdf := b.pdf()
		if n := len(sheets.FindAll(pdf, -1)); n != want.sheets {
			t.Errorf("%q takes %d sheets", query, n)
		}
		all := drawn(t, pdf)
		if n := count(all, 50, 0); n != want.checks {
			t.Errorf("%q: %d lines of 50 mm", query, n)
		}
		// Eight loose screws of 6 mm in the drawing (some on two sheets), one in the list.
		if n := count(all, 1.8, 6); n < want.long {
			t.Errorf("%q: %d screws of 6 mm", query, n)
		}
	}
	b.visit("/models/marrowby-osier-14/mat")
	b.checked()
	has(t, b.text(), "3 : 4", "all 31 screws", "8 × PH0", "A in a hole of B, C, G, H:", "too long, can press through.")
	b.visit("/models/marrowby-osier-14/mat?t=m2a")
	has(t, b.text(), "14 screws for m2a")
	if strings.Contains(b.text(), "PH1") {
		t.Error("the mat of a job shows screws that it does not turn")
	}
}

// TestSteps: places share an opening, steps are put in another order by keys, and a new
// record starts with the usual steps.
func TestSteps(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/models/marrowby-osier-14/steps")
	b.checked()
	for _, name := range []string{"m2a", "dimm1"} {
		b.tabTo(`input[value="` + name + `"]`)
		b.keys(" ")
	}
	b.tabTo(`form[method="get"] button`)
	b.follow(`document.querySelector('.opening') !== null`)
	has(t, b.text(), "22.1 min down, the work and back; 1 bit change, 1 flip", "Tray: 8 × cover-long-screw",
		"at ram-shield", "loosen 3 2 4 1 (the printed order reversed: it unloads evenly)")
	b.checked()
	b.tabTo(`tr[data-step="caddy"]`)
	b.arrow("ArrowUp", alt)
	b.tabTo(`[data-keep]`)
	b.follow(`document.querySelectorAll('[data-step]')[4].dataset.step === 'caddy'`)
	b.tabTo(`button[value="caddy down"]`)
	b.follow(`document.querySelectorAll('[data-step]')[5].dataset.step === 'caddy'`)
	b.quiet()
}
