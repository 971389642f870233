package memory

import (
	"fmt"

	"yembo/core/hw"
)

// LargestModule is the largest module made, by form and type, in GB (handbook 3).
// Forms and types without a row are not checked against it.
type LargestModule map[string]map[string]hw.Dec

// Largest is the table that ships; a shop may keep its own.
func Largest() LargestModule {
	gb := hw.DecOf
	return LargestModule{
		"SO-DIMM": {"DDR3": gb(16), "DDR3L": gb(16), "DDR4": gb(32), "DDR5": gb(64)},
		"DIMM":    {"DDR4": gb(32), "DDR5": gb(64)},
	}
}

func (t LargestModule) row(form, kind string) (hw.Dec, bool) {
	gb, ok := t[form][kind]
	return gb, ok
}

// Practices for the limit.
const (
	LimitMaker      = "maker"
	LimitProven     = "proven"
	LimitController = "controller"
)

// Limit is how far the memory of a machine may go under the practice in force.
type Limit struct {
	GB   hw.Maybe[hw.Dec] // the ceiling for a total, not known when Path is unknown
	Path string           // the fact in force: /memory/limits/…_gb
	// Unreachable is set when the stated figure lies past what the sockets can
	// hold; Reachable is then the ceiling, and GB equals it.
	Unreachable bool
	Stated      hw.Dec
	Reachable   hw.Dec
	Arithmetic  string // "8 soldered + 1 × 32 = 40 GB"
}

const limits = "/memory/limits/"

// InForce computes the limit for a practice ("" is maker).
//
//	maker       the maker's figure
//	proven      the higher of the proven and the maker's figure
//	controller  the controller's figure; where that is not known, as proven
//
// Nothing goes past the controller's figure where it is known, and a figure past
// what the sockets can hold gives way to the reachable total.
func InForce(ch *hw.Chassis, m *hw.Machine, practice string, largest LargestModule) Limit {
	mem := ch.Mem()
	maker, hasMaker := mem.Limits.Maker.Get()
	proven, hasProven := mem.Limits.Proven.Get()
	controller, hasController := mem.Limits.Controller.Get()

	out := Limit{Path: limits + "maker_gb"}
	if hasMaker {
		out.GB = hw.Known(maker)
	}
	if practice == LimitProven || practice == LimitController {
		if hasProven && (!hasMaker || proven >= maker) {
			out = Limit{Path: limits + "proven_gb", GB: hw.Known(proven)}
		} else if !hasMaker {
			out.Path = limits + "proven_gb"
		}
	}
	if practice == LimitController && hasController {
		out = Limit{Path: limits + "controller_gb", GB: hw.Known(controller)}
	}
	stated, known := out.GB.Get()
	if !known {
		return out
	}
	if hasController && controller < stated {
		out = Limit{Path: limits + "controller_gb", GB: hw.Known(controller)}
		stated = controller
	}
	out.Stated = stated
	if sum, words, ok := reachable(ch, m, largest); ok && stated > sum {
		out.Unreachable, out.Reachable, out.Arithmetic = true, sum, words
		out.GB = hw.Known(sum)
	}
	return out
}

// reachable is soldered + sockets × the largest module made. ok is false where
// the type, the sockets or a row of the table is not known.
func reachable(ch *hw.Chassis, m *hw.Machine, largest LargestModule) (sum hw.Dec, words string, ok bool) {
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

// BeyondMaker reports whether a change of memory needs the consent beyond_maker:
// it ends above the maker's figure, or grows where that is not known.
func BeyondMaker(mem *hw.Memory, before, after hw.Dec) bool {
	if maker, ok := mem.Limits.Maker.Get(); ok {
		return after > maker
	}
	return after > before
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
