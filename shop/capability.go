package shop

import (
	"strconv"

	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/teardown"
)

// Capability is what somebody looks for in a model. What is not known of a model is
// never taken for a match.
type Capability struct {
	ReachesGB    hw.Maybe[hw.Dec] // memory can be brought to this total, by the maker's limit
	SlotLength   hw.Maybe[int]    // a drive slot holds modules of this length in mm
	SlotGen      hw.Maybe[int]    // and has at least this PCIe generation
	BatterySteps hw.Maybe[int]    // the battery lies at most this many steps deep
}

// Asked reports whether anything is looked for.
func (c Capability) Asked() bool { return c != (Capability{}) }

// Has reports whether a model has all that is looked for.
func (c Capability) Has(ch *hw.Chassis) bool {
	if gb, ok := c.ReachesGB.Get(); ok {
		if limit, known := memory.InForce(ch, nil, memory.LimitMaker, memory.Largest()).GB.Get(); !known || limit < gb || len(ch.Mem().Sockets) == 0 {
			return false
		}
	}
	if (c.SlotLength.IsKnown() || c.SlotGen.IsKnown()) && !c.hasSlot(ch) {
		return false
	}
	if most, ok := c.BatterySteps.Get(); ok {
		depth := teardown.DepthOf(ch, ch.BatteryReach)
		return depth.Known && depth.Steps <= most
	}
	return true
}

func (c Capability) hasSlot(ch *hw.Chassis) bool {
	for i := range ch.Slots {
		s := &ch.Slots[i]
		if s.Purpose != "storage" {
			continue
		}
		if mm, ok := c.SlotLength.Get(); ok {
			if how, held := s.Lengths[strconv.Itoa(mm)]; !held || how == "none" {
				continue
			}
		}
		if want, ok := c.SlotGen.Get(); ok {
			if gen, known := s.Gen.Get(); !known || gen < want {
				continue
			}
		}
		return true
	}
	return false
}
