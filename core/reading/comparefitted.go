package reading

import (
	"fmt"
	"slices"
	"strings"

	"yembo/core/hw"
	"yembo/core/label"
)

// modules compares what is in the sockets, and soldered memory of this very machine.
func (c *comparer) modules() {
	o := c.o.Memory
	if o == nil || len(o.Devices) == 0 {
		return
	}
	ch := c.ch.Mem()
	var socketed []Device
	soldered := 0
	for _, d := range o.Devices {
		if !d.Soldered.Or(false) {
			socketed = append(socketed, d)
			continue
		}
		if soldered < len(ch.Soldered) {
			c.soldered(&ch.Soldered[soldered], d)
		} else {
			c.add(Line{Key: "soldered", What: "Soldered memory", Read: gbOf(d.Capacity), How: Contradicts,
				Believed: "none recorded",
				Rule:     "firmware may lie about soldered memory; look at the board, then add it to the record"})
		}
		soldered++
	}
	if len(ch.Sockets) == 0 {
		return
	}
	ids := make([]string, len(ch.Sockets))
	for i := range ch.Sockets {
		ids[i] = ch.Sockets[i].ID
	}
	in := c.socketOf(socketed, ids)
	for _, id := range ids {
		c.socket(id, in[id])
	}
	for i, d := range socketed {
		if d.Capacity.Or(0) > 0 && in[""] != nil && i >= len(ids) {
			m := d.module()
			c.add(Line{Key: "memory-more", What: "Module " + d.Locator, Believed: "no such socket",
				Read: ModuleWords(&m), How: Contradicts,
				Rule: "the record has fewer sockets; look at the board before the reading is believed"})
		}
	}
}

// socketOf finds the socket of each device that holds something: by name where the
// names agree, else in the order of both lists, unless a person said otherwise.
func (c *comparer) socketOf(devices []Device, ids []string) map[string]*Device {
	out := map[string]*Device{}
	for i := range devices {
		d := &devices[i]
		if d.Capacity.Or(0) <= 0 {
			continue
		}
		proposed := ""
		if i < len(ids) {
			proposed = ids[i]
		}
		for _, id := range ids {
			if strings.EqualFold(strings.ReplaceAll(d.Locator, " ", ""), id) {
				proposed = id
			}
		}
		if id := c.place(fmt.Sprintf("device-%d", i), "Module "+orElse(d.Locator, fmt.Sprint(i+1)), proposed,
			ids); out[id] == nil {
			out[id] = d
		}
	}
	return out
}

func (c *comparer) soldered(s *hw.Soldered, d Device) {
	gb, ok := d.Capacity.Get()
	if !ok {
		return
	}
	believed := s.Capacity
	if own, ok := c.m.Fitted.SolderedGB[s.ID]; ok {
		believed = own
	}
	said := Line{Key: "soldered-" + s.ID, What: "Soldered " + s.ID, Believed: believed.String() + " GB",
		Read: gb.String() + " GB"}
	if gb != believed {
		said.fit = func(m *hw.Machine) {
			if m.Fitted.SolderedGB == nil {
				m.Fitted.SolderedGB = map[string]hw.Dec{}
			}
			m.Fitted.SolderedGB[s.ID] = gb
		}
	}
	l := c.add(said)
	if l.How == Contradicts {
		l.Rule, l.Advised = "models are sold with different soldered memory: it is taken for this machine alone, "+
			"the record stays", true
	}
	at := "/memory/soldered/" + s.ID
	if mts, told := d.Rated.Get(); told {
		mts = label.Snap(mts)
		c.fact(at+"/speed_mts", "Speed of soldered "+s.ID, intWords(s.Speed, " MT/s"), fmt.Sprintf("%d MT/s", mts), mts)
	}
	// Chips of another capacity have ranks of their own.
	if n, told := d.Ranks.Get(); told && s.Capacity == gb {
		c.fact(at+"/ranks", "Ranks of soldered "+s.ID, intWords(s.Ranks, ""), fmt.Sprint(n), n)
	}
}

// intWords is a figure with its unit, "" where it is not known.
func intWords(m hw.Maybe[int], unit string) string {
	if n, ok := m.Get(); ok {
		return fmt.Sprint(n) + unit
	}
	return ""
}

