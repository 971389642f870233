package plan

import (
	"cmp"
	"context"
	"math"
	"math/bits"
	"slices"
	"sort"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/teardown"
)

// found is one combination of candidates that is an option.
type found struct {
	parts   [kinds]*candidate
	changed uint64
	total   int64
	partsC  int64
	gains   [kinds]int64
	risk    int
	minutes hw.Minutes
	missing bool
	met     [kinds]bool
	worth   worth
}

// opening is what is the same for all options that change the same places.
type opening struct {
	down    []bool
	minutes hw.Minutes
	labour  int64
	flags   uint32
}

// openMachine works out the way to a set of places, once for each set.
func (s *search) openMachine(changed uint64) opening {
	o, seen := s.openings[changed]
	if !seen {
		o = s.findOpening(changed)
		s.openings[changed] = o
	}
	return o
}

func (s *search) findOpening(changed uint64) opening {
	var reaches []string
	var swaps hw.Minutes
	for i := range s.places {
		if changed&(1<<i) != 0 {
			reaches = append(reaches, s.places[i].reach)
			swaps += s.places[i].swap
		}
	}
	o := opening{down: teardown.Down(s.ch, reaches)}
	way := teardown.DownMinutes(s.ch, o.down)
	o.minutes = way + way.Back() + swaps
	o.labour = o.minutes.Labour(s.rate)
	live := teardown.Live(s.ch, o.down)
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
		prefixes = append(prefixes, "/memory/type", "/memory/max_speed_mts", s.limit.Path)
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

// Points of facts (handbook 10).
const (
	pointsAssumed  = 1
	pointsDisputed = 2
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
					s.combineGroup(changed, s.openMachine(changed), [kinds][]candidate{gm.list, gd.list, gb.list, gw.list}, take)
				}
			}
		}
	}
	return nil
}

func (s *search) combineGroup(changed uint64, open opening, lists [kinds][]candidate, take func(*found)) {
	factRisk := map[int]int{}
	var f found
	f.changed, f.minutes = changed, open.minutes
	for b := range lists[kBattery] {
		bat := &lists[kBattery][b]
		risk, seen := factRisk[bat.pack]
		if !seen {
			risk = factPoints(s.factsUsed(changed, bat.pack, open.down))
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
				nearer := bat.nearer || drv.nearer || wl.nearer
				for m := range lists[kMemory] {
					mem := &lists[kMemory][m]
					if !nearer && !mem.nearer {
						continue
					}
					f.parts = [kinds]*candidate{mem, drv, bat, wl}
					f.partsC = base + mem.cost
					f.total = f.partsC + open.labour
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
		part := s.provider(name, int(n[i]))
		if part < 0 {
			out.missing = true
			continue
		}
		out.pulled = out.pulled || s.parts[part].Pulled()
		out.cents += int64(s.parts[part].Purchases(int(n[i]))) * s.parts[part].PriceCents
	}
	s.accessoryCost[n] = out
	return out
}

// provider is the cheapest accessory that can be had in that number, -1 for none.
func (s *search) provider(name string, pieces int) int {
	key := supplyKey{name, pieces}
	best, seen := s.providers[key]
	if !seen {
		best = s.findProvider(name, pieces)
		s.providers[key] = best
	}
	return best
}

type supplyKey struct {
	name   string
	pieces int
}

func (s *search) findProvider(name string, pieces int) int {
	best, cost := -1, int64(math.MaxInt64)
	for i := range s.parts {
		p := &s.parts[i]
		if p.Kind != hw.KindAccessory || p.Provides != name {
			continue
		}
		n := p.Purchases(pieces)
		if c := int64(n) * p.PriceCents; p.CanBeHad(n, s.allowOrder()) && c < cost {
			best, cost = i, c
		}
	}
	return best
}

// before is the order of options, and the tie-break among equal ones: complete
// first, cheapest first, then fewest changed places, then place by place.
func (s *search) before(a, b *found) bool {
	if a.missing != b.missing {
		return b.missing
	}
	if a.total != b.total {
		return a.total < b.total
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

// cell is what options with the same gains are compared by.
type cell struct {
	gains   [kinds]int64
	missing bool
}

// front collects the options within the budget that none beats.
type front struct {
	s     *search
	cells map[cell][]found
}

func (fr *front) add(f *found) {
	f.worth = worthOf(f)
	key := cell{f.gains, f.missing}
	list := fr.cells[key]
	for i := range list {
		if fr.outdoes(&list[i], f) {
			return
		}
	}
	kept := list[:0]
	for i := range list {
		if !fr.outdoes(f, &list[i]) {
			kept = append(kept, list[i])
		}
	}
	fr.cells[key] = append(kept, *f)
}

// outdoes reports whether a is no worse than b in everything compared, equals being
// settled by the tie-break.
func (fr *front) outdoes(a, b *found) bool {
	return a.worth.beats(&b.worth) && (a.worth != b.worth || fr.s.tieBreak(a, b))
}

// worth is what options are compared by, all the better the smaller; the last says
// whether something is missing, which a complete option never loses against.
type worth [8]int64

// missingAt is where a worth says that something is missing.
const missingAt = 7

func worthOf(f *found) worth {
	w := worth{f.total, int64(f.risk), int64(f.minutes), -f.gains[kMemory], -f.gains[kDrive], -f.gains[kBattery], -f.gains[kWireless]}
	if f.missing {
		w[missingAt] = 1
	}
	return w
}

func (a *worth) beats(b *worth) bool {
	for i := range a {
		if a[i] > b[i] {
			return false
		}
	}
	return true
}

// options returns the kept ones in their order.
func (fr *front) options() []found {
	var all []*found
	for _, list := range fr.cells {
		for i := range list {
			all = append(all, &list[i])
		}
	}
	// What beats another one comes before it in this order: complete before missing,
	// then everything compared, one after the other.
	slices.SortFunc(all, func(a, b *found) int {
		if c := cmp.Compare(a.worth[missingAt], b.worth[missingAt]); c != 0 {
			return c
		}
		for i := range a.worth {
			if c := cmp.Compare(a.worth[i], b.worth[i]); c != 0 {
				return c
			}
		}
		if fr.s.tieBreak(a, b) {
			return -1
		}
		return 1
	})
	var kept []found
	values := make([]worth, 0, len(all))
	last := 0
	for _, f := range all {
		v := &f.worth
		beats := func(j int) bool {
			return values[j].beats(v) && (values[j] != *v || fr.s.tieBreak(&kept[j], f))
		}
		// What has just beaten one is likely to beat the next.
		beaten := last < len(kept) && beats(last)
		for j := 0; j < len(values) && !beaten; j++ {
			if beats(j) {
				beaten, last = true, j
			}
		}
		if !beaten {
			kept = append(kept, *f)
			values = append(values, *v)
		}
	}
	sort.Slice(kept, func(i, j int) bool { return fr.s.before(&kept[i], &kept[j]) })
	return kept
}
