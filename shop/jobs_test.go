package shop_test

import (
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"yembo/shop"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/jobs"
	sim "yembo/standin/machine"
	"yembo/store"
)

// jobOfMachine finds the open job of a demo machine.
func jobOfMachine(t *testing.T, s *shop.Shop, id string) jobs.BenchRow {
	t.Helper()
	rows, err := s.BenchList(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range rows {
		if r.Record.Machine.ID == id {
			return r
		}
	}
	t.Fatalf("%s has no open job", id)
	return jobs.BenchRow{}
}

// TestDangerStops: nothing goes on before the machine is made safe, with words and the
// pack out of the record.
func TestDangerStops(t *testing.T) {
	s := workshop(t)
	r := jobOfMachine(t, s, "i-brandreth-01")
	if r.Class != jobs.ClassDanger || !strings.HasPrefix(r.Next, "Stop") {
		t.Fatalf("a swollen pack: %+v", r)
	}
	for _, m := range []jobs.Move{{To: "start", Bench: 1}, {To: "customer", For: "a call"}, {To: "safe"}, {To: "dance"}} {
		if err := s.MoveJob(t.Context(), okell, "", r.JobID, m); err == nil {
			t.Errorf("%+v goes through", m)
		}
	}
	if err := s.MoveJob(t.Context(), okell, "", r.JobID,
		jobs.Move{To: "safe", For: "pack taken out, in the fire box", Out: true}); err != nil {
		t.Fatal(err)
	}
	now := jobOfMachine(t, s, "i-brandreth-01")
	if now.Class == jobs.ClassDanger || now.Record.Machine.Fitted.Battery != nil {
		t.Errorf("made safe it stands as %+v", now)
	}
	if err := s.MoveJob(t.Context(), okell, "", r.JobID, jobs.Move{To: "close"}); err != nil {
		t.Fatal(err)
	}
	if err := s.MoveJob(t.Context(), okell, "", r.JobID, jobs.Move{To: "start", Bench: 1}); err == nil {
		t.Error("a closed job is put on a bench")
	}
}

// TestContacts: what was agreed lets a job that waited for the customer go on.
func TestContacts(t *testing.T) {
	s := workshop(t)
	r := jobOfMachine(t, s, "wath-11")
	if r.Class != jobs.ClassCustomer {
		t.Fatalf("%+v", r)
	}
	if err := s.AddContact(t.Context(), okell, "", r.JobID, jobs.Contact{How: "smoke"}, nil); err == nil {
		t.Error("nothing said, by smoke: taken")
	}
	if err := s.AddContact(t.Context(), okell, "", r.JobID, jobs.Contact{How: "phone", Agreed: "sell the old ones"},
		[]hw.Consent{"data", "moon"}); err != nil {
		t.Fatal(err)
	}
	j, err := s.Job(t.Context(), r.JobID)
	if err != nil || j.State.Waits != "" || len(j.Contacts) != 2 || !slices.Equal(j.Details.Consents,
		[]hw.Consent{"data"}) {
		t.Errorf("%+v %v", j, err)
	}
}

// TestReadingTakenOver: what the stand-in tells goes into the machine and, as findings,
// into the record; nothing of it before it is accepted.
func TestReadingTakenOver(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	r, err := s.Machine(ctx, "wath-07")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.AddReading(ctx, okell, "", "wath-07", []jobs.Report{{Name: "x", Data: []byte("hello")}, {Name: "y"}},
		false); err == nil || !strings.Contains(err.Error(), "x: not a supported report") ||
		!strings.Contains(err.Error(), "y: it is empty") {
		t.Errorf("two that are no reports: %v", err)
	}
	told := *r.Machine
	told.Fitted.Memory = append([]hw.FittedModule{}, told.Fitted.Memory...)
	told.Fitted.Memory = append(told.Fitted.Memory,
		hw.FittedModule{Socket: "dimm2", Module: hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: dec(4),
			Speed: hw.Known(2666), Ranks: hw.Known(1)}})
	made, err := sim.Reports(r.Chassis, &told, sim.Faults{WornBattery: true})
	if err != nil {
		t.Fatal(err)
	}
	var reports []jobs.Report
	for _, m := range made {
		reports = append(reports, jobs.Report{Name: m.Name, Data: m.Data})
	}
	reports = append(reports, jobs.Report{Name: "letter.txt", Data: []byte("dear sirs")})
	number, err := s.AddReading(ctx, okell, "once", "wath-07", reports, true)
	if err != nil {
		t.Fatal(err)
	}
	if again, err := s.AddReading(ctx, okell, "once", "wath-07", reports, true); err != nil || again != number {
		t.Errorf("sent twice it is %s and %s: %v", number, again, err)
	}
	var id int64
	if err := json.Unmarshal([]byte(number), &id); err != nil {
		t.Fatal(err)
	}
	if err := s.AcceptReading(ctx, okell, "", "wath-05", id, nil, []string{"memory"}); !errors.Is(err, base.ErrNotFound) {
		t.Errorf("another machine's reading: %v", err)
	}
	if err := s.AcceptReading(ctx, okell, "", "wath-07", id, nil, []string{"memory", "pack-0"}); err != nil {
		t.Fatal(err)
	}
	now, err := s.Machine(ctx, "wath-07")
	if err != nil || len(now.Machine.Fitted.Memory) != 2 || now.Machine.Fitted.Battery.Cycles.Or(0) != 1100 ||
		!now.Machine.Fitted.Battery.Swollen.IsKnown() {
		t.Errorf("%+v %v", now.Machine.Fitted, err)
	}
	if len(now.Simulated) != 1 || now.Simulated[0] != id || !strings.Contains(now.History[0].What,
		"simulated taken over") {
		t.Errorf("what the stand-in told is not marked: %v, %q", now.Simulated, now.History[0].What)
	}
	if all, err := s.Readings(ctx, "wath-07"); err != nil || !all[0].Simulated || len(all[0].Notes) == 0 ||
		!strings.Contains(all[0].Notes[len(all[0].Notes)-1], "letter.txt: not a supported report") {
		t.Errorf("the report that cannot be read is not known: %+v, %v", all[0], err)
	}
	if err := s.TakeDraw(ctx, okell, "draw", "wath-07",
		jobs.Measured{Mean: hw.DecOf(9), Seconds: 90, Profile: "office", Simulated: true}); err != nil {
		t.Fatal(err)
	}
	if now, err = s.Machine(ctx, "wath-07"); err != nil || now.Machine.Usage.RuntimeProfile != "office, simulated" {
		t.Errorf("a simulated draw under %q, %v", now.Machine.Usage.RuntimeProfile, err)
	}
	if err := setSettings(ctx, s, func(how *base.Settings) { how.Simulated = false }); err != nil {
		t.Fatal(err)
	}
	if _, err := s.AddReading(ctx, okell, "off", "wath-07", reports, true); err == nil ||
		!strings.Contains(err.Error(), "do not offer") {
		t.Errorf("a shop that does not offer it reads the simulated machine: %v", err)
	}
}

