package proof

import (
	"slices"

	"yembo/core/hw"
	"yembo/core/plan"
)

// Fitted is the machine as an option leaves it: what it adds is there, what it takes out is not.
// serial tells the serial of what went into a place, "" where nobody noted it; left says which
// places were left as they were after all. What the machine's document does not tell of other places
// stays untold.
func Fitted(ch *hw.Chassis, m *hw.Machine, o *plan.Option, parts *hw.Parts, serial func(place string) string,
	left func(place string) bool) *hw.Machine {
	out := *m
	out.Fitted.Memory = slices.Clone(m.Fitted.Memory)
	out.Fitted.Drives = slices.Clone(m.Fitted.Drives)
	for _, a := range o.Actions {
		if a.Do == plan.DoKeep || left(a.Place) {
			continue
		}
		var part *hw.Part
		for i := range parts.Parts {
			if parts.Parts[i].ID == a.Part {
				part = &parts.Parts[i]
			}
		}
		if part == nil {
			part = &hw.Part{}
		}
		switch {
		case ch.SocketByID(a.Place) >= 0:
			out.Fitted.Memory = slices.DeleteFunc(out.Fitted.Memory, func(f hw.FittedModule) bool { return f.Socket == a.Place })
			if part.Memory != nil {
				mod := *part.Memory
				mod.Serial = serial(a.Place)
				out.Fitted.Memory = append(out.Fitted.Memory, hw.FittedModule{Socket: a.Place, Module: mod})
			}
		case a.Place == hw.BatteryPlace:
			out.Fitted.Battery = pack(ch, o, part)
		case part.Wireless != nil:
			out.Fitted.Wireless = &hw.FittedWireless{Slot: a.Place, Standard: hw.Known(part.Wireless.Standard)}
		default:
			out.Fitted.Drives = slices.DeleteFunc(out.Fitted.Drives, func(f hw.FittedDrive) bool { return f.Place == a.Place })
			if part.Drive != nil {
				d := *part.Drive
				d.Serial = serial(a.Place)
				f := hw.FittedDrive{Place: a.Place, Drive: d}
				if !part.Pulled() && !part.Brought() {
					f.New = hw.Known(true)
				}
				out.Fitted.Drives = append(out.Fitted.Drives, f)
			} else if w := out.Fitted.Wireless; w != nil && w.Slot == a.Place {
				out.Fitted.Wireless = nil
			}
		}
	}
	if o.Migration != nil && !left(o.Migration.Place) {
		for i := range out.Fitted.Drives {
			f := &out.Fitted.Drives[i]
			f.Boot = hw.Known(f.Place == o.Migration.Place)
		}
	}
	slices.SortStableFunc(
		out.Fitted.Memory,
		func(a, b hw.FittedModule) int { return ch.SocketByID(a.Socket) - ch.SocketByID(b.Socket) },
	)
	return &out
}

// Used is a machine whose drives are new no more: their hours count from here on.
func Used(m *hw.Machine) *hw.Machine {
	out := *m
	out.Fitted.Drives = slices.Clone(m.Fitted.Drives)
	for i := range out.Fitted.Drives {
		out.Fitted.Drives[i].New = hw.Maybe[bool]{}
	}
	return &out
}

// pack is the pack that an option fits: a new one holds what it was made to.
func pack(ch *hw.Chassis, o *plan.Option, part *hw.Part) *hw.FittedBattery {
	if part.Battery == nil {
		return nil
	}
	out := &hw.FittedBattery{PartNumber: part.Battery.PartNumber, FullWh: part.Battery.DesignWh}
	if o.Battery != nil && ch.BatteryByID(o.Battery.Option) >= 0 {
		out.Option, out.PartNumber = o.Battery.Option, ""
		if wh, told := ch.Batteries[ch.BatteryByID(o.Battery.Option)].DesignWh.Get(); told {
			out.FullWh = hw.Known(wh)
		}
	}
	if part.Pulled() {
		out.FullWh = hw.Maybe[hw.Dec]{} // what a used one holds nobody has said
	}
	return out
}
