package plan

import (
	"fmt"
	"math/big"
	"slices"
	"strings"

	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/power"
	"yembo/core/storage"
	"yembo/core/teardown"
)

// Term is one line of arithmetic: what it is, and the sum as it is made.
type Term struct {
	What string
	Sum  string
}

// Arithmetic is how an option's figures come about.
type Arithmetic struct {
	Memory  []Term
	Drives  []Term
	Battery []Term
	Minutes []Term
	Cost    []Term
	// Saved is how much longer the same work takes with one opening for each kind of
	// upgrade; 0 where there is one kind.
	Saved hw.Minutes
}

// Explainer explains the options of one plan.
type Explainer struct{ s *search }

// NewExplainer reads what the options of a plan rest on.
func NewExplainer(in Input) (*Explainer, error) {
	s, err := newSearch(in)
	if err != nil {
		return nil, err
	}
	return &Explainer{s}, nil
}

// Gain is reached ÷ goal, summed over the numeric goals, each up to 2; nil is the machine
// as it is.
func (e *Explainer) Gain(o *Option) hw.Dec {
	s := e.s
	if o == nil {
		return s.gainOf(s.todayMemory, s.todayStorage, s.todayRuntime)
	}
	run := s.todayRuntime
	if p := s.partOf(o, hw.BatteryPlace); p != nil {
		run = power.RuntimeWith(&s.m.Usage, s.presentWh, s.packWh(p))
	}
	mem, sto := s.todayMemory, s.todayStorage
	if o.Memory != nil {
		mem = o.Memory.TotalGB
	}
	if o.Storage != nil {
		sto = o.Storage.TotalGB
	}
	return s.gainOf(mem, sto, run)
}

// Explain says how the figures of an option come about; nil is the machine as it is.
func (e *Explainer) Explain(o *Option) Arithmetic {
	s := e.s
	a := Arithmetic{Memory: s.explainMemory(s.sticksOf(o)), Drives: s.explainDrives(o), Battery: s.explainBattery(o)}
	if o != nil {
		a.Minutes, a.Saved = s.explainMinutes(o)
		a.Cost = s.explainCost(o)
	}
	return a
}

// gainOf is the sum of reached ÷ goal over the numeric goals that are named.
func (s *search) gainOf(mem, sto hw.Dec, run *big.Rat) hw.Dec {
	sum := new(big.Rat)
	add := func(reached *big.Rat, goal hw.Maybe[hw.Dec]) {
		g, ok := goal.Get()
		if !ok || reached == nil || g <= 0 {
			return
		}
		r := new(big.Rat).Quo(reached, g.Rat())
		if two := big.NewRat(2, 1); r.Cmp(two) > 0 {
			r = two
		}
		sum.Add(sum, r)
	}
	add(mem.Rat(), s.goals.MemoryGB)
	add(sto.Rat(), s.goals.StorageGB)
	add(run, s.goals.RuntimeH)
	return hw.RatTenths(new(big.Rat).Mul(sum, big.NewRat(10, 1))) / 10
}

// partOf is the part that an option puts into a place, nil for none.
func (s *search) partOf(o *Option, place string) *hw.Part {
	if o == nil {
		return nil
	}
	for _, act := range o.Actions {
		if act.Place != place || act.Part == "" {
			continue
		}
		for i := range s.parts {
			if s.parts[i].ID == act.Part {
				return &s.parts[i]
			}
		}
	}
	return nil
}

func doneAt(o *Option, place string) string {
	if o != nil {
		for _, act := range o.Actions {
			if act.Place == place {
				return act.Do
			}
		}
	}
	return DoKeep
}

// openingOf is the opening that an option asks for.
func (s *search) openingOf(o *Option) openingKey {
	key := openingKey{pack: s.packKey(noPack)}
	for i := range s.places {
		p := &s.places[i]
		switch doneAt(o, p.id) {
		case DoKeep:
			continue
		case DoRemove:
			key.removed |= 1 << i
		}
		key.changed |= 1 << i
		if p.kind == kBattery {
			key.pack = s.packKey(s.packOf(s.partOf(o, p.id)))
		}
	}
	return key
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
		return []Term{{"Total", "what sits in the sockets was not told"}}
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
			sum += fmt.Sprintf("; interleaved 2 × min(%s, %s) = %s GB, the other %s GB run on one channel", l.PerChannel[0], l.PerChannel[1], l.Interleaved.Or(0), l.Single.Or(0))
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
		out = append(out, Term{"Limit in force", words})
	}
	return out
}

func (s *search) explainDrives(o *Option) []Term {
	var out []Term
	for pi := range s.places {
		p := &s.places[pi]
		if p.kind != kDrive && p.kind != kNone || p.optical && doneAt(o, p.id) == DoKeep {
			continue
		}
		var d *hw.Drive
		if part := s.partOf(o, p.id); part != nil && part.Drive != nil {
			d = part.Drive
		} else if p.occupied && doneAt(o, p.id) == DoKeep {
			d = &s.m.Fitted.Drives[p.fitted].Drive
		}
		if d == nil {
			continue
		}
		out = append(out, Term{p.id, linkSum(s.slotOf(p), p.id, d)})
	}
	return out
}

