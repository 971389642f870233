package demo

import "time"

// LastOpen is when the shop was open last: now, or when it closed. The first minutes of a day are too few to show anything.
func LastOpen(now time.Time) time.Time {
	const opens, closes = 9*time.Hour + 20*time.Minute, 18 * time.Hour
	day := Midnight(now)
	if closed(now) || now.Before(day.Add(opens)) {
		return OnDay(Stepped(now, -1), closes)
	}
	if end := OnDay(now, closes); now.After(end) {
		return end
	}
	return now
}

func closed(day time.Time) bool {
	return day.Weekday() == time.Saturday || day.Weekday() == time.Sunday
}

// Midnight is when the day of a time begins.
func Midnight(t time.Time) time.Time { return OnDay(t, 0) }

// OnDay is a time of the clock on the day of another time.
func OnDay(t time.Time, clock time.Duration) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), int(clock/time.Hour), int(clock%time.Hour/time.Minute), 0, 0, t.Location())
}

// Stepped is so many working days after a day, or before it.
func Stepped(day time.Time, n int) time.Time {
	step := 1
	if n < 0 {
		step = -1
	}
	for ; n != 0; n -= step {
		for day = day.AddDate(0, 0, step); closed(day); {
			day = day.AddDate(0, 0, step)
		}
	}
	return day
}

// WorkingDays is how many working days lie from one day to a later one.
func WorkingDays(from, to time.Time) int {
	n := 0
	for from = from.AddDate(0, 0, 1); !from.After(to); from = from.AddDate(0, 0, 1) {
		if !closed(from) {
			n++
		}
	}
	return n
}

// Moved is a day of the demo, as it lies to another day: as many working days before it or after it.
func Moved(at, today time.Time) time.Time {
	if day := Midnight(at); day.Before(Day) {
		return Stepped(today, -WorkingDays(day, Day))
	}
	return Stepped(today, WorkingDays(Day, Midnight(at)))
}
