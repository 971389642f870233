package plan

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"math/big"
	"math/bits"
	"slices"
	"sync/atomic"

	"yembo/core/hw"
	"yembo/core/storage"
)

// Flags of what a candidate costs in risk; an option counts each once. Those without
// points are found when an option is written out.
const (
	fBeyond uint32 = 1 << iota
	fInferred
	fNarrower
	fSingle
	fMixed
	fAsymmetric
	fHot
	fBoot
	fFailing
	fBoardOut
	fGlued
	fSeal
	fLive
	fNoReach
	fUnlisted
	fOtherWh
	fPulled
	fCustomer
)

// flagOf are the flags by their code; table 10 has points, consents and the order.
var flagOf = map[hw.Code]uint32{
	hw.CodeBeyondMaker: fBeyond, hw.CodeLimitInferred: fInferred, hw.CodeNarrower: fNarrower,
	hw.CodeSingleChannel: fSingle, hw.CodeMixed: fMixed,
	hw.CodeAsymmetric: fAsymmetric,
	hw.CodeHot:        fHot, hw.CodeBootReplaced: fBoot, hw.CodeDriveFailing: fFailing,
	hw.CodeBoardOut: fBoardOut, hw.CodeGlued: fGlued,
	hw.CodeSealBroken: fSeal, hw.CodeLiveUnplug: fLive, hw.CodeNoReach: fNoReach,
	hw.CodeBatteryNotListed: fUnlisted, hw.CodeOtherWh: fOtherWh, hw.CodePulled: fPulled, hw.CodeCustomerPart: fCustomer,
}

// risks is table 10, riskFlags the flag of each of its rows, 0 for one that has none, and pointsOf the points by flag:
// that of bit i at i.
var risks, riskFlags, pointsOf = hw.Risks(), rowFlags(), flagPoints()

func rowFlags() (out []uint32) {
	for _, row := range hw.Risks() {
		out = append(out, flagOf[row.Code])
	}
	return out
}

func flagPoints() (out [32]int) {
	for _, row := range hw.Risks() {
		if f := flagOf[row.Code]; f != 0 {
			out[bits.TrailingZeros32(f)] = row.Points
		}
	}
	return out
}

func points(flags uint32) int {
	sum := 0
	for ; flags != 0; flags &= flags - 1 {
		sum += pointsOf[bits.TrailingZeros32(flags)]
	}
	return sum
}

// candidate is one way to treat the places of one kind.
type candidate struct {
	changed    uint64 // places that change
	used       uint64 // places (and the pack) of the kind in use afterwards
	fresh      uint64 // places (and the pack) that it puts in use
	removed    uint64 // places that it empties
	gaveWay    uint64 // those of them that something put in use has to exclude
	shuns      uint64 // what excludes anything that it puts in use
	cost       int64  // of the parts, accessories apart
	days       int32  // until all of the parts are here, late where that is not known
	flags      uint32
	gain       int64 // compared between options: capped GB, or a rank
	second     int64 // compared beside it: the memory's bandwidth, MB/s
	gainNumber cell  // of the two together, among those of the kind
	nearer     bool  // brings its unmet goal nearer
	met        bool  // reaches the goal
	needs      needs
	pack       int // the pack fitted: an index, -1 unlisted, noPack none
	choice     []int32

	total   hw.Dec   // GB, uncapped
	runtime *big.Rat // for batteries
	wifi    int      // for wireless
	share   *big.Rat // reached ÷ goal, once it was asked for
}

const noPack = -2

// late is the days of what arrives nobody knows when: later than any.
const late = math.MaxInt32

// earlier is the tie-break inside one kind: place by place in the order of the
// chassis, a part by its position, then a removal, then unchanged.
func earlier(a, b []int32) bool {
	for i := range a {
		if a[i] != b[i] {
			return a[i] < b[i]
		}
	}
	return false
}

// pick is a part that may go into a place, as the reduction sees it.
type pick struct {
	part  int32
	price int64
	size  hw.Dec // GB of a drive, MT/s of a module
	flags uint32
	needs needs
	class int // only picks of one class stand in for each other
}

// thin drops picks that others of the same place stand in for: not dearer, no
// smaller, no more risk, no more accessories, here no later, and with supply enough for
// all pieces that the kind's places could take. It never changes which options are
// best: every combination with a dropped pick has one with a kept pick that costs
// less, or as much and comes earlier. The picks come cheapest first.
//
// A kit is bought once for several places, so one kit stands in for another only
// where it does in every place; everywhere says whether it does.
func (s *search) thin(picks []pick, pieces int, everywhere func(a, b int32) bool) []pick {
	var kept []pick
	for i := range picks {
		b := &picks[i]
		supply := 0
		size, days := s.parts[b.part].Pieces(), s.offer(b.part, 1).days
		for j := range kept {
			a := &kept[j]
			if a.class != b.class || a.size < b.size || a.flags&^b.flags != 0 || !s.asksNoMore(a.needs, b.needs) ||
				s.parts[a.part].Pieces() != size {
				continue
			}
			switch n := s.supply(a.part, pieces, days); {
			case size == 1:
				supply += n
			case n >= pieces && everywhere(a.part, b.part):
				supply = pieces
			}
			if supply >= pieces {
				break
			}
		}
		if supply < pieces {
			kept = append(kept, *b)
		}
	}
	return kept
}

