package draw

import (
	"strconv"
	"strings"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/power"
)

// Mark is what an option does to a place in the drawing.
type Mark struct {
	Box  Box
	Kind string // new, out, moved, excluded
	Text string
}

// MarksOf marks in the drawing what an option puts in, takes out and moves, and what cannot
// be used beside it any more. names are those of the parts by their ids.
func (d *Inside) MarksOf(in plan.Input, o *plan.Option, names map[string]string) []Mark {
	ch := in.Chassis
	width, depth := OutlineOf(ch)
	l := Propose(ch, width, depth)
	var out []Mark
	mark := func(place, kind, text string) {
		at, ok := l.At[place]
		if !ok {
			return
		}
		out = append(out, Mark{d.box(at, ""), kind, text})
	}
	placeOf := func(a plan.Action) string {
		if a.Place != hw.BatteryPlace {
			return a.Place
		}
		for _, part := range in.Parts.Parts {
			if part.ID != a.Part || part.Battery == nil {
				continue
			}
			if i := power.OptionFor(ch, part.Battery.PartNumber); i >= 0 {
				return hw.PackName(ch.Batteries[i].ID)
			}
		}
		return a.Place
	}
	fresh := map[string]bool{}
	for _, a := range o.Actions {
		switch a.Do {
		case plan.DoAdd, plan.DoReplace:
			fresh[placeOf(a)] = true
			mark(placeOf(a), "new", a.Place+": "+names[a.Part])
			out = append(out, d.movedFor(in, a, placeOf(a))...)
		case plan.DoRemove:
			mark(a.Place, "out", a.Place)
		}
	}
	for _, place := range l.Names {
		for put := range fresh {
			if place != put && ch.Excluded(put, place) {
				mark(place, "excluded", hw.PlaceSays(place))
			}
		}
	}
	return out
}

// movedFor is what moves when a part goes into a place: the post of a slot, from where the
// old module ended, and what the record says goes over from the old part to the new one.
func (d *Inside) movedFor(in plan.Input, a plan.Action, place string) []Mark {
	ch := in.Chassis
	var out []Mark
	if i := ch.SlotByID(a.Place); i >= 0 {
		mm := strconv.Itoa(lengthOf(in.Parts, a.Part))
		if ch.Slots[i].Lengths[mm] == "movable" && mm != strconv.Itoa(fittedLength(in.Machine, a.Place)) {
			if at, drawn := d.postAt(a.Place, mm); drawn {
				out = append(out, Mark{Box{X: at.X - 9, Y: at.Y - 9, W: 18, H: 18}, "moved",
					"the post of " + a.Place + ", to " + mm + " mm"})
			}
		}
	}
	if over := carryOver(ch, place); len(over) > 0 && a.Do == plan.DoReplace {
		out = append(out, Mark{Kind: "moved",
			Text: strings.Join(over, ", ") + " of " + a.Place + ", from the old part to the new one"})
	}
	return out
}

func (d *Inside) postAt(slot, label string) (post, bool) {
	for i := range d.Slots {
		for _, at := range d.Slots[i].Posts {
			if d.Slots[i].ID == slot && at.Label == label {
				return at, true
			}
		}
	}
	return post{}, false
}

// lengthOf is how long an M.2 part is in mm; 0 where it is none or nobody knows.
func lengthOf(parts *hw.Parts, id string) int {
	for i := range parts.Parts {
		switch part := &parts.Parts[i]; {
		case part.ID != id:
		case part.Drive != nil:
			return part.Drive.Length.Or(0)
		case part.Wireless != nil:
			return part.Wireless.Length.Or(0)
		}
	}
	return 0
}

func fittedLength(m *hw.Machine, place string) int {
	for i := range m.Fitted.Drives {
		if m.Fitted.Drives[i].Place == place {
			return m.Fitted.Drives[i].Drive.Length.Or(0)
		}
	}
	return 0
}

func carryOver(ch *hw.Chassis, place string) []string {
	if i := ch.SlotByID(place); i >= 0 {
		return ch.Slots[i].CarryOver
	}
	if i := ch.BayByID(place); i >= 0 {
		return ch.Bays[i].CarryOver
	}
	if i := ch.BatteryByID(strings.TrimPrefix(place, "battery:")); i >= 0 {
		return ch.Batteries[i].CarryOver
	}
	return nil
}
