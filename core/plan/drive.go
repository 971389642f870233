package plan

import (
	"context"
	"fmt"
	"math/big"
	"slices"
	"strconv"

	"yembo/core/hw"
	"yembo/core/storage"
)

// driveKind is the drives in slots and bays.
type driveKind struct{ plain }

func (driveKind) names() names {
	return names{goal: "storage_gb", part: hw.KindDrive, says: "storage", part1: "drive", at: "/fitted/drives",
		untold: "which drives are fitted, or how large they are, is not known"}
}

func (driveKind) asked(g *hw.Goals) bool         { return g.StorageGB.IsKnown() }
func (driveKind) only(g *hw.Goals) hw.Goals      { return hw.Goals{StorageGB: g.StorageGB} }
func (driveKind) meets(m *Meets) *hw.Maybe[bool] { return &m.Storage }

func (driveKind) readToday(s *search) {
	s.untold[kDrive] = s.m.Fitted.Drives == nil && !s.noStorage()
	for i := range s.m.Fitted.Drives {
		d := &s.m.Fitted.Drives[i]
		s.bootTold = s.bootTold || d.Boot.IsKnown()
		if storageOptical(d) {
			continue
		}
		if pi, has := s.placeIndex[d.Place]; d.Fails() && has {
			s.failing = append(s.failing, failing{slices.Index(s.kindOf[kDrive], pi), d.Raid0.Or(false)})
		}
		s.untold[kDrive] = s.untold[kDrive] || !d.Drive.Capacity.IsKnown() && !d.Fails()
		s.todayStorage += s.counts(d)
	}
}

// reached: enough that can be counted on, and no failing drive left but those of a striped volume, which is
// taken apart by hand.
func (driveKind) reached(s *search, x *candidate) bool {
	goal, asked := s.goals.StorageGB.Get()
	return asked && !s.untold[kDrive] && x.total >= goal && !s.failingStays(x.choice, false)
}

func (driveKind) share(s *search, x *candidate) (*big.Rat, hw.Maybe[hw.Dec]) {
	return x.total.Rat(), s.goals.StorageGB
}

func (driveKind) asItIs(s *search) candidate {
	x := s.untouched(kDrive)
	x.gain, x.total = capped(s.todayStorage, s.goals.StorageGB), s.todayStorage
	s.weighFailing(&x)
	return x
}

func (driveKind) judge(s *search, part int, known *judged) []hw.Verdict {
	full := s.parts[part].Drive
	d := *full
	d.Capacity, d.ReadMBs, d.WriteMBs, d.PowerW, d.Gen = hw.Maybe[hw.Dec]{}, hw.Maybe[hw.Dec]{}, hw.Maybe[hw.Dec]{},
		hw.Maybe[hw.Dec]{}, hw.Maybe[int]{}
	d.Heatsink, d.Rotational, d.Maker, d.Model, d.Serial = hw.Maybe[bool]{}, hw.Maybe[bool]{}, "", "", ""
	return recall(known.drive, d, func() []hw.Verdict {
		var out []hw.Verdict
		if storage.IsBayDrive(full) {
			for j := range s.ch.Bays {
				at := &s.places[s.placeIndex[s.ch.Bays[j].ID]]
				out = append(out, storage.FitBay(s.ch, j, full, part, at.occupied))
			}
			return orNoPlace(out, s.ch.Bays == nil, "bays", "drive bay")
		}
		for j := range s.ch.Slots {
			out = append(out, storage.FitSlot(s.ch, j, full, part))
		}
		return orNoPlace(out, s.ch.Slots == nil, "slots", "M.2 slot")
	})
}

func (driveKind) defaulted(s *search, f *found, p *place) []string {
	out := s.usualDefaults(p)
	if p.occupied && !p.optical && !s.bootTold {
		out = append(out, fmt.Sprintf("machine:/fitted/drives/%d/boot", p.fitted))
	}
	return out
}

func (driveKind) sits(s *search, p *place) string {
	return s.m.Fitted.Drives[p.fitted].Drive.Words()
}

func (driveKind) falls(o *Option, g *hw.Goals) string {
	has := "not known,"
	if o.Storage != nil {
		has = o.Storage.TotalGB.String()
	}
	return "storage " + has + " of " + g.StorageGB.Or(0).String() + " GB"
}

// fittedGB is what the drive in a place counts, GB.
func (s *search) fittedGB(p *place) hw.Dec {
	if p.optical {
		return 0
	}
	return s.counts(&s.m.Fitted.Drives[p.fitted])
}

// counts is what a fitted drive holds that can be counted on, GB: of a failing one nothing, and with one drive of a
// striped volume all of it goes.
func (s *search) counts(d *hw.FittedDrive) hw.Dec {
	if d.Fails() || d.Raid0.Or(false) && s.volumeFails() {
		return 0
	}
	return d.Drive.Capacity.Or(0)
}

