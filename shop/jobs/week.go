package jobs

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/week"
	"yembo/shop/base"
)

// What the shop reckons with beside what its records tell, in minutes.
const (
	proofTakes = 15 // to prove a machine after the work
	fireBox    = 10 // to carry a dangerous pack out
	leastLeft  = 5  // of work that is over its plan already
)

// mostTries is how many orders of jobs a page has tried, divided among them: with a few they are many.
const mostTries = 240

// planner turns the open jobs of a shop into a week and back.
type planner struct {
	now    time.Time
	floor  base.Floor
	people []string
	r      *week.Request
	ids    map[string]*BenchRow
}

// newPlanner knows when the shop is open and who works there when; a shop that names nobody has one person.
func newPlanner(now time.Time, how *base.Settings) *planner {
	p := &planner{now: now.Truncate(time.Minute), floor: how.FloorOf(), people: how.Technicians, ids: map[string]*BenchRow{}}
	if len(p.people) == 0 {
		p.people = []string{"somebody"}
	}
	opens, closes := fmt.Sprintf("%02d:00", p.floor.Opens), fmt.Sprintf("%02d:00", p.floor.Closes)
	day := [][2]string{{opens, closes}}
	if from, to, ok := base.ParseBreak(how.Break); ok && opens < from && to < closes {
		day = [][2]string{{opens, from}, {to, closes}}
	}
	hours := map[string][][2]string{}
	for weekday := range time.Saturday + 1 {
		if p.floor.Days.Has(weekday) {
			hours[strings.ToLower(weekday.String()[:3])] = day
		}
	}
	p.r = &week.Request{Format: week.Format, Now: p.now.Format(time.RFC3339), Hours: hours}
	closed := map[string]bool{}
	for _, s := range how.Closed {
		// A plan looks a year ahead; what is past or farther changes nothing in it.
		from, until := max(s.From, p.now.AddDate(0, 0, -30).Format(time.DateOnly)), min(s.To, p.now.AddDate(1, 0,
			0).Format(time.DateOnly))
		for on, err := time.Parse(time.DateOnly, from); err == nil && on.Format(time.DateOnly) <= until; on = on.AddDate(0, 0, 1) {
			if date := on.Format(time.DateOnly); !closed[date] {
				closed[date] = true
				p.r.Days = append(p.r.Days, week.Day{On: date, Why: s.Why})
			}
		}
	}
	for b := range p.floor.Benches {
		p.r.Benches = append(p.r.Benches, week.Bench{ID: strconv.Itoa(b + 1)})
	}
	for i, name := range p.people {
		x := week.Person{ID: strconv.Itoa(i), Name: name}
		for _, s := range how.Away {
			if s.Who == name {
				x.Away = append(x.Away, week.Away{From: s.From, To: s.To})
			}
		}
		p.r.People = append(p.r.People, x)
	}
	return p
}

// hands is a stretch of so many minutes, at least some.
func hands(minutes hw.Dec) week.Stretch {
	return week.Stretch{Do: week.Hands, Minutes: max(minutes, hw.DecOf(1))}
}

// workOf is the work of an option: hands, then a copy that runs by itself but for a drive that fails, then the proof.
func workOf(o *plan.Option, m *hw.Machine) []week.Stretch {
	out := []week.Stretch{hands(o.Minutes)}
	if min, known := copyingOf(o).Get(); known && min > 0 {
		failing := slices.ContainsFunc(m.Fitted.Drives, func(d hw.FittedDrive) bool { return d.Failing.Or(false) })
		out = append(out, week.Stretch{Do: week.Wait, What: "copy", Minutes: min, Alone: !failing})
	}
	return append(out, hands(hw.DecOf(proofTakes)))
}

