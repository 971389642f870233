package shop_test

import (
	"context"
	"errors"
	"strings"
	"sync"
	"testing"
	"time"

	"yembo/shop"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/store"
	"yembo/store/storetest"
)

var (
	morning = time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)
	okell   = base.Actor{Name: "R. Okell"}
	ansty   = base.Actor{Name: "T. Ansty"}
)

func workshop(t testing.TB) *shop.Shop {
	t.Helper()
	return workshopIn(t, t.TempDir())
}

// workshopIn is the demo's workshop in a data folder that the test looks into.
func workshopIn(t testing.TB, dir string) *shop.Shop {
	t.Helper()
	clock := func() time.Time { return morning }
	return shop.New(storetest.OpenIn(t, dir, "demo", func(st *store.Store) error {
		return shop.New(st, clock).SeedDemo(t.Context())
	}), clock)
}

func dec(n int) hw.Maybe[hw.Dec] { return hw.Known(hw.DecOf(n)) }

func intake(customer string) jobs.Intake {
	return jobs.Intake{Machine: &hw.Machine{Chassis: "quillon-aster-14", Serial: "S"}, Agreement: jobs.Agreement{Customer: customer,
		Wish: &hw.Request{Format: hw.FormatRequest, Goals: hw.Goals{MemoryGB: dec(16)}}}}
}

func count(t *testing.T, s *shop.Shop) int {
	t.Helper()
	all, err := s.Machines(t.Context(), "")
	if err != nil {
		t.Fatal(err)
	}
	return all.All
}

// takeIn takes a machine in and returns its id.
func takeIn(ctx context.Context, s *shop.Shop, token string, in jobs.Intake) (string, error) {
	id, err := s.TakeIn(ctx, okell, token, in)
	if err != nil {
		return "", err
	}
	j, err := s.Job(ctx, id)
	if err != nil {
		return "", err
	}
	return j.Machine.ID, nil
}

// TestDoubleSubmission: the same form sent twice, at once or later, stores one
// machine and leads to the same place.
func TestDoubleSubmission(t *testing.T) {
	s := workshop(t)
	before := count(t, s)
	var wg sync.WaitGroup
	ids := make([]string, 8)
	for i := range ids {
		wg.Go(func() {
			id, err := takeIn(context.Background(), s, "token-1", intake("R. Sill"))
			if err != nil {
				t.Error(err)
			}
			ids[i] = id
		})
	}
	wg.Wait()
	for _, id := range ids {
		if id != "r-sill-01" {
			t.Errorf("led to %q", id)
		}
	}
	if got := count(t, s) - before; got != 1 {
		t.Errorf("%d machines were stored", got)
	}
	if id, err := takeIn(t.Context(), s, "token-2", intake("R. Sill")); err != nil || id != "r-sill-02" {
		t.Errorf("another machine of the same customer: %s %v", id, err)
	}
}

// TestNothingHalfDone: what cannot be is refused with its place, and nothing of it
// is stored, not even the new customer.
func TestNothingHalfDone(t *testing.T) {
	s := workshop(t)
	before := count(t, s)
	in := intake("New Customer")
	in.Machine.Fitted.Memory = []hw.FittedModule{{Socket: "dimm9"}}
	in.Wish.Goals.MemoryGB = dec(-1)
	_, err := s.TakeIn(t.Context(), okell, "t", in)
	var faults hw.Faults
	if !errors.As(err, &faults) || len(faults) != 2 || faults[0].Pointer != "/fitted/memory/0/socket" ||
		faults[1].Pointer != "/goals/memory_gb" {
		t.Errorf("faults: %v", err)
	}
	names, err := s.Customers(t.Context(), "new customer")
	if err != nil || len(names) > 0 || count(t, s) != before {
		t.Errorf("half of it is stored: %v %v", names, err)
	}
	// The token is not used up: the mended form goes through.
	in.Machine.Fitted.Memory, in.Wish.Goals.MemoryGB = nil, dec(16)
	if _, err := s.TakeIn(t.Context(), okell, "t", in); err != nil {
		t.Error(err)
	}
}

