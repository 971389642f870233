package teardown

import (
	"cmp"
	"context"
	"errors"
	"slices"

	"yembo/core/hw"
)

// The order of work is found exactly. Doing the steps one after the other costs a
// bit change whenever a bit is picked up, and a flip whenever the machine is turned
// over; the best order has the fewest bit changes, then the fewest flips, then the
// earliest steps of the document first.
//
// The search asks one question: can the rest be done within so many changes and so
// many flips? It is asked with growing allowances until the answer is yes, and then
// once more for each step of the order, taking the first step of the document after
// which it is still yes. Three observations keep it small. A step that wants nothing
// but the bit in hand and the side that lies up is free: putting it off never helps,
// so free steps are done at once. Along every chain of needs each bit must be picked
// up as often as it comes back after another one, which bounds what is left from
// below; so do the turns. And answers are remembered by what is done, in hand and up.

// MaxSteps is how many steps one order may have.
const MaxSteps = 256

// maxLooks is how much the search may look at before it gives up, counted in steps squared
// for each state, which is what a state costs: some two seconds' worth. It is counted and
// not timed, so that the same record has the same answer on every machine.
const maxLooks = 400_000_000

// ErrTooHard is returned when the order is not found within the limit; never a
// wrong order instead.
var ErrTooHard = errors.New("the order of the steps was not found within the limit")

// Order is a sequence of steps with what it costs.
type Order struct {
	Steps      []int // indexes into the chassis' steps
	BitChanges int
	Flips      int
}

// cost is what an order asks for beside its steps.
type cost struct{ bits, flips int }

// within reports whether a is no more than b in both.
func (a cost) within(b cost) bool { return a.bits <= b.bits && a.flips <= b.flips }

func (a cost) plus(b cost) cost { return cost{a.bits + b.bits, a.flips + b.flips} }

// move is a step as the search sees it.
type move struct {
	step  int    // index in the chassis
	needs set    // moves that come before it
	near  []int  // the same, without those that another one of them needs
	bits  []int8 // bits it wants: none, one or two and more
	side  int8   // 0 none, else the side that faces up

	wanted uint64 // the first bits of bits, as a set
}

type state struct {
	done set
	bit  int8 // in hand, -1 none yet
	side int8 // up, 0 not yet set
}

type solver struct {
	ctx   context.Context
	moves []move
	topo  []int // the moves, each after what it needs
	bits  int   // how many different bits
	all   set
	yes   map[hold][]answer // what sufficed
	no    map[hold][]answer // what did not
	looks *int              // shared by the solvers of one order
	err   error

	// Room for the bound, by move.
	open, shut [][maxBits]int16
	sides      [][3]int16
	times      [maxBits]int16 // how often each bit is picked up, as last counted

	// The moves that want a bit and nothing but it, by side.
	wantTop, wantBottom [maxBits]set
}

// hold is what is in hand and which side is up.
type hold struct{ bit, side int8 }

// answer is an allowance that did or did not suffice from a set of done steps. It
// speaks for others too: with more done no more is needed, with less done no less.
type answer struct {
	done  set
	allow cost
}

// BestOrder is Ways.Order for any machine of the model.
func BestOrder(ctx context.Context, ch *hw.Chassis, down []bool) (Order, error) {
	return WaysInto(ch, nil).Order(ctx, down)
}

// Order orders the marked steps. It returns ErrTooHard past the limit and the context's
// error when that is cancelled.
func (w *Ways) Order(ctx context.Context, down []bool) (Order, error) {
	moves, err := w.movesOf(down)
	if err != nil {
		return Order{}, err
	}
	s := newSolver(ctx, moves, new(int))
	start := state{bit: -1}
	least, err := s.least(start)
	if err != nil {
		return Order{}, err
	}
	out := Order{BitChanges: least.bits, Flips: least.flips}
	// A step that wants several bits may end with either in hand; all that still
	// reach the best cost are followed side by side.
	at := []ending{{start, cost{}}}
	for len(out.Steps) < len(moves) {
		next, step := s.firstStep(at, least)
		if s.err != nil {
			return Order{}, s.err
		}
		if next == nil {
			return Order{}, errors.New("the steps cannot be put in order")
		}
		out.Steps, at = append(out.Steps, moves[step].step), next
	}
	return out, nil
}

