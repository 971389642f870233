package plan

import (
	"fmt"
	"math/big"
	"sort"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/memory"
)

// reachable remembers, over all combinations, what could be met at what price.
type reachable struct {
	cheapest    map[[kinds]bool]int64 // complete ones, by goals met
	complete    [kinds]bool           // met by a complete one within the budget
	incomplete  [kinds]bool           // met by one with something missing, within the budget
	nearerAbove [kinds]int64          // cheapest complete one above the budget that brings it nearer, 0 none
}

func newReachable() *reachable {
	return &reachable{cheapest: map[[kinds]bool]int64{}}
}

func (r *reachable) note(f *found, affordable bool) {
	if f.missing {
		for k := range kinds {
			r.incomplete[k] = r.incomplete[k] || (affordable && f.met[k])
		}
		return
	}
	if old, seen := r.cheapest[f.met]; !seen || f.total < old {
		r.cheapest[f.met] = f.total
	}
	for k := range kinds {
		r.complete[k] = r.complete[k] || (affordable && f.met[k])
		if !affordable && f.parts[k].nearer && (r.nearerAbove[k] == 0 || f.total < r.nearerAbove[k]) {
			r.nearerAbove[k] = f.total
		}
	}
}

// smallest is the smallest total of a complete combination that meets all of want.
func (r *reachable) smallest(want [kinds]bool) (int64, bool) {
	best, ok := int64(0), false
	for met, total := range r.cheapest {
		enough := true
		for k := range kinds {
			enough = enough && (met[k] || !want[k])
		}
		if enough && (!ok || total < best) {
			best, ok = total, true
		}
	}
	return best, ok
}

// pick chooses among the complete options that meet the most goals.
func (s *search) pick(kept []found, options []Option) Picks {
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
		return Picks{}
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
	return Picks{
		LeastCost:    best(func(a, b *found) int { return compare(b.total, a.total) }),
		LeastWork:    best(func(a, b *found) int { return compare(b.minutes, a.minutes) }),
		LowestRisk:   best(func(a, b *found) int { return compare(b.risk, a.risk) }),
		MostHeadroom: best(func(a, b *found) int { return s.headroom(a).Cmp(s.headroom(b)) }),
	}
}

func compare[T int | int64 | hw.Minutes](a, b T) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// headroom is the sum, over the numeric wanted goals, of reached ÷ goal, each
// counted up to 2.
func (s *search) headroom(f *found) *big.Rat {
	sum := new(big.Rat)
	add := func(kind int, reached *big.Rat, goal hw.Maybe[hw.Dec]) {
		g, ok := goal.Get()
		if !ok || !s.wanted[kind] || reached == nil {
			return
		}
		r := new(big.Rat).Quo(reached, g.Rat())
		if two := big.NewRat(2, 1); r.Cmp(two) > 0 {
			r = two
		}
		sum.Add(sum, r)
	}
	add(kMemory, f.parts[kMemory].total.Rat(), s.goals.MemoryGB)
	add(kDrive, f.parts[kDrive].total.Rat(), s.goals.StorageGB)
	add(kBattery, f.parts[kBattery].runtime, s.goals.RuntimeH)
	return sum
}

// conclude gives the verdict and, for each goal out of reach, the reason.
func (s *search) conclude(p *Plan, kept []found, reach *reachable) {
	p.Verdict = NotPossible
	base := s.met
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
	for k := range kinds {
		if s.named[k] && !base[k] {
			u := s.whyUnmet(k, base, p, reach)
			u.Goal = goalNames[k]
			p.Unmet = append(p.Unmet, u)
		}
	}
}

func (s *search) whyUnmet(k int, base [kinds]bool, p *Plan, reach *reachable) Unmet {
	if code, text, ok := s.sharedCode(k, p.Rejected); ok {
		return Unmet{Code: code, Text: text}
	}
	if reach.incomplete[k] && !reach.complete[k] {
		return Unmet{Code: "missing", Text: "only options that need an accessory which cannot be had would do"}
	}
	with := base
	with[k] = true
	if total, ok := reach.smallest(with); ok && s.overBudget(total) {
		return Unmet{Code: "budget", Text: fmt.Sprintf("the smallest total that would do is %s, above the budget", s.money(total))}
	}
	if total := reach.nearerAbove[k]; total > 0 && len(p.Options) == 0 {
		return Unmet{Code: "budget", Text: fmt.Sprintf("the smallest total that would help is %s, above the budget", s.money(total))}
	}
	var alone [kinds]bool
	alone[k] = true
	if _, ok := reach.smallest(alone); ok {
		return Unmet{Code: "conflict", Text: "it can be met only at the price of another goal"}
	}
	return Unmet{Code: "no_part", Text: fmt.Sprintf("no %s that can be had would do", partWords(k))}
}

func (s *search) overBudget(total int64) bool {
	budget, limited := s.in.Request.BudgetCents.Get()
	return limited && total > budget
}

func partWords(kind int) string {
	return [kinds]string{"set of memory modules", "drive", "battery", "wireless card"}[kind]
}

// money writes an amount in the currency of the parts list.
func (s *search) money(cents int64) string {
	text := fmt.Sprintf("%d.%02d", cents/100, cents%100)
	if s.in.Parts.Currency != "" {
		text = s.in.Parts.Currency + " " + text
	}
	return text
}

