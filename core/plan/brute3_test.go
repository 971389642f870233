package plan

import (
	"math/big"

	"yembo/core/hw"
	"yembo/core/wireless"
)

// reach fills which goals a combination meets, and how near it comes to the others.
func (o *plainOption) reach(s *search, mem, sto hw.Dec, run *big.Rat, wifi int, failing bool) {
	goals := s.goals
	one := big.NewRat(1, 1)
	set := func(k int, goal hw.Maybe[hw.Dec], reached *big.Rat, may bool) {
		g, asked := goal.Get()
		if o.near[k] = new(big.Rat); !asked {
			return
		}
		known := reached != nil && (!s.untold[k] || s.met[k])
		if met := known && may && reached.Cmp(g.Rat()) >= 0; met {
			o.met++
			return
		}
		o.misses[k] = true
		if reached == nil || s.untold[k] {
			return
		}
		if o.near[k].Quo(reached, g.Rat()); o.near[k].Cmp(one) > 0 {
			o.near[k] = one
		}
	}
	set(kMemory, goals.MemoryGB, mem.Rat(), true)
	set(kDrive, goals.StorageGB, sto.Rat(), !failing)
	set(kBattery, goals.RuntimeH, run, true)
	o.near[kWireless] = new(big.Rat)
	if want, asked := goals.Wireless.Get(); asked {
		if wifi >= wireless.Rank(want) {
			o.met++
		} else {
			o.misses[kWireless] = true
		}
	}
}

// plainRecommended is the least money with its risk counted as money, at the usual worth, of the complete combinations
// that meet the most goals and of these come nearest to those that none of them meets.
func plainRecommended(all []plainOption) (worth int64, ok bool) {
	most := -1
	var best []*plainOption
	for i := range all {
		switch o := &all[i]; {
		case o.missing || o.met < most:
		case o.met > most:
			most, best = o.met, []*plainOption{o}
		default:
			best = append(best, o)
		}
	}
	missed := [kinds]bool{true, true, true, true}
	for _, o := range best {
		for k := range kinds {
			missed[k] = missed[k] && o.misses[k]
		}
	}
	nearest := new(big.Rat)
	for _, o := range best {
		near := new(big.Rat)
		for k := range kinds {
			if missed[k] {
				near.Add(near, o.near[k])
			}
		}
		sum := o.values[0] + hw.UsualRiskCents*o.values[1]
		if c := near.Cmp(nearest); !ok || c > 0 || c == 0 && sum < worth {
			nearest, worth, ok = near, sum, true
		}
	}
	return worth, ok
}

func optionOf(p *Plan, id string) *Option {
	for i := range p.Options {
		if p.Options[i].ID == id {
			return &p.Options[i]
		}
	}
	return &Option{}
}
