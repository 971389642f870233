// Package wireless checks wireless cards: what enters which socket, and whether a
// newer standard gains anything (handbook 6).
package wireless

import (
	"strings"

	"yembo/core/hw"
	"yembo/core/storage"
)

// Codes.
const (
	CodeAntennas     = "wireless.antennas"
	CodeFirmwareList = "wireless.firmware_list"
	CodeNoGain       = "wireless.no_gain"
)

// Standards in their order; none comes before them.
var Standards = []string{"wifi4", "wifi5", "wifi6", "wifi6e", "wifi7"}

// Rank is a standard's place in the order, from 1; 0 for none or not known.
func Rank(standard string) int {
	for i, s := range Standards {
		if s == standard {
			return i + 1
		}
	}
	return 0
}

// Effective is the standard that is of use: the lower of card and access point,
// where that is known.
func Effective(card int, accessPoint hw.Maybe[string]) int {
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
	if s.Purpose != "wireless" {
		return hw.Refuse(storage.CodePurpose, "a wireless card; slot %s is for %s", s.ID, s.Purpose)
	}
	if v := storage.Mechanical(s, at, c.Key, c.Length); !v.Fits() {
		return v
	}
	if s.Protocols == nil {
		return hw.Unknown(at.Chassis("protocols"), "which interfaces slot %s has is not known", s.ID)
	}
	if !has(s.Protocols, c.Interface) {
		return hw.Refuse(storage.CodeProtocol, "the card speaks %s; slot %s has %s", c.Interface, s.ID, strings.Join(s.Protocols, ", "))
	}
	if s.Antennas == nil {
		return hw.Unknown(at.Chassis("antennas"), "how many antennas lead to slot %s is not known", s.ID)
	}
	posts, ok := c.Antennas.Get()
	if !ok {
		return hw.Unknown(at.Part("antennas"), "how many antenna posts this card has is not known")
	}
	if posts > len(s.Antennas) {
		return hw.Refuse(CodeAntennas, "the card has %d antenna posts; %d antennas lead to slot %s", posts, len(s.Antennas), s.ID)
	}
	if s.AcceptsOnly != nil {
		if c.PartNumber == "" {
			return hw.Unknown(at.Part("part_number"), "the firmware takes only %s; the part number of this card is not known", strings.Join(s.AcceptsOnly, ", "))
		}
		if !has(s.AcceptsOnly, c.PartNumber) {
			return hw.Refuse(CodeFirmwareList, "the firmware takes only %s", strings.Join(s.AcceptsOnly, ", "))
		}
	}
	return hw.Verdict{}
}

func has(list []string, want string) bool {
	for _, s := range list {
		if s == want {
			return true
		}
	}
	return false
}
