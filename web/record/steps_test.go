package record

import (
	"strings"
	"testing"
)

// TestMovedStep: the ends stay the ends.
func TestMovedStep(t *testing.T) {
	for _, c := range []struct {
		id   string
		up   bool
		want string
	}{{"a", true, "abc"}, {"a", false, "bac"}, {"b", true, "bac"}, {"b", false, "acb"}, {"c", false, "abc"},
		{"c", true, "acb"}, {"x", true, "abc"}} {
		if got := strings.Join(movedStep([]string{"a", "b", "c"}, c.id, c.up), ""); got != c.want {
			t.Errorf("%s up %v: %s", c.id, c.up, got)
		}
	}
}
