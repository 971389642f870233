package jobs

import (
	"slices"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/store"
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

// What is done in a stretch.
const (
	DoWork   = "work"
	DoCopy   = "copy"
	DoTest   = "memory test"
	DoCharge = "charge"
	DoProof  = "proof"
)

// workOf is the work of an option: hands, as long as earlier runs of the model with the same targets took; then what runs by
// itself, at the bench or aside of it; then the proof.
func (p *planner) workOf(r *MachineRecord, o *plan.Option) []week.Stretch {
	work := p.hands(DoWork, o.Minutes)
	if work.Measured = p.Runs[runKey(r.Chassis.ID, TargetsOf(o))]; work.IsMeasured() {
		work.Split = p.hands(DoWork, slices.Max(work.Measured)).Split
	}
	out := []week.Stretch{work}
	if copies, told := copyingOf(o); copies {
		out = append(out, p.copyOf(r.Machine, told.Or(hw.DecOf(aNight))))
	}
	out = append(out, p.afterWork(r, o)...)
	return append(out, p.hands(DoProof, hw.DecOf(proofTakes)))
}

// measuredOf is how many earlier runs measure the work of a job, and for how many minutes it is planned by them; 0 for too few.
func (p *planner) measuredOf(r *BenchRow) (runs, minutes int) {
	if r.Record.Choice == nil {
		return 0, 0
	}
	work := week.Stretch{Measured: p.Runs[runKey(r.Record.Chassis.ID, TargetsOf(&r.Record.Choice.Option))]}
	if !work.IsMeasured() {
		return 0, 0
	}
	return len(work.Measured), work.Planned()
}

// minutesOf is how long hands are planned to be on a job: as earlier runs took it, else as its plan reckons.
func (p *planner) minutesOf(r *BenchRow) time.Duration {
	if runs, minutes := p.measuredOf(r); runs > 0 {
		return time.Duration(minutes) * time.Minute
	}
	return DurationOf(r.Minutes.Or(0))
}

// afterWork is what the shop has run after the work, off the bench: a test of memory that was put in, alone where copies may be;
// a charge of a pack that was put in, never alone.
func (p *planner) afterWork(r *MachineRecord, o *plan.Option) []week.Stretch {
	memory, pack := false, false
	for _, a := range o.Actions {
		if a.Do != plan.DoAdd && a.Do != plan.DoReplace {
			continue
		}
		pack = pack || a.Place == hw.BatteryPlace
		memory = memory || slices.ContainsFunc(r.Chassis.Mem().Sockets, func(s hw.Socket) bool { return s.ID == a.Place })
	}
	var out []week.Stretch
	if n := p.How.Week.Test.Or(0); n > 0 && memory {
		out = append(out, week.Stretch{Do: week.Wait, What: DoTest, Minutes: hw.DecOf(n), Aside: true, Alone: !p.How.Week.Attend})
	}
	if n := p.How.Week.Charge.Or(0); n > 0 && pack {
		out = append(out, week.Stretch{Do: week.Wait, What: DoCharge, Minutes: hw.DecOf(n), Aside: true})
	}
	return out
}

// TargetsOf are the places that an option works on and the services that it does, in order.
func TargetsOf(o *plan.Option) string {
	places := slices.Clone(o.Services)
	for _, a := range o.Actions {
		if a.Do != plan.DoKeep {
			places = append(places, a.Place)
		}
	}
	slices.Sort(places)
	return strings.Join(slices.Compact(places), " ")
}

func runKey(model, targets string) string { return model + "|" + targets }

// wholeRuns is how long hands were on the runs that measure something.
func wholeRuns(tx store.Tx) (map[string][]hw.Dec, error) {
	rows, err := tx.RunTimes()
	if err != nil {
		return nil, err
	}
	out := map[string][]hw.Dec{}
	for i := range rows {
		key := runKey(rows[i].ModelID, rows[i].Targets)
		out[key] = append(out[key], max(MinutesOfMS(rows[i].SureMS), hw.DecOf(1)))
	}
	return out, nil
}

// Spell is a time at a bench.
type Spell struct{ From, To time.Time }

// staysOf are the times at the bench of a planned job: what stands aside in between leaves it to others.
func (p *planner) staysOf(x *week.Planned, stretches []week.Stretch) []Spell {
	var out []Spell
	on := false
	for i := range x.Stretches {
		if stretches[i].Aside {
			on = false
			continue
		}
		if !on {
			out = append(out, Spell{From: p.when(x.Stretches[i].Start)})
		}
		on, out[len(out)-1].To = true, p.when(x.Stretches[i].End)
	}
	return out
}

// copyOf is a copy of so many minutes: it runs by itself, with nobody in the building too unless the drive fails or the shop
// wants somebody there.
func (p *planner) copyOf(m *hw.Machine, minutes hw.Dec) week.Stretch {
	failing := slices.ContainsFunc(m.Fitted.Drives, func(d hw.FittedDrive) bool { return d.Fails() })
	return week.Stretch{Do: week.Wait, What: DoCopy, Minutes: max(minutes, hw.DecOf(1)), Alone: !failing && !p.How.Week.Attend}
}

// planned is the work of a job that cannot be begun yet: as chosen, the proof alone where nothing is.
func (p *planner) planned(r *BenchRow) []week.Stretch {
	if r.Record.Choice == nil {
		return []week.Stretch{p.hands(DoProof, hw.DecOf(proofTakes))}
	}
	return p.workOf(&r.Record, &r.Record.Choice.Option)
}

// left is what is left of work under way: of what has a plan at least some minutes, of what has none the rest of the day.
func (p *planner) left(r *BenchRow) []week.Stretch {
	var after []week.Stretch
	if r.Record.Choice != nil {
		after = p.afterWork(&r.Record, &r.Record.Choice.Option)
	}
	after = append(after, p.hands(DoProof, hw.DecOf(proofTakes)))
	with := func(now ...week.Stretch) []week.Stretch { return append(now, after...) }
	if !r.Minutes.IsKnown() {
		left := p.How.Worked(p.Now, base.AtHour(p.Now, p.floor.Closes))
		return with(p.hands(DoWork, hw.DecOf(max(int(left.Minutes()), leastLeft))))
	}
	worked := p.How.Worked(r.Start, p.Now)
	handsOn := p.minutesOf(r) - worked
	least := func(d time.Duration) hw.Dec { return hw.DecOf(max(int((d+time.Minute-1)/time.Minute), leastLeft)) }
	if !r.Copies {
		return with(p.hands(DoWork, least(handsOn)))
	}
	copying := DurationOf(r.Copying.Or(hw.DecOf(aNight)))
	if handsOn > 0 {
		return with(p.hands(DoWork, least(handsOn)), p.copyOf(r.Record.Machine, least(copying)))
	}
	return with(p.copyOf(r.Record.Machine, least(copying+handsOn)))
}
