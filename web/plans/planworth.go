package plans

import (
	"slices"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/web/kit"
)

// worthView is the control of what a point of risk is worth.
type worthView struct {
	Worth   string // as it stands
	Choices []worthChoice
	Says    string // in which range the recommended one stays it
	Rows    []rivalRow
}

type worthChoice struct {
	Says, Money, Link string
	Is                bool
}

// rivalRow is an option that the recommended one was chosen from.
type rivalRow struct {
	Letter, Words, Total, WithRisk, Link string
	Points                               int
	Is                                   bool
}

// The worths that are offered in words, cents.
var worths = []struct {
	says  string
	cents int64
}{{"little", 500}, {"usual", hw.UsualRiskCents}, {"much", 4000}}

// maxRivals is how many of them are listed.
const maxRivals = 7

// weighRisk fills the control of what a point is worth.
func (v *planView) weighRisk(p *plan.Plan, st *planState, worth int64, currency string, words func(o *plan.Option) string,
	letters map[string]string) {
	if len(p.Options) < 2 || p.Picks.Recommended == "" {
		return
	}
	w := &worthView{Worth: hw.Money(currency, worth)}
	for _, x := range worths {
		w.Choices = append(w.Choices, worthChoice{x.says, hw.Money(currency, x.cents), st.link("risk",
			kit.AmountTyped(currency, x.cents)),
			x.cents == worth})
	}
	byID := map[string]*plan.Option{}
	for i := range p.Options {
		byID[p.Options[i].ID] = &p.Options[i]
	}
	rivals := p.Rivals()
	slices.SortStableFunc(rivals, func(a, b *plan.Option) int {
		return int(a.WithRisk(worth) - b.WithRisk(worth))
	})
	for _, o := range rivals[:min(len(rivals), maxRivals)] {
		w.Rows = append(w.Rows, rivalRow{letters[o.ID], words(o), hw.Money(currency, o.TotalCents), hw.Money(currency,
			o.WithRisk(worth)),
			st.link("with", o.Key()), o.Risk.Points, o.ID == p.Picks.Recommended})
	}
	span := p.WorthSpan()
	name := func(id string) string {
		o := byID[id]
		if letters[id] != "" {
			return letters[id] + ", " + hw.Money(currency, o.TotalCents)
		}
		return words(o) + ", " + hw.Money(currency, o.TotalCents)
	}
	switch {
	case span.Below == "" && span.Above == "":
		w.Says = "A is recommended whatever a point is worth."
	case span.Above == "":
		w.Says = "From " + hw.Money(currency, span.From) + " a point on A is recommended; below it " + name(span.Below) + "."
	case span.Below == "":
		w.Says = "Up to " + hw.Money(currency, span.To) + " a point A is recommended; above it " + name(span.Above) + "."
	default:
		w.Says = "Between " + hw.Money(currency, span.From) + " and " + hw.Money(currency, span.To) +
			" a point A is recommended; below it " +
			name(span.Below) + ", above it " + name(span.Above) + "."
	}
	v.Worths = w
}
