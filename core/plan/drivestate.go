package plan

import (
	"fmt"

	"yembo/core/hw"
	"yembo/core/storage"
)

// dataAtStake reports whether a drive with data on it, or the boot drive, is
// replaced or removed.
func (s *search) dataAtStake(f *found) bool {
	for i, pi := range s.kindOf[kDrive] {
		p := &s.places[pi]
		if f.parts[kDrive].choice[i] == unchanged || !p.occupied || p.optical {
			continue
		}
		used, known := s.m.Fitted.Drives[p.fitted].UsedGB.Get()
		if !known || used > 0 || s.isBoot(p.fitted) {
			return true
		}
	}
	return false
}

// after fills the links of all drives in use, the migration and the warnings.
func (driveKind) after(s *search, o *after, f *found) {
	for i := range s.m.Fitted.Drives {
		d := &s.m.Fitted.Drives[i]
		if pi, ok := s.placeIndex[d.Place]; ok && d.Fails() && s.choiceAt(f, pi) == unchanged {
			o.warn(hw.CodeDriveFailing, d.Place, "the drive that stays there is failing: what is on it can be gone any day")
		}
		if d.Encrypted.Or(false) && s.locksData() {
			o.warn(hw.CodeEncrypted, d.Place, "the drive is encrypted, and the service changes what it is locked to: have the "+
				"recovery key first, and suspend it")
		}
	}
	if s.untold[kDrive] {
		return
	}
	o.storage = &StorageState{TotalGB: f.parts[kDrive].total.Tenths(), Links: []Link{}}
	changes := f.parts[kDrive].changed != 0
	for pi := range s.places {
		p := &s.places[pi]
		if p.kind == kMemory || p.kind == kBattery || (p.kind == kWireless && !s.hasDrive(p)) {
			continue
		}
		c := s.choiceAt(f, pi)
		var old *hw.FittedDrive
		if s.hasDrive(p) {
			old = &s.m.Fitted.Drives[p.fitted]
		}
		if p.optical {
			if c != unchanged {
				o.warn(hw.CodeOpticalOut, p.id, "the optical drive comes out: discs are read no more without one")
			}
			if c >= remove {
				continue
			}
			old = nil
		}
		if old != nil && c != unchanged {
			s.dataOut(o, p, old)
		}
		if old != nil && changes && old.Raid0.Or(false) {
			o.warn(hw.CodeRaid0, p.id, "two drives run as one volume: if either fails or is taken out, all on both "+
				"is lost")
		}
		var d *hw.Drive
		switch {
		case c < remove:
			d = s.parts[c].Drive
		case c == unchanged && old != nil:
			d = &old.Drive
		default:
			continue
		}
		slot := s.slotOf(p)
		link := storage.Connect(p.id, slot, d)
		o.storage.Links = append(o.storage.Links, linkState(link))
		if storage.HeldBack(link, d) {
			o.warn(hw.CodeHeldBack, p.id, "the drive reads %s MB/s, its link carries %d MB/s", d.ReadMBs.Or(0),
				link.MBs.Or(0))
		}
		if c < remove {
			s.driveWarnings(o, p, slot, old, d, link)
			if slot != nil && (slot.Cooling.Or("") == hw.Pad || slot.Cooling.Or("") == hw.Spreader) {
				o.warn(hw.CodeKeepPad, p.id, "the slot has a %s: it belongs back on the new drive", slot.Cooling.Or(""))
			}
		}
	}
}

// dataOut warns of a drive with data, not the boot drive, that comes out.
func (s *search) dataOut(o *after, p *place, old *hw.FittedDrive) {
	used, known := old.UsedGB.Get()
	switch {
	case s.isBoot(p.fitted) || known && used == 0:
	case known:
		o.warn(hw.CodeDataOut, p.id, "%s GB on the drive that comes out need a place first", used)
	default:
		o.warn(hw.CodeDataOut, p.id, "how much is on the drive that comes out is not known: what is there needs a "+
			"place first")
	}
}

func (s *search) hasDrive(p *place) bool {
	return p.occupied && p.kind != kWireless
}