func newSolver(ctx context.Context, moves []move, looks *int) *solver {
	s := &solver{ctx: ctx, looks: looks, moves: moves, yes: map[hold][]answer{}, no: map[hold][]answer{},
		open: make([][maxBits]int16, len(moves)), shut: make([][maxBits]int16, len(moves)),
		sides: make([][3]int16, len(moves))}
	var placed set
	for i := range moves {
		s.all.add(i)
		for _, b := range moves[i].bits {
			moves[i].wanted |= 1 << b
			s.bits = max(s.bits, int(b)+1)
			if len(moves[i].bits) > 1 || b >= maxBits {
				continue
			}
			switch moves[i].side {
			case 1:
				s.wantTop[b].add(i)
			case 2:
				s.wantBottom[b].add(i)
			}
		}
	}
	for again := true; again; {
		again = false
		for i := range moves {
			if !placed.has(i) && moves[i].needs.within(&placed) {
				placed.add(i)
				s.topo = append(s.topo, i)
				again = true
			}
		}
	}
	return s
}

// least is the fewest bit changes, and with those the fewest flips.
func (s *solver) least(start state) (cost, error) {
	if len(s.topo) < len(s.moves) {
		return cost{}, errors.New("the steps need each other in a circle")
	}
	// With flips to spare the sides do not matter, so the fewest bit changes are
	// found without them.
	flat := make([]move, len(s.moves))
	for i := range flat {
		flat[i] = s.moves[i]
		flat[i].side = 0
	}
	bitsOnly := newSolver(s.ctx, flat, s.looks)
	allow := bitsOnly.bound(start)
	for !bitsOnly.can(start, allow) {
		if bitsOnly.err != nil {
			return cost{}, bitsOnly.err
		}
		allow.bits++
	}
	for allow.flips = s.bound(start).flips; !s.can(start, allow); allow.flips++ {
		if s.err != nil {
			return cost{}, s.err
		}
	}
	return allow, s.err
}

// firstStep is the first step of the document from which the best cost can still
// be reached, with the states it may lead to. The price of an ending is all that
// was paid since the start.
func (s *solver) firstStep(at []ending, least cost) ([]ending, int) {
	for i := range s.moves {
		var next []ending
		for _, now := range at {
			if now.state.done.has(i) || !s.moves[i].needs.within(&now.state.done) {
				continue
			}
			for _, e := range s.ends(now.state, i) {
				paid := now.price.plus(e.price)
				left := cost{least.bits - paid.bits, least.flips - paid.flips}
				if s.can(e.state, left) {
					next = append(next, ending{e.state, paid})
				}
				if s.err != nil {
					return nil, 0
				}
			}
		}
		if next != nil {
			return next, i
		}
	}
	return nil, 0
}

// ending is a state after a move, and what the move costs.
type ending struct {
	state state
	price cost
}

// ends lists the ways to do a move: one, or for a step that wants several bits one
// for each bit that may be in hand at its end.
func (s *solver) ends(at state, i int) []ending {
	m := &s.moves[i]
	next := at
	next.done.add(i)
	var price cost
	if m.side != 0 && m.side != at.side {
		next.side = m.side
		if at.side != 0 {
			price.flips = 1
		}
	}
	if len(m.bits) == 0 {
		return []ending{{next, price}}
	}
	var out []ending
	held := false
	for _, b := range m.bits {
		held = held || b == at.bit
	}
	for _, last := range m.bits {
		e := ending{next, price}
		e.state.bit = last
		e.price.bits = len(m.bits)
		// The bit in hand is used first, unless it is also to be the last of several.
		if held && (last != at.bit || len(m.bits) == 1) {
			e.price.bits--
		}
		out = append(out, e)
	}
	return out
}

