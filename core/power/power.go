// Package power is the arithmetic of battery packs: health, runtime, and which
// pack a machine takes (docs/rules.md, Battery and wireless).
package power

import (
	"fmt"
	"math/big"

	"yembo/core/hw"
)

// Health is full ÷ design; ok is false where either is not known.
func Health(full, design hw.Maybe[hw.Dec]) (*big.Rat, bool) {
	f, okF := full.Get()
	d, okD := design.Get()
	if !okF || !okD || d <= 0 {
		return nil, false
	}
	return new(big.Rat).Quo(f.Rat(), d.Rat()), true
}

// Worn reports a health below 0.6, Tired one below 0.8.
func Worn(health *big.Rat) bool { return health.Cmp(big.NewRat(6, 10)) < 0 }

// Tired reports a health below 0.8.
func Tired(health *big.Rat) bool { return health.Cmp(big.NewRat(8, 10)) < 0 }

// Runtime today, in hours, exact: as measured, else 0.95 × Wh ÷ mean draw. nil
// when there is nothing to compute it from.
func Runtime(u *hw.Usage, presentWh hw.Maybe[hw.Dec]) *big.Rat {
	if measured, ok := u.RuntimeH.Get(); ok {
		return measured.Rat()
	}
	return fromDraw(u, presentWh)
}

// RuntimeWith is the runtime with another pack: measured runtime × (its Wh ÷ the
// present full Wh); without a measurement that can be scaled, 0.95 × Wh ÷ draw.
func RuntimeWith(u *hw.Usage, presentWh, newWh hw.Maybe[hw.Dec]) *big.Rat {
	measured, okM := u.RuntimeH.Get()
	present, okP := presentWh.Get()
	fresh, okF := newWh.Get()
	if okM && okP && okF && present > 0 {
		r := new(big.Rat).Mul(measured.Rat(), fresh.Rat())
		return r.Quo(r, present.Rat())
	}
	return fromDraw(u, newWh)
}

func fromDraw(u *hw.Usage, wh hw.Maybe[hw.Dec]) *big.Rat {
	draw, okD := u.DrawW.Get()
	energy, okE := wh.Get()
	if !okD || !okE || draw <= 0 {
		return nil
	}
	r := new(big.Rat).Mul(energy.Rat(), big.NewRat(95, 100))
	return r.Quo(r, draw.Rat())
}

// OptionFor returns the index of the pack that lists a part number, -1 for none.
func OptionFor(ch *hw.Chassis, partNumber string) int {
	for i := range ch.Batteries {
		for _, n := range ch.Batteries[i].PartNumbers {
			if n == partNumber && n != "" {
				return i
			}
		}
	}
	return -1
}

// Fit checks a pack against the model's list and volts. An unlisted one passes
// where the practice allows it. part is the pack's index in the parts list.
func Fit(ch *hw.Chassis, p *hw.Pack, part int, allowUnlisted bool) hw.Verdict {
	v := fit(ch, p, hw.Where{List: "batteries", PartIndex: part, Body: "battery"}, allowUnlisted)
	v.Place = hw.BatteryPlace
	if v.Code == hw.CodeUnknown && v.Fact[0] == 'c' {
		v.Step = ch.BatteryReach
	}
	return v
}

func fit(ch *hw.Chassis, p *hw.Pack, at hw.Where, allowUnlisted bool) hw.Verdict {
	if ch.Batteries == nil {
		return hw.Unknown("chassis:/batteries", "which packs this model takes is not known")
	}
	listed := OptionFor(ch, p.PartNumber)
	if listed < 0 && !allowUnlisted {
		for i := range ch.Batteries {
			if ch.Batteries[i].PartNumbers == nil {
				return hw.Unknown(fmt.Sprintf("chassis:/batteries/%d/part_numbers", i),
					"%s is not among the known part numbers, but those of pack %s are not recorded", p.PartNumber,
					ch.Batteries[i].ID)
			}
		}
		return hw.Refuse(hw.CodeBatteryNotListed, "%s is on no list for this model", p.PartNumber)
	}
	return voltage(ch, p, listed, at)
}

// voltage compares nominal volts with every recorded pack (more than 5 % off each
// rules out) and the series count with the listed pack's.
func voltage(ch *hw.Chassis, p *hw.Pack, listed int, at hw.Where) hw.Verdict {
	if len(ch.Batteries) == 0 {
		return hw.Refuse(hw.CodeBatteryVoltage, "no battery on record to compare voltage with")
	}
	own, ok := p.NominalV.Get()
	if !ok && listed >= 0 { // the model's record says it of every pack of that number
		own, ok = ch.Batteries[listed].NominalV.Get()
	}
	if !ok {
		return hw.Unknown(at.Part("nominal_v"), "the nominal volts of this pack are not known")
	}
	near, words := false, ""
	missing := -1
	for i := range ch.Batteries {
		v, known := ch.Batteries[i].NominalV.Get()
		if !known {
			missing = i
			continue
		}
		// |own − v| > 5 % of v
		if diff := max(own-v, v-own); diff*100 <= v*5 {
			near = true
		}
		if words != "" {
			words += ", "
		}
		words += v.String() + " V"
	}
	if !near && missing >= 0 {
		return hw.Unknown(fmt.Sprintf("chassis:/batteries/%d/nominal_v", missing),
			"%s V; the volts of pack %s are not known", own, ch.Batteries[missing].ID)
	}
	if !near {
		return hw.Refuse(hw.CodeBatteryVoltage, "%s V differs by more than 5 %% from every pack of this model (%s)",
			own, words)
	}
	if listed < 0 {
		return hw.Verdict{}
	}
	series, ok := p.Series.Get()
	if _, recorded := ch.Batteries[listed].Series.Get(); !ok && recorded {
		return hw.Verdict{}
	}
	if !ok {
		return hw.Unknown(at.Part("series"), "how many cells this pack has in series is not known")
	}
	want, ok := ch.Batteries[listed].Series.Get()
	if !ok {
		return hw.Unknown(fmt.Sprintf("chassis:/batteries/%d/series", listed),
			"how many cells pack %s has in series is not known", ch.Batteries[listed].ID)
	}
	if series != want {
		return hw.Refuse(hw.CodeBatteryVoltage, "%d cells in series; the listed pack %s has %d", series,
			ch.Batteries[listed].ID, want)
	}
	return hw.Verdict{}
}

// EnergyWh is what a pack of that voltage and charge holds: V × Ah, to a tenth.
func EnergyWh(volts, ampHours hw.Dec) hw.Dec {
	return hw.RatTenths(new(big.Rat).Mul(volts.Rat(), ampHours.Rat()))
}
