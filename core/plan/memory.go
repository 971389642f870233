package plan

import (
	"context"
	"fmt"
	"math/big"
	"strings"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/memory"
)

// memoryKind is the modules in the sockets: their total, and their bandwidth beside it.
type memoryKind struct{}

func (memoryKind) names() names {
	return names{goal: "memory_gb", part: hw.KindMemory, says: "memory", part1: "set of memory modules", at: "/fitted/memory",
		untold: "what sits in the memory sockets is not known, so what would help cannot be said"}
}

func (memoryKind) asked(g *hw.Goals) bool         { return g.MemoryGB.IsKnown() }
func (memoryKind) only(g *hw.Goals) hw.Goals      { return hw.Goals{MemoryGB: g.MemoryGB} }
func (memoryKind) meets(m *Meets) *hw.Maybe[bool] { return &m.Memory }

func (memoryKind) readToday(s *search) {
	s.todaySticks = append([]memory.Stick{}, memory.Soldered(s.ch, s.m)...)
	for _, st := range s.todaySticks {
		s.soldered += st.Module.Capacity.Or(0)
	}
	s.todayMemory = s.soldered
	sockets := s.ch.Mem().Sockets
	s.untold[kMemory] = s.m.Fitted.Memory == nil && !(sockets != nil && len(sockets) == 0)
	for _, pi := range s.kindOf[kMemory] {
		if p := &s.places[pi]; p.occupied {
			st := s.stick(p, s.m.Fitted.Memory[p.fitted].Module)
			s.todaySticks = append(s.todaySticks, st)
			gb, told := st.Module.Capacity.Get()
			s.todayMemory += gb
			s.untold[kMemory] = s.untold[kMemory] || !told
		}
	}
	s.todayLayout = memory.Arrange(s.ch.Mem(), s.todaySticks)
}

func (memoryKind) reached(s *search, x *candidate) bool {
	goal, asked := s.goals.MemoryGB.Get()
	return asked && !s.untold[kMemory] && x.total >= goal
}

func (memoryKind) share(s *search, x *candidate) (*big.Rat, hw.Maybe[hw.Dec]) {
	return x.total.Rat(), s.goals.MemoryGB
}

// asItIs is memory left as it is.
func (memoryKind) asItIs(s *search) candidate {
	return candidate{pack: noPack, gain: capped(s.todayMemory, s.goals.MemoryGB),
		second: s.bandwidthGain(s.todayLayout.MBs),
		total:  s.todayMemory, choice: s.same(kMemory)}
}

func (memoryKind) candidates(ctx context.Context, s *search) ([]group, error) {
	if !s.wanted[kMemory] {
		return s.leftAlone(kMemory), nil
	}
	ways, err := s.memoryWays(ctx)
	return ways.groups, err
}

func (memoryKind) judge(s *search, part int, known *judged) []hw.Verdict {
	m := s.parts[part].Memory
	return recall(known.memory, hw.Module{Type: m.Type, Form: m.Form, Capacity: m.Capacity, ECC: m.ECC,
		Clocked: m.Clocked}, func() []hw.Verdict {
		if v, none := memory.NoSocket(s.ch.Mem()); none {
			return []hw.Verdict{v}
		}
		out := make([]hw.Verdict, 0, len(s.ch.Memory.Sockets))
		for j := range s.ch.Memory.Sockets {
			out = append(out, memory.Fit(s.ch, memory.Stays{Soldered: s.soldered, Kept: s.keptBeside(j)}, j, m, part, s.limit, s.largest))
		}
		return out
	})
}

// keptBeside is what the modules come to that are to be left as they are in the other sockets.
func (s *search) keptBeside(socket int) (gb hw.Dec) {
	for _, pi := range s.kindOf[kMemory] {
		if p := &s.places[pi]; p.keep && p.occupied && p.Index != socket {
			gb += s.m.Fitted.Memory[p.fitted].Module.Capacity.Or(0)
		}
	}
	return gb
}