// sharedCode is the rejection code that all parts of a kind have (m2.purpose apart).
func (s *search) sharedCode(kind int, rejected []Rejected) (code, text string, ok bool) {
	parts := 0
	for i := range s.parts {
		if s.parts[i].Kind == partKinds[kind] {
			parts++
		}
	}
	with := map[string]map[string]bool{} // code -> the parts that have it
	var order []string
	words := map[string]string{}
	kindOf := map[string]string{}
	for i := range s.parts {
		kindOf[s.parts[i].ID] = s.parts[i].Kind
	}
	for _, r := range rejected {
		if kindOf[r.Part] != partKinds[kind] || r.Code == "m2.purpose" {
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
			return c, fmt.Sprintf("every %s is ruled out for the same reason, as the first: %s", partWords(kind), words[c]), true
		}
	}
	return "", "", false
}

// optionNotes name the disputed facts that a listed option uses and the defaults
// that one leans on.
func (s *search) optionNotes(kept []found) []Note {
	var notes []Note
	seen := map[string]bool{}
	add := func(code, key, text string) {
		if !seen[code+key] {
			seen[code+key] = true
			notes = append(notes, Note{code, text})
		}
	}
	for i := range kept {
		f := &kept[i]
		for _, fact := range s.factsUsed(f.changed, f.parts[kBattery].pack, s.openMachine(f.changed).down) {
			if fact.Disputed {
				add("fact.disputed", fact.Path, disputeText(s.ch, fact))
			}
		}
	}
	var defaults []string
	done := map[[2]int32]bool{}
	for i := range kept {
		for pi := range s.places {
			// A part in a place leans on the same facts in every option.
			key := [2]int32{int32(pi), s.choiceAt(&kept[i], pi)}
			if key[1] != unchanged && !done[key] {
				done[key] = true
				defaults = append(defaults, s.defaulted(&kept[i], pi)...)
			}
		}
	}
	sort.Strings(defaults)
	for _, fact := range defaults {
		add("fact.defaulted", fact, fact+" is not recorded; the plan takes the usual, nobody has seen it")
	}
	return notes
}

func disputeText(ch *hw.Chassis, f evidence.Fact) string {
	text := fmt.Sprintf("chassis:%s is disputed: %s says %s", evidence.Pointer(ch, f.Path), f.InForce.Source, f.InForce.Value)
	for _, other := range f.Others {
		if !evidence.SameValue(other.Value, f.InForce.Value) {
			text += fmt.Sprintf(", %s says %s", other.Source, other.Value)
		}
	}
	return text
}

// defaulted lists the facts nobody recorded that an option leans on at a place.
func (s *search) defaulted(f *found, pi int) []string {
	var out []string
	absent := func(known bool, pointer string) {
		if !known {
			out = append(out, "chassis:"+pointer)
		}
	}
	p := &s.places[pi]
	c := s.choiceAt(f, pi)
	if c < remove {
		for _, pointer := range s.verdictAt(int(c), pi).Defaulted {
			out = append(out, "chassis:"+pointer)
		}
	}
	at := evidence.Pointer(s.ch, p.prefix)
	switch {
	case p.kind == kBattery:
		absent(p.reach != "", "/battery_reach")
		if pack := f.parts[kBattery].pack; pack >= 0 {
			b := &s.ch.Batteries[pack]
			absent(b.Excludes != nil, fmt.Sprintf("/batteries/%d/excludes", pack))
			absent(b.CarryOver != nil, fmt.Sprintf("/batteries/%d/carry_over", pack))
		}
		return out
	case p.bay:
		b := &s.ch.Bays[p.index]
		absent(b.Excludes != nil, at+"/excludes")
		absent(b.CarryOver != nil, at+"/carry_over")
	case p.kind != kMemory:
		sl := &s.ch.Slots[p.index]
		absent(sl.Excludes != nil, at+"/excludes")
		absent(sl.CarryOver != nil, at+"/carry_over")
	}
	absent(p.reach != "", at+"/reach")
	if p.kind == kDrive && p.occupied && !s.bootTold {
		out = append(out, fmt.Sprintf("machine:/fitted/drives/%d/boot", p.fitted))
	}
	return out
}

func (s *search) unreachableText() string {
	return fmt.Sprintf("the stated limit of %s GB cannot be reached: %s is all that the sockets hold", s.limit.Stated, s.limit.Arithmetic)
}

func moreThanText(goal, size, peak hw.Dec) string {
	need, _, _ := memory.RightSize(peak, nil)
	return fmt.Sprintf("%s GB are asked for; the work peaks at %s GB, ÷ 0.8 is %s, so %s GB is enough: more memory than the work uses makes nothing faster", goal, peak, need.Tenths(), size)
}

const swollenText = "the pack is swollen: stop. Do not charge, press or pry it; move the machine away from anything that burns and follow local rules and the shop's fire plan. Nothing is planned until it is made safe"

func wornText(full, design hw.Dec) string {
	health := new(big.Rat).Quo(new(big.Rat).Mul(full.Rat(), big.NewRat(100, 1)), design.Rat())
	return fmt.Sprintf("the pack holds %s of %s Wh, %s %%: it is worn", full, design, hw.RatTenths(health))
}
