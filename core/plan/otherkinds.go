package plan

import (
	"context"
	"fmt"
	"math/big"
	"sort"
	"strconv"

	"yembo/core/hw"
	"yembo/core/power"
	"yembo/core/storage"
	"yembo/core/wireless"
)

// fittedGB is what the drive in a place counts, GB.
func (s *search) fittedGB(p *place) hw.Dec {
	if p.optical {
		return 0
	}
	return s.m.Fitted.Drives[p.fitted].Drive.Capacity.Or(0)
}

func storageOptical(d *hw.FittedDrive) bool { return storage.IsOptical(&d.Drive) }

// planDrives lists the ways to treat slots and bays. Where no drive is wanted only
// emptying is looked at, for an exclusion may ask for it.
func (s *search) planDrives(ctx context.Context) ([]group, error) {
	none := s.asItIs(kDrive)
	places := s.kindOf[kDrive]
	var drives []int32
	if s.wanted[kDrive] {
		drives = s.cheapestFirst(hw.KindDrive)
	}
	open := make([][]int32, len(places))
	picks := make([][]pick, len(places))
	flags := make([]map[int32]uint32, len(places))
	wants := make([]map[int32]needs, len(places))
	for i, pi := range places {
		flags[i], wants[i] = map[int32]uint32{}, map[int32]needs{}
		for _, drive := range drives {
			part := int(drive)
			if !s.verdictAt(part, pi).Fits() || !s.betterDrive(pi, part) {
				continue
			}
			x := pick{part: drive, price: s.parts[part].PriceCents, size: s.parts[part].Drive.Capacity.Or(0)}
			x.flags = s.driveFlags(pi, part)
			n, err := s.driveNeeds(pi, part)
			if err != nil {
				return nil, err
			}
			x.needs = n
			flags[i][x.part], wants[i][x.part] = x.flags, n
			picks[i] = append(picks[i], x)
		}
	}
	everywhere := func(a, b int32) bool {
		for i := range places {
			fb, fits := flags[i][b]
			if fa, also := flags[i][a]; fits && (!also || fa&^fb != 0 || !s.asksNoMore(wants[i][a], wants[i][b])) {
				return false
			}
		}
		return true
	}
	for i := range places {
		for _, x := range s.thin(picks[i], len(places), everywhere) {
			open[i] = append(open[i], x.part)
		}
	}
	c := s.collector(ctx)
	choice := s.same(kDrive)
	var walk func(i int, x candidate)
	walk = func(i int, x candidate) {
		if c.stopped() {
			return
		}
		if i == len(places) {
			s.takeDrives(c, x, choice)
			return
		}
		pi := places[i]
		p := &s.places[pi]
		bit := uint64(1) << pi
		choice[i] = unchanged
		keep := x
		if p.occupied {
			keep.used |= bit
		}
		walk(i+1, keep)
		if p.keep {
			return
		}
		if p.occupied && s.excl[pi] != 0 && !s.isBoot(p.fitted) {
			choice[i] = remove
			out := x
			out.changed |= bit
			out.removed |= bit
			out.total -= s.fittedGB(p)
			walk(i+1, out)
		}
		for _, part := range open[i] {
			choice[i] = part
			in := x
			in.changed |= bit
			in.used |= bit
			in.flags |= flags[i][part]
			in.needs = in.needs.plus(wants[i][part])
			in.total += s.parts[part].Drive.Capacity.Or(0)
			if p.occupied {
				in.total -= s.fittedGB(p)
			} else {
				in.fresh |= bit
			}
			walk(i+1, in)
		}
		choice[i] = unchanged
	}
	walk(0, candidate{pack: noPack, total: s.todayStorage})
	if c.err != nil {
		return nil, c.err
	}
	return c.result(none), nil
}

func (s *search) takeDrives(c *collector, x candidate, choice []int32) {
	if x.changed == 0 || s.clash(x.fresh, x.used) {
		return
	}
	bill, ok := s.price(choice)
	if !ok {
		return
	}
	x.cost, x.days = bill.cents, bill.days
	if bill.pulled {
		x.flags |= fPulled
	}
	x.gain = capped(x.total, s.goals.StorageGB)
	x.nearer = s.wanted[kDrive] && x.total > s.todayStorage
	x.choice = choice
	c.add(x)
}