// TestCustomers: two entries become one; a person who asks is forgotten, and the
// machines stay.
func TestCustomers(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	by := func(name string) jobs.Customer {
		list, err := s.Customers(ctx, name)
		if err != nil || len(list) != 1 {
			t.Fatalf("%s: %v %v", name, list, err)
		}
		return list[0]
	}
	double, err := s.TakeIn(ctx, okell, "", intake("Wath River Ferry"))
	if err != nil {
		t.Fatal(err)
	}
	stays := by("ferries")
	if err := s.MergeCustomers(ctx, okell, by("river ferry").ID, stays.ID); err != nil {
		t.Fatal(err)
	}
	if j, err := s.Job(ctx, double); err != nil || j.Customer != "Wath River Ferries" ||
		by("wath").Machines != stays.Machines+1 {
		t.Errorf("%+v %v", j.Customer, err)
	}
	if err := s.MergeCustomers(ctx, okell, stays.ID, stays.ID); err == nil {
		t.Error("merged with itself")
	}
	r := jobOfMachine(t, s, "wath-11")
	if err := s.Sign(ctx, okell, "", r.JobID, "", "M1 2 L3 4", "J. Farrow"); err != nil {
		t.Fatal(err)
	}
	var faults hw.Faults
	if err := s.Sign(ctx, okell, "", r.JobID, "", "M9 9 L9 8", "someone else"); !errors.As(err, &faults) ||
		!strings.Contains(err.Error(), "J. Farrow") {
		t.Errorf("signed twice, with other strokes: %v", err)
	}
	if err := s.StrikeSignature(ctx, okell, "", r.JobID, "", " "); !errors.As(err, &faults) {
		t.Errorf("struck without a reason: %v", err)
	}
	if err := s.StrikeSignature(ctx, okell, "", r.JobID, "", "the wrong person"); err != nil {
		t.Fatal(err)
	}
	if err := s.Sign(ctx, okell, "", r.JobID, "", "M9 9 L9 8", "the owner"); err != nil {
		t.Error(err)
	}
	if j := mustJob(t, s, r.JobID); len(j.Details.Struck) != 1 || j.Details.Signature.Name != "the owner" {
		t.Errorf("struck %+v, signed %+v", j.Details.Struck, j.Details.Signature)
	}
	if err := s.Sign(ctx, okell, "", r.JobID, "", `M1 2"/><script>`, "x"); err == nil {
		t.Error("a signature that is none is kept")
	}
	if err := s.ForgetCustomer(ctx, okell, stays.ID, false); err != nil {
		t.Fatal(err)
	}
	j, err := s.Job(ctx, r.JobID)
	if err != nil {
		t.Fatal(err)
	}
	left, err := json.Marshal(j)
	if err != nil {
		t.Fatal(err)
	}
	for _, word := range []string{"Wath River", "Farrow", "crew room", "log book", "master", "M1 2"} {
		if strings.Contains(string(left), word) {
			t.Errorf("%q is still there: %s", word, left)
		}
	}
	if len(j.Machine.Fitted.Memory) != 2 {
		t.Errorf("the machine's record is gone: %+v", j.Machine)
	}
	err = s.Store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.HistoryOf(base.KindMachine, "wath-11")
		for _, h := range rows {
			if strings.Contains(h.What, "Wath River") || strings.Contains(h.What, "Farrow") {
				t.Errorf("the history still says %q", h.What)
			}
		}
		return err
	})
	if err != nil {
		t.Error(err)
	}
}

