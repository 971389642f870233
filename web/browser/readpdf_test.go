package browser

import (
	"bytes"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/ledongthuc/pdf"
)

// printedText is what can be read on each sheet of a printed page.
func printedText(t *testing.T, raw []byte) []string {
	t.Helper()
	r, err := pdf.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for i := range r.NumPage() {
		text, err := r.Page(i + 1).GetPlainText(nil)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, strings.Join(strings.Fields(text), " "))
	}
	return out
}

var amountText = regexp.MustCompile(`−?[0-9]+\.[0-9]{2}`)

// printedAmounts are the amounts that stand in the columns of a sheet, in cents, from above. They are set
// in a face that the reader knows; words in the other are not compared.
func printedAmounts(sheet string) []int {
	var out []int
	for _, text := range amountText.FindAllString(sheet, -1) {
		n, _ := strconv.Atoi(strings.NewReplacer(".", "", "−", "-").Replace(text))
		out = append(out, n)
	}
	return out
}
