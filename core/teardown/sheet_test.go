package teardown

import (
	"errors"
	"fmt"
	"testing"

	"yembo/core/hw"
)

// bench is a small record with one of everything that a sheet looks at.
func bench() *hw.Chassis {
	yes := hw.Known(true)
	return &hw.Chassis{ID: "c", BatteryReach: "plug",
		Memory: &hw.Memory{Sockets: []hw.Socket{{ID: "d1", Form: "SO-DIMM", Reach: "shield"},
			{ID: "d2", Form: "SO-DIMM"}}},
		Slots: []hw.Slot{{ID: "m1", Purpose: "storage", Reach: "drive-out"},
			{ID: "wl", Purpose: "wireless", Reach: "plug"}},
		Batteries: []hw.Battery{{ID: "p"}},
		Fasteners: []hw.Fastener{{ID: "long", Bit: hw.Known("PH0")}, {ID: "cap", Bit: hw.Known("T5"), Captive: yes}},
		Steps: []hw.Step{
			{ID: "off", Verb: "power_down", Side: "top"},
			{ID: "screws", Verb: "unscrew", Needs: []string{"off"}, Side: "bottom",
				Fasteners: []hw.StepFasteners{{Group: "long", Count: 7}, {Group: "cap", Count: 2}}},
			{ID: "cover", Verb: "unclip", Needs: []string{"screws"}, Side: "bottom", Tool: "plastic pick",
				LiveRisk: yes},
			{ID: "plug", Verb: "unplug", Needs: []string{"cover"}, Side: "bottom", IsolatesPwr: yes},
			{ID: "drive-out", Verb: "lift", Needs: []string{"plug"}, Side: "bottom", Place: "m1"},
			{ID: "shield", Verb: "peel", Needs: []string{"drive-out"}, Side: "bottom", Cautions: []string{"hot"},
				LiveRisk: yes, Consumables: []string{"tape"}},
			{ID: "board", Verb: "remove", Needs: []string{"shield"}, RemovesBoard: yes, Seal: yes}},
		Services: []hw.Service{{ID: "paste", Reach: "board", Minutes: hw.Known(hw.DecOf(12)),
			Consumables: []string{"paste"}}}}
}

func TestRunSheet(t *testing.T) {
	s, err := RunSheet(t.Context(), bench(), []string{"d1", "m1", "d1"}, Job{})
	if err != nil {
		t.Fatal(err)
	}
	// 1 + (0.5 + 9 × 0.25) + 3 + 0.5 + 1 + 1 = 9.25; × 1.8 = 16.65; memory 2, drive 3.
	got := fmt.Sprint(s.Targets, s.Down, s.Work, s.Up, s.SwapOnRefit, s.BitChanges, s.Flips, s.Minutes, s.Tray, s.Kit,
		s.Cautions)
	want := "[d1 m1] [off screws cover plug drive-out shield] [d1] [shield drive-out plug cover screws off] " +
		"map[m1:drive-out] 2 1 21.7 " +
		"[{long 7}] {[PH0 T5] [plastic pick] [tape]} [{cover live_unplug} {shield hot} {shield glued}]"
	if got != want {
		t.Errorf("sheet\n%s\nwant\n%s", got, want)
	}
	s, err = RunSheet(t.Context(), bench(), []string{"paste"}, Job{})
	if err != nil || s.Cautions[len(s.Cautions)-1].Code != "board_out" ||
		s.Cautions[len(s.Cautions)-2].Code != "seal" || s.Minutes.String() != "30.5" || len(s.SwapOnRefit) != 0 {
		t.Errorf("service: %+v, %v", s, err)
	}
	ch := bench()
	ch.Steps[3].IsolatesPwr = hw.Maybe[bool]{}
	s, err = RunSheet(t.Context(), ch, []string{"wl"}, Job{})
	if err != nil || s.Cautions[len(s.Cautions)-1] != (Caution{"plug", "no_isolation_step"}) ||
		s.Cautions[0].Code != "live_unplug" {
		t.Errorf("no isolating step: %+v, %v", s, err)
	}
	// The isolating step is always done, even where the place lies before it.
	ch = bench()
	ch.Slots[1].Reach = "cover"
	if s, err = RunSheet(t.Context(), ch, []string{"wl"}, Job{}); err != nil || s.Down[len(s.Down)-1] != "plug" {
		t.Errorf("isolation left out: %+v, %v", s, err)
	}
}