// TestMachineList: sound rows are taken, the others are named and kept aside.
func TestMachineList(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	before := count(t, s)
	list := "Owner,Model,Serial,Tag\nWath River Ferries,PD15,PD15-9,\nNew Firm,quillon aster " +
		"14,QA-9,new-firm-07\nNew Firm,PD15,PD15-9,\n,PD15,X,\nNew Firm,Heron 3,Y,\nNew Firm,PD15,,\nNew Firm,PD15,Z,wath-07\n"
	upload, err := s.KeepUpload(ctx, []byte(list))
	if err != nil {
		t.Fatal(err)
	}
	columns := map[string]int{"customer": 0, "model": 1, "serial": 2, "id": 3}
	table, rows, err := s.LookAtList(ctx, upload, columns)
	if err != nil {
		t.Fatal(err)
	}
	for i, want := range []string{"", "", "serial PD15-9 is there", "no customer", "no record of the model \"Heron 3\"",
		"neither serial nor machine tag", "wath-07 is taken"} {
		if (rows[i].Fault == "") != (want == "") || !strings.Contains(rows[i].Fault, want) {
			t.Errorf("line %d: %q, want %q", rows[i].Line, rows[i].Fault, want)
		}
	}
	for range 2 { // a double click
		if n, err := s.TakeList(ctx, okell, "list", upload, columns); err != nil || n != 2 {
			t.Errorf("%d taken: %v", n, err)
		}
	}
	if got := count(t, s) - before; got != 2 {
		t.Errorf("%d machines more", got)
	}
	// Afterwards, and where the same list comes again, what was taken is told as taken.
	again, err := s.KeepUpload(ctx, []byte(list))
	if err != nil {
		t.Fatal(err)
	}
	for _, up := range []int64{upload, again} {
		if table, rows, err = s.LookAtList(ctx, up, columns); err != nil || rows[0].Taken == "" ||
			rows[1].TakenTag != "new-firm-07" ||
			rows[0].Fault != "" {
			t.Fatalf("what was taken is told as %+v, %v", rows[:2], err)
		}
	}
	aside, err := jobs.AsideTable(table, rows)
	if err != nil || strings.Count(string(aside), "\n") != 6 || !strings.Contains(string(aside), "Heron 3") {
		t.Errorf("kept aside: %s %v", aside, err)
	}
	out, err := s.MachineTable(ctx)
	if err != nil || !strings.Contains(string(out), "new-firm-07,New Firm,,Quillon,Aster 14,QA14-2,QA-9") {
		t.Errorf("%s %v", out, err)
	}
}

