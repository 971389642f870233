package plan

import (
	"fmt"
	"math/big"
	"slices"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/wireless"
)

// Gain is one thing in which an option differs from another: a signed figure, and of what.
type Gain struct{ Figure, Of string }

// Against sets an option beside another one: what it gives more, and what it takes more. What is the same, or not
// known of either, is in neither.
func Against(o, other *Option, currency string) (gives, takes []Gain) {
	add := func(better bool, figure, of string) {
		if better {
			gives = append(gives, Gain{figure, of})
		} else {
			takes = append(takes, Gain{figure, of})
		}
	}
	if d := o.TotalCents - other.TotalCents; d < 0 {
		add(true, hw.Money(currency, d), "less to pay")
	} else if d > 0 {
		add(false, "+"+hw.Money(currency, d), "more to pay")
	}
	if d := o.Risk.Points - other.Risk.Points; d != 0 {
		add(d < 0, signed(hw.DecOf(d)), hw.Plural(d, "risk point", "risk points"))
	}
	if o.Memory != nil && other.Memory != nil {
		if d := o.Memory.TotalGB - other.Memory.TotalGB; d != 0 {
			add(d > 0, signed(d), "GB of memory")
		}
		is, okIs := o.Memory.Bandwidth.Get()
		was, okWas := other.Memory.Bandwidth.Get()
		if okIs && okWas && is != was {
			add(is > was, signed(is-was), "GB/s of memory")
		}
	}
	if o.Storage != nil && other.Storage != nil {
		if d := o.Storage.TotalGB - other.Storage.TotalGB; d != 0 {
			add(d > 0, signed(d), "GB of storage")
		}
	}
	if o.Battery != nil && other.Battery != nil {
		is, okIs := o.Battery.RuntimeH.Get()
		was, okWas := other.Battery.RuntimeH.Get()
		// The longer of the two may be a least figure: the difference is one then too. Where only the shorter is, which
		// of them lasts longer is not known.
		longer, shorter := o.Battery, other.Battery
		if was > is {
			longer, shorter = shorter, longer
		}
		of := "h on the battery"
		if longer.AtLeast {
			of += ", at least"
		}
		if okIs && okWas && is != was && (longer.AtLeast || !shorter.AtLeast) {
			add(is > was, signed(is-was), of)
		}
	}
	if is, was := standardOf(o), standardOf(other); is != "" && was != "" && is != was {
		add(wireless.Rank(is) > wireless.Rank(was), hw.Standards.Says(is), "in place of "+hw.Standards.Says(was))
	}
	if d := o.Minutes - other.Minutes; d != 0 {
		add(d < 0, signed(d), "min of work")
	}
	is, okIs := o.ReadyInDays.Get()
	was, okWas := other.ReadyInDays.Get()
	switch d := is - was; {
	case okIs && okWas && d != 0 && is == 0:
		add(true, signed(hw.DecOf(d)), hw.Plural(d, "day", "days")+": all in stock")
	case okIs && okWas && d != 0:
		add(d < 0, signed(hw.DecOf(d)), hw.Plural(d, "day", "days"))
	case okIs && !okWas:
		add(true, "", "arrival date known")
	case okWas && !okIs:
		add(false, "", "arrival date not known")
	}
	return gives, takes
}

// standardOf is the standard of an option's wireless card, "" where it is not known.
func standardOf(o *Option) hw.Standard {
	if o.Wireless == nil {
		return ""
	}
	return o.Wireless.Standard.Or("")
}

// signed is a figure to a tenth with its sign.
func signed(d hw.Dec) string {
	if d < 0 {
		return "−" + (-d).Tenths().String()
	}
	return "+" + d.Tenths().String()
}

// Span is the range, in cents, of what a point of risk is worth within which an option stays the recommended one, and
// what is recommended below and above it: "" where the range has no end there.
type Span struct {
	From, To     int64
	Below, Above string
}