func entry(r records.ModelRecord, change func(ch *hw.Chassis)) records.ModelEntry {
	typed := *r.Chassis
	mem := *typed.Memory
	typed.Memory = &mem
	change(&typed)
	return records.ModelEntry{Before: r.Chassis.ID, Version: r.Version, Chassis: &typed,
		How: func(string) (hw.Source, string, string, bool) { return "bench", "2026-05-14", "seen", false }}
}

// TestTwoTechnicians: the second to save a record is told; the first one's work
// stands, and the history says who did what.
func TestTwoTechnicians(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	r, err := s.Model(ctx, "quillon-aster-14")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.RecordModel(ctx, okell, "a",
		entry(r, func(ch *hw.Chassis) { ch.Memory.Limits.Proven = dec(32) })); err != nil {
		t.Fatal(err)
	}
	if _, err := s.RecordModel(ctx, ansty, "b",
		entry(r, func(ch *hw.Chassis) { ch.Memory.Limits.Proven = dec(64) })); !errors.Is(err, base.ErrChanged) {
		t.Errorf("the second save: %v", err)
	}
	now, err := s.Model(ctx, "quillon-aster-14")
	if err != nil {
		t.Fatal(err)
	}
	if gb, _ := now.Chassis.Memory.Limits.Proven.Get(); gb != hw.DecOf(32) {
		t.Errorf("in force: %s GB", gb)
	}
	if f := evidence.Of(now.Chassis.Findings, "/memory/limits/proven_gb"); !f.Disputed || f.InForce.By != "R. Okell" {
		t.Errorf("the earlier finding is gone: %+v", f)
	}
	if len(now.Chassis.Steps) != len(r.Chassis.Steps) || now.Chassis.Memory.Sockets[0].Reach != "ram-shield" {
		t.Error("saving the memory lost other facts")
	}
	if h := now.History[0]; h.By != "R. Okell" || !strings.Contains(h.What, "memory proven") {
		t.Errorf("history: %+v", h)
	}
}

// TestChoice: what was chosen is stored as it was shown; when the plan is another
// by then, nothing is.
func TestChoice(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	p, err := s.Plan(ctx, "wath-07", jobs.PlanQuery{})
	if err != nil || len(p.Plan.Options) == 0 {
		t.Fatal(err)
	}
	shown := p.Plan.Options[0]
	if err := setPractice(ctx, s, "maker", "match"); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Choose(ctx, okell, "a", "wath-07", jobs.Fingerprint(shown), "", jobs.PlanQuery{}); !errors.Is(err,
		base.ErrPlanChanged) {
		t.Errorf("an option that the new practice forbids: %v", err)
	}
	if err := setPractice(ctx, s, "maker", "any"); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Choose(ctx, okell, "a", "wath-07", jobs.Fingerprint(shown), "", jobs.PlanQuery{}); err != nil {
		t.Fatal(err)
	}
	r, err := s.Machine(ctx, "wath-07")
	if err != nil || r.Choice == nil || r.ChosenBy != "R. Okell" || r.Choice.Option.TotalCents != shown.TotalCents {
		t.Errorf("stored: %+v %v", r.Choice, err)
	}
	if err := setPractice(ctx, s, "most", "any"); err == nil {
		t.Error("a practice that there is not is taken")
	}
	if _, err := s.Plan(ctx, "nobody-01", jobs.PlanQuery{}); !errors.Is(err, base.ErrNotFound) {
		t.Errorf("a machine that is not there: %v", err)
	}
}

// setPractice changes two words of the shop's practice.
func setPractice(ctx context.Context, s *shop.Shop, limit hw.LimitPractice, pairing hw.Pairing) error {
	return setSettings(ctx, s, func(now *base.Settings) {
		now.Practice.MemoryLimit, now.Practice.Pairing = hw.Known(limit), hw.Known(pairing)
	})
}