// supply is how many pieces of a part can be had within some days, at most want.
func (s *search) supply(part int32, want int, days int32) int {
	if all := s.offer(part, want); all.ok && all.days <= days {
		return want
	}
	p := &s.parts[part]
	return min(want, p.InStock()*p.Pieces())
}

// daysFor is how many days it takes until n pieces of a part are here, 0 where the shelf
// has them.
func (s *search) daysFor(p *hw.Part, n int) int32 {
	if stock, counted := p.Stock.Get(); p.Brought() || counted && stock >= p.Purchases(n) {
		return 0
	}
	if s.in.allInStock == p.Kind {
		return 0
	}
	return int32(p.LeadDays.Or(late))
}

func (s *search) allowOrder() bool { return s.practice.AllowOrder.Or(true) }

// canHave reports whether that many purchases of a part can be had.
func (s *search) canHave(p *hw.Part, purchases int) bool {
	return s.in.allInStock == p.Kind || p.CanBeHad(purchases, s.allowOrder())
}

// canBeHad reports whether at least one purchase of a part can be had.
func (s *search) canBeHad(p *hw.Part) bool { return s.canHave(p, 1) }

// takesPart reports whether a part is in the list for this plan: what a customer brought
// is for their own machine alone, and an optical drive is no storage.
func (s *search) takesPart(p *hw.Part) bool {
	if p.Brought() && p.For != s.m.ID {
		return false
	}
	return p.Drive == nil || !storage.IsOptical(p.Drive)
}

// bill is what a choice buys.
type bill struct {
	cents  int64
	days   int32
	pulled bool
}

// price adds up what a choice buys; ok is false when a quantity cannot be had.
func (s *search) price(choice []int32) (b bill, ok bool) {
	for i, part := range choice {
		if part >= remove {
			continue
		}
		pieces, first := 0, true
		for j, other := range choice {
			if other == part {
				pieces++
				if j < i {
					first = false
				}
			}
		}
		if !first {
			continue
		}
		o := s.offer(part, pieces)
		if !o.ok {
			return bill{}, false
		}
		b.cents += o.cents
		b.days = max(b.days, o.days)
		b.pulled = b.pulled || o.pulled
	}
	return b, true
}

// offer is what a number of pieces of one part costs, and whether they can be had.
type offer struct {
	bill
	ok bool
}

// offer looks a part up by its pieces: a walk asks for the same few thousands of times, and
// what it asks about lies together here.
func (s *search) offer(part int32, pieces int) *offer {
	if len(s.offers[part]) < pieces {
		s.lookUp(part, pieces)
	}
	return &s.offers[part][pieces-1]
}

// lookUp prepares what offer answers of a part for that many pieces and fewer; after that
// several hands may ask at once.
func (s *search) lookUp(part int32, pieces int) {
	list := s.offers[part]
	for n := len(list) + 1; n <= pieces; n++ {
		p := &s.parts[part]
		bought := p.Purchases(n)
		list = append(list, offer{bill{int64(bought) * p.PriceCents, s.daysFor(p, n), p.Pulled()},
			s.canHave(p, bought)})
	}
	s.offers[part] = list
}

// mostSteps is how many steps a walk through the ways to treat one kind may take;
// some seconds' worth. A plan past it is refused, for a part of the ways would make
// a wrong plan.
const mostSteps = 20_000_000

// collector keeps the best candidate of each shape.
type collector struct {
	s     *search
	best  map[shape]*candidate
	list  []*candidate
	room  []candidate // for those to come, by the block, and for their choices
	ints  []int32
	ctx   context.Context
	steps int
	all   *atomic.Int64 // steps of all hands of the walk, told now and then
	err   error         // why the walk stopped: the context's error, or the limit
}

type shape struct {
	changed, used uint64
	removed       uint64
	flags         uint32
	days          int32
	gain, second  int64
	needs         needs
	pack          int
}

func (s *search) collector(ctx context.Context) *collector {
	return &collector{s: s, best: map[shape]*candidate{}, ctx: ctx, all: new(atomic.Int64)}
}

