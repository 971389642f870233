package plan

import (
	"context"
	"math/bits"
	"slices"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/teardown"
)

// found is one combination of candidates that is an option.
type found struct {
	parts     [kinds]*candidate
	changed   uint64
	removed   uint64
	total     int64
	partsC    int64
	gains     [kinds]int64
	bandwidth int64
	risk      int
	days      int32
	minutes   hw.Minutes
	missing   bool
	met       [kinds]bool
	worth     worth
}

// opening is what is the same for all options that change the same places in the same way.
type opening struct {
	down, undone []bool
	extra        []int
	minutes      hw.Minutes
	labour       int64
	flags        uint32
}

// openingKey is the places changed, those of them emptied, and the pack that ends in the
// machine where a step depends on it.
type openingKey struct {
	changed, removed uint64
	pack             int
}

// opened is the opening of a combination.
func (s *search) opened(f *found) opening {
	return s.openMachine(openingKey{f.changed, f.removed, s.packKey(f.parts[kBattery].pack)})
}

// openMachine works out the way to a set of places, once for each set.
func (s *search) openMachine(key openingKey) opening {
	o, seen := s.openings[key]
	if !seen {
		o = s.findOpening(key)
		s.openings[key] = o
	}
	return o
}

func (s *search) findOpening(key openingKey) opening {
	var reaches []string
	var work hw.Minutes
	ends := s.inside
	for i := range s.places {
		if key.changed&(1<<i) == 0 {
			continue
		}
		p := &s.places[i]
		reaches = append(reaches, p.Reach)
		work += p.swap
		switch {
		case key.removed&(1<<i) != 0:
			ends = ends.Emptied(p.id)
		case p.kind == kBattery:
			ends = ends.WithPack(s.packID(key.pack))
		default:
			ends = ends.Filled(p.id)
		}
	}
	for _, i := range s.service {
		reaches = append(reaches, s.ch.Services[i].Reach)
		work += hw.MinutesOf(s.ch.Services[i].Minutes.Or(0))
	}
	o := opening{down: s.ways.Down(reaches)}
	o.undone, o.extra = s.ways.Back(o.down, ends)
	o.minutes = s.ways.Minutes(o.down, o.undone, o.extra) + work
	o.labour = o.minutes.Labour(s.rate)
	live := s.ways.Live(o.down)
	for i := range s.ch.Steps {
		if !o.down[i] {
			continue
		}
		step := &s.ch.Steps[i]
		if teardown.BoardOut(step) {
			o.flags |= fBoardOut
		}
		if teardown.Glued(step) {
			o.flags |= fGlued
		}
		if teardown.Sealed(step) {
			o.flags |= fSeal
		}
		if live[i] {
			o.flags |= fLive
		}
	}
	return o
}

// packID is the id of a pack by its index, "" for one on no list.
func (s *search) packID(pack int) string {
	if pack < 0 {
		return ""
	}
	return s.ch.Batteries[pack].ID
}

// factsUsed are the facts that an option leans on: those of the places it changes,
// of the memory record for a memory change, of the pack it fits, and of its steps.
func (s *search) factsUsed(changed uint64, pack int, down []bool) []evidence.Fact {
	if len(s.facts) == 0 {
		return nil
	}
	key := factKey{changed, pack}
	used, seen := s.factCache[key]
	if !seen {
		used = s.findFacts(changed, pack, down)
		s.factCache[key] = used
	}
	return used
}

type factKey struct {
	changed uint64
	pack    int
}

func (s *search) findFacts(changed uint64, pack int, down []bool) []evidence.Fact {
	var prefixes []string
	for i := range s.places {
		if changed&(1<<i) == 0 {
			continue
		}
		prefixes = append(prefixes, s.places[i].prefix)
	}
	if changed&s.maskOf(kMemory) != 0 {
		prefixes = append(prefixes, "/memory/type", "/memory/max_speed_mts")
		if path := s.limit.Path(); path != "" {
			prefixes = append(prefixes, path)
		}
	}
	if pack >= 0 {
		prefixes = append(prefixes, "/batteries/"+s.ch.Batteries[pack].ID)
	}
	for i := range s.ch.Steps {
		if down[i] {
			prefixes = append(prefixes, "/steps/"+s.ch.Steps[i].ID)
		}
	}
	return evidence.Used(s.facts, prefixes)
}

// Points of facts.
var (
	pointsAssumed  = hw.CodeFactAssumed.Row().Points
	pointsDisputed = hw.CodeFactDisputed.Row().Points
)

func factPoints(facts []evidence.Fact) int {
	sum := 0
	for i := range facts {
		if evidence.Weak(facts[i].InForce.Source) {
			sum += pointsAssumed
		}
		if facts[i].Disputed {
			sum += pointsDisputed
		}
	}
	return sum
}

// combine goes through every combination of the kinds' candidates and calls take
// for each that is an option, whatever it costs.
func (s *search) combine(ctx context.Context, groups [kinds][]group, take func(*found)) error {
	for _, gm := range groups[kMemory] {
		for _, gd := range groups[kDrive] {
			for _, gb := range groups[kBattery] {
				for _, gw := range groups[kWireless] {
					if err := ctx.Err(); err != nil {
						return err
					}
					changed := gm.changed | gd.changed | gb.changed | gw.changed
					if changed == 0 {
						continue
					}
					key := openingKey{changed, gm.removed | gd.removed, gb.pack}
					s.combineGroup(key, s.openMachine(key), [kinds][]candidate{gm.list, gd.list, gb.list, gw.list}, take)
				}
			}
		}
	}
	return nil
}