// failing is a fitted drive that nothing on it can be counted on: its number among the places of drives, -1 where no part
// is planned into its place.
type failing struct {
	at      int
	striped bool
}

// failingStays reports whether a failing drive is left where it is, given what is done at the places of drives;
// striped says whether those of a striped volume count.
func (s *search) failingStays(choice []int32, striped bool) bool {
	for _, d := range s.failing {
		if (striped || !d.striped) && (d.at < 0 || choice[d.at] == unchanged) {
			return true
		}
	}
	return false
}

// weighFailing marks a candidate that leaves a failing drive. Where there is one, reaching the goal is compared beside
// the gigabytes: else a way that leaves it, with as many of them for less, would hide the one that replaces it.
func (s *search) weighFailing(x *candidate) {
	if len(s.failing) == 0 {
		return
	}
	if s.failingStays(x.choice, true) {
		x.flags |= fFailing
	}
	if goal, asked := s.goals.StorageGB.Get(); asked && x.total >= goal && !s.failingStays(x.choice, false) {
		x.second = 1
	}
}

// striped reports whether drives of the machine are one volume (RAID 0).
func (s *search) striped() bool {
	return slices.ContainsFunc(s.m.Fitted.Drives, func(d hw.FittedDrive) bool { return d.Raid0.Or(false) })
}

// volumeFails reports whether one of the striped drives is failing: then nothing of their volume counts.
func (s *search) volumeFails() bool {
	return slices.ContainsFunc(s.m.Fitted.Drives,
		func(d hw.FittedDrive) bool { return d.Raid0.Or(false) && d.Fails() })
}

func storageOptical(d *hw.FittedDrive) bool { return storage.IsOptical(&d.Drive) }

// candidates lists the ways to treat slots and bays. Where no drive is wanted only
// emptying is looked at, for an exclusion may ask for it.
func (driveKind) candidates(ctx context.Context, s *search) ([]group, error) {
	none := driveKind{}.asItIs(s)
	places := s.kindOf[kDrive]
	var drives []int32
	if s.wanted[kDrive] {
		drives = s.cheapestFirst(hw.KindDrive)
	}
	open := make([][]pick, len(places))
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
			x.needs = s.driveNeeds(pi, part)
			flags[i][x.part], wants[i][x.part] = x.flags, x.needs
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
		open[i] = append(open[i], s.thin(picks[i], len(places), everywhere)...)
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
			out.gaveWay |= bit
			out.total -= s.fittedGB(p)
			walk(i+1, out)
		}
		for j := range open[i] {
			part := &open[i][j]
			choice[i] = part.part
			in := x
			in.changed |= bit
			in.used |= bit
			in.flags |= part.flags
			if part.needs != (needs{}) {
				in.needs = in.needs.plus(part.needs)
			}
			in.total += part.size
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
	s.weighFailing(&x)
	c.add(x)
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
func (s *search) driveNeeds(pi, part int) (n needs) {
	p := &s.places[pi]
	if p.bay {
		if p.occupied && !p.optical {
			return n
		}
		b := &s.ch.Bays[p.Index]
		connector, caddy := b.Connector.Or(""), b.Caddy.Or("")
		if caddy != connector {
			s.need(&n, caddy)
		}
		// An optical drive shows that the connector is there.
		if !p.optical || caddy == connector {
			s.need(&n, connector)
		}
		return n
	}
	mm := s.parts[part].Drive.Length.Or(0)
	if !p.occupied || s.m.Fitted.Drives[p.fitted].Drive.Length.Or(-1) != mm {
		s.need(&n, s.ch.Slots[p.Index].Lengths[strconv.Itoa(mm)])
	}
	return n
}

func (driveKind) own(o *own, choice []int32) *candidate {
	s := o.s
	c := &candidate{pack: noPack, choice: choice, total: s.todayStorage}
	for i, pi := range s.kindOf[kDrive] {
		p := &s.places[pi]
		bit := uint64(1) << pi
		part := c.choice[i]
		old := hw.Dec(0)
		if p.occupied {
			old = s.fittedGB(p)
		}
		switch {
		case part == unchanged && p.occupied:
			c.used |= bit
		case part == unchanged:
		case part == remove:
			c.changed |= bit
			c.removed |= bit
			c.total -= old
			if s.isBoot(p.fitted) {
				o.refuse(p.id, hw.CodeBootReplaced, "the boot drive is taken out and nothing put in its place")
			}
		default:
			c.changed |= bit
			c.used |= bit
			if !p.occupied {
				c.fresh |= bit
			}
			c.flags |= s.driveFlags(pi, int(part))
			c.needs = c.needs.plus(s.driveNeeds(pi, int(part)))
			c.total += s.parts[part].Drive.Capacity.Or(0) - old
		}
	}
	s.weighFailing(c)
	o.cost(c)
	return c
}
