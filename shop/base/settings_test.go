package base

import (
	"testing"
	"time"
)

// TestReadyDay: parts come by the calendar, benches are free and work is done on open days.
func TestReadyDay(t *testing.T) {
	thursday := time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)
	for _, c := range []struct {
		parts, bench int
		want         string
	}{{0, 0, "Fri 15"}, {1, 0, "Mon 18"}, {2, 0, "Mon 18"}, {4, 0, "Tue 19"}, {0, 1, "Mon 18"}, {4, 1, "Tue 19"}, {1, 3, "Wed 20"}} {
		got := Floor{}.ReadyDay(thursday, c.parts, c.bench)
		if got.Format("Mon 2") != c.want {
			t.Errorf("parts in %d days, benches in %d: %s, not %s", c.parts, c.bench, got.Format("Mon 2"), c.want)
		}
	}
}
