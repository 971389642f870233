package week

import "slices"

// keep adds a state to a layer, unless it cannot become better than what is known or another is as good.
func (s *search) keep(layer *layerOf, c *node) {
	s.settle(c)
	at, known := layer.at[c.progress]
	if !known {
		at = len(layer.lists)
		layer.at[c.progress] = at
		layer.lists = append(layer.lists, nil)
	}
	list := layer.lists[at]
	for _, n := range list {
		if s.asGood(n, c) {
			return
		}
	}
	if !s.any {
		if bound, possible := s.bound(c); !possible || s.known && !bound.less(&s.best) {
			return
		}
	}
	list = slices.DeleteFunc(list, func(n *node) bool {
		if s.asGood(c, n) {
			s.left++
			return true
		}
		return false
	})
	layer.lists[at] = append(list, c)
	s.left--
}

// asGood reports whether a state is nowhere later than another of the same progress, and costs no more.
func (s *search) asGood(n, c *node) bool {
	for b := range s.q.r.Benches {
		if n.held[b] == unheld && n.bench[b] > c.bench[b] {
			return false
		}
	}
	for p := range s.q.r.People {
		if n.person[p] > c.person[p] {
			return false
		}
	}
	for i := range s.jobs {
		if n.end[i] > c.end[i] {
			return false
		}
	}
	return !c.sum.less(&n.sum)
}

// settle moves each bench and person on to when something that is left could begin there at the earliest, so that states that
// differ in nothing that matters are the same.
func (s *search) settle(c *node) {
	var benchWanted [maxBenches]bool
	var handsWanted [maxPeople]int // the shortest piece that is left for them
	var anySplit [maxPeople]bool
	first := never
	for i, j := range s.jobs {
		k := int(c.next[i])
		if k == len(j.stretches) {
			continue
		}
		if k > 0 {
			first = min(first, int(c.end[i]))
		} else {
			first = min(first, j.release)
		}
		want := func(b, p int) {
			for ; k < len(j.stretches); k++ {
				x := &j.stretches[k]
				benchWanted[b] = benchWanted[b] || x.stay
				if x.hands {
					if handsWanted[p] == 0 || x.min < handsWanted[p] {
						handsWanted[p] = x.min
					}
					anySplit[p] = anySplit[p] || x.split == SplitBreak || x.split == SplitClosing
				}
			}
			k = int(c.next[i])
		}
		if k > 0 {
			want(int(c.asked[i]>>4), int(c.asked[i]&15))
			continue
		}
		for _, b := range j.benches {
			for _, p := range j.people {
				want(b, p)
			}
		}
	}
	for b := range s.q.r.Benches {
		switch {
		case c.held[b] != unheld || !benchWanted[b]:
			c.bench[b] = 0
		default:
			c.bench[b] = int32(max(int(c.bench[b]), first))
		}
	}
	for p := range s.q.r.People {
		free := max(int(c.person[p]), first)
		switch {
		case handsWanted[p] == 0:
			free = 0
		case anySplit[p]:
			free = s.q.there[p].work(free)
		default:
			free = s.q.there[p].piece(free, handsWanted[p])
		}
		c.person[p] = int32(min(free, 1<<30))
	}
}