// rule is the pairing.
func (memoryKind) rule(s *search, part, pi int) hw.Verdict {
	if pl := &s.places[pi]; !s.inAllowedSet(int32(part), pl.Index) {
		return s.refuse(pi, hw.CodeMemoryPairing, "no set of modules that the shop's pairing allows (%s) has it in %s",
			hw.Pairings.Says(s.pairs()), pl.id)
	}
	return hw.Verdict{}
}

func (memoryKind) rules(s *search) []rule {
	return []rule{
		{s.limit.GB.IsKnown(), hw.CodeMemoryOverLimit, func(in *Input) { in.noLimit = true }, s.overLimitText},
		{s.pairs() != hw.PairAny, hw.CodeMemoryPairing,
			func(in *Input) { in.Request.Practice.Pairing = hw.Known(hw.PairAny) }, func() string {
				return fmt.Sprintf("modules that would do cannot stand beside each other by the shop's pairing: %s",
					hw.Pairings.Says(s.pairs()))
			}},
	}
}

func (memoryKind) leansOn(s *search, _ int) []string {
	facts := []string{"/memory/type", "/memory/max_speed_mts"}
	if path := s.limit.Path(); path != "" {
		facts = append(facts, path)
	}
	return facts
}

func (memoryKind) defaulted(s *search, _ *found, p *place) []string {
	return absent(p.Reach != "", evidence.Pointer(s.ch, p.prefix)+"/reach")
}

func (memoryKind) sits(s *search, p *place) string {
	return s.m.Fitted.Memory[p.fitted].Module.Words()
}

func (memoryKind) falls(o *Option, g *hw.Goals) string {
	has := "not known,"
	if o.Memory != nil {
		has = o.Memory.TotalGB.String()
	}
	return "memory " + has + " of " + g.MemoryGB.Or(0).String() + " GB"
}

// bandwidthGain is what counts of a bandwidth: all of it where memory is asked for, with
// one that is not known below all that are.
func (s *search) bandwidthGain(mbs hw.Maybe[int]) int64 {
	if !s.named[kMemory] {
		return 0
	}
	return int64(mbs.Or(0))
}

// sticksAfter is all memory after an option.
func (s *search) sticksAfter(f *found) []memory.Stick {
	sticks := append([]memory.Stick{}, memory.Soldered(s.ch, s.m)...)
	for i, pi := range s.kindOf[kMemory] {
		p := &s.places[pi]
		switch c := f.parts[kMemory].choice[i]; {
		case c == unchanged && p.occupied:
			sticks = append(sticks, s.stick(p, s.m.Fitted.Memory[p.fitted].Module))
		case c < remove:
			sticks = append(sticks, s.stick(p, *s.parts[c].Memory))
		}
	}
	return sticks
}

func (memoryKind) after(s *search, o *after, f *found) {
	if s.untold[kMemory] {
		return
	}
	sticks := s.sticksAfter(f)
	layout := memory.Arrange(s.ch.Mem(), sticks)
	o.memory = memoryState(layout)
	if f.parts[kMemory].changed == 0 {
		return
	}
	if s.mixedAfter(f) {
		o.warn(hw.CodeMixed, "memory", "the modules in the sockets differ: %s", sticksWords(sticks))
	}
	if s.narrower(layout.MBs) {
		o.warn(hw.CodeNarrower, "memory", "%s GB/s, where it has %s GB/s today: all the memory gets slower",
			layout.Bandwidth.Or(0), s.todayLayout.Bandwidth.Or(0))
	}
	if layout.Mode.Or("") == "single" && memory.Wide(s.ch.Mem()) {
		o.warn(hw.CodeSingleChannel, "memory", "all %s GB lie on one channel: a matched pair on two has twice the bandwidth",
			layout.Total)
	}
	if layout.Mode.Or("") == "asymmetric" {
		o.flags |= fAsymmetric
		o.warn(hw.CodeAsymmetric, "memory", "%s of %s GB run interleaved, %s GB single", layout.Interleaved.Or(0),
			layout.Total, layout.Single.Or(0))
	}
	slowed, slowest := memory.Slowed(s.ch.Mem(), sticks)
	for _, at := range slowed {
		for i := range sticks {
			if sticks[i].Place == at {
				o.warn(hw.CodeSlower, at, "rated %d MT/s, runs at %d MT/s because of the slowest one",
					sticks[i].Module.Speed.Or(0), slowest)
			}
		}
	}
}

