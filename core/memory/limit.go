package memory

import (
	"fmt"
	"strings"

	"yembo/core/hw"
)

// LargestModule is the largest module made, by form and type, in GB (docs/rules.md, Memory).
// Forms and types without a row are not checked against it.
type LargestModule map[hw.ModuleForm]map[hw.MemoryType]hw.Dec

// Largest is the table that ships; a shop may keep its own.
func Largest() LargestModule {
	gb := hw.DecOf
	return LargestModule{
		"SO-DIMM": {"DDR3": gb(16), "DDR3L": gb(16), "DDR4": gb(32), "DDR5": gb(64)},
		"DIMM":    {"DDR4": gb(32), "DDR5": gb(64)},
	}
}

func (t LargestModule) row(form hw.ModuleForm, kind hw.MemoryType) (hw.Dec, bool) {
	gb, ok := t[form][kind]
	return gb, ok
}

// Limit is how far the memory of a machine may go under the practice in force.
type Limit struct {
	GB   hw.Maybe[hw.Dec] // the ceiling for a total; not known where nothing tells one
	From LimitFrom        // whose figure it is
	// FellBack is set where the practice asked for finds no figure and another one stands
	// in for it.
	FellBack bool
	// Unreachable is set when the stated figure lies past what the sockets can
	// hold; Reachable is then the ceiling, and GB equals it.
	Unreachable bool
	Stated      hw.Dec
	Reachable   hw.Dec
	Arithmetic  string // "8 soldered + 1 × 32 = 40 GB", of what can be reached or is inferred
}

// LimitFrom is whose figure a limit is.
type LimitFrom int

// Whose figure a limit may be.
const (
	ByNobody LimitFrom = iota
	ByMaker
	ByProof
	ByController
	BySockets // nobody has tried it
	Inferred  // from what the sockets are known to take, or runs in the machine now
)

// Path is the fact that the limit rests on, "" for one that no fact states.
func (l Limit) Path() string {
	switch l.From {
	case ByMaker:
		return limits + "maker_gb"
	case ByProof:
		return limits + "proven_gb"
	case ByController:
		return limits + "controller_gb"
	case ByNobody, BySockets, Inferred: // no single fact states them
	}
	return ""
}

const limits = "/memory/limits/"

// UnknownLimitFact is the fact that is asked for where no limit is known: a document tells
// it, no opening does.
const UnknownLimitFact = "chassis:" + limits + "maker_gb"

// InForce computes the limit for a practice ("" is maker).
//
//	maker       the maker's figure
//	proven      the higher of the proven and the maker's figure
//	controller  the controller's figure; where that is not known, as proven
//	sockets     the controller's figure; where that is not known, what the sockets hold; else as proven
//
// Where the practice finds no figure it is the first known of the proven one, the
// controller's, and the inferred one. Nothing goes past the controller's figure where it
// is known, and a figure past what the sockets can hold gives way to the reachable total.
func InForce(ch *hw.Chassis, m *hw.Machine, practice hw.LimitPractice, largest LargestModule) Limit {
	mem := ch.Mem()
	maker, hasMaker := mem.Limits.Maker.Get()
	proven, hasProven := mem.Limits.Proven.Get()
	controller, hasController := mem.Limits.Controller.Get()
	held, heldWords, hasHeld := Reachable(ch, m, largest)
	hasHeld = hasHeld && len(mem.Sockets) > 0

	var out Limit
	take := func(from LimitFrom, gb hw.Dec) { out = Limit{From: from, GB: hw.Known(gb)} }
	switch {
	case (practice == hw.LimitController || practice == hw.LimitSockets) && hasController:
		take(ByController, controller)
	case practice == hw.LimitSockets && hasHeld:
		take(BySockets, held)
		out.Arithmetic = heldWords
	case practice != hw.LimitMaker && practice != "" && hasProven && (!hasMaker || proven > maker):
		take(ByProof, proven)
	case hasMaker:
		take(ByMaker, maker)
	case hasProven:
		take(ByProof, proven)
		out.FellBack = true
	case hasController:
		take(ByController, controller)
		out.FellBack = true
	default:
		sum, words, ok := inferred(ch, m)
		if !ok {
			return out
		}
		take(Inferred, sum)
		out.FellBack, out.Arithmetic = true, words
	}
	stated, _ := out.GB.Get()
	if hasController && controller < stated {
		fell := out.FellBack
		take(ByController, controller)
		out.FellBack, stated = fell, controller
	}
	out.Stated = stated
	if hasHeld && stated > held {
		out.Unreachable, out.Reachable, out.Arithmetic = true, held, heldWords
		out.GB = hw.Known(held)
	}
	return out
}

