package shop_test

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"yembo/shop"

	"yembo/core/hw"
	"yembo/core/proof"
	"yembo/core/run"
	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/shop/work"
	sim "yembo/standin/machine"
	"yembo/store"
)

// note notes something on the proof of a job.
func (b *bencher) note(entry work.ProofEntry) error {
	b.t.Helper()
	b.now = b.now.Add(time.Minute)
	return b.s.ChangeProof(b.t.Context(), okell, "", b.job, entry)
}

func (b *bencher) must(entry work.ProofEntry) {
	b.t.Helper()
	if err := b.note(entry); err != nil {
		b.t.Fatal(err)
	}
}

func (b *bencher) proof() work.Proof {
	b.t.Helper()
	p, err := b.s.Proof(b.t.Context(), b.job)
	if err != nil {
		b.t.Fatal(err)
	}
	return p
}

// read reads the simulated machine as it should be after the work, with a change and faults.
func (b *bencher) read(f sim.Faults, change func(m *hw.Machine)) {
	b.t.Helper()
	p := b.proof()
	m := *p.Expected
	if change != nil {
		change(&m)
	}
	reports, err := sim.Reports(p.Job.Chassis, &m, f)
	if err != nil {
		b.t.Fatal(err)
	}
	var sent []jobs.Report
	for _, r := range reports {
		sent = append(sent, jobs.Report{Name: r.Name, Data: r.Data})
	}
	b.now = b.now.Add(time.Minute)
	if _, err := b.s.AddReading(b.t.Context(), okell, "", p.Job.Key, sent, true); err != nil {
		b.t.Fatal(err)
	}
}

// complete notes all that a proof asks for.
func (b *bencher) complete() {
	b.t.Helper()
	p := b.proof()
	for _, f := range p.First {
		b.must(work.FirstStarts(f.ID, jobs.FirstDone, ""))
	}
	for _, old := range p.Old {
		how := jobs.OldPart{Goes: jobs.GoesBack}
		if old.Pack {
			how.Goes = jobs.GoesRecycled
		}
		b.must(work.OldGoes(old.Place, how))
	}
	if p.Option != nil && p.Option.Migration != nil {
		b.must(work.DataIs(jobs.DataDone{Verified: "all files counted"}))
	}
	if p.Touches(hw.KindMemory) {
		total, known := p.Total()
		if !known {
			b.t.Fatal("the total is not known")
		}
		b.must(work.Tests(jobs.MemoryTest{Tool: "memory tester", Passes: 2, TotalGB: total, Errors: hw.Known(0)}))
	}
	b.must(work.Seam(jobs.SeamEdges...))
}

// unproven sets aside what was proven in the model of the demo's ferry machines, and returns it.
func (b *bencher) unproven() records.ModelRecord {
	b.t.Helper()
	for range 2 {
		m, err := b.s.Model(b.t.Context(), "pellam-drover-15")
		if err != nil {
			b.t.Fatal(err)
		}
		at := slices.IndexFunc(
			m.Chassis.Findings,
			func(f hw.Finding) bool { return f.Path == "/memory/limits/proven_gb" && f.SetAside == nil },
		)
		if at < 0 {
			return m
		}
		if err := b.s.SetAside(b.t.Context(), ansty, "", m.Chassis.ID, m.Version, at, "it was another board"); err != nil {
			b.t.Fatal(err)
		}
	}
	b.t.Fatal("it is proven twice")
	return records.ModelRecord{}
}

// finish ends the run of a job.
func (b *bencher) finish() {
	b.t.Helper()
	b.through()
	if says := b.say(run.Ended, "", run.Data{}); says != "" {
		b.t.Fatal(says)
	}
}

func sign(b *bencher, why, agreed string) error {
	return b.s.SignProof(b.t.Context(), okell, "", b.job, why, agreed)
}

