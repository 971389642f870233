package plan

import (
	"context"
	"fmt"
	"math/big"
	"sort"

	"yembo/core/hw"
	"yembo/core/power"
)

// batteryKind is the pack.
type batteryKind struct{ plain }

func (batteryKind) names() names {
	return names{goal: "runtime_h", part: hw.KindBattery, says: "time on the battery", part1: "battery", at: "/usage/runtime_h",
		untold: "how long it runs and what it draws is not known, or which of its packs it has"}
}

func (batteryKind) asked(g *hw.Goals) bool         { return g.RuntimeH.IsKnown() }
func (batteryKind) only(g *hw.Goals) hw.Goals      { return hw.Goals{RuntimeH: g.RuntimeH} }
func (batteryKind) meets(m *Meets) *hw.Maybe[bool] { return &m.Runtime }

func (batteryKind) readToday(s *search) {
	at := &s.places[s.placeIndex[hw.BatteryPlace]]
	if b := s.m.Fitted.Battery; b != nil {
		s.presentWh = b.FullWh
		if i := s.ch.BatteryByID(b.Option); i >= 0 {
			s.fittedPack = i
		}
		at.occupied = true
	} else if len(s.ch.Batteries) == 1 {
		s.fittedPack, s.packTaken = 0, true
		at.occupied = true
	} else {
		s.packUntold = len(s.ch.Batteries) > 1
	}
	s.standInForFull()
	s.todayRuntime = power.Runtime(&s.m.Usage, s.presentWh)
	s.untold[kBattery] = s.packUntold || s.runtimeUntold()
}

// standInForFull lets what the pack held when it was new stand for what it holds, where a runtime was measured and
// nothing else tells how others compare: it holds that at most, so another pack lasts at least so long.
func (s *search) standInForFull() {
	u := &s.m.Usage
	if s.presentWh.IsKnown() || !u.RuntimeH.IsKnown() || u.DrawW.IsKnown() || s.fittedPack < 0 {
		return
	}
	s.presentWh = s.ch.Batteries[s.fittedPack].DesignWh
	s.leastRuntime = s.presentWh.IsKnown()
}

// runtimeUntold reports whether nobody can say how far the machine is from the runtime that is asked for: no runtime
// and no draw was told, or a runtime alone of a pack of which nothing is known. One that reaches the goal is enough.
func (s *search) runtimeUntold() bool {
	goal, asked := s.goals.RuntimeH.Get()
	measured, told := s.m.Usage.RuntimeH.Get()
	switch {
	case !asked || s.ch.Batteries != nil && len(s.ch.Batteries) == 0 || told && measured >= goal:
		return false
	case s.m.Usage.DrawW.IsKnown():
		return false
	}
	return !told || !s.presentWh.IsKnown()
}

// reached holds of a measured runtime too, whatever is known of the pack.
func (batteryKind) reached(s *search, x *candidate) bool {
	goal, asked := s.goals.RuntimeH.Get()
	return asked && x.runtime != nil && x.runtime.Cmp(goal.Rat()) >= 0
}

func (batteryKind) share(s *search, x *candidate) (*big.Rat, hw.Maybe[hw.Dec]) {
	return x.runtime, s.goals.RuntimeH
}

func (batteryKind) asItIs(s *search) candidate {
	x := s.untouched(kBattery)
	x.used, x.runtime = s.packBit(s.fittedPack), s.todayRuntime
	return x
}

func (batteryKind) judge(s *search, part int, known *judged) []hw.Verdict {
	b := *s.parts[part].Battery
	b.DesignWh = hw.Maybe[hw.Dec]{}
	return recall(known.battery, b, func() []hw.Verdict {
		return []hw.Verdict{power.Fit(s.ch, s.parts[part].Battery, part, s.practice.AllowUnlistedBattery.Or(false))}
	})
}

func (batteryKind) leansOn(s *search, pack int) []string {
	if pack < 0 {
		return nil
	}
	return []string{"/batteries/" + s.ch.Batteries[pack].ID}
}

func (batteryKind) defaulted(s *search, f *found, p *place) []string {
	out := absent(p.Reach != "", "/battery_reach")
	if pack := f.parts[kBattery].pack; pack >= 0 {
		part := f.parts[kBattery].choice[0]
		own, at := s.parts[part].Battery, fmt.Sprintf("parts:/parts/%d/battery/", part)
		if !own.NominalV.IsKnown() {
			out = append(out, at+"nominal_v")
		}
		if !own.Series.IsKnown() {
			out = append(out, at+"series")
		}
		b := &s.ch.Batteries[pack]
		out = append(out, absent(b.Excludes != nil, fmt.Sprintf("/batteries/%d/excludes", pack))...)
		out = append(out, absent(b.CarryOver != nil, fmt.Sprintf("/batteries/%d/carry_over", pack))...)
	}
	return out
}

