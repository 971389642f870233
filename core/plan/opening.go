package plan

import (
	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/teardown"
)

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
	return s.openMachine(openingKey{f.changed, f.removed, s.packKey(f.pack())})
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
	var flags uint32
	var work hw.Minutes
	ends := s.inside
	for i := range s.places {
		if key.changed&(1<<i) == 0 {
			continue
		}
		p := &s.places[i]
		if p.way == teardown.NotRecorded {
			flags |= fNoReach
		}
		reaches = append(reaches, p.way)
		work += p.swap
		switch {
		case key.removed&(1<<i) != 0:
			ends = ends.Emptied(p.id)
		case p.Kind == hw.InPack:
			ends = ends.WithPack(s.packID(key.pack))
		default:
			ends = ends.Filled(p.id)
		}
	}
	for _, i := range s.service {
		reaches = append(reaches, s.ch.Services[i].Reach)
		work += hw.MinutesOf(s.ch.Services[i].Minutes.Or(0))
	}
	o := opening{down: s.ways.Down(reaches), flags: flags}
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
	for k, kind := range allKinds {
		if changed&s.maskOf(k) != 0 {
			prefixes = append(prefixes, kind.leansOn(s, pack)...)
		}
	}
	for i := range s.ch.Steps {
		if down[i] {
			prefixes = append(prefixes, "/steps/"+s.ch.Steps[i].ID)
		}
	}
	return evidence.Used(s.facts, prefixes)
}

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
