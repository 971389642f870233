package week

import (
	"cmp"
	"slices"
)

// sortPlaces sorts by ready, bench, person and start.
func sortPlaces(q *problem, all []*place) {
	slices.SortStableFunc(all, func(x, y *place) int {
		return cmp.Or(cmp.Compare(q.ready(x.end()), q.ready(y.end())), cmp.Compare(x.b, y.b), cmp.Compare(x.p, y.p),
			cmp.Compare(x.at[0].s, y.at[0].s))
	})
}

// tell writes down each job's place with its reasons, what has no place, and who has to be told what.
func (a *answer) tell() {
	q := a.q
	t := q.newTable()
	for _, j := range q.jobs {
		if x := a.places[j]; x != nil && j.code == "" {
			t.put(j, x)
		}
	}
	for _, j := range q.jobs {
		if j.code != "" {
			a.unplaced(j)
			continue
		}
		x := a.places[j]
		ready := q.ready(x.end())
		state, minutes := q.state(j, ready)
		honest := q.honest(j, ready)
		p := Planned{ID: j.ID, Bench: q.r.Benches[x.b].ID, Person: q.r.People[x.p].ID, Ready: q.z.text(ready), Margin: j.margin,
			Promise: state, Honest: q.z.text(honest), Why: q.why(j, x, t)}
		for _, s := range x.at {
			p.Stretches = append(p.Stretches, Span{q.z.text(s.s), q.z.text(s.e)})
		}
		tell := func(to string, code TellCode, at string) {
			a.doc.Tell = append(a.doc.Tell, Tell{Job: j.ID, To: to, Code: code, At: at})
		}
		person := "person:" + p.Person
		if j.Danger {
			tell(person, TellDanger, q.z.text(x.at[0].s))
		}
		switch state {
		case Kept:
			p.Slack = &minutes
		case AtRisk:
			p.Slack = &minutes
			tell(person, TellAtRisk, q.z.text(j.promise))
		case Broken:
			p.Late = &minutes
			tell("customer", TellBroken, p.Honest)
			if id, _ := q.awaited(j); id != "" && q.lateAlone(j) {
				a.doc.Tell = append(a.doc.Tell, Tell{Job: j.ID, To: "supplier", Code: TellTooLate, Arrival: id})
			}
		case None:
		}
		if j.started && q.overnight(j, x) {
			tell(person, TellOvernight, "")
		}
		a.doc.Jobs = append(a.doc.Jobs, p)
	}
}

func (a *answer) unplaced(j *job) {
	a.doc.Unplaced = append(a.doc.Unplaced, Unplaced{j.ID, j.code, j.waits})
	ask := map[NoPlace]Tell{ArrivalUnknown: {To: "supplier", Code: TellAsk, Arrival: j.waits},
		Blocked: {To: j.Job.Blocked, Code: TellBlocked}, NeverFits: {To: "shop", Code: TellNever}}[j.code]
	ask.Job = j.ID
	a.doc.Tell = append(a.doc.Tell, ask)
}

// lateAlone reports whether a job's promise is broken even where it is the only one and nothing pins it.
func (q *problem) lateAlone(j *job) bool {
	alone := *j
	alone.pin = never
	x := q.bestAlone(&alone)
	if x == nil {
		return false
	}
	state, _ := q.state(&alone, q.ready(x.end()))
	return state == Broken
}

// overnight reports whether the hands with which a job is under way, or the machine that they opened, go on past midnight.
func (q *problem) overnight(j *job, x *place) bool {
	midnight := q.z.midnight(q.now)
	if j.stretches[0].hands && x.at[0].e > midnight {
		return true
	}
	if !j.Stretches[0].Open {
		return false
	}
	for k := range j.Stretches {
		if !j.Stretches[k].Open {
			return x.at[k].e > midnight
		}
	}
	return false
}

// awaited is the arrival that a job waits for last, "" where it waits for something else; use is from when that is of use.
func (q *problem) awaited(j *job) (id string, use int) {
	latest := q.now
	for _, need := range j.Needs {
		if a := q.arrivals[need]; a.awaited && a.use > latest {
			id, latest = need, a.use
		}
	}
	if id == "" || j.started || latest < j.release {
		return "", 0
	}
	return id, latest
}

// why are the reasons why a job is not ready earlier, in the order in which they hold.
func (q *problem) why(j *job, x *place, t *table) []Reason {
	var out []Reason
	add := func(code ReasonCode, at int) *Reason {
		out = append(out, Reason{Code: code, At: q.z.text(at)})
		return &out[len(out)-1]
	}
	from := j.release
	switch id, use := q.awaited(j); {
	case j.started:
		add(WhyStarted, q.now)
	case id != "":
		add(WhyArrival, q.arrivals[id].at).Arrival = id
		if q.look > 0 {
			add(WhyLook, use).Min = &q.look
		}
	case j.release > q.now:
		add(WhyMachine, j.release)
	default:
		add(WhyNow, q.now)
	}
	for k := range j.stretches {
		s, at := &j.stretches[k], x.at[k]
		held := from // until when something held it
		var reason Reason
		later := func(code ReasonCode, until int, job string) {
			if until > held && until <= at.s {
				held, reason = until, Reason{Code: code, At: q.z.text(until), Job: job}
			}
		}
		if k == 0 && j.kept {
			later(WhyPin, j.pin, "")
		}
		if s.stay {
			if last := lastBefore(t.bench[x.b], at.s); last != nil {
				later(WhyBench, last.b+q.clear, last.job.ID)
			}
		}
		if s.hands {
			if last := lastBefore(t.person[x.p], at.s); last != nil {
				later(WhyPerson, last.b, last.job.ID)
			}
		}
		if reason.Code != "" {
			out = append(out, reason)
		}
		if at.s > held {
			code := WhyHours
			if s.opens >= 0 && q.earliest(x.p, s, held).s < at.s {
				code = WhyDay
			}
			add(code, at.s)
		}
		code := WhyWait
		if s.hands {
			code = WhyHands
		}
		row := add(code, at.e)
		row.Stretch, row.Min = &k, &s.min
		from = at.e
	}
	ready := q.ready(from)
	if ready > from {
		add(WhyOpening, ready)
	}
	add(WhyMargin, q.open.add(ready, j.margin)).Min = &j.margin
	add(WhyRound, q.honest(j, ready))
	return out
}

// lastBefore is the last of a list that ends by a moment, nil for none.
func lastBefore(list []taken, t int) *taken {
	var last *taken
	for i := range list {
		if list[i].b <= t && (last == nil || list[i].b > last.b) {
			last = &list[i]
		}
	}
	return last
}
