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

// TestWatched: a clock that was set and a disk that is nearly full are told; a machine that slept over the weekend is not.
func TestWatched(t *testing.T) {
	for name, x := range map[string]struct {
		told string
		says string // "" where nothing is to be told
	}{
		"a minute went by":    {leapOf(time.Minute, time.Minute), ""},
		"slept over a week":   {leapOf(7*24*time.Hour, time.Minute), ""},
		"set back by an hour": {leapOf(-59*time.Minute, time.Minute), "set back by 1 h 0 min"},
		"empty battery":       {leapOf(400*24*time.Hour, time.Minute), "put forward by 399 days"},
		"room enough":         {fullOf(2<<30, 1<<30), ""},
		"no second data file": {fullOf(1<<30-1, 1<<30), "1023 MB are free, and 1024 MB are wanted"},
		"a small data file":   {fullOf(299<<20, 1<<20), "300 MB are wanted"},
	} {
		if (x.told == "") != (x.says == "") || !strings.Contains(x.told, x.says) {
			t.Errorf("%s: %q", name, x.told)
		}
	}
}
