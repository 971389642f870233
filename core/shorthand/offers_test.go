package shorthand

import (
	"fmt"
	"strings"
	"testing"

	"yembo/core/hw"
)

// TestOffers: a line's order says what is likely: behind which step a place lies, and that the battery's plug cuts the
// power. What was said is not asked, and each offer can be typed.
func TestOffers(t *testing.T) {
	const way = "power-down\nunclip base cover\nunplug battery\n"
	cut := strings.Replace(way, "battery", "battery iso", 1)
	for text, want := range map[string]string{
		way + "dimm1 sodimm":                              "battery-plug iso; dimm1 >battery-plug",
		way + "dimm1 sodimm >base-cover":                  "battery-plug iso",
		cut + "m2a 2280* nvme\nlift shield\ndimm1 sodimm": "m2a >battery-plug; dimm1 >shield",
		way + "bat:small 52.5Wh":                          "battery-plug iso; battery-reach >battery-plug",
		"dimm1 sodimm":                                    "",
		"unplug fan":                                      "",
		"unplug battery noiso\nconnect fan before:battery-plug\n" +
			"dimm1 sodimm": "dimm1 >battery-plug",
	} {
		before := &hw.Chassis{ID: "c", Kind: hw.Notebook, Maker: "Quillon", Model: "T"}
		lines := Parse(text, before, Source{Name: hw.Bench}, asciiName)
		next, _, err := Apply(before, lines...)
		if err != nil || len(Faults(lines)) > 0 {
			t.Fatalf("%q: %v %v", text, Faults(lines), err)
		}
		var got []string
		for _, o := range Offers(lines, next) {
			got = append(got, o.Line)
			if again := Parse(o.Line, next, Source{Name: hw.Bench}, asciiName); len(Faults(again)) > 0 || o.Says == "" {
				t.Errorf("%q cannot be typed: %v", o.Line, Faults(again))
			}
		}
		if fmt.Sprint(strings.Join(got, "; ")) != want {
			t.Errorf("%q: %v, not %q", text, got, want)
		}
	}
}
