package plan

import (
	"fmt"
	"maps"
	"slices"

	"yembo/core/hw"
)

// maxNeeds is how many different accessories one chassis may ask for.
const maxNeeds = 16

type needs [maxNeeds]uint8

// asksNoMore reports whether a candidate with needs n costs no more in accessories
// than one with m, in money and in risk. That follows from fewer pieces only where
// any number can be had: an accessory that runs out is not paid for but missing, and
// fewer pieces may be used parts where more are not.
func (s *search) asksNoMore(n, m needs) bool {
	if !s.plentiful {
		return n == m
	}
	for i := range n {
		if n[i] > m[i] {
			return false
		}
	}
	return true
}

// readAccessories lists the accessories that the chassis asks for, and whether each of them
// can be had for all its places at once, new or used alike, and no piece more makes any
// other one come sooner.
func (s *search) readAccessories() error {
	most := map[string]int{} // by name: how many pieces all places together may ask for
	ask := func(hows ...string) {
		own := map[string]bool{}
		for _, how := range hows {
			if name, needed := hw.Needs(how); needed {
				own[name] = true
			}
		}
		for name := range own {
			most[name]++
		}
	}
	for i := range s.ch.Slots {
		var hows []string
		for _, how := range s.ch.Slots[i].Lengths {
			hows = append(hows, how)
		}
		ask(hows...)
	}
	for i := range s.ch.Bays {
		ask(s.ch.Bays[i].Connector.Or(""), s.ch.Bays[i].Caddy.Or(""))
	}
	s.needNames = slices.Sorted(maps.Keys(most))
	if len(s.needNames) > maxNeeds {
		return TooLarge(fmt.Sprintf("the chassis asks for %d kinds of accessory; a plan looks at %d at most",
			len(s.needNames), maxNeeds))
	}
	s.plentiful = true
	for name, pieces := range most {
		last := supply{}
		for n := 1; n <= pieces; n++ {
			now := s.supplied(name, n)
			if now.missing || n > 1 && (now.pulled != last.pulled || now.days < last.days) {
				s.plentiful = false
			}
			last = now
		}
	}
	return nil
}

func (n needs) plus(m needs) needs {
	for i := range n {
		n[i] += m[i]
	}
	return n
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
				if rest.missing || !old.missing &&
					(cents > old.cents || cents == old.cents && 1+len(rest.buy) > len(old.buy)) {
					continue
				}
				*old = supply{buy: append([]purchase{{i, n}}, rest.buy...), cents: cents,
					pulled: rest.pulled || p.Pulled(),
					days:   max(rest.days, s.daysFor(p, n*p.Pieces()))}
			}
		}
		best = next
	}
	return best[pieces]
}

// need adds what a way of holding asks for.
func (s *search) need(n *needs, how string) {
	if name, needed := hw.Needs(how); needed {
		n[slices.Index(s.needNames, name)]++
	}
}
