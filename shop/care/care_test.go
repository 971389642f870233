package care

import (
	"strings"
	"testing"
	"time"
)

// TestOutdated: seven days are kept, and of each of the last four weeks the newest copy.
func TestOutdated(t *testing.T) {
	now := time.Date(2026, 5, 14, 9, 0, 0, 0, time.UTC) // a Thursday
	var days []time.Time
	for age := -1; age < 60; age++ {
		days = append(days, time.Date(2026, 5, 14-age, 0, 0, 0, 0, time.UTC))
	}
	gone := map[time.Time]bool{}
	for _, day := range outdated(days, now) {
		gone[day] = true
	}
	var kept []string
	for _, day := range days {
		if !gone[day] {
			kept = append(kept, day.Format("2 Jan"))
		}
	}
	// The week of 4 to 10 May has its newest among the seven days.
	want := "15 May 14 May 13 May 12 May 11 May 10 May 9 May 8 May 3 May 26 Apr 19 Apr"
	if got := strings.Join(kept, " "); got != want {
		t.Errorf("kept are %s, not %s", got, want)
	}
}
