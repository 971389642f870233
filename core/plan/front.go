package plan

import (
	"cmp"
	"slices"
)

// cost is what options with the same gains are compared by, all the better the smaller:
// total, risk, minutes and days.
type cost [4]int64

func costOf(f *found) cost { return cost{f.total, int64(f.risk), int64(f.minutes), int64(f.days)} }

func (a *cost) beats(b *cost) bool {
	return a[0] <= b[0] && a[1] <= b[1] && a[2] <= b[2] && a[3] <= b[3]
}

// worth is all that options are compared by, all the better the smaller: the costs, the gains
// of each kind, and last whether something is missing, which a complete option never loses
// against.
type worth [worths]int64

const worths = len(cost{}) + 2*kinds + 1

// missingAt is where a worth says that something is missing.
const missingAt = worths - 1

func worthOf(f *found) (w worth) {
	c := costOf(f)
	at := copy(w[:], c[:])
	for _, x := range f.parts {
		w[at], w[at+1] = -x.gain, -x.second
		at += 2
	}
	if f.missing {
		w[missingAt] = 1
	}
	return w
}

// cell is what options with the same gains are first compared by: the numbers of the gains
// that they have of each kind, and whether something is missing.
type cell uint64

// numberGains numbers the different gains of a kind.
func numberGains(groups []group) {
	type gain struct{ amount, second int64 }
	numbers := map[gain]cell{}
	for g := range groups {
		for i := range groups[g].list {
			x := &groups[g].list[i]
			key := gain{x.gain, x.second}
			if _, seen := numbers[key]; !seen {
				numbers[key] = cell(len(numbers))
			}
			x.gainNumber = numbers[key]
		}
	}
}

// gainBits is room for the gains of one kind: a walk finds far fewer.
const gainBits = 15

func cellOf(f *found) cell {
	var c cell
	for k := range kinds {
		c = c<<gainBits | f.parts[k].gainNumber
	}
	if c <<= 1; f.missing {
		c |= 1
	}
	return c
}

// front collects the options within the budget that none beats.
type front struct {
	s     *search
	cells map[cell][]*rival
	room  []rival // for those to come: taken by the block, since there are many and few go
	free  []*rival
}

func newFront(s *search) *front { return &front{s: s, cells: map[cell][]*rival{}} }

// merge takes what another front kept. Which of two options beats the other never depends
// on which came first, so the parts of a walk may be collected apart.
func (fr *front) merge(other *front) {
	for _, list := range other.cells {
		for _, r := range list {
			fr.add(&r.found)
		}
	}
}

// rival is an option with what it is compared by among those of its cell.
type rival struct {
	cost cost
	found
}

// add takes an option unless another one with the same gains beats it, and drops those
// that it beats.
func (fr *front) add(f *found) {
	c := costOf(f)
	key := cellOf(f)
	list := fr.cells[key]
	for _, a := range list {
		if a.cost.beats(&c) && (a.cost != c || fr.s.tieBreak(&a.found, f)) {
			return
		}
	}
	kept := list[:0]
	for _, a := range list {
		if !c.beats(&a.cost) || a.cost == c && !fr.s.tieBreak(f, &a.found) {
			kept = append(kept, a)
		} else {
			fr.free = append(fr.free, a)
		}
	}
	fr.cells[key] = append(kept, fr.place(rival{c, *f}))
}

// place keeps a rival where there is room for it.
func (fr *front) place(r rival) *rival {
	const block = 256
	if n := len(fr.free); n > 0 {
		at := fr.free[n-1]
		fr.free = fr.free[:n-1]
		*at = r
		return at
	}
	if len(fr.room) == cap(fr.room) {
		fr.room = make([]rival, 0, block)
	}
	fr.room = append(fr.room, r)
	return &fr.room[len(fr.room)-1]
}

// ranked is an option with its worth.
type ranked struct {
	*found
	worth worth
}

