package hw

import (
	"fmt"
	"strconv"
)

// Bounds that no real machine passes. They catch slips of the keyboard, not odd
// machines.
const (
	MaxMemoryGB = 65_536
	MaxDriveGB  = 1_000_000
	maxSpeedMTs = 100_000
	maxChannels = 26
	maxMM       = 5_000
)

// checker walks a document and collects faults.
type checker struct {
	faults Faults
	seen   map[string]string // id -> pointer of its first use
}

func newChecker() *checker { return &checker{seen: map[string]string{}} }

func (c *checker) id(pointer, id string) {
	if id == BatteryPlace {
		c.faults.Add(pointer, FaultDuplicate, quote(id), "the name is kept for the place of the pack")
		return
	}
	if first, used := c.seen[id]; used {
		c.faults.Add(pointer, FaultDuplicate, quote(id), "it stands at "+first+" already")
		return
	}
	c.seen[id] = pointer
}

func (c *checker) ref(pointer, name, what string, exists bool) {
	if !exists {
		c.faults.Add(pointer, FaultReference, quote(name), what)
	}
}

// above checks 0 < value <= most.
func (c *checker) above(pointer string, value Dec, most int, unit string) {
	if value <= 0 || value > DecOf(most) {
		c.faults.Add(pointer, FaultRange, value.String(), fmt.Sprintf("more than 0 and at most %d %s", most, unit))
	}
}

func (c *checker) aboveIf(pointer string, value Maybe[Dec], most int, unit string) {
	if v, ok := value.Get(); ok {
		c.above(pointer, v, most, unit)
	}
}

// from checks low <= value <= high.
func (c *checker) from(pointer string, value, low, high int) {
	if value < low || value > high {
		c.faults.Add(pointer, FaultRange, strconv.Itoa(value), fmt.Sprintf("from %d to %d", low, high))
	}
}

func (c *checker) fromIf(pointer string, value Maybe[int], low, high int) {
	if v, ok := value.Get(); ok {
		c.from(pointer, v, low, high)
	}
}

func (c *checker) notNegative(pointer string, value Maybe[Dec], most int, unit string) {
	if v, ok := value.Get(); ok && (v < 0 || v > DecOf(most)) {
		c.faults.Add(pointer, FaultRange, v.String(), fmt.Sprintf("from 0 to %d %s", most, unit))
	}
}

// cells checks that a pack's volts fit its cells in series (docs/rules.md, Battery and wireless).
func (c *checker) cells(pointer string, volts Maybe[Dec], series Maybe[int]) {
	v, known := volts.Get()
	if known {
		c.above(pointer+"/nominal_v", v, 1000, "V")
	}
	n, knownN := series.Get()
	c.fromIf(pointer+"/series", series, 1, 100)
	if !known || !knownN || n < 1 || v <= 0 {
		return
	}
	if v*10 < DecOf(35*n) || v*10 > DecOf(39*n) {
		c.faults.Add(pointer+"/nominal_v", FaultConflict,
			fmt.Sprintf("%s V over %d cells in series is %s V a cell", v, n,
				RatTenths(v.Rat().Quo(v.Rat(), DecOf(n).Rat()))),
			"a cell has 3.5 to 3.9 V")
	}
}

// module checks capacity, speed and ranks of a memory module. Modules are powers
// of two; DDR5 ones also 12, 24 or 48 GB (docs/rules.md, Memory).
func (c *checker) module(pointer string, m Module) {
	if gb, ok := m.Capacity.Get(); ok {
		c.above(pointer+"/capacity_gb", gb, 4096, "GB")
		ddr5 := m.Type == "DDR5" || m.Type == "LPDDR5" || m.Type == "LPDDR5X" || m.Type == ""
		odd := gb == DecOf(12) || gb == DecOf(24) || gb == DecOf(48)
		if gb > 0 && gb <= DecOf(4096) && !powerOfTwo(gb) && !(odd && ddr5) {
			c.faults.Add(pointer+"/capacity_gb", FaultRange, gb.String(),
				"a module is a power of two, or 12, 24, 48 GB with DDR5")
		}
	}
	c.fromIf(pointer+"/speed_mts", m.Speed, 1, maxSpeedMTs)
	c.fromIf(pointer+"/ranks", m.Ranks, 1, 16)
}

func powerOfTwo(gb Dec) bool {
	for size := DecOf(4096); size > 0; size /= 2 {
		if gb == size {
			return true
		}
	}
	return false
}

