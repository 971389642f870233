package plan

import (
	"fmt"
	"math/big"
	"slices"
	"sort"
	"strconv"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/storage"
	"yembo/core/wireless"
)

// option writes out one kept combination in full.
func (s *search) option(f *found, number int) Option {
	open := s.opened(f)
	o := Option{ID: "o" + strconv.Itoa(number+1), Buy: []Buy{}, Missing: []string{}, Warnings: []Warning{}, Consents: []hw.Consent{}}
	o.Meets, o.MeetsAll = s.meetsOf(f)
	o.PartsCents, o.LabourCents, o.TotalCents = f.partsC, open.labour, f.total
	for _, i := range s.service {
		o.Services = append(o.Services, s.ch.Services[i].ID)
	}
	if len(s.service) > 0 {
		o.ServicesCents = hw.Known(s.servicesCents)
	}
	o.Minutes = open.minutes.Shown()
	s.actions(&o, f)
	flags := open.flags | s.buy(&o, f) | s.states(&o, f)
	s.checksWarn(&o, f)
	for k := range kinds {
		flags |= f.parts[k].flags
	}
	if s.accessories(f.parts[kDrive].needs.plus(f.parts[kWireless].needs)).pulled {
		flags |= fPulled
	}
	s.risk(&o, f, flags, open.down)
	return o
}

func (s *search) meetsOf(f *found) (Meets, bool) {
	var m Meets
	all := !f.missing
	for k, to := range [kinds]*hw.Maybe[bool]{&m.Memory, &m.Storage, &m.Runtime, &m.Wireless} {
		if s.named[k] {
			*to = hw.Known(f.met[k])
			all = all && f.met[k]
		}
	}
	return m, all
}

func (s *search) actions(o *Option, f *found) {
	o.Actions = make([]Action, 0, len(s.places))
	for i := range s.places {
		p := &s.places[i]
		c := s.choiceAt(f, i)
		if p.kind != kNone && s.untold[p.kind] && c == unchanged {
			continue
		}
		a := Action{Place: p.id}
		switch {
		case c == unchanged && p.occupied:
			a.Do = DoKeep
		case c == unchanged:
			continue
		case c == remove:
			a.Do, a.Out = DoRemove, s.fittedWords(p)
		case p.occupied:
			a.Do, a.Part, a.Out = DoReplace, s.parts[c].ID, s.fittedWords(p)
		default:
			a.Do, a.Part = DoAdd, s.parts[c].ID
		}
		o.Actions = append(o.Actions, a)
	}
}

// fittedWords names what sits in a place, for the work card.
func (s *search) fittedWords(p *place) string {
	switch p.kind {
	case kMemory:
		return s.m.Fitted.Memory[p.fitted].Module.Words()
	case kDrive, kNone:
		return s.m.Fitted.Drives[p.fitted].Drive.Words()
	case kWireless:
		return string(s.m.Fitted.Wireless.Standard.Or("wireless card"))
	}
	if s.fittedPack >= 0 {
		b := &s.ch.Batteries[s.fittedPack]
		if wh, ok := b.DesignWh.Get(); ok {
			return fmt.Sprintf("%s pack, %s Wh", b.ID, wh)
		}
		return b.ID + " pack"
	}
	return s.m.Fitted.Battery.PartNumber
}

// buy lists what is bought, in the order of the parts document, and when it is here; it
// returns the flag of what the customer brings.
func (s *search) buy(o *Option, f *found) (flags uint32) {
	var pieces, bought []purchase // by part, few of them
	count := func(list *[]purchase, part, n int) {
		for i := range *list {
			if (*list)[i].part == part {
				(*list)[i].n += n
				return
			}
		}
		*list = append(*list, purchase{part, n})
	}
	for k := range kinds {
		for _, c := range f.parts[k].choice {
			if c < remove {
				count(&pieces, int(c), 1)
			}
		}
	}
	for _, x := range pieces {
		count(&bought, x.part, s.parts[x.part].Purchases(x.n))
	}
	n := f.parts[kDrive].needs.plus(f.parts[kWireless].needs)
	for i, name := range s.needNames {
		if n[i] == 0 {
			continue
		}
		got := s.supplied(name, int(n[i]))
		if got.missing {
			o.Missing = append(o.Missing, name)
		}
		for _, x := range got.buy {
			count(&bought, x.part, x.n)
		}
	}
	sort.Strings(o.Missing)
	slices.SortFunc(bought, func(a, b purchase) int { return a.part - b.part })
	days := int32(0)
	for _, x := range bought {
		p, q := &s.parts[x.part], x.n
		o.Buy = append(o.Buy, Buy{p.ID, q, int64(q) * p.PriceCents})
		days = max(days, s.daysFor(p, q*p.Pieces()))
		if p.Brought() {
			flags |= fCustomer
		}
	}
	if days != late {
		o.ReadyInDays = hw.Known(int(days))
	}
	return flags
}