// linkSum says what a drive's link carries and what holds it back.
func linkSum(slot *hw.Slot, place string, d *hw.Drive) string {
	l := storage.Connect(place, slot, d)
	mbs, known := l.MBs.Get()
	if !known {
		return "generation or lanes of slot or drive are not yet known"
	}
	read, told := d.ReadMBs.Get()
	var link string
	if d.Interface == hw.SATA {
		link = fmt.Sprintf("SATA carries %d MB/s", mbs)
	} else {
		link = fmt.Sprintf("generation %d × %d lanes carry %d MB/s", l.Gen.Or(0), l.Lanes.Or(0), mbs)
		if sg, dg := slot.Gen.Or(0), d.Gen.Or(0); sg != dg {
			link += fmt.Sprintf(" (slot %d, drive %d)", sg, dg)
		}
	}
	switch {
	case !told:
		return link + "; what the drive reads was not told"
	case storage.HeldBack(l, d):
		return fmt.Sprintf("%s; the drive could read %s: the link holds it back", link, read)
	}
	return fmt.Sprintf("%s; the drive reads %s: its own speed", link, read)
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
			out = append(out, Term{"Runtime", fmt.Sprintf("0.95 × %s Wh ÷ %s W = %s h%s", s.presentWh.Or(0), usage.DrawW.Or(0), hw.RatTenths(r), profile)})
		} else {
			out = append(out, Term{"Runtime", "not known: neither a runtime nor a draw was measured"})
		}
		if b := s.m.Fitted.Battery; b != nil {
			if i := s.ch.BatteryByID(b.Option); i >= 0 {
				if health, ok := power.Health(b.FullWh, s.ch.Batteries[i].DesignWh); ok {
					pct := new(big.Rat).Mul(health, big.NewRat(100, 1))
					words := fmt.Sprintf("%s of %s Wh = %s %%", b.FullWh.Or(0), s.ch.Batteries[i].DesignWh.Or(0), hw.RatTenths(pct))
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
		out = append(out, Term{"Runtime", fmt.Sprintf("%s h × %s Wh ÷ %s Wh = %s h%s", measured, wh.Or(0), present, hw.RatTenths(r), profile)})
	default:
		out = append(out, Term{"Runtime", fmt.Sprintf("0.95 × %s Wh ÷ %s W = %s h%s", wh.Or(0), usage.DrawW.Or(0), hw.RatTenths(r), profile)})
	}
	return out
}

// explainMinutes lists the steps that the minutes come from, and what one opening for all
// saves against one for each kind.
func (s *search) explainMinutes(o *Option) ([]Term, hw.Minutes) {
	key := s.openingOf(o)
	open := s.openMachine(key)
	var out []Term
	// sum names steps with their minutes, and adds them up.
	sum := func(done func(i int) bool) (words []string, minutes hw.Minutes) {
		for i := range s.ch.Steps {
			if st := &s.ch.Steps[i]; done(i) {
				words = append(words, fmt.Sprintf("%s %s", st.Named(), teardown.StepMinutes(st).Exact()))
				minutes += teardown.StepMinutes(st)
			}
		}
		return words, minutes
	}
	in, way := sum(func(i int) bool { return open.down[i] })
	_, undone := sum(func(i int) bool { return open.undone[i] })
	extra, alone := sum(func(i int) bool { return slices.Contains(open.extra, i) })
	if len(in) > 0 {
		out = append(out, Term{"Way in", strings.Join(in, " + ") + fmt.Sprintf(" = %s min", way.Shown())},
			Term{"Way back", fmt.Sprintf("0.8 × %s = %s min", undone.Shown(), undone.Back().Shown())})
	}
	if len(extra) > 0 {
		out = append(out, Term{"On the way back alone", strings.Join(extra, " + ") + fmt.Sprintf(" = %s min", alone.Shown())})
	}
	var swaps []string
	var swapped, apart hw.Minutes
	openings := 0
	for k := range kinds {
		mask := key.changed & s.maskOf(k)
		if mask == 0 {
			continue
		}
		openings++
		apart += s.openMachine(openingKey{mask, key.removed & mask, key.pack}).minutes
	}
	for i := range s.places {
		if key.changed&(1<<i) != 0 {
			swapped += s.places[i].swap
			swaps = append(swaps, fmt.Sprintf("%s %s", s.places[i].id, s.places[i].swap.Shown()))
		}
	}
	if len(swaps) > 0 {
		out = append(out, Term{"Swaps", strings.Join(swaps, " + ") + fmt.Sprintf(" = %s min", swapped.Shown())})
	}
	for _, i := range s.service {
		out = append(out, Term{s.ch.Services[i].Says(), fmt.Sprintf("%s min", s.ch.Services[i].Minutes.Or(0))})
	}
	out = append(out, Term{"In all", fmt.Sprintf("%s min", open.minutes.Shown())})
	if openings < 2 || len(s.service) > 0 {
		return out, 0
	}
	saved := apart - open.minutes
	return append(out, Term{"One opening", fmt.Sprintf("apart it takes %s min: %s min saved", apart.Shown(), saved.Shown())}), saved
}

func (s *search) explainCost(o *Option) []Term {
	var out []Term
	for _, b := range o.Buy {
		for i := range s.parts {
			if p := &s.parts[i]; p.ID == b.Part {
				out = append(out, Term{p.Name, fmt.Sprintf("%d × %s = %s", b.Quantity, s.money(p.PriceCents), s.money(b.Cents))})
			}
		}
	}
	services := ""
	if cents, ok := o.ServicesCents.Get(); ok {
		services = " + " + s.money(cents) + " for services"
	}
	out = append(out, Term{"Labour", fmt.Sprintf("%s min × %s an hour ÷ 60 = %s", o.Minutes, s.money(s.rate), s.money(o.LabourCents))},
		Term{"In all", fmt.Sprintf("%s + %s%s = %s", s.money(o.PartsCents), s.money(o.LabourCents), services, s.money(o.TotalCents))})
	return out
}