// TestProof: a module that is not seated is found, mended and proved; signing writes back what is
// fitted, the stock and what was proven, once, and the model plans from it; then it is handed over.
func TestProof(t *testing.T) {
	b := atBench(t, "wath-05")
	ctx := t.Context()
	part := b.run().Option.Buy[0].Part
	drover := b.unproven()
	byProof := jobs.PlanQuery{Practice: &hw.Practice{MemoryLimit: hw.Known(hw.LimitProven)}}
	doubt := hw.Finding{Path: "/memory/limits/maker_gb", Value: json.RawMessage("8"), Source: hw.MakerDocument}
	if err := b.s.AddFinding(ctx, ansty, "", drover.Chassis.ID, drover.Version, doubt); err != nil {
		t.Fatal(err)
	}
	if next, err := b.s.Plan(ctx, "wath-07", byProof); err != nil || len(next.Plan.Options) != 0 {
		t.Fatalf("16 GB are planned for the next machine before they are proven: %v", err)
	}
	before, err := b.s.Part(ctx, part)
	if err != nil {
		t.Fatal(err)
	}
	b.finish()
	if p := b.proof(); len(p.Bars) == 0 || p.Reading != nil {
		t.Errorf("nothing was noted, and against it stand %v", p.Bars)
	}
	b.read(sim.Faults{Unseated: true}, nil)
	p := b.proof()
	open := 0
	for _, l := range p.Lines {
		if l.Standing == proof.Open {
			open++
			if l.Code != proof.ModuleAbsent || l.Place != "dimm2" {
				t.Errorf("open is %+v", l)
			}
		}
		if l.Place == proof.PlaceMemory && l.Standing != proof.Follows {
			t.Errorf("%s of the memory stands as %s", l.What, l.Standing)
		}
	}
	if open != 1 || !strings.Contains(strings.Join(p.Bars, "; "), "dimm2: a module is not seen") {
		t.Errorf("%d open, against it: %v", open, p.Bars)
	}
	if err := sign(b, "", ""); err == nil || !strings.Contains(err.Error(), "dimm2: a module is not seen") {
		t.Errorf("it is signed with a module missing: %v", err)
	}
	b.must(work.Tries(proof.ModuleAbsent, "dimm2", 0, "clicked"))
	b.read(sim.Faults{}, nil)
	b.complete()
	if p := b.proof(); len(p.Bars) != 0 {
		t.Fatalf("against it stand %v", p.Bars)
	}
	for range 2 {
		if err := sign(b, "", ""); err != nil {
			t.Fatal(err)
		}
	}
	if err := b.note(work.ProofNoted("late")); err == nil {
		t.Error("something was noted on a signed proof")
	}
	m, err := b.s.Machine(ctx, "wath-05")
	if err != nil {
		t.Fatal(err)
	}
	if n := len(m.Machine.Fitted.Memory); n != 2 || m.Machine.Fitted.Memory[1].Socket != "dimm2" {
		t.Errorf("the machine has %+v", m.Machine.Fitted.Memory)
	}
	after, err := b.s.Part(ctx, part)
	if err != nil {
		t.Fatal(err)
	}
	if before.Shelf-after.Shelf != 1 || after.Held != before.Held-1 {
		t.Errorf("on the shelf %d, then %d", before.Shelf, after.Shelf)
	}
	model, _ := b.s.Model(ctx, "pellam-drover-15")
	if gb := model.Chassis.Mem().Limits.Proven.Or(0); gb != hw.DecOf(16) {
		t.Errorf("proven are %s GB", gb)
	}
	if next, err := b.s.Plan(ctx, "wath-07", byProof); err != nil || len(next.Plan.Options) == 0 {
		t.Errorf("16 GB are proven, and the next machine is not planned from it: %v", err)
	}
	learned, err := b.s.LearnedOf(ctx, "pellam-drover-15")
	if err != nil || len(learned) != 1 || !strings.Contains(strings.Join(learned[0].Words, "; "), "16 GB proven") {
		t.Errorf("%+v %v", learned, err)
	}
	if at := mustJob(t, b.s, b.job); at.Trail.Stations[6].At.IsZero() || at.State.Proven == nil {
		t.Error("the trail does not pass the proof")
	}
	out, err := b.s.PiecesOut(ctx, part)
	if err != nil || len(out) == 0 || out[0].Job != b.job || out[0].N != 1 {
		t.Fatalf("its piece went to %+v %v", out, err)
	}
	for _, why := range []string{"", "errors after two weeks", "once more"} {
		if err := b.s.FoundBad(ctx, okell, "", part, b.job, "S-77", why); (err == nil) != (why == "errors after two weeks") {
			t.Errorf("found bad, %q: %v", why, err)
		}
	}
	if again, _ := b.s.PiecesOut(ctx, part); len(again[0].Bad) != 1 || !strings.Contains(again[0].Bad[0], "S-77") {
		t.Errorf("found bad: %+v", again[0])
	}
	hand := work.HandingOver{To: "J. Farrow", With: []string{"charger"}, AskOn: "2026-05-28"}
	if err := b.s.HandOver(ctx, okell, "", b.job, work.HandingOver{}); err == nil {
		t.Error("it is handed over to nobody")
	}
	for range 2 {
		if err := b.s.HandOver(ctx, okell, "", b.job, hand); err != nil {
			t.Fatal(err)
		}
	}
	// With other content it is another hand-over, another signature: neither is answered as if it were stored.
	var faults hw.Faults
	other := hand
	other.To = "the neighbour"
	if err := b.s.HandOver(ctx, okell, "", b.job, other); !errors.As(err, &faults) || !strings.Contains(err.Error(), "J. Farrow") {
		t.Errorf("handed over a second time, to someone else: %v", err)
	}
	if err := b.s.SignProof(ctx, okell, "", b.job, "another reason", "the neighbour"); !errors.As(err, &faults) {
		t.Errorf("signed a second time, with another reason: %v", err)
	}
	// Handed over by mistake: it is taken back, and done again.
	if err := b.s.MoveJob(ctx, okell, "", b.job, jobs.Move{To: jobs.MoveReopen}); err != nil || b.proof().Doc.Hand != nil {
		t.Errorf("the hand-over is not taken back: %v", err)
	}
	if err := b.s.MoveJob(ctx, okell, "", b.job, jobs.Move{To: jobs.MoveStart, Bench: 2}); err == nil {
		t.Error("a proven job goes on a bench again")
	}
	if err := b.s.HandOver(ctx, okell, "", b.job, hand); err != nil {
		t.Fatal(err)
	}
	r, err := b.s.Report(ctx, b.job)
	if err != nil || r.Handed == nil || !strings.Contains(r.Sentence, "it has 16 GB of memory, it had 8") || len(r.Open) > 0 {
		t.Errorf("%+v %v", r, err)
	}
	b.now = time.Date(2026, 5, 28, 9, 0, 0, 0, time.UTC)
	if asks, err := b.s.ToAsk(ctx); err != nil || len(asks) != 1 || asks[0].Job != b.job {
		t.Errorf("to be asked: %v %v", asks, err)
	}
	if err := b.s.Asked(ctx, okell, "", b.job, "runs well"); err != nil {
		t.Fatal(err)
	}
	if talks := mustJob(t, b.s, b.job).Contacts; talks[0].Said != "Asked how it goes: runs well" &&
		talks[len(talks)-1].Said != "Asked how it goes: runs well" {
		t.Errorf("the talks are %+v", talks)
	}
	if asks, _ := b.s.ToAsk(ctx); len(asks) != 0 {
		t.Errorf("asked, and still to be asked: %v", asks)
	}
}

