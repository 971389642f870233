package shop_test

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"
	"time"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/run"
	"yembo/core/shorthand"
	"yembo/shop/jobs"
	"yembo/shop/work"
)

// atFirst begins the run of a machine whose model nobody has opened.
func atFirst(t *testing.T) *bencher {
	t.Helper()
	s := workshop(t)
	ctx := t.Context()
	model := must(s.RecordLines(ctx, okell, "model", "", 0, `model Sundrel "Moss 13" notebook`, shorthand.Source{Name: hw.Bench}))
	in := intake("Ling Foot")
	in.Machine.Chassis = model
	b := &bencher{t: t, s: s, job: must(s.TakeIn(ctx, okell, "in", in)), now: morning}
	s.Clock = func() time.Time { return b.now }
	look, err := s.LookAtStart(ctx, b.job)
	if err != nil || !look.First || len(look.Needs) > 0 {
		t.Fatalf("not a first opening: %+v, %v", look, err)
	}
	b.begin()
	return b
}

// line types a line of a first opening; "" is that it was taken.
func (b *bencher) line(client, text string, took time.Duration, taps ...work.Tap) string {
	b.t.Helper()
	b.now = b.now.Add(time.Minute)
	err := b.s.RecordOpened(b.t.Context(), okell, b.job, work.Opened{Client: client, Line: text, Took: took, Taps: taps})
	var faults hw.Faults
	if err != nil && !errors.As(err, &faults) {
		b.t.Fatal(err)
	}
	if err != nil {
		return err.Error()
	}
	return ""
}

// record is the model as it stands in its record, which has to be that of the run.
func (b *bencher) record() *hw.Chassis {
	b.t.Helper()
	j := mustJob(b.t, b.s, b.job)
	return j.Chassis
}

// TestFirstOpening: what is typed while a machine is opened for the first time is its record: steps with
// their own times, screws where they were tapped, and what was seen behind the last step. A line that
// comes twice counts once, one that cannot be changes nothing.
func TestFirstOpening(t *testing.T) {
	b := atFirst(t)
	at := func(x, y, group int) work.Tap { return work.Tap{X: hw.DecOf(x), Y: hw.DecOf(y), Group: group} }
	for _, c := range []struct {
		client, line string
		took         time.Duration
		taps         []work.Tap
		says         string
	}{
		{"a", "power-down", 30 * time.Second, nil, ""},
		{"b", "model 314x221", 0, nil, ""},
		{"c", "unscrew cover 3xPH0x5 1xPH0x8", 90 * time.Second, []work.Tap{at(10, 10, 0), at(300, 10, 0), at(10, 200, 0), at(300,
			200, 1)}, ""},
		{"c", "unscrew cover 3xPH0x5 1xPH0x8", 90 * time.Second, nil, ""},
		{"d", "lift cover 3min", 90 * time.Second, nil, ""},
		{"e", "m2a 2280* nvme keyM", 0, nil, ""},
		{"f", "bat 52.5wh", 0, nil, ""},
		{"g", "m2a 9999* nvme", 0, nil, "9999"},
		{"h", "unplug battery iso", 20 * time.Second, nil, ""},
		{"i", "unscrew fan 2xPH0x4", 40 * time.Second, []work.Tap{at(50, 50, 0), at(60, 50, 0), at(70, 50, 0)}, ""},
	} {
		if got := b.line(c.client, c.line, c.took, c.taps...); c.says == "" && got != "" || !strings.Contains(got, c.says) {
			t.Fatalf("%s: %q, not %q", c.line, got, c.says)
		}
	}
	ch := b.record()
	minutes := map[string]string{}
	for i := range ch.Steps {
		if m, known := ch.Steps[i].Minutes.Get(); known {
			minutes[string(ch.Steps[i].Verb)+" "+ch.Steps[i].Part] = m.String()
		}
	}
	for step, want := range map[string]string{"unscrew cover": "1.5", "lift cover": "3"} {
		if minutes[step] != want {
			t.Errorf("%s took %q min, not %s: %v", step, minutes[step], want, minutes)
		}
	}
	if len(ch.Steps) != 5 {
		t.Errorf("%d steps are recorded", len(ch.Steps))
	}
	cover := ""
	for i := range ch.Steps {
		if ch.Steps[i].Verb == hw.Lift {
			cover = ch.Steps[i].ID
		}
	}
	if ch.Slots[0].Reach != cover || ch.BatteryReach != cover {
		t.Errorf("what was seen under %q lies behind %q and %q", cover, ch.Slots[0].Reach, ch.BatteryReach)
	}
	tapped := map[string]int{}
	for i := range ch.Fasteners {
		tapped[ch.Fasteners[i].ID] = len(ch.Fasteners[i].At)
	}
	for i := range ch.Steps {
		for k, l := range ch.Steps[i].Fasteners {
			want := map[string][]int{"cover": {3, 1}, "fan": {0}}[ch.Steps[i].Part]
			if tapped[l.Group] != want[k] {
				t.Errorf(
					"%s, group %d: %d holes, not %d: more taps than screws say nothing of either",
					ch.Steps[i].Part,
					k,
					tapped[l.Group],
					want[k],
				)
			}
		}
	}
	if f := evidence.Of(ch.Findings, "/slots/m2a/reach"); f.InForce == nil || f.InForce.Source != hw.Bench {
		t.Errorf("the way to m2a has no source: %+v", f)
	}
	ticks := 0
	for _, e := range b.run().Events {
		if e.Kind == run.Ticked {
			ticks++
		}
	}
	if ticks != len(ch.Steps) {
		t.Errorf("%d ticks for %d steps", ticks, len(ch.Steps))
	}
}

