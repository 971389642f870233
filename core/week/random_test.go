package week

import (
	"fmt"
	"math/rand/v2"
	"time"

	"yembo/core/hw"
)

var vienna = func() *time.Location {
	loc, err := time.LoadLocation("Europe/Vienna")
	if err != nil {
		panic(err)
	}
	return loc
}()

// size is how large a request at random is.
type size struct {
	jobs, stretches, benches, people, days int
	plain                                  bool // nothing under way, pinned or new
}

// atRandom is a request at random that has no faults: the same for the same seed.
func atRandom(seed uint64, n size) *Request {
	rnd := rand.New(rand.NewPCG(seed, 29))
	now := time.Date(2026, 5, 18, 8+rnd.IntN(11), rnd.IntN(60), 0, 0, vienna)
	one := func(of int) bool { return rnd.IntN(of) == 0 }
	later := func(days int) string {
		at := now.AddDate(0, 0, rnd.IntN(days+1))
		return time.Date(at.Year(), at.Month(), at.Day(), 8+rnd.IntN(11), 15*rnd.IntN(4), 0, 0, vienna).Format(time.RFC3339)
	}
	r := &Request{Format: Format, Now: now.Format(time.RFC3339), TZ: "Europe/Vienna", Hours: map[string][][2]string{}}
	for _, day := range []string{"mon", "tue", "wed", "thu", "fri"} {
		r.Hours[day] = [][2]string{{"09:00", "12:00"}, {"13:00", "18:00"}}
	}
	if one(3) {
		r.Days = []Day{{On: now.AddDate(0, 0, 1).Format(time.DateOnly)}, {On: now.AddDate(0, 0, 2).Format(time.DateOnly),
			Hours: [][2]string{{"10:00", "16:30"}}}}
	}
	for b := range n.benches {
		r.Benches = append(r.Benches, Bench{ID: fmt.Sprint("b", b+1)})
	}
	for p := range n.people {
		x := Person{ID: fmt.Sprint("p", p+1)}
		if one(3) {
			x.Away = []Away{{From: later(n.days), To: now.AddDate(0, 0, n.days+1).Format(time.DateOnly)}}
			if one(2) {
				x.Away[0] = Away{From: now.AddDate(0, 0, 1).Format(time.DateOnly), To: now.AddDate(0, 0, 1).Format(time.DateOnly)}
			}
		}
		if one(4) {
			x.Hours = map[string][][2]string{"mon": {{"08:00", "13:30"}}, "tue": {{"08:00", "13:30"}}, "thu": {{"10:00", "20:00"}}}
		}
		r.People = append(r.People, x)
	}
	r.Arrivals = []Arrival{{ID: "here", Here: true}, {ID: "soon", At: later(1)}, {ID: "day", On: now.AddDate(0, 0,
		1).Format(time.DateOnly)}}
	startedAt := map[string]bool{}
	for i := range n.jobs {
		j := Job{ID: fmt.Sprint("j", i+1)}
		for k, many := 0, 1+rnd.IntN(n.stretches); k < many; k++ {
			s := Stretch{Do: Hands, Minutes: hw.DecOf(5 * (1 + rnd.IntN(24)))}
			switch rnd.IntN(5) {
			case 0:
				s.Do, s.Alone = Wait, one(2)
			case 1:
				s.Split = []Split{SplitBreak, SplitClosing}[rnd.IntN(2)]
			case 2:
				s.Open = k < many-1
			case 3:
				if s.Aside = one(2); s.Aside && one(2) {
					s.Do = Wait
				}
			}
			if one(6) {
				s.Measured = []hw.Dec{hw.DecOf(20), hw.DecOf(35), hw.DecOf(50)}
			}
			if k > 0 && j.Stretches[k-1].Open {
				s.Aside = false
			}
			if s.Split == SplitClosing && (s.Open || k > 0 && j.Stretches[k-1].Open) {
				s.Split = SplitBreak
			}
			j.Stretches = append(j.Stretches, s)
		}
		if one(2) {
			j.Promise = later(n.days)
		}
		j.Weight, j.Danger, j.LeaveOpen = rnd.IntN(3), one(8), one(8)
		if one(3) {
			j.Needs = []string{[]string{"here", "soon", "day"}[rnd.IntN(3)]}
		}
		where := func() Where {
			return Where{r.Benches[rnd.IntN(n.benches)].ID, r.People[rnd.IntN(n.people)].ID}
		}
		if one(4) {
			w := where()
			j.Prefer = &w
		}
		if one(4) {
			w := where()
			j.Published = &Published{w.Bench, w.Person, later(n.days)}
		}
		if one(6) {
			j.Only = &Only{People: []string{where().Person}}
		}
		if !n.plain {
			switch w := where(); rnd.IntN(9) {
			case 0:
				if !startedAt[w.Bench] && !startedAt[w.Person] {
					startedAt[w.Bench], startedAt[w.Person] = true, true
					j.Started = &w
				}
			case 1:
				j.Pin = &Pin{Start: later(n.days)}
			case 2:
				j.Pin = &Pin{Bench: w.Bench}
			case 3:
				j.New, j.Promise, j.Danger = true, "", false
			}
		}
		r.Jobs = append(r.Jobs, j)
	}
	return r
}
