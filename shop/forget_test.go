package shop

import (
	"bytes"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"yembo/core/hw"
	sim "yembo/standin/machine"
	"yembo/store"
)

// raw is every byte of a data folder's files.
func raw(t *testing.T, dir string) []byte {
	t.Helper()
	var out []byte
	for _, name := range []string{store.File, store.File + "-wal", store.File + "-shm"} {
		file, err := os.ReadFile(filepath.Join(dir, name))
		if err != nil && !errors.Is(err, os.ErrNotExist) {
			t.Fatal(err)
		}
		out = append(out, file...)
	}
	return bytes.ToLower(out)
}

// planted puts marks into every field in which something of a person can stand, and returns those
// that are words, and those that are serials.
func planted(t *testing.T, s *Shop) (customer int64, key string, words, serials []string) {
	t.Helper()
	ctx := t.Context()
	mark := func(name string) string {
		words = append(words, "zzmark-"+name)
		return "zzmark-" + name
	}
	serial := func(name string) string {
		serials = append(serials, "zzserial-"+name)
		return "zzserial-" + name
	}
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	in := intake(mark("merged"))
	in.Machine.Serial = "else"
	must(only(s.TakeIn(ctx, okell, "", in)))
	in = intake(mark("name"))
	in.Contact, in.Complaint, in.Machine.Serial = mark("contact"), mark("complaint"), serial("machine")
	in.Machine.Usage = hw.Usage{DrawW: dec(7), RuntimeProfile: mark("profile")}
	in.Machine.Fitted.Memory = []hw.FittedModule{{Socket: "dimm1",
		Module: hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: dec(8),
			Speed: hw.Known(3200), Ranks: hw.Known(1), Serial: serial("module")}}}
	in.Details = Details{Use: mark("use"), Account: mark("account"), Told: mark("told"),
		Accessories: []string{mark("bag")},
		Condition:   Condition{Looked: true, Note: mark("condition")}}
	job, err := s.TakeIn(ctx, okell, "", in)
	must(err)
	j, err := s.Job(ctx, job)
	must(err)
	key, customer = j.Key, j.CustomerID
	other, err := s.CustomerNamed(ctx, "zzmark-merged")
	must(err)
	must(s.MergeCustomers(ctx, okell, other.ID, customer))
	must(s.SaveCustomer(ctx, okell, Customer{ID: customer, Name: "zzmark-name", Contact: "zzmark-contact"},
		mark("newname"),
		mark("newcontact")))
	must(s.ChangeTag(ctx, okell, "", key, "zzmark-name-01", mark("tag")))
	must(s.AddContact(ctx, okell, "", job,
		Contact{How: "phone", Who: mark("who"), Said: mark("said"), Agreed: mark("agreed")}, nil))
	must(s.Sign(ctx, okell, "", job, "", "M1 2 L3 4", mark("signed")))
	must(s.MoveJob(ctx, okell, "", job, Move{To: WaitsCustomer, For: mark("waits")}))
	must(s.AddJobPhoto(ctx, okell, "", job, PhotoEntry{File: jpegOf(64, 48), Caption: mark("caption")}))
	made, err := sim.Reports(j.Chassis, j.Machine, sim.Faults{})
	must(err)
	must(only(s.AddReading(ctx, okell, "", key,
		[]Report{{mark("report") + ".txt", made[0].Data}, {mark("noreport"), []byte("x")}}, false)))
	must(s.TakeDraw(ctx, okell, "", key, Measured{Mean: hw.DecOf(9), Seconds: 90, Profile: mark("draw")}))
	must(only(s.KeepUpload(ctx, []byte(mark("upload")))))
	own := module(mark("own-part"), 16, 0)
	own.Part.Source, own.Machine, own.Note = hw.OriginCustomer, key, mark("own-note")
	part := only2(s.AddPart(ctx, okell, "", own,
		Moving{Kind: Brought, N: 1, Serials: []string{serial("own")}, Note: mark("brought")}))
	must(s.MovePart(ctx, okell, "",
		Moving{Part: part, Kind: Returned, N: 1, Note: mark("returned"), Serials: []string{"zzserial-own"}}))
	must(s.FindIt(ctx, okell, "", Find{Kind: hw.KindBattery, Wanted: "QB-760", Gives: mark("gives"),
		Doubt: mark("doubt"), Machine: key}))
	return customer, key, words, serials
}

