package week

import (
	"fmt"
	"slices"
	"time"

	"yembo/core/hw"
)

// naive plans by looking at each minute: it shares no calendar, no bound and no order with what it checks.
type naive struct {
	r        *Request
	base     int // the first minute that it knows, since 1970
	open     []bool
	there    [][]bool
	anybody  []bool
	midnight []int // the end of the date of each minute, as an index
	clock    []int // the wall clock's minutes from midnight
	now      int   // as an index
}

const naiveDays = 40

func must[T any](x T, err error) T {
	if err != nil {
		panic(err)
	}
	return x
}

// clocks are the times of a day as they are written.
var clocks = func() (out [1440]string) {
	for m := range out {
		out[m] = fmt.Sprintf("%02d:%02d", m/60, m%60)
	}
	return out
}()

func newNaive(r *Request) *naive {
	now := must(time.Parse(time.RFC3339, r.Now)).In(vienna)
	first := time.Date(now.Year(), now.Month(), now.Day()-2, 0, 0, 0, 0, vienna)
	n := &naive{r: r, base: int(first.Unix() / 60)}
	n.now = n.at(r.Now)
	special := map[string][][2]string{}
	for _, d := range r.Days {
		special[d.On] = append([][2]string{}, d.Hours...)
	}
	within := func(hours [][2]string, clock string) bool { // as texts, 24:00 is after all others
		return slices.ContainsFunc(hours, func(h [2]string) bool { return h[0] <= clock && clock < h[1] })
	}
	n.there = make([][]bool, len(r.People))
	away := make([][][2]int, len(r.People))
	for p := range r.People {
		for _, a := range r.People[p].Away {
			end := must(time.ParseInLocation(time.DateOnly, a.To, vienna)).AddDate(0, 0, 1)
			from, err := time.ParseInLocation(time.DateOnly, a.From, vienna)
			if err != nil {
				from = must(time.Parse(time.RFC3339, a.From))
			}
			away[p] = append(away[p], [2]int{int(from.Unix()/60) - n.base, int(end.Unix()/60) - n.base})
		}
	}
	const all = naiveDays * 1440
	n.open, n.anybody = make([]bool, 0, all), make([]bool, 0, all)
	n.clock, n.midnight = make([]int, 0, all), make([]int, 0, all)
	for p := range n.there {
		n.there[p] = make([]bool, 0, all)
	}
	var day, hours [][2]string
	var is bool
	var weekday string
	var from, midnight int
	for m := range naiveDays * 1440 {
		if m%30 == 0 { // no clock changes within half an hour
			t := time.Unix(int64(n.base+m)*60, 0).In(vienna)
			day, is = special[t.Format(time.DateOnly)]
			weekday, from = weekdays[t.Weekday()], t.Hour()*60+t.Minute()
			if hours = r.Hours[weekday]; is {
				hours = day
			}
			midnight = int(time.Date(t.Year(), t.Month(), t.Day()+1, 0, 0, 0, 0, vienna).Unix()/60) - n.base
		}
		at := from + m%30
		clock := clocks[at]
		n.open = append(n.open, within(hours, clock))
		n.clock = append(n.clock, at)
		n.midnight = append(n.midnight, midnight)
		any := false
		for p := range r.People {
			x := &r.People[p]
			here := n.open[m]
			if x.Hours != nil {
				here = within(x.Hours[weekday], clock) && (!is || within(day, clock))
			}
			for _, a := range away[p] {
				here = here && (m < a[0] || m >= a[1])
			}
			n.there[p] = append(n.there[p], here)
			any = any || here
		}
		n.anybody = append(n.anybody, any)
	}
	return n
}

// at is the index of an instant.
func (n *naive) at(text string) int {
	return int(must(time.Parse(time.RFC3339, text)).Unix()/60) - n.base
}

// moment reports whether a moment is of some minutes; the closing one is.
func moment(of []bool, m int) bool { return of[m] || m > 0 && of[m-1] }

// next is the first moment from m on that is of some minutes.
func next(of []bool, m int) int {
	for !moment(of, m) {
		m++
	}
	return m
}

