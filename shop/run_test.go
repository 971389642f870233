package shop_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"yembo/shop"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/run"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/work"
	"yembo/store"
)

// bencher works on a job: its clock goes on by hand.
type bencher struct {
	t      *testing.T
	s      *shop.Shop
	job    int64
	now    time.Time
	n      int
	serial string // of what goes in, "" for none
}

// atBench begins a run of a demo machine's job.
func atBench(t *testing.T, machine string) *bencher {
	t.Helper()
	s := workshop(t)
	b := &bencher{t: t, s: s, job: jobOfMachine(t, s, machine).Record.JobID, now: morning}
	s.Clock = func() time.Time { return b.now }
	b.begin()
	return b
}

func (b *bencher) begin() {
	b.t.Helper()
	if err := b.s.BeginRun(b.t.Context(), okell, "", b.job, work.Begin{Bench: 2, Why: "tried"}); err != nil {
		b.t.Fatal(err)
	}
}

// say lets a minute pass and sends one event; it returns why it was refused.
func (b *bencher) say(kind run.EventKind, step string, d run.Data) string {
	b.t.Helper()
	b.n++
	b.now = b.now.Add(time.Minute)
	refused, err := b.s.RunEvents(
		b.t.Context(),
		okell,
		b.job,
		[]work.SentEvent{{Client: fmt.Sprintf("c%d", b.n), Kind: kind, Step: step, Data: d}},
	)
	if err != nil {
		b.t.Fatal(err)
	}
	if len(refused) > 0 {
		return strings.Join(refused[0].Says, "; ")
	}
	return ""
}

func (b *bencher) run() work.Run {
	b.t.Helper()
	r, err := b.s.Run(b.t.Context(), b.job)
	if err != nil {
		b.t.Fatal(err)
	}
	return r
}

// through ticks every step that is left, as the record has it.
func (b *bencher) through() {
	b.t.Helper()
	for {
		r := b.run()
		if r.State.Next >= len(r.State.Plan.Steps) {
			return
		}
		st := r.State.Plan.Steps[r.State.Next]
		d := run.Data{Read: true, Back: map[string]int{}}
		if st.Kind == run.Fit {
			d.In = b.serial
		}
		for _, on := range r.State.Tray {
			if on.Step == "down:"+st.ID {
				d.Back[on.Group] = on.Count
			}
		}
		if says := b.say(run.Ticked, st.Key, d); says != "" {
			b.t.Fatalf("%s: %s", st.Key, says)
		}
	}
}

