package plan

import (
	"fmt"
	"math/big"
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
	open := s.openMachine(f.changed)
	o := Option{ID: "o" + strconv.Itoa(number+1), Buy: []Buy{}, Missing: []string{}, Warnings: []Warning{}, Consents: []string{}}
	o.Meets, o.MeetsAll = s.meetsOf(f)
	o.PartsCents, o.LabourCents, o.TotalCents = f.partsC, open.labour, f.total
	o.Minutes = open.minutes.Shown()
	s.actions(&o, f)
	s.buy(&o, f)
	flags := open.flags | s.states(&o, f)
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
		return ModuleWords(&s.m.Fitted.Memory[p.fitted].Module)
	case kDrive:
		return DriveWords(&s.m.Fitted.Drives[p.fitted].Drive)
	case kWireless:
		return s.m.Fitted.Wireless.Standard.Or("wireless card")
	case kBattery:
		b := s.m.Fitted.Battery
		if i := s.ch.BatteryByID(b.Option); i >= 0 {
			if wh, ok := s.ch.Batteries[i].DesignWh.Get(); ok {
				return fmt.Sprintf("%s pack, %s Wh", b.Option, wh)
			}
			return b.Option + " pack"
		}
		return b.PartNumber
	}
	return p.id
}

// ModuleWords names a memory module: "8 GB DDR4-3200".
func ModuleWords(m *hw.Module) string {
	words := "module"
	if gb, ok := m.Capacity.Get(); ok {
		words = gb.String() + " GB"
	}
	if m.Type != "" {
		words += " " + m.Type
		if mts, ok := m.Speed.Get(); ok {
			words += fmt.Sprintf("-%d", mts)
		}
	}
	return words
}

// DriveWords names a drive: "512 GB NVMe".
func DriveWords(d *hw.Drive) string {
	words := "drive"
	if gb, ok := d.Capacity.Get(); ok {
		words = gb.String() + " GB"
	}
	if d.Interface != "" {
		words += " " + storage.Interface(d.Interface)
	}
	if d.Form != "" {
		words += " " + d.Form
	}
	return words
}

// buy lists what is bought, in the order of the parts document, and when it is here.
func (s *search) buy(o *Option, f *found) {
	pieces := map[int]int{}
	for k := range kinds {
		for _, c := range f.parts[k].choice {
			if c < remove {
				pieces[int(c)]++
			}
		}
	}
	n := f.parts[kDrive].needs.plus(f.parts[kWireless].needs)
	for i, name := range s.needNames {
		if n[i] == 0 {
			continue
		}
		if part := s.provider(name, int(n[i])); part >= 0 {
			pieces[part] += int(n[i])
		} else {
			o.Missing = append(o.Missing, name)
		}
	}
	sort.Strings(o.Missing)
	days, known := 0, true
	order := make([]int, 0, len(pieces))
	for i := range pieces {
		order = append(order, i)
	}
	sort.Ints(order)
	for _, i := range order {
		p := &s.parts[i]
		q := p.Purchases(pieces[i])
		o.Buy = append(o.Buy, Buy{p.ID, q, int64(q) * p.PriceCents})
		if stock, counted := p.Stock.Get(); counted && stock >= q {
			continue
		}
		lead, ok := p.LeadDays.Get()
		known = known && ok
		days = max(days, lead)
	}
	if known {
		o.ReadyInDays = hw.Known(days)
	}
}

