package kit

import (
	"fmt"
	"time"

	"yembo/core/hw"
	"yembo/core/week"
	"yembo/shop/base"
)

// ReasonRow is a row of the reckoning of when a machine is ready: what holds it, and until when.
type ReasonRow struct {
	Says string
	At   time.Time
	Code week.ReasonCode
}

// ReasonRows put the reasons of a place in words. job names another job; at the counter it names none. stretches are the
// job's own, comes is what it waits for.
func ReasonRows(plan *week.Planned, stretches []week.Stretch, job func(id string) string, comes string) []ReasonRow {
	var out []ReasonRow
	for _, r := range plan.Why {
		at, err := time.Parse(time.RFC3339, r.At)
		if err != nil {
			continue // a schedule writes none that cannot be read
		}
		says := hw.UpperFirst(week.Reasons.Says(r.Code))
		min := 0
		if r.Min != nil {
			min = *r.Min
		}
		switch r.Code {
		case week.WhyArrival:
			says = hw.UpperFirst(base.OrWord(comes, "the parts")) + ": expected"
		case week.WhyLook:
			says = fmt.Sprintf("Taken in and looked at, %d min", min)
		case week.WhyBench:
			says = "The bench is free after " + job(r.Job)
		case week.WhyPerson:
			says = "Hands are free after " + job(r.Job)
		case week.WhyHands, week.WhyWait:
			what := "work"
			if r.Stretch != nil && *r.Stretch < len(stretches) {
				what = stretches[*r.Stretch].What
			}
			says = hw.UpperFirst(what) + fmt.Sprintf(", %d min", min)
			switch {
			case r.Code == week.WhyWait:
				says += ", runs by itself"
			case r.Stretch != nil && stretches[*r.Stretch].IsMeasured():
				says += fmt.Sprintf(", as %d earlier runs took", len(stretches[*r.Stretch].Measured))
			}
		case week.WhyHours:
			says = "No one is there before"
		case week.WhyMargin:
			says = fmt.Sprintf("The shop's margin, %d min", min)
		case week.WhyStarted, week.WhyNow, week.WhyMachine, week.WhyPin, week.WhyDay, week.WhyOpening, week.WhyRound:
		}
		if n := len(out); r.Code == week.WhyRound && n > 0 && out[n-1].At.Equal(at) {
			continue // it was round
		}
		out = append(out, ReasonRow{says, at.Local(), r.Code})
	}
	return out
}

// ClockFrom is a time by the clock, with its day where that is not the day of another.
func ClockFrom(t, day time.Time) string {
	if DayNumber(t) == DayNumber(day) {
		return t.Format("15:04")
	}
	return t.Format("Mon 2 Jan 15:04")
}
