package week

// Limits of the exact search: arrays of these sizes, and so many states at most.
const (
	maxJobs    = 16
	maxBenches = 4
	maxPeople  = 6
	mostStates = 400_000
	mostDates  = 9 // that an opening is tried on
)

// search finds the best schedule of some jobs: stretches are appended one after the other, each as early as those before it
// on its bench and in its person's hands let it. Of two states with the same stretches done, one that has all benches and
// people free no later and costs no more is as good as the other (a forward dynamic programme with dominance; the bound is each
// open job alone from here). Costs never fall when a job ends later, so the best schedule is the least one of some order.
type search struct {
	q     *problem
	jobs  []*job
	best  Objective
	known bool // best is one that is known: what is no better is left
	any   bool // any schedule will do
	left  int  // states that may still be kept
	// alone is what a job that is not begun costs at a bench by a person, by when these are free.
	alone []map[uint64]Objective

	// What follows is used again and again, by one state after the other.
	rest     [maxJobs]Objective
	restSum  Objective
	branches []branch
}

// progress is how far each job is, and what binds it: states of one progress are compared.
type progress struct {
	next  [maxJobs]uint8
	asked [maxJobs]uint8 // bench and person of a job under way
	limit [maxJobs]int32 // by when a machine that stands open is closed
	held  [maxBenches]int8
}

// node is a state of the search.
type node struct {
	progress
	end    [maxJobs]int32 // of the last stretch of a job under way
	bench  [maxBenches]int32
	person [maxPeople]int32
	sum    Objective
	parent *node
	steps  []step // appended since
}

// step is a stretch that was appended.
type step struct {
	job, stretch, b, p int
	at                 slot
}

const unheld = -1

// layerOf are the states with so many stretches done, those of one progress together, in the order in which they were found:
// one request has one answer.
type layerOf struct {
	at    map[progress]int
	lists [][]*node
}

// solve returns the best places of jobs, nil where there are none better than what is known; whole is false where the search
// was given up.
func (s *search) solve() (places []*place, whole bool) {
	if len(s.jobs) > maxJobs || len(s.q.r.Benches) > maxBenches || len(s.q.r.People) > maxPeople {
		return nil, false
	}
	s.left, s.alone = mostStates, make([]map[uint64]Objective, len(s.jobs)*maxBenches*maxPeople)
	for i := range s.alone {
		s.alone[i] = map[uint64]Objective{}
	}
	first := &node{}
	for b := range first.held {
		first.held[b] = unheld
	}
	for i := range s.q.r.Benches {
		first.bench[i] = int32(s.q.now)
	}
	for i := range s.q.r.People {
		first.person[i] = int32(s.q.now)
	}
	// What is under way comes before all else.
	for i, j := range s.jobs {
		if j.started && !s.append(first, i, j.startedB, j.startedP, s.q.underWay(j)) {
			return nil, true
		}
	}
	var found *node
	layer := []*node{first}
	for len(layer) > 0 && s.q.ctx.Err() == nil {
		next := &layerOf{at: map[progress]int{}}
		for _, n := range layer {
			if s.done(n) {
				if !s.known || n.sum.less(&s.best) {
					found, s.best, s.known = n, n.sum, true
				}
				if s.any {
					return s.places(n), true
				}
				continue
			}
			s.expand(n, func(c *node) { s.keep(next, c) })
			if s.left < 0 {
				return nil, false
			}
		}
		layer = layer[:0:0]
		for _, list := range next.lists {
			layer = append(layer, list...)
		}
	}
	whole = s.q.ctx.Err() == nil
	if found == nil {
		return nil, whole
	}
	return s.places(found), whole
}

func (s *search) done(n *node) bool {
	for i, j := range s.jobs {
		if int(n.next[i]) < len(j.stretches) {
			return false
		}
	}
	return true
}

// places reads the places off a state in which all is done.
func (s *search) places(n *node) []*place {
	out := make([]*place, len(s.jobs))
	for ; n != nil; n = n.parent {
		for _, x := range n.steps {
			if out[x.job] == nil {
				out[x.job] = &place{x.b, x.p, make([]slot, len(s.jobs[x.job].stretches))}
			}
			out[x.job].at[x.stretch] = x.at
		}
	}
	return out
}

// branch is a stretch that could be appended next. off is by when it would leave bench and hands to others.
type branch struct {
	step
	off      int
	hopeless bool // what follows is no better than what is known
}

// expand appends the next stretch of each job, in each way there is, but for those that begin when another could be done
// already and be in nobody's way: whatever is done later, that one would be as well done first (Giffler and Thompson's active
// schedules).
func (s *search) expand(n *node, keep func(*node)) {
	all := s.branches[:0]
	idle := never
	s.restOf(n)
	for i, j := range s.jobs {
		k := int(n.next[i])
		if k == len(j.stretches) {
			continue
		}
		first := len(all)
		done := 0 // by when it would be done and off the bench, wherever it is
		try := func(b, p int) {
			had := len(all)
			all = s.expandAt(n, i, b, p, all)
			switch {
			case len(all) == had || j.stretches[k].opens >= 0:
				done = never
			default:
				done = max(done, all[had].off)
			}
		}
		if k > 0 {
			try(int(n.asked[i]>>4), int(n.asked[i]&15))
		} else {
			for b, p := range j.ways() {
				try(b, p)
			}
		}
		if len(all) > first {
			idle = min(idle, done)
		}
	}
	for i := range all {
		x := &all[i]
		if x.hopeless || x.at.s >= idle {
			continue
		}
		c := &node{}
		*c = *n
		c.parent, c.steps = n, nil
		if s.append(c, x.job, x.b, x.p, x.at) {
			keep(c)
		}
	}
	s.branches = all
}