// TestUsualWay: to a place whose way nobody recorded goes every step that depends on nothing fitted and does not take
// the main board out, nor needs one that does; a sheet has it where a plan was made, and says so last.
func TestUsualWay(t *testing.T) {
	ch := bench()
	ch.Steps = append(ch.Steps, hw.Step{ID: "sink", Verb: "lift", Needs: []string{"board"}},
		hw.Step{ID: "under", Verb: "lift", Needs: []string{"sink"}},
		hw.Step{ID: "fan", Verb: "unplug", Needs: []string{"spacer"}},
		hw.Step{ID: "spacer", Verb: "lift", Needs: []string{"plug"}, When: &hw.Condition{Place: "m1", State: "filled"}},
		hw.Step{ID: "foil", Verb: "stick", BackBefore: "cover", Cautions: []string{"smooth"}})
	s, err := RunSheet(t.Context(), ch, []string{"d2"}, Job{Planned: true})
	if err != nil || fmt.Sprint(s.Down) != "[off screws cover plug drive-out shield spacer fan]" {
		t.Errorf("any machine: %v %v", s.Down, err)
	}
	if n := len(s.Cautions); s.Cautions[n-2] != (Caution{"fan", "reach_not_recorded"}) || s.Cautions[n-1].Step != "foil" {
		t.Errorf("it does not say so last: %v", s.Cautions)
	}
	m := &hw.Machine{Chassis: "c", Fitted: hw.Fitted{Drives: []hw.FittedDrive{}}}
	if got := fmt.Sprint(WaysInto(ch, InsideOf(ch, m)).Down([]string{NotRecorded})); got !=
		"[true true true true false true false false false true false false]" {
		t.Errorf("with the slot empty: %s", got)
	}
	if s, err = RunSheet(t.Context(), ch, []string{"d1"}, Job{Planned: true}); err != nil ||
		s.Cautions[len(s.Cautions)-2].Code == hw.CautionNoReach {
		t.Errorf("a way that is recorded: %v %v", s.Cautions, err)
	}
	ch.Steps, ch.BatteryReach = nil, ""
	if _, err = RunSheet(t.Context(), ch, []string{"d2"}, Job{Planned: true}); err == nil {
		t.Error("a model without steps has a way in")
	}
}

// TestTwoStepsOnePlace: what two steps take out together goes in at the one that is undone first.
func TestTwoStepsOnePlace(t *testing.T) {
	ch := bench()
	ch.Steps[4].Place, ch.Steps[5].Place = "m1", "m1"
	s, err := RunSheet(t.Context(), ch, []string{"m1", "d1"}, Job{})
	if err != nil || s.SwapOnRefit["m1"] != "shield" {
		t.Errorf("both done: %v %v", s.SwapOnRefit, err)
	}
	is := InsideOf(ch, &hw.Machine{Chassis: "c", Fitted: hw.Fitted{Drives: []hw.FittedDrive{}}})
	ch.Memory.Sockets[0].Reach = "board"
	s, err = RunSheet(t.Context(), ch, []string{"m1", "d1"}, Job{Is: is, Ends: is.Filled("m1")})
	if err != nil || s.SwapOnRefit["m1"] != "board" {
		t.Errorf("both left out, for it is empty: %v %v %v", s.Down, s.SwapOnRefit, err)
	}
}

// TestDepth: all the steps down count, the isolating of power too; no reach, no depth.
func TestDepth(t *testing.T) {
	// 9.25 down to the shield as above, 1 for the board.
	if got := fmt.Sprint(DepthOf(bench(), "board")); got != "{true 7 10250 [PH0 T5] [plastic pick] true true true}" {
		t.Errorf("the board: %s", got)
	}
	if got := fmt.Sprint(DepthOf(bench(), "cover")); got != "{true 4 7250 [PH0 T5] [plastic pick] false false false}" {
		t.Errorf("the cover, with the plug that isolates: %s", got)
	}
	if DepthOf(bench(), "").Known {
		t.Error("access not recorded is known")
	}
}

