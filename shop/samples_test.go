package shop_test

import (
	"strings"
	"testing"
	"time"

	"yembo/shop"
	"yembo/store"
	"yembo/store/storetest"
)

// TestSamples: sample records say so by their names, are no first steps of the shop's own, can be planned with, and go in one go
// with what was tried on them, but for what money was named for.
func TestSamples(t *testing.T) {
	s := shop.New(storetest.Open(t, "", func(*store.Store) error { return nil }), func() time.Time { return morning })
	ctx := t.Context()
	for _, token := range []string{"one", "two"} { // pressed twice, by two people
		if err := s.AddSamples(ctx, okell, token); err != nil {
			t.Fatal(err)
		}
	}
	models, err := s.Briefs(ctx, "", 10)
	if err != nil || len(models) != 3 {
		t.Fatalf("%d sample models, %v", len(models), err)
	}
	for _, m := range models {
		if !strings.HasSuffix(m.Name, " (sample)") {
			t.Errorf("%s does not say that it is a sample", m.Name)
		}
	}
	open := func() (keys string) {
		t.Helper()
		steps, err := s.FirstSteps(ctx, "A shop")
		if err != nil {
			t.Fatal(err)
		}
		for _, x := range steps {
			if !x.Done {
				keys += x.Key + " "
			}
		}
		return keys
	}
	if got := open(); got != "money models parts machines " {
		t.Errorf("to do with samples alone: %q", got)
	}
	if err := s.SkipFirstStep(ctx, "money"); err != nil {
		t.Fatal(err)
	}
	if got := open(); got != "models parts machines " {
		t.Errorf("to do after a step was skipped: %q", got)
	}
	if err := s.SkipFirstStep(ctx, "elsewhere"); err == nil {
		t.Error("a step that is none is skipped")
	}

	try := intake("T. Try")
	try.Machine.Chassis = "sample-quillon-aster-14"
	if _, err := s.TakeIn(ctx, okell, "try", try); err != nil {
		t.Fatal(err)
	}
	if all, err := s.Samples(ctx); err != nil || all.Models != 3 || all.Parts < 10 || len(all.Machines) != 1 {
		t.Errorf("%+v, %v", all, err)
	}
	kept, err := s.RemoveSamples(ctx, okell, "away")
	if err != nil || len(kept) > 0 {
		t.Fatalf("kept %q, %v", kept, err)
	}
	if all, err := s.Samples(ctx); err != nil || all.Models+all.Parts+len(all.Machines) != 0 {
		t.Errorf("left: %+v, %v", all, err)
	}
	if list, err := s.Machines(ctx, ""); err != nil || list.All != 0 {
		t.Errorf("%d machines are left, %v", list.All, err)
	}

	// They can be had again beside what was removed; a machine with a quote stays, and its model with it.
	if err := s.AddSamples(ctx, okell, "again"); err != nil {
		t.Fatal(err)
	}
	try.Machine.Chassis = "sample-2-quillon-aster-14"
	job, err := s.TakeIn(ctx, okell, "tried", try)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Pay(ctx, okell, "paid", job, 0, 500, "cash", ""); err != nil {
		t.Fatal(err)
	}
	kept, err = s.RemoveSamples(ctx, okell, "away again")
	if all, err := s.Samples(ctx); err != nil || all.Models != 1 || all.Parts != 0 {
		t.Errorf("left beside what was used: %+v, %v", all, err)
	}
	if err != nil || len(kept) != 2 || !strings.Contains(kept[0], "a payment") {
		t.Errorf("kept %q, %v", kept, err)
	}
	if err := s.SkipFirstStep(ctx, ""); err != nil {
		t.Fatal(err)
	}
	if got := open(); got != "money models parts " {
		t.Errorf("to do, all told again: %q", got)
	}
}