// TestFirstOpeningTakenBack: the last step goes out of the record with the screws that it alone turns, and
// what lay behind it has no way any more; what others rest on stays.
func TestFirstOpeningTakenBack(t *testing.T) {
	b := atFirst(t)
	ctx := t.Context()
	var faults hw.Faults
	for name, act := range map[string]func() error{
		"nothing to take back": func() error { return b.s.UndoOpened(ctx, okell, b.job, "u0") },
		"nothing to turn from": func() error { return b.s.TurnBack(ctx, okell, "t0", b.job) },
	} {
		if err := act(); !errors.As(err, &faults) || !strings.Contains(err.Error(), "no step is recorded yet") {
			t.Errorf("%s: %v", name, err)
		}
	}
	if says := b.line("a", "power-down", 0); says != "" {
		t.Fatal(says)
	}
	before, _ := json.Marshal(b.record().Steps)
	for _, line := range []string{"unscrew cover 4xPH0x5", "m2a 2280* nvme keyM", "bat 52.5wh"} {
		if says := b.line(line, line, 0); says != "" {
			t.Fatal(says)
		}
	}
	for range 2 { // pressed twice is taken back once
		if err := b.s.UndoOpened(ctx, okell, b.job, "u1"); err != nil {
			t.Fatal(err)
		}
	}
	ch := b.record()
	if after, _ := json.Marshal(ch.Steps); string(after) != string(before) {
		t.Errorf("the steps are %s, not %s", after, before)
	}
	if len(ch.Fasteners) != 0 || len(ch.Slots) != 1 || ch.Slots[0].Reach != "" || ch.BatteryReach != "" {
		t.Errorf("screws %v, the slot lies behind %q, the pack behind %q", ch.Fasteners, ch.Slots[0].Reach, ch.BatteryReach)
	}
	if says := b.line("again", "lift cover", 0); says != "" {
		t.Fatal(says)
	}
	if err := b.s.TurnBack(ctx, okell, "t1", b.job); err != nil {
		t.Fatal(err)
	}
	if says := b.line("late", "lift board", 0); !strings.Contains(says, "recorded already") {
		t.Errorf("after the turn a step is recorded: %q", says)
	}
	up := 0
	for _, st := range b.run().State.Plan.Steps {
		if st.Kind == run.Up {
			up++
		}
	}
	if up != len(b.record().Steps) {
		t.Errorf("%d steps back of %d", up, len(b.record().Steps))
	}
}

// TestFirstOpeningStopped: while the job is stopped nothing is recorded, undone or turned; made safe, it
// goes on where it was.
func TestFirstOpeningStopped(t *testing.T) {
	b := atFirst(t)
	ctx := t.Context()
	if says := b.line("a", "power-down", 0); says != "" {
		t.Fatal(says)
	}
	if says := b.say(run.Stopped, "", run.Data{Text: "it bulges"}); says != "" {
		t.Fatal(says)
	}
	steps := len(b.record().Steps)
	for name, act := range map[string]func() error{
		"a line":   func() error { return b.s.RecordOpened(ctx, okell, b.job, work.Opened{Client: "b", Line: "lift cover"}) },
		"an undo":  func() error { return b.s.UndoOpened(ctx, okell, b.job, "u") },
		"the turn": func() error { return b.s.TurnBack(ctx, okell, "t", b.job) },
	} {
		var faults hw.Faults
		if err := act(); !errors.As(err, &faults) || !strings.Contains(err.Error(), "made safe first") ||
			!strings.Contains(err.Error(), "it bulges") {
			t.Errorf("%s while it is stopped: %v", name, err)
		}
	}
	if n := len(b.record().Steps); n != steps {
		t.Errorf("%d steps, not %d", n, steps)
	}
	if err := b.s.MoveJob(ctx, okell, "safe", b.job, jobs.Move{To: jobs.MoveSafe, For: "the pack is in the fire box"}); err != nil {
		t.Fatal(err)
	}
	if says := b.line("c", "lift cover", 0); says != "" {
		t.Errorf("made safe, and still: %s", says)
	}
}
