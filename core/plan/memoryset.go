package plan

import (
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
		if s.parts[other].Kind == hw.KindMemory && s.tableAt(other, pi).Fits() && s.paired(s.classOf(int32(other))) == s.paired(own) {
			return []int32{int32(other)}
		}
	}
	return nil
}