func count(of []bool, a, b int) (minutes int) {
	for m := a; m < b; m++ {
		if of[m] {
			minutes++
		}
	}
	return minutes
}

// after is the first moment with so many minutes between m and it.
func after(of []bool, m, minutes int) int {
	for minutes > 0 {
		if of[m] {
			minutes--
		}
		m++
	}
	return m
}

// minutesOf are the planned and the safe minutes of a stretch.
func minutesOf(r *Request, s *Stretch, underWay bool) (planned, safe int) {
	whole := func(d hw.Dec, by int) int { return int((int64(d) + int64(by)*1_000_000 - 1) / (int64(by) * 1_000_000)) }
	runs := slices.Sorted(slices.Values(s.Measured))
	if planned = whole(s.Minutes, 1); len(runs) == 3 && !underWay {
		planned = whole(runs[1], 1)
		return planned, max(planned, whole(runs[2], 1))
	}
	if s.Do == Wait {
		return planned, planned
	}
	return planned, (planned*r.Practice.Unmeasured.Or(125) + 99) / 100
}

// fits is the end of a stretch that begins at m by a person, 0 where it cannot begin there.
func (n *naive) fits(s *Stretch, p, m, minutes int) int {
	there := n.there[p]
	if s.Do == Wait {
		if !moment(there, m) || !s.Alone && count(n.anybody, m, m+minutes) < minutes {
			return 0
		}
		return m + minutes
	}
	if !there[m] {
		return 0
	}
	end := after(there, m, minutes)
	if s.Split != SplitBreak && s.Split != SplitClosing && end > m+minutes || s.Split == SplitBreak && end > n.midnight[m] {
		return 0
	}
	return end
}

// release is from when a job can begin, and whether that is known.
func (n *naive) release(j *Job) (m int, known bool) {
	m = n.now
	if j.From != "" {
		m = max(m, n.at(j.From))
	}
	for _, need := range j.Needs {
		a := n.r.Arrivals[slices.IndexFunc(n.r.Arrivals, func(a Arrival) bool { return a.ID == need })]
		var comes int
		switch {
		case a.Here:
			continue
		case a.At != "":
			comes = n.at(a.At)
		default:
			day := must(time.ParseInLocation(time.DateOnly, a.On, vienna))
			begins, ends := int(day.Unix()/60)-n.base, int(day.AddDate(0, 0, 1).Unix()/60)-n.base
			for comes = ends; comes > begins && !n.open[comes-1]; {
				comes--
			}
			if comes == begins {
				comes = ends
			}
		}
		if comes <= n.now {
			return 0, false
		}
		m = max(m, after(n.open, comes, n.r.Practice.Look.Or(15)))
	}
	return m, true
}

// task is a job while all orders are tried.
type task struct {
	*Job
	benches, people []int
	release, pin    int // pin 0 for none
	next, b, p, end int
	first, opened   int
}

// all tries every order of stretches on every bench by every person, and returns the best objective; ok is false where no
// order goes.
func (n *naive) all(tasks []*task) (best Objective, ok bool) {
	free := make([]int, len(n.r.Benches))
	held := make([]*task, len(n.r.Benches))
	hands := make([]int, len(n.r.People))
	var sum Objective
	var walk func()
	walk = func() {
		if ok && !sum.less(&best) {
			return // nothing that follows costs less than nothing
		}
		done := true
		for _, x := range tasks {
			if x.next == len(x.Stretches) {
				continue
			}
			done = false
			for _, b := range x.benches {
				for _, p := range x.people {
					if x.next > 0 && (b != x.b || p != x.p) {
						continue
					}
					n.step(x, b, p, free, held, hands, &sum, walk)
				}
			}
		}
		if done {
			best, ok = sum, true
		}
	}
	walk()
	return best, ok
}

