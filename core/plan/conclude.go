package plan

import (
	"cmp"
	"context"
	"fmt"
	"math/big"

	"yembo/core/hw"
)

// reachable remembers, over all combinations, what could be met at what price.
type reachable struct {
	cheapest    [1 << kinds]int64 // complete ones, by the set of goals met; 0 none
	complete    [kinds]bool       // met by a complete one within the budget
	incomplete  [kinds]bool       // met by one with something missing, within the budget
	atAnyPrice  [2][kinds]bool    // met at any price, by a complete one and by one with something missing
	nearerAbove [kinds]int64      // cheapest complete one above the budget that brings it nearer, 0 none
}

func newReachable() *reachable {
	return &reachable{}
}

func (r *reachable) note(f *found, affordable bool) {
	which := 0
	if f.missing {
		which = 1
	}
	for k := range kinds {
		r.atAnyPrice[which][k] = r.atAnyPrice[which][k] || f.met[k]
	}
	if f.missing {
		for k := range kinds {
			r.incomplete[k] = r.incomplete[k] || (affordable && f.met[k])
		}
		return
	}
	if old := &r.cheapest[setOf(f.met)]; *old == 0 || f.total < *old-1 {
		*old = f.total + 1 // 0 is none, and an option may cost nothing
	}
	for k := range kinds {
		r.complete[k] = r.complete[k] || (affordable && f.met[k])
		if !affordable && f.parts[k].nearer && (r.nearerAbove[k] == 0 || f.total < r.nearerAbove[k]) {
			r.nearerAbove[k] = f.total
		}
	}
}

// merge takes what was noted of other combinations.
func (r *reachable) merge(other *reachable) {
	for k := range kinds {
		r.complete[k] = r.complete[k] || other.complete[k]
		r.incomplete[k] = r.incomplete[k] || other.incomplete[k]
		for which := range r.atAnyPrice {
			r.atAnyPrice[which][k] = r.atAnyPrice[which][k] || other.atAnyPrice[which][k]
		}
		r.nearerAbove[k] = lesserTold(r.nearerAbove[k], other.nearerAbove[k])
	}
	for met := range r.cheapest {
		r.cheapest[met] = lesserTold(r.cheapest[met], other.cheapest[met])
	}
}

// lesserTold is the lesser of two amounts of which 0 is none.
func lesserTold(a, b int64) int64 {
	if a == 0 || b != 0 && b < a {
		return b
	}
	return a
}

// smallest is the smallest total of a complete combination that meets all of want.
func (r *reachable) smallest(want [kinds]bool) (int64, bool) {
	best, ok := int64(0), false
	need := setOf(want)
	for met, total := range r.cheapest {
		if total > 0 && met&need == need && (!ok || total-1 < best) {
			best, ok = total-1, true
		}
	}
	return best, ok
}

// setOf is a set of goals as bits.
func setOf(goals [kinds]bool) int {
	set := 0
	for k, in := range goals {
		if in {
			set |= 1 << k
		}
	}
	return set
}

// pick chooses among the complete options that meet the most goals.
func (s *search) pick(kept []found, options []Option) (Picks, []string) {
	most, in := 0, []int{}
	for i := range kept {
		n := 0
		for k := range kinds {
			if kept[i].met[k] {
				n++
			}
		}
		if kept[i].missing || n < most {
			continue
		}
		if n > most {
			most, in = n, nil
		}
		in = append(in, i)
	}
	if len(in) == 0 {
		return Picks{}, nil
	}
	headroom := map[*found]*big.Rat{}
	for _, i := range in {
		headroom[&kept[i]] = s.headroom(&kept[i])
	}
	best := func(better func(a, b *found) int) string {
		at := in[0]
		for _, i := range in[1:] {
			c := better(&kept[i], &kept[at])
			if c == 0 {
				c = compare(kept[at].total, kept[i].total)
			}
			if c == 0 {
				c = compare(kept[at].minutes, kept[i].minutes)
			}
			if c > 0 {
				at = i
			}
		}
		return options[at].ID
	}
	recommended, from := s.recommended(kept, in, headroom)
	rivals := make([]string, len(from))
	for k, i := range from {
		rivals[k] = options[i].ID
	}
	return Picks{
		Recommended: options[recommended].ID,
		LeastCost:   best(func(a, b *found) int { return compare(b.total, a.total) }),
		LeastWork:   best(func(a, b *found) int { return compare(b.minutes, a.minutes) }),
		LowestRisk:  best(func(a, b *found) int { return compare(b.risk, a.risk) }),
		Soonest:     best(func(a, b *found) int { return compare(b.days, a.days) }),
		MostHeadroom: best(func(a, b *found) int {
			c := headroom[a].Cmp(headroom[b])
			for k := 0; k < kinds && c == 0; k++ {
				if s.wanted[k] {
					c = compare(a.parts[k].second, b.parts[k].second)
				}
			}
			return c
		}),
	}, rivals
}

