// Package wireless checks wireless cards: what enters which socket, and whether a
// newer standard gains anything (docs/rules.md, Battery and wireless).
package wireless

import (
	"slices"
	"strings"

	"yembo/core/hw"
	"yembo/core/storage"
)

// Rank is a standard's place in the order, from 1; 0 for none or not known.
func Rank(standard hw.Standard) int { return hw.Standards.Index(standard) + 1 }

// Effective is the standard that is of use: the lower of card and access point,
// where that is known.
func Effective(card int, accessPoint hw.Maybe[hw.Standard]) int {
	if ap, ok := accessPoint.Get(); ok {
		return min(card, Rank(ap))
	}
	return card
}

// Fit checks a card in a slot; part is the card's index in the parts list.
func Fit(ch *hw.Chassis, slot int, c *hw.Card, part int) hw.Verdict {
	s := &ch.Slots[slot]
	v := fit(s, hw.Where{List: "slots", Index: slot, PartIndex: part, Body: "wireless"}, c)
	v.Place = s.ID
	if v.Code == hw.CodeUnknown && strings.HasPrefix(v.Fact, "chassis:") {
		v.Step = s.Reach
	}
	return v
}

func fit(s *hw.Slot, at hw.Where, c *hw.Card) hw.Verdict {
	if s.Purpose != hw.ForWireless {
		return hw.Refuse(hw.CodeM2Purpose, "a wireless card; slot %s is %s", s.ID, hw.Purposes.Says(s.Purpose))
	}
	if v := storage.Mechanical(s, at, c.Key, c.Length); !v.Fits() {
		return v
	}
	if s.Protocols == nil {
		return hw.Unknown(at.Chassis("protocols"), "which interfaces slot %s has is not known", s.ID)
	}
	if !slices.Contains(s.Protocols, c.Interface) {
		return hw.Refuse(hw.CodeM2Protocol, "the card speaks %s; slot %s has %s", hw.Interfaces.Says(c.Interface), s.ID,
			hw.SaysAll(s.Protocols))
	}
	if s.Antennas == nil {
		return hw.Unknown(at.Chassis("antennas"), "how many antennas lead to slot %s is not known", s.ID)
	}
	posts, ok := c.Antennas.Get()
	if !ok {
		return hw.Unknown(at.Part("antennas"), "how many antenna posts this card has is not known")
	}
	if posts > len(s.Antennas) {
		return hw.Refuse(hw.CodeWirelessAntennas, "the card has %d antenna posts; %d antennas lead to slot %s", posts,
			len(s.Antennas), s.ID)
	}
	if s.AcceptsOnly != nil {
		if c.PartNumber == "" {
			return hw.Unknown(at.Part("part_number"),
				"the firmware takes only %s; the part number of this card is not known",
				strings.Join(s.AcceptsOnly, ", "))
		}
		if !slices.Contains(s.AcceptsOnly, c.PartNumber) {
			return hw.Refuse(hw.CodeWirelessList, "the firmware takes only %s", strings.Join(s.AcceptsOnly, ", "))
		}
	}
	return hw.Verdict{}
}
