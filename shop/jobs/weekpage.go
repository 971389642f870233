package jobs

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"time"

	"yembo/core/hw"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/shop/stock"
	"yembo/store"
)

// WeekPlan is the open jobs over the days, as hands have arranged them so far.
type WeekPlan struct {
	Calendar
	Rows     []BenchRow
	Made     *week.Schedule
	Jobs     map[string]*BenchRow // by their IDs in the schedule
	Arrivals []Arriving
	Refused  map[int64]week.PinCode // of what a hand has put where it cannot stand any more
	// Changes are the jobs that stand otherwise than they were last shown to all; nil where nothing ever was.
	Changes []int64
	// Passed is by how many machines that came later a job was passed that is ready and was not promised.
	Passed map[int64]int
	asked  []week.Job
}

// Stretches are what is done of a job, in the order of its planned stretches.
func (w *WeekPlan) Stretches(job int64) []week.Stretch {
	id := strconv.FormatInt(job, 10)
	for i := range w.asked {
		if w.asked[i].ID == id {
			return w.asked[i].Stretches
		}
	}
	return nil
}

// Arriving is an order that jobs wait for.
type Arriving struct {
	Order    int64
	Supplier string
	Due      base.Due // "" where that was not said
	Sure     bool     // the supplier has said so
	Late     bool
	What     []string
	For      []int64 // jobs
}

// Week is the week as it is being arranged: with all that hands have moved, shown to all or not.
func (s *Jobs) Week(ctx context.Context) (WeekPlan, error) { return s.weekWith(ctx, 0, nil) }

// TryMove is the week as it would be with a job put elsewhere; nothing is kept.
func (s *Jobs) TryMove(ctx context.Context, job int64, to Pin) (WeekPlan, error) {
	return s.weekWith(ctx, job, &to)
}

func (s *Jobs) weekWith(ctx context.Context, job int64, to *Pin) (WeekPlan, error) {
	var w WeekPlan
	err := s.Store.View(ctx, func(tx store.Tx) error {
		c, err := s.draftIn(tx)
		if err != nil {
			return err
		}
		if to != nil {
			c.Arr.pin(job, to)
		}
		w, err = s.weekIn(tx, c)
		return err
	})
	return w, err
}

func (s *Jobs) weekIn(tx store.Tx, c Calendar) (WeekPlan, error) {
	w := WeekPlan{Calendar: c, Refused: map[int64]week.PinCode{}}
	rows, err := s.BenchRows(tx)
	if err != nil {
		return w, err
	}
	lacks, err := s.LacksIn(tx)
	if err != nil {
		return w, err
	}
	rank(rows)
	p, made, err := scheduled(rows, &c)
	if err != nil {
		return w, err
	}
	w.Rows, w.Made, w.Jobs, w.asked = rows, made, p.ids, p.r.Jobs
	for _, x := range made.Refused {
		id, _ := strconv.ParseInt(x.Job, 10, 64) // the request's own numbers
		if _, byHand := c.Arr.Pins[id]; byHand {
			w.Refused[id] = x.Code
		}
	}
	w.Arrivals = arriving(rows, lacks, c.Now)
	w.Changes = changed(rows, c.Arr.Shown)
	w.Passed, err = passed(tx, rows)
	return w, err
}

// OftenPassed is how often a job is passed before that is shown.
const OftenPassed = 3

// passed counts for each job that is ready and was not promised the machines that came after it was, and went first: those that
// are out of the house, those that are at work or done, those that are planned before it.
func passed(tx store.Tx, rows []BenchRow) (map[int64]int, error) {
	out := map[int64]int{}
	for i := range rows {
		r := &rows[i]
		if r.Class != ClassReady || !r.Record.Promised.IsZero() || r.Since.IsZero() {
			continue
		}
		n, err := tx.ClosedOf(r.Since)
		if err != nil {
			return nil, err
		}
		for k := range rows {
			x := &rows[k]
			first := x.Class == ClassRunning || x.Class == ClassDone || x.Class == ClassReady && x.Start.Before(r.Start)
			if k != i && first && x.Record.TakenIn.After(r.Since) {
				n++
			}
		}
		out[r.JobID] = n
	}
	return out, nil
}

