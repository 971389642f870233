package week

import "iter"

// judge says which jobs have no place, and returns which pins cannot stand: they are looked at in the order of the list,
// beside what is under way and the pins that were kept before.
func (q *problem) judge() (refused []Refused) {
	for _, j := range q.jobs {
		if j.started {
			j.benches, j.people = []int{j.startedB}, []int{j.startedP}
			j.code, j.waits = "", ""
		}
		if j.pin == never {
			j.bind()
		}
		if j.code == "" && !q.fitsAlone(j, true) {
			j.code = NeverFits
		}
	}
	for _, j := range q.jobs {
		if j.pin == never || j.code != "" {
			continue
		}
		code := q.stands(j)
		if code == "" {
			continue
		}
		refused = append(refused, Refused{j.ID, code})
		j.pin, j.pinB, j.pinP = never, -1, -1
	}
	return refused
}

// bind lets a pin's bench and person bind a job.
func (j *job) bind() {
	only := func(all []int, one int) []int {
		for _, x := range all {
			if x == one {
				return []int{one}
			}
		}
		return nil
	}
	if j.pinB >= 0 {
		j.benches = only(j.benches, j.pinB)
	}
	if j.pinP >= 0 {
		j.people = only(j.people, j.pinP)
	}
}

// fitsAlone reports whether a job has a place where it is the only one; freely: without its pin.
func (q *problem) fitsAlone(j *job, freely bool) bool {
	alone := *j
	if freely {
		alone.pin = never
	}
	return q.bestAlone(&alone) != nil
}

// bestAlone is the best place of a job that is the only one.
func (q *problem) bestAlone(j *job) *place {
	var best *place
	var least Objective
	for b, p := range j.ways() {
		if x := q.fit(j, b, p, j.release, q.newTable()); x != nil {
			if cost := q.cost(j, b, p, x.at[0].s, x.end()); best == nil || cost.less(&least) {
				best, least = x, cost
			}
		}
	}
	return best
}

// ways are each bench that a job may have with each person, in the order of the request.
func (j *job) ways() iter.Seq2[int, int] {
	return func(yield func(b, p int) bool) {
		for _, b := range j.benches {
			for _, p := range j.people {
				if !yield(b, p) {
					return
				}
			}
		}
	}
}

// stands is why a pin cannot stand, "" where it can; then its bench and person bind the job.
func (q *problem) stands(j *job) PinCode {
	arrived := q.now
	for _, id := range j.Needs {
		if a := q.arrivals[id]; !a.here {
			arrived = max(arrived, a.use)
		}
	}
	switch {
	case j.pin < arrived && arrived > q.now:
		return PinArrival
	case j.pin < q.now:
		return PinPast
	case j.pin < j.release:
		return PinMachine
	}
	tried := *j
	tried.bind()
	if !q.fitsAlone(&tried, false) {
		return PinHours
	}
	var fixed []*job
	for _, x := range q.jobs {
		switch {
		case x == j:
			fixed = append(fixed, &tried)
		case x.code == "" && (x.started || x.kept):
			fixed = append(fixed, x)
		}
	}
	if _, stuck := q.together(fixed); stuck != nil {
		return PinOverlap
	}
	*j = tried
	j.kept = true
	return ""
}

// together are places for jobs that are under way or pinned; stuck is the first for which the others leave none.
func (q *problem) together(jobs []*job) (places []*place, stuck *job) {
	t := q.newTable()
	out := make([]*place, len(jobs))
	order := make([]int, 0, len(jobs))
	for _, first := range []bool{true, false} { // what is under way, then as they come, which mostly does
		for i, j := range jobs {
			if j.started == first {
				order = append(order, i)
			}
		}
	}
	for _, i := range order {
		j := jobs[i]
		var best *place
		for b, p := range j.ways() {
			if x := q.fit(j, b, p, j.release, t); x != nil && (best == nil || x.end() < best.end()) {
				best = x
			}
		}
		if stuck = j; best == nil {
			break
		}
		stuck = nil
		t.put(j, best)
		out[i] = best
	}
	if stuck == nil {
		return out, nil
	}
	if places, _ = (&search{q: q, jobs: jobs, any: true}).solve(); places != nil {
		return places, nil
	}
	return nil, stuck
}
