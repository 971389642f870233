package exchange

import (
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
