package week

import (
	"fmt"
	"slices"
	"strconv"
	"time"

	"yembo/core/hw"
)

// weekdays are the names of the days of hours, by time.Weekday.
var weekdays = [7]string{"sun", "mon", "tue", "wed", "thu", "fri", "sat"}

// farthest is how many days from now instants and dates may lie.
const farthest = 3660

// mostMinutes is how long a stretch may take: ten weeks by day and night.
const mostMinutes = 100_000

// reader reads the texts of a request, and notes what is wrong with them at their places.
type reader struct {
	r      *Request
	faults hw.Faults
	loc    *time.Location
	now    int
}

func (d *reader) add(at string, kind hw.FaultKind, got, want string) {
	d.faults.Add(at, kind, got, want)
}

// instant reads a moment, in minutes since 1970.
func (d *reader) instant(at, text string) int {
	t, err := time.Parse(time.RFC3339, text)
	switch {
	case err != nil:
		d.add(at, hw.FaultType, strconv.Quote(text), "an instant such as 2026-05-18T11:20:00+02:00")
		return d.now
	case t.Unix()%60 != 0 || t.Nanosecond() != 0:
		d.add(at, hw.FaultRange, text, "whole minutes")
	}
	m := int(t.Unix() / 60)
	d.near(at, text, m)
	return m
}

// near notes what lies too far from now.
func (d *reader) near(at, text string, m int) {
	if d.now != 0 && (m < d.now-farthest*1440 || m > d.now+farthest*1440) {
		d.add(at, hw.FaultRange, text, "at most ten years from now")
	}
}

// date reads a bare day, at noon UTC; ok is false for none.
func (d *reader) date(at, text string) (day time.Time, ok bool) {
	day, err := time.Parse(time.DateOnly, text)
	if err != nil {
		d.add(at, hw.FaultType, strconv.Quote(text), "a day such as 2026-05-18")
		return d.today(), false
	}
	d.near(at, text, int(day.Unix()/60))
	return day.Add(12 * time.Hour), true
}

// today is the date of now, at noon UTC.
func (d *reader) today() time.Time {
	at := time.Unix(int64(d.now)*60, 0).In(d.loc)
	return time.Date(at.Year(), at.Month(), at.Day(), 12, 0, 0, 0, time.UTC)
}

// wallSpan is a span of the wall clock, in minutes from midnight.
type wallSpan struct{ a, b int }

// hours reads the hours of one day.
func (d *reader) hours(at string, list [][2]string) []wallSpan {
	var out []wallSpan
	for i, pair := range list {
		here := fmt.Sprint(at, "/", i)
		a, okA := clockOf(pair[0])
		b, okB := clockOf(pair[1])
		switch {
		case !okA:
			d.add(here+"/0", hw.FaultType, strconv.Quote(pair[0]), "a time such as 09:00")
		case !okB:
			d.add(here+"/1", hw.FaultType, strconv.Quote(pair[1]), "a time such as 18:00, at most 24:00")
		case b <= a:
			d.add(here, hw.FaultConflict, "it closes at "+pair[1], "it opens at "+pair[0])
		case len(out) > 0 && a < out[len(out)-1].b:
			d.add(here, hw.FaultConflict, "it opens at "+pair[0], "the hours before it end later")
		default:
			out = append(out, wallSpan{a, b})
		}
	}
	return out
}

// clockOf reads a wall time, in minutes from midnight.
func clockOf(text string) (minutes int, ok bool) {
	if text == "24:00" {
		return 24 * 60, true
	}
	t, err := time.Parse("15:04", text)
	return t.Hour()*60 + t.Minute(), err == nil && len(text) == 5
}

// weekOf reads hours by weekday.
func (d *reader) weekOf(at string, hours map[string][][2]string) (out [7][]wallSpan) {
	for name := range hours {
		if !slices.Contains(weekdays[:], name) {
			d.add(at+"/"+hw.EscapePointer(name), hw.FaultExtra, strconv.Quote(name), "")
		}
	}
	for i, name := range weekdays {
		out[i] = d.hours(at+"/"+name, hours[name])
	}
	return out
}