// arriving are the orders that jobs wait for, by day; what nobody said comes last.
func arriving(rows []BenchRow, lacks map[int64][]stock.Lack, now time.Time) []Arriving {
	at := map[int64]*Arriving{}
	var out []Arriving
	for i := range rows {
		for _, l := range lacks[rows[i].JobID] {
			if l.Order == nil {
				continue
			}
			x := at[l.Order.Order]
			if x == nil {
				x = &Arriving{Order: l.Order.Order, Supplier: l.Order.Supplier, Due: l.Order.Due,
					Sure: l.Order.Confirmed, Late: l.Order.Due.Late(now)}
				at[x.Order] = x
			}
			x.What = append(x.What, fmt.Sprintf("%d × %s", l.N, l.Name))
			if !slices.Contains(x.For, rows[i].JobID) {
				x.For = append(x.For, rows[i].JobID)
			}
		}
	}
	for i := range rows { // what was told on the job alone
		r := &rows[i]
		if r.Class == ClassParts && r.Due != "" && r.Due == r.Record.State.Due {
			out = append(out, Arriving{Due: r.Due, Late: r.Due.Late(now), What: []string{r.Record.State.For}, For: []int64{r.JobID}})
		}
	}
	for _, x := range at {
		out = append(out, *x)
	}
	slices.SortFunc(out, func(a, b Arriving) int {
		switch {
		case a.Due == b.Due:
			return int(a.Order - b.Order)
		case b.Due == "" || a.Due != "" && b.Due.Later(a.Due) == b.Due:
			return -1
		}
		return 1
	})
	return out
}

// stays are the planned times at the benches, as they can be shown.
func stays(rows []BenchRow) []Stay {
	var out []Stay
	for i := range rows {
		r := &rows[i]
		if r.Bench == 0 || r.Start.IsZero() {
			continue
		}
		for n, at := range r.Stays {
			if n == 0 && r.Class == ClassRunning {
				at.From = r.Start
			}
			out = append(out, Stay{Job: r.JobID, N: n + 1, Bench: r.Bench, Person: r.By, Start: at.From, End: at.To, Ready: r.Ready})
		}
	}
	return out
}

// changed are the jobs that stand otherwise than shown, those that were not shown or are gone among them. What is under way
// ends when it ends: that is no change.
func changed(rows []BenchRow, shown *Shown) []int64 {
	if shown == nil {
		return nil
	}
	var out []int64
	running := map[int64]bool{}
	for i := range rows {
		running[rows[i].JobID] = rows[i].Class == ClassRunning || rows[i].Class == ClassDone
	}
	now := stays(rows)
	for _, x := range now {
		was, had := shown.of(x.Job)
		if x.N == 1 && !running[x.Job] && (!had || was.Bench != x.Bench || was.Person != x.Person || !was.Start.Equal(x.Start)) {
			out = append(out, x.Job)
		}
	}
	for _, was := range shown.Stays {
		open, isOpen := running[was.Job]
		if was.Gone.IsZero() && isOpen && !open && !slices.ContainsFunc(now, func(x Stay) bool { return x.Job == was.Job }) {
			out = append(out, was.Job)
		}
	}
	return out
}

// keptGone is for how long what is shown no more stands in calendars as cancelled.
const keptGone = 30 * 24 * time.Hour

// ShowWeek shows the week as it is arranged to all: bench list, quotes and calendars follow it from now on.
func (s *Jobs) ShowWeek(ctx context.Context, a base.Actor, token string) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		c, err := s.draftIn(tx)
		if err != nil {
			return "", err
		}
		if err := s.showIn(tx, &c, a.Name); err != nil {
			return "", err
		}
		return "", s.NoteJournal(tx, a, base.JournalWeek, "week shown to all")
	})
	return err
}

