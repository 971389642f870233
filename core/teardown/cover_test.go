package teardown

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"yembo/core/hw"
)

// TestClosing: whatever the way and the option, all that the list before the cover names is undone on
// that way back, before the cover's own step; and no plug or part that goes back there is left out.
func TestClosing(t *testing.T) {
	for seed := range uint64(500) {
		r := rand.New(rand.NewPCG(seed, 9))
		ch := graph(seed, 10)
		verbs := []hw.Verb{hw.Unplug, hw.Lift, hw.Peel, hw.Remove, hw.Unscrew}
		for i := range ch.Steps {
			st := &ch.Steps[i]
			st.Part, st.Verb = "part of "+st.ID, verbs[r.IntN(len(verbs))]
			state := func() *hw.Condition {
				return &hw.Condition{Place: fmt.Sprintf("m%d", r.IntN(2)), State: []string{hw.StateFilled, hw.StateEmpty}[r.IntN(2)]}
			}
			switch r.IntN(6) {
			case 0:
				st.When = state()
			case 1:
				st.Back = state()
			case 2:
				st.Place = fmt.Sprintf("m%d", r.IntN(2))
			}
		}
		for i := range 2 {
			ch.Slots = append(ch.Slots, hw.Slot{ID: fmt.Sprintf("m%d", i), Purpose: hw.ForStorage, Reach: fmt.Sprintf("s%d", r.IntN(10))})
		}
		m := &hw.Machine{Chassis: "g"}
		m.Fitted.Drives = []hw.FittedDrive{}
		for i := range 2 {
			if r.IntN(2) == 0 {
				m.Fitted.Drives = append(m.Fitted.Drives, hw.FittedDrive{Place: fmt.Sprintf("m%d", i)})
			}
		}
		is := InsideOf(ch, m)
		s, err := RunSheet(t.Context(), ch, []string{"m0", "m1"}, Job{Is: is,
			Ends: is.with("m0", r.IntN(2) == 0).with("m1", r.IntN(2) == 0)})
		if err != nil {
			t.Fatal(err)
		}
		cover := slices.Index(s.Up, CoverOn(ch, s.Up))
		if cover < 0 {
			cover = len(s.Up)
		}
		var want []string
		for _, id := range s.Up[:cover] {
			st := &ch.Steps[ch.StepByID(id)]
			switch row := st.Verb.Row(); {
			case st.Place != "" && st.Verb != hw.Unplug:
				want = append(want, "back in: "+st.Place)
			case row.Closing != "":
				want = append(want, row.Closing+": "+st.Part)
			}
		}
		if got := Closing(ch, s.Up); !slices.Equal(got, want) {
			t.Fatalf("seed %d: before the cover %q, which of the way back is %q", seed, got, want)
		}
	}
}

// TestClosingFollowsOption: what stays out is not asked for, and what lies behind the cover is.
func TestClosingFollowsOption(t *testing.T) {
	ch := conditional()
	drives := func(places ...string) *Inside {
		m := &hw.Machine{Chassis: "c"}
		m.Fitted.Drives = []hw.FittedDrive{}
		for _, p := range places {
			m.Fitted.Drives = append(m.Fitted.Drives, hw.FittedDrive{Place: p})
		}
		m.Fitted.Battery = &hw.FittedBattery{Option: "small"}
		return InsideOf(ch, m)
	}
	for _, c := range []struct {
		name, target string
		job          Job
		want         string
	}{
		{"the spacer stays out beside the drive", "fan", Job{Is: drives(), Ends: drives("bay")},
			"[back on: board back on: tray plugged in: plug]"},
		{"it goes back into the empty bay", "fan", Job{Is: drives(), Ends: drives()},
			"[back on: board back on: tray back on: spacer plugged in: plug]"},
		{"the drive that was in the way is back", "fan", Job{Is: drives("m2a"), Ends: drives("m2a")},
			"[back on: board back in: m2a back on: tray back on: spacer plugged in: plug]"},
		{"the drive stays out", "fan", Job{Is: drives("m2a"), Ends: drives()},
			"[back on: board back on: tray back on: spacer plugged in: plug]"},
	} {
		s, err := RunSheet(t.Context(), ch, []string{c.target}, c.job)
		if err != nil {
			t.Fatal(err)
		}
		if got := fmt.Sprint(Closing(ch, s.Up)); got != c.want {
			t.Errorf("%s: %s, not %s", c.name, got, c.want)
		}
	}
}

// TestPaste: a heat sink that is lifted, for whatever is behind it, puts paste into the kit and its
// caution right after the step's own.
func TestPaste(t *testing.T) {
	ch := conditional()
	i := ch.StepByID("board")
	ch.Steps[i].RenewsPaste, ch.Steps[i].Cautions = hw.Known(true), []string{"do_not_force"}
	s, err := RunSheet(t.Context(), ch, []string{"fan"}, Job{})
	if err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(s.Kit.Consumables); got != "[thermal paste isopropyl alcohol swabs]" {
		t.Errorf("the kit has %s", got)
	}
	var codes []hw.CautionCode
	for _, c := range s.Cautions {
		if c.Step == "board" {
			codes = append(codes, c.Code)
		}
	}
	if fmt.Sprint(codes) != "[do_not_force paste board_out]" {
		t.Errorf("cautions %v", codes)
	}
	for _, target := range []string{"m2a"} {
		if s, _ := RunSheet(t.Context(), ch, []string{target}, Job{}); len(s.Kit.Consumables) > 1 {
			t.Errorf("for %s the heat sink stays, and the kit has %v", target, s.Kit.Consumables)
		}
	}
}