// drive checks the numbers of a drive.
func (c *checker) drive(pointer string, d Drive) {
	c.aboveIf(pointer+"/capacity_gb", d.Capacity, MaxDriveGB, "GB")
	c.fromIf(pointer+"/length_mm", d.Length, 1, 500)
	c.fromIf(pointer+"/pcie_gen", d.Gen, 1, 5)
	c.fromIf(pointer+"/lanes", d.Lanes, 1, 16)
	c.aboveIf(pointer+"/read_mbs", d.ReadMBs, 1_000_000, "MB/s")
	c.aboveIf(pointer+"/write_mbs", d.WriteMBs, 1_000_000, "MB/s")
	c.notNegative(pointer+"/top_mm", d.Top, 100, "mm")
	c.notNegative(pointer+"/bottom_mm", d.Bottom, 100, "mm")
	c.aboveIf(pointer+"/height_mm", d.Height, 100, "mm")
	c.notNegative(pointer+"/power_w", d.PowerW, 1000, "W")
}

// ValidateParts checks ids and ranges of a parts list.
func ValidateParts(p *Parts) Faults {
	c := newChecker()
	for i := range p.Parts {
		part := &p.Parts[i]
		at := "/parts/" + strconv.Itoa(i)
		c.id(at+"/id", part.ID)
		if part.PriceCents < 0 || part.PriceCents > 1_000_000_000 {
			c.faults.Add(at+"/price_cents", FaultRange, strconv.FormatInt(part.PriceCents, 10), "from 0 to 1000000000")
		}
		c.fromIf(at+"/stock", part.Stock, 0, 1_000_000)
		c.fromIf(at+"/lead_days", part.LeadDays, 0, 10_000)
		c.fromIf(at+"/count", part.Count, 1, 1000)
		if part.Memory != nil {
			c.module(at+"/memory", *part.Memory)
		}
		if part.Drive != nil {
			c.drive(at+"/drive", *part.Drive)
		}
		if part.Battery != nil {
			c.aboveIf(at+"/battery/design_wh", part.Battery.DesignWh, 10_000, "Wh")
			c.cells(at+"/battery", part.Battery.NominalV, part.Battery.Series)
		}
		switch {
		case part.Brought() && part.For == "":
			c.faults.Add(at, FaultMissing, "", "for, the machine that the customer brings it with")
		case !part.Brought() && part.For != "":
			c.faults.Add(at+"/for", FaultConflict, "the part is kept for a machine",
				`only a part of source "customer" is`)
		case part.Brought() && part.PriceCents != 0:
			c.faults.Add(at+"/price_cents", FaultConflict, "the customer brings it", "it costs nothing then")
		}
		if part.Wireless != nil {
			c.fromIf(at+"/wireless/length_mm", part.Wireless.Length, 1, 500)
			c.fromIf(at+"/wireless/antennas", part.Wireless.Antennas, 0, 16)
		}
	}
	return c.faults
}

// Asks reports whether a request asks for anything: a goal or a service.
func (r *Request) Asks() bool { return r.Goals != (Goals{}) || len(r.Services) > 0 }

// ValidateRequest checks the ranges of a request, and against its chassis, where one is
// given, the services and places that it names.
func ValidateRequest(r *Request, ch *Chassis) Faults {
	c := newChecker()
	if !r.Asks() {
		c.faults.Add("/goals", FaultMissing, "", "at least one goal or service")
	}
	for i, s := range r.Services {
		at := "/services/" + strconv.Itoa(i)
		c.id(at+"/id", s.ID)
		if ch != nil {
			c.ref(at+"/id", s.ID, "service in "+ch.ID, ch.ServiceByID(s.ID) >= 0)
		}
		if v, ok := s.Charge.Get(); ok && (v < 0 || v > 1_000_000_000) {
			c.faults.Add(at+"/charge_cents", FaultRange, strconv.FormatInt(v, 10), "from 0 to 1000000000")
		}
	}
	kept := map[string]string{}
	for i, place := range r.Keep {
		at := "/keep/" + strconv.Itoa(i)
		if first, twice := kept[place]; twice {
			c.faults.Add(at, FaultDuplicate, quote(place), "it stands at "+first+" already")
		}
		kept[place] = at
		if ch != nil {
			c.ref(at, place, "place in "+ch.ID, ch.HasPlace(place))
		}
	}
	c.aboveIf("/goals/memory_gb", r.Goals.MemoryGB, MaxMemoryGB, "GB")
	c.aboveIf("/goals/storage_gb", r.Goals.StorageGB, MaxDriveGB, "GB")
	c.aboveIf("/goals/runtime_h", r.Goals.RuntimeH, 10_000, "h")
	for _, f := range []struct {
		pointer string
		value   Maybe[int64]
	}{{"/budget_cents", r.BudgetCents}, {"/labour_cents_per_hour", r.LabourRate}} {
		if v, ok := f.value.Get(); ok && (v < 0 || v > 1_000_000_000) {
			c.faults.Add(f.pointer, FaultRange, strconv.FormatInt(v, 10), "from 0 to 1000000000")
		}
	}
	if v, ok := r.Practice.RiskCents.Get(); ok && (v < 0 || v > MostRiskCents) {
		c.faults.Add("/practice/risk_cents", FaultRange, strconv.FormatInt(v, 10), fmt.Sprintf("from 0 to %d", MostRiskCents))
	}
	return c.faults
}