// WorthSpan is the range in which the recommended option stays it, among those that it was chosen from.
func (p *Plan) WorthSpan() Span {
	out := Span{To: hw.MostRiskCents}
	at := func(id string) *Option {
		for i := range p.Options {
			if p.Options[i].ID == id {
				return &p.Options[i]
			}
		}
		return nil
	}
	best := at(p.Picks.Recommended)
	if best == nil {
		return out
	}
	for _, x := range p.Rivals() {
		more := int64(x.Risk.Points - best.Risk.Points)
		dearer := best.TotalCents - x.TotalCents
		switch {
		case more > 0 && dearer > 0: // cheaper and riskier: it wins below
			if from := (dearer + more - 1) / more; from > out.From {
				out.From, out.Below = from, x.ID
			}
		case more < 0 && dearer < 0: // dearer and safer: it wins above
			if to := dearer / more; to < out.To {
				out.To, out.Above = to, x.ID
			}
		}
	}
	return out
}

// Rivals are the options that the recommended one was chosen from, itself among them.
func (p *Plan) Rivals() []*Option {
	var out []*Option
	for i := range p.Options {
		if slices.Contains(p.rivals, p.Options[i].ID) {
			out = append(out, &p.Options[i])
		}
	}
	return out
}

// WithRisk is what an option costs with its risk counted as money, cents.
func (o *Option) WithRisk(worth int64) int64 { return o.TotalCents + worth*int64(o.Risk.Points) }

// Fetch is a fact that is not known and could change the plan: its prefixed pointer, what it is called, what knowing it
// could change, and the step that shows it, "" for none.
type Fetch struct{ Fact, About, Could, Step string }

// WorthFetching lists the facts that could change a plan, the machine's own first, each once.
func (e *Explainer) WorthFetching(p *Plan) []Fetch {
	s := e.listed
	var out []Fetch
	u := &s.m.Usage
	if s.wanted[kMemory] && !u.MemoryPeak.IsKnown() {
		most := new(big.Rat).Mul(s.todayMemory.Rat(), big.NewRat(8, 10))
		out = append(out, Fetch{"machine:/usage/memory_peak_gb", "what the work takes of the memory",
			fmt.Sprintf("up to %s GB no more memory is needed", hw.RatTenths(most)), ""})
	}
	if s.wanted[kBattery] && s.leastRuntime {
		out = append(out, Fetch{"machine:/fitted/battery/full_wh", "what the pack holds when full",
			"a worn one makes a new one last longer than is said here", ""})
	}
	if s.wanted[kMemory] && s.limit.FellBack {
		gb := "not known"
		if n, ok := s.limit.GB.Get(); ok {
			gb = n.String() + " GB"
		}
		out = append(out, Fetch{"chassis:/memory/limits/maker_gb", "the maker's memory limit",
			"the limit is inferred, " + gb + "; a figure of the maker's takes the doubt away, or allows more", ""})
	}
	at := map[string]int{}
	parts := map[string]map[string]bool{}
	for _, r := range p.Rejected {
		if r.Code != hw.CodeUnknown || r.Fact == "" {
			continue
		}
		if _, seen := at[r.Fact]; !seen {
			at[r.Fact], parts[r.Fact] = len(out), map[string]bool{}
			out = append(out, Fetch{Fact: r.Fact, About: s.saysFact(r.Fact), Step: r.Step})
		}
		parts[r.Fact][r.Part] = true
	}
	for fact, i := range at {
		out[i].Could = fmt.Sprintf("%d more %s fit", len(parts[fact]), hw.Plural(len(parts[fact]), "part may", "parts may"))
	}
	best := -1
	for i := range p.Options {
		if p.Options[i].ID == p.Picks.Recommended {
			best = i
		}
	}
	if best < 0 {
		return out
	}
	for _, r := range p.Options[best].Risk.Reasons {
		if r.Fact != "" && r.Points > 0 {
			out = append(out, Fetch{"chassis:" + evidence.Pointer(s.ch, r.Fact), hw.FactSays(r.Fact), "once it is settled " +
				hw.Plural(r.Points, "a point", fmt.Sprintf("%d points", r.Points)) + " of risk less", ""})
		}
	}
	return out
}
