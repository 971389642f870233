package shop_test

import (
	"bytes"
	"errors"
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"

	"yembo/core/hw"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/store"
)

// planned is where a job stands in the week that is being arranged, and in the one that all see.
func planned(t *testing.T, week func() ([]jobs.BenchRow, error), job int64) jobs.BenchRow {
	t.Helper()
	rows, err := week()
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range rows {
		if r.JobID == job {
			return r
		}
	}
	t.Fatalf("job %d is not planned", job)
	return jobs.BenchRow{}
}

// TestMoves: what a hand moves stands there and is seen by others once it is shown; nobody writes over what another has moved
// since; it is taken back and done again; what cannot stand is refused at its field, and nothing is kept.
func TestMoves(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	job := jobOfMachine(t, s, "corrie-02").JobID
	draft := func() ([]jobs.BenchRow, error) { w, err := s.Week(ctx); return w.Rows, err }
	all := func() ([]jobs.BenchRow, error) { return s.BenchList(ctx) }
	before := planned(t, all, job)
	at := time.Date(2026, 5, 15, 10, 0, 0, 0, s.Now().Location())
	pin := func(bench int, at time.Time) *jobs.Pin { return &jobs.Pin{Bench: bench, Start: at} }
	for name, c := range map[string]struct {
		to    *jobs.Pin
		field string
		says  string
	}{
		"a bench there is not": {pin(3, at), "/bench", "bench 1 to 2"}, "the past": {pin(1, s.Now().Add(-time.Hour)), "/start", "past"},
		"a Sunday":      {pin(1, time.Date(2026, 5, 17, 11, 0, 0, 0, at.Location())), "/start", "does not fit"},
		"years away":    {pin(1, at.AddDate(3, 0, 0)), "/start", "a year at most"},
		"a stranger":    {&jobs.Pin{Bench: 1, Start: at, Person: "X"}, "/person", "R. Okell"},
		"what runs":     {pin(1, s.Now()), "/start", "no room"},
		"the last hour": {pin(1, time.Date(2026, 5, 15, 17, 58, 0, 0, at.Location())), "/start", "does not fit"},
	} {
		var faults hw.Faults
		err := s.MoveTo(ctx, okell, "", job, 0, c.to)
		if !errors.As(err, &faults) || faults[0].Pointer != c.field || !strings.Contains(faults[0].Text, c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if err := s.MoveTo(ctx, okell, "twice", job, 0, pin(2, at)); err != nil {
		t.Fatal(err)
	}
	if err := s.MoveTo(ctx, okell, "twice", job, 0, pin(2, at)); err != nil {
		t.Errorf("the same press again: %v", err)
	}
	if r := planned(t, draft, job); r.Bench != 2 || !r.Start.Equal(at) {
		t.Errorf("it stands on bench %d, %v", r.Bench, r.Start)
	}
	if r := planned(t, all, job); !r.Start.Equal(before.Start) {
		t.Errorf("before it is shown all see it at %v", r.Start)
	}
	if err := s.ShowWeek(ctx, okell, ""); err != nil {
		t.Fatal(err)
	}
	if r := planned(t, all, job); r.Bench != 2 || !r.Start.Equal(at) {
		t.Errorf("when it is shown all see it on bench %d, %v", r.Bench, r.Start)
	}
	// Another has not seen that move, then makes one of their own: the first cannot take back over it.
	var moved jobs.ErrMoved
	err := s.MoveTo(ctx, ansty, "", job, 0, pin(1, at))
	if !errors.As(err, &moved) || !strings.Contains(moved.Says, "R. Okell has put it") {
		t.Errorf("over what another moved: %v", err)
	}
	w, err := s.Week(ctx)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.MoveTo(ctx, ansty, "", job, w.LastMove(job), pin(1, at.Add(time.Hour))); err != nil {
		t.Fatal(err)
	}
	if err := s.UndoMove(ctx, okell, "", false); !errors.As(err, &moved) || !strings.Contains(moved.Says, "T. Ansty has put it") {
		t.Errorf("taking back over another: %v", err)
	}
	for _, c := range []struct {
		again bool
		bench int
	}{{false, 2}, {true, 1}, {false, 2}} {
		if err := s.UndoMove(ctx, ansty, "", c.again); err != nil {
			t.Fatal(err)
		}
		if r := planned(t, draft, job); r.Bench != c.bench {
			t.Errorf("taken back (again: %v) it stands on bench %d", c.again, r.Bench)
		}
	}
	// A bench that is taken away leaves no job without a place, and says so.
	if err := setSettings(ctx, s, func(how *base.Settings) { how.Floor.Benches = 1 }); err != nil {
		t.Fatal(err)
	}
	w, err = s.Week(ctx)
	if err != nil {
		t.Fatal(err)
	}
	if r := planned(t, draft, job); r.Plan == nil || r.Bench != 1 {
		t.Errorf("without its bench it stands on %d; refused: %v", r.Bench, w.Refused)
	}
}

// TestRung: a talk and what was agreed in it are written in one press, once, over what was seen alone.
func TestRung(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	talk := jobs.Contact{Who: "reception", How: "phone", Said: "that will do"}
	early := time.Date(2026, 5, 15, 12, 0, 0, 0, s.Now().Location()) // its pack comes on the 21st
	first := jobOfMachine(t, s, "tarn-vet-04")
	if err := s.PromiseAnew(ctx, okell, "", first.JobID, first.Record.Promised, early, talk); err != nil {
		t.Fatal(err)
	}
	r := jobOfMachine(t, s, "tarn-vet-04")
	if r.Stands != week.Broken || r.Honest.IsZero() {
		t.Fatalf("it is not broken: %q", r.Stands)
	}
	ring := func(token string, seen, at time.Time) error {
		return s.PromiseAnew(ctx, okell, token, r.JobID, seen, at, talk)
	}
	was := r.Record.Promised.Truncate(time.Minute)
	if err := ring("", was.Add(time.Hour), r.Honest); !errors.Is(err, base.ErrChanged) {
		t.Errorf("over another promise: %v", err)
	}
	if err := ring("", was, s.Now().Add(-time.Hour)); err == nil || !strings.Contains(err.Error(), "past") {
		t.Errorf("a promise that is past: %v", err)
	}
	for range 2 {
		if err := ring("once", was, r.Honest); err != nil {
			t.Fatal(err)
		}
	}
	j, err := s.Job(ctx, r.JobID)
	if err != nil {
		t.Fatal(err)
	}
	if !j.Promised.Equal(r.Honest) || len(j.Contacts) == 0 || !strings.Contains(j.Contacts[0].Agreed, base.TimeWords(r.Honest)) {
		t.Errorf("promised for %v, talks %+v", j.Promised, j.Contacts)
	}
	if after := jobOfMachine(t, s, "tarn-vet-04"); after.Stands == week.Broken || after.Class != r.Class {
		t.Errorf("now it is %q, class %d", after.Stands, after.Class)
	}
}

// TestShownStays: what begins soon stays where it was shown, also where it could begin earlier; later it is planned freely. Who
// works alone has a calendar that nobody has to show.
func TestShownStays(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	job := jobOfMachine(t, s, "corrie-02").JobID
	all := func() ([]jobs.BenchRow, error) { return s.BenchList(ctx) }
	free := planned(t, all, job)
	for hours, stays := range map[int]bool{1: true, 3: false} {
		w, err := s.Week(ctx)
		if err != nil {
			t.Fatal(err)
		}
		at := s.Now().Add(time.Duration(hours) * time.Hour)
		if err := s.MoveTo(ctx, okell, "", job, w.LastMove(job), &jobs.Pin{Bench: 2, Start: at}); err != nil {
			t.Fatal(err)
		}
		if err := s.ShowWeek(ctx, okell, ""); err != nil {
			t.Fatal(err)
		}
		if err := s.UndoMove(ctx, okell, "", false); err != nil {
			t.Fatal(err)
		}
		w, err = s.Week(ctx)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range w.Rows {
			if r.JobID == job && r.Start.Equal(at) != stays {
				t.Errorf("shown in %d h and let go it is planned for %v, freely for %v", hours, r.Start, free.Start)
			}
		}
	}
	if err := setSettings(ctx, s, func(how *base.Settings) { how.Technicians = []string{"R. Okell"} }); err != nil {
		t.Fatal(err)
	}
	key, err := s.NewFeed(ctx, okell, true)
	if err != nil {
		t.Fatal(err)
	}
	raw, err := s.ReadFeed(ctx, key)
	if err != nil || !strings.Contains(string(raw), "corrie-02") {
		t.Errorf("alone the calendar has %s, %v", raw, err)
	}
}

// TestFeed: a calendar has what was shown, read back by the library that reads calendars; a change counts one more, what is gone
// is cancelled; without rights it says nothing but what is taken; the address before it is dead.
func TestFeed(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	job := jobOfMachine(t, s, "corrie-02").JobID
	if err := setSettings(ctx, s, func(how *base.Settings) {
		how.Closed = []base.Spell{{From: "2026-05-25", To: "2026-05-25", Why: "a wedding"}}
	}); err != nil {
		t.Fatal(err)
	}
	old, err := s.NewFeed(ctx, okell, true)
	if err != nil {
		t.Fatal(err)
	}
	full, err := s.NewFeed(ctx, okell, true)
	if err != nil {
		t.Fatal(err)
	}
	plain, err := s.NewFeed(ctx, ansty, false)
	if err != nil {
		t.Fatal(err)
	}
	read := func(key string) (map[string]*ics.VEvent, string) {
		t.Helper()
		raw, err := s.ReadFeed(ctx, key)
		if err != nil {
			t.Fatal(err)
		}
		cal, err := ics.ParseCalendar(bytes.NewReader(raw))
		if err != nil {
			t.Fatal(err)
		}
		out := map[string]*ics.VEvent{}
		for _, e := range cal.Events() {
			out[e.Id()] = e
		}
		return out, string(raw)
	}
	of := func(e *ics.VEvent, p ics.ComponentProperty) string {
		if x := e.GetProperty(p); x != nil {
			return x.Value
		}
		return ""
	}
	for _, key := range []string{old, "", strings.ToUpper(full)} {
		if _, err := s.ReadFeed(ctx, key); !errors.Is(err, store.ErrNotFound) {
			t.Errorf("the address %q: %v", key, err)
		}
	}
	show := func() {
		t.Helper()
		if err := s.ShowWeek(ctx, okell, ""); err != nil {
			t.Fatal(err)
		}
	}
	show()
	events, text := read(full)
	var e *ics.VEvent
	for _, x := range events {
		if strings.Contains(of(x, ics.ComponentPropertySummary), "corrie-02") {
			e = x
		}
	}
	if e == nil {
		t.Fatalf("corrie-02 is not in it: %s", text)
	}
	start, err := e.GetStartAt()
	r := jobOfMachine(t, s, "corrie-02")
	if err != nil || !start.Equal(r.Start) || of(e, ics.ComponentPropertyClass) != "PRIVATE" ||
		of(e, ics.ComponentPropertySequence) != "0" || of(e, ics.ComponentPropertyStatus) != "CONFIRMED" ||
		!strings.HasPrefix(of(e, ics.ComponentPropertyLocation), "Bench ") ||
		!strings.HasSuffix(of(e, ics.ComponentPropertyDtStart), "Z") {
		t.Errorf("its time is %v (%v): %s", start, r.Start, text)
	}
	if !strings.Contains(text, "DTSTART;VALUE=DATE:20260525") || strings.Contains(text, "wedding") {
		t.Error("the closed day is not a day of it, or says why")
	}
	none, bare := read(plain)
	if len(none) != len(events) || strings.Contains(bare, "corrie") || strings.Contains(bare, "YB-") || strings.Contains(bare,
		e.Id()) || !strings.Contains(bare, "SUMMARY:taken") {
		t.Errorf("without rights: %s", bare)
	}
	for _, secret := range []string{"Corrie School", "reception", "015 550", "battery swollen"} {
		if strings.Contains(text+bare, secret) {
			t.Errorf("it tells %q", secret)
		}
	}
	// Moved it counts one more, shown again without a change it does not; closed it is cancelled, by the same name.
	if err := s.MoveTo(ctx, okell, "", job, 0, &jobs.Pin{Bench: 2, Start: r.Start.AddDate(0, 0, 4)}); err != nil {
		t.Fatal(err)
	}
	if now, _ := read(full); of(now[e.Id()], ics.ComponentPropertySequence) != "0" {
		t.Error("it tells what was not shown")
	}
	show()
	show()
	if now, _ := read(full); of(now[e.Id()], ics.ComponentPropertySequence) != "1" {
		t.Errorf("moved it has the sequence %s", of(now[e.Id()], ics.ComponentPropertySequence))
	}
	if err := s.MoveJob(ctx, okell, "", job, jobs.Move{To: "close", Seen: r.Record.Mark()}); err != nil {
		t.Fatal(err)
	}
	show()
	if now, _ := read(full); of(now[e.Id()], ics.ComponentPropertyStatus) != "CANCELLED" || of(now[e.Id()],
		ics.ComponentPropertySequence) != "2" {
		t.Errorf("gone it is %+v", now[e.Id()])
	}
}
