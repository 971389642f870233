package base

import (
	"time"

	"yembo/core/hw"
)

// Due is when something is expected: a day such as 2026-05-21, with the time where that was said ("2026-05-21 10:00"), "" where
// nothing was said. A day alone lasts until its end.
type Due string

// dueForm is how a day with its time is written.
const dueForm = "2006-01-02 15:04"

// DueAt is a day with its time, or the day alone.
func DueAt(t time.Time, timed bool) Due {
	if timed {
		return Due(t.Format(dueForm))
	}
	return Due(t.Format(time.DateOnly))
}

// Day is its day, "" where nothing was said.
func (d Due) Day() string { return string(d[:min(len(d), len(time.DateOnly))]) }

// Timed reports whether the time was said.
func (d Due) Timed() bool { return len(d) > len(time.DateOnly) }

// until is the last moment of it, so that two can be compared as texts.
func (d Due) until() string {
	if d != "" && !d.Timed() {
		return string(d) + " 24:00"
	}
	return string(d)
}

// Late reports whether it should have come by now.
func (d Due) Late(now time.Time) bool { return d != "" && d.until() < now.Format(dueForm) }

// Ahead reports whether it is for later than now, a day alone for another day.
func (d Due) Ahead(now time.Time) bool {
	if d.Timed() {
		return string(d) > now.Format(dueForm)
	}
	return string(d) > now.Format(time.DateOnly)
}

// Later is the later of two; what was not said is no moment.
func (d Due) Later(x Due) Due {
	if x.until() > d.until() {
		return x
	}
	return d
}

// At is the moment on a clock; timed is false for a day alone, which is its midnight. ok is false where nothing was said.
func (d Due) At(where *time.Location) (at time.Time, timed, ok bool) {
	form := time.DateOnly
	if d.Timed() {
		form = dueForm
	}
	at, err := time.ParseInLocation(form, string(d), where)
	return at, d.Timed(), err == nil
}

// Words writes it the way people say it: Thu 21 May 10:00.
func (d Due) Words() string {
	switch at, timed, ok := d.At(time.UTC); {
	case !ok:
		return string(d)
	case timed:
		return TimeWords(at)
	default:
		return at.Format("Mon 2 Jan")
	}
}

// Sheet writes it the way the sheets write days: 21 May 26, 10:00.
func (d Due) Sheet() string {
	if at, timed, _ := d.At(time.UTC); timed {
		return hw.Day(d.Day()) + ", " + at.Format("15:04")
	}
	return hw.Day(string(d))
}

// Check adds a fault for what is no day; "" is none.
func (d Due) Check(faults *hw.Faults, pointer string) {
	if _, _, ok := d.At(time.UTC); d != "" && !ok {
		faults.Add(pointer, hw.FaultChoice, `"`+string(d)+`"`, "a day such as 2026-05-21, or with its time: 2026-05-21 10:00")
	}
}
