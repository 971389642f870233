package plan

import (
	"context"
	"fmt"
	"slices"
	"strings"

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
	peak, sized := s.m.Usage.MemoryPeak.Get()
	sized = sized && !s.untold[kMemory]
	judged := s.wanted
	judged[kMemory] = judged[kMemory] || sized
	rejected, err := s.sort(ctx, judged)
	if err != nil {
		return nil, err
	}
	planned := s.wanted != [kinds]bool{} && !s.swollen()
	var groups [kinds][]group
	if planned {
		if groups, err = s.candidates(ctx); err != nil {
			return nil, err
		}
	}
	if sized {
		totals, err := s.memoryTotals(ctx)
		if err != nil {
			return nil, err
		}
		if _, size, ok := memory.RightSize(peak, totals); ok {
			p.RightSize.MemoryGB = hw.Known(size)
		}
	}
	p.Notes = s.notes(p)
	if s.swollen() {
		p.Verdict = Stop
		return p, nil
	}
	if planned {
		p.Rejected = rejected
		if err := s.plan(ctx, groups, p); err != nil {
			return nil, err
		}
	} else {
		s.conclude(p, nil)
		if err := s.explainUnmet(ctx, p, s.met, newReachable()); err != nil {
			return nil, err
		}
	}
	s.services(p)
	return p, nil
}

// sort judges every part of some kinds in every place and returns what is rejected everywhere.
func (s *search) sort(ctx context.Context, judged [kinds]bool) ([]Rejected, error) {
	if err := s.judge(ctx, judged); err != nil {
		return nil, err
	}
	return s.sift(ctx)
}

func (s *search) swollen() bool {
	b := s.m.Fitted.Battery
	return b != nil && b.Swollen.Or(false)
}

// plan searches, and fills the verdict, the options, the picks and the rest.
func (s *search) plan(ctx context.Context, groups [kinds][]group, p *Plan) error {
	budget, limited := s.in.Request.BudgetCents.Get()
	pinned := s.pinned()
	var fronts []*front
	var reached []*reachable
	err := s.combineByHands(ctx, groups, func(own *search) func(*found) {
		fr, reach := newFront(own), newReachable()
		fronts, reached = append(fronts, fr), append(reached, reach)
		return func(f *found) {
			if !uses(f, pinned) {
				return
			}
			affordable := !limited || f.total <= budget
			f.met = own.metBy(f)
			reach.note(f, affordable)
			if affordable {
				fr.add(f)
			}
		}
	})
	if err != nil {
		return err
	}
	fr, reach := fronts[0], reached[0]
	for i := range fronts[1:] {
		fr.merge(fronts[1+i])
		reach.merge(reached[1+i])
	}
	kept := fr.options()
	p.Options = s.writeOptions(kept)
	p.Picks, p.rivals = s.pick(kept, p.Options)
	base := s.conclude(p, kept)
	p.Notes = append(p.Notes, s.optionNotes(kept)...)
	return s.explainUnmet(ctx, p, base, reach)
}

// metBy says which named goals a combination meets: those of kinds that take no part stay
// as they are.
func (s *search) metBy(f *found) (met [kinds]bool) {
	for k := range kinds {
		met[k] = s.met[k]
		if f.parts[k].changed != 0 {
			met[k] = f.parts[k].met
		}
	}
	return met
}

// untouched is what is the same of every kind left as it is.
func (s *search) untouched(k int) candidate {
	return candidate{pack: noPack, choice: s.same(k), used: s.usedNow & s.maskOf(k)}
}

// leftAlone is the one way to treat a kind that takes no part.
func (s *search) leftAlone(k int) []group {
	return []group{{list: []candidate{allKinds[k].asItIs(s)}, pack: s.packKey(noPack)}}
}

// services puts the services asked for into the answer where no upgrade is planned: one
// option that leaves every place as it is.
func (s *search) services(p *Plan) {
	if len(s.service) == 0 || len(p.Options) > 0 {
		return
	}
	f := found{parts: [kinds]*candidate{}, met: s.met}
	for k := range kinds {
		x := allKinds[k].asItIs(s)
		f.parts[k] = &x
	}
	open := s.opened(&f)
	f.total, f.minutes = open.labour+s.servicesCents, open.minutes
	if s.overBudget(f.total) {
		if p.Verdict == Enough {
			p.Verdict = NotPossible
		}
		p.Unmet = append(p.Unmet, Unmet{Goal: "services", Code: hw.CodeBudget,
			Text: fmt.Sprintf("the services alone come to %s, above the budget", s.money(f.total))})
		return
	}
	p.Verdict = ServiceOnly
	p.Options = []Option{s.option(&f, 0)}
	o := p.Options[0].ID
	p.Picks = Picks{o, o, o, o, o, o}
	p.Notes = append(p.Notes, s.optionNotes([]found{f})...)
}