func (batteryKind) sits(s *search, p *place) string {
	if s.fittedPack < 0 {
		return s.m.Fitted.Battery.PartNumber
	}
	b := &s.ch.Batteries[s.fittedPack]
	if wh, ok := b.DesignWh.Get(); ok {
		return fmt.Sprintf("%s pack, %s Wh", b.ID, wh)
	}
	return b.ID + " pack"
}

func (batteryKind) falls(o *Option, g *hw.Goals) string {
	has := "not known,"
	if o.Battery != nil && o.Battery.RuntimeH.IsKnown() {
		has = o.Battery.RuntimeH.Or(0).String()
		if o.Battery.AtLeast {
			has = "at least " + has
		}
	}
	return "battery " + has + " of " + g.RuntimeH.Or(0).String() + " h"
}

// candidates lists the packs that can be fitted.
func (batteryKind) candidates(ctx context.Context, s *search) ([]group, error) {
	none := batteryKind{}.asItIs(s)
	var list []candidate
	bit := s.maskOf(kBattery)
	// Packs of the same energy share one exact runtime.
	type lasts struct {
		runtime *big.Rat
		nearer  bool // than today's
	}
	known := map[hw.Maybe[hw.Dec]]lasts{}
	lastsWith := func(wh hw.Maybe[hw.Dec]) lasts {
		l, seen := known[wh]
		if !seen {
			l.runtime = power.RuntimeWith(&s.m.Usage, s.presentWh, wh)
			l.nearer = l.runtime != nil && (s.todayRuntime == nil || l.runtime.Cmp(s.todayRuntime) > 0)
			known[wh] = l
		}
		return l
	}
	for part := range s.parts {
		p := &s.parts[part]
		if !s.wanted[kBattery] || p.Kind != hw.KindBattery || !s.verdictAt(part, s.kindOf[kBattery][0]).Fits() {
			continue
		}
		x := candidate{changed: bit, cost: int64(p.Purchases(1)) * p.PriceCents, days: s.daysFor(p, 1),
			choice: []int32{int32(part)},
			pack:   power.OptionFor(s.ch, p.Battery.PartNumber)}
		x.used = s.packBit(x.pack)
		if x.used&s.usedNow == 0 {
			x.fresh = x.used
		}
		if x.pack < 0 {
			x.flags |= fUnlisted
		}
		if s.otherWh(p) {
			x.flags |= fOtherWh
		}
		if p.Pulled() {
			x.flags |= fPulled
		}
		l := lastsWith(s.packWh(p))
		x.runtime, x.nearer = l.runtime, l.nearer
		list = append(list, x)
	}
	s.rankRuntimes(&none, list)
	c := s.collector(ctx)
	for _, x := range list {
		c.add(x)
	}
	return c.result(none), nil
}

// packWh is what a new pack holds: as the part says, else as the model's list does.
func (s *search) packWh(p *hw.Part) hw.Maybe[hw.Dec] {
	if p.Battery.DesignWh.IsKnown() {
		return p.Battery.DesignWh
	}
	if i := power.OptionFor(s.ch, p.Battery.PartNumber); i >= 0 {
		return s.ch.Batteries[i].DesignWh
	}
	return hw.Maybe[hw.Dec]{}
}

// otherWh reports whether a new pack is said to hold more than 10 % more or less than the recorded pack whose number
// it has.
func (s *search) otherWh(p *hw.Part) bool {
	i := s.packOf(p)
	if i < 0 {
		return false
	}
	says, told := p.Battery.DesignWh.Get()
	recorded, known := s.ch.Batteries[i].DesignWh.Get()
	return told && known && max(says-recorded, recorded-says)*10 > recorded
}

// rankRuntimes turns exact runtimes, up to twice the goal, into ranks; 0 is none.
func (s *search) rankRuntimes(none *candidate, list []candidate) {
	goal, ok := s.goals.RuntimeH.Get()
	if !ok {
		return
	}
	most := new(big.Rat).Mul(goal.Rat(), big.NewRat(2, 1))
	// Each distinct value is looked at once; candidates share them by pointer.
	counted := map[*big.Rat]*big.Rat{}
	var values []*big.Rat
	note := func(r *big.Rat) {
		if r == nil || counted[r] != nil {
			return
		}
		counted[r] = r
		if r.Cmp(most) > 0 {
			counted[r] = most
		}
		values = append(values, counted[r])
	}
	note(none.runtime)
	for i := range list {
		note(list[i].runtime)
	}
	sort.Slice(values, func(i, j int) bool { return values[i].Cmp(values[j]) < 0 })
	ranks := map[*big.Rat]int64{}
	n := int64(0)
	for i, v := range values {
		if i == 0 || v.Cmp(values[i-1]) != 0 {
			n++
		}
		ranks[v] = n
	}
	none.gain = ranks[counted[none.runtime]]
	for i := range list {
		list[i].gain = ranks[counted[list[i].runtime]]
	}
}

