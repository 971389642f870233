package shop_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"testing"
	"time"

	"yembo/core/hw"
	"yembo/core/proof"
	"yembo/shop/jobs"
	"yembo/shop/work"
	sim "yembo/standin/machine"
)

// TestCorrectedMeanwhile: what somebody corrects in the machine's record while the work goes on is still
// there when the proof is signed, beside what was fitted.
func TestCorrectedMeanwhile(t *testing.T) {
	b := atBench(t, "wath-05")
	ctx := t.Context()
	r, err := b.s.Machine(ctx, "wath-05")
	if err != nil {
		t.Fatal(err)
	}
	m := *r.Machine
	m.Fitted.Drives = []hw.FittedDrive{m.Fitted.Drives[0]}
	m.Fitted.Drives[0].Drive.Model, m.Fitted.Drives[0].Encrypted = "BX-256-T", hw.Known(true)
	m.Fitted.Battery = &hw.FittedBattery{Option: m.Fitted.Battery.Option, FullWh: hw.Known(hw.DecOf(33))}
	if err := b.s.CorrectMachine(ctx, ansty, "", r.Key, r.MachineVer, jobs.MachineCorrection{Machine: &m}); err != nil {
		t.Fatal(err)
	}
	b.finish()
	b.read(sim.Faults{}, nil)
	b.complete()
	if err := sign(b, "tried", "J. Farrow"); err != nil {
		t.Fatal(err)
	}
	now, err := b.s.Machine(ctx, "wath-05")
	if err != nil {
		t.Fatal(err)
	}
	f := &now.Machine.Fitted
	if f.Drives[0].Drive.Model != "BX-256-T" || !f.Drives[0].Encrypted.Or(false) || f.Battery.FullWh.Or(0) != hw.DecOf(33) ||
		len(f.Memory) != 2 {
		t.Errorf("the record says %+v", f)
	}
}

// TestProvenIsFitted: no more memory is proven than is fitted and seen.
func TestProvenIsFitted(t *testing.T) {
	b := atBench(t, "wath-05")
	b.unproven()
	b.finish()
	var faults hw.Faults
	err := b.note(work.Tests(jobs.MemoryTest{Tool: "x", Passes: 1, TotalGB: hw.DecOf(64), Errors: hw.Known(0)}))
	if !errors.As(err, &faults) || faults[0].Pointer != "/total_gb" {
		t.Errorf("64 GB were tested in a machine that has less: %v", err)
	}
	limit := func() hw.Dec {
		model, err := b.s.Model(t.Context(), "pellam-drover-15")
		if err != nil {
			t.Fatal(err)
		}
		return model.Chassis.Mem().Limits.Proven.Or(0)
	}
	before := limit()
	b.read(sim.Faults{Unseated: true}, nil)
	b.complete()
	if err := sign(b, "it waits", "J. Farrow"); err != nil {
		t.Fatal(err)
	}
	if now := limit(); now != before {
		t.Errorf("with a module that is not seen, %s GB are proven", now)
	}
}

// TestProofPlanChanged: where another option is chosen while the work goes on, what was done is proven,
// comes off the shelf and is what the job did.
func TestProofPlanChanged(t *testing.T) {
	b := atBench(t, "wath-05")
	ctx := t.Context()
	p, err := b.s.Plan(ctx, "wath-05", jobs.PlanQuery{})
	if err != nil {
		t.Fatal(err)
	}
	did := b.run().Option
	if _, err := b.s.Choose(ctx, okell, "", "wath-05", jobs.Fingerprint(p.Plan.Options[2]), "", jobs.PlanQuery{}); err != nil {
		t.Fatal(err)
	}
	before, err := b.s.Part(ctx, did.Buy[0].Part)
	if err != nil || jobs.Fingerprint(p.Plan.Options[2]) == jobs.Fingerprint(*did) || before.Held != 0 {
		t.Fatalf("%d are held, %v", before.Held, err)
	}
	b.finish()
	b.read(sim.Faults{}, nil)
	b.complete()
	if !b.proof().PlanChanged {
		t.Error("nothing is said of the other plan")
	}
	if err := sign(b, "", ""); err != nil {
		t.Fatal(err)
	}
	after, _ := b.s.Part(ctx, did.Buy[0].Part)
	job := mustJob(t, b.s, b.job)
	if before.Shelf-after.Shelf != 1 || jobs.Fingerprint(job.Choice.Option) != jobs.Fingerprint(*did) || b.proof().PlanChanged {
		t.Errorf("on the shelf %d, then %d; chosen is %s", before.Shelf, after.Shelf, job.Choice.Words)
	}
}

