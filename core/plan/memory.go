package plan

import (
	"cmp"
	"context"
	"fmt"
	"math/bits"
	"slices"

	"yembo/core/hw"
	"yembo/core/memory"
)

// noMemory is memory left as it is.
func (s *search) noMemory() candidate {
	return candidate{pack: noPack, gain: capped(s.todayMemory, s.goals.MemoryGB), bandwidth: s.bandwidthGain(s.todayLayout.MBs),
		total: s.todayMemory, choice: s.same(kMemory)}
}

// bandwidthGain is what counts of a bandwidth: all of it where memory is asked for, with
// one that is not known below all that are.
func (s *search) bandwidthGain(mbs hw.Maybe[int]) int64 {
	if !s.named[kMemory] {
		return 0
	}
	return int64(mbs.Or(0))
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

// memoryClass is modules alike in all that a pairing may look at; a negative figure or an
// empty text is not known.
type memoryClass struct {
	gb    hw.Dec
	speed int
	ranks int
	maker string
	part  string
}

// pairs is the pairing practice in force.
func (s *search) pairs() hw.Pairing { return s.practice.Pairing.Or(hw.PairAny) }

// classOf is the class of a part by the pairing in force; figures that the pairing does
// not look at are kept, for a mix is judged by them.
func (s *search) classOf(part int32) memoryClass {
	m := s.parts[part].Memory
	c := memoryClass{gb: m.Capacity.Or(0), speed: m.Speed.Or(-1), ranks: m.Ranks.Or(-1)}
	if s.pairs() == hw.PairIdentical {
		c.maker, c.part = m.Maker, m.PartNumber
	}
	return c
}

// whole reports whether everything that the pairing in force looks at is known of a class;
// where it is not, a module pairs with pieces of its own part alone.
func (s *search) whole(c memoryClass) bool {
	switch s.pairs() {
	case hw.PairEqual:
		return c.speed >= 0
	case hw.PairMatch:
		return c.speed >= 0 && c.ranks >= 0
	case hw.PairIdentical:
		return c.speed >= 0 && c.ranks >= 0 && c.maker != "" && c.part != ""
	}
	return true
}

// paired is the class without what the pairing in force does not look at.
func (s *search) paired(c memoryClass) memoryClass {
	if s.pairs() == hw.PairEqual {
		c.ranks = -1
	}
	return c
}

// memoryPlan is what the search learns about memory.
type memoryPlan struct {
	groups []group
	totals []hw.Dec // every total that an allowed set reaches, today's first
}

// planMemory lists the allowed sets of modules; keep says whether sockets that are to be
// left alone are. Where any mix is allowed it goes through all capacities against each
// other, with the modules of each that no other one beats in price, speed and days, and
// through the sets of each class of equal modules, which are the ones that avoid the risk
// of a mix. Under a stricter pairing only sets of one class can be allowed.
func (s *search) planMemory(ctx context.Context, keep bool) (memoryPlan, error) {
	out := memoryPlan{totals: []hw.Dec{s.todayMemory}}
	sockets := s.kindOf[kMemory]
	if len(sockets) == 0 {
		out.groups = []group{{list: []candidate{s.noMemory()}}}
		return out, nil
	}
	fitting := make([][]int32, len(sockets))
	for _, part := range s.cheapestFirst(hw.KindMemory) {
		for i, pi := range sockets {
			if s.tableAt(int(part), pi).Fits() && !(keep && s.places[pi].keep) {
				fitting[i] = append(fitting[i], part)
			}
		}
	}
	c := s.collector(ctx)
	w := &memoryWalk{s: s, c: c, out: &out, choice: s.same(kMemory), keep: keep, open: make([][]int32, len(sockets))}
	if s.pairs() == hw.PairAny {
		for i := range fitting {
			w.open[i] = s.thinMemory(fitting[i], len(sockets), bySize, true)
		}
		w.start()
	} else {
		w.start() // sets that only take modules out
	}
	// Within a class every module that another one stands in for is dropped once and for all.
	for i := range fitting {
		fitting[i] = s.thinMemory(fitting[i], len(sockets), s.exactly, false)
	}
	for _, class := range s.memoryClasses(fitting) {
		w.open = make([][]int32, len(sockets))
		for i := range fitting {
			for _, part := range fitting[i] {
				if s.belongs(part, class) {
					w.open[i] = append(w.open[i], part)
				}
			}
		}
		w.start()
	}
	if c.err != nil {
		return out, c.err
	}
	out.groups = c.result(s.noMemory())
	return out, nil
}

// exactly is the class of a part in which parts stand in for each other: the whole class,
// or where it is not whole the part alone.
func (s *search) exactly(part int32, m memoryClass) memoryClass {
	if !s.whole(m) {
		m.part += fmt.Sprintf("\x00%d", part)
	}
	return m
}

// bySize lets a faster module stand in for a slower one of the same size; one whose speed
// is not known stands in for none.
func bySize(_ int32, m memoryClass) memoryClass { return memoryClass{gb: m.gb, speed: min(m.speed, 0)} }

// partClass is a class, or where it is not whole the one part it is.
type partClass struct {
	memoryClass
	only int32 // the part, -1 for all of the class
}

func (s *search) memoryClasses(fitting [][]int32) []partClass {
	var classes []partClass
	seen := map[partClass]bool{}
	for i := range fitting {
		for _, part := range fitting[i] {
			c := partClass{s.paired(s.classOf(part)), -1}
			if !s.whole(c.memoryClass) {
				c.only = part
			}
			if !seen[c] {
				seen[c] = true
				classes = append(classes, c)
			}
		}
	}
	return classes
}

// belongs reports whether a part may stand in a set of a class: where any mix is allowed,
// what is known of both agrees; else it is of the class, or the one part.
func (s *search) belongs(part int32, class partClass) bool {
	m := s.classOf(part)
	switch {
	case class.only >= 0:
		return part == class.only
	case s.pairs() == hw.PairAny:
		return compatible(m, class.memoryClass)
	}
	return s.paired(m) == class.memoryClass
}

// compatible reports whether a module could be of a class: what is known agrees.
func compatible(m, class memoryClass) bool {
	return m.gb == class.gb && (m.speed == class.speed || m.speed < 0 || class.speed < 0) &&
		(m.ranks == class.ranks || m.ranks < 0 || class.ranks < 0)
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
	slices.SortStableFunc(out, func(a, b int32) int { return cmp.Compare(s.parts[a].PriceCents, s.parts[b].PriceCents) })
	return out
}

// thinMemory drops modules that others of the same key stand in for. With faster, a faster
// module stands in for a slower one; without, the key tells the speed.
func (s *search) thinMemory(parts []int32, pieces int, key func(int32, memoryClass) memoryClass, faster bool) []int32 {
	numbers := map[memoryClass]int{}
	picks := make([]pick, 0, len(parts))
	for _, part := range parts {
		m := s.classOf(part)
		k := key(part, m)
		if _, ok := numbers[k]; !ok {
			numbers[k] = len(numbers)
		}
		x := pick{part: part, price: s.parts[part].PriceCents, class: numbers[k]}
		if faster {
			x.size = s.speedCounts(m.speed)
		}
		if s.parts[part].Pulled() {
			x.flags = fPulled
		}
		picks = append(picks, x)
	}
	everywhere := func(a, b int32) bool {
		for _, pi := range s.kindOf[kMemory] {
			if s.tableAt(int(b), pi).Fits() && !s.tableAt(int(a), pi).Fits() {
				return false
			}
		}
		return true
	}
	kept := s.thin(picks, pieces, everywhere)
	out := make([]int32, len(kept))
	for i := range kept {
		out[i] = kept[i].part
	}
	return out
}

// speedCounts is what counts of a module's speed: no more than the platform's, nothing
// where that is not known.
func (s *search) speedCounts(speed int) hw.Dec {
	return hw.DecOf(max(0, min(speed, s.ch.Mem().MaxSpeed.Or(0))))
}

// memoryWalk goes through every set of modules of the open parts that can matter.
//
// Sets past the limit are left as soon as they pass it. Where sockets take the same
// parts, new modules that trade sockets make the same set at the same price, and the
// one with the earlier part in the earlier socket wins the tie: only that is tried.
type memoryWalk struct {
	s      *search
	c      *collector
	out    *memoryPlan
	open   [][]int32 // by socket: the parts to try
	twin   []int     // by socket: the nearest earlier one that takes the same parts, or -1
	choice []int32
	keep   bool
}

// start goes through the sets of the open parts.
func (w *memoryWalk) start() {
	w.twin = make([]int, len(w.open))
	for i := range w.open {
		w.twin[i] = -1
		for j := range i {
			if slices.Equal(w.open[i], w.open[j]) {
				w.twin[i] = j
			}
		}
	}
	w.walk(0, w.s.soldered)
}

// walk tries everything for a socket; total is what the machine has before it, GB.
func (w *memoryWalk) walk(socket int, total hw.Dec) {
	if w.c.stopped() || total > w.s.limit.GB.Or(0) {
		return
	}
	if socket == len(w.choice) {
		w.take()
		return
	}
	p := &w.s.places[w.s.kindOf[kMemory][socket]]
	kept := total
	if p.occupied {
		kept += w.s.m.Fitted.Memory[p.fitted].Module.Capacity.Or(0)
	}
	w.choice[socket] = unchanged
	w.walk(socket+1, kept)
	if w.keep && p.keep {
		return
	}
	if p.occupied {
		w.choice[socket] = remove
		w.walk(socket+1, total)
	}
	from := w.partBefore(socket)
	for _, part := range w.open[socket] {
		if part < from {
			continue
		}
		w.choice[socket] = part
		w.walk(socket+1, total+w.s.classOf(part).gb)
	}
	w.choice[socket] = unchanged
}

// partBefore is the new module in the nearest earlier socket that takes the same
// parts; 0, the first of all parts, where there is none.
func (w *memoryWalk) partBefore(socket int) int32 {
	for i := w.twin[socket]; i >= 0; i = w.twin[i] {
		if w.choice[i] < remove {
			return w.choice[i]
		}
	}
	return 0
}

// take judges one set and hands it to the collector.
func (w *memoryWalk) take() {
	s := w.s
	set, ok := s.memorySet(w.choice)
	if !ok {
		return
	}
	bill, ok := s.price(w.choice)
	if !ok {
		return
	}
	if !slices.Contains(w.out.totals, set.total) {
		w.out.totals = append(w.out.totals, set.total)
	}
	mbs := s.bandwidth(w.choice)
	if !w.keep || !s.wanted[kMemory] || set.total <= s.todayMemory && mbs.Or(0) <= s.todayLayout.MBs.Or(0) {
		// Memory left as it is beats a set that brings nothing.
		return
	}
	x := candidate{pack: noPack, changed: set.changed, removed: set.removed, cost: bill.cents, days: bill.days, total: set.total, nearer: set.total > s.todayMemory,
		gain: capped(set.total, s.goals.MemoryGB), bandwidth: s.bandwidthGain(mbs), choice: w.choice}
	x.flags = s.memoryFlags(set, mbs)
	if bill.pulled {
		x.flags |= fPulled
	}
	w.c.add(x)
}

// memoryFlags are the risks of a set.
func (s *search) memoryFlags(set moduleSet, mbs hw.Maybe[int]) uint32 {
	var f uint32
	if set.mixed {
		f |= fMixed
	}
	if memory.BeyondMaker(s.ch.Mem(), set.total) {
		f |= fBeyond
	}
	if memory.LimitUnsure(s.ch.Mem(), s.todayMemory, set.total) {
		f |= fInferred
	}
	if s.narrower(mbs) {
		f |= fNarrower
	}
	return f
}

// narrower reports a bandwidth below today's, both known.
func (s *search) narrower(mbs hw.Maybe[int]) bool {
	after, okA := mbs.Get()
	today, okT := s.todayLayout.MBs.Get()
	return okA && okT && after < today
}

// bandwidth is that of a choice, in MB/s: the interleave begins over all channels that
// hold something, at the speed of the slowest. memory.Arrange works out the same at length.
func (s *search) bandwidth(choice []int32) hw.Maybe[int] {
	slowest, known := s.ch.Mem().MaxSpeed.Get()
	channels := memory.ChannelCount(s.ch.Mem())
	var used uint32
	hold := func(letters []string, mod *hw.Module) {
		mts, told := mod.Speed.Get()
		known = known && told
		slowest = min(slowest, mts)
		if mod.Capacity.Or(0) == 0 {
			return
		}
		known = known && len(letters) > 0
		for _, letter := range letters {
			i := int(letter[0] - 'A')
			known = known && i < channels
			used |= 1 << i
		}
	}
	for i := range s.todaySticks {
		if st := &s.todaySticks[i]; st.Soldered {
			hold(st.Channels, &st.Module)
		}
	}
	for i, pi := range s.kindOf[kMemory] {
		p := &s.places[pi]
		so := &s.ch.Memory.Sockets[p.Index]
		switch c := choice[i]; {
		case c < remove:
			hold(hw.OnChannels(so.Channel, so.Channels), s.parts[c].Memory)
		case c == unchanged && p.occupied:
			hold(hw.OnChannels(so.Channel, so.Channels), &s.m.Fitted.Memory[p.fitted].Module)
		}
	}
	if !known || used == 0 {
		return hw.Maybe[int]{}
	}
	return hw.Known(bits.OnesCount32(used) * slowest * 8)
}
