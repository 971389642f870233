package plan

import (
	"cmp"
	"context"
	"slices"

	"yembo/core/hw"
	"yembo/core/memory"
)

// noMemory is memory left as it is.
func (s *search) noMemory() candidate {
	return candidate{pack: noPack, gain: capped(s.todayMemory, s.goals.MemoryGB), total: s.todayMemory, choice: s.same(kMemory)}
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

// memoryClass is modules alike in capacity, speed and, where it matters, ranks; a
// negative figure is not known.
type memoryClass struct {
	gb    hw.Dec
	speed int
	ranks int
}

// memoryPlan is what the search learns about memory.
type memoryPlan struct {
	groups []group
	totals []hw.Dec // every total that an allowed set reaches, today's first
}

// planMemory lists the allowed sets of modules. It goes through the sets twice:
// all capacities against each other with the cheapest module of each, and, for
// every class of equal modules, the sets of that class alone: those are the ones
// that avoid the risk of a mix, and the only ones that pairing may allow.
func (s *search) planMemory(ctx context.Context) (memoryPlan, error) {
	out := memoryPlan{totals: []hw.Dec{s.todayMemory}}
	sockets := s.kindOf[kMemory]
	if len(sockets) == 0 {
		out.groups = []group{{0, []candidate{s.noMemory()}}}
		return out, nil
	}
	fitting := make([][]int32, len(sockets))
	for _, part := range s.cheapestFirst(hw.KindMemory) {
		for i, pi := range sockets {
			if s.verdictAt(int(part), pi).Fits() {
				fitting[i] = append(fitting[i], part)
			}
		}
	}
	c := s.collector(ctx)
	w := &memoryWalk{s: s, c: c, out: &out, choice: s.same(kMemory)}
	if s.practice.Pairing.Or(memory.PairAny) == memory.PairAny {
		w.open = make([][]int32, len(sockets))
		for i := range fitting {
			w.open[i] = s.thinMemory(fitting[i], len(sockets), func(m memoryClass) memoryClass { return memoryClass{gb: m.gb} })
		}
		w.start()
	}
	ranksMatter := s.practice.Pairing.Or(memory.PairAny) != memory.PairEqual
	bySize := make([]map[hw.Dec][]int32, len(sockets))
	for i := range fitting {
		bySize[i] = map[hw.Dec][]int32{}
		for _, part := range fitting[i] {
			size := s.classOf(part).gb
			bySize[i][size] = append(bySize[i][size], part)
		}
	}
	for _, class := range s.memoryClasses(fitting, ranksMatter) {
		w.open = make([][]int32, len(sockets))
		for i := range fitting {
			var own []int32
			for _, part := range bySize[i][class.gb] {
				if compatible(s.classOf(part), class) {
					own = append(own, part)
				}
			}
			w.open[i] = s.thinMemory(own, len(sockets), func(m memoryClass) memoryClass { return m })
		}
		w.start()
	}
	if c.err != nil {
		return out, c.err
	}
	out.groups = c.result(s.noMemory())
	return out, nil
}

// cheapestFirst lists the parts of a kind that can be had at all, by price, then by
// position.
func (s *search) cheapestFirst(kind string) []int32 {
	var out []int32
	for i := range s.parts {
		if s.parts[i].Kind == kind && s.canBeHad(&s.parts[i]) {
			out = append(out, int32(i))
		}
	}
	slices.SortStableFunc(out, func(a, b int32) int { return cmp.Compare(s.parts[a].PriceCents, s.parts[b].PriceCents) })
	return out
}

func (s *search) classOf(part int32) memoryClass {
	m := s.parts[part].Memory
	return memoryClass{m.Capacity.Or(0), m.Speed.Or(-1), m.Ranks.Or(-1)}
}

// compatible reports whether a module could be of a class: what is known agrees.
func compatible(m, class memoryClass) bool {
	return m.gb == class.gb && (m.speed == class.speed || m.speed < 0 || class.speed < 0) &&
		(m.ranks == class.ranks || m.ranks < 0 || class.ranks < 0)
}

func (s *search) memoryClasses(fitting [][]int32, ranksMatter bool) []memoryClass {
	var classes []memoryClass
	seen := map[memoryClass]bool{}
	for i := range fitting {
		for _, part := range fitting[i] {
			m := s.classOf(part)
			if !ranksMatter {
				m.ranks = -1
			}
			if !seen[m] {
				seen[m] = true
				classes = append(classes, m)
			}
		}
	}
	return classes
}

func (s *search) thinMemory(parts []int32, pieces int, key func(memoryClass) memoryClass) []int32 {
	numbers := map[memoryClass]int{}
	picks := make([]pick, 0, len(parts))
	for _, part := range parts {
		k := key(s.classOf(part))
		if _, ok := numbers[k]; !ok {
			numbers[k] = len(numbers)
		}
		x := pick{part: part, price: s.parts[part].PriceCents, class: numbers[k]}
		if s.parts[part].Pulled() {
			x.flags = fPulled
		}
		picks = append(picks, x)
	}
	everywhere := func(a, b int32) bool {
		for _, pi := range s.kindOf[kMemory] {
			if s.verdictAt(int(b), pi).Fits() && !s.verdictAt(int(a), pi).Fits() {
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
	cents, pulled, ok := s.price(w.choice)
	if !ok {
		return
	}
	if !slices.Contains(w.out.totals, set.total) {
		w.out.totals = append(w.out.totals, set.total)
	}
	if !s.wanted[kMemory] || set.total <= s.todayMemory {
		// Memory left as it is beats a set that brings nothing.
		return
	}
	x := candidate{pack: noPack, changed: set.changed, cost: cents, total: set.total, nearer: true,
		gain: capped(set.total, s.goals.MemoryGB), choice: w.choice}
	if set.mixed {
		x.flags |= fMixed
	}
	if pulled {
		x.flags |= fPulled
	}
	if memory.BeyondMaker(s.ch.Mem(), s.todayMemory, set.total) {
		x.flags |= fBeyond
	}
	w.c.add(x)
}

// moduleSet is a judged set of modules.
type moduleSet struct {
	total   hw.Dec
	changed uint64
	mixed   bool
}

// memorySet judges a choice: something changes, the total keeps to the limit, the
// pairing allows it, and each removed module put back would pass the limit.
func (s *search) memorySet(choice []int32) (moduleSet, bool) {
	set := moduleSet{total: s.soldered}
	var inSockets [16]*hw.Module
	modules := inSockets[:0]
	var keptAt [16]*hw.Module
	var addedAt [16]*hw.Module
	kept, added := keptAt[:0], addedAt[:0]
	for i, part := range choice {
		pi := s.kindOf[kMemory][i]
		p := &s.places[pi]
		var mod *hw.Module
		switch {
		case part == unchanged && p.occupied:
			mod = &s.m.Fitted.Memory[p.fitted].Module
			kept = append(kept, mod)
		case part == unchanged:
			continue
		case part == remove:
			set.changed |= 1 << pi
			continue
		default:
			set.changed |= 1 << pi
			mod = s.parts[part].Memory
			added = append(added, mod)
		}
		set.total += mod.Capacity.Or(0)
		modules = append(modules, mod)
	}
	limit, known := s.limit.GB.Get()
	if set.changed == 0 || !known || set.total > limit {
		return set, false
	}
	for i, part := range choice {
		if part == remove {
			p := &s.places[s.kindOf[kMemory][i]]
			if set.total+s.m.Fitted.Memory[p.fitted].Module.Capacity.Or(0) <= limit {
				return set, false
			}
		}
	}
	for i := range modules {
		for j := range i {
			set.mixed = set.mixed || memory.Differ(modules[i], modules[j])
		}
	}
	practice := s.practice.Pairing.Or(memory.PairAny)
	return set, practice == memory.PairAny || memory.Paired(practice, kept, added)
}

// inAllowedSet reports whether some allowed set has the part in that socket,
// whatever the stock (formats: memory.pairing).
func (s *search) inAllowedSet(part int32, socket int) bool {
	if s.practice.Pairing.Or(memory.PairAny) == memory.PairAny {
		return true
	}
	// Pairing looks at nothing but the class, so one answer serves all its parts.
	key := classIn{s.classOf(part), socket}
	answer, asked := s.allowedSets[key]
	if !asked {
		answer = s.findAllowedSet(part, socket)
		s.allowedSets[key] = answer
	}
	return answer
}

type classIn struct {
	class  memoryClass
	socket int
}

func (s *search) findAllowedSet(part int32, socket int) bool {
	choice := s.same(kMemory)
	beside := make([][]int32, len(choice)) // by socket: what may go there
	for i, pi := range s.kindOf[kMemory] {
		beside[i] = []int32{unchanged}
		if s.places[pi].occupied {
			beside[i] = append(beside[i], remove)
		}
		beside[i] = append(beside[i], s.alike(part, pi)...)
	}
	beside[socket] = []int32{part}
	var try func(i int) bool
	try = func(i int) bool {
		if s.pairing.stopped() {
			return false
		}
		if i == len(choice) {
			_, ok := s.memorySet(choice)
			return ok
		}
		for _, o := range beside[i] {
			choice[i] = o
			if try(i + 1) {
				return true
			}
		}
		return false
	}
	return try(0)
}

// alike returns one part for each class that could stand beside the given part in
// a place: pairing looks at nothing but the class.
func (s *search) alike(part int32, pi int) []int32 {
	var out []int32
	seen := map[memoryClass]bool{}
	own := s.classOf(part)
	own.ranks = -1
	for other := range s.parts {
		if s.parts[other].Kind != hw.KindMemory || !s.verdictAt(other, pi).Fits() {
			continue
		}
		class := s.classOf(int32(other))
		if compatible(class, own) && !seen[class] {
			seen[class] = true
			out = append(out, int32(other))
		}
	}
	return out
}