func (s *search) combineGroup(key openingKey, open opening, lists [kinds][]candidate, take func(*found)) {
	factRisk := map[int]int{}
	var f found
	f.changed, f.removed, f.minutes = key.changed, key.removed, open.minutes
	for b := range lists[kBattery] {
		bat := &lists[kBattery][b]
		risk, seen := factRisk[bat.pack]
		if !seen {
			risk = factPoints(s.factsUsed(key.changed, bat.pack, open.down))
			factRisk[bat.pack] = risk
		}
		for d := range lists[kDrive] {
			drv := &lists[kDrive][d]
			for w := range lists[kWireless] {
				wl := &lists[kWireless][w]
				if !s.together(bat, drv, wl) {
					continue
				}
				acc := s.accessories(drv.needs.plus(wl.needs))
				base := bat.cost + drv.cost + wl.cost + acc.cents
				flags := bat.flags | drv.flags | wl.flags | open.flags
				if acc.pulled {
					flags |= fPulled
				}
				days := max(bat.days, drv.days, wl.days, acc.days)
				nearer := bat.nearer || drv.nearer || wl.nearer
				for m := range lists[kMemory] {
					mem := &lists[kMemory][m]
					if !nearer && !mem.nearer {
						continue
					}
					f.parts = [kinds]*candidate{mem, drv, bat, wl}
					f.partsC = base + mem.cost
					f.total = f.partsC + open.labour + s.servicesCents
					f.days = max(days, mem.days)
					f.bandwidth = mem.bandwidth
					f.risk = risk + points(flags|mem.flags)
					f.gains = [kinds]int64{mem.gain, drv.gain, bat.gain, wl.gain}
					f.missing = acc.missing
					take(&f)
				}
			}
		}
	}
}

// together checks exclusions across kinds: nothing put in use excludes anything in
// use, and each emptied place is excluded by something put in use.
func (s *search) together(bat, drv, wl *candidate) bool {
	used := bat.used | drv.used | wl.used
	fresh := bat.fresh | drv.fresh | wl.fresh
	if fresh != 0 && s.clash(fresh, used) {
		return false
	}
	for left := drv.removed; left != 0; left &= left - 1 {
		if s.excl[bits.TrailingZeros64(left)]&fresh == 0 {
			return false
		}
	}
	return true
}

// accessory is what a set of needs costs.
type accessory struct {
	cents   int64
	days    int32
	missing bool
	pulled  bool
}

func (s *search) accessories(n needs) accessory {
	if n == (needs{}) {
		return accessory{}
	}
	if known, ok := s.accessoryCost[n]; ok {
		return known
	}
	var out accessory
	for i, name := range s.needNames {
		if n[i] == 0 {
			continue
		}
		got := s.supplied(name, int(n[i]))
		if got.missing {
			out.missing = true
			continue
		}
		out.pulled = out.pulled || got.pulled
		out.cents += got.cents
		out.days = max(out.days, got.days)
	}
	s.accessoryCost[n] = out
	return out
}

type supplyKey struct {
	name   string
	pieces int
}

// supply is where a number of accessories comes from.
type supply struct {
	buy     []purchase
	cents   int64
	days    int32
	pulled  bool
	missing bool
}

// purchase is so many times one part.
type purchase struct {
	part int
	n    int
}

// supplied is the cheapest way to have an accessory in that number, from several parts
// where one has not enough; of equal cost from fewer, then from the earlier in the list.
func (s *search) supplied(name string, pieces int) supply {
	key := supplyKey{name, pieces}
	out, seen := s.providers[key]
	if !seen {
		out = s.findSupply(name, pieces)
		s.providers[key] = out
	}
	return out
}

// findSupply goes through the parts that provide it from the last to the first: best[m] is
// the best way to have m pieces from the parts looked at so far.
func (s *search) findSupply(name string, pieces int) supply {
	best := make([]supply, pieces+1)
	for m := 1; m <= pieces; m++ {
		best[m].missing = true
	}
	for i := len(s.parts) - 1; i >= 0; i-- {
		p := &s.parts[i]
		if p.Kind != hw.KindAccessory || p.Provides != name || !s.takesPart(p) {
			continue
		}
		next := slices.Clone(best)
		for m := 1; m <= pieces; m++ {
			for n := 1; n <= p.Purchases(m) && p.CanBeHad(n, s.allowOrder()); n++ {
				rest := best[max(0, m-n*p.Pieces())]
				cents := rest.cents + int64(n)*p.PriceCents
				old := &next[m]
				if rest.missing || !old.missing && (cents > old.cents || cents == old.cents && 1+len(rest.buy) > len(old.buy)) {
					continue
				}
				*old = supply{buy: append([]purchase{{i, n}}, rest.buy...), cents: cents, pulled: rest.pulled || p.Pulled(),
					days: max(rest.days, s.daysFor(p, n*p.Pieces()))}
			}
		}
		best = next
	}
	return best[pieces]
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
