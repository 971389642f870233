package base

import (
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/quote"
)

// Pricing is how a shop charges beside parts and labour.
type Pricing struct {
	Fixed         []quote.FixedLine `json:"fixed,omitempty"`
	LeastCents    int64             `json:"least_cents,omitempty"`     // minimum charge, without tax
	DeclinedCents int64             `json:"declined_cents,omitempty"`  // where a quote is declined
	RoundTo       int64             `json:"round_to_cents,omitempty"`  // what totals are rounded to
	ValidDays     int               `json:"valid_days,omitempty"`      // of a quote; 0 is the usual
	Law           string            `json:"law,omitempty"`             // what has to stand on invoices
	RoundCash     bool              `json:"round_cash,omitempty"`      // only what is paid in cash is rounded
	TaxIn         bool              `json:"prices_with_tax,omitempty"` // prices have the tax in them
	// BudgetTax says that what customers name as their budget has the tax in it.
	BudgetTax bool `json:"budgets_with_tax,omitempty"`
}

// MostFixed is how many fixed lines a shop has.
const MostFixed = 12

// Limits of what a shop charges.
const (
	usualValidDays = 14
	maxLaw         = 1000
)

// Days is how long a quote is valid.
func (p *Pricing) Days() int {
	if p.ValidDays > 0 {
		return p.ValidDays
	}
	return usualValidDays
}

func (p *Pricing) check(faults *hw.Faults, currency string) {
	amount := func(at string, cents int64) {
		if cents < 0 || cents > money.Most {
			faults.Add(at, hw.FaultRange, hw.Money(currency, cents), "a smaller amount")
		}
	}
	amount("/pricing/least", p.LeastCents)
	amount("/pricing/declined", p.DeclinedCents)
	if p.RoundTo < 0 || p.RoundTo > 1000 {
		faults.Add("/pricing/round", hw.FaultRange, strconv.FormatInt(p.RoundTo, 10), "0 to 1000 of the smallest unit")
	}
	if p.ValidDays < 0 || p.ValidDays > 365 {
		faults.Add("/pricing/days", hw.FaultRange, strconv.Itoa(p.ValidDays), "1 to 365 days")
	}
	if utf8.RuneCountInString(p.Law) > maxLaw {
		faults.Add("/pricing/law", hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", maxLaw))
	}
	if len(p.Fixed) > MostFixed {
		faults.Add("/pricing/fixed/0/text", hw.FaultRange, fmt.Sprint(len(p.Fixed), " lines"), fmt.Sprintf("at most %d", MostFixed))
	}
	for i := range p.Fixed {
		f, at := &p.Fixed[i], fmt.Sprintf("/pricing/fixed/%d", i)
		if strings.TrimSpace(f.Text) == "" {
			faults.Add(at+"/text", hw.FaultMissing, "", "what it is for")
		}
		if utf8.RuneCountInString(f.Text) > MaxName {
			faults.Add(at+"/text", hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", MaxName))
		}
		amount(at+"/cents", f.Cents)
		if quote.Whens.Index(f.When) < 0 {
			faults.Add(at+"/when", hw.FaultChoice, strconv.Quote(string(f.When)), strings.Join(quote.Whens.Words(), ", "))
		}
		if tax, ok := f.Tax.Get(); ok && (tax < 0 || tax > hw.DecOf(100)) {
			faults.Add(at+"/tax", hw.FaultRange, tax.String(), "0 to 100 per cent")
		}
	}
}

// TotalStep is what totals are rounded to, 0 where only cash is.
func (p *Pricing) TotalStep() int64 {
	if p.RoundCash {
		return 0
	}
	return p.RoundTo
}

// CashStep is what is paid in cash is rounded to, 0 where nothing is or totals are already.
func (p *Pricing) CashStep() int64 {
	if p.RoundCash {
		return p.RoundTo
	}
	return 0
}

// BudgetNet is the most that may be spent, in prices as the shop has them, out of a budget as it was named: where
// budgets have the tax in them and prices have not, the largest sum that stays within it with its tax.
func (v *Settings) BudgetNet(named int64) int64 {
	whole := int64(hw.DecOf(100))
	tax := int64(v.TaxPercent)
	if !v.Pricing.BudgetTax || v.Pricing.TaxIn || tax <= 0 {
		return named
	}
	net := named - named*tax/(whole+tax) + 1
	for net > 0 && net+(net*tax+whole/2)/whole > named {
		net--
	}
	return net
}
