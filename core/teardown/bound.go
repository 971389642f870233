package teardown

import "math/bits"

// none is less than any count.
const none int8 = -100

// bound is what is left to pay at the least. Along a chain of needs, a bit is picked
// up anew each time it comes after a step that wants another one; the longest such
// count over all chains is owed for each bit, so the sum over the bits is. The turns
// along a chain are owed too.
func (s *solver) bound(at state) cost {
	c, _ := s.boundWithin(at, cost{MaxSteps * 2, MaxSteps * 2})
	return c
}

// boundWithin is bound, given up as soon as it passes the allowance.
func (s *solver) boundWithin(at state, allow cost) (cost, bool) {
	c := cost{flips: s.turns(at)}
	if c.flips > allow.flips {
		return c, false
	}
	c.bits = s.pickUps(at)
	return c, c.bits <= allow.bits
}

// maxBits is how many different bits are counted one by one; more are counted as
// none, which only weakens the bound.
const maxBits = 8

// pickUps counts how often bits must still be picked up. For each undone move and
// each bit it keeps the count for the worst chain that ends there: with the bit
// still in hand (open), and with another one in hand since (shut).
func (s *solver) pickUps(at state) int {
	var open, shut [MaxSteps][maxBits]int8
	var most [maxBits]int8
	var fromOpen [maxBits]int8
	n := min(s.bits, maxBits)
	var fromShut [maxBits]int8
	for b := range n {
		fromOpen[b] = none
		if at.bit == int8(b) {
			fromOpen[b], fromShut[b] = 0, none
		}
	}
	for _, i := range s.topo {
		if at.done&(1<<i) != 0 {
			continue
		}
		o, h := fromOpen, fromShut
		for needs := s.moves[i].needs &^ at.done; needs != 0; needs &= needs - 1 {
			j := bits.TrailingZeros64(needs)
			for b := range n {
				o[b], h[b] = max(o[b], open[j][b]), max(h[b], shut[j][b])
			}
		}
		if m := &s.moves[i]; len(m.bits) > 0 {
			for b := range n {
				if m.wants(int8(b)) {
					o[b], h[b] = max(o[b], h[b]+1), none
				} else {
					o[b], h[b] = none, max(o[b], h[b])
				}
			}
		}
		open[i], shut[i] = o, h
		for b := range n {
			most[b] = max(most[b], o[b], h[b])
		}
	}
	sum := 0
	for b := range n {
		sum += int(most[b])
	}
	return sum
}

func (m *move) wants(b int8) bool {
	for _, own := range m.bits {
		if own == b {
			return true
		}
	}
	return false
}

// turns counts how often the machine must still be turned over, for the worst chain.
func (s *solver) turns(at state) int {
	var count [MaxSteps][3]int8 // by the side that is up at the end of the chain
	most := int8(0)
	for _, i := range s.topo {
		if at.done&(1<<i) != 0 {
			continue
		}
		here := [3]int8{none, none, none}
		here[at.side] = 0
		for needs := s.moves[i].needs &^ at.done; needs != 0; needs &= needs - 1 {
			j := bits.TrailingZeros64(needs)
			for side := range here {
				here[side] = max(here[side], count[j][side])
			}
		}
		if side := s.moves[i].side; side != 0 {
			other := 3 - side
			here[side] = max(here[side], here[0], here[other]+1)
			here[0], here[other] = none, none
		}
		count[i] = here
		most = max(most, here[0], here[1], here[2])
	}
	return int(most)
}
