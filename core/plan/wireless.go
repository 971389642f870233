package plan

import (
	"context"
	"math/big"
	"strconv"

	"yembo/core/hw"
	"yembo/core/wireless"
)

// wirelessKind is the wireless card; its standards count in their order.
type wirelessKind struct{ plain }

func (wirelessKind) names() names {
	return names{goal: "wireless", part: hw.KindWireless, says: "wireless", part1: "wireless card", at: "/fitted/wireless",
		untold: "the wireless card is not known"}
}

func (wirelessKind) asked(g *hw.Goals) bool         { return g.Wireless.IsKnown() }
func (wirelessKind) only(g *hw.Goals) hw.Goals      { return hw.Goals{Wireless: g.Wireless} }
func (wirelessKind) meets(m *Meets) *hw.Maybe[bool] { return &m.Wireless }

func (wirelessKind) readToday(s *search) {
	if w := s.m.Fitted.Wireless; w != nil {
		s.todayWifi = wireless.Rank(w.Standard.Or(""))
	}
}

func (wirelessKind) reached(s *search, x *candidate) bool {
	goal, asked := s.goals.Wireless.Get()
	return asked && x.wifi >= wireless.Rank(goal)
}

// share is of no number.
func (wirelessKind) share(*search, *candidate) (*big.Rat, hw.Maybe[hw.Dec]) {
	return nil, hw.Maybe[hw.Dec]{}
}

func (wirelessKind) asItIs(s *search) candidate {
	x := s.untouched(kWireless)
	if x.wifi = s.todayWifi; s.named[kWireless] {
		x.gain = int64(s.todayWifi)
	}
	return x
}

func (wirelessKind) judge(s *search, part int, known *judged) []hw.Verdict {
	c := *s.parts[part].Wireless
	c.Standard = ""
	return recall(known.wireless, c, func() []hw.Verdict {
		out := make([]hw.Verdict, 0, len(s.ch.Slots))
		for j := range s.ch.Slots {
			out = append(out, wireless.Fit(s.ch, j, s.parts[part].Wireless, part))
		}
		return orNoPlace(out, s.ch.Slots == nil, "slots", "M.2 slot")
	})
}

func (wirelessKind) sits(s *search, _ *place) string {
	return string(s.m.Fitted.Wireless.Standard.Or("wireless card"))
}

func (wirelessKind) falls(_ *Option, g *hw.Goals) string {
	return "wireless below " + hw.Standards.Says(g.Wireless.Or(""))
}

// candidates lists the cards that can be fitted, in one or more slots.
func (wirelessKind) candidates(ctx context.Context, s *search) ([]group, error) {
	none := wirelessKind{}.asItIs(s)
	c := s.collector(ctx)
	choice := s.same(kWireless)
	for i, pi := range s.kindOf[kWireless] {
		p := &s.places[pi]
		for part := range s.parts {
			card := s.parts[part].Wireless
			if !s.wanted[kWireless] || card == nil || !s.verdictAt(part, pi).Fits() {
				continue
			}
			std := wireless.Rank(card.Standard)
			if std <= s.todayWifi && s.plentiful {
				continue
			}
			choice[i] = int32(part)
			x := candidate{pack: noPack, changed: 1 << pi, used: none.used | 1<<pi, wifi: std, gain: int64(std),
				choice: choice,
				cost:   int64(s.parts[part].Purchases(1)) * s.parts[part].PriceCents,
				days:   s.daysFor(&s.parts[part], 1)}
			if !p.occupied {
				x.fresh = 1 << pi
			}
			if s.parts[part].Pulled() {
				x.flags |= fPulled
			}
			s.cardNeeds(&x.needs, p, card)
			ap := s.practice.AccessPoint
			x.nearer = wireless.Effective(std, ap) > wireless.Effective(s.todayWifi, ap)
			if !s.clash(x.fresh, x.used) {
				c.add(x)
			}
		}
		choice[i] = unchanged
	}
	return c.result(none), nil
}

// cardNeeds adds what a card needs to be held in a slot, unless one is there.
func (s *search) cardNeeds(n *needs, p *place, card *hw.Card) {
	if !p.occupied {
		s.need(n, s.ch.Slots[p.Index].Lengths[strconv.Itoa(card.Length.Or(0))])
	}
}

func (wirelessKind) after(s *search, o *after, f *found) {
	wl := f.parts[kWireless]
	if wl.changed == 0 {
		if w := s.m.Fitted.Wireless; w != nil {
			o.wireless = &WirelessState{w.Slot, w.Standard}
		}
		return
	}
	for i, c := range wl.choice {
		if c >= remove {
			continue
		}
		p := &s.places[s.kindOf[kWireless][i]]
		card := s.parts[c].Wireless
		o.wireless = &WirelessState{p.id, hw.Known(card.Standard)}
		ap := s.practice.AccessPoint
		if wireless.Effective(wl.wifi, ap) <= wireless.Effective(s.todayWifi, ap) {
			o.warn(hw.CodeWirelessNoGain, p.id, "the card has %s, but %s has %s: nothing gets faster",
				hw.Standards.Says(card.Standard), s.in.accessPoint(), hw.Standards.Says(ap.Or("the same")))
		}
	}
}

func (wirelessKind) own(o *own, choice []int32) *candidate {
	s := o.s
	c := &candidate{pack: noPack, choice: choice, wifi: s.todayWifi, used: s.usedNow & s.maskOf(kWireless)}
	for i, pi := range s.kindOf[kWireless] {
		if c.choice[i] >= remove {
			continue
		}
		c.changed |= 1 << pi
		c.used |= 1 << pi
		if !s.places[pi].occupied {
			c.fresh |= 1 << pi
		}
		card := s.parts[c.choice[i]].Wireless
		c.wifi = wireless.Rank(card.Standard)
		s.cardNeeds(&c.needs, &s.places[pi], card)
	}
	o.cost(c)
	return c
}
