package exchange

import (
	"fmt"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
)

// Event is a time in a calendar that others read. Day says that it is a whole day, From.
type Event struct {
	UID               string
	Sequence          int
	Stamp             time.Time // when it was published so
	From, To          time.Time
	Summary, Location string
	Day               bool
	Cancelled         bool
	Private           bool
}

// Calendar writes events as an iCalendar (RFC 5545), in their order.
func Calendar(name string, events []Event) []byte {
	cal := ics.NewCalendarFor("Yembo")
	cal.SetMethod(ics.MethodPublish)
	cal.SetXWRCalName(name)
	for _, e := range events {
		v := cal.AddEvent(e.UID)
		v.SetDtStampTime(e.Stamp.UTC())
		v.SetSequence(e.Sequence)
		v.SetSummary(e.Summary)
		if e.Day {
			v.SetAllDayStartAt(e.From)
			v.SetAllDayEndAt(e.From.AddDate(0, 0, 1))
		} else {
			v.SetStartAt(e.From.UTC())
			v.SetEndAt(e.To.UTC())
		}
		if e.Location != "" {
			v.SetLocation(e.Location)
		}
		if e.Private {
			v.SetClass(ics.ClassificationPrivate)
		}
		if v.SetStatus(ics.ObjectStatusConfirmed); e.Cancelled {
			v.SetStatus(ics.ObjectStatusCancelled)
		}
	}
	return []byte(cal.Serialize())
}

// Days are whole days of a calendar, From and To among them, as 2006-01-02.
type Days struct{ From, To, Summary string }

// WholeDays reads the whole days of an iCalendar; what has hours is left out, and what is cancelled. The error says what cannot
// be read; repeats counts entries that recur, of which the first alone is taken.
func WholeDays(text string) (days []Days, repeats int, err error) {
	cal, err := ics.ParseCalendar(strings.NewReader(text))
	if err != nil {
		return nil, 0, fmt.Errorf("the calendar: %w", err)
	}
	for _, e := range cal.Events() {
		from, err := e.GetAllDayStartAt()
		start := e.GetProperty(ics.ComponentPropertyDtStart)
		if err != nil || start == nil || len(start.Value) != len("20060102") {
			continue
		}
		if status := e.GetProperty(ics.ComponentPropertyStatus); status != nil && status.Value == string(ics.ObjectStatusCancelled) {
			continue
		}
		to := from
		if end, err := e.GetAllDayEndAt(); err == nil && end.After(from) {
			to = end.AddDate(0, 0, -1) // the day after the last
		}
		d := Days{From: from.Format(time.DateOnly), To: to.Format(time.DateOnly)}
		if s := e.GetProperty(ics.ComponentPropertySummary); s != nil {
			d.Summary = s.Value
		}
		if e.HasProperty(ics.ComponentPropertyRrule) {
			repeats++
		}
		days = append(days, d)
	}
	return days, repeats, nil
}
