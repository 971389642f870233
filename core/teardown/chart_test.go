package teardown

import (
	"fmt"
	"math/rand"
	"strings"
	"testing"

	"yembo/core/hw"
)

// TestChart: shared steps are one floor over all their targets, ways part where they
// part, and the isolating step comes as early as it can.
func TestChart(t *testing.T) {
	yes := hw.Known(true)
	ch := &hw.Chassis{Steps: []hw.Step{{ID: "off", Verb: "power_down"},
		{ID: "cover", Verb: "unclip", Needs: []string{"off"}}, {ID: "shield", Verb: "lift", Needs: []string{"cover"}},
		{ID: "plug", Verb: "unplug", Needs: []string{"cover"}, IsolatesPwr: yes},
		{ID: "fan", Verb: "unplug", Needs: []string{"plug"}}, {ID: "sink", Verb: "lift", Needs: []string{"fan"}}}}
	floors, places := Chart(ch, []Target{{"m2a", "plug"}, {"dimm1", "shield"}, {"clean", "fan"}, {"paste", "sink"}})
	var got []string
	for _, f := range floors {
		got = append(got, fmt.Sprintf("%s %d %d-%d", ch.Steps[f.Step].ID, f.Depth, f.From, f.To))
	}
	for _, p := range places {
		got = append(got, fmt.Sprintf("%s@%d %d %s", p.Name, p.Column, p.Depth, p.Minutes.Shown()))
	}
	want := "shield 4 1-2, sink 5 3-4, fan 4 2-4, plug 3 0-4, cover 2 0-4, off 1 0-4, m2a@0 3 4.5, dimm1@1 4 5.5, " +
		"clean@2 4 5, paste@3 5 6"
	if s := strings.Join(got, ", "); s != want {
		t.Errorf("%s", s)
	}
}

// TestChartOfAny: in any graph each target stands as deep as it has steps, under exactly
// those steps, and floors of one depth do not overlap.
func TestChartOfAny(t *testing.T) {
	r := rand.New(rand.NewSource(3))
	for range 400 {
		ch := &hw.Chassis{}
		for i := range 1 + r.Intn(12) {
			s := hw.Step{ID: fmt.Sprint("s", i), Verb: "lift", IsolatesPwr: hw.Known(r.Intn(8) == 0)}
			for k := range i {
				if r.Intn(3) == 0 {
					s.Needs = append(s.Needs, fmt.Sprint("s", k))
				}
			}
			ch.Steps = append(ch.Steps, s)
		}
		var targets []Target
		for i := range r.Intn(6) {
			targets = append(targets, Target{fmt.Sprint("t", i), fmt.Sprint("s", r.Intn(len(ch.Steps)))})
		}
		floors, places := Chart(ch, targets)
		if len(places) != len(targets) {
			t.Fatalf("%d of %d targets", len(places), len(targets))
		}
		for _, p := range places {
			var reach string
			for _, x := range targets {
				if x.Name == p.Name {
					reach = x.Reach
				}
			}
			down := Down(ch, []string{reach})
			over := map[int]bool{}
			for _, f := range floors {
				if f.From <= p.Column && p.Column < f.To && f.Depth <= p.Depth {
					over[f.Step] = true
				}
			}
			for i := range ch.Steps {
				if down[i] != over[i] {
					t.Fatalf("%s: step %s is over it %t, needed %t", p.Name, ch.Steps[i].ID, over[i], down[i])
				}
			}
			if p.Depth != len(over) || p.Minutes != DownMinutes(ch, down) {
				t.Fatalf("%s stands %d deep under %d steps", p.Name, p.Depth, len(over))
			}
		}
		for i, a := range floors {
			for _, b := range floors[:i] {
				if a.Depth == b.Depth && a.From < b.To && b.From < a.To {
					t.Fatalf("floors overlap: %+v %+v", a, b)
				}
			}
		}
	}
}

