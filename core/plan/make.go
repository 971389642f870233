package plan

import (
	"context"
	"slices"

	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/power"
)

// Make plans the upgrades of one machine. It returns the context's error when it
// is cancelled, and TooLarge when there is more than a plan can look at.
func Make(ctx context.Context, in Input) (*Plan, error) {
	in.Parts = narrowed(in)
	s, err := newSearch(in)
	if err != nil {
		return nil, err
	}
	p := &Plan{Format: hw.FormatPlan, Chassis: s.ch.ID, Machine: s.m.ID,
		Options: []Option{}, Rejected: []Rejected{}, Unmet: []Unmet{}, Notes: []Note{}}
	peak, peakKnown := s.m.Usage.MemoryPeak.Get()
	if err := s.judge(ctx, peakKnown); err != nil {
		return nil, err
	}
	mem := memoryPlan{totals: []hw.Dec{s.todayMemory}, groups: []group{{0, []candidate{s.noMemory()}}}}
	rejected, err := s.sift(ctx)
	if err != nil {
		return nil, err
	}
	if s.wanted[kMemory] || peakKnown {
		if mem, err = s.planMemory(ctx); err != nil {
			return nil, err
		}
	}
	if peakKnown {
		if _, size, ok := memory.RightSize(peak, mem.totals); ok {
			p.RightSize.MemoryGB = hw.Known(size)
		}
	}
	p.Notes = s.notes(p)
	switch {
	case s.swollen():
		p.Verdict = Stop
		return p, nil
	case s.wanted == [kinds]bool{}:
		p.Verdict = Enough
		return p, nil
	}
	p.Rejected = rejected
	if err := s.plan(ctx, mem.groups, p); err != nil {
		return nil, err
	}
	return p, nil
}

func (s *search) swollen() bool {
	b := s.m.Fitted.Battery
	return b != nil && b.Swollen.Or(false)
}

// plan searches, and fills the verdict, the options, the picks and the rest.
func (s *search) plan(ctx context.Context, memGroups []group, p *Plan) error {
	groups, err := s.candidates(ctx, memGroups)
	if err != nil {
		return err
	}
	budget, limited := s.in.Request.BudgetCents.Get()
	fr := &front{s: s, cells: map[cell][]found{}}
	reach := newReachable()
	pinned := s.pinned()
	err = s.combine(ctx, groups, func(f *found) {
		if !uses(f, pinned) {
			return
		}
		affordable := !limited || f.total <= budget
		for k := range kinds {
			f.met[k] = f.parts[k].met
		}
		reach.note(f, affordable)
		if affordable {
			fr.add(f)
		}
	})
	if err != nil {
		return err
	}
	kept := fr.options()
	for i := range kept {
		p.Options = append(p.Options, s.option(&kept[i], i))
	}
	p.Picks = s.pick(kept, p.Options)
	s.conclude(p, kept, reach)
	p.Notes = append(p.Notes, s.optionNotes(kept)...)
	return nil
}

// narrowed is the parts list without what is forbidden, and without other parts of the
// kinds of those that are pinned.
func narrowed(in Input) *hw.Parts {
	if len(in.Pinned)+len(in.Forbidden) == 0 {
		return in.Parts
	}
	kindsPinned := map[string]bool{}
	for i := range in.Parts.Parts {
		if p := &in.Parts.Parts[i]; slices.Contains(in.Pinned, p.ID) {
			kindsPinned[p.Kind] = true
		}
	}
	out := *in.Parts
	out.Parts = nil
	for _, p := range in.Parts.Parts {
		if !slices.Contains(in.Forbidden, p.ID) && (!kindsPinned[p.Kind] || slices.Contains(in.Pinned, p.ID)) {
			out.Parts = append(out.Parts, p)
		}
	}
	return &out
}

// pinned are the indexes of the parts that every option has to use; one that is not in the
// list is -1, which nothing uses.
func (s *search) pinned() []int32 {
	var out []int32
	for _, id := range s.in.Pinned {
		at := int32(-1)
		for i := range s.parts {
			if s.parts[i].ID == id {
				at = int32(i)
			}
		}
		out = append(out, at)
	}
	return out
}

// uses reports whether a combination uses all of those parts.
func uses(f *found, parts []int32) bool {
	for _, part := range parts {
		has := false
		for k := range kinds {
			for _, c := range f.parts[k].choice {
				has = has || c == part
			}
		}
		if !has {
			return false
		}
	}
	return true
}

func (s *search) candidates(ctx context.Context, mem []group) (groups [kinds][]group, err error) {
	groups[kMemory] = mem
	if groups[kDrive], err = s.planDrives(ctx); err != nil {
		return groups, err
	}
	groups[kBattery] = s.planBattery(ctx)
	groups[kWireless], err = s.planWireless(ctx)
	for k := range kinds {
		for g := range groups[k] {
			for i := range groups[k][g].list {
				x := &groups[k][g].list[i]
				x.met = s.meets(x.total, x.total, x.runtime, x.wifi)[k]
			}
		}
	}
	return groups, err
}

// notes are about the machine, whatever is planned.
func (s *search) notes(p *Plan) []Note {
	out := []Note{}
	add := func(code, text string) { out = append(out, Note{code, text}) }
	if s.limit.Unreachable {
		add(memory.CodeUnreachable, s.unreachableText())
	}
	if goal, ok := s.goals.MemoryGB.Get(); ok {
		if size, ok := p.RightSize.MemoryGB.Get(); ok && goal > 2*size {
			add(memory.CodeMoreThan, moreThanText(goal, size, s.m.Usage.MemoryPeak.Or(0)))
		}
	}
	if b := s.m.Fitted.Battery; b != nil {
		if b.Swollen.Or(false) {
			add(power.CodeSwollen, swollenText)
		}
		if i := s.ch.BatteryByID(b.Option); i >= 0 {
			if health, ok := power.Health(b.FullWh, s.ch.Batteries[i].DesignWh); ok && power.Worn(health) {
				add(power.CodeWorn, wornText(b.FullWh.Or(0), s.ch.Batteries[i].DesignWh.Or(0)))
			}
		}
		if !b.Swollen.IsKnown() {
			add(power.CodeNotInspected, "whether the pack is swollen was not told: the look at it before it is unplugged decides")
		}
	}
	for _, text := range s.notTold() {
		add("machine.not_known", text)
	}
	return out
}

// notTold names what of the machine nobody told; it is planned as none.
func (s *search) notTold() []string {
	var out []string
	if s.m.Fitted.Memory == nil && len(s.kindOf[kMemory]) > 0 {
		out = append(out, "which modules sit in the sockets was not told; they are planned as empty")
	}
	if s.m.Fitted.Drives == nil && len(s.kindOf[kDrive]) > 0 {
		out = append(out, "which drives are fitted was not told; none is planned with")
	}
	if s.m.Fitted.Battery == nil && (s.ch.Batteries == nil || len(s.ch.Batteries) > 0) {
		out = append(out, "the battery was not told; it is planned as none")
	}
	if s.m.Fitted.Wireless == nil && (s.ch.Slots == nil || len(s.kindOf[kWireless]) > 0) {
		out = append(out, "the wireless card was not told; it is planned as none")
	}
	return out
}
