package plan

import (
	"math/bits"

	"yembo/core/hw"
	"yembo/core/memory"
)

// moduleSet is a judged set of modules.
type moduleSet struct {
	total   hw.Dec
	changed uint64
	removed uint64
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
			set.removed |= 1 << pi
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
			set.mixed = set.mixed || modules[i] != modules[j] && memory.Differ(modules[i], modules[j])
		}
	}
	return set, memory.Paired(s.pairs(), kept, added)
}

// inAllowedSet reports whether some allowed set has the part in that socket, whatever the
// stock, with the sockets that are to be left alone as they are.
func (s *search) inAllowedSet(part int32, socket int) bool {
	if s.pairs() == hw.PairAny {
		return true
	}
	// Pairing looks at nothing but the class, so one answer serves all parts of a whole one.
	key := setIn{partClass{s.classOf(part), -1}, socket}
	if !s.whole(key.class.memoryClass) {
		key.class.only = part
	}
	answer, asked := s.allowedSets[key]
	if !asked {
		answer = s.findAllowedSet(part, socket)
		s.allowedSets[key] = answer
	}
	return answer
}

type setIn struct {
	class  partClass
	socket int
}

func (s *search) findAllowedSet(part int32, socket int) bool {
	choice := s.same(kMemory)
	beside := make([][]int32, len(choice)) // by socket: what may go there
	for i, pi := range s.kindOf[kMemory] {
		beside[i] = []int32{unchanged}
		if s.places[pi].keep {
			continue
		}
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

// alike returns what could stand beside a part in a place: itself where its class is not
// whole, else one part of its class for each figure that pairing does not look at.
func (s *search) alike(part int32, pi int) []int32 {
	own := s.classOf(part)
	if !s.whole(own) {
		if s.tableAt(int(part), pi).Fits() {
			return []int32{part}
		}
		return nil
	}
	for other := range s.parts {
		if s.parts[other].Kind == hw.KindMemory && s.tableAt(other, pi).Fits() &&
			s.paired(s.classOf(int32(other))) == s.paired(own) {
			return []int32{int32(other)}
		}
	}
	return nil
}

// memoryFlags are the risks of a set.
func (s *search) memoryFlags(set moduleSet, mbs hw.Maybe[int], single bool) uint32 {
	var f uint32
	if single && memory.Wide(s.ch.Mem()) {
		f |= fSingle
	}
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
// hold something, at the speed of the slowest; single says that all of it is known to lie on one
// channel. memory.Arrange works out the same at length.
func (s *search) bandwidth(choice []int32) (mbs hw.Maybe[int], single bool) {
	slowest, known := s.ch.Mem().MaxSpeed.Get()
	channels := memory.ChannelCount(s.ch.Mem())
	placed := true
	var used uint32
	hold := func(letters []string, mod *hw.Module) {
		mts, told := mod.Speed.Get()
		known = known && told
		slowest = min(slowest, mts)
		if mod.Capacity.Or(0) == 0 {
			return
		}
		placed = placed && len(letters) > 0
		for _, letter := range letters {
			i := int(letter[0] - 'A')
			placed = placed && i < channels
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
	if !placed || used == 0 {
		return hw.Maybe[int]{}, false
	}
	width := bits.OnesCount32(used)
	if known {
		mbs = hw.Known(width * slowest * 8)
	}
	return mbs, width == 1
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
	case hw.PairAny: // they change nothing here
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
