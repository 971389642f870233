package teardown

import (
	"fmt"
	"strings"
	"testing"

	"yembo/core/hw"
)

// conditional is a model whose way depends on what is fitted: a drive stands on the board
// in the way, a spacer goes back only into an empty bay, a tray stays out beside the large
// pack, and on the way back a foil is laid before the cover goes on.
func conditional() *hw.Chassis {
	yes := hw.Known(true)
	return &hw.Chassis{ID: "c", Kind: hw.Notebook,
		Fasteners: []hw.Fastener{{ID: "lid", Bit: hw.Known("PH0"), Count: hw.Known(4)}},
		Slots: []hw.Slot{{ID: "m2a", Purpose: hw.ForStorage, Reach: "cover",
			Fixing: &hw.Fixing{Bit: hw.Known("PH1"), Screw: "M2x3", From: hw.FromKit}},
			{ID: "wl", Purpose: hw.ForWireless, Reach: "board"}},
		Bays:         []hw.Bay{{ID: "bay", Form: hw.Form25, Reach: "cover"}},
		Batteries:    []hw.Battery{{ID: "small"}, {ID: "large"}},
		BatteryReach: "plug",
		Services: []hw.Service{{ID: "fan", Reach: "board", Minutes: hw.Known(hw.DecOf(5)),
			Consumables: []string{"swabs"}}},
		Steps: []hw.Step{
			{ID: "off", Verb: hw.PowerDown},
			{ID: "screws", Verb: hw.Unscrew, Needs: []string{"off"},
				Fasteners: []hw.StepFasteners{{Group: "lid", Count: 4}}},
			{ID: "cover", Verb: hw.Unclip, Needs: []string{"screws"}},
			{ID: "plug", Verb: hw.Unplug, Needs: []string{"cover"}, IsolatesPwr: yes},
			{ID: "spacer", Verb: hw.Remove, Part: "spacer", Needs: []string{"plug"},
				When: &hw.Condition{Place: "bay", State: "empty"}, Back: &hw.Condition{Place: "bay", State: "empty"}},
			{ID: "tray", Verb: hw.Remove, Needs: []string{"spacer"},
				Back: &hw.Condition{Place: hw.BatteryPlace, State: "small"}},
			{ID: "ssd-out", Verb: hw.Remove, Needs: []string{"plug"}, Place: "m2a"},
			{ID: "board", Verb: hw.Remove, Needs: []string{"ssd-out", "tray"}, RemovesBoard: yes},
			{ID: "foil", Verb: hw.Lift, Part: "foil", Needs: []string{}, BackBefore: "cover", Bit: hw.Known("T5"),
				Cautions: []string{"smooth it"}},
		}}
}

