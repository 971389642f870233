package plan

import (
	"cmp"
	"slices"
)

// worth is what options are compared by, all the better the smaller: total, risk, minutes,
// days, the gains, and last whether something is missing, which a complete option never
// loses against.
type worth [worths]int64

const worths = 10

// missingAt is where a worth says that something is missing.
const missingAt = worths - 1

func worthOf(f *found) worth {
	w := worth{f.total, int64(f.risk), int64(f.minutes), int64(f.days), -f.gains[kMemory], -f.bandwidth, -f.gains[kDrive], -f.gains[kBattery], -f.gains[kWireless]}
	if f.missing {
		w[missingAt] = 1
	}
	return w
}

func (a *worth) beats(b *worth) bool {
	for i := range a {
		if a[i] > b[i] {
			return false
		}
	}
	return true
}

// cell is what options with the same gains are first compared by: the numbers of the gains
// that they have of each kind, and whether something is missing.
type cell uint64

// numberGains numbers the different gains of a kind.
func numberGains(groups []group) {
	type gain struct{ amount, bandwidth int64 }
	numbers := map[gain]cell{}
	for g := range groups {
		for i := range groups[g].list {
			x := &groups[g].list[i]
			key := gain{x.gain, x.bandwidth}
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
	cells map[cell][]found
}

// add takes an option unless another one with the same gains beats it, and drops those
// that it beats.
func (fr *front) add(f *found) {
	f.worth = worthOf(f)
	key := cellOf(f)
	list := fr.cells[key]
	for i := range list {
		if fr.outdoes(&list[i], f) {
			return
		}
	}
	kept := list[:0]
	for i := range list {
		if !fr.outdoes(f, &list[i]) {
			kept = append(kept, list[i])
		}
	}
	fr.cells[key] = append(kept, *f)
}

// outdoes reports whether a is no worse than b in everything compared, equals being
// settled by the tie-break.
func (fr *front) outdoes(a, b *found) bool {
	return a.worth.beats(&b.worth) && (a.worth != b.worth || fr.s.tieBreak(a, b))
}

// options returns the kept ones in their order.
//
// They are looked at in an order in which whatever beats an option comes before it: by
// everything compared, one after the other, the total first. For each other thing
// compared and each value of it there is a set of those kept so far that are no worse; an
// option is beaten when the sets of its values have one in common. That costs a few words
// for every 64 kept, where comparing them pair by pair would cost each of them.
func (fr *front) options() []found {
	all := make([]*found, 0, len(fr.cells))
	for _, list := range fr.cells {
		for i := range list {
			all = append(all, &list[i])
		}
	}
	slices.SortFunc(all, func(a, b *found) int {
		for i := range a.worth {
			if a.worth[i] != b.worth[i] {
				return cmp.Compare(a.worth[i], b.worth[i])
			}
		}
		if fr.s.tieBreak(a, b) {
			return -1
		}
		return 1
	})
	sets := noWorseSets(all)
	best := make([]*found, 0, len(all))
	for _, f := range all {
		at := sets.places(&f.worth)
		if !sets.beaten(&at) {
			sets.add(&at, len(best))
			best = append(best, f)
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
// that are no worse. The total is not among them, for options come cheapest first.
type noWorse struct {
	values [worths][]int64
	sets   [worths][][]uint64
	words  int
}

func noWorseSets(all []*found) *noWorse {
	s := &noWorse{}
	for d := 1; d < worths; d++ {
		seen := map[int64]bool{}
		for _, f := range all {
			if v := f.worth[d]; !seen[v] {
				seen[v] = true
				s.values[d] = append(s.values[d], v)
			}
		}
		slices.Sort(s.values[d])
		s.sets[d] = make([][]uint64, len(s.values[d]))
	}
	return s
}

// places are those of an option's values among the values of their kinds.
func (s *noWorse) places(w *worth) (at [worths]int) {
	for d := 1; d < worths; d++ {
		at[d], _ = slices.BinarySearch(s.values[d], w[d])
	}
	return at
}

// beaten reports whether one of those kept is no worse in everything.
func (s *noWorse) beaten(at *[worths]int) bool {
	var sets [worths][]uint64
	for d := 1; d < worths; d++ {
		sets[d] = s.sets[d][at[d]]
	}
	for word := range s.words {
		common := ^uint64(0)
		for d := 1; d < worths; d++ {
			if word >= len(sets[d]) {
				common = 0
				break
			}
			if common &= sets[d][word]; common == 0 {
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
	s.words = max(s.words, number/64+1)
	for d := 1; d < worths; d++ {
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
