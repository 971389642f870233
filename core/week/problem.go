package week

import (
	"context"
	"fmt"
	"slices"
	"sort"
	"time"
	_ "time/tzdata" // a machine without time zones plans all the same

	"yembo/core/hw"
)

// stretch is a stretch of a job, in minutes.
type stretch struct {
	hands, alone bool
	split        Split
	min, safe    int
	stay         bool // it begins a stay on the bench
	last         bool // it ends one
	aside        bool
	opens        int // of the stretch that leaves the machine open: which one closes it again on the same date; else -1
	opened       int // within such an opening, the stretch that opened it; else -1
}

// job is a job to be placed; moments in minutes since 1970, never where there is none.
type job struct {
	*Job
	stretches          []stretch
	release            int
	promise, weight    int
	margin             int
	benches, people    []int // that it may have
	preferB, preferP   int   // -1 for no preference
	publishedB         int
	publishedP         int
	published          int // ready as last shown
	started            bool
	startedB, startedP int
	pin                int // exact start, never for none
	pinB, pinP         int
	kept               bool    // its pin stands
	code               NoPlace // why it has no place
	waits              string  // for which arrival
}

// problem is a request, read.
type problem struct {
	ctx                                context.Context // whose end ends the search
	r                                  *Request
	z                                  *zone
	now                                int
	margin, round, look, clear, unsure int
	open                               calendar   // the shop's hours
	there                              []calendar // of each person
	anybody                            calendar
	jobs                               []*job
	arrivals                           map[string]arrival
}

// arrival is when something comes, and from when it is of use.
type arrival struct {
	here     bool
	at, use  int
	awaited  bool // it is not here, and its moment is known
	position int
}

// read turns a request into a problem. The error is hw.Faults.
func read(r *Request, quick *Quick) (*problem, error) {
	d := &reader{r: r}
	var err error
	if quick != nil && quick.Where != nil {
		d.loc = quick.Where
	} else if d.loc, err = time.LoadLocation(r.TZ); err != nil || r.TZ == "" || r.TZ == "Local" {
		d.add("/tz", hw.FaultReference, fmt.Sprintf("%q", r.TZ), "time zone; such as Europe/Vienna")
		return nil, d.faults.Err()
	}
	d.now = d.instant("/now", r.Now)
	p := &problem{r: r, now: d.now, margin: r.Practice.Margin.Or(60), round: r.Practice.Round.Or(30), look: r.Practice.Look.Or(15),
		clear: r.Practice.Clear.Or(10), unsure: r.Practice.Unmeasured.Or(125), arrivals: map[string]arrival{}}
	p.practice(d)
	p.calendars(d)
	if len(r.Benches) == 0 {
		d.add("/benches", hw.FaultMissing, "", "at least one bench")
	}
	if len(r.People) == 0 {
		d.add("/people", hw.FaultMissing, "", "at least one person")
	}
	if len(d.faults) > 0 {
		return nil, d.faults.Err() // what follows stands on these
	}
	p.readArrivals(d)
	p.readJobs(d)
	return p, d.faults.Err()
}

func (p *problem) practice(d *reader) {
	for _, x := range []struct {
		name        string
		value, from int
	}{{"margin_min", p.margin, 0}, {"round_min", p.round, 1}, {"look_min", p.look, 0}, {"clear_min", p.clear, 0},
		{"unmeasured_percent", p.unsure, 0}} {
		if x.value < x.from || x.value > 100_000 {
			d.add("/practice/"+x.name, hw.FaultRange, fmt.Sprint(x.value), fmt.Sprintf("from %d to 100000", x.from))
		}
	}
}

