package week

import "slices"

// bound is what no schedule that goes on from a state costs less than: each open job alone from here, and no more hands in an
// hour than there are benches and people for them.
func (s *search) bound(c *node) (sum Objective, possible bool) {
	var open [maxJobs]openJob
	n := 0
	sum = c.sum
	for i, j := range s.jobs {
		k := int(c.next[i])
		if k == len(j.stretches) {
			continue
		}
		cost, possible := s.openCost(c, i, k)
		if !possible {
			return sum, false
		}
		if sum = sum.plus(cost); s.known && !sum.less(&s.best) {
			return sum, true // the others cost nothing less than nothing
		}
		x := openJob{job: j, cost: cost}
		for ; k < len(j.stretches); k++ {
			st := &j.stretches[k]
			if st.hands {
				x.hands += st.min
			}
			// A wait that somebody has to be there for takes a bench for as long as hands would.
			if !st.aside && (st.hands || !st.alone) {
				x.onBench += st.min
			}
		}
		open[n] = x
		n++
	}
	if n < 2 {
		return sum, true
	}
	return s.crowded(c, sum, open[:n]), true
}

// openJob is a job that is not done, with what it costs alone and the hands that it still takes.
type openJob struct {
	job            *job
	cost           Objective
	hands, onBench int
}

// openCost is what an open job costs at least.
func (s *search) openCost(c *node, i, k int) (cost Objective, possible bool) {
	j := s.jobs[i]
	if k > 0 {
		return s.aloneFrom(c, i, int(c.asked[i]>>4), int(c.asked[i]&15))
	}
	for _, b := range j.benches {
		bench := c.bench[b]
		if c.held[b] != unheld {
			bench = max(bench, c.end[c.held[b]])
		}
		for _, p := range j.people {
			costs := s.alone[(i*maxBenches+b)*maxPeople+p]
			key := uint64(bench)<<32 | uint64(c.person[p])
			x, known := costs[key]
			if !known {
				var can bool
				if x, can = s.aloneAt(j, 0, b, p, j.release, int(bench), int(c.person[p]), 0); !can {
					x.Danger = never
				}
				costs[key] = x
			}
			if x.Danger < never && (!possible || x.less(&cost)) {
				cost, possible = x, true
			}
		}
	}
	return cost, possible
}

// crowded adds to what open jobs cost alone what they cost because they are many: of those that are due by a moment, as many
// are broken as hands are missing by then; and the first, the first two and so on are not ready before their hands can have been.
// In an hour in which anybody is there a bench, and a person, has at most an hour of hands.
func (s *search) crowded(c *node, sum Objective, open []openJob) Objective {
	q := s.q
	var benches, people [maxPeople]int
	for b := range q.r.Benches {
		free := int(c.bench[b])
		if h := c.held[b]; h != unheld {
			free = int(c.end[h])
		}
		benches[b] = q.anybody.upTo(max(free, q.now))
	}
	for p := range q.r.People {
		people[p] = q.anybody.upTo(max(int(c.person[p]), q.now))
	}
	free := [2][]int{benches[:len(q.r.Benches)], people[:len(q.r.People)]}
	slices.Sort(free[0])
	slices.Sort(free[1])

	more := 0
	for i := range open {
		if due := open[i].job.promise; due != never && open[i].cost.Broken == 0 {
			more = max(more, missing(open, due, q.anybody.upTo(due), free))
		}
	}
	sum.Broken += more

	var alone, hands, onBench [maxJobs]int
	n, least := len(open), 0
	for i := range open {
		alone[i], hands[i], onBench[i] = open[i].cost.Quarters, open[i].hands, open[i].onBench
		least += open[i].cost.Quarters
	}
	slices.Sort(alone[:n])
	slices.Sort(hands[:n])
	slices.Sort(onBench[:n])
	crowded, allHands, allBench := 0, 0, 0
	for i := range n {
		allHands += hands[i]
		allBench += onBench[i]
		v := max(done(free[0], allBench), done(free[1], allHands))
		quarters := 0
		if v > 0 {
			ready := q.ready(q.anybody.add(q.anybody[0].a, v))
			quarters = (q.open.between(q.now, ready) + 14) / 15
		}
		crowded += max(alone[i], quarters)
	}
	if more > 0 {
		sum.AtRisk = c.sum.AtRisk // whose promise is broken is not at risk any more
	}
	if crowded > least {
		sum.Quarters += crowded - least
	}
	if more > 0 || crowded > least {
		sum.Changes, sum.Against = c.sum.Changes, c.sum.Against
	}
	return sum
}