// inferred is soldered + for each socket its own largest module where that is recorded, else the largest
// module that runs in any socket of this machine now. ok is false where a socket has neither.
func inferred(ch *hw.Chassis, m *hw.Machine) (sum hw.Dec, words string, ok bool) {
	runs := hw.Dec(0)
	if m != nil {
		for i := range m.Fitted.Memory {
			runs = max(runs, m.Fitted.Memory[i].Module.Capacity.Or(0))
		}
	}
	return socketsSum(ch, m, func(s *hw.Socket) (hw.Dec, bool) {
		gb := s.MaxModule.Or(runs)
		return gb, gb > 0
	})
}

// Reachable is what the sockets hold: soldered + for each socket its own largest module where that is
// recorded, but not past the largest one made for its form and type, else that one. ok is false where the
// sockets are not known, or one of them has neither figure.
func Reachable(ch *hw.Chassis, m *hw.Machine, largest LargestModule) (sum hw.Dec, words string, ok bool) {
	kind := ch.Mem().Type.Or("")
	if ch.Mem().Sockets != nil && len(ch.Mem().Sockets) == 0 {
		for _, s := range Soldered(ch, m) {
			sum += s.Module.Capacity.Or(0)
		}
		return sum, fmt.Sprintf("%s soldered = %s GB", sum, sum), true
	}
	return socketsSum(ch, m, func(s *hw.Socket) (hw.Dec, bool) {
		made, isMade := largest.row(s.Form, kind)
		own, told := s.MaxModule.Get()
		switch {
		case told && isMade:
			return min(own, made), true
		case told:
			return own, true
		}
		return made, isMade
	})
}

// socketsSum is soldered + what each socket takes, with its arithmetic; ok is false where there are no
// sockets, or what one of them takes is not known.
func socketsSum(ch *hw.Chassis, m *hw.Machine, takes func(s *hw.Socket) (hw.Dec, bool)) (sum hw.Dec, words string, ok bool) {
	sockets := ch.Mem().Sockets
	var terms []string
	for _, s := range Soldered(ch, m) {
		sum += s.Module.Capacity.Or(0)
	}
	if sum > 0 {
		terms = append(terms, fmt.Sprintf("%s soldered", sum))
	}
	var each []hw.Dec
	for i := range sockets {
		gb, known := takes(&sockets[i])
		if !known {
			return 0, "", false
		}
		sum += gb
		each = append(each, gb)
	}
	for i, n := 0, 0; i < len(each); i += n {
		for n = 1; i+n < len(each) && each[i+n] == each[i] && sockets[i+n].Form == sockets[i].Form; n++ {
		}
		terms = append(terms, fmt.Sprintf("%d × %s", n, each[i]))
	}
	return sum, fmt.Sprintf("%s = %s GB", strings.Join(terms, " + "), sum), len(sockets) > 0
}

// BeyondMaker reports whether a change of memory ends above a known maker's figure.
func BeyondMaker(mem *hw.Memory, after hw.Dec) bool {
	maker, ok := mem.Limits.Maker.Get()
	return ok && after > maker
}

// LimitUnsure reports whether a change of memory grows past all that anybody has shown:
// no maker's figure is known, and the proven one is not known either or is passed.
func LimitUnsure(mem *hw.Memory, before, after hw.Dec) bool {
	proven, ok := mem.Limits.Proven.Get()
	return !mem.Limits.Maker.IsKnown() && after > before && !(ok && after <= proven)
}

// RightSize is peak use ÷ 0.8, and the smallest of the totals at or above it.
func RightSize(peak hw.Dec, totals []hw.Dec) (need hw.Dec, size hw.Dec, ok bool) {
	need = peak * 10 / 8
	for _, t := range totals {
		if t*8 >= peak*10 && (!ok || t < size) {
			size, ok = t, true
		}
	}
	return need, size, ok
}