func (s *search) driveWarnings(o *after, p *place, slot *hw.Slot, old *hw.FittedDrive, d *hw.Drive, link storage.Link) {
	if d.Rotational.Or(false) {
		o.warn(hw.CodeRotational, p.id, "a spinning drive: slow to answer, and not to be knocked while it runs")
	}
	statedMax := hw.Maybe[hw.Dec]{}
	if slot != nil {
		statedMax = slot.StatedMax
		if storage.Hot(link, slot, d) {
			o.warn(hw.CodeHot, p.id, "a link of %d MB/s and %s W in a slot without cooling: a cooler drive of the "+
				"previous generation is the better buy for everyday work", link.MBs.Or(0), wattWords(d))
		}
		if d.Heatsink.Or(false) && slot.Cooling.Or("") == hw.Shroud {
			o.warn(hw.CodeHeatsink, p.id, "the drive has its own heat spreader, and the slot a shroud: the two do "+
				"not go together")
		}
	} else {
		statedMax = s.ch.Bays[p.Index].StatedMax
	}
	capacity := d.Capacity.Or(0)
	if most, ok := statedMax.Get(); ok && capacity > most {
		o.warn(hw.CodeStatedLimit, p.id,
			"%s GB; the maker states %s GB, which is what was sold, not a limit of the interface", capacity, most)
	}
	if old == nil {
		return
	}
	oldLink := storage.Connect(p.id, slot, &old.Drive)
	if storage.NoGain(oldLink, link, &old.Drive, d) {
		o.warn(hw.CodeDriveNoGain, p.id, "generation %d after %d, but the link stays at %d MB/s", d.Gen.Or(0),
			old.Drive.Gen.Or(0), link.MBs.Or(0))
	}
	if !s.isBoot(p.fitted) {
		return
	}
	o.warn(hw.CodeBootReplaced, p.id, "the boot drive is replaced: backup first, then a copy or a clean installation")
	if old.Encrypted.Or(false) && !s.locksData() {
		o.warn(hw.CodeEncrypted, p.id, "old drive is encrypted: suspend encryption and have the recovery key first")
	}
	if old.PartitionTable.Or("") == "mbr" && capacity > storage.MBRLimitGB {
		o.warn(
			hw.CodeMBR,
			p.id,
			"the old drive has an MBR partition table, which ends at 2 TiB (%s GB); %s GB need GPT",
			storage.MBRLimitGB.Tenths(),
			capacity,
		)
	}
	o.migration = &Migration{Place: p.id, How: hw.Clean}
	if s.practice.Migration.Or(hw.Clone) != hw.Clone {
		return
	}
	clone := storage.PlanClone(old, d, link)
	if !clone.Possible {
		o.warn(hw.CodeCleanInstall, p.id, "a copy is not possible: %s; a clean installation instead", clone.Why)
		return
	}
	o.migration.How, o.migration.Minutes = hw.Clone, clone.Minutes
}

func wattWords(d *hw.Drive) string {
	if w, ok := d.PowerW.Get(); ok {
		return w.String()
	}
	return "an unknown number of"
}

func (s *search) explainDrives(o *Option) []Term {
	var out []Term
	for pi := range s.places {
		p := &s.places[pi]
		if p.kind != kDrive && p.kind != kNone || p.optical && doneAt(o, p.id) == DoKeep {
			continue
		}
		var d *hw.Drive
		if part := s.partOf(o, p.id); part != nil && part.Drive != nil {
			d = part.Drive
		} else if p.occupied && doneAt(o, p.id) == DoKeep {
			d = &s.m.Fitted.Drives[p.fitted].Drive
		}
		if d == nil {
			continue
		}
		out = append(out, Term{p.id, linkSum(s.slotOf(p), p.id, d)})
	}
	return out
}

// linkSum says what a drive's link carries and what holds it back.
func linkSum(slot *hw.Slot, place string, d *hw.Drive) string {
	l := storage.Connect(place, slot, d)
	mbs, known := l.MBs.Get()
	if !known {
		return "generation or lanes of slot or drive are not yet known"
	}
	read, told := d.ReadMBs.Get()
	var link string
	if d.Interface == hw.SATA {
		link = fmt.Sprintf("SATA carries %d MB/s", mbs)
	} else {
		link = fmt.Sprintf("generation %d × %d lanes carry %d MB/s", l.Gen.Or(0), l.Lanes.Or(0), mbs)
		if sg, dg := slot.Gen.Or(0), d.Gen.Or(0); sg != dg {
			link += fmt.Sprintf(" (slot %d, drive %d)", sg, dg)
		}
	}
	switch {
	case !told:
		return link + "; what the drive reads is not known"
	case storage.HeldBack(l, d):
		return fmt.Sprintf("%s; the drive could read %s: the link holds it back", link, read)
	}
	return fmt.Sprintf("%s; the drive reads %s: its own speed", link, read)
}