// mixedAfter reports whether modules in sockets differ after an option.
func (s *search) mixedAfter(f *found) bool {
	set, _ := s.memorySet(f.parts[kMemory].choice)
	return set.mixed
}

func sticksWords(sticks []memory.Stick) string {
	words := ""
	for i := range sticks {
		if sticks[i].Soldered {
			continue
		}
		if words != "" {
			words += ", "
		}
		words += sticks[i].Place + " " + sticks[i].Module.Words()
		if r, ok := sticks[i].Module.Ranks.Get(); ok {
			words += fmt.Sprintf(" %dR", r)
		}
	}
	return words
}

func (s *search) sticksOf(o *Option) []memory.Stick {
	sticks := append([]memory.Stick{}, memory.Soldered(s.ch, s.m)...)
	for _, pi := range s.kindOf[kMemory] {
		p := &s.places[pi]
		if part := s.partOf(o, p.id); part != nil && part.Memory != nil {
			sticks = append(sticks, s.stick(p, *part.Memory))
		} else if p.occupied && doneAt(o, p.id) == DoKeep {
			sticks = append(sticks, s.stick(p, s.m.Fitted.Memory[p.fitted].Module))
		}
	}
	return sticks
}

func (s *search) explainMemory(sticks []memory.Stick) []Term {
	if s.untold[kMemory] {
		return []Term{{"Total", "what sits in the sockets is not known"}}
	}
	l := memory.Arrange(s.ch.Mem(), sticks)
	var parts []string
	for _, st := range sticks {
		parts = append(parts, fmt.Sprintf("%s %s", st.Module.Capacity.Or(0), st.Place))
	}
	if len(parts) == 0 {
		return []Term{{"Total", "no memory is told"}}
	}
	out := []Term{{"Total", strings.Join(parts, " + ") + fmt.Sprintf(" = %s GB", l.Total)}}
	if len(l.PerChannel) > 0 {
		var shares []string
		for i, gb := range l.PerChannel {
			shares = append(shares, fmt.Sprintf("%c %s", 'A'+i, gb))
		}
		sum := strings.Join(shares, ", ")
		if len(l.PerChannel) == 2 {
			sum += fmt.Sprintf("; interleaved 2 × min(%s, %s) = %s GB, the other %s GB run single-channel",
				l.PerChannel[0], l.PerChannel[1], l.Interleaved.Or(0), l.Single.Or(0))
		} else {
			sum += fmt.Sprintf("; %s GB lie on two or more channels, %s GB on one", l.Interleaved.Or(0), l.Single.Or(0))
		}
		out = append(out, Term{"Channels", sum})
	} else {
		out = append(out, Term{"Channels", "which channel serves a place is not yet known"})
	}
	if mts, ok := l.Speed.Get(); ok {
		var rated []string
		for _, st := range sticks {
			if v, ok := st.Module.Speed.Get(); ok {
				rated = append(rated, fmt.Sprint(v))
			}
		}
		if v, ok := s.ch.Mem().MaxSpeed.Get(); ok {
			rated = append(rated, fmt.Sprintf("%d (platform)", v))
		}
		out = append(out, Term{"Speed", fmt.Sprintf("the slowest of %s: %d MT/s", strings.Join(rated, ", "), mts)})
		if bw, ok := l.Bandwidth.Get(); ok {
			width := bw.Rat()
			one := hw.Dec(mts*8) * 1000
			width.Quo(width, one.Rat())
			channels := hw.RatTenths(width).String() + " channels"
			if channels == "1 channels" {
				channels = "1 channel"
			}
			out = append(out, Term{"Bandwidth", fmt.Sprintf("%d MT/s × 8 bytes × %s = %s GB/s", mts, channels, bw)})
		}
	}
	if gb, ok := s.limit.GB.Get(); ok {
		words := gb.String() + " GB: " + s.limit.Words()
		if s.limit.Arithmetic != "" {
			words += ", " + s.limit.Arithmetic
		}
		out = append(out, Term{"Current limit", words})
	}
	return out
}