// horizon is the first and the last date that matter: those of everything that is told, and a year to plan in.
func (p *problem) horizon(d *reader) (from, to time.Time) {
	first, last := p.now, p.now
	take := func(text string) {
		t, err := time.Parse(time.RFC3339, text)
		if err != nil {
			if t, err = time.Parse(time.DateOnly, text); err != nil {
				return
			}
		}
		first, last = min(first, int(t.Unix()/60)), max(last, int(t.Unix()/60))
	}
	for i := range p.r.Arrivals {
		take(p.r.Arrivals[i].At)
		take(p.r.Arrivals[i].On)
	}
	for i := range p.r.Days {
		take(p.r.Days[i].On)
	}
	for i := range p.r.People {
		for _, a := range p.r.People[i].Away {
			take(a.To)
		}
	}
	for i := range p.r.Jobs {
		j := &p.r.Jobs[i]
		take(j.From)
		take(j.Promise)
		if j.Pin != nil {
			take(j.Pin.Start)
		}
		if j.Published != nil {
			take(j.Published.Ready)
		}
	}
	first, last = max(first, p.now-farthest*1440), min(last, p.now+farthest*1440)
	day := func(t int) time.Time { return time.Unix(int64(t)*60, 0).In(d.loc) }
	return day(first).AddDate(0, 0, -2), day(last).AddDate(1, 0, 40)
}

// calendars works out when the shop is open and who is there when.
func (p *problem) calendars(d *reader) {
	from, to := p.horizon(d)
	p.z = newZone(d.loc, from, to)
	week := d.weekOf("/hours", p.r.Hours)
	special := map[time.Time][]wallSpan{}
	for i := range p.r.Days {
		at := fmt.Sprint("/days/", i)
		on, ok := d.date(at+"/on", p.r.Days[i].On)
		if _, twice := special[on]; ok && twice {
			d.add(at+"/on", hw.FaultDuplicate, p.r.Days[i].On, "each date once")
		}
		special[on] = d.hours(at+"/hours", p.r.Days[i].Hours)
	}
	hoursOn := func(own *[7][]wallSpan, date time.Time) []wallSpan {
		day, is := special[date]
		switch {
		case own == nil && is:
			return day
		case own == nil:
			return week[date.Weekday()]
		case is:
			return common(own[date.Weekday()], day)
		}
		return own[date.Weekday()]
	}
	build := func(own *[7][]wallSpan) calendar {
		var all []span
		for i := range len(p.z.days) - 1 {
			date := p.z.date(i)
			for _, w := range hoursOn(own, date) {
				all = append(all, span{a: p.z.wall(date, w.a, false), b: p.z.wall(date, w.b, true)})
			}
		}
		return newCalendar(all)
	}
	p.open = build(nil)
	if len(p.open) == 0 {
		d.add("/hours", hw.FaultMissing, "", "an hour in which the shop is open")
	}
	var all []span
	for i := range p.r.People {
		own := p.open
		if x := &p.r.People[i]; x.Hours != nil {
			theirs := d.weekOf(fmt.Sprintf("/people/%d/hours", i), x.Hours)
			own = build(&theirs)
		}
		own = own.without(p.away(d, i))
		p.there = append(p.there, own)
		all = append(all, own...)
	}
	p.anybody = newCalendar(all)
}

// common is what two lists of hours of one day share.
func common(a, b []wallSpan) []wallSpan {
	var out []wallSpan
	for _, x := range a {
		for _, y := range b {
			if s := (wallSpan{max(x.a, y.a), min(x.b, y.b)}); s.a < s.b {
				out = append(out, s)
			}
		}
	}
	return out
}

// away is when a person is not there.
func (p *problem) away(d *reader, person int) []span {
	var out []span
	for k, a := range p.r.People[person].Away {
		at := fmt.Sprintf("/people/%d/away/%d", person, k)
		end := func(field, text string, last bool) int {
			if len(text) != len(time.DateOnly) {
				return d.instant(at+"/"+field, text)
			}
			date, _ := d.date(at+"/"+field, text)
			if last {
				date = date.AddDate(0, 0, 1)
			}
			return p.z.wall(date, 0, false)
		}
		s := span{a: end("from", a.From, false), b: end("to", a.To, true)}
		if s.b <= s.a {
			d.add(at, hw.FaultConflict, "it ends "+a.To, "it begins "+a.From)
		}
		out = append(out, s)
	}
	return out
}