// ValidateMachine checks a machine's ranges and, where its chassis is at hand,
// that everything it names is in that chassis. A machine fitted above its
// model's limit is told on the plan, not refused.
func ValidateMachine(m *Machine, ch *Chassis) Faults {
	c := newChecker()
	if ch != nil && m.Chassis != ch.ID {
		c.faults.Add("/chassis", FaultConflict, "this is a machine of "+quote(m.Chassis),
			"the chassis document is "+quote(ch.ID))
		return c.faults
	}
	// A record with an absent list knows nothing of its places, so nothing named
	// there can be called wrong.
	has := func(known bool, index int) bool { return ch == nil || !known || index >= 0 }
	for id, gb := range m.Fitted.SolderedGB {
		at := "/fitted/soldered_gb/" + EscapePointer(id)
		c.above(at, gb, MaxMemoryGB, "GB")
		if ch != nil && ch.Mem().Soldered != nil {
			found := false
			for i := range ch.Memory.Soldered {
				found = found || ch.Memory.Soldered[i].ID == id
			}
			c.ref(at, id, "soldered memory", found)
		}
	}
	used := map[string]string{}
	place := func(pointer, id string) {
		if first, twice := used[id]; twice {
			c.faults.Add(pointer, FaultDuplicate, quote(id), "one part a place; it stands at "+first+" already")
		}
		used[id] = pointer
	}
	for i, f := range m.Fitted.Memory {
		at := "/fitted/memory/" + strconv.Itoa(i)
		place(at+"/socket", f.Socket)
		if ch != nil {
			c.ref(at+"/socket", f.Socket, "socket", has(ch.Mem().Sockets != nil, ch.SocketByID(f.Socket)))
		}
		c.module(at+"/module", f.Module)
	}
	for i, f := range m.Fitted.Drives {
		at := "/fitted/drives/" + strconv.Itoa(i)
		place(at+"/place", f.Place)
		if ch != nil {
			known := ch.Slots != nil && ch.Bays != nil
			c.ref(at+"/place", f.Place, "slot or bay", has(known, max(ch.SlotByID(f.Place), ch.BayByID(f.Place))))
			c.purpose(ch, at+"/place", f.Place, "a drive sits here", ForWireless)
		}
		c.drive(at+"/drive", f.Drive)
		c.notNegative(at+"/used_gb", f.UsedGB, MaxDriveGB, "GB")
	}
	if b := m.Fitted.Battery; b != nil {
		if ch != nil && b.Option != "" {
			c.ref("/fitted/battery/option", b.Option, "battery", has(ch.Batteries != nil, ch.BatteryByID(b.Option)))
		}
		c.aboveIf("/fitted/battery/full_wh", b.FullWh, 10_000, "Wh")
		c.fromIf("/fitted/battery/cycles", b.Cycles, 0, 1_000_000)
	}
	if w := m.Fitted.Wireless; w != nil {
		place("/fitted/wireless/slot", w.Slot)
		if ch != nil {
			c.ref("/fitted/wireless/slot", w.Slot, "slot", has(ch.Slots != nil, ch.SlotByID(w.Slot)))
			c.purpose(ch, "/fitted/wireless/slot", w.Slot, "a wireless card sits here", ForStorage)
		}
	}
	c.notNegative("/usage/memory_peak_gb", m.Usage.MemoryPeak, MaxMemoryGB, "GB")
	c.aboveIf("/usage/draw_w", m.Usage.DrawW, 10_000, "W")
	c.notNegative("/usage/runtime_h", m.Usage.RuntimeH, 10_000, "h")
	c.notNegative("/usage/disk_growth_gb_month", m.Usage.DiskGrowth, MaxDriveGB, "GB")
	return c.faults
}

// purpose refuses a part in a slot that is recorded for something else.
func (c *checker) purpose(ch *Chassis, pointer, id, what string, not Purpose) {
	if i := ch.SlotByID(id); i >= 0 && ch.Slots[i].Purpose == not {
		c.faults.Add(pointer, FaultConflict, what, "slot "+id+" is "+Purposes.Says(not))
	}
}

// hasPlace reports whether a model has a place, BatteryPlace among them.
func (c *Chassis) HasPlace(id string) bool {
	_, there := c.ReachOf(id)
	return there && c.ServiceByID(id) < 0
}

func quote(s string) string { return `"` + s + `"` }