// stopped counts a step of a walk and reports whether the walk is to end: cancelled,
// which is looked at once in a while, or past the limit. Once true it stays true, so
// that a walk unwinds.
func (c *collector) stopped() bool {
	if c.err != nil {
		return true
	}
	c.steps++
	all := int64(c.steps)
	if c.steps%1024 == 0 {
		c.err = c.ctx.Err()
		all = c.all.Add(1024)
	}
	c.limit(all)
	return c.err != nil
}

// limit ends a walk of too many steps.
func (c *collector) limit(steps int64) {
	if steps > mostSteps {
		c.err = TooLarge(fmt.Sprintf("more than %d ways to fill the places of one kind: take parts that you would "+
			"not fit off the list", mostSteps))
	}
}

// merge takes what another hand of the same walk collected. Of two sets of one shape the
// same one is kept whichever came first.
func (c *collector) merge(other *collector) {
	if c.steps += other.steps; c.err == nil {
		c.err = other.err
	}
	c.limit(int64(c.steps))
	for _, x := range other.list {
		c.add(*x)
	}
}

// add takes a candidate; the choice is copied when it is kept.
func (c *collector) add(x candidate) {
	key := shape{x.changed, x.used, x.removed, x.flags, x.days, x.gain, x.second, x.needs, x.pack}
	old, seen := c.best[key]
	if seen {
		if x.cost > old.cost || (x.cost == old.cost && !earlier(x.choice, old.choice)) {
			return
		}
		x.choice = append(old.choice[:0], x.choice...)
		*old = x
		return
	}
	const block = 128
	if n := len(x.choice); cap(c.ints)-len(c.ints) < n {
		c.ints = make([]int32, 0, block*n)
	}
	from := len(c.ints)
	c.ints = append(c.ints, x.choice...)
	x.choice = c.ints[from:len(c.ints):len(c.ints)]
	if len(c.room) == cap(c.room) {
		c.room = make([]candidate, 0, block)
	}
	c.room = append(c.room, x)
	kept := &c.room[len(c.room)-1]
	c.best[key] = kept
	c.list = append(c.list, kept)
}

// result drops candidates that another one of the same places stands in for, and
// groups the rest by the places they change.
func (c *collector) result(none candidate) []group {
	slices.SortStableFunc(c.list, func(a, b *candidate) int {
		return cmp.Or(cmp.Compare(a.changed, b.changed), cmp.Compare(a.used, b.used), cmp.Compare(a.cost, b.cost),
			slices.Compare(a.choice, b.choice))
	})
	groups := []group{{list: []candidate{none}, pack: c.s.packKey(none.pack)}}
	for _, x := range c.list {
		at := slices.IndexFunc(groups, func(g group) bool {
			return g.changed == x.changed && g.removed == x.removed && g.pack == c.s.packKey(x.pack)
		})
		if at < 0 {
			at = len(groups)
			groups = append(groups, group{changed: x.changed, removed: x.removed, pack: c.s.packKey(x.pack)})
		}
		g := &groups[at]
		beaten := false
		for j := range g.list {
			a := &g.list[j]
			// a costs no more and comes first where it costs the same.
			if a.used == x.used && a.pack == x.pack && a.gain >= x.gain && a.second >= x.second && a.days <= x.days &&
				a.flags&^x.flags == 0 && c.s.asksNoMore(a.needs, x.needs) {
				beaten = true
				break
			}
		}
		if !beaten {
			g.list = append(g.list, *x)
		}
	}
	return groups
}

// group is the candidates of one kind that change the same places in the same way, so that
// they open the machine alike.
type group struct {
	changed, removed uint64
	pack             int // that ends in the machine, where a step depends on it
	list             []candidate
}

// packKey is the pack that a candidate of any kind leaves in the machine, as far as a step
// depends on it.
func (s *search) packKey(pack int) int {
	if s.packMatters {
		return pack
	}
	return noPack
}

func (s *search) same(kind int) []int32 {
	choice := make([]int32, len(s.kindOf[kind]))
	for i := range choice {
		choice[i] = unchanged
	}
	return choice
}

// capped is what counts of a total towards a goal: up to twice the goal, nothing
// where there is no goal.
func capped(total hw.Dec, goal hw.Maybe[hw.Dec]) int64 {
	g, ok := goal.Get()
	if !ok {
		return 0
	}
	return int64(min(total, 2*g))
}

// cheapestFirst lists the parts of a kind that can be had at all, by price, then by
// position.
func (s *search) cheapestFirst(kind hw.PartKind) []int32 {
	var out []int32
	for i := range s.parts {
		if s.parts[i].Kind == kind && s.canBeHad(&s.parts[i]) {
			out = append(out, int32(i))
		}
	}
	slices.SortStableFunc(out, func(a,
		b int32) int {
		return cmp.Compare(s.parts[a].PriceCents, s.parts[b].PriceCents)
	})
	return out
}