// showIn makes the week as it is arranged the one that was shown.
func (s *Jobs) showIn(tx store.Tx, c *Calendar, by string) error {
	w, err := s.weekIn(tx, *c)
	if err != nil {
		return err
	}
	var was []Stay
	if c.Arr.Shown != nil {
		was = c.Arr.Shown.Stays
	}
	c.Arr.Shown = &Shown{At: c.Now, By: by, Stays: shownAnew(was, stays(w.Rows), c.Now)}
	open := map[int64]bool{}
	for i := range w.Rows {
		open[w.Rows[i].JobID] = w.Rows[i].Movable()
	}
	for job := range c.Arr.Pins {
		if !open[job] {
			delete(c.Arr.Pins, job) // it is under way, or gone
		}
	}
	c.Arr.ShownPins = c.Arr.Pins
	return putArranged(tx, &c.Arr)
}

// shownAnew are stays as they are shown from now on: each change counts one more, and what is gone stays a while as cancelled.
func shownAnew(was, next []Stay, now time.Time) []Stay {
	var out []Stay
	for _, x := range next {
		x.Shown = now
		for _, y := range was {
			if y.Job != x.Job || y.N != x.N {
				continue
			}
			if x.Sequence = y.Sequence + 1; y.Gone.IsZero() && y.Bench == x.Bench && y.Start.Equal(x.Start) && y.End.Equal(x.End) {
				x.Sequence, x.Shown = y.Sequence, y.Shown
			}
		}
		out = append(out, x)
	}
	for _, y := range was {
		again := slices.ContainsFunc(next, func(x Stay) bool { return x.Job == y.Job && x.N == y.N })
		if again || !y.Gone.IsZero() && now.Sub(y.Gone) > keptGone {
			continue
		}
		if y.Gone.IsZero() {
			y.Gone, y.Shown = now, now
			y.Sequence++
		}
		out = append(out, y)
	}
	return out
}

// PromiseAnew writes down a talk in which a new time was agreed, and that time as what is promised: "Rung, agreed" in one press.
func (s *Jobs) PromiseAnew(ctx context.Context, a base.Actor, token string, job int64, seen, at time.Time, t Contact) error {
	return s.ChangeJob(ctx, a, token, job, func(tx store.Tx, row *store.Job, _ *Details, _ *State) (base.Event, error) {
		how, err := base.SettingsIn(tx)
		if err != nil {
			return base.Event{}, err
		}
		var faults hw.Faults
		if t.check(&faults); len(faults) > 0 {
			return base.Event{}, faults
		}
		was := time.Time{}
		if row.PromisedAt != nil {
			was = *row.PromisedAt
		}
		switch {
		case row.ClosedAt != nil:
			return base.Event{}, hw.Faults{{Pointer: "/promise", Text: "the job is closed"}}
		case !was.Truncate(time.Minute).Equal(seen):
			return base.Event{}, base.ErrChanged
		case how.Doubt(at, s.Now()) != "":
			return base.Event{}, hw.Faults{{Pointer: "/promise", Text: how.Doubt(at, s.Now())}}
		}
		row.PromisedAt = &at
		t.Agreed = "ready " + base.TimeWords(at)
		if err := tx.Create(&store.Contact{JobID: job, At: s.Now(), By: a.Name, Who: t.Who, How: t.How, Said: t.Said,
			Agreed: t.Agreed}); err != nil {
			return base.Event{}, err
		}
		what := "promised for " + base.TimeWords(at)
		if !was.IsZero() {
			what += ", before " + base.TimeWords(was)
		}
		return base.Event{What: "spoke with " + base.OrWord(t.Who, "the customer") + " (" + t.How + "), " + what,
			Kind: base.EventTalk, Data: Course{Agreed: true}.Data()}, nil
	})
}
