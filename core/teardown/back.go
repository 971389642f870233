package teardown

import (
	"fmt"

	"yembo/core/hw"
)

// Back says in words how a step is undone on the way back (handbook 7: unplug →
// plug in, peel → lay back on its marks, unscrew → start all loosely, then tighten).
func Back(ch *hw.Chassis, st *hw.Step) string {
	part := "the " + st.Part
	if st.Part == "" {
		part = "it"
	}
	words := ""
	switch st.Verb {
	case "power_down":
		return "Charger in: many machines do not start from a battery that was unplugged. Start it"
	case "drain":
		return "Nothing to undo: it charges again"
	case "open_seal":
		return "Note the broken seal for the customer"
	case "unscrew":
		words = fmt.Sprintf("Screw %s back: start all%s loosely, then tighten", part, screwWords(ch, st))
	case "loosen":
		words = fmt.Sprintf("Tighten %s: start all%s, then tighten", part, screwWords(ch, st))
	case "unclip":
		words = fmt.Sprintf("Press %s home edge by edge, and look round the seam for gaps", part)
	case "unplug":
		words = fmt.Sprintf("Plug %s in, by its body, until it sits", part)
	case "unlatch":
		words = fmt.Sprintf("Close the latch of %s", part)
	case "lift":
		words = fmt.Sprintf("Set %s back in its place", part)
	case "peel":
		words = fmt.Sprintf("Lay %s back on its marks", part)
	case "slide":
		words = fmt.Sprintf("Slide %s back until it stops", part)
	case "swing":
		words = fmt.Sprintf("Swing %s back", part)
	case "flip":
		words = fmt.Sprintf("Turn %s back", part)
	default:
		words = fmt.Sprintf("Put %s back", part)
	}
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
		switch {
		case st.Verb == "unplug":
			out = append(out, "plugged in: "+st.Part)
		case st.Place != "":
			out = append(out, "back in: "+st.Place)
		case st.Verb == "lift" || st.Verb == "remove" || st.Verb == "peel":
			out = append(out, "back on: "+st.Part)
		}
	}
	return out
}
