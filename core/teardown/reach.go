// Package teardown knows the way into a machine: which steps a place lies behind,
// in which order they are best done, and how long that takes (docs/rules.md, The way in).
package teardown

import (
	"yembo/core/hw"
)

// Screws is how many screws a step turns.
func Screws(s *hw.Step) int {
	n := 0
	for _, f := range s.Fasteners {
		n += f.Count
	}
	return n
}

// StepMinutes is how long a step takes: its own figure, else the usual one of its verb.
func StepMinutes(s *hw.Step) hw.Minutes {
	if own, ok := s.Minutes.Get(); ok {
		return hw.MinutesOf(own)
	}
	row := s.Verb.Row()
	return row.Minutes + row.PerScrew*hw.Minutes(Screws(s))
}

// DownMinutes adds the minutes of the steps that are done.
func DownMinutes(ch *hw.Chassis, down []bool) hw.Minutes {
	var sum hw.Minutes
	for i := range ch.Steps {
		if down[i] {
			sum += StepMinutes(&ch.Steps[i])
		}
	}
	return sum
}

// Depth is how deep a place lies in a closed machine.
type Depth struct {
	Known   bool // the record says behind which step it lies
	Steps   int
	Minutes hw.Minutes // down, without the work and the way back
	Bits    []string   // in the order of the steps
	Tools   []string
	Glued   bool // glue has to give way
	Sealed  bool // a seal is broken
	Board   bool // the main board comes out
}

// DepthOf adds up the steps down to a reach, all that they need and the isolating of
// power included. A reach that is "" is not known.
func DepthOf(ch *hw.Chassis, reach string) Depth {
	var d Depth
	if reach == "" {
		return d
	}
	down := Down(ch, []string{reach})
	d.Known, d.Minutes = true, DownMinutes(ch, down)
	for i := range ch.Steps {
		st := &ch.Steps[i]
		if !down[i] {
			continue
		}
		d.Steps++
		for _, bit := range StepBits(ch, st) {
			addOnce(&d.Bits, bit)
		}
		if st.Tool != "" {
			addOnce(&d.Tools, st.Tool)
		}
		d.Glued, d.Sealed, d.Board = d.Glued || Glued(st), d.Sealed || Sealed(st), d.Board || BoardOut(st)
	}
	return d
}

// Swap minutes by kind of part (docs/rules.md, The way in).
const (
	SwapMemory   hw.Minutes = 2000
	SwapDrive    hw.Minutes = 3000
	SwapBattery  hw.Minutes = 4000
	SwapWireless hw.Minutes = 3000
)

// Swap is the swap minutes of what goes into a place.
func Swap(takes hw.PartKind) hw.Minutes {
	switch takes {
	case hw.KindMemory:
		return SwapMemory
	case hw.KindBattery:
		return SwapBattery
	case hw.KindDrive:
		return SwapDrive
	case hw.KindWireless, hw.KindAccessory: // they change nothing here
	}
	return SwapWireless
}

// SwapMinutes is the swap of one place, by what the place takes.
func SwapMinutes(ch *hw.Chassis, place string) hw.Minutes {
	if place == hw.BatteryPlace {
		return SwapBattery
	}
	p, _ := ch.PlaceNamed(place)
	return Swap(p.Takes)
}

// BoardOut, Glued and Sealed say what a step costs in risk.
func BoardOut(s *hw.Step) bool { return s.RemovesBoard.Or(false) }

// Glued reports a step that peels or frees glue.
func Glued(s *hw.Step) bool { return s.Verb == hw.Peel && s.Glued.Or(true) || s.Glued.Or(false) }

// Sealed reports a step that breaks a seal.
func Sealed(s *hw.Step) bool { return s.Verb == hw.OpenSeal || s.Seal.Or(false) }
