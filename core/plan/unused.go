package plan

import (
	"fmt"

	"yembo/core/hw"
)

// Unused says of each part of the kinds that are wanted that fits and is in no option why it is in none: nothing
// disappears without a reason. What is ruled out everywhere stands in the plan's own list.
func (e *Explainer) Unused(p *Plan) []hw.Verdict {
	s := e.listed
	if len(p.Options) == 0 {
		return nil
	}
	said := map[string]bool{}
	for _, r := range p.Rejected {
		said[r.Part] = true
	}
	for i := range p.Options {
		for _, b := range p.Options[i].Buy {
			said[b.Part] = true
		}
	}
	var out []hw.Verdict
	for i := range s.parts {
		x := &s.parts[i]
		k := kindIndex(x.Kind)
		if k == kNone || !s.wanted[k] || said[x.ID] || !s.takesPart(x) {
			continue
		}
		out = append(out, hw.Verdict{Place: x.ID, Text: s.whyUnused(k, x)})
	}
	return out
}

func (s *search) whyUnused(k int, x *hw.Part) string {
	if budget, limited := s.in.Request.BudgetCents.Get(); limited && x.PriceCents > budget {
		return fmt.Sprintf("%s alone; the budget is %s", s.money(x.PriceCents), s.money(budget))
	}
	if k == kDrive {
		gb, full := x.Drive.Capacity.Or(0), false
		for _, pi := range s.kindOf[kDrive] {
			p := &s.places[pi]
			full = p.occupied && !p.optical
			if !full || p.keep {
				continue
			}
			old := &s.m.Fitted.Drives[p.fitted]
			if used := old.UsedGB.Or(0); gb < used {
				return fmt.Sprintf("%s GB; %s GB are in use on the drive in %s", gb, used, p.id)
			}
		}
		if full && gb <= s.todayStorage {
			return fmt.Sprintf("%s GB, no more than is in it", gb)
		}
	}
	return "it fits; other parts do as much for no more money, work, risk and time"
}