// narrowed is the parts list without what is forbidden, and without other parts of the
// kinds of those that are pinned.
func narrowed(in Input) *hw.Parts {
	if len(in.Pinned)+len(in.Forbidden) == 0 {
		return in.Parts
	}
	kindsPinned := map[hw.PartKind]bool{}
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

// candidates lists, for each kind, the ways to treat its places.
func (s *search) candidates(ctx context.Context) (groups [kinds][]group, err error) {
	err = eachKind(func(k int, kind kind) (err error) {
		if groups[k], err = kind.candidates(ctx, s); err != nil {
			return err
		}
		numberGains(groups[k])
		for g := range groups[k] {
			for i := range groups[k][g].list {
				x := &groups[k][g].list[i]
				x.shuns = s.shunned(x.fresh)
				x.met = kind.reached(s, x)
			}
		}
		return nil
	})
	return groups, err
}

// notes are about the machine, whatever is planned.
func (s *search) notes(p *Plan) []Note {
	out := []Note{}
	add := func(code hw.Code, text string, facts ...string) {
		out = append(out, Note{Code: code, Text: text, Facts: facts})
	}
	for i := range s.m.Fitted.Drives {
		if d := &s.m.Fitted.Drives[i]; d.Fails() && !s.swollen() {
			add(hw.CodeDriveFailing, failingText(d), fmt.Sprintf("machine:/fitted/drives/%d/%s", i, failingFact(d)))
		}
	}
	if s.limit.Unreachable {
		add(hw.CodeUnreachable, s.unreachableText(), "chassis:"+s.limit.Path())
	}
	if s.limit.FellBack && s.wanted[kMemory] && len(s.kindOf[kMemory]) > 0 {
		add(hw.CodeLimitInferred, s.inferredText())
	}
	if goal, ok := s.goals.MemoryGB.Get(); ok {
		if size, ok := p.RightSize.MemoryGB.Get(); ok && goal > 2*size {
			add(hw.CodeMoreThan, moreThanText(goal, size, s.m.Usage.MemoryPeak.Or(0)))
		}
	}
	if b := s.m.Fitted.Battery; b != nil {
		if b.Swollen.Or(false) {
			add(hw.CodeSwollen, swollenText)
		}
		if i := s.ch.BatteryByID(b.Option); i >= 0 {
			if health, ok := power.Health(b.FullWh, s.ch.Batteries[i].DesignWh); ok && power.Worn(health) {
				add(hw.CodeWorn, wornText(b.FullWh.Or(0), s.ch.Batteries[i].DesignWh.Or(0)))
			}
		}
		if !b.Swollen.IsKnown() {
			add(hw.CodeNotInspected, "whether the pack is swollen is not known: the look at it before it is "+
				"unplugged decides")
		}
	}
	for i := range s.m.Fitted.Drives {
		if d := &s.m.Fitted.Drives[i]; s.isBoot(i) && d.Drive.Rotational.Or(false) {
			add(hw.CodeSpinning, fmt.Sprintf("the boot drive in %s is a spinning one: a solid-state drive is the "+
				"change that will be felt most", d.Place))
		}
	}
	if s.striped() && !s.swollen() {
		add(hw.CodeRaid0, "drives of this machine are one striped volume (RAID 0): they stay; image it first, and take "+
			"it apart by hand")
	}
	if list := s.notTold(); len(list) > 0 {
		add(hw.CodeMachineNotKnown, "not known on this machine: "+strings.Join(list, "; "))
	}
	return out
}

// notTold names what of the machine nobody told, of the kinds that the goals name.
func (s *search) notTold() []string {
	var out []string
	add := func(kind int, holds bool, text string) {
		if s.named[kind] && holds {
			out = append(out, text)
		}
	}
	add(kMemory, s.untold[kMemory], "the modules in the sockets")
	add(kDrive, s.untold[kDrive], "the drives")
	add(kBattery, s.packTaken, "the battery, taken as the one pack that the model has")
	add(kBattery, s.packUntold, "the battery, of which the model has several")
	add(kBattery, s.runtimeUntold(), "how long it runs and what it draws, or what its pack holds")
	add(kWireless, s.m.Fitted.Wireless == nil && len(s.kindOf[kWireless]) > 0, "the wireless card, planned as none")
	return out
}