// clash reports whether something put in use excludes something in use.
func (s *search) clash(fresh, used uint64) bool {
	for i := range s.excl {
		if fresh&(1<<i) != 0 && s.excl[i]&used != 0 {
			return true
		}
	}
	return false
}

func (s *search) maskOf(kind int) uint64 {
	var mask uint64
	for _, pi := range s.kindOf[kind] {
		mask |= 1 << pi
	}
	return mask
}

// betterDrive reports whether a part may take a place: never smaller than the
// space in use there, and larger than the drive it replaces. One that is not, is
// beaten by leaving the place alone, unless accessories run out: then asking for one
// more can turn a bought one into a missing one.
func (s *search) betterDrive(pi, part int) bool {
	p := &s.places[pi]
	if !p.occupied || p.optical {
		return true
	}
	old := &s.m.Fitted.Drives[p.fitted]
	capacity := s.parts[part].Drive.Capacity.Or(0)
	if capacity < old.UsedGB.Or(0) {
		return false
	}
	return capacity > s.fittedGB(p) || !s.plentiful
}

func (s *search) driveFlags(pi, part int) uint32 {
	var f uint32
	p := &s.places[pi]
	slot := s.slotOf(p)
	if storage.Hot(storage.Connect(p.id, slot, s.parts[part].Drive), slot, s.parts[part].Drive) {
		f |= fHot
	}
	if p.occupied && s.isBoot(p.fitted) {
		f |= fBoot
	}
	if s.parts[part].Pulled() {
		f |= fPulled
	}
	return f
}

func (s *search) slotOf(p *place) *hw.Slot {
	if p.bay || p.kind == kMemory || p.kind == kBattery {
		return nil
	}
	return &s.ch.Slots[p.Index]
}

// driveNeeds is the accessories that a drive needs in a place: none where the
// fitted one is held the same way already.
func (s *search) driveNeeds(pi, part int) (needs, error) {
	p := &s.places[pi]
	var n needs
	if p.bay {
		if p.occupied && !p.optical {
			return n, nil
		}
		b := &s.ch.Bays[p.Index]
		connector, caddy := b.Connector.Or(""), b.Caddy.Or("")
		if caddy != connector {
			if err := s.need(&n, caddy); err != nil {
				return n, err
			}
		}
		if p.optical && caddy != connector {
			return n, nil // the optical drive shows that the connector is there
		}
		return n, s.need(&n, connector)
	}
	mm := s.parts[part].Drive.Length.Or(0)
	if p.occupied && s.m.Fitted.Drives[p.fitted].Drive.Length.Or(-1) == mm {
		return n, nil
	}
	return n, s.need(&n, s.ch.Slots[p.Index].Lengths[strconv.Itoa(mm)])
}

func (s *search) need(n *needs, how string) error {
	name, needed := hw.Needs(how)
	if !needed {
		return nil
	}
	for i, known := range s.needNames {
		if known == name {
			n[i]++
			return nil
		}
	}
	if len(s.needNames) == maxNeeds {
		return TooLarge(fmt.Sprintf("the parts that fit need more than %d kinds of accessory", maxNeeds))
	}
	s.needNames = append(s.needNames, name)
	n[len(s.needNames)-1]++
	return nil
}

// planBattery lists the packs that can be fitted.
func (s *search) planBattery(ctx context.Context) []group {
	none := s.asItIs(kBattery)
	var list []candidate
	bit := s.maskOf(kBattery)
	// Packs of the same energy share one exact runtime.
	type lasts struct {
		runtime *big.Rat
		nearer  bool // than today's
	}
	known := map[hw.Maybe[hw.Dec]]lasts{}
	lastsWith := func(wh hw.Maybe[hw.Dec]) lasts {
		l, seen := known[wh]
		if !seen {
			l.runtime = power.RuntimeWith(&s.m.Usage, s.presentWh, wh)
			l.nearer = l.runtime != nil && (s.todayRuntime == nil || l.runtime.Cmp(s.todayRuntime) > 0)
			known[wh] = l
		}
		return l
	}
	for part := range s.parts {
		p := &s.parts[part]
		if !s.wanted[kBattery] || p.Kind != hw.KindBattery || !s.verdictAt(part, s.kindOf[kBattery][0]).Fits() {
			continue
		}
		x := candidate{changed: bit, cost: int64(p.Purchases(1)) * p.PriceCents, days: s.daysFor(p, 1), choice: []int32{int32(part)},
			pack: power.OptionFor(s.ch, p.Battery.PartNumber)}
		x.used = s.packBit(x.pack)
		if x.used&s.usedNow == 0 {
			x.fresh = x.used
		}
		if x.pack < 0 {
			x.flags |= fUnlisted
		}
		if p.Pulled() {
			x.flags |= fPulled
		}
		l := lastsWith(s.packWh(p))
		x.runtime, x.nearer = l.runtime, l.nearer
		list = append(list, x)
	}
	s.rankRuntimes(&none, list)
	c := s.collector(ctx)
	for _, x := range list {
		c.add(x)
	}
	return c.result(none)
}

