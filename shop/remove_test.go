package shop_test

import (
	"errors"
	"strconv"
	"strings"
	"testing"
	"time"

	"yembo/shop"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// TestRemove: each kind of record is removed with what hangs on it, found nowhere, and brought back as
// it was; what is used is not removed and says by what.
func TestRemove(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	gone := func(kind, id string) error {
		var err error
		switch kind {
		case base.KindModel:
			_, err = s.Model(ctx, id)
		case base.KindMachine:
			_, err = s.Machine(ctx, id)
		case base.KindJob:
			n, _ := strconv.ParseInt(id, 10, 64)
			_, err = s.Job(ctx, n)
		case base.KindPart:
			_, err = s.Part(ctx, id)
		case base.KindCustomer:
			_, err = s.CustomerNamed(ctx, "Wrong & Sons")
		}
		return err
	}
	in := intake("Wrong & Sons")
	jobNo, err := s.TakeIn(ctx, okell, "wrong", in)
	if err != nil {
		t.Fatal(err)
	}
	made, err := s.Job(ctx, jobNo)
	if err != nil {
		t.Fatal(err)
	}
	who, err := s.CustomerNamed(ctx, "Wrong & Sons")
	if err != nil {
		t.Fatal(err)
	}
	whoID := strconv.FormatInt(who.ID, 10)
	var faults hw.Faults
	for kind, id := range map[string]string{base.KindModel: "pellam-drover-15", base.KindCustomer: whoID} {
		if err := s.Remove(ctx, okell, "no"+kind, kind, id); !errors.As(err, &faults) || len(faults) == 0 {
			t.Errorf("a %s in use is removed: %v", kind, err)
		}
	}
	before, err := s.Machines(ctx, "")
	if err != nil {
		t.Fatal(err)
	}
	var kept int64 // a job for which pieces are kept, and that nothing stands against
	for id := int64(1); id < 8 && kept == 0; id++ {
		if look, err := s.LookAtRemoval(ctx, base.KindJob, strconv.FormatInt(id, 10)); err == nil && len(look.Against) == 0 &&
			keptFor(t, s, id) > 0 {
			kept = id
		}
	}
	held := keptFor(t, s, kept)
	if held == 0 {
		t.Fatal("nothing is kept for any job")
	}
	for _, x := range []struct{ kind, id string }{{base.KindJob, strconv.FormatInt(kept, 10)}, {base.KindMachine, made.Key},
		{base.KindCustomer, whoID},
		{base.KindModel, "sundrel-fennel-15"}, {base.KindPart, "cv-d5-32"}} {
		look, err := s.LookAtRemoval(ctx, x.kind, x.id)
		if err != nil {
			t.Fatalf("%s %s: %v", x.kind, x.id, err)
		}
		if len(look.Against) > 0 {
			t.Logf("%s %s: %+v", x.kind, x.id, look.Against)
			continue
		}
		for range 2 {
			if err := s.Remove(ctx, okell, "rm"+x.kind, x.kind, x.id); err != nil {
				t.Fatalf("%s %s: %v", x.kind, x.id, err)
			}
		}
		if err := gone(x.kind, x.id); !errors.Is(err, store.ErrNotFound) {
			t.Errorf("%s %s is still found: %v", x.kind, x.id, err)
		}
	}
	if n := keptFor(t, s, kept); n != 0 {
		t.Errorf("%d pieces are kept for a removed job", n)
	}
	list, err := s.Removed(ctx)
	if err != nil || len(list) < 4 {
		t.Fatalf("%d removed: %v", len(list), err)
	}
	for _, r := range list {
		if r.By != "R. Okell" || r.Name == "" || !r.Until.Equal(morning.Add(30*24*time.Hour)) {
			t.Errorf("listed as %+v", r)
		}
	}
	if err := s.BringBack(ctx, okell, "early", base.KindMachine, made.Key); !errors.As(err, &faults) ||
		!strings.Contains(err.Error(), "customer") {
		t.Errorf("a machine without its customer: %v", err)
	}
	if _, err := s.TakeIn(ctx, okell, "meanwhile", intake("Wrong & Sons")); err != nil {
		t.Errorf("a machine taken in while the tag of a removed one rests: %v", err)
	}
	for i := len(list) - 1; i >= 0; i-- { // the first removed last: what others belong to comes first
		for _, r := range list {
			if err := s.BringBack(ctx, okell, "back"+r.Kind+r.ID+strconv.Itoa(i), r.Kind, r.ID); err != nil && !errors.As(err, &faults) &&
				!errors.Is(err, store.ErrNotFound) {
				t.Errorf("%s %s: %v", r.Kind, r.ID, err)
			}
		}
	}
	if left, err := s.Removed(ctx); err != nil || len(left) != 0 {
		t.Errorf("%+v is left: %v", left, err)
	}
	back, err := s.Job(ctx, jobNo)
	if err != nil || back.Machine.ID != made.Machine.ID || back.Complaint != made.Complaint {
		t.Errorf("the machine came back as %+v: %v", back.Machine, err)
	}
	if n := keptFor(t, s, kept); n != held {
		t.Errorf("%d pieces are kept for it again, not %d", n, held)
	}
	if after, err := s.Machines(ctx, ""); err != nil || after.All != before.All+1 {
		t.Errorf("%d machines, then %d: %v", before.All, after.All, err)
	}
	if found, err := s.Briefs(ctx, "fennel", 5); err != nil || len(found) == 0 {
		t.Errorf("the model is not found again: %v", err)
	}
}

// TestPurge: after thirty days what was removed is gone for good, also what the shelf's movements name.
func TestPurge(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	j, err := s.Job(ctx, 2)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Remove(ctx, okell, "1", base.KindMachine, j.Key); err != nil {
		t.Fatal(err)
	}
	now := morning
	s.Clock = func() time.Time { return now }
	now = morning.Add(29 * 24 * time.Hour)
	if err := s.PurgeRemoved(ctx); err != nil {
		t.Fatal(err)
	}
	if list, err := s.Removed(ctx); err != nil || len(list) != 1 {
		t.Fatalf("after 29 days %d: %v", len(list), err)
	}
	now = morning.Add(31 * 24 * time.Hour)
	if err := s.PurgeRemoved(ctx); err != nil {
		t.Fatal(err)
	}
	err = s.Store.View(ctx, func(tx store.Tx) error {
		m, err := tx.RemovedMachine(j.Key)
		if err == nil && (m.Serial != "" || strings.Contains(string(m.Doc), "wath")) {
			t.Errorf("of the machine is left: %s %s", m.Serial, m.Doc)
		}
		if told, err := tx.HistoryOf(base.KindMachine, j.Key); err != nil || len(told) > 0 {
			t.Errorf("%d lines of its history: %v", len(told), err)
		}
		row, err := tx.RemovedJob("2")
		if err == nil && row.Complaint != "" {
			t.Errorf("of the job is left: %q", row.Complaint)
		}
		return nil
	})
	if err != nil {
		t.Error(err)
	}
	if list, err := s.Removed(ctx); err != nil || len(list) != 0 {
		t.Errorf("after 31 days %d: %v", len(list), err)
	}
}

// keptFor is how many pieces are kept for a job.
func keptFor(t *testing.T, s *shop.Shop, job int64) int {
	t.Helper()
	n := 0
	err := s.Store.View(t.Context(), func(tx store.Tx) error {
		holds, err := tx.HoldsOf(job)
		for _, h := range holds {
			n += h.N
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return n
}