// TestForgottenProof: of a person who asked to be forgotten nothing is left of what a proof says, written
// or signed, not in the bytes of the file either; before that all of it is told to who asks.
func TestForgottenProof(t *testing.T) {
	dir := t.TempDir()
	b := &bencher{t: t, s: workshopIn(t, dir), now: morning, serial: "zzserial-in"}
	b.s.Clock = func() time.Time { return b.now }
	b.job = jobOfMachine(t, b.s, "wath-05").Record.JobID
	ctx := t.Context()
	b.begin()
	b.finish()
	var marks []string
	mark := func(name string) string {
		marks = append(marks, "zzmark-"+name)
		return "zzmark-" + name
	}
	b.must(work.LookedAt("dimm2 capacity_gb", false, mark("looked")))
	b.must(work.Tries(proof.ModuleAbsent, "dimm2", 0, mark("tried")))
	b.read(sim.Faults{}, nil)
	b.must(work.FirstStarts("charger", jobs.FirstDone, mark("first")))
	b.must(work.WasMeasured(proof.Measure{Name: mark("measure"), After: proof.Side{Profile: mark("profile"), Runs: []hw.Dec{1}}}))
	b.must(work.Tests(jobs.MemoryTest{Tool: mark("tool"), Passes: 1, TotalGB: hw.DecOf(16), Errors: hw.Known(0)}))
	b.must(work.ProofNoted(mark("note")))
	if err := sign(b, mark("why"), mark("agreed")); err != nil {
		t.Fatal(err)
	}
	if err := b.s.HandOver(ctx, okell, "", b.job, work.HandingOver{To: mark("taken"), AskOn: "2026-05-28"}); err != nil {
		t.Fatal(err)
	}
	if err := b.s.FoundBad(ctx, okell, "", b.run().Option.Buy[0].Part, b.job, "zzserial-bad", mark("bad")); err != nil {
		t.Fatal(err)
	}
	customer := mustJob(t, b.s, b.job).CustomerID
	known, err := b.s.Known(ctx, customer, true)
	if err != nil {
		t.Fatal(err)
	}
	told, err := json.Marshal(known)
	if err != nil {
		t.Fatal(err)
	}
	for _, m := range marks {
		if m != "zzmark-bad" && !bytes.Contains(told, []byte(m)) {
			t.Errorf("who asks is not known of %s", m)
		}
		if !bytes.Contains(raw(t, dir), []byte(m)) {
			t.Errorf("%s was not planted", m)
		}
	}
	if err := b.s.ForgetCustomer(ctx, okell, customer, true); err != nil {
		t.Fatal(err)
	}
	left := raw(t, dir)
	for _, m := range append(marks, "zzserial-in", "zzserial-bad") {
		if bytes.Contains(left, []byte(m)) {
			t.Errorf("left in the file: %s", m)
		}
	}
	if p := b.proof(); p.Doc.Sign == nil || p.Doc.Test == nil || p.Doc.Test.Passes != 1 {
		t.Errorf("that it was proven is gone: %+v", p.Doc)
	}
	if found, err := b.s.Check(ctx); err != nil || found != nil {
		t.Errorf("the data is spoilt: %v %v", found, err)
	}
}