// index finds an id in a list; -1 with a fault where it is not there, -1 without one for "".
func (d *reader) index(at, id, what string, ids []string) int {
	if id == "" {
		return -1
	}
	i := slices.Index(ids, id)
	if i < 0 {
		d.add(at, hw.FaultReference, strconv.Quote(id), what)
	}
	return i
}

// unique notes ids that stand twice.
func (d *reader) unique(list string, ids []string) {
	seen := map[string]bool{}
	for i, id := range ids {
		if seen[id] {
			d.add(fmt.Sprintf("/%s/%d/id", list, i), hw.FaultDuplicate, strconv.Quote(id), "ids are unique")
		}
		seen[id] = true
	}
}

// checkJob notes what contradicts itself in a job.
func (d *reader) checkJob(at string, j *Job) {
	both := func(is bool, field, with string) {
		if is {
			d.add(at+"/"+field, hw.FaultConflict, field, "the job is "+with)
		}
	}
	both(j.Started != nil && j.Pin != nil, "pin", "started")
	both(j.Started != nil && j.New, "new", "started")
	both(j.New && j.Pin != nil, "pin", "new")
	both(j.New && j.Promise != "", "promise", "new")
	both(j.New && j.Danger, "danger", "new")
	if j.Weight < 0 || j.Weight > 100_000 {
		d.add(at+"/weight", hw.FaultRange, strconv.Itoa(j.Weight), "from 1 to 100000")
	}
	if j.Started != nil && (j.Started.Bench == "" || j.Started.Person == "") {
		d.add(at+"/started", hw.FaultMissing, "", "the bench and the person")
	}
	if len(j.Stretches) == 0 {
		d.add(at+"/stretches", hw.FaultMissing, "", "at least one stretch")
	}
	open := -1 // where the machine was left open
	for k := range j.Stretches {
		s := &j.Stretches[k]
		here := fmt.Sprint(at, "/stretches/", k)
		if s.Minutes <= 0 || s.Minutes > hw.DecOf(mostMinutes) {
			d.add(here+"/minutes", hw.FaultRange, s.Minutes.String(), "above 0, and at most 100000")
		}
		for i, m := range s.Measured {
			if m <= 0 || m > hw.DecOf(mostMinutes) {
				d.add(fmt.Sprint(here, "/measured/", i), hw.FaultRange, m.String(), "above 0, and at most 100000")
			}
		}
		inside := open >= 0 || s.Open
		if inside && s.Aside {
			d.add(here+"/aside", hw.FaultConflict, "it is off the bench", "the machine is open")
		}
		if inside && s.Split == SplitClosing && !j.LeaveOpen {
			d.add(here+"/split", hw.FaultConflict, "it goes on over night", "the machine is open and may not be left so")
		}
		switch {
		case s.Open && k == len(j.Stretches)-1:
			d.add(here+"/open", hw.FaultConflict, "the machine is open at its end", "it is the last stretch")
		case s.Open && open < 0:
			open = k
		case !s.Open:
			open = -1
		}
	}
}

// checkStarted notes what cannot be under way at once.
func (d *reader) checkStarted() {
	bench, hands := map[string]bool{}, map[string]bool{}
	for i := range d.r.Jobs {
		j := &d.r.Jobs[i]
		if j.Started == nil || len(j.Stretches) == 0 {
			continue
		}
		at := fmt.Sprintf("/jobs/%d/started", i)
		if b := j.Started.Bench; !j.Stretches[0].Aside {
			if bench[b] {
				d.add(at+"/bench", hw.FaultConflict, "this job is under way on "+b, "so is another")
			}
			bench[b] = true
		}
		if p := j.Started.Person; j.Stretches[0].Do == Hands {
			if hands[p] {
				d.add(at+"/person", hw.FaultConflict, p+" has hands on this job", "on another too")
			}
			hands[p] = true
		}
	}
}