// TestProofOfAnother: a report of another serial is asked about before it counts, one from before the
// work does not count, and what was fitted otherwise is written back as it is.
func TestProofOfAnother(t *testing.T) {
	b := atBench(t, "wath-05")
	before := b.proof()
	if len(before.Job.Readings) > 0 {
		t.Fatal("the demo's job has a reading already")
	}
	b.now = morning.Add(-time.Hour)
	b.read(sim.Faults{}, nil)
	b.now = morning
	if p := b.proof(); p.Reading != nil || len(p.Earlier) != 1 {
		t.Errorf("a report from before the work counts: %v", p.Reading)
	}
	b.finish()
	b.read(sim.Faults{OtherSerial: true}, nil)
	p := b.proof()
	if p.Reading != nil || p.Foreign == nil || !strings.Contains(strings.Join(p.Bars, ";"), "another serial") {
		t.Fatalf("a report of another serial: %v, %v", p.Reading, p.Bars)
	}
	b.must(work.ReadingCounts(p.Foreign.ID))
	if p := b.proof(); p.Reading == nil {
		t.Error("it was said to count, and does not")
	}
	if err := b.note(work.ReadingCounts(999)); err == nil {
		t.Error("a report that is not there counts")
	}
	// 4 GB sit where 8 were planned.
	b.read(sim.Faults{OtherModule: true}, nil)
	b.must(work.IsReally("dimm2"))
	b.complete()
	p = b.proof()
	if bars := strings.Join(p.Bars, ";"); bars != "" {
		t.Errorf("taken as it is, and against it stand %s", bars)
	}
	if err := sign(b, "", ""); err != nil {
		t.Fatal(err)
	}
	m, _ := b.s.Machine(t.Context(), "wath-05")
	if gb := m.Machine.Fitted.Memory[1].Module.Capacity.Or(0); gb != hw.DecOf(4) {
		t.Errorf("dimm2 holds %s GB", gb)
	}
	part, _ := b.s.Part(t.Context(), p.Option.Buy[0].Part)
	if learned := strings.Join(b.proof().Doc.Sign.Learned, ";"); strings.Contains(learned, part.Part.Name) {
		t.Errorf("the piece that was not used was taken off the shelf: %s", learned)
	}
}

