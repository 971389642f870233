package week

import (
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"yembo/core/hw"
)

// tasksOf are the jobs of a request that a schedule places and that are not new, as the naive planner has them.
func (n *naive) tasksOf(s *Schedule) (tasks []*task) {
	for i := range n.r.Jobs {
		j := &n.r.Jobs[i]
		if j.New || !slices.ContainsFunc(s.Jobs, func(p Planned) bool { return p.ID == j.ID }) {
			continue
		}
		x := &task{Job: j, end: n.now}
		refused := slices.ContainsFunc(s.Refused, func(p Refused) bool { return p.Job == j.ID })
		pin := j.Pin
		if pin == nil || refused {
			pin = &Pin{}
		}
		for b := range n.r.Benches {
			if pin.Bench == "" || pin.Bench == n.r.Benches[b].ID {
				x.benches = append(x.benches, b)
			}
		}
		for p := range n.r.People {
			id := n.r.People[p].ID
			if (j.Only == nil || slices.Contains(j.Only.People, id)) && (pin.Person == "" || pin.Person == id) {
				x.people = append(x.people, p)
			}
		}
		if pin.Start != "" {
			x.pin = n.at(pin.Start)
		}
		x.release, _ = n.release(j)
		if j.Started != nil {
			x.benches, x.people, x.release = []int{benchOf(n.r, j.Started.Bench)}, []int{personOf(n.r, j.Started.Person)}, n.now
		}
		tasks = append(tasks, x)
	}
	return tasks
}

// TestBest holds the search against every order of small requests: no order is better, and none was missed.
func TestBest(t *testing.T) {
	tried := 0
	for seed := range uint64(2000) {
		jobs := 2
		if seed%16 == 0 {
			jobs = 3
		}
		r := atRandom(seed, size{jobs: jobs, stretches: 2, benches: 1 + int(seed%2), people: 1 + int(seed/2%2), days: 2,
			plain: seed%3 > 0})
		if slices.ContainsFunc(r.Jobs, func(j Job) bool { return j.Started != nil }) {
			continue // its hands go on as nothing else does; TestRules looks at it
		}
		s, err := Make(t.Context(), r)
		if err != nil {
			t.Fatal(err)
		}
		n := newNaive(r)
		want, ok := n.all(n.tasksOf(s))
		if tried++; !ok || want != s.Objective || !s.Exact {
			t.Errorf("seed %d: %+v, exact %v; every order tried: %+v, %v", seed, s.Objective, s.Exact, want, ok)
		}
	}
	if tried < 1500 {
		t.Errorf("only %d requests were tried", tried)
	}
}

// TestLarge: sixty jobs on four benches are planned better than by the simplest list, which puts one job after the other where
// it is ready first, and never below what no schedule goes below.
func TestLarge(t *testing.T) {
	for seed := range uint64(8) {
		r := atRandom(seed, size{jobs: 60, stretches: 3, benches: 4, people: 5, days: 12, plain: true})
		s, err := Make(t.Context(), r)
		if err != nil {
			t.Fatal(err)
		}
		q, err := read(r, nil)
		if err != nil {
			t.Fatal(err)
		}
		c := &crowd{q: q, fixed: make([]*place, len(q.jobs))}
		for _, j := range q.jobs {
			if j.code == "" {
				c.jobs = append(c.jobs, j)
			}
		}
		list := c.first()
		slices.Sort(list.order)
		if _, simplest, ok := c.decode(list); !ok || !s.Objective.less(&simplest) {
			t.Errorf("seed %d: %+v, and by the simplest list %+v, %v", seed, s.Objective, simplest, ok)
		}
		if s.Exact || s.Objective.Broken < s.Bound.Broken || s.Objective.Late < s.Bound.Late {
			t.Errorf("seed %d: %+v, exact %v, bound %+v", seed, s.Objective, s.Exact, s.Bound)
		}
	}
}

// TestRules holds schedules at random, exact ones and large ones, against the rules, minute by minute.
func TestRules(t *testing.T) {
	for seed := range uint64(120) {
		n := size{jobs: 4 + int(seed%4), stretches: 3, benches: 2, people: 2, days: 4}
		if seed%20 == 19 {
			n = size{jobs: 30, stretches: 3, benches: 4, people: 4, days: 8}
		}
		r := atRandom(seed, n)
		s, err := Make(t.Context(), r)
		if err != nil {
			t.Fatal(err)
		}
		for _, wrong := range newNaive(r).broken(s) {
			t.Errorf("seed %d: %s", seed, wrong)
		}
		again, err := Make(t.Context(), r)
		if err != nil {
			t.Fatal(err)
		}
		if a, b := text(t, s), text(t, again); a != b {
			t.Errorf("seed %d: one request has two answers", seed)
		}
	}
}

