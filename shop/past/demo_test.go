package past_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"yembo/shop"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/past"
	"yembo/store"
)

// demoAt is the demo as it starts at a time.
func demoAt(t *testing.T, now time.Time) *shop.Shop {
	t.Helper()
	dir := t.TempDir()
	if err := past.Unpack(dir); err != nil {
		t.Fatal(err)
	}
	st, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	if err := past.Move(t.Context(), st, now); err != nil {
		t.Fatal(err)
	}
	sh := shop.New(st, func() time.Time { return now })
	if err := errors.Join(sh.SeedToday(t.Context()), past.Today(t.Context(), sh)); err != nil {
		t.Fatal(err)
	}
	return sh
}

// TestDemo: whatever the clock says the demo is sound, a machine is on a bench, and each job of the past goes from its
// intake to its payment without a contradiction of dates, sums or states.
func TestDemo(t *testing.T) {
	east := time.FixedZone("JST", 9*3600)
	for name, now := range map[string]time.Time{
		"at night":       time.Date(2026, 12, 2, 3, 0, 0, 0, time.UTC),
		"in the morning": time.Date(2026, 12, 2, 9, 30, 0, 0, east),
		"just open":      time.Date(2026, 12, 2, 9, 21, 0, 0, time.UTC),
		"after noon":     time.Date(2026, 12, 2, 14, 40, 0, 0, time.UTC),
		"nearly closed":  time.Date(2026, 12, 4, 17, 55, 0, 0, time.UTC),
		"on a Sunday":    time.Date(2027, 2, 28, 14, 0, 0, 0, time.UTC),
	} {
		t.Run(name, func(t *testing.T) {
			sh, ctx := demoAt(t, now), t.Context()
			if faults, err := sh.Check(ctx); err != nil || len(faults) > 0 {
				t.Errorf("it is not sound: %v %v", faults, err)
			}
			rows, err := sh.BenchList(ctx)
			if err != nil {
				t.Fatal(err)
			}
			running := 0
			for i := range rows {
				if r := &rows[i]; r.Class == jobs.ClassRunning {
					running++
					if begun := r.Record.State.Running; begun == nil || begun.After(now) {
						t.Errorf("%s runs since %v", r.Record.Machine.ID, begun)
					}
				}
			}
			if running == 0 {
				t.Error("no bench is at work")
			}
			stories(t, sh, now)
		})
	}
}

// stories reads each job that is closed.
func stories(t *testing.T, sh *shop.Shop, now time.Time) {
	t.Helper()
	done, declined := 0, 0
	for id := int64(1); ; id++ {
		job, err := sh.Job(t.Context(), id)
		if err != nil {
			break
		}
		if job.Closed.IsZero() {
			continue
		}
		label := base.Label(id)
		at := []time.Time{job.TakenIn}
		for _, s := range job.Trail.Stations {
			if !s.At.IsZero() {
				at = append(at, s.At)
			}
		}
		for i := range at {
			if at[i].After(now) || i > 0 && at[i].Before(at[i-1]) {
				t.Errorf("%s: %v is out of order", label, at)
				break
			}
		}
		if weekday := job.TakenIn.In(now.Location()).Weekday(); weekday == time.Saturday || weekday == time.Sunday {
			t.Errorf("%s was taken in on a %s", label, weekday)
		}
		if hour := job.TakenIn.In(now.Location()).Hour(); hour < 8 || hour > 17 {
			t.Errorf("%s was taken in at %d o'clock", label, hour)
		}
		bill, err := sh.Bill(t.Context(), id)
		if err != nil {
			t.Fatal(err)
		}
		if job.State.Proven == nil {
			declined++
			continue
		}
		done++
		report, err := sh.Report(t.Context(), id)
		if err != nil {
			t.Fatalf("%s: %v", label, err)
		}
		if report.Handed == nil || !strings.HasPrefix(report.Sentence, "Your machine is ready") && len(report.Open) == 0 {
			t.Errorf("%s: %q, open %v", label, report.Sentence, report.Open)
		}
		agreed := job.Agreed()
		if agreed == nil || len(bill.Invoices) == 0 {
			t.Errorf("%s was agreed as %v, and charged %d times", label, agreed, len(bill.Invoices))
			continue
		}
		alt, err := agreed.Doc.Charged(agreed.Given.Letter, agreed.Given.OldParts)
		if last := bill.Invoices[len(bill.Invoices)-1]; err != nil || last.Doc.Sum.Total != alt.Sum.Total {
			t.Errorf("%s is charged %d, agreed were %d: %v", label, last.Doc.Sum.Total, alt.Sum.Total, err)
		}
	}
	if done < 38 || declined == 0 {
		t.Errorf("%d jobs are done, %d were declined", done, declined)
	}
}
