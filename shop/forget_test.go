package shop_test

import (
	"bytes"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"yembo/shop"

	"yembo/core/hw"
	"yembo/core/run"
	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/shop/stock"
	"yembo/shop/work"
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
func planted(t *testing.T, s *shop.Shop) (customer int64, key string, words, serials []string) {
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
	in.Details = jobs.Details{Use: mark("use"), Account: mark("account"), Told: mark("told"),
		Accessories: []string{mark("bag")},
		Condition:   jobs.Condition{Looked: true, Note: mark("condition")}}
	job, err := s.TakeIn(ctx, okell, "", in)
	must(err)
	j, err := s.Job(ctx, job)
	must(err)
	key, customer = j.Key, j.CustomerID
	other, err := s.CustomerNamed(ctx, "zzmark-merged")
	must(err)
	must(s.MergeCustomers(ctx, okell, other.ID, customer))
	must(s.SaveCustomer(ctx, okell, jobs.Customer{ID: customer, Name: "zzmark-name", Contact: "zzmark-contact"},
		mark("newname"),
		mark("newcontact")))
	must(s.ChangeTag(ctx, okell, "", key, "zzmark-name-01", mark("tag")))
	must(s.AddContact(ctx, okell, "", job,
		jobs.Contact{How: "phone", Who: mark("who"), Said: mark("said"), Agreed: mark("agreed")}, nil))
	must(s.Sign(ctx, okell, "", job, "", "M1 2 L3 4", mark("signed")))
	must(s.MoveJob(ctx, okell, "", job, jobs.Move{To: jobs.WaitsCustomer, For: mark("waits")}))
	must(s.AddJobPhoto(ctx, okell, "", job, records.PhotoEntry{File: jpegOf(64, 48), Caption: mark("caption")}))
	made, err := sim.Reports(j.Chassis, j.Machine, sim.Faults{})
	must(err)
	must(only(s.AddReading(ctx, okell, "", key,
		[]jobs.Report{{Name: mark("report") + ".txt", Data: made[0].Data}, {Name: mark("noreport"), Data: []byte("x")}}, false)))
	must(s.TakeDraw(ctx, okell, "", key, jobs.Measured{Mean: hw.DecOf(9), Seconds: 90, Profile: mark("draw")}))
	must(only(s.KeepUpload(ctx, []byte(mark("upload")))))
	own := module(mark("own-part"), 16, 0)
	own.Part.Source, own.Machine, own.Note = hw.OriginCustomer, key, mark("own-note")
	part := only2(s.AddPart(ctx, okell, "", own,
		stock.Moving{Kind: stock.Brought, N: 1, Serials: []string{serial("own")}, Note: mark("brought")}))
	must(s.MovePart(ctx, okell, "",
		stock.Moving{Part: part, Kind: stock.Returned, N: 1, Note: mark("returned"), Serials: []string{"zzserial-own"}}))
	must(s.FindIt(ctx, okell, "", stock.Find{Kind: hw.KindBattery, Wanted: mark("wanted"), Gives: mark("gives"),
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

// TestEveryTextClassified: each column of the data file in which text can stand is told to be a person's,
// the law's, the shop's or no text; a column that nobody classified fails here.
func TestEveryTextClassified(t *testing.T) {
	s := workshop(t)
	said := map[string]bool{}
	for _, c := range store.Columns {
		said[c.Table+"."+c.Name] = true
		switch c.Whose {
		case store.OfPerson, store.OfLaw, store.OfShop, store.NoText:
		default:
			t.Errorf("%s.%s is %q", c.Table, c.Name, c.Whose)
		}
	}
	err := s.Store.View(t.Context(), func(tx store.Tx) error {
		all, err := tx.TextColumns()
		if len(all) < 100 {
			t.Errorf("only %d columns were looked at", len(all))
		}
		for _, name := range all {
			if !said[name] {
				t.Errorf("nobody said whose the text in %s is: add it to store.Columns", name)
			}
			delete(said, name)
		}
		for name := range said {
			t.Errorf("store.Columns has %s, which is no column of text", name)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

// TestForgottenWalk: a mark in every column that is a person's is told to who asks what is held, and is gone
// afterwards from the bytes of the file, whatever the column; a quote, a run and an order among them. What
// the books need stays. Ended between the removal and the writing over, the next start does the rest.
func TestForgottenWalk(t *testing.T) {
	dir := t.TempDir()
	b := &bencher{t: t, s: workshopIn(t, dir), now: morning, serial: "zzserial-in"}
	b.s.Clock = func() time.Time { return b.now }
	ctx := t.Context()
	customer, key, words, serials := planted(t, b.s)
	machine, err := b.s.Machine(ctx, key)
	if err != nil {
		t.Fatal(err)
	}
	b.job = machine.JobID
	mark := func(name string) string {
		words = append(words, "zzmark-"+name)
		return "zzmark-" + name
	}
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	wish := machine.Wish
	wish.Goals.MemoryGB = hw.Known(hw.DecOf(24))
	must(b.s.KeepWish(ctx, okell, "", key, "", wish))
	p, err := b.s.Plan(ctx, key, jobs.PlanQuery{})
	must(err)
	if len(p.Plan.Options) == 0 {
		t.Fatalf("%s: %+v", p.Plan.Verdict, p.Plan.Unmet)
	}
	id, err := b.s.Offer(ctx, okell, "", key, []string{jobs.Fingerprint(p.Plan.Options[0])}, jobs.PlanQuery{})
	must(err)
	q := quoteOf(t, b.s, id)
	e := editOf(&q)
	e.Told, e.Found, e.Risk, e.Left = mark("qtold"), mark("qfound"), mark("qrisk"), []string{mark("qleft")}
	e.Names, e.Data, e.Ready = map[string]string{
		"A": mark("qname"),
	}, map[string]string{
		"A": mark("qdata"),
	}, map[string]string{
		"A": mark("qready"),
	}
	e.Discount, e.DiscountText = 100, mark("qdiscount")
	id, err = b.s.EditQuote(ctx, okell, "", q.ID, q.Revision, e)
	must(err)
	q = quoteOf(t, b.s, id)
	ans := yes(&q)
	ans.Who, ans.Said = mark("qwho"), mark("qsaid")
	must(b.s.AnswerQuote(ctx, okell, "", id, q.Revision, ans))
	supplier, err := b.s.Suppliers(ctx)
	must(err)
	buy := q.Doc.Alternatives[0].Option.Buy[0]
	must(only(b.s.PlaceOrder(ctx, okell, "", supplier[0].ID, []stock.Wanted{{Part: buy.Part, N: 1}},
		stock.Delivery{Note: mark("order")})))
	must(b.s.BeginRun(ctx, okell, "", b.job, work.Begin{Bench: 2, Why: mark("begun")}))
	b.say(run.Noted, "", run.Data{Text: mark("noted")})
	must(only(b.s.MakeInvoice(ctx, okell, "", b.job, nil)))
	must(b.s.Pay(ctx, okell, "", b.job, 1, 100, "card", "zzbooks-note"))

	must(b.s.MoveJob(ctx, okell, "", b.job, jobs.Move{To: jobs.WaitsCustomer, For: mark("waits-again")}))

	known, err := b.s.Known(ctx, customer, true)
	must(err)
	told, err := json.Marshal(known)
	must(err)
	for _, m := range words {
		if m != "zzmark-upload" && !bytes.Contains(told, []byte(m)) {
			t.Errorf("who asks is not known of %s", m)
		}
	}
	must(b.s.Store.View(ctx, func(tx store.Tx) error {
		held, err := tx.HeldTexts(customer, true)
		seen := map[string]bool{}
		for _, x := range held {
			if strings.Contains(x.Text, "zz") {
				seen[x.Where] = true
			}
		}
		for _, c := range store.Columns {
			name := c.Table + "." + c.Name
			// Proofs and finds have tests of their own, pictures hold no marks.
			if c.Whose == store.OfPerson && !seen[name] &&
				!slices.Contains([]string{"proofs.doc", "photos.full", "photos.thumb", "parts.order_no", "machines.tag"}, name) {
				t.Errorf("the test plants nothing in %s: what is a person's there may be left", name)
			}
		}
		return err
	}))

	// The program ends between the removal and the writing over: the bytes are there, and go at the next start.
	must(b.s.ForgetRecords(ctx, okell, customer, true))
	if !bytes.Contains(raw(t, dir), []byte("zzmark-begun")) {
		t.Fatal("the bytes are gone before they were written over: the case shows nothing")
	}
	b.s.FinishScrub(ctx)
	books := ""
	must(b.s.Store.View(ctx, func(tx store.Tx) error {
		kept, err := tx.HeldTexts(customer, true)
		for _, x := range kept {
			if strings.HasPrefix(x.Where, "invoices.") || strings.HasPrefix(x.Where, "payments.") {
				books += strings.ToLower(x.Text)
			}
		}
		return err
	}))
	left := raw(t, dir)
	for _, m := range slices.Concat(words, serials) {
		if n := bytes.Count(left, []byte(m)); n > strings.Count(books, m) {
			t.Errorf("left in the file beside the books: %s, %d times", m, n)
		}
	}
	if !bytes.Contains(left, []byte("zzbooks-note")) {
		t.Error("what the books need is gone")
	}
	if found, err := b.s.Check(ctx); err != nil || found != nil {
		t.Errorf("the data is spoilt: %v %v", found, err)
	}
}