// TestSignedAllTheSame: with something open a proof is signed only with why and who agreed, and both
// stand on the report; a fault while it is written back leaves nothing done.
func TestSignedAllTheSame(t *testing.T) {
	b := atBench(t, "wath-05")
	ctx := t.Context()
	b.finish()
	b.must(work.LookedAt("all", true, ""))
	// A total that cannot be is written after the machine and the shelf: nothing of the signature is kept.
	was, _ := b.s.Machine(ctx, "wath-05")
	p := b.proof()
	p.Doc.Test = &jobs.MemoryTest{Tool: "x", Passes: 1, TotalGB: hw.DecOf(100_000), Errors: hw.Known(0), At: b.now}
	raw, err := json.Marshal(&p.Doc)
	if err != nil {
		t.Fatal(err)
	}
	if err := setProof(ctx, b.s, b.job, raw); err != nil {
		t.Fatal(err)
	}
	var faults hw.Faults
	if err := sign(b, "customer waits", "J. Farrow"); !errors.As(err, &faults) {
		t.Fatalf("a total that cannot be: %v", err)
	}
	now, _ := b.s.Machine(ctx, "wath-05")
	if now.MachineVer != was.MachineVer || b.proof().Doc.Sign != nil {
		t.Error("half of it was written back")
	}
	p.Doc.Test = nil
	raw, _ = json.Marshal(&p.Doc)
	if err := setProof(ctx, b.s, b.job, raw); err != nil {
		t.Fatal(err)
	}
	b.must(work.LookedAt("dimm2 capacity_gb", false, "4 GB"))
	if err := sign(b, "customer waits", ""); err == nil || !strings.Contains(err.Error(), "who agreed") {
		t.Errorf("nobody agreed: %v", err)
	}
	b.read(sim.Faults{OtherModule: true}, nil)
	if err := sign(b, "customer waits", "J. Farrow"); err != nil {
		t.Fatal(err)
	}
	if m, _ := b.s.Machine(ctx, "wath-05"); m.Machine.Fitted.Memory[1].Module.Capacity.Or(0) != hw.DecOf(4) {
		t.Errorf("another module was seen and signed, and the record says %+v", m.Machine.Fitted.Memory[1])
	}
	r, err := b.s.Report(ctx, b.job)
	if err != nil || len(r.Open) == 0 || !strings.Contains(r.Agreed, "J. Farrow") {
		t.Errorf("%+v %v", r, err)
	}
}

