package week

import "sort"

// slot is when a stretch is done.
type slot struct{ s, e int }

// place is where and when a job is done.
type place struct {
	b, p int
	at   []slot
}

// end is when its last stretch ends.
func (x *place) end() int { return x.at[len(x.at)-1].e }

// table is what benches and people are taken with, in order of time.
type table struct {
	bench, person [][]taken
}

// taken is a stay on a bench, or hands, of a job.
type taken struct {
	a, b int
	job  *job
}

func (q *problem) newTable() *table {
	return &table{make([][]taken, len(q.r.Benches)), make([][]taken, len(q.r.People))}
}

// put adds a job's place.
func (t *table) put(j *job, x *place) {
	begins := 0
	for k := range j.stretches {
		s := &j.stretches[k]
		from := x.at[k].s
		if j.started && k == 0 {
			from = j.release // it holds bench and hands from now, whenever its person is next there
		}
		if s.stay {
			begins = from
		}
		if s.last {
			t.bench[x.b] = inserted(t.bench[x.b], taken{begins, x.at[k].e, j})
		}
		if s.hands {
			t.person[x.p] = inserted(t.person[x.p], taken{from, x.at[k].e, j})
		}
	}
}

func inserted(list []taken, x taken) []taken {
	i := sort.Search(len(list), func(i int) bool { return list[i].a > x.a })
	list = append(list, x)
	copy(list[i+1:], list[i:])
	list[i] = x
	return list
}

// hit is the first of a list that a span [a, b) meets, with so much between them; nil for none.
func hit(list []taken, a, b, between int) *taken {
	i := sort.Search(len(list), func(i int) bool { return list[i].b+between > a })
	if i < len(list) && list[i].a < b+between {
		return &list[i]
	}
	return nil
}

// earliest is the first place from t on for a stretch by a person, whatever else they do.
func (q *problem) earliest(person int, s *stretch, t int) slot {
	there := q.there[person]
	if !s.hands {
		for {
			start := there.moment(t)
			if start == never || s.alone || q.anybody.covers(start, start+s.min) {
				return slot{start, min(start+s.min, never)}
			}
			i := q.anybody.from(start)
			if i < len(q.anybody) && q.anybody[i].a <= start {
				i++ // it ends too soon
			}
			if i == len(q.anybody) {
				return slot{never, never}
			}
			t = q.anybody[i].a
		}
	}
	switch s.split {
	case SplitClosing:
		start := there.work(t)
		return slot{start, there.add(start, s.min)}
	case SplitBreak:
		for {
			start := there.work(t)
			if start == never {
				return slot{never, never}
			}
			midnight := q.z.midnight(start)
			if there.between(start, midnight) >= s.min {
				return slot{start, there.add(start, s.min)}
			}
			t = midnight
		}
	case SplitNo:
	}
	start := there.piece(t, s.min)
	return slot{start, min(start+s.min, never)}
}

// underWay is when the stretch is done with which a started job stands at the bench.
func (q *problem) underWay(j *job) slot {
	s := &j.stretches[0]
	if !s.hands {
		return slot{q.now, q.now + s.min}
	}
	start := q.there[j.startedP].work(q.now)
	return slot{start, q.there[j.startedP].add(start, s.min)}
}

// fit is the earliest place for a job at a bench by a person, from a moment on, round what is taken; nil where there is none.
// All its stretches are as early as any place lets them: of two places the earlier of each stretch is one too.
func (q *problem) fit(j *job, b, p, from int, t *table) *place {
	x := &place{b, p, make([]slot, len(j.stretches))}
	least := make([]int, len(j.stretches))
	for {
		if !q.chain(j, x, least, from, t) {
			return nil
		}
		if !q.raised(j, x, least, t) {
			return x
		}
	}
}

// chain lays a job's stretches one after the other, each from its least on; ok is false where one has no place.
func (q *problem) chain(j *job, x *place, least []int, from int, t *table) (ok bool) {
	stayed := 0
	for k := range j.stretches {
		s := &j.stretches[k]
		at := max(from, least[k])
		if s.stay && stayed > 0 {
			at = max(at, stayed+q.clear)
		}
		switch {
		case k == 0 && j.started:
			if x.at[0] = q.underWay(j); least[0] == never {
				return false // another stands in the way, and it cannot be moved
			}
		case k == 0 && j.pin != never:
			x.at[0] = q.earliest(x.p, s, j.pin)
			if at > j.pin || x.at[0].s != j.pin || s.hands && hit(t.person[x.p], x.at[0].s, x.at[0].e, 0) != nil {
				return false
			}
		default:
			for {
				x.at[k] = q.earliest(x.p, s, at)
				if x.at[k].e >= never {
					return false
				}
				if !s.hands {
					break
				}
				busy := hit(t.person[x.p], x.at[k].s, x.at[k].e, 0)
				if busy == nil {
					break
				}
				at = busy.b
			}
		}
		if x.at[k].e >= never {
			return false
		}
		if s.last {
			stayed = x.at[k].e
		}
		from = x.at[k].e
	}
	return true
}