// step appends a task's next stretch, on each date that it could begin on, walks on, and takes it back.
func (n *naive) step(x *task, b, p int, free []int, held []*task, hands []int, sum *Objective, walk func()) {
	k, s := x.next, &x.Stretches[x.next]
	stay := !s.Aside && (k == 0 || x.Stretches[k-1].Aside)
	ends := !s.Aside && (k == len(x.Stretches)-1 || x.Stretches[k+1].Aside)
	if stay && held[b] != nil {
		return
	}
	minutes, _ := minutesOf(n.r, s, x.Started != nil && k == 0)
	m := max(x.end, x.release)
	if stay {
		m = max(m, free[b])
	}
	if s.Do == Hands {
		m = max(m, hands[p])
	}
	binds := !x.LeaveOpen && !(x.Started != nil && x.opened == 0 && k > 0) && !(x.Started != nil && k == 0)
	opens := s.Open && (k == 0 || !x.Stretches[k-1].Open) && binds
	for try := 0; try < 6; try++ {
		for end := 0; ; m++ {
			if k == 0 && x.pin > 0 && m > x.pin || m > n.now+20*1440 {
				return
			}
			if end = n.fits(s, p, m, minutes); end > 0 && (k > 0 || x.pin == 0 || m == x.pin) {
				break
			}
		}
		end := n.fits(s, p, m, minutes)
		wasX, wasFree, wasHeld, wasHands, wasSum := *x, free[b], held[b], hands[p], *sum
		x.next, x.b, x.p, x.end = k+1, b, p, end
		if k == 0 {
			x.first = m
		}
		if s.Open && (k == 0 || !x.Stretches[k-1].Open) {
			x.opened = k
			if opens {
				x.opened = -n.midnight[m] // it is closed by then
			}
		}
		good := x.opened >= 0 || k > 0 && !x.Stretches[k-1].Open && !s.Open || end <= -x.opened
		if stay {
			held[b] = x
		}
		if ends {
			held[b], free[b] = nil, end+n.r.Practice.Clear.Or(10)
		}
		if s.Do == Hands {
			hands[p] = end
		}
		if x.next == len(x.Stretches) {
			*sum = sum.plus(n.cost(x.Job, b, p, x.first, end))
		}
		if good {
			walk()
		}
		*x, free[b], held[b], hands[p], *sum = wasX, wasFree, wasHeld, wasHands, wasSum
		if !opens || k == 0 && x.pin > 0 {
			return
		}
		m = n.midnight[m]
	}
}

// cost is what a job's place adds to the objective.
func (n *naive) cost(j *Job, b, p, first, end int) (o Objective) {
	ready := next(n.open, end)
	if j.Danger {
		o.Danger = first - n.now
	}
	if j.Promise != "" {
		promise := n.at(j.Promise)
		switch {
		case ready > promise:
			o.Broken, o.Late = max(1, j.Weight), max(1, count(n.open, promise, ready))
		case count(n.open, ready, promise) < n.margin(j):
			o.AtRisk = max(1, j.Weight)
		}
	}
	o.Quarters = (count(n.open, n.now, ready) + 14) / 15
	if x := j.Published; x != nil && (x.Bench != n.r.Benches[b].ID || x.Person != n.r.People[p].ID || ready > n.at(x.Ready)+15) {
		o.Changes = 1
	}
	if x := j.Prefer; x != nil {
		if x.Bench != n.r.Benches[b].ID {
			o.Against++
		}
		if x.Person != n.r.People[p].ID {
			o.Against++
		}
	}
	return o
}

func (n *naive) margin(j *Job) int {
	sum := 0
	for k := range j.Stretches {
		if j.Stretches[k].Do == Hands {
			planned, safe := minutesOf(n.r, &j.Stretches[k], j.Started != nil && k == 0)
			sum += safe - planned
		}
	}
	return max(sum, n.r.Practice.Margin.Or(60))
}

// index finds where an id stands.
func index[T any](list []T, id string, of func(*T) string) int {
	for i := range list {
		if of(&list[i]) == id {
			return i
		}
	}
	panic(fmt.Sprint("no ", id))
}

func benchOf(r *Request, id string) int {
	return index(r.Benches, id, func(b *Bench) string { return b.ID })
}
func personOf(r *Request, id string) int {
	return index(r.People, id, func(p *Person) string { return p.ID })
}
