package memory

import (
	"fmt"

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
	Inferred // from what runs in the machine now
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
	case ByNobody, Inferred: // they change nothing here
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
//
// Where the practice finds no figure it is the first known of the proven one, the
// controller's, and the inferred one. Nothing goes past the controller's figure where it
// is known, and a figure past what the sockets can hold gives way to the reachable total.
func InForce(ch *hw.Chassis, m *hw.Machine, practice hw.LimitPractice, largest LargestModule) Limit {
	mem := ch.Mem()
	maker, hasMaker := mem.Limits.Maker.Get()
	proven, hasProven := mem.Limits.Proven.Get()
	controller, hasController := mem.Limits.Controller.Get()

	var out Limit
	take := func(from LimitFrom, gb hw.Dec) { out = Limit{From: from, GB: hw.Known(gb)} }
	switch {
	case practice == hw.LimitController && hasController:
		take(ByController, controller)
	case (practice == hw.LimitProven || practice == hw.LimitController) && hasProven && (!hasMaker || proven > maker):
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
	if sum, words, ok := Reachable(ch, m, largest); ok && len(mem.Sockets) > 0 && stated > sum {
		out.Unreachable, out.Reachable, out.Arithmetic = true, sum, words
		out.GB = hw.Known(sum)
	}
	return out
}

// inferred is soldered + for each socket the largest module that runs in any socket of
// this machine now, or the socket's own largest where that is smaller. ok is false where
// nothing is known to run in the sockets.
func inferred(ch *hw.Chassis, m *hw.Machine) (sum hw.Dec, words string, ok bool) {
	largest := hw.Dec(0)
	if m != nil {
		for i := range m.Fitted.Memory {
			largest = max(largest, m.Fitted.Memory[i].Module.Capacity.Or(0))
		}
	}
	if largest == 0 || len(ch.Mem().Sockets) == 0 {
		return 0, "", false
	}
	add := func(gb hw.Dec, what string) {
		if sum += gb; words != "" {
			words += " + "
		}
		words += gb.String() + what
	}
	soldered := hw.Dec(0)
	for _, s := range Soldered(ch, m) {
		soldered += s.Module.Capacity.Or(0)
	}
	if soldered > 0 {
		add(soldered, " soldered")
	}
	for i := range ch.Memory.Sockets {
		add(min(largest, ch.Memory.Sockets[i].MaxModule.Or(largest)), "")
	}
	return sum, fmt.Sprintf("%s = %s GB", words, sum), true
}

// Reachable is soldered + sockets × the largest module made. ok is false where
// the type, the sockets or a row of the table is not known.
func Reachable(ch *hw.Chassis, m *hw.Machine, largest LargestModule) (sum hw.Dec, words string, ok bool) {
	mem := ch.Mem()
	kind, known := mem.Type.Get()
	if !known || mem.Sockets == nil {
		return 0, "", false
	}
	for _, s := range Soldered(ch, m) {
		gb, _ := s.Module.Capacity.Get()
		sum += gb
	}
	if sum > 0 {
		words = fmt.Sprintf("%s soldered", sum)
	}
	add := func(text string) {
		if words != "" {
			words += " + "
		}
		words += text
	}
	for i := 0; i < len(mem.Sockets); {
		form := mem.Sockets[i].Form
		gb, row := largest.row(form, kind)
		if !row {
			return 0, "", false
		}
		n := 0
		for i < len(mem.Sockets) && mem.Sockets[i].Form == form {
			n++
			i++
		}
		sum += hw.Dec(n) * gb
		add(fmt.Sprintf("%d × %s", n, gb))
	}
	return sum, fmt.Sprintf("%s = %s GB", words, sum), true
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