// after is what one kind's part of an option leaves in the machine, with the warnings that
// follow and the flags that only the finished state shows. Options share their parts, so
// that each is worked out once.
type after struct {
	flags     uint32
	warnings  []Warning
	memory    *MemoryState
	storage   *StorageState
	battery   *BatteryState
	wireless  *WirelessState
	migration *Migration
}

func (a *after) warn(code hw.Code, place, format string, args ...any) {
	a.warnings = append(a.warnings, Warning{code, place, fmt.Sprintf(format, args...)})
}

// states fills what the machine has afterwards, and the warnings that follow; it
// returns flags that only the finished state shows.
func (s *search) states(o *Option, f *found) uint32 {
	var flags uint32
	var parts [kinds]*after
	for k, work := range [kinds]func(*after, *found){s.memoryAfter, s.storageAfter, s.batteryAfter, s.wirelessAfter} {
		a, seen := s.afters[f.parts[k]]
		if !seen {
			a = &after{}
			work(a, f)
			s.afters[f.parts[k]] = a
		}
		parts[k] = a
		flags |= a.flags
		o.Warnings = append(o.Warnings, a.warnings...)
	}
	o.Memory, o.Storage, o.Battery, o.Wireless = parts[kMemory].memory, parts[kDrive].storage, parts[kBattery].battery, parts[kWireless].wireless
	o.Migration = parts[kDrive].migration
	return flags
}

func (s *search) batteryAfter(a *after, f *found) {
	bat := f.parts[kBattery]
	if bat.changed == 0 {
		a.battery = s.batteryToday()
		return
	}
	p := &s.parts[bat.choice[0]]
	a.battery = &BatteryState{FullWh: tenths(s.packWh(p)), RuntimeH: hours(bat.runtime)}
	if bat.pack >= 0 {
		a.battery.Option = s.ch.Batteries[bat.pack].ID
	} else {
		a.battery.PartNumber = p.Battery.PartNumber
	}
}

// batteryToday is the pack in the machine, nil where none is or none was told.
func (s *search) batteryToday() *BatteryState {
	switch b := s.m.Fitted.Battery; {
	case b != nil:
		return &BatteryState{b.Option, b.PartNumber, tenths(b.FullWh), hours(s.todayRuntime)}
	case s.packTaken:
		return &BatteryState{Option: s.ch.Batteries[s.fittedPack].ID, RuntimeH: hours(s.todayRuntime)}
	}
	return nil
}

func hours(r *big.Rat) hw.Maybe[hw.Dec] {
	if r == nil {
		return hw.Maybe[hw.Dec]{}
	}
	return hw.Known(hw.RatTenths(r))
}

// sticksAfter is all memory after an option.
func (s *search) sticksAfter(f *found) []memory.Stick {
	sticks := append([]memory.Stick{}, memory.Soldered(s.ch, s.m)...)
	for i, pi := range s.kindOf[kMemory] {
		p := &s.places[pi]
		switch c := f.parts[kMemory].choice[i]; {
		case c == unchanged && p.occupied:
			sticks = append(sticks, s.stick(p, s.m.Fitted.Memory[p.fitted].Module))
		case c < remove:
			sticks = append(sticks, s.stick(p, *s.parts[c].Memory))
		}
	}
	return sticks
}

func (s *search) memoryAfter(o *after, f *found) {
	if s.untold[kMemory] {
		return
	}
	sticks := s.sticksAfter(f)
	layout := memory.Arrange(s.ch.Mem(), sticks)
	o.memory = memoryState(layout)
	if f.parts[kMemory].changed == 0 {
		return
	}
	if s.mixedAfter(f) {
		o.warn(hw.CodeMixed, "memory", "the modules in the sockets differ: %s", sticksWords(sticks))
	}
	if s.narrower(layout.MBs) {
		o.warn(hw.CodeNarrower, "memory", "%s GB/s, where it has %s GB/s today: all the memory gets slower", layout.Bandwidth.Or(0), s.todayLayout.Bandwidth.Or(0))
	}
	if layout.Mode.Or("") == "asymmetric" {
		o.flags |= fAsymmetric
		o.warn(hw.CodeAsymmetric, "memory", "%s of %s GB run interleaved, %s GB single", layout.Interleaved.Or(0), layout.Total, layout.Single.Or(0))
	}
	slowed, slowest := memory.Slowed(s.ch.Mem(), sticks)
	for _, at := range slowed {
		for i := range sticks {
			if sticks[i].Place == at {
				o.warn(hw.CodeSlower, at, "rated %d MT/s, runs at %d MT/s because of the slowest one", sticks[i].Module.Speed.Or(0), slowest)
			}
		}
	}
}

// mixedAfter reports whether modules in sockets differ after an option.
func (s *search) mixedAfter(f *found) bool {
	set, _ := s.memorySet(f.parts[kMemory].choice)
	return set.mixed
}

func sticksWords(sticks []memory.Stick) string {
	words := ""
	for i := range sticks {
		if sticks[i].Soldered {
			continue
		}
		if words != "" {
			words += ", "
		}
		words += sticks[i].Place + " " + sticks[i].Module.Words()
		if r, ok := sticks[i].Module.Ranks.Get(); ok {
			words += fmt.Sprintf(" %dR", r)
		}
	}
	return words
}

