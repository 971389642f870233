package week

import (
	"strings"
	"testing"
	"time"

	"yembo/core/hw"
	"yembo/core/week"
	"yembo/shop/jobs"
)

// TestNews: what changed in a week that is looked at is said, a promise before a place; the minutes that pass are no news.
func TestNews(t *testing.T) {
	now := time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)
	row := func(id int64, start time.Duration, stands week.State, planned bool) jobs.BenchRow {
		r := jobs.BenchRow{JobID: id, Class: jobs.ClassReady, Bench: 1, Start: now.Add(start), Stands: stands,
			Record: jobs.MachineRecord{Machine: &hw.Machine{ID: "m" + string(rune('0'+id))}}}
		if planned {
			r.Plan = &week.Planned{}
		}
		return r
	}
	plan := func(rows ...jobs.BenchRow) *jobs.WeekPlan {
		return &jobs.WeekPlan{Calendar: jobs.Calendar{Now: now}, Rows: rows}
	}
	stood := row(1, time.Hour, week.Kept, true)
	promised := stood
	promised.Record.Promised = now.Add(5 * time.Hour)
	moved := stood
	moved.Bench = 2
	for name, x := range map[string]struct {
		before, after *jobs.WeekPlan
		says          string
	}{
		"nothing":            {plan(stood), plan(stood), ""},
		"a quarter passes":   {plan(stood), plan(row(1, 75*time.Minute, week.Kept, true)), ""},
		"later":              {plan(stood), plan(row(1, 2*time.Hour, week.Kept, true)), "m1 is at bench 1, 13:20"},
		"another bench":      {plan(stood), plan(moved), "m1 is at bench 2, 12:20"},
		"a promise breaks":   {plan(stood), plan(row(1, 2*time.Hour, week.Broken, true)), "m1: its promise cannot be kept any more"},
		"and is kept again":  {plan(row(1, 0, week.Broken, true)), plan(stood), "m1: its promise can be kept again"},
		"a promise":          {plan(stood), plan(promised), "m1 is promised anew"},
		"without a place":    {plan(stood), plan(row(1, 0, "", false)), "m1 has no place any more"},
		"with one":           {plan(row(1, 0, "", false)), plan(stood), "m1 has its place: bench 1, 12:20"},
		"still without":      {plan(row(1, 0, "", false)), plan(row(1, time.Hour, "", false)), ""},
		"one more, one less": {plan(stood), plan(row(2, 0, "", false)), "m2 is new; m1 is no open job any more"},
	} {
		if says := strings.Join(newsOf(x.before, x.after), "; "); says != x.says {
			t.Errorf("%s: %q, not %q", name, says, x.says)
		}
		if same := markOf(x.before) == markOf(x.after); same && x.says != "" && name != "later" {
			t.Errorf("%s: the page cannot tell one from the other", name)
		}
	}
}
