package teardown

import (
	"fmt"

	"yembo/core/hw"
)

// Back says in words how a step is undone on the way back (handbook 7: unplug →
// plug in, peel → lay back on its marks, unscrew → start all loosely, then tighten).
func Back(ch *hw.Chassis, st *hw.Step) string {
	words := st.Undone(screwWords(ch, st))
	if st.CloseHint != "" {
		words += ": " + st.CloseHint
	}
	return words
}

func screwWords(ch *hw.Chassis, st *hw.Step) string {
	n := Screws(st)
	if n < 2 {
		return ""
	}
	words := fmt.Sprintf(" %d", n)
	orders := false
	for _, f := range st.Fasteners {
		if i := ch.FastenerByID(f.Group); i >= 0 && len(ch.Fasteners[i].Order) > 0 {
			orders = true
		}
	}
	if orders {
		words += " in the printed order,"
	}
	return words
}

// Closing lists what is looked at before the cover goes on: every plug that came off
// is back, every place that was taken out is served, the tray is empty but for the
// cover's own screws. steps are indexes in the order they were done on the way down.
func Closing(ch *hw.Chassis, steps []int) []string {
	var out []string
	for k := len(steps) - 1; k >= 0; k-- {
		st := &ch.Steps[steps[k]]
		switch row := st.Verb.Row(); {
		case st.Place != "" && row.Verb != hw.Unplug:
			out = append(out, "back in: "+st.Place)
		case row.Closing != "":
			out = append(out, row.Closing+": "+st.Part)
		}
	}
	return out
}
