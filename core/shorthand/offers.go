package shorthand

import (
	"fmt"
	"strings"

	"yembo/core/hw"
)

// Offer is a line that what was typed makes likely: what it says, as a question, and the line itself.
type Offer struct{ Says, Line string }

// mostOffers is how many of them are of use at once.
const mostOffers = 8

// Offers are the lines that typed ones make likely, in the order of these: unplugging the battery cuts the power; a
// place lies behind the last step that was typed before it, or where none was, behind the step that cuts the power.
// next is the record with the lines in it.
func Offers(lines []Line, next *hw.Chassis) []Offer {
	var out []Offer
	last := ""
	asked := map[string]bool{}
	offer := func(about, line, format string, args ...any) {
		if !asked[about] && len(out) < mostOffers {
			asked[about] = true
			out = append(out, Offer{fmt.Sprintf(format, args...), line})
		}
	}
	for _, l := range lines {
		for _, item := range l.Items {
			if i := next.StepByID(item.ID); item.List == "steps" && i >= 0 && next.Steps[i].BackBefore == "" {
				st := &next.Steps[i]
				last = st.ID
				if st.Verb == hw.Unplug && !st.IsolatesPwr.IsKnown() && strings.Contains(strings.ToLower(st.Part+" "+st.ID), "battery") &&
					isolating(next) == "" {
					offer(st.ID, st.ID+" iso", "%s: does it cut the power", sentence(st))
				}
				continue
			}
			behind := last
			if behind == "" {
				behind = isolating(next)
			}
			if behind == "" {
				continue
			}
			says := sentence(&next.Steps[next.StepByID(behind)])
			if item.List == "batteries" && next.BatteryReach == "" {
				offer(hw.BatteryPlace, "battery-reach >"+behind, "Does the pack lie behind this: %s", hw.LowerFirst(says))
			} else if p, ok := next.PlaceNamed(item.ID); ok && p.Reach == "" && p.Kind != hw.InPack {
				offer(p.ID, p.ID+" >"+behind, "Does %s lie behind this: %s", p.ID, hw.LowerFirst(says))
			}
		}
	}
	return out
}

// isolating is the first step that cuts the power, "" where none says so.
func isolating(ch *hw.Chassis) string {
	for i := range ch.Steps {
		if ch.Steps[i].IsolatesPwr.Or(false) {
			return ch.Steps[i].ID
		}
	}
	return ""
}

func sentence(st *hw.Step) string { return strings.TrimSuffix(st.Does(), " it") }
