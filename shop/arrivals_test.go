package shop_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/stock"
)

// TestLateDelivery: an order that comes later, or nobody knows when, is told by whose promises it breaks before it is kept;
// of two orders that a job waits for one without a day is no day.
func TestLateDelivery(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	p, err := s.Plan(ctx, "tarn-vet-04", jobs.PlanQuery{})
	if err != nil {
		t.Fatal(err)
	}
	at := slices.IndexFunc(p.Plan.Options, func(o plan.Option) bool {
		return slices.ContainsFunc(o.Buy, func(b plan.Buy) bool { return b.Part == "wx-qb-760" })
	})
	if at < 0 {
		t.Fatal("no option has the pack that is on order")
	}
	if _, err := s.Choose(ctx, okell, "", "tarn-vet-04", jobs.Fingerprint(p.Plan.Options[at]), p.Record.ChoiceMark(),
		jobs.PlanQuery{}); err != nil {
		t.Fatal(err)
	}
	row := func() jobs.BenchRow {
		return planned(t, func() ([]jobs.BenchRow, error) { return s.BenchList(ctx) }, p.Record.JobID)
	}
	now := row()
	if now.Due != "2026-05-21 10:00" || !now.Sure || now.Start.Before(time.Date(2026, 5, 21, 10, 15, 0, 0, now.Start.Location())) {
		t.Fatalf("its parts come %q, sure %v, and it begins %v", now.Due, now.Sure, now.Start)
	}
	w, err := s.Week(ctx)
	if err != nil {
		t.Fatal(err)
	}
	order := int64(0)
	for _, a := range w.Arrivals {
		if a.Order != 0 && slices.Contains(a.For, p.Record.JobID) {
			order = a.Order
		}
	}
	for due, breaks := range map[base.Due]bool{"2026-05-21": false, "2026-05-22 10:00": false, "2026-05-22": true,
		"2026-05-26 09:00": true, "": true} {
		rows, err := s.BrokenBy(ctx, order, due)
		if err != nil || (len(rows) == 1 && rows[0].JobID == p.Record.JobID) != breaks {
			t.Errorf("coming %q it breaks %d promises: %v", due, len(rows), err)
		}
	}
	if again := row(); again.Due != now.Due || !again.Start.Equal(now.Start) {
		t.Error("asking moved it")
	}
	if err := s.Expect(ctx, okell, "", order, 1, stock.Delivery{Confirmed: true}); err == nil {
		t.Error("a day is confirmed that was not said")
	}
	if err := s.Expect(ctx, okell, "", order, 1, stock.Delivery{}); err != nil {
		t.Fatal(err)
	}
	if r := row(); r.Due != "" || r.Plan != nil {
		t.Errorf("when its parts come is not known, and it begins %v", r.Start)
	}
}

// TestMachineAway: what is with its customer is planned from when it comes, is not opened before it is here, and says what is
// known where that was not told; it goes on as before when it is here.
func TestMachineAway(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	job := jobOfMachine(t, s, "corrie-02").JobID
	row := func() jobs.BenchRow {
		return planned(t, func() ([]jobs.BenchRow, error) { return s.BenchList(ctx) }, job)
	}
	move := func(m jobs.Move) error { return s.MoveJob(ctx, okell, "", job, m) }
	for _, x := range []struct{ due, begins, says, when string }{
		{"2026-05-15 10:00", "Fri 15 May 10:00", "the machine comes Fri 15 May 10:00", ""},
		{"2026-05-15", "Mon 18 May 09:00", "the machine comes Fri 15 May", ""},
		{"", "", "when it comes was not said", "when the machine comes is not known"},
		{"2030-01-07", "", "the machine comes Mon 7 Jan", "when the machine comes is not known"},
	} {
		if err := move(jobs.Move{To: jobs.MoveAway, Due: base.Due(x.due)}); err != nil {
			t.Fatal(err)
		}
		r := row()
		begins := ""
		if r.Plan != nil {
			begins = base.TimeWords(r.Start)
		}
		when, err := s.WhenOf(ctx, job, false)
		says := strings.Contains(hw.LowerFirst(r.Why), x.says)
		if err != nil || r.Class != jobs.ClassAway || begins != x.begins || !says || when.Why != x.when {
			t.Errorf("coming %q it begins %q, %q, %q: %v", x.due, begins, r.Why, when.Why, err)
		}
		var faults hw.Faults
		err = move(jobs.Move{To: jobs.MoveStart, Bench: 2, Why: "all the same"})
		if !errors.As(err, &faults) || faults[0].Pointer != "/to" {
			t.Errorf("it goes on a bench that is not here: %v", err)
		}
	}
	if err := move(jobs.Move{To: jobs.MoveHere}); err != nil {
		t.Fatal(err)
	}
	if r := row(); r.Class != jobs.ClassReady || r.Plan == nil {
		t.Errorf("it is here, and stands as %d: %s", r.Class, r.Why)
	}
	if err := move(jobs.Move{To: jobs.MoveHere}); err == nil {
		t.Error("it came twice")
	}
}

// TestPassed: what was not promised is counted past by what came after it was ready and goes first.
func TestPassed(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	early := *s
	early.Clock = func() time.Time { return time.Date(2026, 5, 13, 17, 0, 0, 0, time.UTC) }
	p, err := early.Plan(ctx, "tarn-vet-03", jobs.PlanQuery{})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := early.Choose(ctx, okell, "", "tarn-vet-03", jobs.Fingerprint(p.Plan.Options[0]), p.Record.ChoiceMark(),
		jobs.PlanQuery{}); err != nil {
		t.Fatal(err)
	}
	passed := func() int {
		w, err := s.Week(ctx)
		if err != nil {
			t.Fatal(err)
		}
		n, counted := w.Passed[p.Record.JobID]
		if !counted {
			t.Fatal("it is not looked at")
		}
		return n
	}
	before := passed()
	first := jobOfMachine(t, s, "p-lathom-01") // it came on the fourteenth
	if !first.Record.TakenIn.After(p.Record.TakenIn) || before == 0 {
		t.Fatalf("p-lathom-01 came %v, and %d went first", first.Record.TakenIn, before)
	}
	if err := s.MoveJob(ctx, okell, "", first.JobID, jobs.Move{To: jobs.MoveClose}); err != nil {
		t.Fatal(err)
	}
	if n := passed(); n != before {
		t.Errorf("%d went first, and %d when one of them is out of the house", before, n)
	}
	if err := s.MoveJob(ctx, okell, "", first.JobID, jobs.Move{To: jobs.MoveReopen}); err != nil {
		t.Fatal(err)
	}
	if err := s.MoveJob(ctx, okell, "", first.JobID, jobs.Move{To: jobs.WaitsCustomer, For: "a word"}); err != nil {
		t.Fatal(err)
	}
	if n := passed(); n != before-1 {
		t.Errorf("%d went first, and %d when one of them waits", before, n)
	}
}
