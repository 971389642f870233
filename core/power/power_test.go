package power

import (
	"math/big"
	"reflect"
	"slices"
	"testing"

	"yembo/core/hw"
)

func known(tenths int) hw.Maybe[hw.Dec] { return hw.Known(hw.DecOf(tenths) / 10) }

// TestRuntime: measured runtime × (its Wh ÷ the present full Wh); without a
// measurement 0.95 × Wh ÷ mean draw (docs/rules.md, Battery and wireless).
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
	measured := hw.Usage{RuntimeH: known(44), DrawW: known(84)}
	drawn := hw.Usage{DrawW: known(1)}
	for name, c := range map[string]struct {
		got  *big.Rat
		want string
	}{
		"today, as measured":       {Runtime(&measured, known(392)), "4.4"},
		"today, by the draw":       {Runtime(&drawn, known(2)), "1.9"},
		"100 Wh at 1 W":            {RuntimeWith(&hw.Usage{DrawW: known(10)}, none, known(1000)), "95"},
		"an empty pack":            {RuntimeWith(&measured, known(0), known(525)), "5.9"},
		"a pack of less than 1 Wh": {RuntimeWith(&measured, hw.Known(hw.Dec(1)), hw.Known(hw.Dec(2))), "8.8"},
		"no draw at all":           {RuntimeWith(&hw.Usage{DrawW: known(0)}, known(392), known(525)), ""},
	} {
		got := ""
		if c.got != nil {
			got = hw.RatTenths(c.got).String()
		}
		if got != c.want {
			t.Errorf("%s: %q h, want %q", name, got, c.want)
		}
	}
}

// TestHealth: full ÷ design; below 0.8 a pack is tired, below 0.6 worn (docs/rules.md, Battery and wireless).
func TestHealth(t *testing.T) {
	none := hw.Maybe[hw.Dec]{}
	for _, c := range []struct {
		full, design hw.Maybe[hw.Dec]
		want         string
		tired, worn  bool
	}{
		{known(525), known(525), "1/1", false, false},
		{known(400), known(500), "4/5", false, false},
		{hw.Known(hw.DecOf(40) - 1), known(500), "39999999/50000000", true, false},
		{known(300), known(500), "3/5", true, false},
		{hw.Known(hw.DecOf(30) - 1), known(500), "29999999/50000000", true, true},
		{hw.Known(hw.Dec(1)), hw.Known(hw.Dec(1)), "1/1", false, false},
		{none, known(500), "", false, false},
		{known(300), none, "", false, false},
		{known(300), known(0), "", false, false},
	} {
		h, ok := Health(c.full, c.design)
		if ok != (c.want != "") || ok && (h.String() != c.want || Tired(h) != c.tired || Worn(h) != c.worn) {
			t.Errorf("%v of %v Wh: %v %v", c.full, c.design, h, ok)
		}
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
		want     hw.Code
	}{
		"listed":                 {pack("N1", 114, 3), false, ""},
		"five per cent off":      {pack("N1", 108, 3), false, hw.CodeBatteryVoltage},
		"near the other pack":    {pack("N1", 154, 3), false, ""},
		"another series":         {pack("N1", 114, 4), false, hw.CodeBatteryVoltage},
		"on no list":             {pack("X", 114, 3), false, hw.CodeBatteryNotListed},
		"on no list, allowed":    {pack("X", 114, 3), true, ""},
		"allowed, but the volts": {pack("X", 74, 2), true, hw.CodeBatteryVoltage},
		"as recorded":            {&hw.Pack{PartNumber: "N1"}, false, ""},
		"volts not known":        {&hw.Pack{PartNumber: "X"}, true, "unknown"},
		"exactly five per cent below": {&hw.Pack{PartNumber: "N2", NominalV: hw.Known(hw.Dec(14_440_000)),
			Series: hw.Known(4)}, false, ""},
		"just over five per cent": {&hw.Pack{PartNumber: "N2", NominalV: hw.Known(hw.Dec(14_430_000)),
			Series: hw.Known(4)}, false, hw.CodeBatteryVoltage},
	} {
		if v := Fit(ch, c.pack, 0, c.unlisted); v.Code != c.want {
			t.Errorf("%s: %s (%s)", name, v.Code, v.Text)
		}
	}
	if v := Fit(&hw.Chassis{BatteryReach: "plug"}, pack("N1", 114, 3), 0, false); v.Code != "unknown" ||
		v.Fact != "chassis:/batteries" || v.Step != "plug" {
		t.Errorf("packs that nobody recorded: %+v", v)
	}
}