// packWh is what a new pack holds: as the part says, else as the model's list does.
func (s *search) packWh(p *hw.Part) hw.Maybe[hw.Dec] {
	if p.Battery.DesignWh.IsKnown() {
		return p.Battery.DesignWh
	}
	if i := power.OptionFor(s.ch, p.Battery.PartNumber); i >= 0 {
		return s.ch.Batteries[i].DesignWh
	}
	return hw.Maybe[hw.Dec]{}
}

// rankRuntimes turns exact runtimes, up to twice the goal, into ranks; 0 is none.
func (s *search) rankRuntimes(none *candidate, list []candidate) {
	goal, ok := s.goals.RuntimeH.Get()
	if !ok {
		return
	}
	most := new(big.Rat).Mul(goal.Rat(), big.NewRat(2, 1))
	// Each distinct value is looked at once; candidates share them by pointer.
	counted := map[*big.Rat]*big.Rat{}
	var values []*big.Rat
	note := func(r *big.Rat) {
		if r == nil || counted[r] != nil {
			return
		}
		counted[r] = r
		if r.Cmp(most) > 0 {
			counted[r] = most
		}
		values = append(values, counted[r])
	}
	note(none.runtime)
	for i := range list {
		note(list[i].runtime)
	}
	sort.Slice(values, func(i, j int) bool { return values[i].Cmp(values[j]) < 0 })
	ranks := map[*big.Rat]int64{}
	n := int64(0)
	for i, v := range values {
		if i == 0 || v.Cmp(values[i-1]) != 0 {
			n++
		}
		ranks[v] = n
	}
	none.gain = ranks[counted[none.runtime]]
	for i := range list {
		list[i].gain = ranks[counted[list[i].runtime]]
	}
}

// planWireless lists the cards that can be fitted, in one or more slots.
func (s *search) planWireless(ctx context.Context) ([]group, error) {
	none := s.asItIs(kWireless)
	c := s.collector(ctx)
	choice := s.same(kWireless)
	for i, pi := range s.kindOf[kWireless] {
		p := &s.places[pi]
		for part := range s.parts {
			card := s.parts[part].Wireless
			if !s.wanted[kWireless] || card == nil || !s.verdictAt(part, pi).Fits() {
				continue
			}
			std := wireless.Rank(card.Standard)
			if std <= s.todayWifi && s.plentiful {
				continue
			}
			choice[i] = int32(part)
			x := candidate{pack: noPack, changed: 1 << pi, used: none.used | 1<<pi, wifi: std, gain: int64(std), choice: choice,
				cost: int64(s.parts[part].Purchases(1)) * s.parts[part].PriceCents, days: s.daysFor(&s.parts[part], 1)}
			if !p.occupied {
				x.fresh = 1 << pi
			}
			if s.parts[part].Pulled() {
				x.flags |= fPulled
			}
			if err := s.cardNeeds(&x.needs, p, card); err != nil {
				return nil, err
			}
			ap := s.practice.AccessPoint
			x.nearer = wireless.Effective(std, ap) > wireless.Effective(s.todayWifi, ap)
			if !s.clash(x.fresh, x.used) {
				c.add(x)
			}
		}
		choice[i] = unchanged
	}
	return c.result(none), nil
}

// cardNeeds adds what a card needs to be held in a slot, unless one is there.
func (s *search) cardNeeds(n *needs, p *place, card *hw.Card) error {
	if p.occupied {
		return nil
	}
	return s.need(n, s.ch.Slots[p.Index].Lengths[strconv.Itoa(card.Length.Or(0))])
}
