package week

import "slices"

// ordered is a stretch of a job in an order.
type ordered struct {
	job, k  int
	before  []*ordered // what is done before it, of the same job and by the same hands
	stayEnd *ordered   // the end of the stay before it on its bench; nil for none
	at      slot
}

// least is the earliest schedule in the order that places have on benches and in hands: starts are raised until nothing moves.
// All rules hold for the earlier of two schedules of one order, so there is one that is nowhere later than any other.
func (q *problem) least(jobs []*job, places []*place) {
	var all []*ordered
	for i := range jobs {
		for k := range jobs[i].stretches {
			all = append(all, &ordered{job: i, k: k, at: places[i].at[k]})
		}
	}
	slices.SortStableFunc(all, func(a, b *ordered) int { return a.at.s - b.at.s })
	bench, person := make([]*ordered, len(q.r.Benches)), make([]*ordered, len(q.r.People))
	own := make([]*ordered, len(jobs))
	for _, n := range all {
		x, s := places[n.job], &jobs[n.job].stretches[n.k]
		if own[n.job] != nil {
			n.before = append(n.before, own[n.job])
		}
		own[n.job] = n
		if s.stay {
			n.stayEnd = bench[x.b]
		}
		if s.last {
			bench[x.b] = n
		}
		if s.hands {
			if person[x.p] != nil {
				n.before = append(n.before, person[x.p])
			}
			person[x.p] = n
		}
	}
	floor := make([][]int, len(jobs))
	for i := range jobs {
		floor[i] = make([]int, len(jobs[i].stretches))
	}
	for {
		for _, n := range all {
			n.at = q.leastOf(jobs[n.job], places[n.job].p, n, floor[n.job][n.k])
		}
		moved := false
		for _, n := range all {
			j := jobs[n.job]
			s := &j.stretches[n.k]
			if s.opened < 0 || j.stretches[s.opened].opens != n.k {
				continue
			}
			opener := all[slices.IndexFunc(all, func(o *ordered) bool { return o.job == n.job && o.k == s.opened })]
			if n.at.e > q.z.midnight(opener.at.s) {
				floor[n.job][s.opened], moved = q.z.days[q.z.day(n.at.e-1)], true
			}
		}
		if !moved {
			break
		}
	}
	for _, n := range all {
		places[n.job].at[n.k] = n.at
	}
}

// leastOf is the earliest place of a stretch after all that comes before it.
func (q *problem) leastOf(j *job, person int, n *ordered, floor int) slot {
	if j.started && n.k == 0 {
		return q.underWay(j)
	}
	t := max(floor, j.release)
	if n.k == 0 && j.pin != never {
		return q.earliest(person, &j.stretches[0], j.pin)
	}
	for _, b := range n.before {
		t = max(t, b.at.e)
	}
	if n.stayEnd != nil {
		t = max(t, n.stayEnd.at.e+q.clear)
	}
	return q.earliest(person, &j.stretches[n.k], t)
}
