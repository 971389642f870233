package base

import (
	"testing"
	"time"
)

// TestWorked: a night and a weekend are no part of how long work goes on.
func TestWorked(t *testing.T) {
	at := func(day, hour, minute int) time.Time { return time.Date(2026, 5, day, hour, minute, 0, 0, time.UTC) }
	for _, c := range []struct {
		from, to time.Time
		want     time.Duration
	}{
		{at(14, 11, 8), at(14, 11, 20), 12 * time.Minute},
		{at(14, 17, 46), at(15, 3, 0), 14 * time.Minute},
		{at(15, 17, 46), at(18, 9, 10), 24 * time.Minute},
		{at(14, 19, 0), at(14, 19, 10), 10 * time.Minute}, // somebody stays late
		{at(13, 9, 0), at(15, 9, 0), 18 * time.Hour},
	} {
		if got := (Floor{}).Worked(c.from, c.to); got != c.want {
			t.Errorf("from %v to %v it is %v", c.from, c.to, got)
		}
	}
}
