package storage

import (
	"sort"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// Codes of the checks, in their order.
const (
	CodePurpose   = "m2.purpose"
	CodeKey       = "m2.key"
	CodeLength    = "m2.length"
	CodeProtocol  = "m2.protocol"
	CodeRefused   = "m2.refused"
	CodeThickness = "m2.thickness"

	CodeNoHeader     = "bay.no_header"
	CodeBayHeight    = "bay.height"
	CodeBayInterface = "bay.interface"

	CodeExcluded     = "excluded"
	CodeNotOnVariant = "not_on_variant"
)

// Codes of warnings.
const (
	CodeHeldBack    = "drive.held_back"
	CodeNoGain      = "drive.no_gain"
	CodeHot         = "drive.hot"
	CodeHeatsink    = "drive.heatsink"
	CodeBoot        = "drive.boot_replaced"
	CodeRaid0       = "drive.raid0"
	CodeKeepPad     = "drive.keep_pad"
	CodeEncrypted   = "drive.encrypted"
	CodeMBR         = "drive.mbr"
	CodeStatedLimit = "drive.stated_limit"
	CodeClean       = "drive.clean_install"
)

// IsBayDrive reports whether a drive goes into a bay rather than an M.2 slot.
func IsBayDrive(d *hw.Drive) bool { return d.Form != "" }

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
		return hw.Refuse(CodeKey, "key %s does not enter slot %s, which has key %s", moduleKey, slot.ID, socketKey)
	}
	if slot.Lengths == nil {
		return hw.Unknown(at.Chassis("lengths"), "which lengths slot %s holds is not known", slot.ID)
	}
	mm, ok := length.Get()
	if !ok {
		return hw.Unknown(at.Part("length_mm"), "the length of this module is not known; slot %s holds %s", slot.ID, lengthWords(slot))
	}
	how, taken := slot.Lengths[strconv.Itoa(mm)]
	if !taken {
		return hw.Refuse(CodeLength, "needs %d mm, slot %s holds %s", mm, slot.ID, lengthWords(slot))
	}
	if how == "none" {
		return hw.Refuse(CodeLength, "%d mm long: nothing holds it in slot %s, which holds %s", mm, slot.ID, lengthWords(slot))
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
		if n, err := strconv.Atoi(text); err == nil && how != "none" {
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
	if s.Purpose != "storage" {
		return hw.Refuse(CodePurpose, "a drive; slot %s is for %s", s.ID, s.Purpose)
	}
	if v := Mechanical(s, at, d.Key, d.Length); !v.Fits() {
		return v
	}
	if s.Protocols == nil {
		return hw.Unknown(at.Chassis("protocols"), "whether slot %s takes NVMe or SATA is not known", s.ID)
	}
	if !contains(s.Protocols, d.Interface) {
		return hw.Refuse(CodeProtocol, "an %s drive; slot %s takes %s", Interface(d.Interface), s.ID, protocolWords(s.Protocols))
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
	for _, what := range s.Refuses {
		switch {
		case what == "sata" && d.Interface == "sata":
			return hw.Refuse(CodeRefused, "slot %s is marked as refusing SATA drives", s.ID)
		case what == "cache_module" && d.CacheModule.Or(false):
			return hw.Refuse(CodeRefused, "slot %s is marked as refusing cache modules", s.ID)
		case what == "x2" && d.Interface == "nvme":
			lanes, ok := d.Lanes.Get()
			if !ok {
				return hw.Unknown(at.Part("lanes"), "slot %s refuses two-lane drives; how many lanes this one has is not known", s.ID)
			}
			if lanes == 2 {
				return hw.Refuse(CodeRefused, "2 lanes; slot %s is marked as refusing two-lane drives", s.ID)
			}
		}
	}
	return hw.Verdict{}
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
			return hw.Refuse(CodeThickness, "needs %s mm above the module; slot %s has %s mm", top, s.ID, room)
		}
		if !hasTop {
			doubt(hw.Unknown(at.Part("top_mm"), "its height is not known; slot %s has %s mm above the module", s.ID, room))
		}
	} else {
		defaulted = append(defaulted, at.Field("max_top_mm"))
		if !hasTop {
			doubt(hw.Unknown(at.Part("top_mm"), "neither its height nor the room above the module in slot %s is known", s.ID))
		} else if top > slimTop {
			doubt(hw.Unknown(at.Chassis("max_top_mm"), "needs %s mm above the module; the room in slot %s is not measured", top, s.ID))
		}
	}
	bottom, hasBottom := d.Bottom.Get()
	if room, measured := s.MaxBottom.Get(); measured {
		if hasBottom && bottom > room {
			return hw.Refuse(CodeThickness, "needs %s mm below the module; slot %s has %s mm", bottom, s.ID, room)
		}
		if !hasBottom {
			doubt(hw.Unknown(at.Part("bottom_mm"), "its height below the board is not known; slot %s has %s mm there", s.ID, room))
		}
	} else {
		defaulted = append(defaulted, at.Field("max_bottom_mm"))
		if bottom > 0 {
			doubt(hw.Unknown(at.Chassis("max_bottom_mm"), "needs %s mm below the module; the room in slot %s is not measured", bottom, s.ID))
		}
	}
	if unsure.Fits() {
		unsure.Defaulted = defaulted
	}
	return unsure
}

// FitBay checks a 2.5-inch drive in a bay; part is its index in the parts list.
func FitBay(ch *hw.Chassis, bay int, d *hw.Drive, part int) hw.Verdict {
	b := &ch.Bays[bay]
	return place(fitBay(b, hw.Where{List: "bays", Index: bay, PartIndex: part, Body: "drive"}, d), b.ID, b.Reach)
}

func fitBay(b *hw.Bay, at hw.Where, d *hw.Drive) hw.Verdict {
	connector, ok := b.Connector.Get()
	if !ok {
		return hw.Unknown(at.Chassis("connector"), "whether bay %s has a connector is not known: a space without one is not a bay", b.ID)
	}
	if connector == "no_header" {
		return hw.Refuse(CodeNoHeader, "bay %s has room but nothing to plug a drive into", b.ID)
	}
	room, ok := b.Height.Get()
	if !ok {
		return hw.Unknown(at.Chassis("height_mm"), "how high a drive bay %s takes is not known", b.ID)
	}
	height, ok := d.Height.Get()
	if !ok {
		return hw.Unknown(at.Part("height_mm"), "the height of this drive is not known; bay %s takes %s mm", b.ID, room)
	}
	if height > room {
		return hw.Refuse(CodeBayHeight, "%s mm high; bay %s takes %s mm", height, b.ID, room)
	}
	face, ok := b.Interface.Get()
	if !ok {
		return hw.Unknown(at.Chassis("interface"), "the interface of bay %s is not known", b.ID)
	}
	if face != d.Interface {
		return hw.Refuse(CodeBayInterface, "an %s drive; bay %s is %s", Interface(d.Interface), b.ID, Interface(face))
	}
	return hw.Verdict{}
}

// Interface names a drive interface for people.
func Interface(name string) string {
	switch name {
	case "nvme":
		return "NVMe"
	case "sata":
		return "SATA"
	}
	return name
}

func protocolWords(list []string) string {
	if len(list) == 0 {
		return "neither"
	}
	words := make([]string, len(list))
	for i, p := range list {
		words[i] = Interface(p)
	}
	return strings.Join(words, " and ") + " only"
}

func contains(list []string, want string) bool {
	for _, s := range list {
		if s == want {
			return true
		}
	}
	return false
}
