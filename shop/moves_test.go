package shop_test

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/jobs"
)

// TestOneJobABench: a bench takes one job, also when several are put on it at the same
// moment; and who moves a job that somebody moved meanwhile is told where it stands.
func TestOneJobABench(t *testing.T) {
	s := workshop(t)
	rows, err := s.BenchList(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, row := range rows {
		if r := row.Record; r.State.Running != nil {
			if err := s.MoveJob(t.Context(), okell, "", r.JobID, jobs.Move{To: "pause"}); err != nil {
				t.Fatal(err)
			}
		}
	}
	var wg sync.WaitGroup
	var mu sync.Mutex
	put := 0
	for _, id := range []int64{1, 8, 10, 11, 12} {
		wg.Go(func() {
			err := s.MoveJob(t.Context(), okell, fmt.Sprint("start", id), id, jobs.Move{To: "start", Bench: 1})
			mu.Lock()
			defer mu.Unlock()
			var faults hw.Faults
			switch {
			case err == nil:
				put++
			case !errors.As(err, &faults) || faults[0].Pointer != "/bench" || !strings.Contains(faults[0].Text,
				"in use"):
				t.Errorf("job %d: %v", id, err)
			}
		})
	}
	wg.Wait()
	if put != 1 {
		t.Errorf("%d jobs are on bench 1", put)
	}
	j, err := s.Job(t.Context(), 2)
	if err != nil {
		t.Fatal(err)
	}
	seen := j.Mark()
	if err := s.MoveJob(t.Context(), okell, "a", 2,
		jobs.Move{To: jobs.WaitsCustomer, For: "the answer", Seen: seen}); err != nil {
		t.Fatal(err)
	}
	if err := s.MoveJob(t.Context(), okell, "b", 2, jobs.Move{To: "close", Seen: seen}); err == nil ||
		!strings.Contains(err.Error(), "it waits for the answer") {
		t.Errorf("a job that moved meanwhile: %v", err)
	}
}

// TestFloor: a shop has as many benches and the hours that its settings say; jobs are planned onto those.
func TestFloor(t *testing.T) {
	s := workshop(t)
	start := func(bench int) error {
		return s.MoveJob(t.Context(), okell, "", 2, jobs.Move{To: "start", Bench: bench, Why: "it has to be seen"})
	}
	if err := start(3); err == nil || !strings.Contains(err.Error(), "bench 1 to 2") {
		t.Errorf("a third bench of two: %v", err)
	}
	for _, floor := range []base.Floor{{Benches: 13}, {Benches: -1}} {
		if err := setSettings(t.Context(), s, func(how *base.Settings) { how.Floor = floor }); err == nil {
			t.Errorf("%+v is taken", floor)
		}
	}
	if err := setSettings(t.Context(), s, func(how *base.Settings) {
		how.Floor, how.Hours = base.Floor{Benches: 3}, base.Hours{"thu": {{"06:00", "11:00"}}}
	}); err != nil {
		t.Fatal(err)
	}
	rows, err := s.BenchList(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range rows {
		if h := r.Start.Hour(); r.Class == jobs.ClassReady && (h < 6 || h >= 11) {
			t.Errorf("%s is planned at %s, when the shop is closed", r.Record.Machine.ID, r.Start)
		}
	}
	if err := start(3); err != nil {
		t.Error(err)
	}
}
