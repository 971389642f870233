package teardown

import (
	"errors"
	"fmt"
	"testing"

	"yembo/core/hw"
)

// allKinds is a record with a target of every kind behind one plug.
func allKinds() *hw.Chassis {
	return &hw.Chassis{ID: "c", BatteryReach: "plug",
		Memory: &hw.Memory{Sockets: []hw.Socket{{ID: "d0", Form: "SO-DIMM"},
			{ID: "d1", Form: "SO-DIMM", Reach: "plug"}}},
		Slots: []hw.Slot{{ID: "m0", Purpose: "storage"}, {ID: "m1", Purpose: "storage", Reach: "plug"},
			{ID: "wl", Purpose: "wireless", Reach: "plug"}, {ID: "wan", Purpose: "wwan", Reach: "plug"}},
		Bays:      []hw.Bay{{ID: "b0"}, {ID: "b1", Reach: "plug"}},
		Batteries: []hw.Battery{{ID: "p"}},
		Fasteners: []hw.Fastener{{ID: "a", Bit: hw.Known("PH0")}},
		Steps: []hw.Step{{ID: "off", Verb: "power_down"},
			{ID: "door", Verb: "unscrew", Needs: []string{"off"},
				Fasteners: []hw.StepFasteners{{Group: "a", Count: 1}, {Group: "nobody", Count: 2}}},
			{ID: "rim", Verb: "unscrew", Needs: []string{"door"},
				Fasteners: []hw.StepFasteners{{Group: "a", Count: 3}}},
			{ID: "plug", Verb: "unplug", Needs: []string{"rim"}, IsolatesPwr: hw.Known(true)}},
		Services: []hw.Service{{ID: "s0"}, {ID: "clean", Reach: "plug", Minutes: hw.Known(hw.DecOf(5)), Tool: "brush",
			Tools: []string{"blower", "brush"}, Consumables: []string{"swabs"}},
			{ID: "paste", Reach: "plug", Consumables: []string{"swabs", "paste"}}},
		Suspected: []hw.Suspected{{ID: "far", Step: "plug"}, {ID: "nowhere"}}}
}

// TestSwaps holds the swap minutes, and that a service has its own.
func TestSwaps(t *testing.T) {
	// 1 + (0.5 + 3 × 0.25) + (0.5 + 3 × 0.25) + 0.5 = 4; × 1.8 = 7.2.
	for target, want := range map[string]string{"d1": "9.2", "m1": "10.2", "wl": "10.2", "wan": "10.2", "b1": "10.2",
		"battery": "11.2", "clean": "12.2", "paste": "7.2"} {
		s, err := RunSheet(t.Context(), allKinds(), []string{target}, Job{})
		if err != nil || s.Minutes.String() != want || fmt.Sprint(s.Work) != "["+target+"]" {
			t.Errorf("%s: %+v %v, want %s min", target, s, err, want)
		}
	}
}

// TestAllTargets: work stands in the order asked for, a group's screws are laid out once,
// and the kit names each thing once.
func TestAllTargets(t *testing.T) {
	s, err := RunSheet(t.Context(), allKinds(), []string{"paste", "b1", "clean", "battery", "d1", "wl", "m1"}, Job{})
	if err != nil {
		t.Fatal(err)
	}
	// 7.2 + 3 + 5 + 4 + 2 + 3 + 3
	got := fmt.Sprint(s.Work, s.Tray, s.Kit, s.Minutes, s.Cautions)
	if want := "[paste b1 clean battery d1 wl m1] [{a 4} {nobody 2}] {[PH0] [brush blower] [swabs paste]} 27.2 []"; got != want {
		t.Errorf("%s, want %s", got, want)
	}
	var names []string
	for _, target := range Targets(allKinds()) {
		names = append(names, target.Name+">"+target.Reach)
	}
	if got, want := fmt.Sprint(names),
		"[d1>plug m1>plug wl>plug wan>plug b1>plug battery>plug clean>plug paste>plug far>plug]"; got != want {
		t.Errorf("targets: %s, want %s", got, want)
	}
	bare := allKinds()
	bare.Batteries = nil
	for _, target := range Targets(bare) {
		if target.Name == hw.BatteryPlace {
			t.Error("a model without a pack has one to reach")
		}
	}
}

// TestReachFacts: the fact that is missing is named for every kind of target.
func TestReachFacts(t *testing.T) {
	ch := allKinds()
	ch.BatteryReach = ""
	for target, fact := range map[string]string{"d0": "/memory/sockets/0/reach", "m0": "/slots/0/reach",
		"b0": "/bays/0/reach", "s0": "/services/0/reach", "battery": "/battery_reach"} {
		var unknown ReachUnknown
		if _, err := RunSheet(t.Context(), ch, []string{"d1", target}, Job{}); !errors.As(err, &unknown) ||
			unknown != (ReachUnknown{target, fact}) {
			t.Errorf("%s: %v", target, err)
		}
	}
}

// TestScrewsBack says how many only where there are several.
func TestScrewsBack(t *testing.T) {
	for n, want := range map[int]string{0: "Screw the lid back: start all loosely, then tighten",
		1: "Screw the lid back: start all loosely, then tighten",
		2: "Screw the lid back: start all 2 loosely, then tighten"} {
		st := &hw.Step{Verb: "unscrew", Part: "lid", Fasteners: []hw.StepFasteners{{Group: "a", Count: n}}}
		if got := Back(allKinds(), st); got != want {
			t.Errorf("%d screws: %s", n, got)
		}
	}
}
