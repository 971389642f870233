package draw

import (
	"testing"

	"yembo/core/hw"
)

// TestReachWords: a step is said as fully as its floor has room for, and never with a
// separator that nothing follows.
func TestReachWords(t *testing.T) {
	ch := &hw.Chassis{Fasteners: []hw.Fastener{{ID: "a", Bit: hw.Known("PH1")}}}
	pack := &hw.Step{Verb: "unscrew", Part: "battery pack", Fasteners: []hw.StepFasteners{{Group: "a", Count: 4}},
		StartAt: "left"}
	plug := &hw.Step{Verb: "unplug", Part: "battery plug", IsolatesPwr: hw.Known(true)}
	for _, c := range []struct {
		step *hw.Step
		room float64
		want string
	}{
		{pack, 400, "unscrew the battery pack, 4 screws PH1, from the left"},
		{pack, 170, "unscrew battery pack, 4 PH1"}, {pack, 130, "unscrew battery pack"}, {pack, 100, "unscrew batter…"},
		{plug, 600, "unplug the battery plug: power is disconnected from here on"},
		{plug, 150, "unplug the battery plug"}, {plug, 115, "unplug battery plug"},
		{&hw.Step{Verb: "power_down", Part: "machine"}, 20, "power off"},
	} {
		if got := reachStep(ch, c.step, c.room); got != c.want {
			t.Errorf("in %v px: %q, want %q", c.room, got, c.want)
		}
	}
}