// states fills what the machine has afterwards, and the warnings that follow; it
// returns flags that only the finished state shows.
func (s *search) states(o *Option, f *found) uint32 {
	flags := s.memoryAfter(o, f)
	s.storageAfter(o, f)
	bat := f.parts[kBattery]
	switch {
	case bat.changed != 0:
		p := &s.parts[bat.choice[0]]
		o.Battery = &BatteryState{FullWh: tenths(s.packWh(p)), RuntimeH: hours(bat.runtime)}
		if bat.pack >= 0 {
			o.Battery.Option = s.ch.Batteries[bat.pack].ID
		} else {
			o.Battery.PartNumber = p.Battery.PartNumber
		}
	case s.m.Fitted.Battery != nil:
		b := s.m.Fitted.Battery
		o.Battery = &BatteryState{Option: b.Option, PartNumber: b.PartNumber, FullWh: tenths(b.FullWh), RuntimeH: hours(s.todayRuntime)}
	}
	s.wirelessAfter(o, f)
	return flags
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

func (s *search) memoryAfter(o *Option, f *found) uint32 {
	sticks := s.sticksAfter(f)
	layout := memory.Arrange(s.ch.Mem(), sticks)
	o.Memory = memoryState(layout)
	if f.parts[kMemory].changed == 0 {
		return 0
	}
	var flags uint32
	if memory.Mixed(sticks) {
		o.warn(memory.CodeMixed, "memory", "the modules in the sockets differ: %s", sticksWords(sticks))
	}
	if layout.Mode.Or("") == "asymmetric" {
		flags |= fAsymmetric
		o.warn(memory.CodeAsymmetric, "memory", "%s of %s GB run interleaved, %s GB single", layout.Interleaved.Or(0), layout.Total, layout.Single.Or(0))
	}
	slowed, slowest := memory.Slowed(s.ch.Mem(), sticks)
	for _, at := range slowed {
		for i := range sticks {
			if sticks[i].Place == at {
				o.warn(memory.CodeSlower, at, "rated %d MT/s, runs at %d MT/s because of the slowest one", sticks[i].Module.Speed.Or(0), slowest)
			}
		}
	}
	return flags
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
		words += sticks[i].Place + " " + ModuleWords(&sticks[i].Module)
		if r, ok := sticks[i].Module.Ranks.Get(); ok {
			words += fmt.Sprintf(" %dR", r)
		}
	}
	return words
}

func (o *Option) warn(code, place, format string, args ...any) {
	o.Warnings = append(o.Warnings, Warning{code, place, fmt.Sprintf(format, args...)})
}

func (s *search) wirelessAfter(o *Option, f *found) {
	wl := f.parts[kWireless]
	if wl.changed == 0 {
		if w := s.m.Fitted.Wireless; w != nil {
			o.Wireless = &WirelessState{w.Slot, w.Standard}
		}
		return
	}
	for i, c := range wl.choice {
		if c >= remove {
			continue
		}
		p := &s.places[s.kindOf[kWireless][i]]
		card := s.parts[c].Wireless
		o.Wireless = &WirelessState{p.id, hw.Known(card.Standard)}
		ap := s.practice.AccessPoint
		if wireless.Effective(wl.wifi, ap) <= wireless.Effective(s.todayWifi, ap) {
			o.warn(wireless.CodeNoGain, p.id, "the card has %s, but the access point has %s: nothing gets faster", card.Standard, ap.Or("the same"))
		}
	}
}

// risk fills points, reasons and consents in the order of table 10.
func (s *search) risk(o *Option, f *found, flags uint32, down []bool) {
	facts := s.factsUsed(f.changed, f.parts[kBattery].pack, down)
	consents := map[string]bool{}
	if s.dataAtStake(f) {
		consents["data"] = true
	}
	add := func(code string, points int) {
		o.Risk.Reasons = append(o.Risk.Reasons, Reason{code, points})
		o.Risk.Points += points
	}
	o.Risk.Reasons = []Reason{}
	for i := range flagTable {
		if flags&(1<<i) == 0 {
			continue
		}
		if flagTable[i].code == "part.pulled" {
			addFacts(facts, add)
			facts = nil
		}
		add(flagTable[i].code, flagTable[i].points)
		if flagTable[i].consent != "" {
			consents[flagTable[i].consent] = true
		}
	}
	addFacts(facts, add)
	for _, name := range []string{"beyond_maker", "data", "glued_part", "seal", "unlisted_battery"} {
		if consents[name] {
			o.Consents = append(o.Consents, name)
		}
	}
}

func addFacts(facts []evidence.Fact, add func(code string, points int)) {
	for i := range facts {
		if evidence.Weak(facts[i].InForce.Source) {
			add("fact.assumed", pointsAssumed)
		}
	}
	for i := range facts {
		if facts[i].Disputed {
			add("fact.disputed", pointsDisputed)
		}
	}
}

