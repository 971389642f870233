package teardown

import (
	"fmt"

	"yembo/core/hw"
)

// movesOf turns the marked steps into moves, in the order of the document, with the
// needs that isolation adds: each step that isolates power comes as early as its
// own needs and the earlier isolating steps allow.
func (w *Ways) movesOf(down []bool) ([]move, error) {
	ch := w.ch
	at := map[int]int{}
	var moves []move
	for i := range ch.Steps {
		if !down[i] {
			continue
		}
		at[i] = len(moves)
		moves = append(moves, move{step: i})
	}
	if len(moves) > MaxSteps {
		return nil, fmt.Errorf("%d steps have to be done; an order is found for %d at most", len(moves), MaxSteps)
	}
	names := map[string]int8{}
	for k := range moves {
		st := &ch.Steps[moves[k].step]
		for _, need := range w.needs[moves[k].step] {
			if j, ok := at[need]; ok {
				moves[k].needs.add(j)
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
		case hw.TopUp:
			moves[k].side = 1
		case hw.BottomUp:
			moves[k].side = 2
		}
	}
	isolateEarly(ch, moves)
	return moves, nil
}

func isolateEarly(ch *hw.Chassis, moves []move) {
	var placed set
	blockOf := make([]set, len(moves))
	for k := range moves {
		if !ch.Steps[moves[k].step].IsolatesPwr.Or(false) {
			continue
		}
		// Its own block is what it needs; within an earlier block the rest waits.
		own := ancestors(moves)[k]
		own.add(k)
		inBlock := placed.has(k)
		block := blockOf[k]
		for j := range moves {
			if own.has(j) {
				if !placed.has(j) {
					blockOf[j] = own
				}
				continue
			}
			if waits := !placed.has(j) || (inBlock && block.has(j)); waits && !ancestors(moves)[k].has(j) {
				moves[j].needs.add(k)
			}
		}
		for j := range moves {
			if own.has(j) {
				placed.add(j)
			}
		}
	}
	reduce(moves)
}

// reduce fills near: the needs that no other need of the same move brings along.
func reduce(moves []move) {
	far := ancestors(moves)
	for k := range moves {
		for j := range moves {
			if !moves[k].needs.has(j) {
				continue
			}
			direct := true
			for other := range moves {
				direct = direct && !(other != j && moves[k].needs.has(other) && far[other].has(j))
			}
			if direct {
				moves[k].near = append(moves[k].near, j)
			}
		}
	}
}

// ancestors lists for each move everything it needs, near and far.
func ancestors(moves []move) []set {
	out := make([]set, len(moves))
	done := make([]bool, len(moves))
	var visit func(k int)
	visit = func(k int) {
		if done[k] {
			return
		}
		done[k] = true
		for j := range moves {
			if moves[k].needs.has(j) {
				visit(j)
				out[k].add(j)
				for w := range out[k] {
					out[k][w] |= out[j][w]
				}
			}
		}
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