// TestFitNamesWhatIsMissing: a verdict carries its place, its numbers, and for a fact that
// nobody knows its pointer with, for the model, the step that shows it.
func TestFitNamesWhatIsMissing(t *testing.T) {
	full := []hw.Battery{{ID: "a", NominalV: known(114), Series: hw.Known(3), PartNumbers: []string{"N1"}},
		{ID: "b", NominalV: known(152), Series: hw.Known(4), PartNumbers: []string{"N2"}}}
	pack := hw.Pack{PartNumber: "N1", NominalV: known(114), Series: hw.Known(3)}
	for name, c := range map[string]struct {
		packs func(b []hw.Battery) []hw.Battery
		pack  func(p *hw.Pack)
		allow bool
		want  hw.Verdict
	}{
		"volts of both packs": {nil, func(p *hw.Pack) { p.NominalV = known(74) }, false,
			hw.Verdict{Code: hw.CodeBatteryVoltage,
				Text: "7.4 V differs by more than 5 % from every pack of this model (11.4 V, 15.2 V)"}},
		"series": {nil, func(p *hw.Pack) { p.Series = hw.Known(4) }, false,
			hw.Verdict{Code: hw.CodeBatteryVoltage, Text: "4 cells in series; the listed pack a has 3"}},
		"all as the record has it": {nil, func(p *hw.Pack) { p.Series, p.NominalV = hw.Maybe[int]{}, hw.Maybe[hw.Dec]{} }, false,
			hw.Verdict{}},
		"series of the pack": {func(b []hw.Battery) []hw.Battery { b[0].Series = hw.Maybe[int]{}; return b },
			func(p *hw.Pack) { p.Series = hw.Maybe[int]{} }, false,
			hw.Verdict{Code: "unknown", Fact: "parts:/parts/5/battery/series",
				Text: "how many cells this pack has in series is not known"}},
		"volts of the pack": {func(b []hw.Battery) []hw.Battery { b[0].NominalV = hw.Maybe[hw.Dec]{}; return b },
			func(p *hw.Pack) { p.NominalV = hw.Maybe[hw.Dec]{} }, false,
			hw.Verdict{Code: "unknown", Fact: "parts:/parts/5/battery/nominal_v",
				Text: "the nominal volts of this pack are not known"}},
		"series of the model": {func(b []hw.Battery) []hw.Battery { b[0].Series = hw.Maybe[int]{}; return b }, nil,
			false,
			hw.Verdict{Code: "unknown", Fact: "chassis:/batteries/0/series", Step: "plug",
				Text: "how many cells pack a has in series is not known"}},
		"volts of the first": {func(b []hw.Battery) []hw.Battery { b[0].NominalV = hw.Maybe[hw.Dec]{}; return b }, nil,
			false,
			hw.Verdict{Code: "unknown", Fact: "chassis:/batteries/0/nominal_v", Step: "plug",
				Text: "11.4 V; the volts of pack a are not known"}},
		"volts of the second do not matter": {
			func(b []hw.Battery) []hw.Battery { b[1].NominalV = hw.Maybe[hw.Dec]{}; return b }, nil, false, hw.Verdict{}},
		"part numbers": {func(b []hw.Battery) []hw.Battery { b[1].PartNumbers = nil; return b },
			func(p *hw.Pack) { p.PartNumber = "X" }, false,
			hw.Verdict{Code: "unknown", Fact: "chassis:/batteries/1/part_numbers", Step: "plug",
				Text: "X is not among the known part numbers, but those of pack b are not recorded"}},
		"on no list": {nil, func(p *hw.Pack) { p.PartNumber = "X" }, false,
			hw.Verdict{Code: hw.CodeBatteryNotListed, Text: "X is on no list for this model"}},
		"one pack is enough": {func(b []hw.Battery) []hw.Battery { return b[:1] }, nil, false, hw.Verdict{}},
		"allowed, nothing to go by": {func(b []hw.Battery) []hw.Battery { return b[:0] }, nil, true,
			hw.Verdict{Code: hw.CodeBatteryVoltage, Text: "no battery on record to compare voltage with"}},
		"a model that has no number": {func(b []hw.Battery) []hw.Battery { b[0].PartNumbers = []string{""}; return b },
			func(p *hw.Pack) { p.PartNumber = "" }, false,
			hw.Verdict{Code: hw.CodeBatteryNotListed, Text: " is on no list for this model"}},
	} {
		ch := &hw.Chassis{BatteryReach: "plug", Batteries: slices.Clone(full)}
		if c.packs != nil {
			ch.Batteries = c.packs(ch.Batteries)
		}
		p := pack
		if c.pack != nil {
			c.pack(&p)
		}
		c.want.Place = hw.BatteryPlace
		if got := Fit(ch, &p, 5, c.allow); !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s:\n got %+v\nwant %+v", name, got, c.want)
		}
	}
}
