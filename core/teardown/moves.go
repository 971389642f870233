package teardown

import (
	"fmt"

	"yembo/core/hw"
)

// movesOf turns the marked steps into moves, in the order of the document, with the
// needs that isolation adds: each step that isolates power comes as early as its
// own needs and the earlier isolating steps allow.
func movesOf(ch *hw.Chassis, down []bool) ([]move, error) {
	at := map[string]int{}
	var moves []move
	for i := range ch.Steps {
		if !down[i] {
			continue
		}
		at[ch.Steps[i].ID] = len(moves)
		moves = append(moves, move{step: i})
	}
	if len(moves) > MaxSteps {
		return nil, fmt.Errorf("%d steps have to be done; an order is found for %d at most", len(moves), MaxSteps)
	}
	names := map[string]int8{}
	for k := range moves {
		st := &ch.Steps[moves[k].step]
		for _, need := range st.Needs {
			if j, ok := at[need]; ok {
				moves[k].needs |= 1 << j
			}
		}
		for _, bit := range StepBits(ch, st) {
			n, seen := names[bit]
			if !seen {
				n = int8(len(names))
				names[bit] = n
			}
			moves[k].bits = append(moves[k].bits, n)
		}
		switch st.Side {
		case "top":
			moves[k].side = 1
		case "bottom":
			moves[k].side = 2
		}
	}
	isolateEarly(ch, moves)
	return moves, nil
}

func isolateEarly(ch *hw.Chassis, moves []move) {
	before := ancestors(moves)
	var placed uint64
	blockOf := make([]uint64, len(moves))
	for k := range moves {
		if !ch.Steps[moves[k].step].IsolatesPwr.Or(false) {
			continue
		}
		own := before[k] | 1<<k
		// What is placed already comes first; within its own block the rest waits.
		waits := ^(placed | own)
		if placed&(1<<k) != 0 {
			waits = blockOf[k] &^ own
		}
		for j := range moves {
			if own&(1<<j) != 0 && placed&(1<<j) == 0 {
				blockOf[j] = own &^ placed
			}
		}
		for j := range moves {
			// A step that this one needs anyway cannot wait for it.
			if waits&(1<<j) != 0 && before[k]&(1<<j) == 0 && before[j]&(1<<k) == 0 && !reaches(moves, k, j) {
				moves[j].needs |= 1 << k
			}
		}
		placed |= own
	}
}

// reaches reports whether j is among what k needs, with the needs added so far.
func reaches(moves []move, k, j int) bool { return ancestors(moves)[k]&(1<<j) != 0 }

// ancestors lists for each move everything it needs, near and far.
func ancestors(moves []move) []uint64 {
	out := make([]uint64, len(moves))
	done := make([]bool, len(moves))
	var visit func(k int) uint64
	visit = func(k int) uint64 {
		if done[k] {
			return out[k]
		}
		done[k] = true
		for j := range moves {
			if moves[k].needs&(1<<j) != 0 {
				out[k] |= 1<<j | visit(j)
			}
		}
		return out[k]
	}
	for k := range moves {
		visit(k)
	}
	return out
}

// StepBits is the bits a step wants, each once: its own, or those of its screws.
func StepBits(ch *hw.Chassis, st *hw.Step) []string {
	if bit, ok := st.Bit.Get(); ok {
		return []string{bit}
	}
	var out []string
	for _, f := range st.Fasteners {
		i := ch.FastenerByID(f.Group)
		if i < 0 {
			continue
		}
		bit, ok := ch.Fasteners[i].Bit.Get()
		if !ok {
			continue
		}
		seen := false
		for _, b := range out {
			seen = seen || b == bit
		}
		if !seen {
			out = append(out, bit)
		}
	}
	return out
}