// raised raises what has to begin later than the chain has it: a stay that meets another on the bench, an opening that would
// stand open over night. It reports whether it did.
func (q *problem) raised(j *job, x *place, least []int, t *table) bool {
	did := false
	begins := 0
	for k := range j.stretches {
		s := &j.stretches[k]
		if s.stay {
			begins = k
		}
		if s.last {
			start := x.at[begins].s
			if j.started && begins == 0 {
				start = q.now
			}
			if other := hit(t.bench[x.b], start, x.at[k].e, q.clear); other != nil {
				least[begins], did = other.b+q.clear, true
				if begins == 0 && j.started {
					least[begins] = never
				}
			}
		}
		if s.opens >= 0 && x.at[s.opens].e > q.z.midnight(x.at[k].s) {
			least[k], did = q.z.days[q.z.day(x.at[s.opens].e-1)], true
		}
	}
	return did
}

// ready is when a customer can have a machine whose work ends at t.
func (q *problem) ready(t int) int { return q.open.moment(t) }

// state says how a promise stands, with the open minutes before or after it.
func (q *problem) state(j *job, ready int) (s State, minutes int) {
	switch {
	case j.promise == never:
		return None, 0
	case ready > j.promise:
		return Broken, max(1, q.open.between(j.promise, ready))
	}
	if slack := q.open.between(ready, j.promise); slack < j.margin {
		return AtRisk, slack
	} else {
		return Kept, slack
	}
}

// cost is what a job's place adds to the objective.
func (q *problem) cost(j *job, b, p, first, end int) Objective {
	var o Objective
	if j.Danger {
		o.Danger = first - q.now
	}
	q.costEnd(&o, j, b, p, end)
	return o
}

// costEnd adds what a job costs but for its danger.
func (q *problem) costEnd(o *Objective, j *job, b, p, end int) {
	ready := q.ready(end)
	switch state, minutes := q.state(j, ready); state {
	case Broken:
		o.Broken += j.weight
		o.Late += minutes
	case AtRisk:
		o.AtRisk += j.weight
	case Kept, None:
	}
	o.Quarters += (q.open.between(q.now, ready) + 14) / 15
	if j.publishedB >= 0 && j.publishedB != b || j.publishedP >= 0 && j.publishedP != p ||
		j.published != never && ready > j.published+15 {
		o.Changes++
	}
	if j.preferB >= 0 && j.preferB != b {
		o.Against++
	}
	if j.preferP >= 0 && j.preferP != p {
		o.Against++
	}
}

// plus is the sum of two.
func (o Objective) plus(x Objective) Objective {
	return Objective{o.Danger + x.Danger, o.Broken + x.Broken, o.Late + x.Late, o.AtRisk + x.AtRisk, o.Quarters + x.Quarters,
		o.Changes + x.Changes, o.Against + x.Against}
}

// minus takes one from another.
func (o Objective) minus(x Objective) Objective {
	return Objective{o.Danger - x.Danger, o.Broken - x.Broken, o.Late - x.Late, o.AtRisk - x.AtRisk, o.Quarters - x.Quarters,
		o.Changes - x.Changes, o.Against - x.Against}
}

// less reports whether one is better than another, the first figure first.
func (o *Objective) less(x *Objective) bool {
	switch {
	case o.Danger != x.Danger:
		return o.Danger < x.Danger
	case o.Broken != x.Broken:
		return o.Broken < x.Broken
	case o.Late != x.Late:
		return o.Late < x.Late
	case o.AtRisk != x.AtRisk:
		return o.AtRisk < x.AtRisk
	case o.Quarters != x.Quarters:
		return o.Quarters < x.Quarters
	case o.Changes != x.Changes:
		return o.Changes < x.Changes
	}
	return o.Against < x.Against
}
