package plan

import (
	"context"
	"fmt"
	"runtime"
	"slices"
	"sync"

	"yembo/core/hw"
)

// memoryPlan is what the search learns about memory.
type memoryPlan struct {
	groups []group
	totals []hw.Dec // every total that an allowed set reaches, today's first
}

// memoryWays are the allowed sets of modules, worked out once.
func (s *search) memoryWays(ctx context.Context) (memoryPlan, error) {
	if s.memory == nil {
		ways, err := s.planMemory(ctx, true)
		if err != nil {
			return ways, err
		}
		s.memory = &ways
	}
	return *s.memory, nil
}

// memoryTotals are the totals that the right size is chosen among: what is to be left alone
// does not count there.
func (s *search) memoryTotals(ctx context.Context) ([]hw.Dec, error) {
	kept := slices.ContainsFunc(s.kindOf[kMemory], func(pi int) bool { return s.places[pi].keep })
	if s.wanted[kMemory] && !kept {
		ways, err := s.memoryWays(ctx)
		return ways.totals, err
	}
	ways, err := s.planMemory(ctx, false)
	return ways.totals, err
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
		out.groups = s.leftAlone(kMemory)
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
	for _, parts := range fitting {
		for _, part := range parts {
			s.lookUp(part, len(sockets))
		}
	}
	walks := s.walks(fitting)
	hands := make([]*memoryWalk, runtime.GOMAXPROCS(0))
	first := s.collector(ctx)
	var done sync.WaitGroup
	for h := range hands {
		c := first
		if h > 0 {
			c = s.collector(ctx)
			c.all = first.all
		}
		w := &memoryWalk{s: s, c: c, choice: s.same(kMemory), keep: keep, hand: h, hands: len(hands)}
		hands[h] = w
		done.Go(func() {
			for _, open := range walks {
				w.start(open)
			}
		})
	}
	done.Wait()
	for h, w := range hands {
		if h > 0 {
			first.merge(w.c)
		}
		for _, total := range w.totals {
			if !slices.Contains(out.totals, total) {
				out.totals = append(out.totals, total)
			}
		}
	}
	if first.err != nil {
		return out, first.err
	}
	out.groups = first.result(memoryKind{}.asItIs(s))
	return out, nil
}

// walks are the parts that a walk tries by socket: all capacities against each other where
// any mix is allowed, then each class.
func (s *search) walks(fitting [][]int32) [][][]int32 {
	open := make([][]int32, len(fitting))
	if s.pairs() == hw.PairAny {
		for i := range fitting {
			open[i] = s.thinMemory(fitting[i], len(fitting), bySize, true)
		}
	} // else sets that only take modules out
	out := [][][]int32{open}
	// Within a class every module that another one stands in for is dropped once and for all.
	for i := range fitting {
		fitting[i] = s.thinMemory(fitting[i], len(fitting), s.exactly, false)
	}
	for _, class := range s.memoryClasses(fitting) {
		open := make([][]int32, len(fitting))
		for i := range fitting {
			for _, part := range fitting[i] {
				if s.belongs(part, class) {
					open[i] = append(open[i], part)
				}
			}
		}
		out = append(out, open)
	}
	return out
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
	totals []hw.Dec  // every total that an allowed set of this hand reaches
	open   [][]int32 // by socket: the parts to try
	twin   []int     // by socket: the nearest earlier one that takes the same parts, or -1
	choice []int32
	keep   bool

	// Several hands share a walk: what the first socket may hold is dealt out to them in turn.
	hand, hands, dealt int
}

// start goes through the sets of the open parts.
func (w *memoryWalk) start(open [][]int32) {
	w.open = open
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
	try := func(what int32, after hw.Dec) {
		if socket > 0 || w.mine() {
			w.choice[socket] = what
			w.walk(socket+1, after)
		}
	}
	try(unchanged, kept)
	if w.keep && p.keep {
		return
	}
	if p.occupied {
		try(remove, total)
	}
	from := w.partBefore(socket)
	for _, part := range w.open[socket] {
		if part < from {
			continue
		}
		try(part, total+w.s.classOf(part).gb)
	}
	w.choice[socket] = unchanged
}

// mine reports whether the next thing that the first socket may hold falls to this hand.
func (w *memoryWalk) mine() bool {
	w.dealt++
	return w.dealt%w.hands == w.hand
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
	if !slices.Contains(w.totals, set.total) {
		w.totals = append(w.totals, set.total)
	}
	mbs, single := s.bandwidth(w.choice)
	if !w.keep || !s.wanted[kMemory] || set.total <= s.todayMemory && mbs.Or(0) <= s.todayLayout.MBs.Or(0) {
		// Memory left as it is beats a set that brings nothing.
		return
	}
	x := candidate{pack: noPack, changed: set.changed, removed: set.removed, cost: bill.cents, days: bill.days,
		total: set.total, nearer: set.total > s.todayMemory,
		gain: capped(set.total, s.goals.MemoryGB), second: s.bandwidthGain(mbs), choice: w.choice}
	x.flags = s.memoryFlags(set, mbs, single)
	if bill.pulled {
		x.flags |= fPulled
	}
	w.c.add(x)
}
