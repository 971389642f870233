package draw

import (
	"math"
	"strconv"
	"strings"

	"yembo/core/hw"
	"yembo/core/teardown"
)

// StepWords is a step in words: what is done, with how many screws of which bit, and from
// where.
func StepWords(ch *hw.Chassis, st *hw.Step) string {
	words := strings.TrimSuffix(st.Does(), " it")
	if n := teardown.Screws(st); n > 0 {
		words += ", " + hw.Count(n, "screw", "screws")
		if i := ch.FastenerByID(st.Fasteners[0].Group); i >= 0 {
			if bit, ok := ch.Fasteners[i].Bit.Get(); ok {
				words += " " + bit
			}
		}
	}
	if st.StartAt != "" {
		words += ", from the " + st.StartAt
	}
	if st.IsolatesPwr.Or(false) {
		words += ": power is disconnected from here on"
	}
	return words
}

// MM writes a length to a tenth of a millimetre.
func MM(v float64) string { return strconv.FormatFloat(math.Round(v*10)/10, 'f', -1, 64) }

// KnownFrom says how the fact that speaks for a place is known: its source, when, and whether
// it is disputed.
func KnownFrom(ch *hw.Chassis, at, leading string) (source, date string, disputed bool) {
	var c callOut
	c.mark(ch, at, leading)
	return c.Source, c.Date, c.Disputed
}
