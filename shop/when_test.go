package shop_test

import (
	"slices"
	"strings"
	"testing"

	"yembo/core/week"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/stock"
)

// TestOneAnswer: what a quote says of when it can be had is what its acceptance promises and what the job has afterwards, and
// the bench list plans the job so that this is kept; what is planned by nobody's hands twice, on no bench twice.
func TestOneAnswer(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	row := jobOfMachine(t, s, "wath-08")
	q := offered(t, s, "wath-08", 1)
	will, err := s.LookAtAcceptance(ctx, q.ID)
	if err != nil || len(will) != 1 || will[0].Promise.IsZero() {
		t.Fatalf("%+v %v", will, err)
	}
	words := base.TimeWords(will[0].Promise)
	if says := q.Doc.Alternatives[0].Ready; !strings.HasPrefix(says, words+", if you accept on 14 May") {
		t.Errorf("the quote says %q, its acceptance %s", says, words)
	}
	if err := s.AnswerQuote(ctx, okell, "", q.ID, q.Revision, yes(&q)); err != nil {
		t.Fatal(err)
	}
	j, err := s.Job(ctx, row.JobID)
	if err != nil || !j.Promised.Equal(will[0].Promise) {
		t.Errorf("promised for %v, and said was %v: %v", j.Promised, will[0].Promise, err)
	}
	rows, err := s.BenchList(ctx)
	if err != nil {
		t.Fatal(err)
	}
	var planned []jobs.BenchRow
	for _, r := range rows {
		if r.Plan != nil && !r.AtLeast { // the counter says what the bench list plans
			when, err := s.WhenOf(ctx, r.JobID, false)
			if err != nil || !when.Honest.Equal(r.Honest) || !when.Offers[0].Start.Equal(r.Start) && r.Class != jobs.ClassRunning {
				t.Errorf("%s: by the counter %v, by the bench list %v, %v", r.Record.Machine.ID, when.Honest, r.Honest, err)
			}
		}
		if r.JobID == row.JobID && (r.Stands != week.Kept || r.Ready.After(j.Promised)) {
			t.Errorf("by the bench list its promise is %q, ready %v", r.Stands, r.Ready)
		}
		if r.Class == jobs.ClassReady || r.Class == jobs.ClassRunning {
			planned = append(planned, r)
		}
	}
	slices.SortFunc(planned, func(a, b jobs.BenchRow) int { return a.Start.Compare(b.Start) })
	for i := range planned {
		for k := range i {
			if a, b := &planned[k], &planned[i]; a.Bench == b.Bench && b.Start.Before(a.Until) {
				t.Errorf("%s and %s are on bench %d at once", a.Record.Machine.ID, b.Record.Machine.ID, a.Bench)
			}
		}
	}
	// The job's page says of a promise that cannot be kept when it is ready, in the shop's hours.
	late := jobOfMachine(t, s, "corrie-02").Record
	late.Promised = s.Now()
	stops := jobs.StopsOf(&late, []stock.Lack{{N: 1, Name: "x", Order: &stock.Coming{Due: "2026-05-21"}}},
		&jobs.Calendar{Now: s.Now().AddDate(0, 0, -1)})
	if says := stops[len(stops)-1].Says; !strings.Contains(says, "ready Fri 22 May 09:") {
		t.Errorf("parts that come on a day are worked in on %q", says)
	}
}
