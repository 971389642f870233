package wireless

import (
	"testing"

	"yembo/core/hw"
	"yembo/core/storage"
)

func TestFit(t *testing.T) {
	full := hw.Slot{ID: "wl", Purpose: "wireless", Key: hw.Known("E"), Protocols: []string{"pcie", "cnvi"}, Lengths: map[string]string{"30": "fitted", "42": "none"},
		Antennas: []string{"black", "white"}, Reach: "plug"}
	good := hw.Card{Key: hw.Known("A+E"), Length: hw.Known(30), Interface: "pcie", Standard: "wifi6", Antennas: hw.Known(2)}
	for name, c := range map[string]struct {
		change     func(s *hw.Slot, c *hw.Card)
		want, fact string
	}{
		"fits":                    {func(*hw.Slot, *hw.Card) {}, "", ""},
		"fewer posts":             {func(_ *hw.Slot, c *hw.Card) { c.Antennas = hw.Known(1) }, "", ""},
		"drive slot":              {func(s *hw.Slot, _ *hw.Card) { s.Purpose = "storage" }, storage.CodePurpose, ""},
		"key":                     {func(_ *hw.Slot, c *hw.Card) { c.Key = hw.Known("A") }, storage.CodeKey, ""},
		"length":                  {func(_ *hw.Slot, c *hw.Card) { c.Length = hw.Known(26) }, storage.CodeLength, ""},
		"nothing holds it":        {func(_ *hw.Slot, c *hw.Card) { c.Length = hw.Known(42) }, storage.CodeLength, ""},
		"chipset's own interface": {func(_ *hw.Slot, c *hw.Card) { c.Interface = "cnvi2" }, storage.CodeProtocol, ""},
		"three posts":             {func(_ *hw.Slot, c *hw.Card) { c.Antennas = hw.Known(3) }, CodeAntennas, ""},
		"firmware's list":         {func(s *hw.Slot, c *hw.Card) { s.AcceptsOnly, c.PartNumber = []string{"H1"}, "H2" }, CodeFirmwareList, ""},
		"on the firmware's list":  {func(s *hw.Slot, c *hw.Card) { s.AcceptsOnly, c.PartNumber = []string{"H1"}, "H1" }, "", ""},
		"key not known":           {func(s *hw.Slot, _ *hw.Card) { s.Key = hw.Maybe[string]{} }, "unknown", "chassis:/slots/0/key"},
		"lengths not known":       {func(s *hw.Slot, _ *hw.Card) { s.Lengths = nil }, "unknown", "chassis:/slots/0/lengths"},
		"interfaces not known":    {func(s *hw.Slot, _ *hw.Card) { s.Protocols = nil }, "unknown", "chassis:/slots/0/protocols"},
		"antennas not known":      {func(s *hw.Slot, _ *hw.Card) { s.Antennas = nil }, "unknown", "chassis:/slots/0/antennas"},
		"card's key not known":    {func(_ *hw.Slot, c *hw.Card) { c.Key = hw.Maybe[string]{} }, "unknown", "parts:/parts/5/wireless/key"},
		"posts not known":         {func(_ *hw.Slot, c *hw.Card) { c.Antennas = hw.Maybe[int]{} }, "unknown", "parts:/parts/5/wireless/antennas"},
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
	for i := 1; i < len(Standards); i++ {
		if Rank(Standards[i-1]) >= Rank(Standards[i]) {
			t.Errorf("%s does not come before %s", Standards[i-1], Standards[i])
		}
	}
	if Rank("") != 0 || Rank("wifi4") <= Rank("") {
		t.Error("none does not come first")
	}
	if Effective(Rank("wifi6e"), hw.Known("wifi6")) != Rank("wifi6") || Effective(Rank("wifi5"), hw.Known("wifi7")) != Rank("wifi5") || Effective(Rank("wifi7"), hw.Maybe[string]{}) != Rank("wifi7") {
		t.Error("of use is not the lower of both")
	}
}
