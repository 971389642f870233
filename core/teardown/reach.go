// Package teardown knows the way into a machine: which steps a place lies behind,
// in which order they are best done, and how long that takes (handbook 7).
package teardown

import (
	"yembo/core/hw"
)

// Down returns, for each step of the chassis in its order, whether it has to be
// done before the given reaches can be worked on: the reaches themselves, all
// they need, and every step that isolates power with all that it needs. Reaches
// that are "" (not known) add nothing.
//
// The record must be valid: no circle, no missing step.
func Down(ch *hw.Chassis, reaches []string) []bool {
	down := make([]bool, len(ch.Steps))
	index := stepIndex(ch)
	for _, r := range reaches {
		if i, ok := index[r]; ok {
			mark(ch, index, i, down)
		}
	}
	for i := range ch.Steps {
		if ch.Steps[i].IsolatesPwr.Or(false) {
			mark(ch, index, i, down)
		}
	}
	return down
}

func stepIndex(ch *hw.Chassis) map[string]int {
	index := make(map[string]int, len(ch.Steps))
	for i := range ch.Steps {
		index[ch.Steps[i].ID] = i
	}
	return index
}

// mark sets a step and all that it needs.
func mark(ch *hw.Chassis, index map[string]int, i int, down []bool) {
	if down[i] {
		return
	}
	down[i] = true
	for _, need := range ch.Steps[i].Needs {
		if j, ok := index[need]; ok {
			mark(ch, index, j, down)
		}
	}
}

// Live returns, for each step, whether it takes off a plug that carries power at
// that time: it is marked live_risk and stands before the last isolating step, or
// the model has no isolating step. Isolation comes as early as its needs allow, so
// what stands before it is exactly what it and the earlier isolating steps need.
func Live(ch *hw.Chassis, down []bool) []bool {
	live := make([]bool, len(ch.Steps))
	before := make([]bool, len(ch.Steps))
	index := stepIndex(ch)
	last := -1
	for i := range ch.Steps {
		if ch.Steps[i].IsolatesPwr.Or(false) && !before[i] {
			mark(ch, index, i, before)
			last = i
		}
	}
	if last >= 0 {
		before[last] = false
	}
	for i := range ch.Steps {
		live[i] = down[i] && ch.Steps[i].LiveRisk.Or(false) && (last < 0 || before[i])
	}
	return live
}

// Screws is how many screws a step turns.
func Screws(s *hw.Step) int {
	n := 0
	for _, f := range s.Fasteners {
		n += f.Count
	}
	return n
}

// StepMinutes is how long a step takes: its own figure, else the handbook's
// (0.5 + 0.25 a screw for unscrew and loosen, 3 unclip, 0.5 unplug or unlatch, 1
// anything else).
func StepMinutes(s *hw.Step) hw.Minutes {
	if own, ok := s.Minutes.Get(); ok {
		return hw.MinutesOf(own)
	}
	switch s.Verb {
	case "unscrew", "loosen":
		return hw.Minutes(500 + 250*Screws(s))
	case "unclip":
		return 3000
	case "unplug", "unlatch":
		return 500
	}
	return 1000
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

// Swap minutes by kind of part (handbook 7).
const (
	SwapMemory   hw.Minutes = 2000
	SwapDrive    hw.Minutes = 3000
	SwapBattery  hw.Minutes = 4000
	SwapWireless hw.Minutes = 3000
)

// SwapMinutes is the swap of one place, by what the place holds.
func SwapMinutes(ch *hw.Chassis, place string) hw.Minutes {
	switch {
	case place == hw.BatteryPlace:
		return SwapBattery
	case ch.SocketByID(place) >= 0:
		return SwapMemory
	case ch.BayByID(place) >= 0:
		return SwapDrive
	}
	if i := ch.SlotByID(place); i >= 0 && ch.Slots[i].Purpose != "storage" {
		return SwapWireless
	}
	return SwapDrive
}

// BoardOut, Glued and Sealed say what a step costs in risk.
func BoardOut(s *hw.Step) bool { return s.RemovesBoard.Or(false) }

// Glued reports a step that peels or frees glue.
func Glued(s *hw.Step) bool { return s.Verb == "peel" || s.Glued.Or(false) }

// Sealed reports a step that breaks a seal.
func Sealed(s *hw.Step) bool { return s.Verb == "open_seal" || s.Seal.Or(false) }