func (p *problem) readArrivals(d *reader) {
	var ids []string
	for i := range p.r.Arrivals {
		x := &p.r.Arrivals[i]
		at := fmt.Sprint("/arrivals/", i)
		ids = append(ids, x.ID)
		a := arrival{here: x.Here, at: never, use: never, position: i}
		switch {
		case x.At != "" && x.On != "":
			d.add(at+"/on", hw.FaultConflict, "it comes on "+x.On, "it comes at "+x.At)
		case x.At != "":
			a.at = d.instant(at+"/at", x.At)
		case x.On != "":
			date, _ := d.date(at+"/on", x.On)
			begins, ends := p.z.wall(date, 0, false), p.z.wall(date.AddDate(0, 0, 1), 0, false)
			a.at = ends
			// The last closing of that day; hours that go on over midnight close nowhere on it.
			if k := p.open.from(ends-1) - 1; k+1 < len(p.open) && p.open[k+1].a < ends {
				a.at = ends
			} else if k >= 0 && p.open[k].b > begins {
				a.at = p.open[k].b
			}
		}
		if !a.here && a.at != never && a.at > p.now {
			a.awaited = true
			a.use = p.open.add(a.at, p.look)
		}
		p.arrivals[x.ID] = a
	}
	d.unique("arrivals", ids)
}

func (p *problem) readJobs(d *reader) {
	var ids, benches, people []string
	for i := range p.r.Benches {
		benches = append(benches, p.r.Benches[i].ID)
	}
	for i := range p.r.People {
		people = append(people, p.r.People[i].ID)
	}
	d.unique("benches", benches)
	d.unique("people", people)
	for i := range p.r.Jobs {
		x := &p.r.Jobs[i]
		at := fmt.Sprint("/jobs/", i)
		ids = append(ids, x.ID)
		d.checkJob(at, x)
		j := &job{Job: x, release: p.now, promise: never, weight: max(x.Weight, 1), preferB: -1, preferP: -1, publishedB: -1,
			publishedP: -1, published: never, pin: never, pinB: -1, pinP: -1}
		if x.Promise != "" {
			j.promise = d.instant(at+"/promise", x.Promise)
		}
		if x.Prefer != nil {
			j.preferB = d.index(at+"/prefer/bench", x.Prefer.Bench, "bench", benches)
			j.preferP = d.index(at+"/prefer/person", x.Prefer.Person, "person", people)
		}
		if x.Published != nil {
			j.publishedB = d.index(at+"/published/bench", x.Published.Bench, "bench", benches)
			j.publishedP = d.index(at+"/published/person", x.Published.Person, "person", people)
			if x.Published.Ready != "" {
				j.published = d.instant(at+"/published/ready", x.Published.Ready)
			}
		}
		if x.Pin != nil {
			j.pinB = d.index(at+"/pin/bench", x.Pin.Bench, "bench", benches)
			j.pinP = d.index(at+"/pin/person", x.Pin.Person, "person", people)
			if x.Pin.Start != "" {
				j.pin = d.instant(at+"/pin/start", x.Pin.Start)
			}
		}
		p.may(d, at, j, benches, people)
		p.stretchesOf(j)
		if j.started {
			j.startedB, j.startedP = slices.Index(benches, x.Started.Bench), slices.Index(people, x.Started.Person)
		} else {
			p.releaseOf(d, at, j)
		}
		p.jobs = append(p.jobs, j)
	}
	d.unique("jobs", ids)
	d.checkStarted()
}

