package jobs

import (
	"slices"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/week"
	"yembo/shop/base"
)

// What the shop reckons with beside what its records tell, in minutes.
const (
	proofTakes = 15      // to prove a machine after the work
	fireBox    = 10      // to carry a dangerous pack out
	leastLeft  = 5       // of work that is over its plan already
	aNight     = 12 * 60 // of a copy whose duration nobody knows
)

// hands is a stretch of so many minutes, at least one. What is longer than the shop is ever open goes on after a break, and
// over night where no day is long enough.
func (p *planner) hands(what string, minutes hw.Dec) week.Stretch {
	s := week.Stretch{Do: week.Hands, What: what, Minutes: max(minutes, hw.DecOf(1))}
	switch whole := int((s.Minutes + hw.DecOf(1) - 1) / hw.DecOf(1)); {
	case whole > p.longest:
		s.Split = week.SplitClosing
	case whole > p.piece:
		s.Split = week.SplitBreak
	}
	return s
}

// workOf is the work of an option: hands, then a copy, then the proof.
func (p *planner) workOf(o *plan.Option, m *hw.Machine) []week.Stretch {
	out := []week.Stretch{p.hands("work", o.Minutes)}
	if copies, told := copyingOf(o); copies {
		out = append(out, p.copyOf(m, told.Or(hw.DecOf(aNight))))
	}
	return append(out, p.hands("proof", hw.DecOf(proofTakes)))
}

// copyOf is a copy of so many minutes: it runs by itself, with nobody in the building too unless the drive fails or the shop
// wants somebody there.
func (p *planner) copyOf(m *hw.Machine, minutes hw.Dec) week.Stretch {
	failing := slices.ContainsFunc(m.Fitted.Drives, func(d hw.FittedDrive) bool { return d.Fails() })
	return week.Stretch{Do: week.Wait, What: "copy", Minutes: max(minutes, hw.DecOf(1)), Alone: !failing && !p.How.Week.Attend}
}

// planned is the work of a job that cannot be begun yet: as chosen, the proof alone where nothing is.
func (p *planner) planned(r *BenchRow) []week.Stretch {
	if r.Record.Choice == nil {
		return []week.Stretch{p.hands("proof", hw.DecOf(proofTakes))}
	}
	return p.workOf(&r.Record.Choice.Option, r.Record.Machine)
}

// left is what is left of work under way: of what has a plan at least some minutes, of what has none the rest of the day.
func (p *planner) left(r *BenchRow) []week.Stretch {
	proof := p.hands("proof", hw.DecOf(proofTakes))
	if !r.Minutes.IsKnown() {
		left := p.How.Worked(p.Now, base.AtHour(p.Now, p.floor.Closes))
		return []week.Stretch{p.hands("work", hw.DecOf(max(int(left.Minutes()), leastLeft))), proof}
	}
	worked := p.How.Worked(r.Start, p.Now)
	handsOn := DurationOf(r.Minutes.Or(0)) - worked
	least := func(d time.Duration) hw.Dec { return hw.DecOf(max(int((d+time.Minute-1)/time.Minute), leastLeft)) }
	if !r.Copies {
		return []week.Stretch{p.hands("work", least(handsOn)), proof}
	}
	copying := DurationOf(r.Copying.Or(hw.DecOf(aNight)))
	if handsOn > 0 {
		return []week.Stretch{p.hands("work", least(handsOn)), p.copyOf(r.Record.Machine, least(copying)), proof}
	}
	return []week.Stretch{p.copyOf(r.Record.Machine, least(copying+handsOn)), proof}
}