// recommended is what a good technician would propose, of the options that meet the most goals (in): one that
// comes nearest to the goals that none of them meets, and of these the least money with its risk counted as
// money; then the larger headroom, fewer minutes, the higher bandwidth, the earlier in the list. from are all that
// come as near.
func (s *search) recommended(kept []found, in []int, headroom map[*found]*big.Rat) (at int, from []int) {
	unmet := s.named
	for _, i := range in {
		for k := range kinds {
			unmet[k] = unmet[k] && !kept[i].met[k]
		}
	}
	worth := s.practice.RiskCents.Or(hw.UsualRiskCents)
	at = -1
	nearest := new(big.Rat)
	for _, i := range in {
		f, near := &kept[i], s.nearness(&kept[i], unmet)
		if at < 0 {
			at, nearest, from = i, near, []int{i}
			continue
		}
		best := &kept[at]
		c := near.Cmp(nearest)
		switch {
		case c > 0:
			from = []int{i}
		case c == 0:
			from = append(from, i)
		}
		for _, next := range []int{
			compare(best.total+worth*int64(best.risk), f.total+worth*int64(f.risk)), headroom[f].Cmp(headroom[best]),
			compare(best.minutes, f.minutes), compare(f.parts[kMemory].second, best.parts[kMemory].second)} {
			if c == 0 {
				c = next
			}
		}
		if c > 0 {
			at, nearest = i, near
		}
	}
	return at, from
}

// nearness is the sum of reached ÷ goal over some goals, each at most 1; what is not known counts nothing.
func (s *search) nearness(f *found, goals [kinds]bool) *big.Rat {
	sum, one := new(big.Rat), big.NewRat(1, 1)
	for k, kind := range allKinds {
		if !goals[k] || s.untold[k] {
			continue
		}
		share := shareOf(kind.share(s, f.parts[k]))
		if share.Cmp(one) > 0 {
			share = one
		}
		sum.Add(sum, share)
	}
	return sum
}

func compare[T cmp.Ordered](a, b T) int { return cmp.Compare(a, b) }

// headroom is the sum, over the numeric wanted goals, of reached ÷ goal, each
// counted up to 2.
func (s *search) headroom(f *found) *big.Rat {
	sum := new(big.Rat)
	for k, kind := range allKinds {
		if !s.wanted[k] {
			continue
		}
		x := f.parts[k]
		if x.share == nil {
			x.share = shareOf(kind.share(s, x))
		}
		sum.Add(sum, x.share)
	}
	return sum
}

// shareOf is reached ÷ goal, up to 2; 0 where the goal is no number or nothing is known.
func shareOf(reached *big.Rat, goal hw.Maybe[hw.Dec]) *big.Rat {
	g, ok := goal.Get()
	if !ok || reached == nil || g <= 0 {
		return new(big.Rat)
	}
	r := new(big.Rat).Quo(reached, g.Rat())
	if two := big.NewRat(2, 1); r.Cmp(two) > 0 {
		return two
	}
	return r
}

// conclude gives the verdict, and returns which goals the best option meets, without one
// the machine.
func (s *search) conclude(p *Plan, kept []found) [kinds]bool {
	base := s.met
	p.Verdict = NotPossible
	if base == s.named {
		p.Verdict = Enough
	}
	for k := range kinds {
		if s.named[k] && !s.met[k] && s.untold[k] {
			p.Verdict = NotKnown
		}
	}
	for i := range kept {
		p.Verdict = Partial
		if p.Options[i].ID == p.Picks.LeastCost {
			base = kept[i].met
		}
	}
	for i := range p.Options {
		if p.Options[i].MeetsAll {
			p.Verdict = Upgrade
		}
	}
	return base
}

