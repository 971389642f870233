package week

import (
	"cmp"
	"math/rand/v2"
	"slices"
)

// steps are how many schedules are tried where the best one is not searched for exactly: a fixed number, so that one request
// has one answer.
const steps = 1200

// crowd looks for a good schedule of many jobs: they are placed one by one, each at the bench and by the person that serve it
// best, into what is free; then jobs are taken out and put elsewhere in that row, or bound elsewhere, as long as nothing gets
// worse (iterated insertion).
type crowd struct {
	q     *problem
	jobs  []*job
	fixed []*place // of those that are under way or pinned; nil for the others
	stuck *job     // that found no place last
}

// row is in which order jobs are placed; bound is at which bench and by whom, where that is not left to the moment.
type row struct {
	order []int
	bound map[int][2]int
}

// first is the row that a good foreman would write: dangers, then what is promised first, then what can begin first.
func (c *crowd) first() row {
	var r row
	for i := range c.jobs {
		if c.fixed[i] == nil {
			r.order = append(r.order, i)
		}
	}
	danger := func(j *job) int {
		if j.Danger {
			return 0
		}
		return 1
	}
	slices.SortStableFunc(r.order, func(x, y int) int {
		a, b := c.jobs[x], c.jobs[y]
		return cmp.Or(cmp.Compare(danger(a), danger(b)), cmp.Compare(a.promise, b.promise), cmp.Compare(a.release, b.release),
			cmp.Compare(b.weight, a.weight))
	})
	r.bound = map[int][2]int{}
	return r
}

// decode places all jobs of a row; ok is false where one finds no place.
func (c *crowd) decode(r row) (places []*place, sum Objective, ok bool) {
	t := c.q.newTable()
	places = make([]*place, len(c.jobs))
	for i, x := range c.fixed {
		if x != nil {
			places[i] = x
			t.put(c.jobs[i], x)
			sum = sum.plus(c.q.cost(c.jobs[i], x.b, x.p, x.at[0].s, x.end()))
		}
	}
	for _, i := range r.order {
		j := c.jobs[i]
		var best *place
		var least Objective
		try := func(b, p int) {
			x := c.q.fit(j, b, p, j.release, t)
			if x == nil {
				return
			}
			cost := c.q.cost(j, b, p, x.at[0].s, x.end())
			if best == nil || cost.less(&least) || !least.less(&cost) && x.end() < best.end() {
				best, least = x, cost
			}
		}
		if at, is := r.bound[i]; is {
			try(at[0], at[1])
		} else {
			for b, p := range j.ways() {
				try(b, p)
			}
		}
		if best == nil {
			c.stuck = j
			return nil, sum, false
		}
		places[i] = best
		t.put(j, best)
		sum = sum.plus(least)
	}
	return places, sum, true
}

// improve looks for a better row in so many steps.
func (c *crowd) improve(tries int) (places []*place, best Objective, ok bool) {
	now := c.first()
	places, best, ok = c.decode(now)
	if !ok || len(now.order) == 0 {
		return places, best, ok
	}
	random := rand.New(rand.NewPCG(29, uint64(len(c.jobs))))
	for range tries {
		if c.q.ctx.Err() != nil {
			break // nobody waits for it any more
		}
		next := row{slices.Clone(now.order), map[int][2]int{}}
		for i, at := range now.bound {
			next.bound[i] = at
		}
		at := c.pick(random, next.order, places)
		i := next.order[at]
		if random.IntN(3) == 0 {
			j := c.jobs[i]
			next.bound[i] = [2]int{j.benches[random.IntN(len(j.benches))], j.people[random.IntN(len(j.people))]}
		} else {
			delete(next.bound, i)
		}
		next.order = slices.Delete(next.order, at, at+1)
		next.order = slices.Insert(next.order, random.IntN(len(next.order)+1), i)
		tried, sum, ok := c.decode(next)
		if ok && !best.less(&sum) {
			now, places, best = next, tried, sum
		}
	}
	return places, best, true
}

// pick is where in a row the job stands that is moved next: half the time one whose promise is broken.
func (c *crowd) pick(random *rand.Rand, order []int, places []*place) int {
	if random.IntN(2) == 0 {
		var broken []int
		for at, i := range order {
			if state, _ := c.q.state(c.jobs[i], c.q.ready(places[i].end())); state == Broken {
				broken = append(broken, at)
			}
		}
		if len(broken) > 0 {
			return broken[random.IntN(len(broken))]
		}
	}
	return random.IntN(len(order))
}
