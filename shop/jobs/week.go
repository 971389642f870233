package jobs

import (
	"fmt"
	"slices"
	"strconv"
	"time"

	"yembo/core/hw"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/store"
)

// mostTries is how many orders of jobs a page has tried, divided among them: with a few they are many.
const mostTries = 240

// farthest is how far a plan looks: what is promised, closed or away later than this changes nothing in it.
const farthest = 366 * 24 * time.Hour

// Calendar is what a shop plans with beside its jobs: when it is, how it works, and what hands have put where.
type Calendar struct {
	Now time.Time
	How base.Settings
	Arr Arranged
	// Runs is how long hands were on whole runs, in minutes: by model and what was worked on (runKey).
	Runs map[string][]hw.Dec
}

// CalendarIn reads it, with what was put where as it was last shown to all: what is still being arranged is nobody's plan yet.
func (s *Jobs) CalendarIn(tx store.Tx) (Calendar, error) {
	c, err := s.draftIn(tx)
	c.Arr.Pins = c.Arr.ShownPins
	return c, err
}

// draftIn reads it with all that hands have moved so far.
func (s *Jobs) draftIn(tx store.Tx) (Calendar, error) {
	c := Calendar{Now: s.Now().Truncate(time.Minute)}
	var err error
	if c.How, err = base.SettingsIn(tx); err != nil {
		return c, err
	}
	if c.Arr, err = arrangedIn(tx); err != nil {
		return c, err
	}
	c.Runs, err = wholeRuns(tx)
	return c, err
}

// planner turns the open jobs of a shop into a week and back.
type planner struct {
	Calendar
	floor   base.Floor
	people  []string // at the benches; their IDs are their places in it
	r       *week.Request
	ids     map[string]*BenchRow
	piece   int // minutes of the longest time for which the shop is open without a break
	longest int // open minutes of the longest day
}