func (batteryKind) after(s *search, a *after, f *found) {
	bat := f.parts[kBattery]
	if bat.changed == 0 {
		a.battery = s.batteryToday()
		return
	}
	p := &s.parts[bat.choice[0]]
	a.battery = &BatteryState{FullWh: tenths(s.packWh(p)), RuntimeH: hours(bat.runtime),
		AtLeast: s.leastRuntime && bat.runtime != nil}
	if s.otherWh(p) {
		a.warn(hw.CodeOtherWh, hw.BatteryPlace, "the part says %s Wh, the pack of its number is recorded with %s Wh",
			p.Battery.DesignWh.Or(0), s.ch.Batteries[bat.pack].DesignWh.Or(0))
	}
	if bat.pack >= 0 {
		a.battery.Option = s.ch.Batteries[bat.pack].ID
	} else {
		a.battery.PartNumber = p.Battery.PartNumber
	}
}

// batteryToday is the pack in the machine, nil where none is or none was told.
func (s *search) batteryToday() *BatteryState {
	switch b := s.m.Fitted.Battery; {
	case b != nil:
		return &BatteryState{Option: b.Option, PartNumber: b.PartNumber, FullWh: tenths(b.FullWh), RuntimeH: hours(s.todayRuntime)}
	case s.packTaken:
		return &BatteryState{Option: s.ch.Batteries[s.fittedPack].ID, RuntimeH: hours(s.todayRuntime)}
	}
	return nil
}

func hours(r *big.Rat) hw.Maybe[hw.Dec] {
	if r == nil {
		return hw.Maybe[hw.Dec]{}
	}
	return hw.Known(hw.RatTenths(r))
}

func (s *search) explainBattery(o *Option) []Term {
	usage := &s.m.Usage
	profile := ""
	if usage.RuntimeProfile != "" {
		profile = " (" + usage.RuntimeProfile + ")"
	}
	var out []Term
	part := s.partOf(o, hw.BatteryPlace)
	if part == nil {
		if h, ok := usage.RuntimeH.Get(); ok {
			out = append(out, Term{"Runtime", "measured: " + h.String() + " h" + profile})
		} else if r := power.Runtime(usage, s.presentWh); r != nil {
			out = append(out, Term{"Runtime",
				fmt.Sprintf("0.95 × %s Wh ÷ %s W = %s h%s", s.presentWh.Or(0), usage.DrawW.Or(0), hw.RatTenths(r),
					profile)})
		} else {
			out = append(out, Term{"Runtime", "not known: neither a runtime nor a draw was measured"})
		}
		if b := s.m.Fitted.Battery; b != nil {
			if i := s.ch.BatteryByID(b.Option); i >= 0 {
				if health, ok := power.Health(b.FullWh, s.ch.Batteries[i].DesignWh); ok {
					pct := new(big.Rat).Mul(health, big.NewRat(100, 1))
					words := fmt.Sprintf("%s of %s Wh = %s %%", b.FullWh.Or(0), s.ch.Batteries[i].DesignWh.Or(0),
						hw.RatTenths(pct))
					switch {
					case power.Worn(health):
						words += ", below 60 %: worn"
					case power.Tired(health):
						words += ", below 80 %: tired"
					}
					out = append(out, Term{"Health", words})
				}
			}
		}
		return out
	}
	wh := s.packWh(part)
	r := power.RuntimeWith(usage, s.presentWh, wh)
	measured, okM := usage.RuntimeH.Get()
	present, okP := s.presentWh.Get()
	switch {
	case r == nil:
		out = append(out, Term{"Runtime", "not known: neither a runtime nor a draw was measured"})
	case okM && okP && present > 0:
		words := fmt.Sprintf("%s h × %s Wh ÷ %s Wh = %s h%s", measured, wh.Or(0), present, hw.RatTenths(r), profile)
		if s.leastRuntime {
			words = "at least " + words + ": what the pack in it holds was not read, when new it held so much"
		}
		out = append(out, Term{"Runtime", words})
	default:
		out = append(out, Term{"Runtime", fmt.Sprintf("0.95 × %s Wh ÷ %s W = %s h%s", wh.Or(0), usage.DrawW.Or(0),
			hw.RatTenths(r), profile)})
	}
	return out
}

func (batteryKind) own(o *own, choice []int32) *candidate {
	s := o.s
	c := &candidate{pack: noPack, choice: choice, runtime: s.todayRuntime}
	c.used = s.packBit(s.fittedPack)
	if len(c.choice) == 0 || c.choice[0] >= remove {
		return c
	}
	p := &s.parts[c.choice[0]]
	c.changed = s.maskOf(kBattery)
	c.pack = power.OptionFor(s.ch, p.Battery.PartNumber)
	c.used = s.packBit(c.pack)
	if c.used&s.usedNow == 0 {
		c.fresh = c.used
	}
	if c.pack < 0 {
		c.flags |= fUnlisted
	}
	if s.otherWh(p) {
		c.flags |= fOtherWh
	}
	c.runtime = power.RuntimeWith(&s.m.Usage, s.presentWh, s.packWh(p))
	o.cost(c)
	return c
}