// overLimitText names the limit in force, and the practice that would allow more.
func (s *search) overLimitText() string {
	gb := s.limit.GB.Or(0)
	text := fmt.Sprintf("%s GB is %s", gb, s.limit.Words())
	if s.limit.Unreachable || s.limit.From == memory.BySockets {
		return text + ": " + s.limit.Arithmetic
	}
	if s.limit.From == memory.Inferred {
		text += " (" + s.limit.Arithmetic + "); the maker's or the controller's limit would settle it"
	}
	for _, practice := range []hw.LimitPractice{hw.LimitProven, hw.LimitController, hw.LimitSockets} {
		l := memory.InForce(s.ch, s.m, practice, s.largest)
		if more, ok := l.GB.Get(); ok && more > gb {
			return fmt.Sprintf("%s; %s is %s GB, which the shop rule “%s” allows", text, l.Words(), more,
				hw.LimitPractices.Says(practice))
		}
	}
	return text + ", and no practice allows more"
}

// inferredText says which figure stands in for the one that the practice asks for.
func (s *search) inferredText() string {
	text := fmt.Sprintf("%s is not known; %s stands in for it, %s GB",
		hw.LimitPractices.Says(s.practice.MemoryLimit.Or(hw.LimitMaker)), s.limit.Words(), s.limit.Stated)
	if s.limit.From == memory.Inferred && !s.limit.Unreachable {
		text += " (" + s.limit.Arithmetic + ")"
	}
	return text
}

func (s *search) unreachableText() string {
	return fmt.Sprintf("the stated limit of %s GB cannot be reached: %s is all that the sockets hold", s.limit.Stated,
		s.limit.Arithmetic)
}

func moreThanText(goal, size, peak hw.Dec) string {
	need, _, _ := memory.RightSize(peak, nil)
	return fmt.Sprintf("%s GB are asked for; the work peaks at %s GB, ÷ 0.8 is %s, so %s GB is enough: more memory "+
		"than the work uses makes nothing faster", goal, peak, need.Tenths(), size)
}

func (memoryKind) own(o *own, choice []int32) *candidate {
	s := o.s
	c := &candidate{pack: noPack, choice: choice, total: s.soldered}
	set, ok := s.memorySet(c.choice)
	c.total, c.changed, c.removed = set.total, set.changed, set.removed
	o.cost(c)
	if set.changed == 0 {
		return c
	}
	mbs, single := s.bandwidth(c.choice)
	c.flags |= s.memoryFlags(set, mbs, single)
	c.second = s.bandwidthGain(mbs)
	limit, known := s.limit.GB.Get()
	switch {
	case s.untold[kMemory]:
		o.faults = append(o.faults, hw.Verdict{Code: hw.CodeMachineNotKnown, Place: "memory",
			Fact: "machine:/fitted/memory", Text: "what sits in the sockets is not known"})
	case !known:
		v := hw.Unknown(memory.UnknownLimitFact,
			"how much memory this model takes in all is not known: the maker's or the controller's document tells it")
		v.Place = "memory"
		o.faults = append(o.faults, v)
	case set.total > limit:
		o.refuse("memory", hw.CodeMemoryOverLimit, "%s GB in all; %s is %s GB", set.total, s.limit.Words(), limit)
	case !ok && set.total <= s.todayMemory:
		o.refuse("memory", hw.CodeNothing, "%s GB are no more than today", set.total)
	case !ok:
		o.refuse("memory", hw.CodeMemoryPairing,
			"the shop's pairing does not allow these modules beside each other: %s", hw.Pairings.Says(s.pairs()))
	}
	return c
}