func (s *search) wirelessAfter(o *after, f *found) {
	wl := f.parts[kWireless]
	if wl.changed == 0 {
		if w := s.m.Fitted.Wireless; w != nil {
			o.wireless = &WirelessState{w.Slot, w.Standard}
		}
		return
	}
	for i, c := range wl.choice {
		if c >= remove {
			continue
		}
		p := &s.places[s.kindOf[kWireless][i]]
		card := s.parts[c].Wireless
		o.wireless = &WirelessState{p.id, hw.Known(card.Standard)}
		ap := s.practice.AccessPoint
		if wireless.Effective(wl.wifi, ap) <= wireless.Effective(s.todayWifi, ap) {
			o.warn(hw.CodeWirelessNoGain, p.id, "the card has %s, but the access point has %s: nothing gets faster", hw.Standards.Says(card.Standard), hw.Standards.Says(ap.Or("the same")))
		}
	}
}

// risk fills points, reasons and consents in the order of table 10.
func (s *search) risk(o *Option, f *found, flags uint32, down []bool) {
	facts := s.factsUsed(f.changed, f.parts[kBattery].pack, down)
	consents := map[hw.Consent]bool{hw.ConsentData: s.dataAtStake(f)}
	o.Risk.Reasons = []Reason{}
	add := func(row hw.CodeRow) {
		o.Risk.Reasons = append(o.Risk.Reasons, Reason{row.Code, row.Points})
		o.Risk.Points += row.Points
		consents[row.Consent] = true
	}
	for _, row := range risks {
		switch flag := flagOf[row.Code]; {
		case flag != 0 && flags&flag != 0:
			add(row)
		case row.Code == hw.CodeFactAssumed:
			for i := range facts {
				if evidence.Weak(facts[i].InForce.Source) {
					add(row)
				}
			}
		case row.Code == hw.CodeFactDisputed:
			for i := range facts {
				if facts[i].Disputed {
					add(row)
				}
			}
		}
	}
	for _, row := range hw.Consents {
		if consents[row.Consent] {
			o.Consents = append(o.Consents, row.Consent)
		}
	}
}

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

// storageAfter fills the links of all drives in use, the migration and the warnings.
func (s *search) storageAfter(o *after, f *found) {
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
			o.warn(hw.CodeRaid0, p.id, "two drives run as one volume: if either fails or is taken out, all on both is lost")
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
			o.warn(hw.CodeHeldBack, p.id, "the drive reads %s MB/s, its link carries %d MB/s", d.ReadMBs.Or(0), link.MBs.Or(0))
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
		o.warn(hw.CodeDataOut, p.id, "how much is on the drive that comes out was not told: what is there needs a place first")
	}
}

func (s *search) hasDrive(p *place) bool {
	return p.occupied && p.kind != kWireless
}

func (s *search) driveWarnings(o *after, p *place, slot *hw.Slot, old *hw.FittedDrive, d *hw.Drive, link storage.Link) {
	statedMax := hw.Maybe[hw.Dec]{}
	if slot != nil {
		statedMax = slot.StatedMax
		if storage.Hot(link, slot, d) {
			o.warn(hw.CodeHot, p.id, "a link of %d MB/s and %s W in a slot without cooling: a cooler drive of the previous generation is the better buy for everyday work", link.MBs.Or(0), wattWords(d))
		}
		if d.Heatsink.Or(false) && slot.Cooling.Or("") == hw.Shroud {
			o.warn(hw.CodeHeatsink, p.id, "the drive has its own heat spreader, and the slot a shroud: the two do not go together")
		}
	} else {
		statedMax = s.ch.Bays[p.Index].StatedMax
	}
	capacity := d.Capacity.Or(0)
	if most, ok := statedMax.Get(); ok && capacity > most {
		o.warn(hw.CodeStatedLimit, p.id, "%s GB; the maker states %s GB, which is what was sold, not a limit of the interface", capacity, most)
	}
	if old == nil {
		return
	}
	oldLink := storage.Connect(p.id, slot, &old.Drive)
	if storage.NoGain(oldLink, link, &old.Drive, d) {
		o.warn(hw.CodeDriveNoGain, p.id, "generation %d after %d, but the link stays at %d MB/s", d.Gen.Or(0), old.Drive.Gen.Or(0), link.MBs.Or(0))
	}
	if !s.isBoot(p.fitted) {
		return
	}
	o.warn(hw.CodeBootReplaced, p.id, "the boot drive is replaced: backup first, then a copy or a clean installation")
	if old.Encrypted.Or(false) {
		o.warn(hw.CodeEncrypted, p.id, "the old drive is encrypted: suspend it and have the recovery key first")
	}
	if old.PartitionTable.Or("") == "mbr" && capacity > storage.MBRLimitGB {
		o.warn(hw.CodeMBR, p.id, "the old drive has an MBR partition table, which ends at 2 TiB (%s GB); %s GB need GPT", storage.MBRLimitGB.Tenths(), capacity)
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
