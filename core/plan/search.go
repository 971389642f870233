// The search over combinations, in this order:
//
//  1. Each kind of upgrade (memory, drive, battery, wireless) lists its candidates: one way each to treat the
//     places of that kind, "as it is" among them. A candidate that another one of the same places stands in for is
//     dropped: the other costs no more, gives no less, adds no risk, asks for no more accessories and comes first on
//     a tie (dominance pruning; decision 0003 says why equal totals alone would be wrong).
//  2. The candidates of a kind are grouped by the places that they change, so that one group of each kind opens the
//     machine alike and the opening is worked out once. Each such tuple of groups is gone through whole, kind by
//     kind; a branch ends where what is put in use excludes what is in use.
//  3. A combination within the budget enters a front of what nothing beats in all that is compared: cost, risk,
//     minutes, days, the gain of each kind. It is the set of maxima of vectors, by cells of equal gains first
//     (Kung, Luccio and Preparata, "On finding the maxima of a set of vectors", Journal of the ACM 22, 1975).
//  4. The tuples are dealt out to as many hands as there are processors, with a front each; fronts are
//     merged by rules that do not ask who came first, so that the plan is the same to the byte.
//
// TestAgainstEnumeration holds it against every combination, one by one, on random small cases.

package plan

import (
	"context"
	"math/bits"
	"runtime"
	"sync"
	"sync/atomic"

	"yembo/core/evidence"
	"yembo/core/hw"
)

// found is one combination of candidates that is an option.
type found struct {
	parts   [kinds]*candidate
	changed uint64
	removed uint64
	total   int64
	partsC  int64
	risk    int
	days    int32
	minutes hw.Minutes
	missing bool
	met     [kinds]bool
}

// pack is the pack that a combination fits, noPack where it fits none.
func (f *found) pack() int {
	for _, x := range f.parts {
		if x.pack != noPack {
			return x.pack
		}
	}
	return noPack
}

// needs are the accessories of all its parts together.
func (f *found) needs() needs {
	var n needs
	for _, x := range f.parts {
		n = n.plus(x.needs)
	}
	return n
}

// Points of facts.
var (
	pointsAssumed  = hw.CodeFactAssumed.Row().Points
	pointsDisputed = hw.CodeFactDisputed.Row().Points
)

// combine goes through every combination of the kinds' candidates and calls take
// for each that is an option, whatever it costs.
func (s *search) combine(ctx context.Context, groups [kinds][]group, take func(*found)) error {
	var of [kinds]*group
	for n := range tuples(groups) {
		tuple(groups, n, &of)
		s.combineGroups(&of, take)
		if err := ctx.Err(); err != nil {
			return err
		}
	}
	return nil
}

// combineByHands is combine by as many hands as there are processors. Each hand takes the
// next groups that no other has taken, with a search of its own (hand) and with what
// newTake makes for it; so take needs no lock. What the hands found depends on who took
// what, and has to be put together by something that does not care about the order.
func (s *search) combineByHands(ctx context.Context, groups [kinds][]group, newTake func(*search) func(*found)) error {
	all := tuples(groups)
	hands := max(1, min(runtime.GOMAXPROCS(0), all))
	var next atomic.Int64
	var done sync.WaitGroup
	for h := range hands {
		own := s
		if h > 0 {
			own = s.hand()
		}
		take := newTake(own)
		done.Go(func() {
			var of [kinds]*group
			for n := int(next.Add(1)) - 1; n < all && ctx.Err() == nil; n = int(next.Add(1)) - 1 {
				tuple(groups, n, &of)
				own.combineGroups(&of, take)
			}
		})
	}
	done.Wait()
	return ctx.Err()
}

// hand is a search that shares all that stays the same with s and has its own memory of
// what it worked out on the way.
func (s *search) hand() *search {
	own := *s
	own.accessoryCost, own.providers = map[needs]accessory{}, map[supplyKey]supply{}
	own.openings, own.factCache = map[openingKey]opening{}, map[factKey][]evidence.Fact{}
	own.afters = map[*candidate]*after{}
	return &own
}

// tuples is how many ways there are to take one group of each kind.
func tuples(groups [kinds][]group) int {
	n := 1
	for k := range groups {
		n *= len(groups[k])
	}
	return n
}

// tuple is the n-th way to take one group of each kind.
func tuple(groups [kinds][]group, n int, of *[kinds]*group) {
	for k := kinds - 1; k >= 0; k-- {
		of[k] = &groups[k][n%len(groups[k])]
		n /= len(groups[k])
	}
}

