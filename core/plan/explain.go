package plan

import (
	"fmt"
	"math/big"
	"slices"
	"strings"

	"yembo/core/hw"
	"yembo/core/power"
	"yembo/core/teardown"
)

// Term is one line of arithmetic: what it is, and the sum as it is made.
type Term struct {
	What string
	Sum  string
}

// Arithmetic is how an option's figures come about.
type Arithmetic struct {
	Memory  []Term
	Drives  []Term
	Battery []Term
	Minutes []Term
	Cost    []Term
	// Saved is how much longer the same work takes with one opening for each kind of
	// upgrade; 0 where there is one kind.
	Saved hw.Minutes
}

// Explainer explains the options of one plan, and what is in none of them.
type Explainer struct {
	s      *search
	listed *search // of the parts that the plan was made from: those pinned, without those forbidden
}

// NewExplainer reads what the options of a plan rest on.
func NewExplainer(in Input) (*Explainer, error) {
	s, err := newSearch(in)
	if err != nil {
		return nil, err
	}
	e := &Explainer{s, s}
	if len(in.Pinned)+len(in.Forbidden) > 0 {
		in.Parts = narrowed(in)
		e.listed, err = newSearch(in)
	}
	return e, err
}

// Listed are the parts that the plan was made from: the pointers of its facts count them.
func (in Input) Listed() *hw.Parts { return narrowed(in) }

// Gain is reached ÷ goal, summed over the numeric goals, each up to 2; nil is the machine
// as it is.
func (e *Explainer) Gain(o *Option) hw.Dec {
	s := e.s
	if o == nil {
		return s.gainOf(s.todayMemory, s.todayStorage, s.todayRuntime)
	}
	run := s.todayRuntime
	if p := s.partOf(o, hw.BatteryPlace); p != nil {
		run = power.RuntimeWith(&s.m.Usage, s.presentWh, s.packWh(p))
	}
	mem, sto := s.todayMemory, s.todayStorage
	if o.Memory != nil {
		mem = o.Memory.TotalGB
	}
	if o.Storage != nil {
		sto = o.Storage.TotalGB
	}
	return s.gainOf(mem, sto, run)
}

// Explain says how the figures of an option come about; nil is the machine as it is.
func (e *Explainer) Explain(o *Option) Arithmetic {
	s := e.s
	a := Arithmetic{Memory: s.explainMemory(s.sticksOf(o)), Drives: s.explainDrives(o), Battery: s.explainBattery(o)}
	if o != nil {
		a.Minutes, a.Saved = s.explainMinutes(o)
		a.Cost = s.explainCost(o)
	}
	return a
}

// gainOf is the sum of reached ÷ goal over the numeric goals that are named.
func (s *search) gainOf(mem, sto hw.Dec, run *big.Rat) hw.Dec {
	sum := new(big.Rat)
	sum.Add(sum, shareOf(mem.Rat(), s.goals.MemoryGB))
	sum.Add(sum, shareOf(sto.Rat(), s.goals.StorageGB))
	sum.Add(sum, shareOf(run, s.goals.RuntimeH))
	return hw.RatTenths(new(big.Rat).Mul(sum, big.NewRat(10, 1))) / 10
}

// partOf is the part that an option puts into a place, nil for none.
func (s *search) partOf(o *Option, place string) *hw.Part {
	if o == nil {
		return nil
	}
	for _, act := range o.Actions {
		if act.Place != place || act.Part == "" {
			continue
		}
		for i := range s.parts {
			if s.parts[i].ID == act.Part {
				return &s.parts[i]
			}
		}
	}
	return nil
}

func doneAt(o *Option, place string) string {
	if o != nil {
		for _, act := range o.Actions {
			if act.Place == place {
				return act.Do
			}
		}
	}
	return DoKeep
}