// TestModelChangedSince: a record that was changed after the choice is told with what
// changed; before it, nothing is.
func TestModelChangedSince(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	now := s.Now()
	s.Clock = func() time.Time { return now }
	p, err := s.Plan(ctx, "tarn-vet-03", jobs.PlanQuery{})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Choose(ctx, okell, "", "tarn-vet-03", jobs.Fingerprint(p.Plan.Options[0]), "", jobs.PlanQuery{}); err != nil {
		t.Fatal(err)
	}
	since := func() []base.Change {
		t.Helper()
		p, err := s.Plan(ctx, "tarn-vet-03", jobs.PlanQuery{})
		if err != nil {
			t.Fatal(err)
		}
		return p.Model.Since
	}
	if got := since(); len(got) != 0 {
		t.Errorf("nothing was changed, and it tells %v", got)
	}
	now = now.Add(time.Hour)
	r, err := s.Model(ctx, "quillon-aster-14")
	if err != nil {
		t.Fatal(err)
	}
	f := hw.Finding{Path: "/memory/limits/proven_gb", Value: json.RawMessage("48"), Source: "bench", On: "2026-05-14"}
	if err := s.AddFinding(ctx, ansty, "", "quillon-aster-14", r.Version, f); err != nil {
		t.Fatal(err)
	}
	if got := since(); len(got) != 1 || got[0].By != ansty.Name || !strings.Contains(got[0].What, "memory proven") {
		t.Errorf("it tells %v", got)
	}
}

// TestKnownMachine: a machine that was here before gets another job, and what the form did
// not ask for stays as it was.
func TestKnownMachine(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	before, err := s.Machine(ctx, "wath-07")
	if err != nil {
		t.Fatal(err)
	}
	m := *before.Machine
	m.Fitted.Memory = append([]hw.FittedModule{}, m.Fitted.Memory...)
	in := jobs.Intake{
		Machine:  &m,
		Known:    true,
		KnownVer: 1,
		Agreement: jobs.Agreement{Customer: "Wath River Ferries", Contact: "the mate",
			Wish: &hw.Request{Format: hw.FormatRequest, Goals: hw.Goals{MemoryGB: dec(32)}}},
	}
	if _, err := s.TakeIn(ctx, okell, "again", in); err == nil ||
		!strings.Contains(err.Error(), "YB-0002 is open for this machine") {
		t.Errorf("a second open job is not known: %v", err)
	}
	in.Another = true
	id, err := s.TakeIn(ctx, okell, "again", in)
	if err != nil {
		t.Fatal(err)
	}
	h, err := s.MachineHistory(ctx, "wath-07")
	if err != nil || len(h.Jobs) != 2 || h.Jobs[0].JobID != id || h.Record.Contact != "the mate" ||
		h.Jobs[1].Wish.Goals.MemoryGB != dec(16) {
		t.Errorf("%+v %v", h.Jobs, err)
	}
	if h.Record.Machine.Fitted.Battery == nil || h.Record.Machine.Usage.MemoryPeak != before.Machine.Usage.MemoryPeak {
		t.Errorf("what was known is gone: %+v", h.Record.Machine)
	}
	if c, err := s.CustomerNamed(ctx, "Wath River Ferries"); err != nil || !strings.HasPrefix(c.Contact, "ticket desk") {
		t.Errorf("the customer's own contact is %q now: %v", c.Contact, err)
	}
}
