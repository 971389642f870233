package money

import (
	"math/big"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"yembo/core/hw"
)

func dec(text string) hw.Dec {
	d, err := hw.ParseDec(text)
	if err != nil {
		panic(err)
	}
	return d
}

// TestAddUp: each rule of the rounding has a sum that comes out otherwise without it.
func TestAddUp(t *testing.T) {
	line := func(cents int64, tax string) Line { return Line{Kind: Part, Cents: cents, Tax: dec(tax)} }
	for name, c := range map[string]struct {
		lines  []Line
		step   int64
		want   Sum
		inside bool
	}{
		"nothing":             {nil, 1, Sum{Taxes: []Tax{}}, false},
		"half goes up":        {[]Line{line(250, "5")}, 1, Sum{250, []Tax{{dec("5"), 250, 13}}, 0, 263}, false},
		"half of less than 0": {[]Line{line(-250, "5")}, 1, Sum{-250, []Tax{{dec("5"), -250, -13}}, 0, -263}, false},
		"by rate, not by line": {[]Line{line(10, "19"), line(10, "19"), line(10, "19")}, 1, Sum{30, []Tax{{dec("19"), 30, 6}},
			0, 36}, false},
		"two rates": {[]Line{line(1000, "7"), line(2000, "19.5")}, 1, Sum{3000, []Tax{{dec("19.5"), 2000, 390},
			{dec("7"), 1000, 70}}, 0, 3460}, false},
		"no tax is told": {[]Line{line(1000, "0")}, 1, Sum{1000, []Tax{{0, 1000, 0}}, 0, 1000}, false},
		"cash to five":   {[]Line{line(1003, "0")}, 5, Sum{1003, []Tax{{0, 1003, 0}}, 2, 1005}, false},
		"cash half":      {[]Line{line(1025, "0")}, 50, Sum{1025, []Tax{{0, 1025, 0}}, 25, 1050}, false},
		"three of one rate": {[]Line{line(7780, "20"), line(2624, "20"), line(1200, "20")}, 1, Sum{11604, []Tax{{dec("20"),
			11604, 2321}}, 0, 13925}, false},
		"tax inside": {[]Line{line(11900, "19"), line(1070, "7"), line(500, "0")}, 1, Sum{11500, []Tax{{dec("19"),
			10000, 1900}, {dec("7"), 1000, 70}, {0, 500, 0}}, 0, 13470}, true},
		"inside, half goes up": {[]Line{line(9, "20")}, 1, Sum{7, []Tax{{dec("20"), 7, 2}}, 0, 9}, true},
	} {
		if got := AddUp(c.lines, How{Step: c.step, Inside: c.inside}); !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %+v, want %+v", name, got, c.want)
		}
	}
}

// TestPrintedSums: for random lines, rates and steps the printed lines, taxes and rounding add up to the
// printed total; a counter-invoice comes to the same with the other sign; a tax is right to half a unit.
func TestPrintedSums(t *testing.T) {
	rates := []string{"0", "5", "7", "8.1", "19", "19.5", "20", "25.5", "100"}
	for seed := range uint64(3000) {
		r := rand.New(rand.NewPCG(seed, 16))
		var lines []Line
		for range r.IntN(60) {
			lines = append(
				lines,
				Line{
					Kind:  Kinds[r.IntN(4)].Word,
					Text:  "x",
					Cents: r.Int64N(Most) / (1 << r.IntN(30)),
					Tax:   dec(rates[r.IntN(len(rates))]),
				},
			)
		}
		step := []int64{0, 1, 5, 10, 50, 100}[r.IntN(6)]
		how := How{Step: step, Inside: seed%3 == 0}
		sum := AddUp(lines, how)
		printed, taxes := sum.Rounding, int64(0)
		for _, l := range lines {
			printed += l.Cents
		}
		base := int64(0)
		for _, x := range sum.Taxes {
			if taxes += x.Cents; !how.Inside {
				printed += x.Cents
			}
			base += x.Base
			// twice the difference, in hundredths of the scale, is at most one unit
			exact := new(big.Int).Mul(big.NewInt(x.Base), big.NewInt(int64(x.Percent)))
			unit := new(big.Int).Mul(big.NewInt(100), big.NewInt(int64(hw.DecOf(1))))
			if how.Inside {
				exact.Mul(big.NewInt(x.Base+x.Cents), big.NewInt(int64(x.Percent)))
				unit.Add(unit, big.NewInt(int64(x.Percent)))
			}
			off := new(big.Int).Sub(exact, new(big.Int).Mul(big.NewInt(x.Cents), unit))
			if off.Abs(off).Lsh(off, 1).Cmp(unit) > 0 {
				t.Fatalf("seed %d: %s %% of %d is %d", seed, x.Percent, x.Base, x.Cents)
			}
		}
		if printed != sum.Total || base != sum.Net || sum.Net+taxes+sum.Rounding != sum.Total || step > 1 && sum.Total%step != 0 {
			t.Fatalf("seed %d: printed %d, total %d; net %d of %d; step %d", seed, printed, sum.Total, base, sum.Net, step)
		}
		if back := AddUp(Contra(lines), how); back.Total != -sum.Total || back.Rounding != -sum.Rounding {
			t.Fatalf("seed %d: the counter-invoice comes to %d, not %d", seed, back.Total, -sum.Total)
		}
	}
}

func TestCheck(t *testing.T) {
	for name, c := range map[string]struct {
		lines []Line
		says  string
	}{
		"sound": {[]Line{{Kind: Part, Text: "", Cents: 100, Tax: dec("20")}, {Kind: Discount, Text: "",
			Cents: -100, Tax: dec("20")}}, ""},
		"discount too much": {[]Line{{Kind: Part, Text: "", Cents: 100, Tax: 0}, {Kind: Discount, Text: "", Cents: -101,
			Tax: 0}}, "a discount above the sum"},
		"discount adds":    {[]Line{{Kind: Discount, Text: "", Cents: 5, Tax: 0}}, "takes something off"},
		"tax":              {[]Line{{Kind: Part, Text: "", Cents: 100, Tax: dec("100.1")}}, "0 to 100 per cent"},
		"less than no tax": {[]Line{{Kind: Part, Text: "", Cents: 100, Tax: -1}}, "0 to 100 per cent"},
		"kind":             {[]Line{{Kind: "gift", Text: "", Cents: 100, Tax: 0}}, "a kind of line"},
		"amount":           {[]Line{{Kind: Part, Text: "", Cents: Most + 1, Tax: 0}}, "a smaller amount"},
		"many":             {make([]Line, 61), "at most 60"},
	} {
		err := Check(c.lines, 60).Err()
		if (err == nil) != (c.says == "") || err != nil && !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
}
