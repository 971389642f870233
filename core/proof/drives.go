package proof

import (
	"encoding/json"

	"yembo/core/hw"
	"yembo/core/reading"
	"yembo/core/storage"
)

// planned is a drive that should be in a place.
type planned struct {
	place    hw.Place
	fitted   *hw.FittedDrive
	drive    *hw.Drive
	seen     int  // number of the drive in the report that is it, -1 for none
	bySerial bool // the serials say that it is
	linkLine int  // number of the line that compares its link, -1 for none
}

// planned are the drives that the machine should have, in the chassis's order; told says that
// its document tells them.
func (c *comparer) planned() (out []planned, told bool) {
	for _, p := range c.ch.Places() {
		for i := range c.m.Fitted.Drives {
			if f := &c.m.Fitted.Drives[i]; f.Place == p.ID && !storage.IsOptical(&f.Drive) {
				out = append(out, planned{place: p, fitted: f, drive: &f.Drive, seen: -1, linkLine: -1})
			}
		}
	}
	return out, c.m.Fitted.Drives != nil
}

// match finds the drive of the report that each planned one is: by serial, then by interface and
// capacity where not both tell a serial, then by interface, then what is left.
func (c *comparer) match(list []planned) (left []int) {
	taken := make([]bool, len(c.o.Drives))
	pass := func(is func(p *planned, d *reading.Drive) bool) {
		for i := range list {
			for k := range c.o.Drives {
				if list[i].seen < 0 && !taken[k] && is(&list[i], &c.o.Drives[k]) {
					list[i].seen, taken[k] = k, true
					list[i].bySerial = list[i].drive.Serial != "" && list[i].drive.Serial == c.o.Drives[k].Serial
				}
			}
		}
	}
	alike := func(p *planned, d *reading.Drive) bool {
		return p.drive.Interface != "" && p.drive.Interface == d.Interface
	}
	pass(func(p *planned, d *reading.Drive) bool { return d.Serial != "" && p.drive.Serial == d.Serial })
	pass(func(p *planned, d *reading.Drive) bool {
		return (p.drive.Serial == "" || d.Serial == "") && alike(p, d) && sameSize(p.drive, d)
	})
	pass(alike)
	pass(func(*planned, *reading.Drive) bool { return true })
	for k := range taken {
		if !taken[k] {
			left = append(left, k)
		}
	}
	return left
}

// bytesPerGB is what drives are sold by.
const bytesPerGB = 1_000_000_000

// sameSize reports a capacity within 1 % of the planned one, both told.
func sameSize(p *hw.Drive, d *reading.Drive) bool {
	want, told := p.Capacity.Get()
	bytes, known := d.Capacity.Get()
	if !told || !known {
		return false
	}
	// Dec counts millionths of a GB, which are thousands of bytes.
	off := int64(want)*1000 - bytes
	if off < 0 {
		off = -off
	}
	return off*100 <= int64(want)*1000
}

func (c *comparer) drives() {
	list, told := c.planned()
	if !told || c.o.Drives == nil {
		if told {
			for i := range list {
				c.link(list, i)
			}
		}
		return
	}
	left := c.match(list)
	for i := range list {
		p := &list[i]
		if p.seen < 0 {
			c.add(p.place.ID, whatDrive, p.drive, nil, false, DriveAbsent)
			continue
		}
		d := &c.o.Drives[p.seen]
		if p.drive.Serial != "" && d.Serial != "" {
			c.add(p.place.ID, whatSerial, p.drive.Serial, d.Serial, p.drive.Serial == d.Serial, OtherDrive)
		}
		if want, ok := p.drive.Capacity.Get(); ok && d.Capacity.IsKnown() {
			c.add(p.place.ID, whatCapacity, want, (d.Capacity.Or(0)+bytesPerGB/2)/bytesPerGB, sameSize(p.drive, d), OtherDrive)
		}
		if p.drive.Interface != "" && d.Interface != "" {
			c.add(p.place.ID, whatInterface, p.drive.Interface, d.Interface, p.drive.Interface == d.Interface, OtherDrive)
		}
		c.wornOut(p, d)
		c.link(list, i)
	}
	c.swapped(list)
	for _, k := range left {
		c.add(PlaceDrives, whatDrive, nil, &c.o.Drives[k], false, OtherDrive)
	}
}