// free reports whether a move costs nothing in a state and leaves bit and side.
func (s *solver) free(at state, i int) bool {
	m := &s.moves[i]
	return (m.side == 0 || m.side == at.side) && (len(m.bits) == 0 || (len(m.bits) == 1 && m.bits[0] == at.bit))
}

// close does all free moves. Each comes after what it needs, so one pass finds all.
func (s *solver) close(at state) state {
	for _, i := range s.topo {
		if !at.done.has(i) && s.free(at, i) && s.moves[i].needs.within(&at.done) {
			at.done.add(i)
		}
	}
	return at
}

// can reports whether the rest can be done within an allowance.
func (s *solver) can(at state, allow cost) bool {
	at = s.close(at)
	if allow.bits < 0 || allow.flips < 0 || s.err != nil {
		return false
	}
	if yes, known := s.recall(at, allow); known {
		return yes
	}
	if _, ok := s.boundWithin(at, allow); !ok {
		return false
	}
	return s.search(at, allow)
}

// recall looks for an earlier answer that settles the question.
func (s *solver) recall(at state, allow cost) (yes, known bool) {
	if at.done == s.all {
		return true, true
	}
	key := hold{at.bit, at.side}
	for _, a := range s.yes[key] {
		if a.allow.within(allow) && a.done.within(&at.done) {
			return true, true
		}
	}
	for _, a := range s.no[key] {
		if allow.within(a.allow) && at.done.within(&a.done) {
			return false, true
		}
	}
	return false, false
}

// search answers for a closed state whose bound is within the allowance.
func (s *solver) search(at state, allow cost) bool {
	*s.looks += len(s.moves) * len(s.moves)
	switch {
	case *s.looks > maxLooks:
		s.err = ErrTooHard
		return false
	case s.ctx.Err() != nil:
		s.err = context.Cause(s.ctx)
		return false
	}
	key := hold{at.bit, at.side}
	for _, p := range s.promising(at, allow) {
		left := cost{allow.bits - p.price.bits, allow.flips - p.price.flips}
		yes, known := s.recall(p.state, left)
		if !known {
			yes = s.search(p.state, left)
		}
		if yes {
			s.yes[key] = append(s.yes[key], answer{at.done, allow})
			return true
		}
	}
	if s.err == nil {
		s.learnNo(key, answer{at.done, allow})
	}
	return false
}

// learnNo remembers that an allowance did not suffice, in place of weaker answers.
func (s *solver) learnNo(key hold, a answer) {
	kept := s.no[key][:0]
	for _, old := range s.no[key] {
		if !old.allow.within(a.allow) || !old.done.within(&a.done) {
			kept = append(kept, old)
		}
	}
	s.no[key] = append(kept, a)
}

// prospect is where a closed state can go, with what that costs at the least in all.
type prospect struct {
	ending
	floor cost
}

// promising lists where a closed state can go within an allowance, one for each bit
// and side, what costs least and leaves least first.
func (s *solver) promising(at state, allow cost) []prospect {
	out := make([]prospect, 0, 16)
	for i := range s.moves {
		if at.done.has(i) || !s.moves[i].needs.within(&at.done) {
			continue
		}
		for _, e := range s.ends(at, i) {
			if !e.price.within(allow) {
				continue
			}
			e.state = s.close(e.state)
			if slices.ContainsFunc(out, func(p prospect) bool { return p.state == e.state }) {
				continue
			}
			left := cost{allow.bits - e.price.bits, allow.flips - e.price.flips}
			if yes, known := s.recall(e.state, left); known && !yes {
				continue
			}
			if floor, ok := s.boundWithin(e.state, left); ok {
				out = append(out, prospect{e, e.price.plus(floor)})
			}
		}
	}
	slices.SortStableFunc(out, func(a, b prospect) int {
		return cmp.Or(cmp.Compare(a.floor.bits, b.floor.bits), cmp.Compare(a.floor.flips, b.floor.flips),
			cmp.Compare(b.state.done.count(), a.state.done.count()))
	})
	return out
}
