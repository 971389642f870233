package teardown

// none is less than any count.
const none int16 = -10_000

// bound is what is left to pay at the least. Along a chain of needs, a bit is picked
// up anew each time it comes after a step that wants another one; the longest such
// count over all chains is owed for each bit, so the sum over the bits is. The turns
// along a chain are owed too.
func (s *solver) bound(at state) cost {
	c, _ := s.boundWithin(at, cost{MaxSteps * 8, MaxSteps * 8})
	return c
}

// boundWithin is bound, given up as soon as it passes the allowance.
func (s *solver) boundWithin(at state, allow cost) (cost, bool) {
	c := cost{flips: s.turns(at)}
	if c.flips > allow.flips {
		return c, false
	}
	c.bits = s.pickUps(at)
	if c.bits > allow.bits {
		return c, false
	}
	c.flips = max(c.flips, s.bothSides(at, allow.bits-c.bits))
	return c, c.flips <= allow.flips
}

// bothSides counts the bits that are still wanted on both sides and are in hand only
// one more time: each owes a turn while it is. A bit change to spare can save one of
// those turns.
func (s *solver) bothSides(at state, spare int) int {
	n := 0
	for b := range min(s.bits, maxBits) {
		once := s.times[b] == 1
		if at.bit == int8(b) {
			once = s.times[b] == 0
		}
		if once && !s.wantTop[b].within(&at.done) && !s.wantBottom[b].within(&at.done) {
			n++
		}
	}
	return n - spare
}

// maxBits is how many different bits are counted one by one; more are counted as
// none, which only weakens the bound.
const maxBits = 8

// pickUps counts how often bits must still be picked up. For each undone move and
// each bit it keeps the count for the worst chain that ends there: with the bit
// still in hand (open), and with another one in hand since (shut).
func (s *solver) pickUps(at state) int {
	open, shut := s.open, s.shut // each entry is written before it is read
	var most [maxBits]int16
	var fromOpen [maxBits]int16
	n := min(s.bits, maxBits)
	var fromShut [maxBits]int16
	for b := range n {
		fromOpen[b] = none
		if at.bit == int8(b) {
			fromOpen[b], fromShut[b] = 0, none
		}
	}
	for _, i := range s.topo {
		if at.done.has(i) {
			continue
		}
		o, h := fromOpen, fromShut
		for _, j := range s.moves[i].near {
			if at.done.has(j) {
				continue
			}
			for b := range n {
				o[b], h[b] = max(o[b], open[j][b]), max(h[b], shut[j][b])
			}
		}
		if m := &s.moves[i]; len(m.bits) > 0 {
			for b := range n {
				if m.wanted&(1<<b) != 0 {
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
	s.times = most
	sum := 0
	for b := range n {
		sum += int(most[b])
	}
	return sum
}

// turns counts how often the machine must still be turned over, for the worst chain.
func (s *solver) turns(at state) int {
	count := s.sides // by the side that is up at the end of the chain
	most := int16(0)
	for _, i := range s.topo {
		if at.done.has(i) {
			continue
		}
		here := [3]int16{none, none, none}
		here[at.side] = 0
		for _, j := range s.moves[i].near {
			if at.done.has(j) {
				continue
			}
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