// setSettings changes some of the settings.
func setSettings(ctx context.Context, s *shop.Shop, change func(*base.Settings)) error {
	was, err := s.Settings(ctx)
	if err != nil {
		return err
	}
	next := was
	change(&next)
	return s.SaveSettings(ctx, okell, was, next)
}

// TestSetAside: a finding is retracted with a reason and kept; the field takes what
// is in force then, and leaves the record where nothing is.
func TestSetAside(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	const id, path = "pellam-drover-15", "/memory/sockets/dimm1/max_module_gb"
	find := func(value string) (records.ModelRecord, int) {
		t.Helper()
		r, err := s.Model(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		for i, f := range r.Chassis.Findings {
			if f.Path == path && string(f.Value) == value && f.SetAside == nil {
				return r, i
			}
		}
		t.Fatalf("no finding says %s", value)
		return r, -1
	}
	r, bench := find("16")
	if err := s.SetAside(ctx, okell, "", id, r.Version, bench, " "); err == nil {
		t.Error("set aside without a reason")
	}
	if err := s.SetAside(ctx, okell, "", id, r.Version+1, bench, "x"); !errors.Is(err, base.ErrChanged) {
		t.Errorf("another version: %v", err)
	}
	if err := s.SetAside(ctx, okell, "", id, r.Version, bench, "it was dimm2"); err != nil {
		t.Fatal(err)
	}
	r, maker := find("8")
	if gb, _ := r.Chassis.Memory.Sockets[0].MaxModule.Get(); gb != hw.DecOf(8) {
		t.Errorf("in force is %s", gb)
	}
	if err := s.SetAside(ctx, okell, "", id, r.Version, bench, "again"); err == nil {
		t.Error("set aside twice")
	}
	if err := s.SetAside(ctx, okell, "", id, r.Version, maker, "another board"); err != nil {
		t.Fatal(err)
	}
	r, err := s.Model(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	if f := evidence.Of(r.Chassis.Findings, path); r.Chassis.Memory.Sockets[0].MaxModule.IsKnown() ||
		f.InForce != nil || len(f.Aside) != 2 || f.Aside[0].SetAside.By != "R. Okell" {
		t.Errorf("after both: %+v", f)
	}
}

// TestImport: what an export says comes back; a change is shown before it is taken,
// is not taken over another one, and never takes a place away from under a machine.
func TestImport(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	doc, err := s.Export(ctx, "pellam-drover-15")
	if err != nil {
		t.Fatal(err)
	}
	look, err := s.LookAtImport(ctx, doc)
	if err != nil || look.New || len(look.Changes) != 0 {
		t.Errorf("its own export changes %v, %v", look.Changes, err)
	}
	other := strings.NewReplacer(`"proven_gb": 32`, `"proven_gb": 24`, `"value": 32`,
		`"value": 24`).Replace(string(doc))
	look, err = s.LookAtImport(ctx, []byte(other))
	if err != nil || len(look.Changes) != 1 || look.Changes[0].Path != "/memory/limits/proven_gb" ||
		string(look.Changes[0].Before) != "32" || string(look.Changes[0].After) != "24" {
		t.Fatalf("changes %+v, %v", look.Changes, err)
	}
	if _, err := s.TakeImport(ctx, ansty, "t", []byte(other), look.Version+1); !errors.Is(err, base.ErrChanged) {
		t.Errorf("another version: %v", err)
	}
	for range 2 {
		if _, err := s.TakeImport(ctx, ansty, "t", []byte(other), look.Version); err != nil {
			t.Fatal(err)
		}
	}
	r, err := s.Model(ctx, "pellam-drover-15")
	if err != nil || r.Version != look.Version+1 || r.History[0].By != "T. Ansty" {
		t.Errorf("stored: version %d %+v %v", r.Version, r.History, err)
	}
	// A machine of this model has a module in dimm1.
	gone := strings.ReplaceAll(strings.ReplaceAll(other, `"dimm1"`, `"slot-one"`), "/dimm1/", "/slot-one/")
	if _, err := s.TakeImport(ctx, ansty, "", []byte(gone), r.Version); err == nil ||
		!strings.Contains(err.Error(), "machine wath-07, /fitted/memory/0/socket") {
		t.Errorf("a place taken away: %v", err)
	}
	if _, err := s.LookAtImport(ctx, doc[:len(doc)/2]); err == nil {
		t.Error("half a document is taken")
	}
}

// TestRestoreAndCopy: an earlier state comes back whole and loses nothing; a copy
// takes the facts over as assumed only.
func TestRestoreAndCopy(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	const id = "quillon-aster-14"
	first, err := s.Model(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.RecordModel(ctx, okell, "",
		entry(first, func(ch *hw.Chassis) { ch.Memory.Limits.Maker = dec(32) })); err != nil {
		t.Fatal(err)
	}
	r, err := s.Model(ctx, id)
	if err != nil || len(r.History) != 4 || !r.History[0].Restorable || r.History[1].Restorable ||
		r.History[3].Restorable {
		t.Fatalf("%+v %v", r.History, err)
	}
	if err := s.Restore(ctx, ansty, "", id, first.Version, r.History[0].ID); !errors.Is(err, base.ErrChanged) {
		t.Errorf("another version: %v", err)
	}
	if err := s.Restore(ctx, ansty, "", "pellam-drover-15", 1, r.History[0].ID); !errors.Is(err, base.ErrNotFound) {
		t.Errorf("another model's past: %v", err)
	}
	if err := s.Restore(ctx, ansty, "", id, r.Version, r.History[0].ID); err != nil {
		t.Fatal(err)
	}
	now, err := s.Model(ctx, id)
	if err != nil || now.Version != 3 || len(now.History) != 5 || !strings.Contains(now.History[0].What,
		"restored as it was before") {
		t.Fatalf("%+v %v", now.History, err)
	}
	if gb, _ := now.Chassis.Memory.Limits.Maker.Get(); gb != hw.DecOf(24) ||
		len(now.Chassis.Findings) != len(first.Chassis.Findings) {
		t.Errorf("the maker's limit is %s, %d findings", gb, len(now.Chassis.Findings))
	}
	if _, err := s.Copy(ctx, okell, "", id, hw.Chassis{Maker: "Quillon", Model: "Aster 14"}); err == nil {
		t.Error("a copy has the id of its original")
	}
	copied, err := s.Copy(ctx, okell, "", id, hw.Chassis{Maker: "Quillon", Model: "Aster 15"})
	if err != nil || copied != "quillon-aster-15" {
		t.Fatal(copied, err)
	}
	c, err := s.Model(ctx, copied)
	if err != nil || len(c.Chassis.Steps) != len(now.Chassis.Steps) || c.Chassis.Code != "" || c.Chassis.Covers != nil {
		t.Fatalf("%+v %v", c.Chassis, err)
	}
	for _, f := range c.Chassis.Findings {
		if f.Source != "assumed" || !strings.Contains(f.Note, "copied from Quillon Aster 14") {
			t.Errorf("a copied finding says %s: %s", f.Source, f.Note)
		}
	}
}

// TestCapability: what is not known of a model is no match.
func TestCapability(t *testing.T) {
	s := workshop(t)
	n := hw.Known[int]
	for name, c := range map[string]struct {
		want  records.Capability
		found string
	}{
		"nothing asked": {records.Capability{},
			"marrowby-osier-14 marrowby-reedmace-13 pellam-carter-12 pellam-drover-15 pellam-hurdle-16 " +
				"quillon-aster-14 quillon-aster-16 quillon-block-2 sundrel-fennel-15"},
		"reaches 24 GB": {records.Capability{ReachesGB: dec(24)},
			"marrowby-osier-14 pellam-hurdle-16 quillon-aster-14 quillon-aster-16 quillon-block-2 sundrel-fennel-15"},
		"reaches 200 GB": {records.Capability{ReachesGB: dec(200)}, ""},
		"30 mm slot": {records.Capability{SlotLength: n(30)},
			"pellam-hurdle-16 quillon-aster-14 quillon-aster-16"},
		"80 mm slot of generation 4": {records.Capability{SlotLength: n(80), SlotGen: n(4)},
			"marrowby-osier-14 pellam-hurdle-16 quillon-aster-14 quillon-aster-16 quillon-block-2 sundrel-fennel-15"},
		"slot of generation 5": {records.Capability{SlotGen: n(5)}, ""},
		"battery under five steps": {records.Capability{BatterySteps: n(4)},
			"marrowby-reedmace-13 pellam-carter-12 pellam-drover-15 quillon-aster-14 quillon-aster-16"},
		"battery under two steps": {records.Capability{BatterySteps: n(1)}, ""},
		"several at once": {records.Capability{SlotLength: n(80), ReachesGB: dec(20), BatterySteps: n(4)},
			"quillon-aster-14 quillon-aster-16"},
	} {
		var found []string
		all, err := s.CapableBriefs(t.Context(), "", c.want)
		if err != nil {
			t.Fatal(err)
		}
		for i := range all {
			found = append(found, all[i].ID)
		}
		if got := strings.Join(found, " "); got != c.found {
			t.Errorf("%s finds %s", name, got)
		}
	}
}

// TestReachesByPractice: how far memory goes is told by the shop's own practice and its
// table of the largest modules, from the brief; an older brief is made anew.
func TestReachesByPractice(t *testing.T) {
	s := workshop(t)
	finds := func(gb int) string {
		t.Helper()
		all, err := s.CapableBriefs(t.Context(), "quillon", records.Capability{ReachesGB: dec(gb)})
		if err != nil {
			t.Fatal(err)
		}
		var ids []string
		for i := range all {
			ids = append(ids, all[i].ID)
		}
		return strings.Join(ids, " ")
	}
	if got := finds(40); got != "quillon-aster-16 quillon-block-2" {
		t.Errorf("by the maker's limit 40 GB: %s", got)
	}
	if err := setSettings(t.Context(), s,
		func(how *base.Settings) { how.Practice.MemoryLimit = hw.Known[hw.LimitPractice]("proven") }); err != nil {
		t.Fatal(err)
	}
	if got := finds(40); got != "quillon-aster-14 quillon-aster-16 quillon-block-2" {
		t.Errorf("as proven 40 GB: %s", got)
	}
	largest := memory.Largest()
	largest["SO-DIMM"]["DDR4"] = hw.DecOf(16)
	if err := setSettings(t.Context(), s, func(how *base.Settings) { how.Largest = largest }); err != nil {
		t.Fatal(err)
	}
	// 8 soldered + 1 × 16 is all that the Aster 14 holds then.
	if got := finds(40); strings.Contains(got, "aster-14") {
		t.Errorf("with modules of at most 16 GB: %s", got)
	}
	err := s.Store.Update(t.Context(), func(tx store.Tx) error {
		row, err := tx.Model("quillon-aster-14")
		if err != nil {
			return err
		}
		row.Brief, row.Version = []byte(`{"memory_type":"DDR4"}`), row.Version+1
		return tx.SaveModel(&row, row.Version-1)
	})
	if err != nil {
		t.Fatal(err)
	}
	if got := finds(24); !strings.Contains(got, "aster-14") {
		t.Errorf("with an older brief: %s", got)
	}
	how := base.Settings{Largest: largest}
	soldered := records.Brief{SolderedGB: hw.DecOf(32), Forms: []hw.ModuleForm{}}
	if soldered.Reaches(hw.DecOf(33), &how) || !soldered.Reaches(hw.DecOf(32), &how) {
		t.Error("32 GB soldered are 32 GB")
	}
}
