package plan

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"yembo/core/hw"
)

// Lookup is something that the record lists, that would be better than what is there, and that no part of
// the list is: it would have to be found.
type Lookup struct {
	Kind   hw.PartKind
	Wanted string // a part number, or what an accessory gives
	Also   []string
	Gives  string // what it would give
}

// Lookups lists what would have to be found: packs that hold more than the one fitted, and accessories
// without which a place stays unused.
func Lookups(in Input) []Lookup {
	provided, numbers := map[string]bool{}, map[string]bool{}
	for i := range in.Parts.Parts {
		p := &in.Parts.Parts[i]
		provided[p.Provides] = true
		if p.Battery != nil {
			numbers[strings.ToLower(p.Battery.PartNumber)] = true
		}
	}
	var out []Lookup
	fitted := in.Machine.Fitted.Battery
	for i := range in.Chassis.Batteries {
		b := &in.Chassis.Batteries[i]
		has := slices.ContainsFunc(b.PartNumbers, func(n string) bool { return numbers[strings.ToLower(n)] })
		wh, known := b.DesignWh.Get()
		if has || len(b.PartNumbers) == 0 || !known || fitted == nil || fitted.Option == b.ID {
			continue
		}
		before, told := designOf(in.Chassis, fitted)
		if !told || wh <= before {
			continue
		}
		out = append(out, Lookup{hw.KindBattery, b.PartNumbers[0], b.PartNumbers[1:],
			fmt.Sprintf("%s Wh when new in place of %s Wh", wh, before)})
	}
	need := func(how, place, what string) {
		name, needed := hw.Needs(how)
		if !needed || provided[name] {
			return
		}
		gives := fmt.Sprintf("%s could take a drive%s", place, what)
		for i := range out {
			if out[i].Wanted == name {
				if !strings.Contains(out[i].Gives, place) {
					out[i].Gives += "; " + gives
				}
				return
			}
		}
		out = append(out, Lookup{Kind: hw.KindAccessory, Wanted: name, Gives: gives})
	}
	for i := range in.Chassis.Slots {
		s := &in.Chassis.Slots[i]
		if s.Purpose != hw.ForStorage {
			continue
		}
		for _, mm := range slices.Sorted(maps.Keys(s.Lengths)) {
			need(s.Lengths[mm], s.ID, " of "+mm+" mm")
		}
	}
	for i := range in.Chassis.Bays {
		b := &in.Chassis.Bays[i]
		need(b.Connector.Or(""), b.ID, "")
		need(b.Caddy.Or(""), b.ID, "")
	}
	return out
}

// designOf is what the fitted pack held when new, where it is told.
func designOf(ch *hw.Chassis, fitted *hw.FittedBattery) (hw.Dec, bool) {
	for i := range ch.Batteries {
		if ch.Batteries[i].ID == fitted.Option {
			return ch.Batteries[i].DesignWh.Get()
		}
	}
	return 0, false
}