// add tells the week of a job.
func (p *planner) add(r *BenchRow) {
	j := week.Job{ID: fmt.Sprint(r.JobID)}
	if !r.Record.Promised.IsZero() {
		j.Promise = r.Record.Promised.Truncate(time.Minute).Format(time.RFC3339)
	}
	switch r.Class {
	case ClassDanger:
		j.Danger, j.Promise = true, ""
		j.Stretches = []week.Stretch{{Do: week.Hands, Minutes: hw.DecOf(fireBox), Aside: true}}
	case ClassRunning:
		if r.Bench < 1 || r.Bench > p.floor.Benches {
			return
		}
		j.Started = p.startedAt(r.Bench)
		j.Stretches = p.left(r)
	case ClassReady:
		j.Stretches = workOf(&r.Record.Choice.Option, r.Record.Machine)
	case ClassParts:
		arrival := week.Arrival{ID: "a" + j.ID}
		if r.Due > p.now.Format(time.DateOnly) {
			arrival.On = r.Due
		}
		p.r.Arrivals = append(p.r.Arrivals, arrival)
		j.Needs, j.Stretches = []string{arrival.ID}, []week.Stretch{hands(hw.DecOf(proofTakes))} // at the least, without a plan
		if r.Record.Choice != nil {
			j.Stretches = workOf(&r.Record.Choice.Option, r.Record.Machine)
		}
	case ClassDone:
		if r.Record.State.Proven != nil || r.Record.State.Declined != nil {
			return
		}
		j.Stretches = []week.Stretch{hands(hw.DecOf(proofTakes))}
		if r.Bench >= 1 && r.Bench <= p.floor.Benches && p.startedAt(r.Bench) != nil {
			j.Started = p.startedAt(r.Bench) // it is proven where it stands
		}
	default:
		return // nobody knows yet what is to be done
	}
	p.r.Jobs = append(p.r.Jobs, j)
	p.ids[j.ID] = r
}

// startedAt is a bench with the next person who has nothing under way, nil where the bench is taken; where more is under way
// than people are named, somebody else is at it.
func (p *planner) startedAt(bench int) *week.Where {
	busy := map[string]bool{}
	for i := range p.r.Jobs {
		if x := p.r.Jobs[i].Started; x != nil {
			if x.Bench == strconv.Itoa(bench) {
				return nil
			}
			busy[x.Person] = true
		}
	}
	for i := range p.r.People {
		if id := p.r.People[i].ID; !busy[id] {
			return &week.Where{Bench: strconv.Itoa(bench), Person: id}
		}
	}
	p.r.People = append(p.r.People, week.Person{ID: strconv.Itoa(len(p.r.People))})
	return &week.Where{Bench: strconv.Itoa(bench), Person: p.r.People[len(p.r.People)-1].ID}
}

// left is what is left of work under way: of what has a plan at least some minutes, of what has none the rest of the day.
func (p *planner) left(r *BenchRow) []week.Stretch {
	proof := hands(hw.DecOf(proofTakes))
	if !r.Minutes.IsKnown() {
		left := base.AtHour(p.now, p.floor.Closes).Sub(p.now)
		return []week.Stretch{hands(hw.DecOf(max(int(left.Minutes()), leastLeft))), proof}
	}
	left := r.takes() - p.floor.Worked(r.Start, p.now)
	copying := DurationOf(r.Copying.Or(0))
	work := hands(hw.DecOf(max(int((left-copying+time.Minute-1)/time.Minute), leastLeft)))
	if copying == 0 {
		return []week.Stretch{work, proof}
	}
	copied := week.Stretch{Do: week.Wait, What: "copy", Minutes: hw.DecOf(max(int(min(copying, left).Minutes()),
		leastLeft)), Alone: true}
	if left <= copying {
		return []week.Stretch{copied, proof}
	}
	return []week.Stretch{work, copied, proof}
}

// make works the week out: in the order of what was promised, which stays as it is from one look to the next; other orders
// are tried only where that one keeps a promise less.
func (p *planner) make() (*week.Schedule, error) {
	how := week.Quick{Where: p.now.Location()}
	s, err := week.Quickly(p.r, how)
	if err != nil || s.Objective.Broken == 0 || len(p.r.Jobs) < 2 || s.Objective.Broken == s.Bound.Broken {
		return s, err
	}
	how.Tries = mostTries / len(p.r.Jobs)
	better, err := week.Quickly(p.r, how)
	if err != nil || better.Objective.Broken == s.Objective.Broken {
		return s, err
	}
	return better, nil
}

// when reads an instant of a schedule.
func (p *planner) when(text string) time.Time {
	t, err := time.Parse(time.RFC3339, text)
	if err != nil {
		return time.Time{} // a schedule writes none that cannot be read
	}
	return t.In(p.now.Location())
}

