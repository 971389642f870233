package plan

import (
	"fmt"
	"slices"

	"yembo/core/hw"
)

// BothWays says, where two ways are sound, what each costs and gains, in two sentences: each way by the best option of
// this plan that goes it.
func BothWays(in Input, p *Plan) []string {
	var out []string
	cur := in.Parts.Currency
	if words := memoryWays(in, p); words != "" {
		out = append(out, words)
	}
	cheapest := func(is func(o *Option) bool) *Option {
		for i := range p.Options {
			if o := &p.Options[i]; is(o) && len(o.Missing) == 0 {
				return o
			}
		}
		return nil
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
				"installation takes longer and leaves old faults behind; shop rule: clone.", minutes))
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
			"room, and the maker may refuse help; shop rule: %s.", maker, controller, proven,
			hw.LimitPractices.Says(in.Request.Practice.MemoryLimit.Or(hw.LimitMaker))))
	}
	return out
}

// memoryWays sets keeping and adding beside replacing by equal ones, memory alone beside memory alone: of each way the
// option that reaches the wish for the least money with its risk counted as money; where none does, the largest, and
// that it does not reach it.
func memoryWays(in Input, p *Plan) string {
	goal, asked := in.Request.Goals.MemoryGB.Get()
	if !asked {
		return ""
	}
	worth := in.Request.Practice.RiskCents.Or(hw.UsualRiskCents)
	best := func(goes func(o *Option) bool) *Option {
		var found *Option
		for i := range p.Options {
			o := &p.Options[i]
			if o.Memory == nil || len(o.Missing) > 0 || !memoryAlone(in, o) || !goes(o) {
				continue
			}
			switch {
			case found == nil:
			case o.Memory.TotalGB >= goal && found.Memory.TotalGB >= goal:
				if o.WithRisk(worth) >= found.WithRisk(worth) {
					continue
				}
			case o.Memory.TotalGB <= found.Memory.TotalGB:
				continue
			}
			found = o
		}
		return found
	}
	does := func(o *Option, do string) bool {
		return slices.ContainsFunc(o.Actions, func(a Action) bool { return a.Do == do && in.Chassis.SocketByID(a.Place) >= 0 })
	}
	keep := best(func(o *Option) bool { return does(o, DoAdd) && !does(o, DoReplace) && !does(o, DoRemove) })
	equal := best(func(o *Option) bool { return does(o, DoReplace) && o.Memory.Mode.Or("") == "dual" })
	if keep == nil || equal == nil || keep.Memory.TotalGB < goal && equal.Memory.TotalGB < goal {
		return ""
	}
	says := func(o *Option) string {
		words := fmt.Sprintf("%s, %s", o.Memory.Words(), hw.Money(in.Parts.Currency, o.TotalCents))
		if n := o.Risk.Points; n > 0 {
			words += ", " + hw.Count(n, "risk point", "risk points")
		}
		if o.Memory.TotalGB < goal {
			words += fmt.Sprintf(", which does not reach the %s GB", goal)
		}
		return words
	}
	return fmt.Sprintf("Memory alone, both ways. Keep and add: %s. Replace with equal ones: %s. Shop rule: %s.", says(keep),
		says(equal), hw.Pairings.Says(in.Request.Practice.Pairing.Or(hw.PairAny)))
}

// memoryAlone reports whether an option changes nothing but memory.
func memoryAlone(in Input, o *Option) bool {
	return !slices.ContainsFunc(o.Actions, func(a Action) bool { return a.Do != DoKeep && in.Chassis.SocketByID(a.Place) < 0 })
}