// socket compares one socket. The group is accepted as one: with some sockets told and
// others not, the others would count as empty.
func (c *comparer) socket(id string, d *Device) {
	l := Line{Key: "memory", What: "In " + id, Read: "empty"}
	if c.m.Fitted.Memory != nil {
		l.Believed = "empty"
	}
	at := -1
	for i := range c.m.Fitted.Memory {
		if c.m.Fitted.Memory[i].Socket == id {
			at = i
			l.Believed = ModuleWords(&c.m.Fitted.Memory[i].Module)
		}
	}
	var module hw.Module
	if d != nil {
		module = d.module()
		l.Read = ModuleWords(&module)
	}
	if at >= 0 && d != nil && agrees(c.m.Fitted.Memory[at].Module, module) {
		l.How = Same
	}
	l.fit = func(m *hw.Machine) {
		kept := []hw.FittedModule{}
		for _, f := range m.Fitted.Memory {
			if f.Socket != id {
				kept = append(kept, f)
			} else if at >= 0 && d != nil {
				// What a label told and a reading does not stays.
				module = filled(module, f.Module)
			}
		}
		if d != nil {
			kept = append(kept, hw.FittedModule{Socket: id, Module: module})
		}
		m.Fitted.Memory = kept
	}
	line := c.add(l)
	line.Advised = line.How != Same
	switch {
	case line.How == New:
		line.Rule = "what is fitted was not known"
	case line.How == Contradicts && d == nil:
		line.Rule = "a module that is not seated reads as empty: look before it is taken out of the record"
		line.Advised = false
	case line.How == Contradicts:
		line.Rule = "the machine tells what is in it now"
	}
}

// agrees reports whether two modules say the same where both say something.
func agrees(a, b hw.Module) bool {
	return hw.MaybeEqual(a.Capacity, b.Capacity) && (a.Type == b.Type || a.Type == "" || b.Type == "") &&
		(!a.Speed.IsKnown() || !b.Speed.IsKnown() || hw.MaybeEqual(a.Speed, b.Speed)) &&
		(!a.Ranks.IsKnown() || !b.Ranks.IsKnown() || hw.MaybeEqual(a.Ranks, b.Ranks))
}

func filled(m, from hw.Module) hw.Module {
	if !hw.MaybeEqual(m.Capacity, from.Capacity) {
		return m // another module
	}
	m.Type, m.Form, m.Maker = orElse(m.Type, from.Type), orElse(m.Form, from.Form), orElse(m.Maker, from.Maker)
	m.PartNumber, m.Serial = orElse(m.PartNumber, from.PartNumber), orElse(m.Serial, from.Serial)
	if !m.Speed.IsKnown() {
		m.Speed = from.Speed
	}
	if !m.Ranks.IsKnown() {
		m.Ranks = from.Ranks
	}
	if !m.Voltage.IsKnown() {
		m.Voltage = from.Voltage
	}
	if !m.ECC.IsKnown() {
		m.ECC = from.ECC
	}
	return m
}

// drives compares each drive with the one believed in its place.
func (c *comparer) drives() {
	taken := map[string]bool{}
	for i := range c.o.Drives {
		d := &c.o.Drives[i]
		all := c.drivePlaces(d)
		proposed := ""
		for _, f := range c.m.Fitted.Drives {
			if !taken[f.Place] && sameDrive(f.Drive, d) && slices.Contains(all, f.Place) {
				proposed = f.Place
				break
			}
		}
		for _, p := range all {
			if proposed == "" && !taken[p] {
				proposed = p
			}
		}
		place := c.place(fmt.Sprintf("drive-%d", i), "Drive "+orElse(d.Model, fmt.Sprint(i+1)), proposed, all)
		taken[place] = true
		c.drive(i, place, d)
	}
	asked := len(c.o.Drives) > 0
	for _, name := range c.o.From {
		asked = asked || name == "lspci" || name == "lshw" || name == "nvme" || name == "cim"
	}
	for _, f := range c.m.Fitted.Drives {
		if !taken[f.Place] && asked {
			c.add(Line{Key: "silent-" + f.Place, What: "Drive in " + f.Place,
				Believed: driveWords(f.Drive.Capacity, f.Drive.Interface), Read: "no report of it", How: Contradicts,
				Rule: "it was not asked, or does not answer: not seated, refused by the slot, or switched off in " +
					"firmware; it stays in the record"})
		}
	}
}

