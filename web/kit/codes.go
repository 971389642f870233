package kit

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"github.com/boombuler/barcode/code128"
	"github.com/labstack/echo/v5"
)

// foundWords are what a code that was scanned or typed turned out to be, by their words in the address
// of the page that it led to.
var foundWords = map[string]string{
	"label":   "a job's label",
	"quote":   "a quote",
	"invoice": "an invoice",
	"machine": "a machine",
	"serial":  "the serial of a machine",
	"piece":   "the serial of a piece",
	"part":    "a part",
}

// maxCode is how much of a code a page says again.
const maxCode = 60

// foundBy says what the code was that led to a page, "" for a page that none led to.
func foundBy(c *echo.Context) string {
	words, code := foundWords[c.QueryParam("found")], c.QueryParam("code")
	if words == "" || code == "" || utf8.RuneCountInString(code) > maxCode {
		return ""
	}
	return fmt.Sprintf("“%s” is %s.", code, words)
}

// quiet is how many modules stay white on either side of a code.
const quiet = 10

// Bars draws a text as Code 128, one unit a module, in one path.
func Bars(text string) (path string, width int, err error) {
	code, err := code128.Encode(text)
	if err != nil {
		return "", 0, err
	}
	n := code.Bounds().Dx()
	var b strings.Builder
	for x := 0; x < n; {
		run := x
		for run < n && isBar(code.At(run, 0).RGBA()) {
			run++
		}
		if run == x {
			x++
			continue
		}
		fmt.Fprintf(&b, "M%d 0h%dv30h-%dz", quiet+x, run-x, run-x)
		x = run
	}
	return b.String(), n + 2*quiet, nil
}

func isBar(r, _, _, _ uint32) bool { return r == 0 }