func text(t *testing.T, s *Schedule) string {
	t.Helper()
	raw, err := json.Marshal(s)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

// broken are the rules that a schedule breaks.
func (n *naive) broken(s *Schedule) (out []string) {
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	onBench, inHands := make([][][2]int, len(n.r.Benches)), make([][][2]int, len(n.r.People))
	var sum Objective
	for i := range s.Jobs {
		p := &s.Jobs[i]
		j := &n.r.Jobs[index(n.r.Jobs, p.ID, func(j *Job) string { return j.ID })]
		b, who := benchOf(n.r, p.Bench), personOf(n.r, p.Person)
		refused := slices.ContainsFunc(s.Refused, func(x Refused) bool { return x.Job == j.ID })
		last, begins, opened := n.now, 0, -1
		if release, _ := n.release(j); j.Started == nil {
			last = release
		}
		first := n.at(p.Stretches[0].Start)
		if j.Pin != nil && j.Pin.Start != "" && !refused && n.at(j.Pin.Start) != first {
			say("%s begins at %s, and is pinned to %s", j.ID, p.Stretches[0].Start, j.Pin.Start)
		}
		if j.Pin != nil && !refused && j.Pin.Bench != "" && j.Pin.Bench != p.Bench || j.Started != nil &&
			*j.Started != (Where{p.Bench, p.Person}) {
			say("%s is at %s", j.ID, p.Bench)
		}
		for k := range j.Stretches {
			x := &j.Stretches[k]
			from, to := n.at(p.Stretches[k].Start), n.at(p.Stretches[k].End)
			minutes, _ := minutesOf(n.r, x, j.Started != nil && k == 0)
			underWay := j.Started != nil && k == 0
			switch {
			case from < last:
				say("%s/%d begins before what it waits for", j.ID, k)
			case underWay && x.Do == Wait && (from != n.now || to != from+minutes):
				say("%s, under way, waits from %s to %s", j.ID, p.Stretches[k].Start, p.Stretches[k].End)
			case underWay && x.Do == Hands && (to != after(n.there[who], n.now, minutes) || !n.there[who][from]):
				say("%s, under way, ends at %s", j.ID, p.Stretches[k].End)
			case !underWay && n.fits(x, who, from, minutes) != to:
				say("%s/%d of %d min stands from %s to %s", j.ID, k, minutes, p.Stretches[k].Start, p.Stretches[k].End)
			}
			if underWay {
				from = n.now
			}
			if !x.Aside && (k == 0 || j.Stretches[k-1].Aside) {
				begins = from
			}
			if !x.Aside && (k == len(j.Stretches)-1 || j.Stretches[k+1].Aside) {
				onBench[b] = append(onBench[b], [2]int{begins, to})
			}
			if x.Do == Hands {
				inHands[who] = append(inHands[who], [2]int{from, to})
			}
			if x.Open && opened < 0 {
				opened = k
			} else if !x.Open && opened >= 0 {
				if !j.LeaveOpen && !(j.Started != nil && opened == 0) && to > n.midnight[n.at(p.Stretches[opened].Start)] {
					say("%s stands open over night", j.ID)
				}
				opened = -1
			}
			last = to
		}
		if ready := next(n.open, last); n.at(p.Ready) != ready {
			say("%s is ready at %s", j.ID, p.Ready)
		} else if honest := n.honest(j, ready); n.at(p.Honest) != honest {
			say("%s can be promised at %s, %d min off", j.ID, p.Honest, n.at(p.Honest)-honest)
		}
		if !j.New {
			sum = sum.plus(n.cost(j, b, who, first, last))
		}
	}
	apart := func(list [][2]int, between int, what string) {
		slices.SortFunc(list, func(a, b [2]int) int { return a[0] - b[0] })
		for i := 1; i < len(list); i++ {
			if list[i][0] < list[i-1][1]+between {
				say("%s is taken twice: %v %v", what, list[i-1], list[i])
			}
		}
	}
	for b := range onBench {
		apart(onBench[b], n.r.Practice.Clear.Or(10), n.r.Benches[b].ID)
	}
	for p := range inHands {
		apart(inHands[p], 0, n.r.People[p].ID)
	}
	if sum != s.Objective {
		say("it says %+v, and comes to %+v", s.Objective, sum)
	}
	if s.Exact == (s.Bound != nil) || !s.Exact && (s.Bound.Broken > sum.Broken || s.Bound.Late > sum.Late) {
		say("exact %v, bound %+v", s.Exact, s.Bound)
	}
	if len(s.Jobs)+len(s.Unplaced) != len(n.r.Jobs) {
		say("%d jobs have a place and %d none, of %d", len(s.Jobs), len(s.Unplaced), len(n.r.Jobs))
	}
	return out
}

// honest is what can be promised.
func (n *naive) honest(j *Job, ready int) int {
	m := after(n.open, ready, n.margin(j))
	for !moment(n.open, m) || n.clock[m]%n.r.Practice.Round.Or(30) != 0 {
		m++
	}
	return m
}

// load reads a request of testdata.
func load(t *testing.T, name string) *Request {
	t.Helper()
	raw, err := os.ReadFile("testdata/" + name + ".json")
	if err != nil {
		t.Fatal(err)
	}
	r := &Request{}
	if err := json.Unmarshal(raw, r); err != nil {
		t.Fatal(err)
	}
	return r
}

// TestThree is a small week told whole: what waits for parts and a pinned job, and what is offered for a new one.
func TestThree(t *testing.T) {
	s, err := Make(t.Context(), load(t, "three"))
	if err != nil {
		t.Fatal(err)
	}
	if want := (Objective{Broken: 1, Late: 520, Quarters: 216}); s.Objective != want || !s.Exact {
		t.Errorf("%+v, exact %v", s.Objective, s.Exact)
	}
	var why, offers, tell []string
	for _, x := range s.Jobs[1].Why {
		why = append(why, fmt.Sprintf("%s %s%s", x.Code, x.At[11:16], x.Arrival+x.Job))
	}
	for _, o := range s.Offers {
		offers = append(offers, o.Start[8:16]+" "+o.Ready[8:16]+" "+o.Promise[8:16])
	}
	for _, x := range s.Tell {
		tell = append(tell, fmt.Sprintf("%s %s %s %s%s", x.Job, x.To, x.Code, x.At, x.Arrival))
	}
	for _, x := range []struct{ got, want string }{
		{strings.Join(why, ", "),
			"arrival 10:002231, look 10:15, bench 11:00m-ashby-01, hands 11:25, hands 11:40, margin 12:40, round 13:00"},
		{strings.Join(offers, ", "), "18T17:45 19T09:35 19T11:00, 20T09:00 20T09:46 20T11:00, 21T11:50 21T12:36 21T14:00"},
		{strings.Join(tell, ", "),
			"tarn-vet-04 customer promise.broken 2026-05-21T13:00:00+02:00, tarn-vet-04 supplier arrival.too_late 2231"},
	} {
		if x.got != x.want {
			t.Errorf("%s\nnot\n%s", x.got, x.want)
		}
	}
}

// TestZone: wall times that do not exist or come twice.
func TestZone(t *testing.T) {
	r := load(t, "three")
	r.Now = "2026-03-27T10:00:00+01:00" // the Friday before the clock goes forward
	r.Hours = map[string][][2]string{"sun": {{"01:30", "02:30"}}}
	r.Arrivals, r.Jobs = nil, []Job{{ID: "j", Stretches: []Stretch{{Do: Hands, Minutes: hw.DecOf(25)}}}}
	for _, x := range []struct{ now, start, ready string }{
		// 02:30 is left out: the shop closes at 03:00, half an hour after it opens.
		{"2026-03-27T10:00:00+01:00", "2026-03-29T01:30:00+01:00", "2026-03-29T01:55:00+01:00"},
		// 02:30 comes twice: it closes the second time, two hours after it opens.
		{"2026-10-25T02:10:00+01:00", "2026-10-25T02:10:00+01:00", "2026-11-01T01:30:00+01:00"},
	} {
		r.Now = x.now
		if x.now[5:7] == "10" {
			r.Jobs[0].Stretches[0].Minutes = hw.DecOf(21)
			x.start, x.ready = "2026-11-01T01:30:00+01:00", "2026-11-01T01:51:00+01:00"
		}
		s, err := Make(t.Context(), r)
		if err != nil {
			t.Fatal(err)
		}
		if p := s.Jobs[0]; p.Stretches[0].Start != x.start || p.Ready != x.ready {
			t.Errorf("%s: from %s, ready %s", x.now, p.Stretches[0].Start, p.Ready)
		}
	}
}

// TestFaults: what contradicts itself is told at its place.
func TestFaults(t *testing.T) {
	job := func(change func(j *Job)) func(r *Request) { return func(r *Request) { change(&r.Jobs[1]) } }
	stretch := func(k int, change func(x *Stretch)) func(r *Request) {
		return job(func(j *Job) { change(&j.Stretches[k]) })
	}
	started := &Where{Bench: "b1", Person: "okell"}
	for _, x := range []struct {
		change func(r *Request)
		says   string
	}{
		{func(r *Request) { r.TZ = "Vienna" }, "/tz"},
		{func(r *Request) { r.Now = "2026-05-18" }, "/now"},
		{func(r *Request) { r.Now = "2026-05-18T11:20:30+02:00" }, "whole minutes"},
		{func(r *Request) { r.Hours = nil }, "/hours: an hour in which the shop is open is missing"},
		{func(r *Request) { r.Hours["mon"] = [][2]string{{"18:00", "09:00"}} }, "/hours/mon/0"},
		{func(r *Request) { r.Hours["mon"] = [][2]string{{"09:00", "12:00"}, {"11:00", "18:00"}} }, "/hours/mon/1"},
		{func(r *Request) { r.Hours["fri"] = [][2]string{{"09:00", "24:30"}} }, "/hours/fri/0/1"},
		{func(r *Request) { r.Days = []Day{{On: "2026-02-30"}} }, "/days/0/on"},
		{func(r *Request) { r.Benches = nil }, "/benches"},
		{func(r *Request) { r.Benches = append(r.Benches, r.Benches[0]) }, "/benches/1/id"},
		{func(r *Request) { r.People[0].Away = []Away{{From: "2026-05-20", To: "2026-05-19"}} }, "/people/0/away/0"},
		{func(r *Request) { r.Arrivals[0].On = "2026-05-20" }, "/arrivals/0/on"},
		{func(r *Request) { r.Practice.Round = hw.Known(0) }, "/practice/round_min"},
		{job(func(j *Job) { j.Needs = []string{"9"} }), "/jobs/1/needs/0"},
		{job(func(j *Job) { j.ID = "wath-06" }), "/jobs/2/id"},
		{job(func(j *Job) { j.Prefer = &Where{Bench: "b9"} }), "/jobs/1/prefer/bench"},
		{job(func(j *Job) { j.Started, j.Pin = started, &Pin{} }), "/jobs/1/pin"},
		{job(func(j *Job) { j.Started, j.New = started, true }), "/jobs/1/new"},
		{job(func(j *Job) { j.New = true }), "/jobs/1/promise"},
		{func(r *Request) { r.Jobs[2].Danger = true }, "/jobs/2/danger"},
		{func(r *Request) { r.Jobs[0].Pin, r.Jobs[0].Started, r.Jobs[1].Started = nil, started, started }, "/jobs/1/started/bench"},
		{stretch(0, func(x *Stretch) { x.Minutes = 0 }), "/jobs/1/stretches/0/minutes"},
		{stretch(1, func(x *Stretch) { x.Open = true }), "/jobs/1/stretches/1/open"},
		{job(func(j *Job) { j.Stretches[0].Open, j.Stretches[1].Aside = true, true }), "/jobs/1/stretches/1/aside"},
		{job(func(j *Job) { j.Stretches[0].Open, j.Stretches[1].Split = true, SplitClosing }), "/jobs/1/stretches/1/split"},
	} {
		r := load(t, "three")
		x.change(r)
		if _, err := Make(t.Context(), r); err == nil || !strings.Contains(err.Error(), x.says) {
			t.Errorf("%v; want %s", err, x.says)
		}
	}
}

// TestCases are rules one at a time, in a shop with one bench and one person.
func TestCases(t *testing.T) {
	at := func(day, clock string) string { return "2026-05-" + day + "T" + clock + ":00+02:00" }
	hands := func(minutes int) Stretch { return Stretch{Do: Hands, Minutes: hw.DecOf(minutes)} }
	run := func(minutes ...int) (out []hw.Dec) {
		for _, m := range minutes {
			out = append(out, hw.DecOf(m))
		}
		return out
	}
	for name, x := range map[string]struct {
		jobs   []Job
		change func(r *Request)
		says   string // start to ready of each job, its promise and its margin; what has no place; pins refused; what is told
	}{
		"a copy goes on over night": {[]Job{{ID: "a", From: at("18", "17:00"), Stretches: []Stretch{hands(30),
			{Do: Wait, Minutes: hw.DecOf(300), Alone: true}, hands(30)}}}, nil, "a 18T17:00 19T09:30 none 60"},
		"a charge does not": {[]Job{{ID: "a", From: at("18", "17:00"), Stretches: []Stretch{hands(30),
			{Do: Wait, Minutes: hw.DecOf(300)}, hands(30)}}}, nil, "a 18T17:00 19T14:30 none 60"},
		"open machines are closed the same day": {[]Job{{ID: "a", From: at("18", "16:00"), Stretches: []Stretch{
			{Do: Hands, Minutes: hw.DecOf(60), Open: true}, hands(90)}}}, nil, "a 19T09:00 19T11:30 none 60"},
		"unless they may be left": {[]Job{{ID: "a", From: at("18", "16:00"), LeaveOpen: true, Stretches: []Stretch{
			{Do: Hands, Minutes: hw.DecOf(60), Open: true}, hands(90)}}}, nil, "a 18T16:00 19T10:30 none 60"},
		"measured": {[]Job{{ID: "a", Stretches: []Stretch{{Do: Hands, Minutes: hw.DecOf(500), Measured: run(10, 20, 31, 40,
			900)}}}}, nil,
			"a 18T11:20 18T11:51 none 60"},
		"measured four times": {[]Job{{ID: "a", Stretches: []Stretch{{Do: Hands, Minutes: hw.DecOf(5), Measured: run(10, 20,
			31, 200)}}}}, nil,
			"a 18T11:20 18T11:46 none 174"},
		"under way, over night": {[]Job{{ID: "a", Promise: at("18", "17:00"), Started: &Where{"b1", "okell"}, Stretches: []Stretch{
			hands(420), hands(10)}}}, nil, "a 18T11:20 19T09:30 broken 108; customer promise.broken, person:okell open.overnight"},
		"danger before a promise": {[]Job{{ID: "a", Promise: at("18", "12:30"), Stretches: []Stretch{hands(60)}},
			{ID: "b", Danger: true, Stretches: []Stretch{hands(60)}}}, nil,
			"a 18T12:30 18T13:30 broken 60, b 18T11:20 18T12:20 none 60; customer promise.broken, person:okell danger.first"},
		"nobody knows": {[]Job{{ID: "a", Needs: []string{"x"}, Stretches: []Stretch{hands(60)}},
			{ID: "b", Blocked: "customer", Stretches: []Stretch{hands(60)}}, {ID: "c", Stretches: []Stretch{hands(600)}}},
			func(r *Request) { r.Arrivals = []Arrival{{ID: "x"}} },
			"; a arrival_unknown x, b blocked, c never_fits; supplier arrival.ask, customer blocked.ask, shop never_fits"},
		"pins": {[]Job{{ID: "a", Pin: &Pin{Start: at("18", "10:00")}, Stretches: []Stretch{hands(60)}},
			{ID: "b", Pin: &Pin{Start: at("18", "17:30")}, Stretches: []Stretch{hands(60)}},
			{ID: "c", Pin: &Pin{Start: at("19", "10:00")}, Stretches: []Stretch{hands(60)}},
			{ID: "d", Pin: &Pin{Start: at("19", "10:30")}, Stretches: []Stretch{hands(60)}}}, nil,
			"a 18T12:30 18T13:30 none 60, b 18T13:40 18T14:40 none 60, c 19T10:00 19T11:00 none 60, d 18T11:20 18T12:20 none 60" +
				"; a past, b hours, d overlap"},
		"at risk": {[]Job{{ID: "a", Promise: at("18", "13:00"), Stretches: []Stretch{hands(60)}}}, nil,
			"a 18T11:20 18T12:20 at_risk 60; person:okell promise.at_risk"},
	} {
		r := load(t, "three")
		r.Arrivals, r.Jobs = nil, x.jobs
		if x.change != nil {
			x.change(r)
		}
		s, err := Make(t.Context(), r)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		var jobs, other, told []string
		for _, j := range s.Jobs {
			jobs = append(jobs, fmt.Sprintf("%s %s %s %s %d", j.ID, j.Stretches[0].Start[8:16], j.Ready[8:16], j.Promise, j.Margin))
		}
		for _, u := range s.Unplaced {
			other = append(other, strings.TrimSpace(fmt.Sprintf("%s %s %s", u.Job, u.Code, u.Arrival)))
		}
		for _, p := range s.Refused {
			other = append(other, fmt.Sprintf("%s %s", p.Job, p.Code))
		}
		for _, m := range s.Tell {
			told = append(told, fmt.Sprintf("%s %s", m.To, m.Code))
		}
		got := strings.Join(jobs, ", ")
		for _, list := range [][]string{other, told} {
			if len(list) > 0 {
				got += "; " + strings.Join(list, ", ")
			}
		}
		if got != x.says {
			t.Errorf("%s:\n%s\nnot\n%s", name, got, x.says)
		}
	}
}