// may fills in which benches and people a job may have.
func (p *problem) may(d *reader, at string, j *job, benches, people []string) {
	list := func(field string, only []string, ids []string, what string) []int {
		var out []int
		for k, id := range only {
			if i := d.index(fmt.Sprintf("%s/only/%s/%d", at, field, k), id, what, ids); i >= 0 {
				out = append(out, i)
			}
		}
		sort.Ints(out)
		return slices.Compact(out)
	}
	for i := range benches {
		j.benches = append(j.benches, i)
	}
	for i := range people {
		j.people = append(j.people, i)
	}
	if o := j.Only; o != nil && o.Benches != nil {
		j.benches = list("benches", o.Benches, benches, "bench")
	}
	if o := j.Only; o != nil && o.People != nil {
		j.people = list("people", o.People, people, "person")
	}
	if s := j.Job.Started; s != nil {
		j.started = true
		d.index(at+"/started/bench", s.Bench, "bench", benches)
		d.index(at+"/started/person", s.Person, "person", people)
	}
}

// releaseOf works out from when a job can begin.
func (p *problem) releaseOf(d *reader, at string, j *job) {
	if j.From != "" {
		j.release = max(j.release, d.instant(at+"/from", j.From))
	}
	for k, id := range j.Needs {
		a, known := p.arrivals[id]
		switch {
		case !known:
			d.add(fmt.Sprintf("%s/needs/%d", at, k), hw.FaultReference, fmt.Sprintf("%q", id), "arrival")
		case a.here:
		case !a.awaited:
			if j.code == "" {
				j.code, j.waits = ArrivalUnknown, id
			}
		default:
			j.release = max(j.release, a.use)
		}
	}
	if j.Job.Blocked != "" {
		j.code, j.waits = Blocked, ""
	}
}

// stretchesOf works out a job's minutes, its stays on the bench and when it stands open.
func (p *problem) stretchesOf(j *job) {
	opened, more := -1, 0
	for k := range j.Stretches {
		x := &j.Stretches[k]
		s := stretch{hands: x.Do == Hands, alone: x.Alone, split: x.Split, aside: x.Aside, opens: -1, opened: opened}
		s.min, s.safe = p.minutes(x, j.started && k == 0)
		if s.hands {
			more += s.safe - s.min
		}
		s.stay = !x.Aside && (k == 0 || j.Stretches[k-1].Aside)
		s.last = !x.Aside && (k == len(j.Stretches)-1 || j.Stretches[k+1].Aside)
		j.stretches = append(j.stretches, s)
		switch {
		case x.Open && opened < 0:
			opened = k
		case !x.Open && opened >= 0:
			// An opening that was under way already may stand open over night, and so may one that is allowed to.
			if !j.LeaveOpen && !(j.started && opened == 0) {
				j.stretches[opened].opens = k
			} else {
				for i := opened; i <= k; i++ {
					j.stretches[i].opened = -1
				}
			}
			opened = -1
		}
	}
	j.margin = max(p.margin, more)
}

// IsMeasured reports whether enough earlier runs say how long it takes: three.
func (x *Stretch) IsMeasured() bool { return len(x.Measured) >= 3 }

// Planned is for how many whole minutes a stretch is planned: the median of three or more earlier runs, else what was told.
func (x *Stretch) Planned() int {
	if !x.IsMeasured() {
		return up(x.Minutes, 1)
	}
	runs := slices.Sorted(slices.Values(x.Measured))
	n := len(runs)
	return up(runs[(n-1)/2]+runs[n/2], 2)
}

// minutes are how long a stretch is planned, and how long it safely takes.
func (p *problem) minutes(x *Stretch, underWay bool) (planned, safe int) {
	runs := slices.Clone(x.Measured)
	slices.Sort(runs)
	n := len(runs)
	if planned = x.Planned(); underWay {
		n, planned = 0, up(x.Minutes, 1) // what is left is told, whatever earlier runs took
	}
	switch {
	case x.Do != Hands:
		return planned, planned
	case n >= 5:
		safe = up(runs[(8*n+9)/10-1], 1)
	case n >= 3:
		safe = up(runs[n-1], 1)
	default:
		safe = (planned*p.unsure + 99) / 100
	}
	return planned, max(planned, safe)
}

// up is a decimal divided by a number, rounded up to a whole.
func up(d hw.Dec, by int) int {
	unit := hw.DecOf(by)
	return int((d + unit - 1) / unit)
}