// TestProofFaults: what cannot be noted is refused at its field, and nothing is kept of it.
func TestProofFaults(t *testing.T) {
	b := atBench(t, "wath-05")
	for name, entry := range map[string]work.ProofEntry{
		"a line there is not":     work.LookedAt("moon capacity_gb", true, ""),
		"a code of a report":      work.Meets(proof.LinkDiffers, false),
		"nothing to try":          work.Tries(proof.ModuleAbsent, "dimm2", 9, ""),
		"no report of it":         work.IsReally("dimm2"),
		"no such first start":     work.FirstStarts("moon", jobs.FirstDone, ""),
		"it can be tested here":   work.FirstStarts("charger", jobs.FirstNoTest, ""),
		"a measure without runs":  work.WasMeasured(proof.Measure{Name: "read"}),
		"a measure of no name":    work.WasMeasured(proof.Measure{After: proof.Side{Runs: []hw.Dec{1}}}),
		"a run below nought":      work.WasMeasured(proof.Measure{Name: "x", After: proof.Side{Runs: []hw.Dec{-1}}}),
		"a test of no pass":       work.Tests(jobs.MemoryTest{Tool: "x", TotalGB: hw.DecOf(8)}),
		"a test of nothing":       work.Tests(jobs.MemoryTest{Tool: "x", Passes: 1}),
		"errors not known":        work.Tests(jobs.MemoryTest{Tool: "x", Passes: 1, TotalGB: hw.DecOf(8)}),
		"a test by nothing":       work.Tests(jobs.MemoryTest{Passes: 1, TotalGB: hw.DecOf(8)}),
		"an old part there isn't": work.OldGoes("dimm2", jobs.OldPart{Goes: jobs.GoesBack}),
		"an edge there is not":    work.Seam("front", "moon"),
		"an empty note":           work.ProofNoted(" "),
	} {
		var faults hw.Faults
		if err := b.note(entry); !errors.As(err, &faults) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if p := b.proof(); p.Version != 0 {
		t.Errorf("something was kept: %+v", p.Doc)
	}
}

// TestOldDriveOnShelf: a drive that came out goes onto the shelf only erased, and then lies there as a
// used part with what was known of it; a pack goes to recycling.
func TestOldDriveOnShelf(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	p, err := s.Plan(ctx, "wath-08", jobs.PlanQuery{})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Choose(ctx, okell, "", "wath-08", jobs.Fingerprint(p.Plan.Options[2]), "", jobs.PlanQuery{}); err != nil {
		t.Fatal(err)
	}
	b := &bencher{t: t, s: s, now: morning}
	s.Clock = func() time.Time { return b.now }
	for _, r := range must(s.BenchList(ctx)) {
		if r.Record.Machine.ID == "wath-08" {
			b.job = r.Record.JobID
		}
	}
	b.begin()
	b.finish()
	b.read(sim.Faults{}, nil)
	b.complete()
	var drive string
	for _, old := range b.proof().Old {
		if old.Drive {
			drive = old.Place
		}
	}
	if err := b.note(work.OldGoes(drive, jobs.OldPart{Goes: jobs.GoesShelf})); err == nil {
		t.Error("a drive with data goes onto the shelf")
	}
	if err := b.note(work.DataIs(jobs.DataDone{Steps: []string{"files"}})); err == nil {
		t.Error("a clone was installed")
	}
	b.must(work.DataIs(jobs.DataDone{Steps: []string{"backup", "read"}, Verified: "all files counted"}))
	b.must(work.OldGoes(drive, jobs.OldPart{Goes: jobs.GoesShelf, How: "sanitize", Serial: "OLD-1"}))
	parts := len(must(s.Parts(ctx)).Parts)
	if r := must(s.Report(ctx, b.job)); !strings.HasPrefix(r.Sentence, "A draft") {
		t.Errorf("before it is signed the customer reads: %s", r.Sentence)
	}
	if err := sign(b, "it waits", "J. Farrow"); err != nil {
		t.Fatal(err)
	}
	if r := must(s.Report(ctx, b.job)); !strings.Contains(r.Sentence, "a new drive of 500 GB, which it starts from") ||
		!strings.Contains(r.Old[0].Goes, "onto the shelf: sanitize") {
		t.Errorf("%s %+v", r.Sentence, r.Old)
	}
	list := must(s.Parts(ctx)).Parts
	if last := list[len(list)-1]; len(list) != parts+1 || !last.Pulled() || last.Drive == nil ||
		last.Drive.Capacity.Or(0) != hw.DecOf(256) {
		t.Errorf("on the shelf is %+v", list[len(list)-1])
	}
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// setProof stores a proof's document as it is given.
func setProof(ctx context.Context, s *shop.Shop, job int64, doc []byte) error {
	return s.Store.Update(ctx, func(tx store.Tx) error {
		row, err := tx.ProofOf(job)
		if err != nil {
			return err
		}
		row.Doc = doc
		row.Version++
		return tx.SaveProof(&row, row.Version-1)
	})
}
