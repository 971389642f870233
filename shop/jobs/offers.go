package jobs

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/store"
)

// Placed is when an option can be had.
type Placed struct {
	Honest time.Time // what can be promised, zero where nothing can
	Why    string    // why nothing can
	Offers []Offered // the first place and others that it may take
	// Plan is the first of them with its reasons, Stretches are what is done.
	Plan      *week.Planned
	Stretches []week.Stretch
}

// Offered is a place that a new job may take.
type Offered struct {
	Bench                int
	Person               string // "" where nobody is named
	Start, Ready, Honest time.Time
}

// Words are what can be promised, "" where nothing can: what was promised already where that can be kept.
func (o *Placed) Words(promised time.Time) string {
	switch {
	case o.Honest.IsZero():
		return ""
	case !promised.IsZero() && !o.Honest.After(promised):
		return base.TimeWords(promised) + " as promised"
	}
	return base.TimeWords(o.Honest)
}

// PlaceFor says when an option can be had that is agreed to now, round what stands: its parts come so many days from now.
func PlaceFor(rows []BenchRow, c *Calendar, r *MachineRecord, o *plan.Option, days hw.Maybe[int]) (Placed, error) {
	job := r.JobID
	p := newPlanner(c)
	for i := range rows {
		if rows[i].JobID != job {
			p.add(&rows[i])
		}
	}
	n, known := days.Get()
	switch copying, told := copyingOf(o); {
	case !known:
		return Placed{Why: "when the parts come is not known"}, nil
	case copying && !told.IsKnown():
		return Placed{Why: "how long the drive takes to copy is not known: record what it holds"}, nil
	}
	x := week.Job{ID: fmt.Sprint(job), Stretches: p.workOf(r, o)}
	if !p.arrives(&x, r.State.Away) {
		return Placed{Why: whyAway}, nil
	}
	if n > 0 {
		p.waits(&x, base.DueAt(c.Now.AddDate(0, 0, n), false))
	}
	return p.offer(x)
}

// offer says where a job that comes now could go, round what stands.
func (p *planner) offer(x week.Job) (Placed, error) {
	x.New, x.Promise, x.Pin, x.Published, x.Danger = true, "", nil, nil, false
	p.r.Jobs = append(p.r.Jobs, x)
	s, err := p.make()
	if err != nil {
		return Placed{}, err
	}
	for _, u := range s.Unplaced {
		if u.Job == x.ID {
			return Placed{Why: week.NoPlaces.Says(u.Code)}, nil
		}
	}
	if len(s.Offers) == 0 || p.when(s.Offers[0].Promise).Sub(p.Now) > farthest {
		return Placed{Why: week.NoPlaces.Says(week.NeverFits)}, nil
	}
	out := Placed{Honest: p.when(s.Offers[0].Promise), Stretches: x.Stretches}
	for _, o := range s.Offers {
		bench, _ := strconv.Atoi(o.Bench) // the request's own numbers
		out.Offers = append(out.Offers, Offered{bench, p.nameOf(o.Person), p.when(o.Start), p.when(o.Ready), p.when(o.Promise)})
	}
	for i := range s.Jobs {
		if s.Jobs[i].ID == x.ID {
			out.Plan = &s.Jobs[i]
		}
	}
	return out, nil
}

// When is when the customer of a job can have the machine, as one can say it at the counter.
type When struct {
	Placed
	Calendar
	Row BenchRow
	// Rests are what the answer rests on, in words: what somebody said, and what nobody has confirmed.
	Rests []string
	// Without is what could be had of it earlier, without what is waited for; its Offers are empty where nothing is.
	Without Placed
}

// whyAway is why nothing is promised of a machine that is with its customer.
const whyAway = "when the machine comes is not known"

// partsWords say what is known of when the parts come.
func (r *BenchRow) partsWords() string {
	if r.Sure {
		return "the supplier has confirmed the parts for " + r.Due.Words()
	}
	return "the parts are expected " + r.Due.Words() + ", which the supplier has not confirmed"
}

// WhenOf answers "when can I have it?" for a job: round what stands, as it is shown to all, or with what is still being
// arranged where draft is set.
func (s *Jobs) WhenOf(ctx context.Context, job int64, draft bool) (When, error) {
	var w When
	err := s.Store.View(ctx, func(tx store.Tx) error {
		c, err := s.CalendarIn(tx)
		if draft {
			c, err = s.draftIn(tx)
		}
		if err != nil {
			return err
		}
		rows, err := s.BenchRows(tx)
		if err != nil {
			return err
		}
		rank(rows)
		w, err = whenOf(rows, &c, job)
		return err
	})
	return w, err
}