// restOf works out what each open job of a state costs at least: in what follows from it, none costs less.
func (s *search) restOf(n *node) {
	s.restSum = n.sum
	for i, j := range s.jobs {
		s.rest[i] = Objective{}
		if k := int(n.next[i]); !s.any && k < len(j.stretches) {
			s.rest[i], _ = s.openCost(n, i, k)
			s.restSum = s.restSum.plus(s.rest[i])
		}
	}
}

// hopeless reports whether what follows from the state whose rest is known is no better than what is known, once a stretch
// stands at at.
func (s *search) hopeless(n *node, i, b, p int, at slot) bool {
	if !s.known || s.any {
		return false
	}
	j, k := s.jobs[i], int(n.next[i])
	var own Objective
	if k+1 < len(j.stretches) {
		limit := int(n.limit[i])
		if j.stretches[k].opens >= 0 {
			limit = s.q.z.midnight(at.s)
		}
		hand := int(n.person[p])
		if j.stretches[k].hands {
			hand = max(hand, at.e)
		}
		var possible bool
		if own, possible = s.aloneAt(j, k+1, b, p, at.e, int(n.bench[b]), hand, limit); !possible {
			return true
		}
	} else {
		s.q.costEnd(&own, j, b, p, at.e)
	}
	if k == 0 && j.Danger {
		own.Danger += at.s - s.q.now
	}
	sum := s.restSum.minus(s.rest[i]).plus(own)
	return !sum.less(&s.best)
}

// off is by when a stretch at at leaves bench and hands to others, never where it begins a stay that goes on.
func (s *search) off(j *job, k, p int, at slot) int {
	x := &j.stretches[k]
	for k+1 < len(j.stretches) { // the waits behind it that bind nobody
		y := &j.stretches[k+1]
		if y.hands || y.stay || y.opens >= 0 {
			break
		}
		if at = s.q.earliest(p, y, at.e); at.e >= never {
			return never
		}
		k++
	}
	switch {
	case !x.stay:
		return at.e
	case !j.stretches[k].aside && !j.stretches[k].last:
		return never
	}
	return at.e + s.q.clear
}

// expandAt is expand at one bench by one person. An opening may have to begin on a later date to be closed on it.
func (s *search) expandAt(n *node, i, b, p int, all []branch) []branch {
	j, k := s.jobs[i], int(n.next[i])
	x := &j.stretches[k]
	from := int(n.end[i])
	if k == 0 {
		from = j.release
	}
	if x.stay {
		if n.held[b] != unheld {
			return all
		}
		from = max(from, int(n.bench[b]))
	}
	if x.hands {
		from = max(from, int(n.person[p]))
	}
	for range mostDates {
		at := s.q.earliest(p, x, from)
		if k == 0 && j.pin != never {
			if from > j.pin {
				return all
			}
			if at = s.q.earliest(p, x, j.pin); at.s != j.pin {
				return all
			}
		}
		if at.e >= never || x.opened >= 0 && at.e > int(n.limit[i]) {
			return all
		}
		midnight := 0
		if x.opens >= 0 {
			midnight = s.q.z.midnight(at.s)
		}
		if x.opens < 0 || s.closes(j, k, p, at, midnight) {
			all = append(all, branch{step{i, k, b, p, at}, s.off(j, k, p, at), s.hopeless(n, i, b, p, at)})
		}
		if x.opens < 0 || k == 0 && j.pin != never || midnight >= never {
			return all
		}
		from = midnight
	}
	return all
}

// closes reports whether a machine that is opened is closed by midnight, if nothing comes between.
func (s *search) closes(j *job, k, p int, at slot, midnight int) bool {
	for i := k + 1; i <= j.stretches[k].opens && at.e <= midnight; i++ {
		at = s.q.earliest(p, &j.stretches[i], at.e)
	}
	return at.e <= midnight
}

// append adds a stretch to a state, and the waits behind it that bind nobody; ok is false where a machine would stand open.
func (s *search) append(c *node, i, b, p int, at slot) (ok bool) {
	j := s.jobs[i]
	for {
		k := int(c.next[i])
		x := &j.stretches[k]
		if x.opened >= 0 && at.e > int(c.limit[i]) {
			return false
		}
		if x.opens >= 0 {
			c.limit[i] = int32(s.q.z.midnight(at.s))
		}
		if k == 0 && j.Danger {
			c.sum.Danger += at.s - s.q.now
		}
		if x.stay {
			c.held[b] = int8(i)
		}
		if x.last {
			c.held[b] = unheld
			c.bench[b] = int32(at.e + s.q.clear)
		}
		if x.hands {
			c.person[p] = int32(at.e)
		}
		c.steps = append(c.steps, step{i, k, b, p, at})
		c.next[i]++
		c.end[i] = int32(at.e)
		c.asked[i] = uint8(b<<4 | p)
		if x.opened >= 0 && j.stretches[x.opened].opens == k {
			c.limit[i] = 0
		}
		if k == len(j.stretches)-1 {
			s.q.costEnd(&c.sum, j, b, p, at.e)
			c.asked[i], c.end[i], c.limit[i] = 0, 0, 0
			return true
		}
		y := &j.stretches[k+1]
		if y.hands || y.stay || y.opens >= 0 {
			return true
		}
		if at = s.q.earliest(p, y, at.e); at.e >= never {
			return false
		}
	}
}
