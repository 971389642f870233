package run

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"yembo/core/card"
	"yembo/core/hw"
	"yembo/core/plan"
)

const chassis = `{"format":"yembo.chassis/1","id":"tern","kind":"notebook","quirks":["hold_power_to_cut"],"hold_s":10,
"memory":{"sockets":[{"id":"dimm1","form":"SO-DIMM","reach":"plug"}]},
"slots":[{"id":"m2a","purpose":"storage","key":"M","lengths":{"80":"fitted"},"lanes":4,"reach":"tray"}],
"bays":[{"id":"bay","form":"2.5in","reach":"plug"}],
"batteries":[{"id":"small"}],"battery_reach":"plug",
"fasteners":[{"id":"long","count":3,"bit":"T5","length_mm":6},{"id":"short","count":2,"bit":"T5","length_mm":4,
"captive":true},{"id":"tray","count":2,"bit":"PH0"}],
"services":[{"id":"repaste","reach":"plug","minutes":12}],
"steps":[{"id":"off","verb":"power_down","needs":[],"side":"top"},{"id":"screws","verb":"unscrew","part":"cover",
"needs":["off"],"side":"bottom","fasteners":[{"group":"long","count":3},{"group":"short","count":2}]},
 {"id":"cover","verb":"unclip","part":"cover","needs":["screws"],"side":"bottom"},
 {"id":"plug","verb":"unplug","part":"battery","needs":["cover"],"isolates_power":true},
 {"id":"cable","verb":"unplug","part":"tray cable","needs":["plug"]},
 {"id":"spacer","verb":"lift","part":"spacer","needs":["plug"],"back":{"place":"bay","state":"empty"}},
 {"id":"tray","verb":"unscrew","part":"tray","needs":["cable","spacer"],"fasteners":[{"group":"tray","count":2}]},
 {"id":"band","verb":"peel","part":"new band","needs":[],"back_before":"cover"}],
"findings":[{"path":"/slots/m2a/lanes","value":4,"source":"maker_document","on":"2026-01-02"},{"path":"/slots/m2a/lanes",
"value":2,"source":"seller","on":"2026-02-02"}]}`

const parts = `{"parts":[{"id":"mem","kind":"memory","name":"Corvane 8","price_cents":1,"memory":{"form":"SO-DIMM"}},
{"id":"d80","kind":"drive","name":"Bexmoor 80","price_cents":1,"drive":{"interface":"nvme","length_mm":80}},{"id":"d25",
"kind":"drive","name":"Bexmoor 25","price_cents":1,"drive":{"interface":"sata"}}]}`

// input is a machine of that model with a bay that is empty, and what an option does to it.
func input(t *testing.T, o *plan.Option) Input {
	t.Helper()
	in := Input{Chassis: &hw.Chassis{}, Machine: &hw.Machine{}, Parts: &hw.Parts{}, Option: o}
	for text, into := range map[string]any{chassis: in.Chassis, parts: in.Parts,
		`{"fitted":{"memory":[],"drives":[],"battery":{"option":"small"}}}`: in.Machine} {
		if err := json.Unmarshal([]byte(text), into); err != nil {
			t.Fatal(err)
		}
	}
	return in
}

