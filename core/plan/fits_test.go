package plan

import (
	"strings"
	"testing"

	"yembo/core/hw"
)

// TestFitsIsLikeAsking: a part fits a machine where asking its places one by one finds one that takes it.
func TestFitsIsLikeAsking(t *testing.T) {
	seen := map[Fit]int{}
	for seed := range uint64(150) {
		in := newGen(seed).input(6)
		fits, err := Fits(t.Context(), in)
		if err != nil {
			t.Fatal(err)
		}
		// What is on the shelf, and what else a place needs, is another question.
		plenty := *in.Parts
		plenty.Parts = append([]hw.Part{}, in.Parts.Parts...)
		for i := range plenty.Parts {
			plenty.Parts[i].Stock = hw.Known(1000)
		}
		in.Parts = &plenty
		for i, fit := range fits {
			part := in.Parts.Parts[i]
			if kindIndex(part.Kind) == kNone {
				continue
			}
			answers, err := Ask(t.Context(), in, part)
			if err != nil {
				t.Fatal(err)
			}
			takes := false
			for _, a := range answers {
				takes = takes || a.Fits()
			}
			if takes && fit != FitYes {
				t.Errorf("seed %d: a place takes %s, and it does not fit", seed, part.ID)
			}
			seen[fit]++
		}
	}
	if seen[FitYes] == 0 || seen[FitNo] == 0 || seen[FitNotKnown] == 0 {
		t.Errorf("not every answer was given: %v", seen)
	}
}

// TestLookups: what the record lists, what would be better than what is there, and what no part is, would
// have to be found; what a part is, or is no better, would not.
func TestLookups(t *testing.T) {
	ch := &hw.Chassis{ID: "m", Kind: hw.Notebook,
		Slots: []hw.Slot{{ID: "m2a", Purpose: hw.ForStorage,
			Lengths: map[string]string{"80": "needs:bracket-m", "30": "fitted"}},
			{ID: "wlan", Purpose: hw.ForWireless, Lengths: map[string]string{"30": "needs:holder"}}},
		Bays: []hw.Bay{{ID: "bay25", Form: hw.Form25, Connector: hw.Known("needs:cable-m"),
			Caddy: hw.Known("needs:cable-m")}},
		Batteries: []hw.Battery{{ID: "small", DesignWh: hw.Known(hw.DecOf(40)), PartNumbers: []string{"QB-40"}},
			{ID: "large", DesignWh: hw.Known(hw.DecOf(70)), PartNumbers: []string{"QB-70", "QB-71"}},
			{ID: "tiny", DesignWh: hw.Known(hw.DecOf(30)), PartNumbers: []string{"QB-30"}},
			{ID: "odd", PartNumbers: []string{"QB-?"}}}}
	in := Input{Chassis: ch, Machine: &hw.Machine{Chassis: "m",
		Fitted: hw.Fitted{Battery: &hw.FittedBattery{Option: "small"}}}, Parts: &hw.Parts{}}
	says := func() string {
		var out []string
		for _, l := range Lookups(in) {
			out = append(out, string(l.Kind)+" "+l.Wanted+": "+l.Gives)
		}
		return strings.Join(out, "; ")
	}
	if got, want := says(), "battery QB-70: 70 Wh when new in place of 40 Wh; accessory bracket-m: m2a could take a "+
		"drive of 80 mm; "+
		"accessory cable-m: bay25 could take a drive"; got != want {
		t.Errorf("%q, not %q", got, want)
	}
	in.Parts.Parts = []hw.Part{{ID: "a", Kind: hw.KindAccessory, Provides: "cable-m"},
		{ID: "b", Kind: hw.KindBattery, Battery: &hw.Pack{PartNumber: "qb-71"}}}
	if got, want := says(), "accessory bracket-m: m2a could take a drive of 80 mm"; got != want {
		t.Errorf("with a cable and the pack on the shelf: %q, not %q", got, want)
	}
	in.Machine.Fitted.Battery = nil
	in.Parts.Parts = nil
	if strings.Contains(says(), "battery") {
		t.Error("nobody told which pack is in, and another is called better")
	}
}
