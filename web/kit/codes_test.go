package kit

import (
	"strings"
	"testing"
)

// TestBars: the code's bars are as wide as Code 128 makes them, between quiet zones.
func TestBars(t *testing.T) {
	path, width, err := Bars("YB-0012")
	if err != nil {
		t.Fatal(err)
	}
	// Start, seven signs or fewer, check sum, stop of 13 modules: eleven modules each.
	if modules := width - 2*quiet; (modules-13)%11 != 0 || modules < 5*11+13 || modules > 10*11+13 {
		t.Errorf("%d modules", modules)
	}
	if !strings.HasPrefix(path, "M10 0h2") {
		t.Errorf("it begins with %.20s", path)
	}
	if _, _, err := Bars("ÿ"); err == nil {
		t.Error("a sign that the code does not have is drawn")
	}
}
