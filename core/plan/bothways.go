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
	if words := driveWays(in, p); words != "" {
		out = append(out, words)
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
	inSocket := func(place string) bool { return in.Chassis.SocketByID(place) >= 0 }
	reached := func(o *Option) (hw.Dec, bool) {
		if o.Memory == nil {
			return 0, false
		}
		return o.Memory.TotalGB, true
	}
	does := func(o *Option, do string) bool {
		return slices.ContainsFunc(o.Actions, func(a Action) bool { return a.Do == do && inSocket(a.Place) })
	}
	keep := bestWay(in, p, goal, reached, inSocket, func(o *Option) bool {
		return does(o, DoAdd) && !does(o, DoReplace) && !does(o, DoRemove)
	})
	equal := bestWay(in, p, goal, reached, inSocket, func(o *Option) bool {
		return does(o, DoReplace) && o.Memory.Mode.Or("") == "dual"
	})
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

// driveWays sets a drive in the bay beside one in an M.2 slot, where nothing else changes and both reach the wish.
func driveWays(in Input, p *Plan) string {
	goal, asked := in.Request.Goals.StorageGB.Get()
	if !asked {
		return ""
	}
	ch := in.Chassis
	inBay := func(place string) bool { return ch.BayByID(place) >= 0 }
	inSlot := func(place string) bool {
		i := ch.SlotByID(place)
		return i >= 0 && ch.Slots[i].Purpose == hw.ForStorage
	}
	reached := func(o *Option) (hw.Dec, bool) {
		if o.Storage == nil {
			return 0, false
		}
		return o.Storage.TotalGB, true
	}
	way := func(is func(place string) bool) *Option {
		o := bestWay(in, p, goal, reached, is, func(o *Option) bool {
			return slices.ContainsFunc(o.Actions, func(a Action) bool { return a.Part != "" && a.Do != DoKeep })
		})
		if o == nil || o.Storage.TotalGB < goal {
			return nil
		}
		return o
	}
	bay, slot := way(inBay), way(inSlot)
	if bay == nil || slot == nil {
		return ""
	}
	cur := in.Parts.Currency
	return fmt.Sprintf("A drive in the bay: %s and %s min, and the bay is taken. In an M.2 slot: %s and %s min, and the bay "+
		"stays free for a pack or a second drive.", hw.Money(cur, bay.TotalCents), bay.Minutes, hw.Money(cur, slot.TotalCents),
		slot.Minutes)
}

// bestWay is of the options that go a way and change nothing but at such places the one that reaches the goal for the
// least money with its risk counted as money; where none does, the one that comes furthest. It is nil where no option
// goes that way.
func bestWay(in Input, p *Plan, goal hw.Dec, reached func(o *Option) (hw.Dec, bool), at func(place string) bool,
	goes func(o *Option) bool) *Option {
	worth := in.Request.Practice.RiskCents.Or(hw.UsualRiskCents)
	var found *Option
	var most hw.Dec
	for i := range p.Options {
		o := &p.Options[i]
		gb, known := reached(o)
		elsewhere := slices.ContainsFunc(o.Actions, func(a Action) bool { return a.Do != DoKeep && !at(a.Place) })
		if !known || len(o.Missing) > 0 || elsewhere || !goes(o) {
			continue
		}
		switch {
		case found == nil:
		case gb >= goal && most >= goal:
			if o.WithRisk(worth) >= found.WithRisk(worth) {
				continue
			}
		case gb <= most:
			continue
		}
		found, most = o, gb
	}
	return found
}
