package teardown

import (
	"fmt"

	"yembo/core/hw"
)

// Back says in words how a step is undone on the way back (docs/rules.md, The way in: unplug →
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
