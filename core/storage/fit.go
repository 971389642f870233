package storage

import (
	"slices"
	"sort"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// IsBayDrive reports whether a drive goes into a bay rather than an M.2 slot.
func IsBayDrive(d *hw.Drive) bool { return d.Form != "" }

// IsOptical reports an optical drive: it stores nothing that a plan counts.
func IsOptical(d *hw.Drive) bool { return d.Form == hw.FormOptical }

// Mechanical checks what every M.2 module shares: the key and the length. at names
// the slot and the part's body for facts that are not known.
func Mechanical(slot *hw.Slot, at hw.Where, key hw.Maybe[string], length hw.Maybe[int]) hw.Verdict {
	socketKey, ok := slot.Key.Get()
	if !ok {
		return hw.Unknown(at.Chassis("key"), "the key of slot %s is not known", slot.ID)
	}
	moduleKey, ok := key.Get()
	if !ok {
		return hw.Unknown(at.Part("key"), "the key of this module is not known; slot %s has key %s", slot.ID, socketKey)
	}
	if !KeyEnters(moduleKey, socketKey) {
		return hw.Refuse(hw.CodeM2Key, "key %s does not enter slot %s, which has key %s", moduleKey, slot.ID, socketKey)
	}
	if slot.Lengths == nil {
		return hw.Unknown(at.Chassis("lengths"), "which lengths slot %s holds is not known", slot.ID)
	}
	mm, ok := length.Get()
	if !ok {
		return hw.Unknown(at.Part("length_mm"), "the length of this module is not known; slot %s holds %s", slot.ID,
			lengthWords(slot))
	}
	how, taken := slot.Lengths[strconv.Itoa(mm)]
	if !taken {
		return hw.Refuse(hw.CodeM2Length, "needs %d mm, slot %s holds %s", mm, slot.ID, lengthWords(slot))
	}
	if how == hw.HeldByNone {
		return hw.Refuse(hw.CodeM2Length, "%d mm long: nothing holds it in slot %s, which holds %s", mm, slot.ID,
			lengthWords(slot))
	}
	return hw.Verdict{}
}

// KeyEnters reports whether a module with that key text enters a socket: all the
// socket's keys must be among its own ("B+M" enters B and M).
func KeyEnters(module, socket string) bool {
	own := strings.Split(module, "+")
	for _, want := range strings.Split(socket, "+") {
		found := false
		for _, k := range own {
			found = found || k == want
		}
		if !found {
			return false
		}
	}
	return true
}

func lengthWords(slot *hw.Slot) string {
	var mm []int
	for text, how := range slot.Lengths {
		if n, err := strconv.Atoi(text); err == nil && how != hw.HeldByNone {
			mm = append(mm, n)
		}
	}
	if len(mm) == 0 {
		return "no length"
	}
	sort.Ints(mm)
	words := make([]string, len(mm))
	for i, n := range mm {
		words[i] = strconv.Itoa(n)
	}
	return strings.Join(words, ", ") + " mm"
}

// FitSlot checks a drive in an M.2 slot; part is the drive's index in the parts list.
func FitSlot(ch *hw.Chassis, slot int, d *hw.Drive, part int) hw.Verdict {
	s := &ch.Slots[slot]
	v := fitSlot(s, hw.Where{List: "slots", Index: slot, PartIndex: part, Body: "drive"}, d)
	return place(v, s.ID, s.Reach)
}

// place fills in where a verdict was reached and, for an unknown fact of the
// chassis, the step that exposes it.
func place(v hw.Verdict, id, reach string) hw.Verdict {
	v.Place = id
	if v.Code == hw.CodeUnknown && strings.HasPrefix(v.Fact, "chassis:") {
		v.Step = reach
	}
	return v
}

func fitSlot(s *hw.Slot, at hw.Where, d *hw.Drive) hw.Verdict {
	if s.Purpose != hw.ForStorage {
		return hw.Refuse(hw.CodeM2Purpose, "a drive; slot %s is %s", s.ID, hw.Purposes.Says(s.Purpose))
	}
	if v := Mechanical(s, at, d.Key, d.Length); !v.Fits() {
		return v
	}
	if s.Protocols == nil {
		return hw.Unknown(at.Chassis("protocols"), "whether slot %s takes NVMe or SATA is not known", s.ID)
	}
	if !slices.Contains(s.Protocols, d.Interface) {
		only := " only"
		if len(s.Protocols) == 0 {
			only = ""
		}
		return hw.Refuse(hw.CodeM2Protocol, "an %s drive; slot %s takes %s%s", hw.Interfaces.Says(d.Interface), s.ID,
			hw.SaysAll(s.Protocols), only)
	}
	if v := refused(s, at, d); !v.Fits() {
		return v
	}
	v := thickness(s, at, d)
	if v.Fits() && s.Refuses == nil {
		v.Defaulted = append(v.Defaulted, at.Field("refuses"))
	}
	return v
}

func refused(s *hw.Slot, at hw.Where, d *hw.Drive) hw.Verdict {
	var unsure hw.Verdict
	for _, what := range s.Refuses {
		switch {
		case what == hw.RefusesSATA && d.Interface == hw.SATA, what == hw.RefusesCache && d.CacheModule.Or(false):
			return hw.Refuse(hw.CodeM2Refused, "slot %s is marked as refusing %s", s.ID, hw.Refusals.Says(what))
		case what == hw.RefusesX2 && d.Interface == hw.NVMe:
			lanes, ok := d.Lanes.Get()
			if !ok {
				// Another refusal may be sure.
				unsure = hw.Unknown(at.Part("lanes"),
					"slot %s refuses two-lane drives; how many lanes this one has is not known", s.ID)
			}
			if lanes == 2 {
				return hw.Refuse(hw.CodeM2Refused, "2 lanes; slot %s is marked as refusing two-lane drives", s.ID)
			}
		}
	}
	return unsure
}

// slimTop is the component height that fits a slot whose room nobody measured: a
// single-sided module of at most 1.5 mm.
const slimTop hw.Dec = 1_500_000

func thickness(s *hw.Slot, at hw.Where, d *hw.Drive) hw.Verdict {
	var unsure hw.Verdict
	var defaulted []string
	doubt := func(v hw.Verdict) {
		if unsure.Fits() {
			unsure = v
		}
	}
	top, hasTop := d.Top.Get()
	if room, measured := s.MaxTop.Get(); measured {
		if hasTop && top > room {
			return hw.Refuse(hw.CodeM2Thickness, "needs %s mm above the module; slot %s has %s mm", top, s.ID, room)
		}
		if !hasTop {
			doubt(hw.Unknown(at.Part("top_mm"), "its height is not known; slot %s has %s mm above the module", s.ID,
				room))
		}
	} else {
		defaulted = append(defaulted, at.Field("max_top_mm"))
		if !hasTop {
			doubt(hw.Unknown(at.Part("top_mm"), "neither its height nor the room above the module in slot %s is known",
				s.ID))
		} else if top > slimTop {
			doubt(hw.Unknown(at.Chassis("max_top_mm"),
				"needs %s mm above the module; the room in slot %s is not measured", top, s.ID))
		}
	}
	bottom, hasBottom := d.Bottom.Get()
	if room, measured := s.MaxBottom.Get(); measured {
		if hasBottom && bottom > room {
			return hw.Refuse(hw.CodeM2Thickness, "needs %s mm below the module; slot %s has %s mm", bottom, s.ID, room)
		}
		if !hasBottom {
			doubt(hw.Unknown(at.Part("bottom_mm"), "its height below the board is not known; slot %s has %s mm there",
				s.ID, room))
		}
	} else {
		defaulted = append(defaulted, at.Field("max_bottom_mm"))
		if bottom > 0 {
			doubt(hw.Unknown(at.Chassis("max_bottom_mm"),
				"needs %s mm below the module; the room in slot %s is not measured", bottom, s.ID))
		}
	}
	if unsure.Fits() {
		unsure.Defaulted = defaulted
	}
	return unsure
}

// FitBay checks a 2.5-inch drive in a bay; part is its index in the parts list. plugged says
// that a drive sits there now, which shows that an optical bay has its connector.
func FitBay(ch *hw.Chassis, bay int, d *hw.Drive, part int, plugged bool) hw.Verdict {
	b := &ch.Bays[bay]
	return place(fitBay(b, hw.Where{List: "bays", Index: bay, PartIndex: part, Body: "drive"}, d, plugged), b.ID,
		b.Reach)
}

func fitBay(b *hw.Bay, at hw.Where, d *hw.Drive, plugged bool) hw.Verdict {
	optical := b.Form == hw.FormOptical
	connector, ok := b.Connector.Get()
	if !ok && !(optical && plugged) {
		return hw.Unknown(at.Chassis("connector"),
			"whether bay %s has a connector is not known: a space without one is not a bay", b.ID)
	}
	if connector == hw.NoHeader {
		return hw.Refuse(hw.CodeBayNoHeader, "bay %s has room but nothing to plug a drive into", b.ID)
	}
	if optical {
		caddy, ok := b.Caddy.Get()
		if !ok {
			return hw.Unknown(at.Chassis("caddy"),
				"whether optical bay %s takes a caddy for a 2.5-inch drive is not known", b.ID)
		}
		if caddy == hw.CaddyNotUsed {
			return hw.Refuse(hw.CodeBayForm, "a 2.5-inch drive; optical bay %s takes no caddy, only an optical drive",
				b.ID)
		}
	}
	room, ok := b.Height.Get()
	if !ok {
		return hw.Unknown(at.Chassis("height_mm"), "how high a drive bay %s takes is not known", b.ID)
	}
	inCaddy := ""
	if optical {
		inCaddy, room = " in its caddy", CaddyRoom(room)
	}
	height, ok := d.Height.Get()
	if !ok {
		return hw.Unknown(at.Part("height_mm"), "the height of this drive is not known; bay %s takes %s mm%s", b.ID,
			room, inCaddy)
	}
	if height > room {
		return hw.Refuse(hw.CodeBayHeight, "%s mm high; bay %s takes %s mm%s", height, b.ID, room, inCaddy)
	}
	face, ok := b.Interface.Get()
	if !ok {
		return hw.Unknown(at.Chassis("interface"), "the interface of bay %s is not known", b.ID)
	}
	if face != d.Interface {
		return hw.Refuse(hw.CodeBayInterface, "an %s drive; bay %s is %s", hw.Interfaces.Says(d.Interface), b.ID,
			hw.Interfaces.Says(face))
	}
	return hw.Verdict{}
}

// CaddyRoom is the height of a 2.5-inch drive that the caddy of an optical bay takes: 9.5 mm
// in a bay of 12.7 mm, else 7 mm.
func CaddyRoom(bay hw.Dec) hw.Dec {
	if bay >= 12_700_000 {
		return 9_500_000
	}
	return hw.DecOf(7)
}
