package shorthand

import (
	"encoding/json"
	"strings"
	"testing"

	"yembo/core/hw"
)

// TestParsePart: a label, a price list's words or what a technician types become the part they mean.
func TestParsePart(t *testing.T) {
	for _, c := range casesOf(t, "parts.txt") {
		text, want := c.text, c.want
		l := ParsePart(text, "EUR")
		doc, err := json.Marshal(l.Part)
		if err != nil {
			t.Fatal(err)
		}
		if got := string(doc) + " " + hw.DecOf(l.Pieces.Or(0)).String(); got != want || l.Faults() != nil {
			t.Errorf("%s\n%s, not\n%s\n%v", text, got, want, l.Faults())
		}
	}
	for text, says := range map[string]string{"16GB 38.90 USD": "column 6: USD is another currency",
		"16GB 1.234 EUR":    "two ways",
		"cable 14 79 there": "may be a price or a part of the name",
		"4pcs 5pcs":         "column 6: how many is said twice", "wifi9": "", `"a" b "c`: "a quote is opened",
		"kind:cheese":  "no such kind",
		"m2-2299 nvme": "cannot be read", `"name" nvm`: "did you mean nvme",
		strings.Repeat("x", 600): "more than 500"} {
		var said []string
		for _, f := range ParsePart(text, "EUR").Faults() {
			said = append(said, f.Error())
		}
		if got := strings.Join(said, "; "); !strings.Contains(got, says) {
			t.Errorf("%s: %q, not %q", text, got, says)
		}
	}
}

// FuzzParsePart: no line breaks it, each word has its place, and what was read can be written.
func FuzzParsePart(f *testing.F) {
	for _, line := range []string{"16GB 2Rx8 PC4-3200AA-SE1-11", "1 TB NVMe 2280 g4x4 €79,90",
		`"a" gives:b 4x`, "QB-760 76Wh 4s"} {
		f.Add(line)
	}
	f.Fuzz(func(t *testing.T, line string) {
		l := ParsePart(line, "EUR")
		size := len([]rune(line)) + 1
		for _, w := range l.Words {
			if w.Col < 1 || w.Col > size || w.Len < 0 || w.Col+w.Len > size+1 {
				t.Fatalf("%q: %+v", line, w)
			}
		}
		if _, err := json.Marshal(l.Part); err != nil {
			t.Fatal(err)
		}
	})
}
