package teardown

import "yembo/core/hw"

// Inside says what sits where in one machine, as far as it was told: the conditions of
// steps are judged by it. What was not told counts as filled, a battery that was not told
// as any of the model's packs. A nil *Inside knows nothing of a machine: every step counts.
type Inside struct {
	empty    map[string]bool // places told to be empty
	pack     string          // the pack's id; "" for one on no list
	packTold bool
}

// InsideOf reads what a machine's document tells.
func InsideOf(ch *hw.Chassis, m *hw.Machine) *Inside {
	in := &Inside{empty: map[string]bool{}}
	sits := map[string]bool{}
	for i := range m.Fitted.Memory {
		sits[m.Fitted.Memory[i].Socket] = true
	}
	for i := range m.Fitted.Drives {
		sits[m.Fitted.Drives[i].Place] = true
	}
	if m.Fitted.Wireless != nil {
		sits[m.Fitted.Wireless.Slot] = true
	}
	told := map[hw.PartKind]bool{hw.KindMemory: m.Fitted.Memory != nil, hw.KindDrive: m.Fitted.Drives != nil,
		hw.KindWireless: m.Fitted.Wireless != nil}
	for _, p := range ch.Places() {
		if p.Kind != hw.InPack && told[p.Takes] && !sits[p.ID] {
			in.empty[p.ID] = true
		}
	}
	if b := m.Fitted.Battery; b != nil {
		in.pack, in.packTold = b.Option, true
	}
	return in
}

// Filled is the machine with something put into a place.
func (in *Inside) Filled(place string) *Inside { return in.with(place, false) }

// Emptied is the machine with a place emptied.
func (in *Inside) Emptied(place string) *Inside { return in.with(place, true) }

func (in *Inside) with(place string, empty bool) *Inside {
	if in == nil {
		return nil
	}
	out := *in
	out.empty = make(map[string]bool, len(in.empty)+1)
	for id := range in.empty {
		out.empty[id] = true
	}
	if delete(out.empty, place); empty {
		out.empty[place] = true
	}
	return &out
}

// WithPack is the machine with one of the model's packs in it, "" for one on no list.
func (in *Inside) WithPack(id string) *Inside {
	if in == nil {
		return nil
	}
	out := *in
	out.pack, out.packTold = id, true
	return &out
}

// isEmpty reports whether a place is told to be empty.
func (in *Inside) isEmpty(place string) bool { return in != nil && in.empty[place] }

// holds reports whether a step's condition holds; a step without one is always done.
func (in *Inside) holds(c *hw.Condition) bool {
	switch {
	case c == nil || in == nil:
		return true
	case c.Place == hw.BatteryPlace:
		return !in.packTold || in.pack == c.State
	}
	return in.empty[c.Place] == (c.State == hw.StateEmpty)
}
