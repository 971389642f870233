// Package money adds up what a customer pays: lines without tax, tax by rate, and the rounding of the
// total. Amounts are whole minor units of one currency (hw.Places says how many make a unit).
//
// The rules, in their order: the lines of one rate are added up; the tax of a rate is the sum × the
// percentage ÷ 100, rounded to whole minor units, half away from zero, so that a counter-invoice is the
// same amount with the other sign; the total is all lines and all taxes; where cash is rounded, the
// total goes to the nearest step, half away from zero, and the difference is a line of its own. So the
// printed total is the sum of what is printed.
package money

import (
	"fmt"
	"math/big"
	"slices"

	"yembo/core/hw"
)

// Most is the largest amount, in minor units, that a line can have.
const Most = 1_000_000_000_00

// Line is one line of a quote or an invoice, without tax.
type Line struct {
	Kind  Kind   `json:"kind"`
	Text  string `json:"text"`
	Cents int64  `json:"cents"`
	Tax   hw.Dec `json:"tax_percent"`
	// Only tells of a shop's own line when it is charged, so that it can be left out where that turns
	// out not to be so; "" for every other line.
	Only string `json:"only,omitempty"`
}

// Kind is what a line is for.
type Kind string

// The kinds of lines, in the order in which they stand.
const (
	Part     Kind = "part"
	Labour   Kind = "labour"
	Service  Kind = "service" // what a service uses up
	Fixed    Kind = "fixed"   // the shop's own: intake and test, copying, erasing, disposal
	Least    Kind = "least"   // up to the shop's minimum charge
	Change   Kind = "change"  // agreed after the quote
	Discount Kind = "discount"
	Declined Kind = "declined" // the fee when a quote is declined
)

// Kinds is the table of the kinds with what pages call them.
var Kinds = hw.Vocabulary[Kind]{{Word: Part, Says: "Parts"}, {Word: Labour, Says: "Labour"}, {Word: Service, Says: "Used up"},
	{Word: Fixed, Says: "Fixed"}, {Word: Least, Says: "Minimum charge"}, {Word: Change, Says: "Changed"},
	{Word: Discount, Says: "Discount"}, {Word: Declined, Says: "Declined"}}

// Tax is what is due at one rate.
type Tax struct {
	Percent hw.Dec `json:"percent"`
	Base    int64  `json:"base_cents"`
	Cents   int64  `json:"cents"`
}

// Sum is what lines come to.
type Sum struct {
	Net      int64 `json:"net_cents"`
	Taxes    []Tax `json:"taxes"`
	Rounding int64 `json:"rounding_cents,omitempty"`
	Total    int64 `json:"total_cents"`
}

// How is how lines are added up.
type How struct {
	Step   int64 // what the total is rounded to, in minor units; 0 and 1 round nothing
	Inside bool  // the amounts of the lines have the tax in them
}

// AddUp adds lines up. A rate of 0 is listed too: it says that no tax is due. Where the tax is in the
// lines, the lines of one rate are added up and their tax is the sum × the percentage ÷ (100 + the
// percentage), rounded as above; the total is the sum of the lines, and net is what is left of it.
func AddUp(lines []Line, how How) Sum {
	sum := Sum{Taxes: []Tax{}}
	for _, l := range lines {
		sum.Net += l.Cents
		at := slices.IndexFunc(sum.Taxes, func(t Tax) bool { return t.Percent == l.Tax })
		if at < 0 {
			sum.Taxes = append(sum.Taxes, Tax{Percent: l.Tax})
			at = len(sum.Taxes) - 1
		}
		sum.Taxes[at].Base += l.Cents
	}
	slices.SortFunc(sum.Taxes, func(a, b Tax) int { return int(b.Percent - a.Percent) })
	sum.Total = sum.Net
	for i := range sum.Taxes {
		t := &sum.Taxes[i]
		if how.Inside {
			t.Cents = within(t.Base, t.Percent)
			t.Base -= t.Cents
			sum.Net -= t.Cents
			continue
		}
		t.Cents = Percent(t.Base, t.Percent)
		sum.Total += t.Cents
	}
	if how.Step > 1 {
		rounded := Nearest(sum.Total, how.Step)
		sum.Rounding, sum.Total = rounded-sum.Total, rounded
	}
	return sum
}

// Percent is so many per cent of an amount, rounded to whole minor units, half away from zero.
func Percent(cents int64, percent hw.Dec) int64 {
	num := new(big.Int).Mul(big.NewInt(cents), big.NewInt(int64(percent)))
	return divide(num, new(big.Int).Mul(big.NewInt(100), big.NewInt(int64(hw.DecOf(1)))))
}

// within is the part of an amount that is tax, where so many per cent were added to the rest.
func within(cents int64, percent hw.Dec) int64 {
	num := new(big.Int).Mul(big.NewInt(cents), big.NewInt(int64(percent)))
	return divide(num, big.NewInt(int64(hw.DecOf(100)+percent)))
}

// Nearest is the multiple of a step nearest to an amount, half away from zero.
func Nearest(cents, step int64) int64 { return divide(big.NewInt(cents), big.NewInt(step)) * step }

// divide divides and rounds half away from zero; the divisor is above zero.
func divide(num, by *big.Int) int64 {
	twice := new(big.Int).Lsh(new(big.Int).Abs(num), 1)
	q := twice.Add(twice, by).Quo(twice, new(big.Int).Lsh(by, 1)).Int64()
	if num.Sign() < 0 {
		return -q
	}
	return q
}

// Check lists what cannot be: amounts that nobody pays, a rate below zero or above a hundred, a discount
// above what it is taken off.
func Check(lines []Line, most int) hw.Faults {
	var faults hw.Faults
	if len(lines) > most {
		faults.Add("/lines", hw.FaultRange, fmt.Sprint(len(lines), " lines"), fmt.Sprint("at most ", most))
	}
	before, off := int64(0), int64(0)
	for i := range lines {
		l, at := &lines[i], fmt.Sprintf("/lines/%d", i)
		switch {
		case Kinds.Index(l.Kind) < 0:
			faults.Add(at+"/kind", hw.FaultChoice, string(l.Kind), "a kind of line")
		case l.Cents > Most || l.Cents < -Most:
			faults.Add(at+"/cents", hw.FaultRange, fmt.Sprint(l.Cents), "a smaller amount")
		case l.Tax < 0 || l.Tax > hw.DecOf(100):
			faults.Add(at+"/tax_percent", hw.FaultRange, l.Tax.String(), "0 to 100 per cent")
		}
		if l.Kind == Discount {
			off -= l.Cents
			if l.Cents > 0 {
				faults.Add(at+"/cents", hw.FaultRange, fmt.Sprint(l.Cents), "a discount takes something off")
			}
		} else {
			before += l.Cents
		}
	}
	if off > before && before >= 0 {
		faults.Add("/discount", hw.FaultConflict, "a discount above the sum it is taken off", "")
	}
	return faults
}

// Contra is the lines of a counter-invoice: the same with the other sign.
func Contra(lines []Line) []Line {
	out := slices.Clone(lines)
	for i := range out {
		out[i].Cents = -out[i].Cents
	}
	return out
}