// newPlanner knows when the shop is open and who works there when; a shop that names nobody has one person.
func newPlanner(c *Calendar) *planner {
	p := &planner{Calendar: *c, floor: c.How.FloorOf(), people: c.How.AtBench, ids: map[string]*BenchRow{}}
	if len(p.people) == 0 {
		p.people = []string{"somebody"}
	}
	hours := c.How.Open()
	p.r = &week.Request{Format: week.Format, Now: p.Now.Format(time.RFC3339), Hours: hours, Practice: c.How.Week.Practice()}
	for day := range time.Saturday + 1 {
		all := 0
		for _, s := range hours.On(day) {
			open := base.SpanMinutes(s)
			p.piece, all = max(p.piece, open), all+open
		}
		p.longest = max(p.longest, all)
	}
	closed := map[string]bool{}
	for _, s := range c.How.Closed {
		from, to, ok := p.within(s)
		if !ok {
			continue
		}
		for on := from; !on.After(to); on = on.AddDate(0, 0, 1) {
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
		x := week.Person{ID: strconv.Itoa(i), Name: name, Hours: c.How.PeopleHours[name]}
		for _, s := range c.How.Away {
			if from, to, ok := p.within(s); ok && s.Who == name {
				x.Away = append(x.Away, week.Away{From: from.Format(time.DateOnly), To: to.Format(time.DateOnly)})
			}
		}
		p.r.People = append(p.r.People, x)
	}
	return p
}

// within are the days of a spell that a plan looks at; ok is false where there are none.
func (p *planner) within(s base.Spell) (from, to time.Time, ok bool) {
	a, b := max(s.From, p.Now.AddDate(0, 0, -30).Format(time.DateOnly)), min(s.To, p.Now.Add(farthest).Format(time.DateOnly))
	from, errFrom := time.Parse(time.DateOnly, a)
	to, errTo := time.Parse(time.DateOnly, b)
	return from, to, errFrom == nil && errTo == nil && a <= b
}

// add tells the week of a job.
func (p *planner) add(r *BenchRow) {
	j := week.Job{ID: fmt.Sprint(r.JobID), Weight: 1}
	// A promise years away is kept, one that has been broken for a year is told by the page itself.
	if at := r.Record.Promised; !at.IsZero() && at.Sub(p.Now).Abs() < farthest {
		j.Promise = at.Truncate(time.Minute).Format(time.RFC3339)
	}
	switch r.Class {
	case ClassDanger:
		j.Danger, j.Promise = true, ""
		j.Stretches = []week.Stretch{{Do: week.Hands, Minutes: hw.DecOf(fireBox), Aside: true}}
	case ClassRunning:
		j.Started, j.Stretches = p.startedAt(r.Bench), p.left(r)
	case ClassReady, ClassAway:
		j.Stretches = p.workOf(&r.Record, &r.Record.Choice.Option)
		p.arrange(&j, r.JobID)
	case ClassParts:
		j.Stretches = p.planned(r)
		p.waits(&j, r.Due)
		p.arrange(&j, r.JobID)
	case ClassCustomer:
		j.Blocked, j.Stretches = "customer", p.planned(r)
	case ClassDone:
		if r.Record.State.Proven != nil || r.Record.State.Declined != nil {
			return
		}
		j.Stretches = []week.Stretch{p.hands(DoProof, hw.DecOf(proofTakes))}
		if r.Bench > 0 {
			j.Started = p.startedAt(r.Bench) // it is proven where it stands, nil where another stands there by now
		}
	default:
		j.Blocked, j.Stretches = "shop", p.planned(r) // nobody knows yet what is to be done
	}
	if r.Movable() && !p.arrives(&j, r.Record.State.Away) {
		j.Blocked = "customer"
	}
	p.r.Jobs = append(p.r.Jobs, j)
	p.ids[j.ID] = r
}

// waits lets a job wait for parts that come by then, "" where that was not said; what is years away is as good as that.
func (p *planner) waits(j *week.Job, due base.Due) {
	arrival := week.Arrival{ID: "a" + j.ID}
	switch at, timed, ok := due.At(p.Now.Location()); {
	case !ok || at.Sub(p.Now).Abs() >= farthest:
	case timed:
		arrival.At = at.Format(time.RFC3339)
	default:
		arrival.On = due.Day()
	}
	p.r.Arrivals, j.Needs = append(p.r.Arrivals, arrival), []string{arrival.ID}
}

// arrange tells the week where a hand has put a job, and where it was last shown.
func (p *planner) arrange(j *week.Job, id int64) {
	pin, pinned := p.Arr.Pins[id]
	if pinned {
		j.Pin = &week.Pin{Bench: p.bench(pin.Bench), Person: p.person(pin.Person), Start: pin.Start.Format(time.RFC3339)}
	}
	if shown, ok := p.Arr.Shown.of(id); ok {
		j.Published = &week.Published{Bench: p.bench(shown.Bench), Person: p.person(shown.Person),
			Ready: shown.Ready.Format(time.RFC3339)}
		// What begins within two open hours stays where everybody has seen it.
		if !pinned && !shown.Start.Before(p.Now) && p.How.Worked(p.Now, shown.Start) < soon && shown.Start.Sub(p.Now) < 24*time.Hour {
			j.Pin = &week.Pin{Bench: p.bench(shown.Bench), Person: p.person(shown.Person), Start: shown.Start.Format(time.RFC3339)}
		}
	}
}

// bench and person are their IDs in the request, "" for one that is not there any more.
func (p *planner) bench(n int) string {
	if n < 1 || n > p.floor.Benches {
		return ""
	}
	return strconv.Itoa(n)
}

func (p *planner) person(name string) string {
	if i := slices.Index(p.people, name); i >= 0 {
		return strconv.Itoa(i)
	}
	return ""
}

// nameOf is a person of the request by ID, "" for one whom nobody named.
func (p *planner) nameOf(id string) string {
	if i, err := strconv.Atoi(id); err == nil && i < len(p.people) && len(p.How.AtBench) > 0 {
		return p.people[i]
	}
	return ""
}

// startedAt is a bench with the next person who has nothing under way, nil where another stands there. More may be under way
// than people are named, or at a bench that was taken away since: somebody else is at it then, and it is there for that alone.
func (p *planner) startedAt(bench int) *week.Where {
	id := strconv.Itoa(bench)
	busy := map[string]bool{}
	for i := range p.r.Jobs {
		if x := p.r.Jobs[i].Started; x != nil {
			if x.Bench == id {
				return nil
			}
			busy[x.Person] = true
		}
	}
	if !slices.ContainsFunc(p.r.Benches, func(b week.Bench) bool { return b.ID == id }) {
		p.r.Benches = append(p.r.Benches, week.Bench{ID: id})
	}
	for i := range p.r.People {
		if person := p.r.People[i].ID; !busy[person] {
			return &week.Where{Bench: id, Person: person}
		}
	}
	person := strconv.Itoa(len(p.r.People))
	p.r.People = append(p.r.People, week.Person{ID: person})
	return &week.Where{Bench: id, Person: person}
}

// only binds what is not under way to the benches and the people that the shop has.
func (p *planner) only() {
	if len(p.r.People) == len(p.people) && len(p.r.Benches) == p.floor.Benches {
		return
	}
	var x week.Only
	for b := range p.floor.Benches {
		x.Benches = append(x.Benches, strconv.Itoa(b+1))
	}
	for i := range p.people {
		x.People = append(x.People, strconv.Itoa(i))
	}
	for i := range p.r.Jobs {
		if j := &p.r.Jobs[i]; j.Started == nil {
			j.Only = &x
		}
	}
}

// make works the week out: in the order of what was promised, which stays as it is from one look to the next; other orders
// are tried only where that one keeps a promise less.
func (p *planner) make() (*week.Schedule, error) {
	p.only()
	how := week.Quick{Where: p.Now.Location()}
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
	return t.In(p.Now.Location())
}

// scheduled plans the open jobs, and tells each row its place: on which bench, from when to when, when the customer can have
// the machine and what can be promised.
func scheduled(rows []BenchRow, c *Calendar) (*planner, *week.Schedule, error) {
	p := newPlanner(c)
	for i := range rows {
		p.add(&rows[i])
	}
	s, err := p.make()
	if err != nil {
		return nil, nil, fmt.Errorf("the week of the benches: %w", err)
	}
	asked := map[string][]week.Stretch{}
	for i := range p.r.Jobs {
		asked[p.r.Jobs[i].ID] = p.r.Jobs[i].Stretches
	}
	for i := range s.Jobs {
		x := &s.Jobs[i]
		r := p.ids[x.ID]
		first, last := x.Stretches[0], x.Stretches[len(x.Stretches)-1]
		if r.Class == ClassDanger {
			continue // it is made safe first; when the customer can have it nobody knows
		}
		r.Plan, r.By = x, p.nameOf(x.Person)
		r.Ready, r.Honest, r.Stands = p.when(x.Ready), p.when(x.Honest), x.Promise
		if r.AtLeast = r.Class == ClassParts && r.Record.Choice == nil; r.AtLeast && r.Stands != week.Broken {
			r.Stands = week.None // whether it is kept nobody knows
		}
		switch r.Class {
		case ClassRunning:
			r.Until = p.when(last.End)
			r.leftWords(p)
		case ClassReady, ClassParts, ClassAway, ClassDone:
			bench, _ := strconv.Atoi(x.Bench) // the request's own numbers
			r.Bench, r.Start, r.Until = bench, p.when(first.Start), p.when(last.End)
		}
		r.Stays = p.staysOf(x, asked[x.ID])
		if r.Class == ClassReady {
			r.WaitsFor = fmt.Sprintf("bench %d, %s", r.Bench, clockWords(r.Start, p.Now))
			if runs, minutes := p.measuredOf(r); runs > 0 {
				r.Why += fmt.Sprintf("; planned for %d min, as %d earlier runs took", minutes, runs)
			}
		}
	}
	for _, x := range s.Unplaced {
		if r := p.ids[x.Job]; r.Class == ClassReady {
			r.WaitsFor = week.NoPlaces.Says(x.Code)
		}
	}
	return p, s, nil
}

// leftWords add how long a job under way still takes, or how far it is over its plan.
func (r *BenchRow) leftWords(p *planner) {
	if !r.Minutes.IsKnown() {
		return
	}
	whole := p.minutesOf(r) + DurationOf(r.Copying.Or(0))
	if left := int((whole - p.How.Worked(r.Start, p.Now)).Round(time.Minute).Minutes()); left >= 0 {
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
