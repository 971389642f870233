package records

import (
	"context"
	"slices"

	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/teardown"
	"yembo/shop/base"
	"yembo/store"
)

// Capability is what somebody looks for in a model. What is not known of a model is
// never taken for a match.
type Capability struct {
	ReachesGB    hw.Maybe[hw.Dec] // memory can be brought to this total, by the shop's practice
	SlotLength   hw.Maybe[int]    // a drive slot holds modules of this length in mm
	SlotGen      hw.Maybe[int]    // and has at least this PCIe generation
	BatterySteps hw.Maybe[int]    // the battery lies at most this many steps deep
}

// Asked reports whether anything is looked for.
func (c Capability) Asked() bool { return c != (Capability{}) }

// Has reports whether a model has all that is looked for, in a shop that works so.
func (c Capability) Has(b *Brief, how *base.Settings) bool {
	if gb, ok := c.ReachesGB.Get(); ok && !b.Reaches(gb, how) {
		return false
	}
	if (c.SlotLength.IsKnown() || c.SlotGen.IsKnown()) && !slices.ContainsFunc(b.DriveSlots, c.takes) {
		return false
	}
	if most, ok := c.BatterySteps.Get(); ok {
		steps, known := b.BatterySteps.Get()
		return known && steps <= most
	}
	return true
}

func (c Capability) takes(s BriefSlot) bool {
	if mm, ok := c.SlotLength.Get(); ok && !slices.Contains(s.Lengths, mm) {
		return false
	}
	if want, ok := c.SlotGen.Get(); ok {
		gen, known := s.Gen.Get()
		return known && gen >= want
	}
	return true
}

// Reaches reports whether memory can be brought to a total. Soldered memory alone is
// what it is, whatever limit is stated.
func (b *Brief) Reaches(gb hw.Dec, how *base.Settings) bool {
	if b.SolderedGB >= gb {
		return true
	}
	mem := &hw.Memory{Limits: b.Limits, Soldered: []hw.Soldered{{Capacity: b.SolderedGB}}}
	if b.MemoryType != "" {
		mem.Type = hw.Known(b.MemoryType)
	}
	for i, form := range b.Forms {
		mem.Sockets = append(mem.Sockets, hw.Socket{Form: form, MaxModule: b.Takes[i]})
	}
	limit, known := memory.InForce(&hw.Chassis{Memory: mem}, nil, how.Practice.MemoryLimit.Or(hw.LimitMaker),
		how.LargestModules()).GB.Get()
	return known && limit >= gb && len(mem.Sockets) > 0
}

// CapableBriefs lists the models in which every word of a query stands and that have what
// is looked for.
func (s *Records) CapableBriefs(ctx context.Context, query string, want Capability) ([]Brief, error) {
	var out []Brief
	err := s.Store.View(ctx, func(tx store.Tx) error {
		how, err := base.SettingsIn(tx)
		if err != nil {
			return err
		}
		all, err := briefs(tx, query, -1)
		for i := range all {
			if want.Has(&all[i], &how) {
				out = append(out, all[i])
			}
		}
		return err
	})
	return out, err
}

// depthOfBattery is how many steps deep the pack lies, where that is known.
func depthOfBattery(ch *hw.Chassis) hw.Maybe[int] {
	if d := teardown.DepthOf(ch, ch.BatteryReach); d.Known {
		return hw.Known(d.Steps)
	}
	return hw.Maybe[int]{}
}