// TestConditions walks through what is fitted, and what an opening leaves in the machine.
func TestConditions(t *testing.T) {
	drive := func(places ...string) *hw.Machine {
		m := &hw.Machine{Chassis: "c"}
		m.Fitted.Drives = []hw.FittedDrive{}
		for _, p := range places {
			m.Fitted.Drives = append(m.Fitted.Drives, hw.FittedDrive{Place: p})
		}
		m.Fitted.Battery = &hw.FittedBattery{Option: "small"}
		return m
	}
	ch := conditional()
	full := InsideOf(ch, drive("m2a", "bay"))
	bare := InsideOf(ch, drive())
	for _, c := range []struct {
		name     string
		targets  string
		job      Job
		down, up string
		refit    string
		minutes  string
	}{
		// In: 1 + 1.5 + 3 + 0.5 + 1 × 4 = 10, back 0.8 × 10, foil 1, fan 5.
		{"any machine", "fan", Job{}, "off screws cover plug spacer tray ssd-out board",
			"board ssd-out tray spacer plug foil cover screws off", "map[]", "24"},
		{"all filled: no spacer to take out", "fan", Job{Is: full, Ends: full}, "off screws cover plug tray ssd-out board",
			"board ssd-out tray plug foil cover screws off", "map[]", "22.2"},
		{"all empty: no drive to take out", "fan", Job{Is: bare, Ends: bare}, "off screws cover plug spacer tray board",
			"board tray spacer plug foil cover screws off", "map[]", "22.2"},
		{"the bay is filled: the spacer stays out", "bay", Job{Is: bare, Ends: bare.Filled("bay")}, "off screws cover plug",
			"plug foil cover screws off", "map[]", "14.8"},
		{"a drive into the empty slot under way", "m2a fan", Job{Is: bare, Ends: bare.Filled("m2a")},
			"off screws cover plug spacer tray board", "board tray spacer plug foil cover screws off", "map[m2a:board]",
			"25.2"},
		{"the drive changed when it goes back", "m2a wl", Job{Is: full, Ends: full}, "off screws cover plug tray ssd-out board",
			"board ssd-out tray plug foil cover screws off", "map[m2a:ssd-out]", "23.2"},
		{"the drive stays out", "m2a wl", Job{Is: full, Ends: full.Emptied("m2a")}, "off screws cover plug tray ssd-out board",
			"board tray plug foil cover screws off", "map[]", "22.4"},
		{"the large pack keeps the tray out", "battery wl", Job{Is: full, Ends: full.WithPack("large")},
			"off screws cover plug tray ssd-out board", "board ssd-out plug foil cover screws off", "map[]", "23.4"},
		{"battery not on the maker's list keeps it out too", "battery wl", Job{Is: full, Ends: full.WithPack("")},
			"off screws cover plug tray ssd-out board", "board ssd-out plug foil cover screws off", "map[]", "23.4"},
	} {
		s, err := RunSheet(t.Context(), ch, strings.Fields(c.targets), c.job)
		if err != nil {
			t.Fatal(err)
		}
		if down, up := strings.Join(s.Down, " "), strings.Join(s.Up, " "); down != c.down || up != c.up ||
			fmt.Sprint(s.SwapOnRefit) != c.refit || s.Minutes.String() != c.minutes {
			t.Errorf("%s:\n%s\n%s\n%v %s min", c.name, down, up, s.SwapOnRefit, s.Minutes)
		}
	}
	// What was not told counts as filled; the kit holds the fixing and the way back's bit.
	m := &hw.Machine{Chassis: "c"}
	s, err := RunSheet(t.Context(), ch, []string{"m2a"}, JobAsIs(ch, m, []string{"m2a"}))
	if err != nil || strings.Join(s.Down, " ") != "off screws cover plug" ||
		fmt.Sprint(s.Kit) != "{[PH0 PH1 T5] [] [M2x3]}" || fmt.Sprint(s.Cautions) != "[{foil smooth it}]" {
		t.Errorf("nothing told: %v %v %v %v", s.Down, s.Kit, s.Cautions, err)
	}
}

// TestUnplugged: any plug that comes off before the power is cut is live unless the record
// says that it is not; a machine without a battery has none.
func TestUnplugged(t *testing.T) {
	ch := &hw.Chassis{Slots: []hw.Slot{{ID: "m2a", Purpose: hw.ForStorage, Reach: "fan"}}, Steps: []hw.Step{
		{ID: "fan", Verb: hw.Unplug, Needs: []string{}},
		{ID: "plug", Verb: hw.Unplug, Needs: []string{"fan"}, IsolatesPwr: hw.Known(true)}}}
	cautions := func() string {
		s, err := RunSheet(t.Context(), ch, []string{"m2a"}, Job{})
		if err != nil {
			t.Fatal(err)
		}
		return fmt.Sprint(s.Cautions)
	}
	if got := cautions(); got != "[{fan live_unplug}]" {
		t.Errorf("a plug before isolation: %s", got)
	}
	ch.Steps[0].LiveRisk = hw.Known(false)
	if got := cautions(); got != "[]" {
		t.Errorf("one that the record says is dead: %s", got)
	}
	ch.Steps[0].LiveRisk, ch.Steps[1].IsolatesPwr = hw.Maybe[bool]{}, hw.Maybe[bool]{}
	if got := cautions(); got != "[{fan live_unplug} {fan no_isolation_step}]" {
		t.Errorf("nothing isolates: %s", got)
	}
	ch.Batteries = []hw.Battery{}
	if got := cautions(); got != "[]" {
		t.Errorf("no battery: %s", got)
	}
}

// TestGlueSaidNot: a film that is peeled is no glue when it says so.
func TestGlueSaidNot(t *testing.T) {
	for said, want := range map[string]bool{"": true, "yes": true, "no": false} {
		st := hw.Step{Verb: hw.Peel}
		if said != "" {
			st.Glued = hw.Known(said == "yes")
		}
		if Glued(&st) != want {
			t.Errorf("glue said %q: %v", said, !want)
		}
	}
}

// TestTooHard: an order that would take too long is refused, not guessed.
func TestTooHard(t *testing.T) {
	ch := graph(3, 220)
	if _, err := BestOrder(t.Context(), ch, all(ch)); err != ErrTooHard {
		t.Errorf("220 steps of six bits: %v", err)
	}
}
