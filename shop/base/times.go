package base

import (
	"time"
)

// AtHour is a whole hour of a day.
func AtHour(day time.Time, hour int) time.Time {
	return time.Date(day.Year(), day.Month(), day.Day(), hour, 0, 0, 0, day.Location())
}

// TimeWords writes a time the way people say it.
func TimeWords(t time.Time) string { return t.Format("Mon 2 Jan 15:04") }

// Today is the date of the bench.
func (s *Base) Today() string { return s.Now().Format("2006-01-02") }