// link compares how a drive's link runs with the lower of what slot and drive allow: the i-th
// link of the report is that of its i-th NVMe drive, where there are as many of both.
func (c *comparer) link(list []planned, i int) {
	p := &list[i]
	if p.place.Kind != hw.InSlot || p.drive.Interface != hw.NVMe {
		return
	}
	var links []*reading.Link
	for k := range c.o.Links {
		if c.o.Links[k].Class == "nvme" {
			links = append(links, &c.o.Links[k])
		}
	}
	drives, own := 0, -1
	if c.o.Drives != nil {
		for k := range c.o.Drives {
			if c.o.Drives[k].Interface == hw.NVMe {
				if k == p.seen {
					own = drives
				}
				drives++
			}
		}
	} else {
		for k := range list {
			if list[k].drive.Interface == hw.NVMe {
				if k == i {
					own = drives
				}
				drives++
			}
		}
	}
	if own < 0 || drives != len(links) {
		return
	}
	slot, l := &c.ch.Slots[p.place.Index], links[own]
	want, seen := map[string]int{}, map[string]int{}
	same := true
	for _, x := range []struct {
		name             string
		slot, drive, now hw.Maybe[int]
	}{{"gen", slot.Gen, p.drive.Gen, l.NowGen}, {"lanes", slot.Lanes, p.drive.Lanes, l.NowLanes}} {
		a, okA := x.slot.Get()
		b, okB := x.drive.Get()
		now, ok := x.now.Get()
		if !okA || !okB || !ok {
			continue
		}
		want[x.name], seen[x.name] = min(a, b), now
		same = same && min(a, b) == now
	}
	if len(want) > 0 {
		p.linkLine = len(c.lines)
		c.add(p.place.ID, whatLink, want, seen, same, LinkDiffers)
		c.lines[p.linkLine].Idles = !same && seen["gen"] == 1 && want["gen"] > 1
	}
}

// The most that a drive sold as new has run, in hours and per cent.
const (
	newHours = 24
	newWear  = 2
)

// wornOut compares what a drive says of itself: that it is well, and of a new one that nobody used it.
func (c *comparer) wornOut(p *planned, d *reading.Drive) {
	if well, told := d.Healthy.Get(); told && !p.fitted.Fails() {
		c.add(p.place.ID, whatHealthy, true, well, well, DriveFailing)
	}
	if !p.fitted.New.Or(false) {
		return
	}
	if h, told := d.PowerOn.Get(); told {
		c.add(p.place.ID, whatPowerOn, newHours, h, h <= newHours, DriveUsed)
	}
	if n, told := d.Wear.Get(); told {
		c.add(p.place.ID, whatWear, newWear, n, n <= newWear, DriveUsed)
	}
}

// swapped marks pairs of drives, each known by its serial, whose links both differ and run as each would in the
// other's slot.
func (c *comparer) swapped(list []planned) {
	for i := range list {
		for k := range i {
			a, b := &list[i], &list[k]
			if !a.bySerial || !b.bySerial || !c.differs(a) || !c.differs(b) || !c.runsAsIn(a, b) || !c.runsAsIn(b, a) {
				continue
			}
			c.lines[a.linkLine].Swapped, c.lines[b.linkLine].Swapped = true, true
		}
	}
}

func (c *comparer) differs(p *planned) bool { return p.linkLine >= 0 && c.lines[p.linkLine].Code != "" }

// runsAsIn reports whether a drive's link runs as it would in the slot of another.
func (c *comparer) runsAsIn(p, other *planned) bool {
	seen := map[string]int{}
	if err := json.Unmarshal(c.lines[p.linkLine].Observed, &seen); err != nil {
		return false
	}
	slot := &c.ch.Slots[other.place.Index]
	for name, x := range map[string][2]hw.Maybe[int]{"gen": {slot.Gen, p.drive.Gen}, "lanes": {slot.Lanes, p.drive.Lanes}} {
		now, told := seen[name]
		a, okA := x[0].Get()
		b, okB := x[1].Get()
		if told && (!okA || !okB || min(a, b) != now) {
			return false
		}
	}
	return true
}

// battery compares the pack: its design within 5 %, and of a new one what it holds when full.
func (c *comparer) battery() {
	f := c.m.Fitted.Battery
	if f == nil || c.o.Batteries == nil {
		return
	}
	design := hw.Maybe[hw.Dec]{}
	if i := c.ch.BatteryByID(f.Option); f.Option != "" && i >= 0 {
		design = c.ch.Batteries[i].DesignWh
	}
	want, told := design.Get()
	if len(c.o.Batteries) == 0 {
		if told {
			c.add(hw.BatteryPlace, whatDesign, want, nil, false, OtherBattery)
		}
		return
	}
	pack := &c.o.Batteries[0]
	for i := range c.o.Batteries {
		if wh, ok := c.o.Batteries[i].Design.Get(); told && ok && within5(wh, want) {
			pack = &c.o.Batteries[i]
			break
		}
	}
	if wh, ok := pack.Design.Get(); told && ok {
		c.add(hw.BatteryPlace, whatDesign, want, wh, within5(wh, want), OtherBattery)
		if !within5(wh, want) {
			return
		}
	}
	full, fullTold := f.FullWh.Get()
	wh, ok := pack.Full.Get()
	if told && fullTold && ok && full >= want {
		c.add(hw.BatteryPlace, whatFull, full, wh, wh*100 >= want*95, BatteryLow)
	}
}

// within5 reports a figure within 5 % of another.
func within5(got, want hw.Dec) bool {
	off := got - want
	if off < 0 {
		off = -off
	}
	return off*100 <= want*5
}
