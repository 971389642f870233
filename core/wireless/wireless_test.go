package wireless

import (
	"testing"

	"yembo/core/hw"
)

func TestFit(t *testing.T) {
	full := hw.Slot{ID: "wl", Purpose: "wireless", Key: hw.Known("E"), Protocols: []hw.Interface{"pcie", "cnvi"},
		Lengths:  map[string]string{"30": "fitted", "42": "none"},
		Antennas: []string{"black", "white"}, Reach: "plug"}
	good := hw.Card{Key: hw.Known("A+E"), Length: hw.Known(30), Interface: "pcie", Standard: "wifi6",
		Antennas: hw.Known(2)}
	for name, c := range map[string]struct {
		change func(s *hw.Slot, c *hw.Card)
		want   hw.Code
		fact   string
	}{
		"fits":                    {func(*hw.Slot, *hw.Card) {}, "", ""},
		"fewer posts":             {func(_ *hw.Slot, c *hw.Card) { c.Antennas = hw.Known(1) }, "", ""},
		"drive slot":              {func(s *hw.Slot, _ *hw.Card) { s.Purpose = "storage" }, hw.CodeM2Purpose, ""},
		"key":                     {func(_ *hw.Slot, c *hw.Card) { c.Key = hw.Known("A") }, hw.CodeM2Key, ""},
		"length":                  {func(_ *hw.Slot, c *hw.Card) { c.Length = hw.Known(26) }, hw.CodeM2Length, ""},
		"nothing holds it":        {func(_ *hw.Slot, c *hw.Card) { c.Length = hw.Known(42) }, hw.CodeM2Length, ""},
		"chipset's own interface": {func(_ *hw.Slot, c *hw.Card) { c.Interface = "cnvi2" }, hw.CodeM2Protocol, ""},
		"three posts": {func(_ *hw.Slot, c *hw.Card) { c.Antennas = hw.Known(3) }, hw.CodeWirelessAntennas,
			""},
		"firmware's list": {func(s *hw.Slot, c *hw.Card) { s.AcceptsOnly, c.PartNumber = []string{"H1"}, "H2" },
			hw.CodeWirelessList, ""},
		"on the firmware's list": {func(s *hw.Slot, c *hw.Card) { s.AcceptsOnly, c.PartNumber = []string{"H1"}, "H1" },
			"", ""},
		"key not known": {func(s *hw.Slot, _ *hw.Card) { s.Key = hw.Maybe[string]{} }, "unknown",
			"chassis:/slots/0/key"},
		"lengths not known": {func(s *hw.Slot, _ *hw.Card) { s.Lengths = nil }, "unknown",
			"chassis:/slots/0/lengths"},
		"interfaces not known": {func(s *hw.Slot, _ *hw.Card) { s.Protocols = nil }, "unknown",
			"chassis:/slots/0/protocols"},
		"antennas not known": {func(s *hw.Slot, _ *hw.Card) { s.Antennas = nil }, "unknown",
			"chassis:/slots/0/antennas"},
		"card's key not known": {func(_ *hw.Slot, c *hw.Card) { c.Key = hw.Maybe[string]{} }, "unknown",
			"parts:/parts/5/wireless/key"},
		"posts not known": {func(_ *hw.Slot, c *hw.Card) { c.Antennas = hw.Maybe[int]{} }, "unknown",
			"parts:/parts/5/wireless/antennas"},
	} {
		slot, card := full, good
		c.change(&slot, &card)
		v := Fit(&hw.Chassis{Slots: []hw.Slot{slot}}, 0, &card, 5)
		if v.Code != c.want || v.Fact != c.fact || v.Place != "wl" {
			t.Errorf("%s: %+v", name, v)
		}
		if onChassis := len(c.fact) > 8 && c.fact[:8] == "chassis:"; onChassis != (v.Step == "plug") {
			t.Errorf("%s: the step is %q", name, v.Step)
		}
	}
}

// TestStandards: none < wifi4 < … < wifi7; of use is the lower of card and access
// point, where that is known.
func TestStandards(t *testing.T) {
	for i := 1; i < len(hw.Standards); i++ {
		if Rank(hw.Standards[i-1].Word) >= Rank(hw.Standards[i].Word) {
			t.Errorf("%s does not come before %s", hw.Standards[i-1].Word, hw.Standards[i].Word)
		}
	}
	if Rank("") != 0 || Rank("wifi4") <= Rank("") {
		t.Error("none does not come first")
	}
	if Effective(Rank("wifi6e"), hw.Known[hw.Standard]("wifi6")) != Rank("wifi6") ||
		Effective(Rank("wifi5"), hw.Known[hw.Standard]("wifi7")) != Rank("wifi5") ||
		Effective(Rank("wifi7"), hw.Maybe[hw.Standard]{}) != Rank("wifi7") {
		t.Error("of use is not the lower of both")
	}
}
