package reading

import (
	"os"
	"strings"
	"testing"
)

// TestSnippets reads the smallest reports that show one rule each. testdata/snippets.txt has
// a name, the reports, parted by ---, and the document after ===>.
func TestSnippets(t *testing.T) {
	raw, err := os.ReadFile("testdata/snippets.txt")
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range strings.Split(string(raw), "\n# ")[1:] {
		name, rest, _ := strings.Cut(c, "\n")
		in, want, _ := strings.Cut(rest, "\n===> ")
		var reports [][]byte
		for _, text := range strings.Split(in, "\n---\n") {
			reports = append(reports, []byte(text))
		}
		if got := document(t, reports...); got != strings.TrimSpace(want) {
			t.Errorf("%s:\n%s\nwant\n%s", name, got, want)
		}
	}
}
