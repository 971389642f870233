package power

import (
	"math/big"
	"testing"

	"yembo/core/hw"
)

func known(tenths int) hw.Maybe[hw.Dec] { return hw.Known(hw.DecOf(tenths) / 10) }

// TestRuntime: measured runtime × (its Wh ÷ the present full Wh); without a
// measurement 0.95 × Wh ÷ mean draw (handbook 5).
func TestRuntime(t *testing.T) {
	none := hw.Maybe[hw.Dec]{}
	for name, c := range map[string]struct {
		usage          hw.Usage
		present, fresh hw.Maybe[hw.Dec]
		want           string
	}{
		"measured":            {hw.Usage{RuntimeH: known(44)}, known(392), known(525), "5.9"},
		"by draw":             {hw.Usage{DrawW: known(84)}, none, known(525), "5.9"},
		"cannot be scaled":    {hw.Usage{RuntimeH: known(44), DrawW: known(84)}, none, known(525), "5.9"},
		"nothing to go by":    {hw.Usage{}, known(392), known(525), ""},
		"energy not known":    {hw.Usage{RuntimeH: known(44), DrawW: known(84)}, known(392), none, ""},
		"measured goes first": {hw.Usage{RuntimeH: known(44), DrawW: known(10)}, known(392), known(392), "4.4"},
	} {
		got := ""
		if r := RuntimeWith(&c.usage, c.present, c.fresh); r != nil {
			got = hw.RatTenths(r).String()
		}
		if got != c.want {
			t.Errorf("%s: %q h, want %q", name, got, c.want)
		}
	}
	if h, ok := Health(known(392), known(525)); !ok || h.Cmp(big.NewRat(392, 525)) != 0 || !Tired(h) || Worn(h) {
		t.Errorf("39.2 of 52.5 Wh: %v", h)
	}
	if h, _ := Health(known(30), known(50)); Worn(h) {
		t.Error("exactly 0.6 is not below 0.6")
	}
}

func TestFit(t *testing.T) {
	ch := &hw.Chassis{BatteryReach: "plug", Batteries: []hw.Battery{
		{ID: "small", NominalV: known(114), Series: hw.Known(3), PartNumbers: []string{"N1"}},
		{ID: "large", NominalV: known(152), Series: hw.Known(4), PartNumbers: []string{"N2"}}}}
	pack := func(number string, tenths, series int) *hw.Pack {
		return &hw.Pack{PartNumber: number, NominalV: known(tenths), Series: hw.Known(series)}
	}
	for name, c := range map[string]struct {
		pack     *hw.Pack
		unlisted bool
		want     string
	}{
		"listed":                      {pack("N1", 114, 3), false, ""},
		"five per cent off":           {pack("N1", 108, 3), false, CodeVoltage},
		"near the other pack":         {pack("N1", 154, 3), false, ""},
		"another series":              {pack("N1", 114, 4), false, CodeVoltage},
		"on no list":                  {pack("X", 114, 3), false, CodeNotListed},
		"on no list, allowed":         {pack("X", 114, 3), true, ""},
		"allowed, but the volts":      {pack("X", 74, 2), true, CodeVoltage},
		"volts not known":             {&hw.Pack{PartNumber: "N1"}, false, "unknown"},
		"exactly five per cent below": {&hw.Pack{PartNumber: "N2", NominalV: hw.Known(hw.Dec(14_440_000)), Series: hw.Known(4)}, false, ""},
		"just over five per cent":     {&hw.Pack{PartNumber: "N2", NominalV: hw.Known(hw.Dec(14_430_000)), Series: hw.Known(4)}, false, CodeVoltage},
	} {
		if v := Fit(ch, c.pack, 0, c.unlisted); v.Code != c.want {
			t.Errorf("%s: %s (%s)", name, v.Code, v.Text)
		}
	}
	if v := Fit(&hw.Chassis{}, pack("N1", 114, 3), 0, false); v.Code != "unknown" || v.Fact != "chassis:/batteries" {
		t.Errorf("packs that nobody recorded: %+v", v)
	}
}