// drivePlaces are the slots and bays that take a drive of that kind.
func (c *comparer) drivePlaces(d *Drive) []string {
	var out []string
	for _, p := range c.ch.Places() {
		if p.Takes != hw.KindDrive {
			continue
		}
		if p.Kind == hw.InSlot {
			s := &c.ch.Slots[p.Index]
			if d.Interface == "" || s.Protocols == nil || slices.Contains(s.Protocols, d.Interface) {
				out = append(out, p.ID)
			}
		} else if d.Interface != hw.NVMe {
			out = append(out, p.ID)
		}
	}
	return out
}

// sameDrive reports whether a drive read can be the one believed: interface and size,
// the size within the tenth that makers round by.
func sameDrive(b hw.Drive, d *Drive) bool {
	if b.Interface != "" && d.Interface != "" && b.Interface != d.Interface {
		return false
	}
	gb, ok := b.Capacity.Get()
	n, told := d.Capacity.Get()
	if !ok || !told {
		return true
	}
	read := sizeOf(n)
	return read*10 >= gb*9 && read*9 <= gb*10
}

// sizeOf is a drive's size in GB of 10^9, as drives are sold.
func sizeOf(bytes int64) hw.Dec {
	return hw.DecOf(int((bytes + 500_000_000) / 1_000_000_000))
}

func driveWords(gb hw.Maybe[hw.Dec], kind hw.Interface) string {
	return strings.TrimSpace(gbOf(gb) + " " + hw.Interfaces.Says(kind))
}

func (c *comparer) drive(i int, place string, d *Drive) {
	l := Line{Key: fmt.Sprintf("drive-%d", i), What: "Drive in " + place}
	size := hw.Maybe[hw.Dec]{}
	if n, ok := d.Capacity.Get(); ok {
		size = hw.Known(sizeOf(n))
	}
	l.Read = driveWords(size, d.Interface)
	if d.Model != "" {
		l.Read += ", " + d.Model
	}
	if w, ok := d.Wear.Get(); ok {
		l.Read += fmt.Sprintf(", %d %% worn", w)
	}
	if h, ok := d.PowerOn.Get(); ok {
		l.Read += fmt.Sprintf(", %d h", h)
	}
	failing := d.Healthy.IsKnown() && !d.Healthy.Or(true)
	if failing {
		l.Read += ", says of itself that it fails"
	}
	if place == "" {
		l.What, l.Believed, l.How, l.Rule = "Drive", "no place for it", Contradicts,
			"no slot or bay of the record takes a drive of this kind: look before the reading is believed"
		c.add(l)
		return
	}
	at := -1
	for k := range c.m.Fitted.Drives {
		if c.m.Fitted.Drives[k].Place == place {
			at = k
		}
	}
	l.How = New
	if at >= 0 {
		f := &c.m.Fitted.Drives[at]
		l.Believed = driveWords(f.Drive.Capacity, f.Drive.Interface)
		l.How = sameAs(sameDrive(f.Drive, d) && f.Failing.Or(false) == failing)
	} else if c.m.Fitted.Drives != nil {
		l.Believed, l.How = "empty", Contradicts
	}
	l.fit = func(m *hw.Machine) {
		drive := hw.FittedDrive{Place: place}
		k := -1
		for j := range m.Fitted.Drives {
			if m.Fitted.Drives[j].Place == place {
				k = j
				if sameDrive(m.Fitted.Drives[j].Drive, d) {
					drive = m.Fitted.Drives[j] // what was known of it stays
				}
			}
		}
		drive.Drive.Interface = orElse(d.Interface, drive.Drive.Interface)
		drive.Drive.Model, drive.Drive.Serial = orElse(d.Model, drive.Drive.Model), orElse(d.Serial, drive.Drive.Serial)
		if size.IsKnown() && !drive.Drive.Capacity.IsKnown() {
			drive.Drive.Capacity = size
		}
		if d.Healthy.IsKnown() {
			drive.Failing = hw.Known(failing)
		}
		if k < 0 {
			m.Fitted.Drives = append(m.Fitted.Drives, drive)
			return
		}
		m.Fitted.Drives[k] = drive
	}
	line := c.add(l)
	switch line.Advised = line.How != Same; {
	case line.How == New:
		line.Rule = "which drives are fitted was not known; places without a drive count as empty from here on"
	case line.How == Contradicts && failing:
		line.Rule = "its own health report says so: back up what is on it before anything is opened"
	case line.How == Contradicts:
		line.Rule = "the machine tells what is in it now; the place is worth a look"
	}
}
