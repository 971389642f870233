package main

import (
	"math/rand/v2"
	"net/url"
	"os"
	"testing"
	"time"
	"yembo/shop/base"

	"yembo/shop"
	"yembo/store"
)

// unproven sets aside what was proven in the model of the machine whose proof is signed.
func unproven(t *testing.T, dir string) {
	t.Helper()
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	at := shop.New(s, time.Now)
	m, err := at.Model(t.Context(), "pellam-drover-15")
	if err != nil {
		t.Fatal(err)
	}
	for i, f := range m.Chassis.Findings {
		if f.Path == "/memory/limits/proven_gb" {
			if err := at.SetAside(t.Context(), base.Actor{Name: "T. Ansty"}, "", m.Chassis.ID, m.Version, i,
				"it was another board"); err != nil {
				t.Fatal(err)
			}
		}
	}
}

// TestSignKilled: the program is killed while a proof is signed and what it taught is written back;
// the machine, the shelf, the model's record and the proof then all tell of it, or none of them does.
func TestSignKilled(t *testing.T) {
	base := seeded(t)
	unproven(t, base)
	p := serving(t, base)
	// A test of more than the model was ever proven with, so that the record changes too.
	if status, body, _ := p.post("/jobs/6/proof", url.Values{"token": {mark(1)}, "do": {"test"}, "/tool": {"a tester"},
		"/passes":   {"2"},
		"/total_gb": {"16"}, "/errors": {"0"}}); status != 303 {
		t.Fatalf("the memory test was not noted: %d %s", status, body)
	}
	p.kill()
	type stand struct {
		signed, proven bool
		modules, shelf int
	}
	look := func(dir string) stand {
		s, err := store.Open(dir)
		if err != nil {
			t.Fatal(err)
		}
		defer s.Close()
		at := shop.New(s, time.Now)
		proof, err := at.Proof(t.Context(), 6)
		if err != nil {
			t.Fatal(err)
		}
		part, err := at.Part(t.Context(), "cv-d4-8-used")
		if err != nil {
			t.Fatal(err)
		}
		return stand{proof.Doc.Sign != nil, proof.Job.Chassis.Mem().Limits.Proven.Or(0).String() == "16",
			len(proof.Job.Machine.Fitted.Memory), part.Shelf}
	}
	before := look(base)
	after := stand{true, true, before.modules + 1, before.shelf - 1}
	rounds := length(3, 40)
	signed := 0
	for range rounds {
		dir := t.TempDir()
		if err := os.CopyFS(dir, os.DirFS(base)); err != nil {
			t.Fatal(err)
		}
		p := serving(t, dir)
		done := make(chan int, 1)
		go func() {
			status, _, _ := p.post(
				"/jobs/6/proof",
				url.Values{"token": {mark(2)}, "do": {"sign"}, "/why": {"tried"}, "/agreed": {"J. Farrow"}},
			)
			done <- status
		}()
		time.Sleep(time.Duration(rand.IntN(40)) * time.Millisecond)
		p.kill()
		answered := <-done
		switch got := look(dir); {
		case got == after:
			signed++
		case got != before:
			t.Errorf("half of it was written back: %+v", got)
		case answered == 303:
			t.Error("it was answered as signed, and is not")
		case answered != 0:
			t.Errorf("it was answered with %d", answered)
		}
		sound(t, dir)
	}
	if hard() && (signed == 0 || signed == rounds) {
		t.Errorf("%d of %d were signed: no kill came within a signature", signed, rounds)
	}
	t.Logf("%d kills, %d signed whole, %d not at all", rounds, signed, rounds-signed)
}
