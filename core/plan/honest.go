package plan

import (
	"fmt"

	"yembo/core/hw"
	"yembo/core/wireless"
)

// Honest says what comes before any option that costs money: what gains nothing, and what
// is not known until something is opened.
func Honest(in Input, p *Plan) []string {
	var out []string
	ch, m := in.Chassis, in.Machine
	if want, ok := in.Request.Goals.Wireless.Get(); ok {
		if ap, told := in.Request.Practice.AccessPoint.Get(); told && wireless.Rank(ap) < wireless.Rank(want) {
			out = append(out, fmt.Sprintf("The access point has %s: a card with %s gains nothing until it is changed.",
				hw.Standards.Says(ap), hw.Standards.Says(want)))
		}
	}
	for i := range m.Fitted.Drives {
		f := &m.Fitted.Drives[i]
		if k := ch.SlotByID(f.Place); k >= 0 {
			s := &ch.Slots[k]
			slot, okS := s.Gen.Get()
			drive, okD := f.Drive.Gen.Get()
			if okS && okD && f.Drive.Interface == hw.NVMe && drive >= slot && in.Request.Goals.StorageGB.IsKnown() {
				out = append(out, fmt.Sprintf("A newer generation than %d gains nothing in %s: the slot itself is "+
					"generation %d.", slot, s.ID, slot))
			}
		}
		used, okU := f.UsedGB.Get()
		size, okG := f.Drive.Capacity.Get()
		if okU && okG && size > 0 && in.Request.Goals.StorageGB.IsKnown() {
			words := fmt.Sprintf("The drive in %s is %d %% full", f.Place, used*100/size)
			if grows, ok := m.Usage.DiskGrowth.Get(); ok && grows > 0 && size > used {
				words += fmt.Sprintf(" and fills by %s GB a month: full in %d months", grows, (size-used)/grows)
			}
			out = append(out, words+".")
		}
	}
	said := map[string]bool{}
	for _, r := range p.Rejected {
		if r.Code != "unknown" || r.Step == "" || said[r.Step+r.Place] {
			continue
		}
		said[r.Step+r.Place] = true
		if i := ch.StepByID(r.Step); i >= 0 && len(said) <= 3 {
			out = append(out, fmt.Sprintf("Not known of %s until this is done: %s.", r.Place,
				hw.LowerFirst(ch.Steps[i].Does())))
		}
	}
	return out
}

// BothWays says, where two ways are sound, what each costs and gains, in two sentences.
func BothWays(in Input, p *Plan) []string {
	var out []string
	cur := in.Parts.Currency
	cheapest := func(is func(o *Option) bool) *Option {
		for i := range p.Options {
			if o := &p.Options[i]; is(o) && len(o.Missing) == 0 {
				return o
			}
		}
		return nil
	}
	memoryDoes := func(o *Option, do string) bool {
		for _, a := range o.Actions {
			if a.Do == do && in.Chassis.SocketByID(a.Place) >= 0 {
				return true
			}
		}
		return false
	}
	keep := cheapest(func(o *Option) bool { return memoryDoes(o, DoAdd) && !memoryDoes(o, DoReplace) })
	pair := cheapest(func(o *Option) bool {
		return memoryDoes(o, DoReplace) && o.Memory != nil && o.Memory.Mode.Or("") == "dual"
	})
	if keep != nil && pair != nil && keep.ID != pair.ID {
		line := keep.Memory.Words()
		other := pair.Memory.Words()
		out = append(out, fmt.Sprintf("Keep and add (%s): %s. Replace with equal ones (%s): %s; by practice %s.",
			hw.Money(cur, keep.TotalCents), line,
			hw.Money(cur, pair.TotalCents), other, hw.Pairings.Says(in.Request.Practice.Pairing.Or(hw.PairAny))))
	}
	inBay := func(o *Option, bay bool) bool {
		for _, a := range o.Actions {
			if a.Part == "" || a.Do == DoKeep {
				continue
			}
			if i := in.Chassis.BayByID(a.Place); i >= 0 && bay {
				return true
			}
			if i := in.Chassis.SlotByID(a.Place); i >= 0 && !bay && in.Chassis.Slots[i].Purpose == hw.ForStorage {
				return true
			}
		}
		return false
	}
	bay, slot := cheapest(func(o *Option) bool { return inBay(o, true) && !inBay(o, false) }),
		cheapest(func(o *Option) bool { return inBay(o, false) && !inBay(o, true) })
	if bay != nil && slot != nil {
		out = append(out, fmt.Sprintf("A drive in the bay: %s and %s min, and the bay is taken. In an M.2 slot: %s "+
			"and %s min, and the bay stays free for a pack or a second drive.",
			hw.Money(cur, bay.TotalCents), bay.Minutes, hw.Money(cur, slot.TotalCents), slot.Minutes))
	}
	if o := cheapest(func(o *Option) bool { return o.Migration != nil }); o != nil {
		minutes := "its minutes are not known"
		if m, ok := o.Migration.Minutes.Get(); ok {
			minutes = "about " + m.String() + " min beside the bench"
		}
		if o.Migration.How == hw.Clone {
			out = append(out, fmt.Sprintf("Copying the boot drive keeps everything as it was, %s. A clean "+
				"installation takes longer and leaves old faults behind; the practice says copy.", minutes))
		} else {
			out = append(out, "A clean installation leaves old faults behind and needs the customer's programs and "+
				"data brought back. A copy would keep everything as it was; here it is not made.")
		}
	}
	l := in.Chassis.Mem().Limits
	maker, okM := l.Maker.Get()
	controller, okC := l.Controller.Get()
	if okM && okC && controller > maker && in.Request.Goals.MemoryGB.IsKnown() {
		proven := ""
		if gb, ok := l.Proven.Get(); ok {
			proven = fmt.Sprintf(", %s GB were proven", gb)
		}
		out = append(out, fmt.Sprintf("To the maker's %s GB nothing is at risk. The controller takes %s GB%s: more "+
			"room, and the maker may refuse help; by practice %s.", maker, controller, proven,
			hw.LimitPractices.Says(in.Request.Practice.MemoryLimit.Or(hw.LimitMaker))))
	}
	return out
}

// Words says how much memory there is and how it lies on its channels: "32 GB, all
// interleaved".
func (m *MemoryState) Words() string {
	if m == nil {
		return "not told"
	}
	line := m.TotalGB.String() + " GB"
	switch m.Mode.Or("") {
	case "dual":
		return line + ", all interleaved"
	case "asymmetric":
		return line + fmt.Sprintf(", %s interleaved, %s single", m.Interleaved.Or(0), m.Single.Or(0))
	case "single":
		return line + ", on one channel"
	}
	return line + ", channels not yet known"
}
