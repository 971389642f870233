package base

import (
	"testing"
	"time"
)

// TestDue: a day lasts until its end, a time until its minute; the later of two, and how they are said.
func TestDue(t *testing.T) {
	now := time.Date(2026, 5, 21, 10, 0, 0, 0, time.UTC)
	for _, x := range []struct {
		due         Due
		late, ahead bool
		words       string
	}{
		{"", false, false, ""}, {"2026-05-20", true, false, "Wed 20 May"}, {"2026-05-21", false, false, "Thu 21 May"},
		{"2026-05-22", false, true, "Fri 22 May"}, {"2026-05-21 09:59", true, false, "Thu 21 May 09:59"},
		{"2026-05-21 10:00", false, false, "Thu 21 May 10:00"}, {"2026-05-21 10:01", false, true, "Thu 21 May 10:01"},
	} {
		if x.due.Late(now) != x.late || x.due.Ahead(now) != x.ahead || x.due.Words() != x.words {
			t.Errorf("%q: late %v, ahead %v, %q", x.due, x.due.Late(now), x.due.Ahead(now), x.due.Words())
		}
	}
	if got := Due("2026-05-21 10:00").Later("2026-05-21"); got != "2026-05-21" {
		t.Errorf("of a day and a time in it the later is %q", got)
	}
}