// TestLive: a plug is live when it comes off before the last isolating step, not
// when it is that step itself.
func TestLive(t *testing.T) {
	yes := hw.Known(true)
	ch := &hw.Chassis{Steps: []hw.Step{
		{ID: "outer", Verb: "unplug", IsolatesPwr: yes, LiveRisk: yes},
		{ID: "inner", Verb: "unplug", Needs: []string{"outer"}, IsolatesPwr: yes, LiveRisk: yes},
		{ID: "fan", Verb: "unplug", Needs: []string{"outer"}, LiveRisk: yes}}}
	if got := fmt.Sprint(WaysInto(ch, nil).Live([]bool{true, true, true})); got != "[true false false]" {
		t.Errorf("two isolating steps: %s", got)
	}
	ch.Steps[1].IsolatesPwr = hw.Maybe[bool]{}
	if got := fmt.Sprint(WaysInto(ch, nil).Live([]bool{true, true, true})); got != "[false false false]" {
		t.Errorf("one isolating step: %s", got)
	}
	ch.Steps[0].IsolatesPwr = hw.Maybe[bool]{}
	if got := fmt.Sprint(WaysInto(ch, nil).Live([]bool{true, false, true})); got != "[true false true]" {
		t.Errorf("no isolating step: %s", got)
	}
}

func TestRunSheetRefusals(t *testing.T) {
	var unknown ReachUnknown
	if _, err := RunSheet(t.Context(), bench(), []string{"d2"}, Job{}); !errors.As(err, &unknown) ||
		unknown.Fact != "/memory/sockets/1/reach" {
		t.Errorf("a way nobody knows: %v", err)
	}
	var faults hw.Faults
	if _, err := RunSheet(t.Context(), bench(), []string{"d1", "nope"}, Job{}); !errors.As(err, &faults) {
		t.Errorf("a target that is not there: %v", err)
	}
	ch := bench()
	ch.Batteries, ch.BatteryReach = []hw.Battery{}, ""
	if _, err := RunSheet(t.Context(), ch, []string{"battery"}, Job{}); !errors.As(err, &faults) {
		t.Errorf("the battery of a machine without one: %v", err)
	}
}

// TestStepMinutes holds the default figures.
func TestStepMinutes(t *testing.T) {
	for verb, want := range map[hw.Verb]hw.Minutes{"unscrew": 1500, "loosen": 1500, "unclip": 3000, "unplug": 500,
		"unlatch": 500, "lift": 1000, "peel": 1000, "flip": 1000, "connect": 500, "fit": 1000, "fasten": 1500, "stick": 1000} {
		if got := StepMinutes(&hw.Step{Verb: verb, Fasteners: []hw.StepFasteners{{Count: 4}}}); got != want {
			t.Errorf("%s takes %d thousandths, want %d", verb, got, want)
		}
	}
	if got := StepMinutes(&hw.Step{Verb: "unscrew", Minutes: hw.Known(hw.Dec(4_250_000))}); got != 4250 {
		t.Errorf("a step's own figure: %d", got)
	}
}

// TestBack: each verb has its counterpart, and before the cover goes on every plug
// and part is asked for.
func TestBack(t *testing.T) {
	ch := bench()
	ch.Fasteners[0].Order = []int{1, 2, 3}
	for verb, want := range map[hw.Verb]string{
		"unplug": "Plug in the fan by its body until fully seated", "peel": "Lay the fan back on its marks",
		"lift":   "Set the fan back in its place",
		"unclip": "Press the fan home edge by edge, then check the seam for gaps: front first",
		"slide":  "Slide the fan back until it stops",
		"swing":  "Swing the fan back", "unlatch": "Close the latch of the fan", "remove": "Put the fan back",
		"flip": "Turn the fan back"} {
		st := &hw.Step{Verb: verb, Part: "fan"}
		if verb == "unclip" {
			st.CloseHint = "front first"
		}
		if got := Back(ch, st); got != want {
			t.Errorf("%s: %s", verb, got)
		}
	}
	if got := Back(ch, &ch.Steps[1]); got != "Screw it back: start all 9 in the printed order, loosely, then tighten" {
		t.Errorf("unscrew: %s", got)
	}
}
