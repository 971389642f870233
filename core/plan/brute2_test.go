package plan

import (
	"maps"

	"yembo/core/hw"
	"yembo/core/memory"
)

// plainSupply tries every number of every part that provides an accessory.
func plainSupply(s *search, name string, pieces int) (map[int]int, bool) {
	var best map[int]int
	var cost int64
	buy := map[int]int{}
	var walk func(i, left int, cents int64)
	walk = func(i, left int, cents int64) {
		if left <= 0 {
			better := best == nil || cents < cost || cents == cost && len(buy) < len(best)
			if !better && cents == cost && len(buy) == len(best) {
				for j := range s.parts {
					if buy[j] != best[j] {
						better = buy[j] > best[j]
						break
					}
				}
			}
			if better {
				best, cost = maps.Clone(buy), cents
			}
			return
		}
		if i == len(s.parts) {
			return
		}
		p := &s.parts[i]
		for n := p.Purchases(left); n > 0; n-- {
			if p.Provides == name && p.CanBeHad(n, s.allowOrder()) && (p.For == "" || p.For == s.m.ID) {
				buy[i] = n
				walk(i+1, left-n*p.Pieces(), cents+int64(n)*p.PriceCents)
				delete(buy, i)
			}
		}
		walk(i+1, left, cents)
	}
	walk(0, pieces, 0)
	return best, best != nil
}

func count(need map[string]int, hows ...string) {
	for _, how := range hows {
		if name, ok := hw.Needs(how); ok {
			need[name]++
		}
	}
}

// plainAllowed checks removals, the limit, pairing and exclusions.
func plainAllowed(s *search, choice []int32, mem hw.Dec, kept, added []*hw.Module, inUse, fresh []string) bool {
	limit, known := s.limit.GB.Get()
	memoryChanges := false
	for i, c := range choice {
		p := &s.places[i]
		switch p.kind {
		case kMemory:
			if c == unchanged {
				continue
			}
			memoryChanges = true
			if !known || mem > limit {
				return false
			}
			if c == remove && mem+s.m.Fitted.Memory[p.fitted].Module.Capacity.Or(0) <= limit {
				return false
			}
		case kDrive:
			if c != remove {
				continue
			}
			asked := false
			for _, name := range fresh {
				asked = asked || s.ch.Excluded(name, p.id)
			}
			if !asked {
				return false
			}
		}
	}
	if memoryChanges && (!s.wanted[kMemory] || !memory.Paired(s.pairs(), kept, added)) {
		return false
	}
	for _, a := range fresh {
		for _, b := range inUse {
			if a != b && s.ch.Excluded(a, b) {
				return false
			}
		}
	}
	return true
}