// openingOf is the opening that an option asks for.
func (s *search) openingOf(o *Option) openingKey {
	key := openingKey{pack: s.packKey(noPack)}
	for i := range s.places {
		p := &s.places[i]
		switch doneAt(o, p.id) {
		case DoKeep:
			continue
		case DoRemove:
			key.removed |= 1 << i
		}
		key.changed |= 1 << i
		if p.kind == kBattery {
			key.pack = s.packKey(s.packOf(s.partOf(o, p.id)))
		}
	}
	return key
}

// explainMinutes lists the steps that the minutes come from, and what one opening for all
// saves against one for each kind.
func (s *search) explainMinutes(o *Option) ([]Term, hw.Minutes) {
	key := s.openingOf(o)
	open := s.openMachine(key)
	var out []Term
	// sum names steps with their minutes, and adds them up.
	sum := func(done func(i int) bool) (words []string, minutes hw.Minutes) {
		for i := range s.ch.Steps {
			if st := &s.ch.Steps[i]; done(i) {
				words = append(words, fmt.Sprintf("%s %s", st.Named(), teardown.StepMinutes(st).Exact()))
				minutes += teardown.StepMinutes(st)
			}
		}
		return words, minutes
	}
	in, way := sum(func(i int) bool { return open.down[i] })
	_, undone := sum(func(i int) bool { return open.undone[i] })
	extra, alone := sum(func(i int) bool { return slices.Contains(open.extra, i) })
	if len(in) > 0 {
		out = append(out, Term{"Disassembly", strings.Join(in, " + ") + fmt.Sprintf(" = %s min", way.Shown())},
			Term{"Reassembly", fmt.Sprintf("0.8 × %s = %s min", undone.Shown(), undone.Back().Shown())})
	}
	if len(extra) > 0 {
		out = append(out, Term{"On the way back alone",
			strings.Join(extra, " + ") + fmt.Sprintf(" = %s min", alone.Shown())})
	}
	var swaps []string
	var swapped, apart hw.Minutes
	openings := 0
	for k := range kinds {
		mask := key.changed & s.maskOf(k)
		if mask == 0 {
			continue
		}
		openings++
		apart += s.openMachine(openingKey{mask, key.removed & mask, key.pack}).minutes
	}
	for i := range s.places {
		if key.changed&(1<<i) != 0 {
			swapped += s.places[i].swap
			swaps = append(swaps, fmt.Sprintf("%s %s", s.places[i].id, s.places[i].swap.Shown()))
		}
	}
	if len(swaps) > 0 {
		out = append(out, Term{"Swaps", strings.Join(swaps, " + ") + fmt.Sprintf(" = %s min", swapped.Shown())})
	}
	for _, i := range s.service {
		out = append(out, Term{s.ch.Services[i].Says(), fmt.Sprintf("%s min", s.ch.Services[i].Minutes.Or(0))})
	}
	out = append(out, Term{"Total", fmt.Sprintf("%s min", open.minutes.Shown())})
	if openings < 2 || len(s.service) > 0 {
		return out, 0
	}
	saved := apart - open.minutes
	return append(out, Term{"One opening",
		fmt.Sprintf("apart it takes %s min: %s min saved", apart.Shown(), saved.Shown())}), saved
}

func (s *search) explainCost(o *Option) []Term {
	var out []Term
	for _, b := range o.Buy {
		for i := range s.parts {
			if p := &s.parts[i]; p.ID == b.Part {
				out = append(out, Term{p.Name,
					fmt.Sprintf("%d × %s = %s", b.Quantity, s.money(p.PriceCents), s.money(b.Cents))})
			}
		}
	}
	services := ""
	if cents, ok := o.ServicesCents.Get(); ok {
		services = " + " + s.money(cents) + " for services"
	}
	out = append(out, Term{"Labour", fmt.Sprintf("%s min × %s an hour ÷ 60 = %s", o.Minutes, s.money(s.rate),
		s.money(o.LabourCents))},
		Term{"Total", fmt.Sprintf("%s + %s%s = %s", s.money(o.PartsCents), s.money(o.LabourCents), services,
			s.money(o.TotalCents))})
	return out
}