// onlyLeast reports whether a pack that can be had might reach the runtime, and only a least figure says that it
// does not.
func (s *search) onlyLeast(k int) bool {
	if k != kBattery || !s.leastRuntime {
		return false
	}
	for _, part := range s.cheapestFirst(hw.KindBattery) {
		p := &s.parts[part]
		if s.verdictAt(int(part), s.kindOf[kBattery][0]).Fits() && s.packWh(p).IsKnown() {
			return true
		}
	}
	return false
}

// explainUnmet says, for each goal out of reach, what stands in the way.
func (s *search) explainUnmet(ctx context.Context, p *Plan, base [kinds]bool, reach *reachable) error {
	for k := range kinds {
		if !s.named[k] || base[k] {
			continue
		}
		u, err := s.whyUnmet(ctx, k, base, p, reach)
		if err != nil {
			return err
		}
		u.Goal = allKinds[k].names().goal
		if p.Unmet = append(p.Unmet, u); u.Code == hw.CodeMachineNotKnown && p.Verdict == NotPossible {
			p.Verdict = NotKnown
		}
	}
	return nil
}

func (s *search) whyUnmet(ctx context.Context, k int, base [kinds]bool, p *Plan, reach *reachable) (Unmet, error) {
	because := func(code hw.Code, format string, args ...any) (Unmet, error) {
		return Unmet{Code: code, Text: fmt.Sprintf(format, args...)}, nil
	}
	if s.untold[k] {
		return Unmet{Code: hw.CodeMachineNotKnown, Text: allKinds[k].names().untold, Fact: "machine:" + allKinds[k].names().at}, nil
	}
	if code, text, ok := s.sharedCode(k, p.Rejected); ok {
		return because(code, "%s", text)
	}
	if reach.incomplete[k] && !reach.complete[k] || reach.atAnyPrice[1][k] && !reach.atAnyPrice[0][k] {
		return because(hw.CodeMissing, "needs an accessory that is not available")
	}
	with := base
	with[k] = true
	if total, ok := reach.smallest(with); ok && s.overBudget(total) {
		return because(hw.CodeBudget, "the smallest total that would do is %s, above the budget", s.money(total))
	}
	if total := reach.nearerAbove[k]; total > 0 && len(p.Options) == 0 {
		return because(hw.CodeBudget, "the smallest total that would help is %s, above the budget", s.money(total))
	}
	if reach.atAnyPrice[0][k] {
		return because(hw.CodeConflict, "possible only by giving up another goal")
	}
	return s.whichRule(ctx, k, p)
}

// rule is one that may be set aside, to say what stands in the way of a goal.
type rule struct {
	holds bool
	code  hw.Code
	lift  func(in *Input)
	text  func() string
}