func whenOf(rows []BenchRow, c *Calendar, job int64) (When, error) {
	w := When{Calendar: *c}
	p := newPlanner(c)
	at := -1
	for i := range rows {
		if rows[i].JobID == job {
			at = i
		} else {
			p.add(&rows[i])
		}
	}
	if at < 0 {
		return w, store.ErrNotFound
	}
	w.Row = rows[at]
	r, choice := &w.Row, w.Row.Record.Choice
	switch {
	case r.Class == ClassDanger:
		w.Why = "it is made safe first; what comes after is not known yet"
	case r.Record.State.Proven != nil || r.Record.State.Declined != nil:
		w.Why = "it can be handed over now"
	case r.Class == ClassRunning || r.Class == ClassDone:
		w.Rests = append(w.Rests, "the work is under way")
		_, err := w.standing(rows, c)
		return w, err
	case choice == nil:
		w.Why = "nothing is chosen yet"
	case r.Copies && !r.Copying.IsKnown():
		w.Why = "how long the drive takes to copy is not known: record what it holds"
	}
	if w.Why != "" {
		return w, nil
	}
	x := week.Job{ID: fmt.Sprint(job), Stretches: p.workOf(&r.Record, &choice.Option)}
	if away := r.Record.State.Away; away != nil {
		if !p.arrives(&x, away) {
			w.Why = whyAway
			return w, nil
		}
		w.Rests = append(w.Rests, away.Words(c.Now))
	}
	// Where a customer's word is missing, the answer is for a word that comes now.
	days, known := choice.Option.ReadyInDays.Get()
	switch {
	case r.Class == ClassParts && r.Due != "":
		w.Rests = append(w.Rests, r.partsWords())
		p.waits(&x, r.Due)
	case r.ToOrder && known:
		w.Rests = append(w.Rests, "the parts are not ordered yet; ordered today, the supplier takes "+hw.Count(days, "day", "days"))
		p.waits(&x, base.DueAt(c.Now.AddDate(0, 0, days), false))
	case r.Class == ClassParts:
		w.Why = "when the parts come is not known: no day was said"
		return w, nil
	}
	if r.Class == ClassCustomer {
		w.Rests = append(w.Rests, "the answer is still awaited: "+hw.LowerFirst(r.Why))
	}
	if len(x.Needs) > 0 {
		bare := newPlanner(c)
		for i := range rows {
			if i != at {
				bare.add(&rows[i])
			}
		}
		free := x
		free.Needs = nil
		var err error
		if w.Without, err = bare.offer(free); err != nil {
			return w, err
		}
	}
	placed, err := p.offer(x)
	if err != nil {
		return w, err
	}
	// What has a place already is answered with that one, as the bench list has it; the others are what else could be.
	if stands, err := w.standing(rows, c); err != nil || stands {
		for _, o := range placed.Offers {
			if o.Start.After(w.Offers[0].Start) && len(w.Offers) < 3 {
				w.Offers = append(w.Offers, o)
			}
		}
		return w, err
	}
	w.Placed = placed
	return w, nil
}

// standing answers for what has its place in the week: as planned. ok is false where it has none.
func (w *When) standing(rows []BenchRow, c *Calendar) (ok bool, err error) {
	planned := slices.Clone(rows)
	p, _, err := scheduled(planned, c)
	if err != nil {
		return false, err
	}
	for i := range planned {
		if r := &planned[i]; r.JobID == w.Row.JobID && r.Plan != nil {
			w.Row, w.Honest, w.Plan, w.Why = *r, r.Honest, r.Plan, ""
			w.Offers = []Offered{{r.Bench, r.By, p.when(r.Plan.Stretches[0].Start), r.Ready, r.Honest}}
			for _, j := range p.r.Jobs {
				if j.ID == r.Plan.ID {
					w.Stretches = j.Stretches
				}
			}
			return true, nil
		}
	}
	w.Why = week.NoPlaces.Says(week.NeverFits)
	return false, nil
}

// earliest is when the customer could have a machine if nothing else stood on the benches, its parts coming on a day ("" for
// here); without is why it has no place, "" where it has one.
func earliest(r *MachineRecord, c *Calendar, comes base.Due) (ready time.Time, without week.NoPlace) {
	p := newPlanner(c)
	x := week.Job{ID: "alone", Stretches: p.workOf(r, &r.Choice.Option)}
	if !p.arrives(&x, r.State.Away) {
		return time.Time{}, week.Blocked // by its customer, who has the machine
	}
	if comes.Ahead(c.Now) {
		p.waits(&x, comes)
	}
	p.r.Jobs = []week.Job{x}
	s, err := p.make()
	switch {
	case err != nil:
		return time.Time{}, week.NeverFits
	case len(s.Unplaced) > 0:
		return time.Time{}, s.Unplaced[0].Code
	}
	return p.when(s.Jobs[0].Ready), ""
}