func made(t *testing.T, in Input) *Plan {
	t.Helper()
	p, err := Make(t.Context(), in)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func keysOf(p *Plan) string {
	words := make([]string, len(p.Steps))
	for i := range p.Steps {
		words[i] = p.Steps[i].Key
	}
	return strings.Join(words, " ")
}

var add = func(place, part string) plan.Action { return plan.Action{Do: plan.DoAdd, Place: place, Part: part} }

// TestSequence: the pack is looked at once it is bare and before it is unplugged, in every job; the
// trial start stands where all but the cover is back; what stays out is not put back, and what the
// way back alone has comes in its place.
func TestSequence(t *testing.T) {
	memory := &plan.Option{Actions: []plan.Action{add("dimm1", "mem")}}
	both := &plan.Option{
		Actions:  []plan.Action{add("dimm1", "mem"), add("bay", "d25"), add("m2a", "d80")},
		Services: []string{"repaste"},
	}
	for name, c := range map[string]struct {
		o     *plan.Option
		trial card.TrialWhen
		alter func(in *Input)
		want  string
	}{
		"memory alone needs no trial": {memory, card.TrialMore, nil,
			"down:off hold down:screws down:cover look down:plug fit:dimm1 up:plug up:band up:cover up:screws up:off"},
		"unless the shop wants it": {memory, card.TrialAlways, nil,
			"down:off hold down:screws down:cover look down:plug fit:dimm1 up:plug trial up:band up:cover up:screws up:off"},
		"two upgrades and a service are one dive; the spacer stays out beside a filled bay": {both, card.TrialMore, nil,
			"down:off hold down:screws down:cover look down:plug down:cable down:spacer down:tray fit:dimm1 fit:bay " +
				"fit:m2a service:repaste up:tray up:cable up:plug trial up:band up:cover up:screws up:off"},
		"never": {both, card.TrialNever, nil,
			"down:off hold down:screws down:cover look down:plug down:cable down:spacer down:tray fit:dimm1 fit:bay " +
				"fit:m2a service:repaste up:tray up:cable up:plug up:band up:cover up:screws up:off"},
		"a look inside": {nil, card.TrialNever, nil,
			"down:off hold down:screws down:cover look down:plug down:cable down:spacer down:tray up:tray up:spacer " +
				"up:cable up:plug up:band up:cover up:screws up:off"},
		"nothing isolates: the look comes where the pack is bare": {memory, card.TrialAlways, func(in *Input) {
			in.Chassis.Steps[3].IsolatesPwr = hw.Maybe[bool]{}
		}, "down:off hold down:screws down:cover down:plug look fit:dimm1 up:plug trial up:band up:cover up:screws up:off"},
		"no battery, no look": {memory, card.TrialNever, func(in *Input) {
			in.Chassis.Batteries,
				in.Chassis.Quirks = []hw.Battery{}, nil
		},
			"down:off down:screws down:cover down:plug fit:dimm1 up:plug up:band up:cover up:screws up:off"},
	} {
		in := input(t, c.o)
		in.Trial = c.trial
		if c.alter != nil {
			c.alter(&in)
		}
		if got := keysOf(made(t, in)); got != c.want {
			t.Errorf("%s:\n%s\nnot\n%s", name, got, c.want)
		}
	}
	p := made(t, input(t, both))
	for key, want := range map[string]string{"down:off": "1 false  ", "down:screws": "2 true T5 ",
		"down:plug": "4 false  ", "down:tray": "7 false PH0 T5",
		"fit:m2a": "7 false  ", "up:tray": "6 false  ", "up:screws": "1 false T5 PH0", "up:off": "0 true  "} {
		s := p.Steps[p.Index(key)]
		if got := fmt.Sprint(s.Depth, s.Turns, " ", s.Bit, " ", s.BitOut); strings.ReplaceAll(
			got,
			"  ",
			" ",
		) != strings.ReplaceAll(
			want,
			"  ",
			" ",
		) {
			t.Errorf("%s: depth, turned, bits are %q, not %q", key, got, want)
		}
	}
}

// clock makes events a minute apart.
type clock struct {
	at     time.Time
	events []Event
}

var began = time.Date(2026, 5, 14, 11, 0, 0, 0, time.UTC)

func (c *clock) say(kind EventKind, step string, after time.Duration, d Data) {
	if c.at.IsZero() {
		c.at = began
	}
	c.at = c.at.Add(after)
	c.events = append(c.events, Event{Client: fmt.Sprint(len(c.events)), Kind: kind, Step: step, At: c.at, By: "R", Data: d})
}

// tickData is what a tick of a step says when all comes out.
func tickData(st *State, s *Step) Data {
	d := Data{Read: true, Back: map[string]int{}}
	for _, on := range st.Tray {
		if on.Step == "down:"+s.ID && s.Kind == Up {
			d.Back[on.Group] += on.Count
		}
	}
	return d
}

// TestWholeRun goes down and up each model of the demo, and checks the mat and the plugs at every
// step against a count by hand: nothing is barred while the order is kept, and a step of the way back
// is barred as long as what lies behind it is not back.
func TestWholeRun(t *testing.T) {
	files, err := filepath.Glob("../../shop/demo/*.json")
	if err != nil {
		t.Fatal(err)
	}
	runs := 0
	for _, file := range files {
		raw, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		ch := &hw.Chassis{}
		if json.Unmarshal(raw, ch) != nil || ch.Format != hw.FormatChassis || len(ch.Steps) == 0 {
			continue
		}
		ch.Findings = nil
		runs++
		p := made(t, Input{Chassis: ch, Machine: &hw.Machine{}, Parts: &hw.Parts{}})
		var c clock
		laid, off := 0, 0
		for i := range p.Steps {
			s := &p.Steps[i]
			st := p.StateOf(began, c.events)
			if st.Next != i {
				t.Fatalf("%s: step %d is next, not %d", file, st.Next, i)
			}
			for k := i + 1; k < len(p.Steps); k++ {
				if later := &p.Steps[k]; later.Kind == Up && s.Kind == Up && len(st.Bars(later.Key, tickData(st, later))) == 0 {
					t.Errorf("%s: %s could be done before %s", file, later.Key, s.Key)
				}
			}
			d := tickData(st, s)
			if bars := st.Bars(s.Key, d); len(bars) > 0 {
				t.Errorf("%s: %s is barred: %v", file, s.Key, bars)
			}
			c.say(Ticked, s.Key, time.Minute, d)
			for _, l := range s.Lays {
				if !l.Captive {
					laid += l.Count
				}
			}
			for _, l := range s.Takes {
				if !l.Captive && !l.Own {
					laid -= l.Count
				}
			}
			if s.Opens != "" {
				off++
			}
			if s.Closes != "" {
				off--
			}
			st = p.StateOf(began, c.events)
			on := 0
			for _, row := range st.Tray {
				on += row.Count
			}
			if on != laid || len(st.Open) != off {
				t.Fatalf(
					"%s: after %s %d screws lie on the mat and %d plugs are off, counted %d and %d",
					file,
					s.Key,
					on,
					len(st.Open),
					laid,
					off,
				)
			}
		}
		end := p.StateOf(began, c.events)
		if bars := end.EndBars(); len(bars) > 0 || end.Next != len(p.Steps) || laid != 0 || off != 0 {
			t.Errorf("%s: the run ends with %v, %d on the mat, %d off", file, bars, laid, off)
		}
	}
	if runs < 8 {
		t.Errorf("only %d models were run", runs)
	}
}

// TestBars: each thing that has to stop a tick stops it, and says what to do.
func TestBars(t *testing.T) {
	in := input(t, &plan.Option{Actions: []plan.Action{add("dimm1", "mem")}})
	in.Chassis.Steps[4].Needs = []string{"cover"} // a live plug, before the battery is off
	in.Chassis.Steps[3].Needs = []string{"cable"}
	in.Trial = card.TrialAlways
	p := made(t, in)
	upTo := func(key string) *clock {
		c := &clock{}
		for i := range p.Steps {
			if p.Steps[i].Key == key {
				break
			}
			c.say(Ticked, p.Steps[i].Key, time.Minute, tickData(p.StateOf(began, c.events), &p.Steps[i]))
		}
		return c
	}
	without := func(c *clock, key string) *clock {
		c.events = slices.DeleteFunc(c.events, func(e Event) bool { return e.Step == key })
		return c
	}
	fell := upTo("trial")
	fell.say(Differs, "fit:dimm1", time.Minute, Data{What: FellIn})
	found := &clock{at: fell.at, events: slices.Clone(fell.events)}
	found.say(Solved, "", time.Minute, Data{Of: fell.events[len(fell.events)-1].Client})
	stopped := upTo("down:plug")
	for name, c := range map[string]struct {
		before *clock
		key    string
		d      Data
		want   Bar
	}{
		"no such step":           {upTo("down:off"), "down:lid", Data{}, BarGone},
		"nobody looked":          {without(upTo("down:plug"), "look"), "down:plug", Data{}, BarLook},
		"nobody looked, later":   {without(upTo("fit:dimm1"), "look"), "fit:dimm1", Data{}, BarLook},
		"a live plug, not read":  {upTo("down:cable"), "down:cable", Data{}, BarRead},
		"a live plug, read":      {upTo("down:cable"), "down:cable", Data{Read: true}, ""},
		"the memory is not in":   {without(upTo("up:plug"), "fit:dimm1"), "up:plug", Data{}, BarBehind},
		"the plug is off":        {without(upTo("up:cover"), "up:plug"), "up:cover", Data{}, BarPlugs},
		"the trial was not made": {without(upTo("up:cover"), "trial"), "up:cover", Data{}, BarBehind},
		"two of three screws":    {upTo("up:screws"), "up:screws", Data{Back: map[string]int{"long": 2}}, BarScrews},
		"two, and why": {upTo("up:screws"), "up:screws", Data{Back: map[string]int{"long": 2}, Rest: RestMissing,
			Why: "sheared"}, ""},
		"nothing counted":         {upTo("up:screws"), "up:screws", Data{}, BarScrews},
		"a screw fell in":         {fell, "trial", Data{}, BarFallen},
		"and was found":           {found, "trial", Data{}, ""},
		"the pack is not sound":   {stopped, "down:plug", Data{}, BarStopped},
		"the fit is left out":     {upTo("fit:dimm1"), "fit:dimm1", Data{Skip: true, Why: "customer rang"}, ""},
		"a cover cannot be":       {upTo("up:cover"), "up:cover", Data{Skip: true, Why: "late"}, BarBehind},
		"a second tick":           {upTo("down:plug"), "down:screws", Data{}, ""},
		"the seam of a done step": {upTo("up:screws"), "up:cover", Data{}, ""},
	} {
		st := p.StateOf(began, c.before.events)
		if c.before == stopped {
			st.Stopped = "it bulges"
		}
		bars := st.Bars(c.key, c.d)
		got := Bar("")
		if len(bars) > 0 {
			got = bars[0].Bar
		}
		if got != c.want || len(bars) > 1 {
			t.Errorf("%s: %v, not %q", name, bars, c.want)
		}
	}
	left := upTo("up:screws")
	left.say(Ticked, "up:screws", time.Minute, Data{Back: map[string]int{"long": 2}, Rest: RestLeft, Why: "one too many"})
	left.say(Ticked, "up:off", time.Minute, Data{})
	if bars := p.StateOf(began, left.events).EndBars(); len(bars) != 1 || bars[0].Bar != BarScrews {
		t.Errorf("a screw that is left over ends with %v", bars)
	}
}

// TestMerge: the first tick of a step counts, an undo takes it back whoever gave it, and another count
// of screws holds for both ways.
func TestMerge(t *testing.T) {
	p := made(t, input(t, nil))
	var c clock
	c.say(Ticked, "down:off", time.Minute, Data{Text: "first"})
	c.say(Ticked, "down:off", time.Minute, Data{Text: "second"})
	c.say(Differs, "down:screws", time.Minute, Data{What: OtherCount, Group: "long", N: 4})
	c.say(Ticked, "down:screws", time.Minute, Data{})
	st := p.StateOf(began, c.events)
	if st.Done["down:off"].Data.Text != "first" || st.Tray[0].Count != 4 {
		t.Errorf("%+v, tray %+v", st.Done["down:off"], st.Tray)
	}
	if n := st.Counted("up:screws", Lot{Group: "long", Count: 3}); n != 4 {
		t.Errorf("%d screws go back, 4 came out", n)
	}
	c.say(Undone, "down:screws", time.Minute, Data{})
	if st := p.StateOf(began, c.events); len(st.Tray) != 0 || p.Steps[st.Next].Key != "hold" {
		t.Errorf("after an undo: tray %v, next %s", st.Tray, p.Steps[st.Next].Key)
	}
}

// TestTimes: a step takes what passed since the last thing that happened, without what was paused and
// what is too long to have been work; events of a tablet that was cut off are taken by their own time,
// and a clock that jumps back takes nothing away.
func TestTimes(t *testing.T) {
	p := made(t, input(t, nil))
	var c clock
	c.say(Ticked, "down:off", 2*time.Minute, Data{})
	c.say(Paused, "", time.Minute, Data{})
	c.say(Resumed, "", 30*time.Minute, Data{})
	c.say(Ticked, "hold", time.Minute, Data{})
	c.say(Ticked, "down:screws", 50*time.Minute, Data{})
	c.say(Noted, "", time.Minute, Data{Text: "x"})
	c.say(Ticked, "down:cover", time.Minute, Data{})
	// Taken later, though it happened before.
	c.events = append(c.events, Event{Client: "late", Kind: Noted, At: began.Add(time.Minute), Data: Data{Text: "y"}},
		Event{Client: "jump", Kind: Ticked, Step: "look", At: c.at.Add(-time.Second)})
	st := p.StateOf(began, c.events)
	for step, want := range map[string]time.Duration{"down:off": 2 * time.Minute, "hold": 2 * time.Minute,
		"down:screws": 0, "down:cover": time.Second,
		"look": 2*time.Minute - time.Second} {
		if st.Spent[step] != want {
			t.Errorf("%s took %s, not %s", step, st.Spent[step], want)
		}
	}
	if !st.Unsure["down:screws"] || st.Unsure["down:off"] || st.Hands != 6*time.Minute {
		t.Errorf("unsure %v, hands on it %s", st.Unsure, st.Hands)
	}
}

// TestDetour: what is put in stands before the step that asked for it, and is undone right after that
// step is; the numbers of what is bare move along.
func TestDetour(t *testing.T) {
	p := made(t, input(t, &plan.Option{Actions: []plan.Action{add("m2a", "d80"), add("bay", "d25")}}))
	for step, want := range map[string]string{
		"down:tray":   "down:spacer detour:0 down:tray fit:m2a fit:bay up:tray return:0 up:cable",
		"up:cable":    "down:spacer down:tray fit:m2a fit:bay up:tray detour:0 up:cable return:0 up:plug",
		"fit:m2a":     "down:spacer down:tray detour:0 fit:m2a return:0 fit:bay up:tray up:cable",
		"down:spacer": "down:cable detour:0 down:spacer down:tray fit:m2a fit:bay return:0 up:tray",
	} {
		var c clock
		c.say(Put, step, time.Minute, Data{Verb: hw.Remove, Part: "pack"})
		st := p.StateOf(began, c.events)
		if got := keysOf(st.Plan); !strings.Contains(got, want) {
			t.Errorf("before %s:\n%s has not\n%s", step, got, want)
		}
		for i, a := range st.Plan.Asks {
			if from, until := st.Plan.Steps[a.From].Key, st.Plan.Steps[a.Until].Key; from != p.Steps[p.Asks[i].From].Key ||
				until != p.Steps[p.Asks[i].Until].Key {
				t.Errorf("%s is bare from %s until %s with a detour", a.Path, from, until)
			}
		}
		if len(st.Waiting) != 1 {
			t.Errorf("%d things wait to be taken into the record", len(st.Waiting))
		}
	}
}

// TestAsks: what is not known, or disputed, and can be seen is asked while it is bare, and no longer.
func TestAsks(t *testing.T) {
	p := made(t, input(t, &plan.Option{Actions: []plan.Action{add("m2a", "d80")}}))
	bare := func(key string) string {
		var paths []string
		for _, a := range p.Bare(p.Index(key)) {
			paths = append(paths, fmt.Sprintf("%s %d", a.Path, len(a.Says)))
		}
		return strings.Join(paths, ", ")
	}
	slot := "/slots/m2a/max_top_mm 0, /slots/m2a/max_bottom_mm 0, /slots/m2a/cooling 0, /slots/m2a/lanes 2"
	if got := bare("fit:m2a"); !strings.Contains(got, slot) || strings.Contains(got, "protocols") {
		t.Errorf("beside the slot that is bare it asks %s", got)
	}
	if got := bare("up:tray"); strings.Contains(got, "m2a") {
		t.Errorf("with the drive in it asks %s", got)
	}
	if got := bare("down:screws"); got != "" {
		t.Errorf("with the cover on it asks %s", got)
	}
	if got := bare("down:tray"); !strings.Contains(got, "/fasteners/tray/length_mm") || strings.Contains(got, "m2a") {
		t.Errorf("at the screws in the hand it asks %s", got)
	}
}

// TestFact: what goes otherwise is a fact where it says something about the model, else a note.
func TestFact(t *testing.T) {
	ch := input(t, nil).Chassis
	for want, d := range map[string]Data{"/fasteners/long/count 4": {What: OtherCount, Group: "long", N: 4},
		"/fasteners/long/bit T6": {What: OtherBit, Group: "long", Word: "T6"},
		"/steps/cover/bit T6":    {What: OtherBit, Word: "T6"}, "/steps/cover/connector pull": {What: OtherPlug, Word: "pull"},
		"/steps/cover/glued true": {What: ItIsGlued}} {
		path, value, ok := d.Fact(ch, "cover")
		if got := fmt.Sprintf("%s %v", path, value); got != want || !ok {
			t.Errorf("%q, not %q", got, want)
		}
	}
	for _, row := range Whats {
		if _, _, ok := (&Data{What: row.Word, Text: "x"}).Fact(ch, "none"); ok {
			t.Errorf("%s of no step is a fact", row.Word)
		}
	}
}

// BenchmarkState is a run of 14 steps with some 60 events worked out anew, as each tick does.
func BenchmarkState(b *testing.B) {
	in := Input{Chassis: &hw.Chassis{}, Machine: &hw.Machine{}, Parts: &hw.Parts{}}
	if err := json.Unmarshal([]byte(chassis), in.Chassis); err != nil {
		b.Fatal(err)
	}
	p, err := Make(b.Context(), in)
	if err != nil {
		b.Fatal(err)
	}
	var c clock
	for i := range p.Steps {
		for range 4 {
			c.say(Noted, p.Steps[i].Key, time.Second, Data{Text: "x"})
		}
		c.say(Ticked, p.Steps[i].Key, time.Minute, Data{Back: map[string]int{"long": 3, "tray": 2}})
	}
	for b.Loop() {
		p.StateOf(began, c.events)
	}
}