// done is by when so many minutes of hands can have been, where each that is free from its moment on gives one a minute.
func done(free []int, minutes int) int {
	least, sum := never, 0
	for m, from := range free {
		sum += from
		least = min(least, (minutes+sum+m)/(m+1))
	}
	return least
}

// missing is the weight of promises that are broken by a moment because hands are missing until then: the lightest for their
// minutes, in part where that does.
func missing(open []openJob, due, at int, free [2][]int) int {
	var late [maxJobs]openJob
	n, hands, onBench := 0, 0, 0
	for i := range open {
		if x := &open[i]; x.job.promise <= due && x.cost.Broken == 0 {
			late[n] = *x
			n++
			hands += x.hands
			onBench += x.onBench
		}
	}
	room := func(list []int) (minutes int) {
		for _, from := range list {
			minutes += max(0, at-from)
		}
		return minutes
	}
	weight := 0
	for _, x := range []struct {
		over int
		of   func(*openJob) int
	}{{onBench - room(free[0]), func(o *openJob) int { return o.onBench }}, {hands - room(free[1]),
		func(o *openJob) int { return o.hands }}} {
		if x.over <= 0 {
			continue
		}
		list := late[:n]
		slices.SortFunc(list, func(a, b openJob) int { return a.job.weight*x.of(&b) - b.job.weight*x.of(&a) })
		over, sum := x.over, 0
		for i := range list {
			minutes := x.of(&list[i])
			if minutes >= over {
				if minutes > 0 {
					sum = sum + (list[i].job.weight*over+minutes-1)/minutes
				}
				break
			}
			sum += list[i].job.weight
			over -= minutes
		}
		weight = max(weight, sum)
	}
	return weight
}

// aloneFrom is what a job under way costs at least.
func (s *search) aloneFrom(c *node, i, b, p int) (cost Objective, possible bool) {
	bench := int(c.bench[b])
	if h := c.held[b]; h != unheld && int(h) != i {
		bench = max(bench, int(c.end[h]))
	}
	return s.aloneAt(s.jobs[i], int(c.next[i]), b, p, int(c.end[i]), bench, int(c.person[p]), int(c.limit[i]))
}

// aloneAt is what a job costs whose stretch k and those behind it have no other in their way once bench and person are free.
func (s *search) aloneAt(j *job, k, b, p, from, bench, hand, limit int) (cost Objective, possible bool) {
	first := k
	var least []int // from when an opening can begin to be closed the same day
	for {
		at := slot{e: from}
		late := false
		began := 0
		for i := k; i < len(j.stretches); i++ {
			x := &j.stretches[i]
			t := at.e
			if x.stay {
				t = max(t, bench)
			}
			if x.hands {
				t = max(t, hand)
			}
			if least != nil {
				t = max(t, least[i])
			}
			if i == 0 && j.pin != never {
				if t > j.pin {
					return cost, false
				}
				t = j.pin
			}
			if at = s.q.earliest(p, x, t); at.e >= never || i == 0 && j.pin != never && at.s != j.pin {
				return cost, false
			}
			if i == first {
				began = at.s
			}
			if x.opened >= 0 && x.opened < k && at.e > limit {
				return cost, false
			}
			if x.opens >= 0 && !s.closes(j, i, p, at, s.q.z.midnight(at.s)) {
				if i == 0 && j.pin != never {
					return cost, false
				}
				if least == nil {
					least = make([]int, len(j.stretches))
				}
				least[i], late = s.q.z.midnight(at.s), true
				if least[i] >= never {
					return cost, false
				}
				break
			}
		}
		if late {
			continue
		}
		if first == 0 {
			return s.q.cost(j, b, p, began, at.e), true
		}
		s.q.costEnd(&cost, j, b, p, at.e)
		return cost, true
	}
}