// dataAtStake reports whether a drive with data on it, or the boot drive, is
// replaced or removed.
func (s *search) dataAtStake(f *found) bool {
	for i, pi := range s.kindOf[kDrive] {
		p := &s.places[pi]
		if f.parts[kDrive].choice[i] == unchanged || !p.occupied {
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
func (s *search) storageAfter(o *Option, f *found) {
	o.Storage = &StorageState{TotalGB: f.parts[kDrive].total.Tenths(), Links: []Link{}}
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
		if old != nil && changes && old.Raid0.Or(false) {
			o.warn(storage.CodeRaid0, p.id, "two drives run as one volume: if either fails or is taken out, all on both is lost")
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
		o.Storage.Links = append(o.Storage.Links, linkState(link))
		if storage.HeldBack(link, d) {
			o.warn(storage.CodeHeldBack, p.id, "the drive reads %s MB/s, its link carries %d MB/s", d.ReadMBs.Or(0), link.MBs.Or(0))
		}
		if c < remove {
			s.driveWarnings(o, p, slot, old, d, link)
			if slot != nil && (slot.Cooling.Or("") == "pad" || slot.Cooling.Or("") == "spreader") {
				o.warn(storage.CodeKeepPad, p.id, "the slot has a %s: it belongs back on the new drive", slot.Cooling.Or(""))
			}
		}
	}
}

func (s *search) hasDrive(p *place) bool {
	return p.occupied && p.kind != kWireless
}

func (s *search) driveWarnings(o *Option, p *place, slot *hw.Slot, old *hw.FittedDrive, d *hw.Drive, link storage.Link) {
	statedMax := hw.Maybe[hw.Dec]{}
	if slot != nil {
		statedMax = slot.StatedMax
		if storage.Hot(link, slot, d) {
			o.warn(storage.CodeHot, p.id, "a link of %d MB/s and %s W in a slot without cooling: a cooler drive of the previous generation is the better buy for everyday work", link.MBs.Or(0), wattWords(d))
		}
		if d.Heatsink.Or(false) && slot.Cooling.Or("") == "shroud" {
			o.warn(storage.CodeHeatsink, p.id, "the drive has its own heat spreader, and the slot a shroud: the two do not go together")
		}
	} else {
		statedMax = s.ch.Bays[p.index].StatedMax
	}
	capacity := d.Capacity.Or(0)
	if most, ok := statedMax.Get(); ok && capacity > most {
		o.warn(storage.CodeStatedLimit, p.id, "%s GB; the maker states %s GB, which is what was sold, not a limit of the interface", capacity, most)
	}
	if old == nil {
		return
	}
	oldLink := storage.Connect(p.id, slot, &old.Drive)
	if storage.NoGain(oldLink, link, &old.Drive, d) {
		o.warn(storage.CodeNoGain, p.id, "generation %d after %d, but the link stays at %d MB/s", d.Gen.Or(0), old.Drive.Gen.Or(0), link.MBs.Or(0))
	}
	if !s.isBoot(p.fitted) {
		return
	}
	o.warn(storage.CodeBoot, p.id, "the boot drive is replaced: backup first, then a copy or a clean installation")
	if old.Encrypted.Or(false) {
		o.warn(storage.CodeEncrypted, p.id, "the old drive is encrypted: suspend it and have the recovery key first")
	}
	if old.PartitionTable.Or("") == "mbr" && capacity > storage.MBRLimitGB {
		o.warn(storage.CodeMBR, p.id, "the old drive has an MBR partition table, which ends at 2 TiB (%s GB); %s GB need GPT", storage.MBRLimitGB.Tenths(), capacity)
	}
	o.Migration = &Migration{Place: p.id, How: "clean"}
	if s.practice.Migration.Or("clone") != "clone" {
		return
	}
	clone := storage.PlanClone(old, d, link)
	if !clone.Possible {
		o.warn(storage.CodeClean, p.id, "a copy is not possible: %s; a clean installation instead", clone.Why)
		return
	}
	o.Migration.How, o.Migration.Minutes = "clone", clone.Minutes
}

func wattWords(d *hw.Drive) string {
	if w, ok := d.PowerW.Get(); ok {
		return w.String()
	}
	return "an unknown number of"
}