// combination goes through the candidates of one group of each kind: they change the same
// places, so that all of them open the machine alike.
type combination struct {
	s    *search
	of   *[kinds]*group
	open opening
	f    found
	take func(*found)
	// sums[k] is what the kinds above k bring, for the search goes from the last to the
	// first; they stand here so that no step of it takes new memory.
	sums [kinds + 1]sofar
}

// sofar is what the kinds that were gone through bring to a combination.
type sofar struct {
	used, fresh, gaveWay, shuns uint64
	needs                       needs
	accessory                   accessory
	cost                        int64
	days                        int32
	flags                       uint32
	risk                        int // of the facts
	nearer                      bool
}

func (s *search) combineGroups(of *[kinds]*group, take func(*found)) {
	key := openingKey{pack: s.packKey(noPack)}
	for _, g := range of {
		key.changed |= g.changed
		key.removed |= g.removed
		if g.pack != noPack {
			key.pack = g.pack
		}
	}
	if key.changed == 0 {
		return
	}
	c := &combination{s: s, of: of, open: s.openMachine(key), take: take}
	c.f.changed, c.f.removed, c.f.minutes = key.changed, key.removed, c.open.minutes
	c.sums[kinds] = sofar{flags: c.open.flags, risk: factPoints(s.factsUsed(key.changed, noPack, c.open.down))}
	c.walk(kinds - 1)
}

// walk goes through the candidates of the kinds from k down.
func (c *combination) walk(k int) {
	s, now := c.s, &c.sums[k]
	for i := range c.of[k].list {
		x := &c.of[k].list[i]
		*now = c.sums[k+1]
		now.used |= x.used
		now.fresh |= x.fresh
		now.gaveWay |= x.gaveWay
		now.shuns |= x.shuns
		now.cost += x.cost
		now.days = max(now.days, x.days)
		now.flags |= x.flags
		now.nearer = now.nearer || x.nearer
		if x.needs != (needs{}) {
			now.needs = now.needs.plus(x.needs)
			now.accessory = s.accessories(now.needs)
		}
		if x.pack != noPack {
			now.risk = factPoints(s.factsUsed(c.f.changed, x.pack, c.open.down))
		}
		c.f.parts[k] = x
		if k > 0 {
			c.walk(k - 1)
		} else if now.nearer && now.together() {
			c.finish(now)
		}
	}
}

// together reports whether nothing put in use excludes anything in use, and each place
// that gave way is excluded by something put in use.
func (n *sofar) together() bool { return n.shuns&n.used == 0 && n.gaveWay&^n.shuns == 0 }

func (c *combination) finish(n *sofar) {
	f := &c.f
	f.partsC = n.cost + n.accessory.cents
	f.total = f.partsC + c.open.labour + c.s.servicesCents
	f.days = max(n.days, n.accessory.days)
	flags := n.flags
	if n.accessory.pulled {
		flags |= fPulled
	}
	f.risk = n.risk + points(flags)
	f.missing = n.accessory.missing
	c.take(f)
}

// before is the order of options, and the tie-break among equal ones: complete
// first, cheapest first, then the fewest minutes, the fewest changed places, place by place.
func (s *search) before(a, b *found) bool {
	if a.missing != b.missing {
		return b.missing
	}
	if a.total != b.total {
		return a.total < b.total
	}
	if a.minutes != b.minutes {
		return a.minutes < b.minutes
	}
	return s.tieBreak(a, b)
}

func (s *search) tieBreak(a, b *found) bool {
	if x, y := bits.OnesCount64(a.changed), bits.OnesCount64(b.changed); x != y {
		return x < y
	}
	for i := range s.places {
		if x, y := s.choiceAt(a, i), s.choiceAt(b, i); x != y {
			return x < y
		}
	}
	return false
}

// choiceAt is what a combination does at a place.
func (s *search) choiceAt(f *found, pi int) int32 {
	kind := s.places[pi].kind
	if kind == kNone {
		return unchanged
	}
	for i, other := range s.kindOf[kind] {
		if other == pi {
			return f.parts[kind].choice[i]
		}
	}
	return unchanged
}

// shunned is what excludes any of some places and packs.
func (s *search) shunned(fresh uint64) uint64 {
	var out uint64
	for left := fresh; left != 0; left &= left - 1 {
		out |= s.excl[bits.TrailingZeros64(left)]
	}
	return out
}

// clash reports whether something put in use excludes something in use.
func (s *search) clash(fresh, used uint64) bool { return s.shunned(fresh)&used != 0 }

func (s *search) maskOf(kind int) uint64 {
	var mask uint64
	for _, pi := range s.kindOf[kind] {
		mask |= 1 << pi
	}
	return mask
}
