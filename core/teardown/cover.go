package teardown

import "yembo/core/hw"

// What stands between the parts of a machine and its cover: where the pack is looked at on the
// way in, and where on the way back everything behind the cover is back.

// LookAfter is the number, in a way in, of the step that bares the pack, after which it is looked
// at (docs/rules.md, battery): the last that the first isolating step needs, else the last that the
// pack lies behind; where neither is done the last step of all. -1 is before the first step, -2
// nowhere: the model has no pack, or nothing is opened.
func LookAfter(ch *hw.Chassis, down []string) int {
	if ch.Batteries != nil && len(ch.Batteries) == 0 || len(down) == 0 {
		return -2
	}
	at := map[string]int{}
	for i, id := range down {
		at[id] = i
	}
	for _, id := range down {
		st := &ch.Steps[ch.StepByID(id)]
		if !st.IsolatesPwr.Or(false) {
			continue
		}
		last := -1
		for _, need := range st.Needs {
			if i, done := at[need]; done {
				last = max(last, i)
			}
		}
		return last
	}
	if i, done := at[ch.BatteryReach]; done {
		return i
	}
	return len(down) - 1
}

// CoverOn is the step of a way back before which everything that lies behind the cover is back:
// the first of those that put the cover on. "" is a way back without one.
func CoverOn(ch *hw.Chassis, up []string) string {
	outer := map[string]bool{} // what the plug of the battery lies behind: the cover and its like
	var behind func(id string)
	behind = func(id string) {
		i := ch.StepByID(id)
		if i < 0 || outer[id] {
			return
		}
		outer[id] = true
		for _, need := range ch.Steps[i].Needs {
			behind(need)
		}
	}
	for i := range ch.Steps {
		if ch.Steps[i].IsolatesPwr.Or(false) {
			for _, need := range ch.Steps[i].Needs {
				behind(need)
			}
		}
	}
	if len(outer) == 0 { // nothing isolates: the last that is put back is the cover
		for i := len(up) - 1; i >= 0; i-- {
			if st := &ch.Steps[ch.StepByID(up[i])]; st.Verb != hw.PowerDown {
				outer[st.ID] = true
				if st.Verb.Row().Turns {
					continue // the screws of the cover, and then the cover
				}
				break
			}
		}
	}
	first := ""
	for i := len(up) - 1; i >= 0; i-- {
		st := &ch.Steps[ch.StepByID(up[i])]
		if st.Verb == hw.PowerDown {
			continue
		}
		if !outer[st.ID] && st.BackBefore == "" {
			break
		}
		first = st.ID
	}
	return first
}

// Closing lists what is looked at before the cover goes on, in the order in which it was put back:
// every plug and part that this way back puts back before the cover's own step. What stays out, or
// goes back after the cover, is not among it.
func Closing(ch *hw.Chassis, up []string) []string {
	var out []string
	cover := CoverOn(ch, up)
	for _, id := range up {
		if id == cover {
			break
		}
		st := &ch.Steps[ch.StepByID(id)]
		switch row := st.Verb.Row(); {
		case st.BackBefore != "":
		case st.Place != "" && row.Verb != hw.Unplug:
			out = append(out, "back in: "+st.Place)
		case row.Closing != "":
			name := st.Part
			if name == "" {
				name = st.ID
			}
			out = append(out, row.Closing+": "+name)
		}
	}
	return out
}