// scheduled plans the open jobs, and tells each row its place: on which bench, from when to when, when the customer can have
// the machine and what can be promised.
func scheduled(rows []BenchRow, now time.Time, how *base.Settings) error {
	p := newPlanner(now, how)
	for i := range rows {
		p.add(&rows[i])
	}
	s, err := p.make()
	if err != nil {
		return fmt.Errorf("the week of the benches: %w", err)
	}
	for i := range s.Jobs {
		x := &s.Jobs[i]
		r := p.ids[x.ID]
		r.Ready, r.Honest, r.Stands = p.when(x.Ready), p.when(x.Honest), x.Promise
		first, last := x.Stretches[0], x.Stretches[len(x.Stretches)-1]
		switch r.Class {
		case ClassRunning:
			r.Until = p.when(last.End)
			r.leftWords(p)
		case ClassReady, ClassParts:
			bench, _ := strconv.Atoi(x.Bench) // the request's own numbers
			r.Bench, r.Start, r.Until = bench, p.when(first.Start), p.when(last.End)
		}
		if r.Class == ClassReady {
			r.WaitsFor = fmt.Sprintf("bench %d, %s", r.Bench, clockWords(r.Start, now))
		}
	}
	return nil
}

// leftWords add how long a job under way still takes, or how far it is over its plan.
func (r *BenchRow) leftWords(p *planner) {
	if !r.Minutes.IsKnown() {
		return
	}
	if left := int((r.takes() - p.floor.Worked(r.Start, p.now)).Round(time.Minute).Minutes()); left >= 0 {
		r.Why += fmt.Sprintf(", %d min left", left)
	} else {
		r.Why += fmt.Sprintf(", %d min over the plan", -left)
	}
}

// clockWords is a time of today by the clock, of another day with that.
func clockWords(t, now time.Time) string {
	if t.Format(time.DateOnly) == now.Format(time.DateOnly) {
		return t.Format("15:04")
	}
	return t.Format("Mon 2 Jan 15:04")
}

// Placed is when an option can be had.
type Placed struct {
	Known  bool      // when its parts come is known
	Honest time.Time // what can be promised
}

// Words are what can be promised, "" where nothing can: what was promised already where that can be kept.
func (o *Placed) Words(promised time.Time) string {
	switch {
	case !o.Known:
		return ""
	case !promised.IsZero() && !o.Honest.After(promised):
		return base.TimeWords(promised) + " as promised"
	}
	return base.TimeWords(o.Honest)
}

// PlaceFor says when an option can be had that is agreed to now, round what stands: its parts come so many days from now.
func PlaceFor(rows []BenchRow, now time.Time, how *base.Settings, job int64, m *hw.Machine, o *plan.Option,
	days hw.Maybe[int]) (Placed, error) {
	p := newPlanner(now, how)
	for i := range rows {
		if rows[i].JobID != job {
			p.add(&rows[i])
		}
	}
	x := week.Job{ID: "new", New: true, Stretches: workOf(o, m)}
	n, known := days.Get()
	if !known {
		return Placed{}, nil
	}
	if n > 0 {
		p.r.Arrivals = append(p.r.Arrivals, week.Arrival{ID: "parts", On: now.AddDate(0, 0, n).Format(time.DateOnly)})
		x.Needs = []string{"parts"}
	}
	p.r.Jobs = append(p.r.Jobs, x)
	s, err := p.make()
	if err != nil || len(s.Offers) == 0 {
		return Placed{}, err
	}
	return Placed{true, p.when(s.Offers[0].Promise)}, nil
}

// earliest is when the customer could have a machine if nothing else stood on the benches, its parts coming on a day ("" for
// here); zero where it never fits.
func earliest(r *MachineRecord, now time.Time, how *base.Settings, comes string) time.Time {
	p := newPlanner(now, how)
	x := week.Job{ID: "alone", Stretches: workOf(&r.Choice.Option, r.Machine)}
	if comes > now.Format(time.DateOnly) {
		p.r.Arrivals, x.Needs = []week.Arrival{{ID: "parts", On: comes}}, []string{"parts"}
	}
	p.r.Jobs = []week.Job{x}
	s, err := p.make()
	if err != nil || len(s.Jobs) == 0 {
		return time.Time{}
	}
	return p.when(s.Jobs[0].Ready)
}
