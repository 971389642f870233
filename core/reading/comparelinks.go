package reading

import (
	"fmt"
	"slices"
	"strings"
	"yembo/core/hw"
)

// links compares what a link reached with the slot of the drive that hangs on it: only
// where there is one NVMe drive and one link is it clear whose link it is.
func (c *comparer) links() {
	var nvme []*Link
	for i := range c.o.Links {
		if c.o.Links[i].Class == "nvme" {
			nvme = append(nvme, &c.o.Links[i])
		}
	}
	var slots []*hw.Slot
	for i := range c.ch.Slots {
		if s := &c.ch.Slots[i]; s.Purpose == hw.ForStorage &&
			(s.Protocols == nil || slices.Contains(s.Protocols, hw.NVMe)) && c.mayHold(s.ID) {
			slots = append(slots, s)
		}
	}
	for _, l := range nvme {
		gen, lanes := l.NowGen.Or(0), l.NowLanes.Or(0)
		if gen == 0 || lanes == 0 {
			c.add(Line{Key: "link-" + l.Address, What: "Link " + l.Address, Read: "not known", How: New,
				Rule: "run lspci -vv with the rights to read links"})
			continue
		}
		read := fmt.Sprintf("generation %d × %d", gen, lanes)
		if cg, cl := l.CapGen.Or(gen), l.CapLanes.Or(lanes); cg != gen || cl != lanes {
			read += fmt.Sprintf(", the drive can do %d × %d", cg, cl)
		}
		if len(nvme) != 1 || len(slots) != 1 {
			c.add(Line{Key: "link-" + l.Address, What: "Link " + l.Address, Read: read, How: New,
				Rule: "several slots may have it: which one is not known"})
			continue
		}
		c.link(l, slots[0], read, gen, lanes)
	}
}

// mayHold reports whether a drive is in a place, or may be.
func (c *comparer) mayHold(place string) bool {
	for _, f := range c.m.Fitted.Drives {
		if f.Place == place {
			return true
		}
	}
	return c.m.Fitted.Drives == nil
}

func (c *comparer) link(l *Link, s *hw.Slot, read string, gen, lanes int) {
	slotGen, genKnown := s.Gen.Get()
	slotLanes, lanesKnown := s.Lanes.Get()
	line := Line{Key: "link-" + l.Address, What: "Link of " + s.ID, Read: read}
	if genKnown && lanesKnown {
		line.Believed = fmt.Sprintf("generation %d × %d", slotGen, slotLanes)
	}
	canGen := l.CapGen.Or(gen)
	switch {
	case genKnown && gen > slotGen || lanesKnown && lanes > slotLanes:
		line.How, line.Rule = Contradicts,
			"a link cannot run faster than its slot: the record is too low, correct it when the slot was looked at"
	case genKnown && lanesKnown && gen == min(slotGen, canGen) && lanes == min(slotLanes, l.CapLanes.Or(lanes)):
		line.How, line.Rule = Same, "as slot and drive allow"
	case genKnown && lanesKnown:
		line.How, line.Rule = Contradicts,
			"slower than slot and drive allow: dirty contacts, shared lanes, or the slot is lower than recorded"
	case !genKnown && canGen > gen:
		c.fact("/slots/"+s.ID+"/pcie_gen", "Generation of "+s.ID, "", fmt.Sprint(gen),
			gen).Rule = "the drive could do more, so the slot holds it back"
		line.How = New
	default:
		line.How, line.Rule = New, "the slot does at least this; its own limit is not known by a drive that is no faster"
	}
	c.add(line)
}

// batteries compares each pack with the model's packs, known by their design capacity.
func (c *comparer) batteries() {
	for i, b := range c.o.Batteries {
		design, ok := b.Design.Get()
		if !ok {
			continue
		}
		var option *hw.Battery
		var ids []string
		for k := range c.ch.Batteries {
			p := &c.ch.Batteries[k]
			if own := c.m.Fitted.Battery; own != nil && own.Option == p.ID && !p.DesignWh.IsKnown() && option == nil {
				option = p
			}
			if wh, ok := p.DesignWh.Get(); ok {
				ids = append(ids, p.ID)
				if near(wh, design) {
					option = p
				}
			}
		}
		if option == nil {
			c.add(Line{Key: fmt.Sprintf("pack-%d", i), What: "Battery", Believed: strings.Join(ids, ", "),
				Read: design.String() + " Wh", How: Contradicts,
				Rule: "no pack of the record has this design capacity: read its label when it is open"})
			continue
		}
		c.pack(i, &b, option, design)
	}
}

// near: figures of a label and of a pack's own meter agree within 3 %.
func near(a, b hw.Dec) bool { return a*100 >= b*97 && b*100 >= a*97 }

func (c *comparer) pack(i int, b *Battery, option *hw.Battery, design hw.Dec) {
	if !option.DesignWh.IsKnown() {
		c.fact("/batteries/"+option.ID+"/design_wh", "Design capacity of "+option.ID, "", design.String()+" Wh", design)
	}
	if v, ok := b.Voltage.Get(); ok && !option.NominalV.IsKnown() {
		c.fact("/batteries/"+option.ID+"/nominal_v", "Nominal voltage of "+option.ID, "", v.String()+" V", v)
	}
	l := Line{Key: fmt.Sprintf("pack-%d", i), What: "Battery: " + option.ID, Read: packWords(b.Full, b.Cycles)}
	if l.Read == "" {
		l.Read = design.String() + " Wh when new"
	}
	own := c.m.Fitted.Battery
	if own != nil && own.Option == option.ID {
		l.Believed = packWords(own.FullWh, own.Cycles)
		// What a reading does not tell does not contradict.
		if l.Believed != "" && (!b.Full.IsKnown() || hw.MaybeEqual(b.Full, own.FullWh)) &&
			(!b.Cycles.IsKnown() || hw.MaybeEqual(b.Cycles, own.Cycles)) {
			l.How = Same
		}
	} else if own != nil && own.Option != "" {
		l.Believed = hw.PackSays(own.Option)
	}
	l.fit = func(m *hw.Machine) {
		next := &hw.FittedBattery{}
		if m.Fitted.Battery != nil {
			*next = *m.Fitted.Battery // a pack that was looked at stays looked at
		}
		next.Option, next.PartNumber = option.ID, ""
		if b.Full.IsKnown() {
			next.FullWh = b.Full
		}
		if b.Cycles.IsKnown() {
			next.Cycles = b.Cycles
		}
		m.Fitted.Battery = next
	}
	line := c.add(l)
	switch line.Advised = line.How != Same; {
	case line.How == New:
		line.Rule = "from the battery's own gauge; swelling can only be seen by eye"
	case line.How == Contradicts:
		line.Rule = "the newer figure of the pack's own meter holds"
	}
}

func packWords(full hw.Maybe[hw.Dec], cycles hw.Maybe[int]) string {
	var words []string
	if wh, ok := full.Get(); ok {
		words = append(words, wh.String()+" Wh when full")
	}
	if n, ok := cycles.Get(); ok {
		words = append(words, fmt.Sprintf("%d cycles", n))
	}
	return strings.Join(words, ", ")
}