// whichRule sets one rule after the other aside and asks whether the goal could then be
// met, this goal's kind alone wanted, at any price: the first that makes the difference is
// what stands in the way.
func (s *search) whichRule(ctx context.Context, k int, p *Plan) (Unmet, error) {
	part := allKinds[k].names().part
	rules := append(allKinds[k].rules(s),
		rule{len(s.in.Request.Keep) > 0, hw.CodeKeep, func(in *Input) { in.Request.Keep = nil },
			func() string { return "possible if nothing had to be left alone" }},
		rule{s.striped(), hw.CodeRaid0, func(in *Input) { in.noRaid = true },
			func() string { return "it would do if the drives of the striped volume (RAID 0) were taken apart" }},
		rule{true, hw.CodeStock, func(in *Input) { in.allInStock = part }, func() string {
			return fmt.Sprintf("there is a %s that would do, but it is not available", hw.PartKinds.Says(part))
		}})
	for _, rule := range rules {
		if !rule.holds {
			continue
		}
		can, err := s.reachedWithout(ctx, k, rule.lift)
		if err != nil {
			return Unmet{}, err
		}
		if can {
			u := Unmet{Code: rule.code, Text: rule.text()}
			if rule.code == hw.CodeMemoryOverLimit && s.limit.FellBack {
				u.Fact = "chassis:/memory/limits/maker_gb"
			}
			return u, nil
		}
	}
	kind := map[string]bool{}
	for i := range s.parts {
		if s.parts[i].Kind == part {
			kind[s.parts[i].ID] = true
		}
	}
	for _, r := range p.Rejected {
		if kind[r.Part] && r.Code == hw.CodeUnknown {
			return Unmet{Code: hw.CodeUnknown, Fact: r.Fact,
				Text: "whether a " + hw.PartKinds.Says(part) + " would do is not known: " + r.Text}, nil
		}
	}
	if ap, told := s.practice.AccessPoint.Get(); told && k == kWireless {
		can, err := s.reachedWithout(ctx, k, func(in *Input) { in.Request.Practice.AccessPoint = hw.Maybe[hw.Standard]{} })
		if err != nil {
			return Unmet{}, err
		}
		if can {
			return Unmet{Code: hw.CodeWirelessNoGain, Text: fmt.Sprintf("a card would do, but %s has %s: nothing "+
				"gets faster at it", s.in.accessPoint(), hw.Standards.Says(ap))}, nil
		}
	}
	if s.onlyLeast(k) {
		return Unmet{Code: hw.CodeMachineNotKnown, Fact: "machine:/fitted/battery/full_wh",
			Text: "whether a pack would do is not known: what the one in the machine holds was not read, and reckoned " +
				"with what it held when new none is sure to last so long. Read its full capacity, or " +
				"measure the draw"}, nil
	}
	return Unmet{Code: hw.CodeNoPart, Text: fmt.Sprintf("no %s that can be had would do", allKinds[k].names().part1)},
		nil
}

// reachedWithout reports whether a goal can be met at any price with one rule set aside.
func (s *search) reachedWithout(ctx context.Context, k int, lift func(in *Input)) (bool, error) {
	in := s.in
	r := *in.Request
	r.Goals = allKinds[k].only(&s.goals)
	r.BudgetCents, r.Services = hw.Maybe[int64]{}, nil
	in.Request = &r
	lift(&in)
	alone, err := newSearch(in)
	if err != nil {
		return false, err
	}
	if _, err := alone.sort(ctx, alone.wanted); err != nil {
		return false, err
	}
	groups, err := alone.candidates(ctx)
	if err != nil {
		return false, err
	}
	can := false
	err = alone.combine(ctx, groups, func(f *found) { can = can || f.parts[k].met })
	return can, err
}

func (s *search) overBudget(total int64) bool {
	budget, limited := s.in.Request.BudgetCents.Get()
	return limited && total > budget
}

// money writes an amount in the currency of the parts list.
func (s *search) money(cents int64) string { return hw.Money(s.in.Parts.Currency, cents) }

// sharedCode is the rejection code that all parts of a kind have (m2.purpose apart).
func (s *search) sharedCode(kind int, rejected []Rejected) (code hw.Code, text string, ok bool) {
	part := allKinds[kind].names().part
	parts := 0
	for i := range s.parts {
		if s.parts[i].Kind == part && s.takesPart(&s.parts[i]) {
			parts++
		}
	}
	with := map[hw.Code]map[string]bool{} // code -> the parts that have it
	var order []hw.Code
	words := map[hw.Code]string{}
	kindOf := map[string]hw.PartKind{}
	for i := range s.parts {
		kindOf[s.parts[i].ID] = s.parts[i].Kind
	}
	for _, r := range rejected {
		if kindOf[r.Part] != part || r.Code == hw.CodeM2Purpose {
			continue
		}
		if with[r.Code] == nil {
			with[r.Code] = map[string]bool{}
			order = append(order, r.Code)
			words[r.Code] = r.Text
		}
		with[r.Code][r.Part] = true
	}
	for _, c := range order {
		if parts > 0 && len(with[c]) == parts {
			return c, fmt.Sprintf("every %s is ruled out for the same reason, as the first: %s",
				allKinds[kind].names().part1, words[c]), true
		}
	}
	return "", "", false
}