// TestCheck: each thing that is likely forgotten is said, and a record without them is
// quiet.
func TestCheck(t *testing.T) {
	n, mm := hw.Known[int], func(v int) hw.Maybe[hw.Dec] { return hw.Known(hw.DecOf(v)) }
	bit := hw.Known("PH0")
	good := func() *hw.Chassis {
		return &hw.Chassis{Kind: "notebook", BatteryReach: "plug", Batteries: []hw.Battery{{ID: "pack"}},
			Slots: []hw.Slot{{ID: "m2a", Reach: "plug"}},
			Steps: []hw.Step{{ID: "screws", Verb: "unscrew",
				Fasteners: []hw.StepFasteners{{Group: "long", Count: 2}, {Group: "short", Count: 1}}},
				{ID: "plug", Verb: "unplug", Needs: []string{"screws"}, IsolatesPwr: hw.Known(true)}},
			Fasteners: []hw.Fastener{{ID: "long", Count: n(2), Bit: bit, Length: mm(6), Thread: "M2",
				At: []hw.At{{}, {}}, Order: []int{1, 2}},
				{ID: "short", Count: n(1), Bit: hw.Known("PH1"), Length: mm(4), Thread: "M2"}}}
	}
	if r := Check(good()); len(r) > 0 {
		t.Errorf("nothing is forgotten, but: %+v", r)
	}
	for says, change := range map[string]func(ch *hw.Chassis){
		"no step disconnects power":         func(ch *hw.Chassis) { ch.Steps[1].IsolatesPwr = hw.Maybe[bool]{} },
		"m2a access step not yet known":     func(ch *hw.Chassis) { ch.Slots[0].Reach = "" },
		"battery access step not yet known": func(ch *hw.Chassis) { ch.BatteryReach = "" },
		"fan nothing lies behind": func(ch *hw.Chassis) {
			ch.Steps = append(ch.Steps,
				hw.Step{ID: "fan", Verb: "unplug"})
		},
		"more its screws are not recorded": func(ch *hw.Chassis) {
			ch.Steps = append(ch.Steps, hw.Step{ID: "more", Verb: "unscrew"})
			ch.BatteryReach = "more"
		},
		"long 2 screws, but 3 places":              func(ch *hw.Chassis) { ch.Fasteners[0].At = make([]hw.At, 3) },
		"long 2 screws, but the tightening":        func(ch *hw.Chassis) { ch.Fasteners[0].Order = []int{1} },
		"long 2 screws, but the steps turn 5":      func(ch *hw.Chassis) { ch.Steps[0].Fasteners[0].Count = 5 },
		"long 2 screws, but the steps turn only 1": func(ch *hw.Chassis) { ch.Steps[0].Fasteners[0].Count = 1 },
		"odd no step turns these": func(ch *hw.Chassis) {
			ch.Fasteners = append(ch.Fasteners,
				hw.Fastener{ID: "odd", Count: n(1)})
		},
		"the thread of short is not recorded": func(ch *hw.Chassis) {
			ch.Fasteners[1].Bit,
				ch.Fasteners[1].Thread = bit, ""
		},
		"long differs only in length from short (2 mm longer)": func(ch *hw.Chassis) { ch.Fasteners[1].Bit = bit },
	} {
		ch := good()
		change(ch)
		var all []string
		for _, r := range Check(ch) {
			all = append(all, strings.TrimSpace(r.About+" "+r.Text))
		}
		if got := strings.Join(all, "\n"); !strings.Contains(got, says) {
			t.Errorf("%q is not said: %s", says, got)
		}
	}
	heads := good()
	heads.Fasteners[1].Bit, heads.Fasteners[0].Head, heads.Fasteners[1].Head = bit, "flat", "pan"
	if len(MixUps(heads)) > 0 {
		t.Error("another head is mixed up")
	}
	if heads.Fasteners[1].Head = ""; len(MixUps(heads)) != 1 {
		t.Error("a head that is not known keeps two apart")
	}
	for name, change := range map[string]func(f *hw.Fastener){"thread": func(f *hw.Fastener) { f.Thread = "M3" },
		"untold thread": func(f *hw.Fastener) { f.Thread = "" },
		"captive":       func(f *hw.Fastener) { f.Captive = hw.Known(true) },
		"length":        func(f *hw.Fastener) { f.Length = hw.Maybe[hw.Dec]{} }} {
		ch := good()
		ch.Fasteners[1].Bit = bit
		if change(&ch.Fasteners[1]); len(MixUps(ch)) > 0 {
			t.Errorf("another %s is mixed up", name)
		}
	}
}