// options returns the kept ones in their order.
//
// They are looked at in an order in which whatever beats an option comes before it: by
// everything compared, one after the other, the total first. For each other thing
// compared and each value of it there is a set of those kept so far that are no worse; an
// option is beaten when the sets of its values have one in common. That costs a few words
// for every 64 kept, where comparing them pair by pair would cost each of them.
func (fr *front) options() []found {
	n := 0
	for _, list := range fr.cells {
		n += len(list)
	}
	room, all := make([]ranked, 0, n), make([]*ranked, 0, n)
	for _, list := range fr.cells {
		for _, a := range list {
			room = append(room, ranked{&a.found, worthOf(&a.found)})
			all = append(all, &room[len(room)-1])
		}
	}
	slices.SortFunc(all, func(a, b *ranked) int {
		for i := range a.worth {
			if a.worth[i] != b.worth[i] {
				return cmp.Compare(a.worth[i], b.worth[i])
			}
		}
		if fr.s.tieBreak(a.found, b.found) {
			return -1
		}
		return 1
	})
	sets := noWorseSets(all)
	best := make([]*found, 0, len(all))
	for i := range all {
		at := sets.places(&all[i].worth)
		if !sets.beaten(&at) {
			sets.add(&at, len(best))
			best = append(best, all[i].found)
		}
	}
	slices.SortFunc(best, func(a, b *found) int {
		if fr.s.before(a, b) {
			return -1
		}
		return 1
	})
	kept := make([]found, len(best))
	for i, f := range best {
		kept[i] = *f
	}
	return kept
}

// noWorse are, for each thing compared and each of its values, the options kept so far
// that are no worse. The total is not among them, for options come cheapest first, nor is
// what is the same of all.
type noWorse struct {
	compared []int // what differs at all
	values   [worths][]int64
	sets     [worths][][]uint64
	words    int
	kept     int
}

func noWorseSets(all []*ranked) *noWorse {
	s := &noWorse{}
	for d := 1; d < worths; d++ {
		seen := map[int64]bool{}
		for i := range all {
			v := all[i].worth[d]
			if i > 0 && v == all[i-1].worth[d] {
				continue // as most are, where they are sorted by what they are worth
			}
			if !seen[v] {
				seen[v] = true
				s.values[d] = append(s.values[d], v)
			}
		}
		if len(seen) > 1 {
			s.compared = append(s.compared, d)
		}
		slices.Sort(s.values[d])
		s.sets[d] = make([][]uint64, len(s.values[d]))
	}
	return s
}

// places are those of an option's values among the values of their kinds.
func (s *noWorse) places(w *worth) (at [worths]int) {
	for _, d := range s.compared {
		at[d], _ = slices.BinarySearch(s.values[d], w[d])
	}
	return at
}

// beaten reports whether one of those kept is no worse in everything.
func (s *noWorse) beaten(at *[worths]int) bool {
	var sets [worths][]uint64
	words := s.words
	for i, d := range s.compared {
		sets[i] = s.sets[d][at[d]]
		words = min(words, len(sets[i]))
	}
	for word := range words {
		common := ^uint64(0)
		if last := s.words - 1; word == last && s.kept%64 != 0 {
			common = 1<<(s.kept%64) - 1
		}
		for i := range s.compared {
			if common &= sets[i][word]; common == 0 {
				break
			}
		}
		if common != 0 {
			return true
		}
	}
	return false
}

// add puts an option among those kept.
func (s *noWorse) add(at *[worths]int, number int) {
	s.kept = number + 1
	s.words = max(s.words, number/64+1)
	for _, d := range s.compared {
		for i := at[d]; i < len(s.sets[d]); i++ {
			set := s.sets[d][i]
			for len(set) <= number/64 {
				set = append(set, 0)
			}
			set[number/64] |= 1 << (number % 64)
			s.sets[d][i] = set
		}
	}
}
