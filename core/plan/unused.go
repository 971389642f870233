package plan

import (
	"cmp"
	"fmt"

	"yembo/core/hw"
	"yembo/core/power"
	"yembo/core/wireless"
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

// whyUnused says why a part that fits is in no option: it is dearer than the budget, with its work if need be, gives no
// more than is there, or has no better option with it.
func (s *search) whyUnused(k int, x *hw.Part) string {
	if budget, limited := s.in.Request.BudgetCents.Get(); limited {
		if x.PriceCents > budget {
			return fmt.Sprintf("%s alone; the budget is %s", s.money(x.PriceCents), s.money(budget))
		}
		if least, known := s.leastWith(k, x); known && least > budget {
			return fmt.Sprintf("%s with the work for it; the budget is %s", s.money(least), s.money(budget))
		}
	}
	if why := s.noMore(k, x); why != "" {
		return why
	}
	return "it fits; no option with it is better: others do as much for no more money, work, risk and time, or what it needs " +
		"besides is not available"
}

// leastWith is what a part costs with the work at the place of its kind that is reached soonest, cents.
func (s *search) leastWith(k int, x *hw.Part) (least int64, known bool) {
	for _, pi := range s.kindOf[k] {
		if s.places[pi].keep {
			continue
		}
		pack := noPack
		if k == kBattery {
			pack = power.OptionFor(s.ch, x.Battery.PartNumber)
		}
		open := s.openMachine(openingKey{changed: 1 << pi, pack: s.packKey(pack)})
		if cents := x.PriceCents + open.minutes.Labour(s.rate) + s.servicesCents; !known || cents < least {
			least, known = cents, true
		}
	}
	return least, known
}

// noMore says that a part gives no more than is in the machine, "" where it may.
func (s *search) noMore(k int, x *hw.Part) string {
	switch k {
	case kMemory:
		gb := x.Memory.Capacity.Or(0)
		total := s.soldered
		for _, pi := range s.kindOf[kMemory] {
			p, was := &s.places[pi], hw.Dec(0)
			if p.occupied {
				was = s.m.Fitted.Memory[p.fitted].Module.Capacity.Or(0)
			}
			if p.keep {
				total += was
			} else {
				total += max(was, gb)
			}
		}
		if total <= s.todayMemory {
			return fmt.Sprintf("%s GB a module: with it in every socket %s GB, no more than is in it", gb, total)
		}
	case kDrive:
		gb, full, small := x.Drive.Capacity.Or(0), "", ""
		for _, pi := range s.kindOf[kDrive] {
			p := &s.places[pi]
			if p.keep {
				continue
			}
			if !p.occupied || p.optical {
				return ""
			}
			old := &s.m.Fitted.Drives[p.fitted]
			switch used := old.UsedGB.Or(0); {
			case gb < used:
				full = fmt.Sprintf("%s GB; %s GB are in use on the drive in %s", gb, used, p.id)
			case old.Fails() || gb > old.Drive.Capacity.Or(0):
				return ""
			default:
				small = fmt.Sprintf("%s GB, no more than what it would replace", gb)
			}
		}
		return cmp.Or(small, full)
	case kBattery:
		if run := power.RuntimeWith(&s.m.Usage, s.presentWh, s.packWh(x)); run != nil && s.todayRuntime != nil &&
			run.Cmp(s.todayRuntime) <= 0 {
			return "it lasts no longer than the pack in it"
		}
	case kWireless:
		there := s.practice.AccessPoint
		if wireless.Effective(wireless.Rank(x.Wireless.Standard), there) <= wireless.Effective(s.todayWifi, there) {
			return "it is no faster there than the card in it"
		}
	}
	return ""
}