// TestForgotten: of a person who asked to be forgotten no byte is left in the data file, wherever
// it stood; what was found of the machine is.
func TestForgotten(t *testing.T) {
	dir := t.TempDir()
	s := workshopIn(t, dir)
	customer, key, words, serials := planted(t, s)
	left := func(marks []string) (out []string) {
		bytesNow := raw(t, dir)
		for _, m := range marks {
			if bytes.Contains(bytesNow, []byte(m)) {
				out = append(out, m)
			}
		}
		return out
	}
	if all := slices.Concat(words, serials); len(left(all)) != len(all) {
		t.Fatalf("of %d marks planted only these are there: %v", len(all), left(all))
	}
	if err := s.ForgetCustomer(t.Context(), okell, customer, false); err != nil {
		t.Fatal(err)
	}
	if found := left(words); found != nil {
		t.Errorf("left in the file: %v", found)
	}
	if found := left(serials); len(found) != len(serials) {
		t.Errorf("of the serials, which were not asked for, only these are left: %v", found)
	}
	if err := s.ForgetCustomer(t.Context(), okell, customer, true); err != nil {
		t.Fatal(err)
	}
	if found := left(slices.Concat(words, serials)); found != nil {
		t.Errorf("left in the file: %v", found)
	}
	r, err := s.Machine(t.Context(), key)
	if err != nil || len(r.Machine.Fitted.Memory) != 1 || r.Machine.Usage.DrawW != dec(9) {
		t.Errorf("what was found of the machine is gone: %+v %v", r.Machine, err)
	}
	if found, err := s.Check(t.Context()); err != nil || found != nil {
		t.Errorf("the data is spoilt: %v %v", found, err)
	}
}

// TestChangesHands: a machine that another customer brings has its technical history with it, and
// nothing that the first one said.
func TestChangesHands(t *testing.T) {
	s := workshop(t)
	_, key, words, _ := planted(t, s)
	r, err := s.Machine(t.Context(), key)
	if err != nil {
		t.Fatal(err)
	}
	first := r.JobID
	in := intake("Next Owner")
	in.Machine, in.Known, in.KnownVer, in.Another = r.Machine, true, r.MachineVer, true
	in.Machine.Usage.RuntimeProfile = "office"
	second, err := s.TakeIn(t.Context(), okell, "", in)
	if err != nil {
		t.Fatal(err)
	}
	h, err := s.MachineHistory(t.Context(), key)
	if err != nil {
		t.Fatal(err)
	}
	told := []string{h.Record.Complaint, h.Record.Contact, h.Record.Customer, h.Record.Machine.ID}
	for _, c := range h.Record.History {
		told = append(told, c.What)
	}
	for _, j := range h.Jobs {
		told = append(told, j.Complaint, j.Contact, j.Details.Use, j.State.For)
	}
	next, err := s.Job(t.Context(), second)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range next.History {
		told = append(told, c.What)
	}
	for _, m := range words {
		if strings.Contains(strings.Join(told, "\n"), m) {
			t.Errorf("the next owner is told %q: %q", m, told)
		}
	}
	if len(h.Jobs) != 2 || len(h.Readings) != 1 || !strings.HasPrefix(h.Record.Machine.ID, "next-owner") {
		t.Errorf("the machine lost its history: %+v", h)
	}
	// The first owner's job is still theirs.
	if j, err := s.Job(t.Context(), first); err != nil || j.Customer != "zzmark-newname" || j.Complaint == "" {
		t.Errorf("%+v %v", j.MachineRecord, err)
	}
}
