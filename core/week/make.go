package week

import (
	"context"
	"time"
)

// Sizes up to which the best schedule is owed: jobs neither under way nor pinned to a start, stretches of hands of all jobs,
// benches, people.
const (
	owedJobs, owedHands, owedBenches, owedPeople = 8, 20, 2, 3
)

// answer is a schedule while it is worked out.
type answer struct {
	q      *problem
	jobs   []*job // that have a place and are not new
	places map[*job]*place
	quick  *Quick
	exact  bool
	doc    *Schedule
}

// Make works a schedule out. The error is hw.Faults for a request that cannot be, or the context's.
func Make(ctx context.Context, r *Request) (*Schedule, error) { return work(ctx, r, nil) }

// Quick is how a page wants a schedule: at once, in the shop's own place, good and not searched to the end.
type Quick struct {
	Where *time.Location // in place of the request's time zone
	Tries int            // other orders that are tried, 0 for the first that a foreman would write
}

// Quickly is Make for a page that waits.
func Quickly(r *Request, how Quick) (*Schedule, error) { return work(context.Background(), r, &how) }

func work(ctx context.Context, r *Request, quick *Quick) (*Schedule, error) {
	q, err := read(r, quick)
	if err != nil {
		return nil, err
	}
	q.ctx = ctx
	a := &answer{q: q, quick: quick, places: map[*job]*place{}, doc: &Schedule{Format: FormatSchedule,
		Now: q.z.text(q.now), Jobs: []Planned{},
		Offers: []Offer{}, Unplaced: []Unplaced{}, Refused: []Refused{}, Tell: []Tell{}}}
	a.doc.Refused = append(a.doc.Refused, q.judge()...)
	a.place()
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	for i, j := range a.jobs {
		x := a.places[a.jobs[i]]
		a.doc.Objective = a.doc.Objective.plus(q.cost(j, x.b, x.p, x.at[0].s, x.end()))
	}
	if a.doc.Exact = a.exact; !a.exact {
		a.doc.Bound = q.lower(a.jobs)
	}
	a.offer()
	a.tell()
	return a.doc, nil
}

// place finds a place for each job that is not new.
func (a *answer) place() {
	for {
		a.jobs = a.jobs[:0]
		for _, j := range a.q.jobs {
			if j.code == "" && !j.New {
				a.jobs = append(a.jobs, j)
			}
		}
		places, stuck := a.best()
		if stuck == nil {
			a.q.least(a.jobs, places)
			for i, j := range a.jobs {
				a.places[j] = places[i]
			}
			return
		}
		if a.q.ctx.Err() != nil {
			return
		}
		stuck.code = NeverFits // what stands leaves it nothing for a year
	}
}

// best are the best places that are found; stuck is a job that finds none.
func (a *answer) best() (places []*place, stuck *job) {
	q := a.q
	c := &crowd{q: q, jobs: a.jobs, fixed: make([]*place, len(a.jobs))}
	var fixed []*job
	free, hands := 0, 0
	for _, j := range a.jobs {
		if j.started || j.kept {
			fixed = append(fixed, j)
		}
		if !j.started && !j.kept {
			free++
		}
		for k := range j.stretches {
			if j.stretches[k].hands {
				hands++
			}
		}
	}
	standing, stuck := q.together(fixed)
	if stuck != nil {
		return nil, stuck
	}
	for i, j := range a.jobs {
		for k, f := range fixed {
			if j == f {
				c.fixed[i] = standing[k]
			}
		}
	}
	owed := free <= owedJobs && hands <= owedHands && len(q.r.Benches) <= owedBenches && len(q.r.People) <= owedPeople
	tries := steps
	switch {
	case a.quick != nil:
		owed, tries = false, a.quick.Tries
	case owed:
		tries = 150 * free // a good start for the search
	}
	places, sum, ok := c.improve(tries)
	if a.exact = false; owed {
		s := &search{q: q, jobs: a.jobs, best: sum, known: ok}
		better, whole := s.solve()
		if a.exact = whole; better != nil {
			return better, nil
		}
	}
	if !ok {
		return nil, c.stuck
	}
	return places, nil
}

// lower is what no schedule goes below: each job alone, wherever it is ready first.
func (q *problem) lower(jobs []*job) *Bound {
	sum := &Bound{}
	for _, j := range jobs {
		first := never
		for b, p := range j.ways() {
			if x := q.fit(j, b, p, j.release, q.newTable()); x != nil {
				first = min(first, x.end())
			}
		}
		if first == never {
			continue
		}
		if state, late := q.state(j, q.ready(first)); state == Broken {
			sum.Broken += j.weight
			sum.Late += late
		}
	}
	return sum
}

// Most places that are looked at for a new job on a bench by a person, and offers that are made.
const (
	mostTried  = 10
	mostOffers = 3
)

// offer places new jobs, in the order of the list, round what stands, and tells where else they could go.
func (a *answer) offer() {
	q := a.q
	t := q.newTable()
	for _, j := range a.jobs {
		t.put(j, a.places[j])
	}
	for _, j := range q.jobs {
		if !j.New || j.code != "" {
			continue
		}
		var found []*place
		for b, p := range j.ways() {
			from := j.release
			for range mostTried {
				x := q.fit(j, b, p, from, t)
				if x == nil {
					break
				}
				found = append(found, x)
				if from = q.z.midnight(x.at[0].s); from >= never {
					break
				}
			}
		}
		taken := q.choose(found)
		if len(taken) == 0 {
			j.code = NeverFits
			continue
		}
		a.places[j] = taken[0]
		t.put(j, taken[0])
		for _, x := range taken {
			ready := q.ready(x.end())
			a.doc.Offers = append(a.doc.Offers, Offer{j.ID, q.r.Benches[x.b].ID, q.r.People[x.p].ID, q.z.text(x.at[0].s),
				q.z.text(ready), q.z.text(q.honest(j, ready))})
		}
	}
}

// choose are the earliest of some places, and the next two that differ from each taken in bench or in the date of ready.
func (q *problem) choose(found []*place) []*place {
	sortPlaces(q, found)
	var taken []*place
	for _, x := range found {
		differs := true
		for _, y := range taken {
			if x.b == y.b && q.z.day(q.ready(x.end())) == q.z.day(q.ready(y.end())) {
				differs = false
			}
		}
		if differs && len(taken) < mostOffers {
			taken = append(taken, x)
		}
	}
	return taken
}

// honest is what can be promised: ready and the margin, in open minutes, on the next round time at which the shop is open.
func (q *problem) honest(j *job, ready int) int {
	t := q.open.add(ready, j.margin)
	for {
		if t = q.open.moment(t); t >= never {
			return never
		}
		over := q.z.clock(t) % q.round
		if over == 0 {
			return t
		}
		t += q.round - over
	}
}