// TestBeginRun: what is missing stops the start and is named; the same form twice begins one run; a
// run that is under way is gone on with.
func TestBeginRun(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	job := jobOfMachine(t, s, "wath-05").Record.JobID
	if _, err := s.Run(ctx, job); !errors.Is(err, work.ErrNoRun) {
		t.Errorf("a job nobody began: %v", err)
	}
	err := s.BeginRun(ctx, okell, "a", job, work.Begin{Bench: 2, Here: []string{"bit:PH0"}})
	if err == nil || !strings.Contains(err.Error(), "plastic pick") || strings.Contains(err.Error(), "PH0") {
		t.Errorf("it begins without a pick: %v", err)
	}
	look, err := s.LookAtStart(ctx, job)
	if err != nil || look.Screws != 10 {
		t.Errorf("%d loose screws, %v", look.Screws, err)
	}
	var here []string
	for _, n := range look.Needs {
		here = append(here, n.ID)
	}
	for range 2 {
		if err := s.BeginRun(ctx, okell, "b", job, work.Begin{Bench: 2, Here: here}); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.BeginRun(ctx, okell, "c", job, work.Begin{Bench: 2, Here: here}); err != nil {
		t.Errorf("going on: %v", err)
	}
	if row := jobOfMachine(t, s, "wath-05"); row.Class != jobs.ClassRunning || row.Bench != 2 {
		t.Errorf("after the start it is %d on bench %d", row.Class, row.Bench)
	}
	danger := jobOfMachine(t, s, "i-brandreth-01").Record.JobID
	if err := s.BeginRun(ctx, okell, "d", danger, work.Begin{Bench: 1, Why: "x"}); !errors.Is(err, base.ErrDanger) {
		t.Errorf("a swollen pack: %v", err)
	}
}

// TestRunEvents: an event is taken once by its client's name; what cannot be is refused, with words,
// and the others of the same sending are taken; the time of an event is how long ago it was, and never
// before the run began.
func TestRunEvents(t *testing.T) {
	b := atBench(t, "wath-05")
	b.now = b.now.Add(10 * time.Minute)
	sent := []work.SentEvent{
		{Client: "one", Kind: run.Ticked, Step: "down:power-off", Ago: 3 * time.Minute},
		{Client: "one", Kind: run.Ticked, Step: "down:power-off"},
		{Client: "two", Kind: run.Ticked, Step: "up:cover", Ago: time.Minute},
		{Client: "", Kind: run.Noted, Data: run.Data{Text: "nameless"}},
		{Client: "three", Kind: "dance"},
		{Client: "four", Kind: run.Noted, Data: run.Data{Text: strings.Repeat("x", base.MaxText+1)}},
		{Client: "five", Kind: run.Noted, Ago: 48 * time.Hour, Data: run.Data{Text: "a clock that jumped"}},
	}
	for range 2 {
		refused, err := b.s.RunEvents(t.Context(), okell, b.job, sent)
		if err != nil || len(refused) != 4 {
			t.Fatalf("%d refused, %v: %v", len(refused), err, refused)
		}
		if refused[0].Client != "two" || !strings.Contains(refused[0].Says[0], "Look at the pack first") {
			t.Errorf("the cover before anything: %v", refused[0])
		}
	}
	r := b.run()
	if len(r.Events) != 2 || !r.Events[0].At.Equal(morning.Add(7*time.Minute)) || !r.Events[1].At.Equal(morning) {
		t.Errorf("%+v", r.Events)
	}
	// One step ticked from two tablets at once is done once, and both are told it is.
	var tablets sync.WaitGroup
	for i := range 8 {
		tablets.Go(func() {
			refused, err := b.s.RunEvents(
				t.Context(),
				base.Actor{Name: fmt.Sprint(i)},
				b.job,
				[]work.SentEvent{{Client: fmt.Sprintf("t%d", i), Kind: run.Ticked, Step: "down:cover-screws"}},
			)
			if err != nil || len(refused) > 0 {
				t.Errorf("tablet %d: %v %v", i, refused, err)
			}
		})
	}
	tablets.Wait()
	if st := b.run().State; len(st.Done) != 2 || st.Tray[0].Count != 10 {
		t.Errorf("done %d, tray %v", len(st.Done), st.Tray)
	}
}

// TestRunTeaches: what the hands find is a finding from the bench at once; what the record cannot have
// is kept as a note, or refused where it is nothing but a fact; the run knows its own changes, and says
// when somebody else changed the record.
func TestRunTeaches(t *testing.T) {
	b := atBench(t, "wath-05")
	ctx := t.Context()
	model := func() *hw.Chassis {
		r, err := b.s.Model(ctx, "pellam-drover-15")
		if err != nil {
			t.Fatal(err)
		}
		return r.Chassis
	}
	b.say(run.Ticked, "down:power-off", run.Data{})
	if says := b.say(run.Differs, "down:cover-screws", run.Data{What: run.OtherCount, Group: model().Fasteners[0].ID,
		N: 11}); says != "" {
		t.Fatal(says)
	}
	f := evidence.Of(model().Findings, "/fasteners/"+model().Fasteners[0].ID+"/count").InForce
	if f == nil || f.Source != hw.Bench || string(f.Value) != "11" || f.By != "R. Okell" {
		t.Errorf("the count that was found: %+v", f)
	}
	if says := b.say(run.Found, "", run.Data{Path: "/slots/m2a/lanes", Value: json.RawMessage("40")}); !strings.Contains(
		says,
		"40",
	) {
		t.Errorf("forty lanes: %q", says)
	}
	if says := b.say(run.Found, "", run.Data{Path: "/slots/m2a/lanes", Value: json.RawMessage("2")}); says != "" {
		t.Errorf("two lanes: %s", says)
	}
	if lanes := model().Slots[0].Lanes.Or(0); lanes != 2 {
		t.Errorf("after a look it has %d lanes", lanes)
	}
	if says := b.say(run.Differs, "down:cover-screws", run.Data{What: run.OtherPlug, Word: "velcro"}); says != "" {
		t.Errorf("a plug that the record does not know is no note: %s", says)
	}
	r := b.run()
	if last := r.Events[len(r.Events)-1]; last.Data.Refused == "" || r.Changed {
		t.Errorf("refused by the record %q, changed by another %v", last.Data.Refused, r.Changed)
	}
	m, _ := b.s.Model(ctx, "pellam-drover-15")
	if err := b.s.AddFinding(ctx, ansty, "", m.Chassis.ID, m.Version, hw.Finding{Path: "/slots/m2a/lanes",
		Value: json.RawMessage("4"), Source: hw.FromReading}); err != nil {
		t.Fatal(err)
	}
	if !b.run().Changed {
		t.Error("someone changed the record, and the run does not say so")
	}
}

// TestDetourInRecord: a step that was put in goes into the record where it was needed, on the way back
// alone where it was needed there alone, and the next run has it.
func TestDetourInRecord(t *testing.T) {
	b := atBench(t, "wath-05")
	b.say(run.Put, "down:battery-plug", run.Data{Verb: hw.Remove, Part: "speaker"})
	both := fmt.Sprintf("c%d", b.n)
	b.say(run.Put, "up:cover", run.Data{Verb: hw.Unplug, Part: "dongle", BackOnly: true})
	back := fmt.Sprintf("c%d", b.n)
	b.say(run.Put, "fit:dimm2", run.Data{Verb: hw.Lift, Part: "foil"})
	fit := fmt.Sprintf("c%d", b.n)
	if says := b.say(run.Put, "down:battery-plug", run.Data{Verb: "dance", Part: "speaker"}); says == "" {
		t.Error("a step that is no work was put in")
	}
	b.through()
	for _, of := range []string{both, back, fit} {
		if says := b.say(run.Offered, "", run.Data{Of: of, Kept: true}); says != "" {
			t.Fatal(says)
		}
	}
	if n := len(b.run().State.Waiting); n != 0 {
		t.Errorf("%d things wait still", n)
	}
	if says := b.say(run.Ended, "", run.Data{}); says != "" {
		t.Fatal(says)
	}
	if err := b.s.Store.View(t.Context(), func(tx store.Tx) error {
		whole, err := tx.RunTimes()
		if len(whole) != 1 || whole[0].Targets != "dimm2" || whole[0].SureMS != b.run().State.Hands.Milliseconds() {
			t.Errorf("of the run that ended %+v is kept", whole)
		}
		return err
	}); err != nil {
		t.Fatal(err)
	}
	if err := b.s.BeginRun(t.Context(), okell, "", b.job, work.Begin{Bench: 2, Why: "once more"}); err != nil {
		t.Fatal(err)
	}
	var keys []string
	for _, st := range b.run().State.Plan.Steps {
		keys = append(keys, st.Key)
	}
	want := "down:power-off down:cover-screws down:cover down:speaker look down:battery-plug down:foil fit:dimm2 " +
		"up:foil up:battery-plug up:speaker up:dongle up:cover up:cover-screws up:power-off"
	if got := strings.Join(keys, " "); got != want {
		t.Errorf("the next run is\n%s\nnot\n%s", got, want)
	}
}

// TestStopAtBench: a pack that is not sound stops the job, and nothing is ticked before it is safe.
func TestStopAtBench(t *testing.T) {
	b := atBench(t, "wath-05")
	b.say(run.Ticked, "down:power-off", run.Data{})
	b.say(run.Stopped, "look", run.Data{Text: "bulges"})
	if row := jobOfMachine(t, b.s, "wath-05"); row.Class != jobs.ClassDanger {
		t.Errorf("after the stop it is %d", row.Class)
	}
	if says := b.say(run.Ticked, "down:cover-screws", run.Data{}); !strings.Contains(says, "made safe") {
		t.Errorf("it goes on: %q", says)
	}
	for _, kind := range []run.EventKind{run.Undone, run.Ended, run.Put, run.Found, run.Offered} {
		if says := b.say(kind, "down:power-off", run.Data{Why: "x", Verb: hw.Lift, Part: "x", Path: "/year",
			Value: json.RawMessage("2020")}); says == "" {
			t.Errorf("%q is taken while the job is stopped", kind)
		}
	}
	events := len(mustJob(t, b.s, b.job).History)
	if says := b.say(run.Stopped, "look", run.Data{Text: "it hisses"}); says != "" || len(mustJob(t, b.s, b.job).History) != events {
		t.Errorf("stopped twice is more than one stop: %q", says)
	}
	err := b.s.MoveJob(t.Context(), okell, "", b.job, jobs.Move{To: jobs.MoveSafe, For: "the pack is out, in the fire box"})
	if err != nil {
		t.Fatal(err)
	}
	if says := b.say(run.Ticked, "down:cover-screws", run.Data{}); says != "" {
		t.Errorf("the job was made safe, and its run does not go on: %s", says)
	}
	j, r := mustJob(t, b.s, b.job), b.run()
	if j.State.Running == nil || j.State.Bench == 0 || r.State.Stopped != j.Danger() {
		t.Errorf("made safe it is on bench %d, its run is stopped by %q", j.State.Bench, r.State.Stopped)
	}
	if !slices.ContainsFunc(
		r.Events,
		func(e work.RunEvent) bool { return e.Kind == run.MadeSafe && strings.Contains(e.Data.Text, "fire box") },
	) {
		t.Error("the run does not tell what was done")
	}
}

// TestLateTicks: what a page that was cut off sends after its run had ended is kept as that run's
// note, whatever it is, and ticks nothing in the run that is under way.
func TestLateTicks(t *testing.T) {
	b := atBench(t, "wath-05")
	first := b.run().ID
	b.say(run.Ticked, "down:power-off", run.Data{})
	if says := b.say(run.Ended, "", run.Data{Why: "called away"}); says != "" {
		t.Fatal(says)
	}
	b.begin()
	second := b.run()
	for n, kind := range work.SentKinds {
		sent := work.SentEvent{Client: fmt.Sprintf("late-%d", n), Run: first, Kind: kind, Step: lookStep, Ago: time.Hour}
		for range 2 { // sent twice it is one
			refused, err := b.s.RunEvents(t.Context(), okell, b.job, []work.SentEvent{sent})
			if err != nil || len(refused) != 1 || !refused[0].Kept || !strings.Contains(refused[0].Says[0], "ended") {
				t.Fatalf("%s: %v, %v", kind, refused, err)
			}
		}
	}
	now := b.run()
	if now.ID != second.ID || len(now.Events) != 0 || len(now.State.Done) != 0 || now.State.Stopped != "" {
		t.Errorf("the run under way has %d events and is stopped by %q", len(now.Events), now.State.Stopped)
	}
	if err := b.s.Store.View(t.Context(), func(tx store.Tx) error {
		kept, err := tx.RunEvents(first, 0)
		if n := len(kept); n != 2+len(work.SentKinds) || kept[n-1].Kind != string(run.Late) {
			t.Errorf("the run that ended has %d events", n)
		}
		return err
	}); err != nil {
		t.Fatal(err)
	}
	other := work.SentEvent{Client: "x", Run: first + 99, Kind: run.Ticked, Step: lookStep}
	if refused, err := b.s.RunEvents(t.Context(), okell, b.job, []work.SentEvent{other}); err != nil || len(refused) != 1 ||
		refused[0].Kept {
		t.Errorf("of a run that is not there: %v, %v", refused, err)
	}
}

const lookStep = "look"

// TestMeasuredTimes: three finished jobs of a model measure a step; their median is taken where the
// settings say so, and a step with a pause in it measures nothing.
func TestMeasuredTimes(t *testing.T) {
	b := atBench(t, "wath-05")
	ctx := t.Context()
	for i, pause := range []time.Duration{0, 2 * time.Minute, 4 * time.Minute, time.Hour} {
		if i > 0 {
			b.begin()
		}
		b.now = b.now.Add(pause)
		b.through()
		if says := b.say(run.Ended, "", run.Data{}); says != "" {
			t.Fatal(says)
		}
	}
	times := b.run().Times
	if m := times["power-off"]; m.N != 3 || m.Median != hw.DecOf(3) || m.Least != hw.DecOf(1) || m.Longest != hw.DecOf(5) {
		t.Errorf("switching off took %+v", m)
	}
	if m := times["cover"]; m.N != 4 || !m.Enough() {
		t.Errorf("the cover took %+v", m)
	}
	if err := setSettings(ctx, b.s, func(s *base.Settings) { s.MeasuredTimes = true }); err != nil {
		t.Fatal(err)
	}
	look, err := b.s.LookAtStart(ctx, b.job)
	if err != nil {
		t.Fatal(err)
	}
	if lasts := look.Plan.Steps[0].Lasts.Shown(); lasts != hw.DecOf(3) {
		t.Errorf("the next run counts %s min for switching off", lasts)
	}
	if hands := mustJob(t, b.s, b.job).Trail.Hands; hands < 40*time.Minute || hands > time.Hour {
		t.Errorf("hands were on it %s", hands)
	}
}

func mustJob(t *testing.T, s *shop.Shop, id int64) jobs.JobRecord {
	t.Helper()
	j, err := s.Job(t.Context(), id)
	if err != nil {
		t.Fatal(err)
	}
	return j
}

// TestRunKeepsItsParts: an option whose part was taken off the list meanwhile is run as it was chosen.
func TestRunKeepsItsParts(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	row := jobOfMachine(t, s, "wath-05")
	part := row.Record.Choice.Option.Buy[0].Part
	if err := s.Store.Update(ctx, func(tx store.Tx) error {
		return tx.Remove(base.KindPart, part, s.Now(),
			"another tablet")
	}); err != nil {
		t.Fatal(err)
	}
	look, err := s.LookAtStart(ctx, row.Record.JobID)
	if err != nil || !strings.Contains(look.Needs[0].Says, "Corvane") {
		t.Errorf("%v, %v", look.Needs, err)
	}
}

// TestForgottenRun: of a customer who asks to be forgotten no word stays in a run, and what was done
// does.
func TestForgottenRun(t *testing.T) {
	b := atBench(t, "wath-05")
	b.say(run.Ticked, "down:power-off", run.Data{})
	b.say(run.Noted, "", run.Data{Text: "Mrs Quick rang"})
	if err := b.s.ForgetCustomer(t.Context(), okell, mustJob(t, b.s, b.job).CustomerID, true); err != nil {
		t.Fatal(err)
	}
	r := b.run()
	if r.Events[1].Data.Text != "" || len(r.State.Done) != 1 {
		t.Errorf("%+v", r.Events)
	}
}
