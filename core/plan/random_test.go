package plan

import (
	"fmt"
	"math/rand/v2"

	"yembo/core/hw"
)

// gen makes random but valid inputs. The same seed makes the same input.
type gen struct{ *rand.Rand }

func newGen(seed uint64) gen { return gen{rand.New(rand.NewPCG(seed, 7))} }

func pickOf[T any](g gen, list ...T) T { return list[g.IntN(len(list))] }

func maybe[T any](g gen, percent int, v T) hw.Maybe[T] {
	if g.IntN(100) < percent {
		return hw.Known(v)
	}
	return hw.Maybe[T]{}
}

func gb(n int) hw.Dec { return hw.DecOf(n) }

func (g gen) module() hw.Module {
	return hw.Module{Type: pickOf[hw.MemoryType](g, "DDR4", "DDR4", "DDR4", "DDR5"),
		Form:     pickOf[hw.ModuleForm](g, "SO-DIMM", "SO-DIMM", "SO-DIMM", "DIMM"),
		Capacity: hw.Known(gb(pickOf(g, 4, 8, 8, 16, 32))), Speed: maybe(g, 95, pickOf(g, 2666, 3200)),
		Ranks: maybe(g, 85, pickOf(g, 1, 2)),
		Maker: pickOf(g, "", "Corvane", "Corvane"), PartNumber: pickOf(g, "", "CV8", "CV8")}
}

func (g gen) drive() hw.Drive {
	if g.IntN(4) == 0 {
		return hw.Drive{Interface: "sata", Form: "2.5in", Height: maybe(g, 95, hw.DecOf(7)),
			Capacity: hw.Known(gb(pickOf(g, 250, 500, 1000, 2000))), ReadMBs: hw.Known(gb(540))}
	}
	return hw.Drive{Interface: pickOf(g, hw.NVMe, hw.NVMe, hw.NVMe, hw.SATA), Key: hw.Known(pickOf(g, "M", "B+M")),
		Length: hw.Known(pickOf(g, 30, 42, 80, 80)),
		Gen:    maybe(g, 95, pickOf(g, 3, 4)), Lanes: maybe(g, 95, pickOf(g, 2, 4)),
		Capacity: hw.Known(gb(pickOf(g, 250, 500, 1000, 2000))),
		ReadMBs:  hw.Known(gb(pickOf(g, 550, 2400, 5000))), WriteMBs: hw.Known(gb(2000)),
		Top:    maybe(g, 95, pickOf(g, hw.Dec(1_200_000), hw.Dec(1_500_000))),
		Bottom: maybe(g, 80, pickOf(g, hw.Dec(0), hw.Dec(0), hw.Dec(1_350_000))),
		PowerW: maybe(g, 80, pickOf(g, hw.DecOf(3), hw.DecOf(6)))}
}

// input is a small random case.
func (g gen) input(parts int) Input {
	ch := g.chassis()
	in := Input{Chassis: ch, Machine: g.machine(ch), Parts: g.parts(parts), Request: g.request()}
	for i := range in.Parts.Parts {
		// A pack that tells little, or another capacity than the model's list.
		if b := in.Parts.Parts[i].Battery; b != nil {
			b.NominalV = maybe(g, 90, hw.Dec(11_400_000))
			if g.IntN(5) == 0 {
				b.DesignWh = maybe(g, 50, gb(40+26*g.IntN(3)))
			}
		}
	}
	if g.IntN(4) == 0 {
		in.Request.Services = []hw.AskedService{{ID: "paste", Charge: maybe(g, 50, int64(900))}}
	}
	for _, p := range ch.Places() {
		if p.Kind != hw.InPack && g.IntN(12) == 0 {
			in.Request.Keep = append(in.Request.Keep, p.ID)
		}
	}
	return in
}

func (g gen) chassis() *hw.Chassis {
	ch := &hw.Chassis{ID: "c", Kind: "notebook", Batteries: []hw.Battery{}, Slots: []hw.Slot{}, Bays: []hw.Bay{}}
	mem := &hw.Memory{Type: hw.Known[hw.MemoryType]("DDR4"), MaxSpeed: hw.Known(3200), Channels: hw.Known(2),
		Sockets: []hw.Socket{}, Soldered: []hw.Soldered{}}
	if g.IntN(2) == 0 {
		mem.Soldered = append(mem.Soldered, hw.Soldered{ID: "on", Channel: "A", Capacity: gb(pickOf(g, 4, 8)),
			Speed: hw.Known(3200)})
	}
	for i := range g.IntN(4) {
		mem.Sockets = append(mem.Sockets, hw.Socket{ID: fmt.Sprintf("d%d", i), Channel: pickOf(g, "A", "B"),
			Form:      "SO-DIMM",
			MaxModule: maybe(g, 80, gb(pickOf(g, 16, 32))), Reach: g.reach()})
	}
	mem.Limits = hw.Limits{Maker: maybe(g, 90, gb(pickOf(g, 16, 24, 32, 64))),
		Controller: maybe(g, 70, gb(pickOf(g, 32, 64))), Proven: maybe(g, 50, gb(pickOf(g, 24, 40)))}
	ch.Memory = mem
	held := func() string { return pickOf(g, "fitted", "movable", "needs:bracket", "none") }
	for i := range g.IntN(3) {
		s := hw.Slot{ID: fmt.Sprintf("m%d", i), Purpose: "storage", Key: hw.Known("M"), Gen: hw.Known(pickOf(g, 3, 4)),
			Lanes:     hw.Known(pickOf(g, 2, 4)),
			Protocols: pickOf(g, []hw.Interface{hw.NVMe}, []hw.Interface{hw.NVMe, hw.SATA}),
			Lengths:   map[string]string{"80": held()}, Cooling: hw.Known(pickOf(g, hw.NoCooling, hw.Pad)),
			MaxBottom: maybe(g, 70, hw.DecOf(0)), Reach: g.reach()}
		if g.IntN(2) == 0 {
			s.Lengths["30"] = held()
		}
		ch.Slots = append(ch.Slots, s)
	}
	if g.IntN(2) == 0 {
		ch.Slots = append(ch.Slots, hw.Slot{ID: "wl", Purpose: "wireless", Key: hw.Known("E"),
			Protocols: []hw.Interface{"pcie"},
			Lengths:   map[string]string{"30": pickOf(g, "fitted", "needs:bracket")},
			Antennas:  []string{"black", "white"}, Reach: g.reach()})
	}
	for i := range g.IntN(2) {
		ch.Bays = append(ch.Bays, hw.Bay{ID: fmt.Sprintf("b%d", i),
			Form:   pickOf(g, hw.Form25, hw.Form25, hw.FormOptical),
			Height: hw.Known(pickOf(g, hw.DecOf(7), 9_500_000, 12_700_000)), Interface: hw.Known[hw.Interface]("sata"),
			Connector: hw.Known(pickOf(g, "fitted", "needs:cable", "no_header")),
			Caddy:     maybe(g, 90, pickOf(g, "fitted", "needs:bracket", "needs:cable", "not_used")), Reach: g.reach()})
	}
	for i := range g.IntN(3) {
		ch.Batteries = append(ch.Batteries, hw.Battery{ID: fmt.Sprintf("p%d", i), DesignWh: hw.Known(gb(50 + 26*i)),
			NominalV: hw.Known(hw.Dec(11_400_000)),
			Series:   hw.Known(3), PartNumbers: []string{fmt.Sprintf("N%d", i)}})
	}
	ch.BatteryReach = g.reach()
	g.exclusions(ch)
	ch.Steps = []hw.Step{{ID: "off", Verb: "power_down"}, {ID: "cover", Verb: "unclip", Needs: []string{"off"}},
		{ID: "plug", Verb: "unplug", Needs: []string{"cover"}, IsolatesPwr: hw.Known(g.IntN(3) > 0),
			LiveRisk: hw.Known(g.IntN(3) == 0)},
		{ID: "shield", Verb: pickOf(g, hw.Peel, hw.Lift), Needs: []string{"plug"}},
		{ID: "board", Verb: "remove", Needs: []string{"plug"}, RemovesBoard: hw.Known(true),
			Minutes: hw.Known(hw.Dec(7_250_000))}}
	ch.Services = []hw.Service{{ID: "paste", Reach: g.reach(), Minutes: maybe(g, 80, hw.DecOf(12))}}
	g.conditions(ch)
	g.findings(ch)
	return ch
}

// conditions makes some steps depend on what is fitted.
func (g gen) conditions(ch *hw.Chassis) {
	condition := func() *hw.Condition {
		all := ch.Places()
		if len(all) == 0 || g.IntN(3) > 0 {
			return nil
		}
		p := pickOf(g, all...)
		if p.Kind == hw.InPack {
			return &hw.Condition{Place: hw.BatteryPlace, State: p.ID}
		}
		return &hw.Condition{Place: p.ID, State: pickOf(g, hw.StateFilled, hw.StateEmpty)}
	}
	for _, i := range []int{3, 4} {
		ch.Steps[i].When, ch.Steps[i].Back = condition(), condition()
	}
	if all := ch.Places(); len(all) > 0 && all[0].Kind != hw.InPack && g.IntN(3) == 0 {
		ch.Steps[3].Place = all[0].ID
		ch.Steps[4].Needs = []string{"shield"}
	}
	if g.IntN(3) == 0 {
		ch.Steps = append(ch.Steps, hw.Step{ID: "foil", Verb: hw.Lift, Needs: []string{},
			BackBefore: pickOf(g, "cover", "board"), Back: condition()})
	}
}

func (g gen) reach() string { return pickOf(g, "cover", "plug", "plug", "shield", "board", "") }

func (g gen) exclusions(ch *hw.Chassis) {
	var names []string
	for i := range ch.Slots {
		if ch.Slots[i].Purpose == "storage" {
			names = append(names, ch.Slots[i].ID)
		}
	}
	for i := range ch.Bays {
		names = append(names, ch.Bays[i].ID)
	}
	for i := range ch.Batteries {
		names = append(names, "battery:"+ch.Batteries[i].ID)
	}
	for i := range ch.Slots {
		if other := names; len(other) > 1 && g.IntN(3) == 0 && ch.Slots[i].Purpose == "storage" {
			if n := pickOf(g, other...); n != ch.Slots[i].ID {
				ch.Slots[i].Excludes = []string{n}
			}
		}
	}
	for i := range ch.Bays {
		if n := pickOf(g, names...); n != ch.Bays[i].ID && g.IntN(2) == 0 {
			ch.Bays[i].Excludes = []string{n}
		}
	}
}

func (g gen) findings(ch *hw.Chassis) {
	add := func(path, value string, source hw.Source) {
		ch.Findings = append(ch.Findings,
			hw.Finding{Path: path, Value: []byte(value), Source: source, On: "2026-01-01"})
	}
	for i := range ch.Mem().Sockets {
		if g.IntN(3) == 0 {
			add("/memory/sockets/"+ch.Memory.Sockets[i].ID+"/form", `"SO-DIMM"`,
				pickOf(g, hw.Bench, hw.FromSeller, hw.Assumed))
		}
	}
	for i := range ch.Slots {
		if lanes, ok := ch.Slots[i].Lanes.Get(); ok && g.IntN(3) == 0 {
			add("/slots/"+ch.Slots[i].ID+"/lanes", fmt.Sprint(lanes), "bench")
			add("/slots/"+ch.Slots[i].ID+"/lanes", "1", pickOf(g, hw.FromSeller, hw.FromLabel))
		}
	}
	for i := range ch.Batteries {
		if g.IntN(3) == 0 {
			add("/batteries/"+ch.Batteries[i].ID+"/series", "3", "seller")
		}
	}
}

func (g gen) machine(ch *hw.Chassis) *hw.Machine {
	m := &hw.Machine{ID: "m", Chassis: ch.ID, Variant: []string{}}
	m.Fitted.Memory, m.Fitted.Drives = []hw.FittedModule{}, []hw.FittedDrive{}
	for i := range ch.Mem().Sockets {
		if g.IntN(2) == 0 {
			mod := g.module()
			mod.Type, mod.Form = "DDR4", "SO-DIMM"
			m.Fitted.Memory = append(m.Fitted.Memory, hw.FittedModule{Socket: ch.Memory.Sockets[i].ID, Module: mod})
		}
	}
	boot := g.IntN(3) > 0
	fit := func(place string, bay bool) {
		d := g.drive()
		d.Form = ""
		if bay {
			d.Form = "2.5in"
			if i := ch.BayByID(place); ch.Bays[i].Form == hw.FormOptical && g.IntN(2) == 0 {
				d = hw.Drive{Form: hw.FormOptical}
			}
		}
		f := hw.FittedDrive{Place: place, Drive: d, UsedGB: maybe(g, 80, gb(pickOf(g, 0, 100, 300)))}
		if d.Form != hw.FormOptical && g.IntN(4) == 0 {
			f.Failing, f.Unreadable = maybe(g, 70, true), maybe(g, 30, true)
		}
		if boot {
			f.Boot = hw.Known(len(m.Fitted.Drives) == 0)
		}
		m.Fitted.Drives = append(m.Fitted.Drives, f)
	}
	for i := range ch.Slots {
		if ch.Slots[i].Purpose == "storage" && g.IntN(2) == 0 {
			fit(ch.Slots[i].ID, false)
		}
		if ch.Slots[i].Purpose == "wireless" && g.IntN(3) > 0 {
			m.Fitted.Wireless = &hw.FittedWireless{Slot: ch.Slots[i].ID,
				Standard: hw.Known(pickOf[hw.Standard](g, "wifi4", "wifi5", "wifi6"))}
		}
	}
	for i := range ch.Bays {
		if g.IntN(2) == 0 {
			fit(ch.Bays[i].ID, true)
		}
	}
	if len(ch.Batteries) > 0 && g.IntN(5) > 0 {
		m.Fitted.Battery = &hw.FittedBattery{Option: ch.Batteries[g.IntN(len(ch.Batteries))].ID,
			FullWh: maybe(g, 80, gb(pickOf(g, 30, 40, 50))), Swollen: hw.Known(false)}
	}
	switch g.IntN(16) {
	case 0:
		m.Fitted.Memory = nil
	case 1:
		m.Fitted.Drives = nil
	case 2:
		m.Fitted.Wireless = nil
	}
	m.Usage = hw.Usage{MemoryPeak: maybe(g, 70, gb(pickOf(g, 5, 9, 14))), RuntimeH: maybe(g, 60, gb(4)),
		DrawW: maybe(g, 60, gb(8))}
	return m
}

func (g gen) parts(n int) *hw.Parts {
	p := &hw.Parts{Currency: "EUR"}
	for i := range n {
		part := hw.Part{ID: fmt.Sprintf("x%d", i), PriceCents: int64(g.IntN(12)) * 1000,
			Count: hw.Known(pickOf(g, 1, 1, 1, 2)), Stock: maybe(g, 80, g.IntN(4)), LeadDays: maybe(g, 50, g.IntN(9))}
		switch g.IntN(10) {
		case 0, 1:
			part.Source = hw.OriginPulled
		case 2:
			part.Source, part.PriceCents, part.For = hw.OriginCustomer, 0, pickOf(g, "m", "m", "other")
		}
		switch g.IntN(10) {
		case 0, 1, 2:
			mod := g.module()
			part.Kind, part.Memory = hw.KindMemory, &mod
		case 3, 4, 5:
			d := g.drive()
			part.Kind, part.Drive = hw.KindDrive, &d
		case 6, 7:
			k := g.IntN(3)
			part.Kind = hw.KindBattery
			part.Battery = &hw.Pack{PartNumber: fmt.Sprintf("N%d", k), DesignWh: hw.Known(gb(50 + 26*k)),
				NominalV: hw.Known(hw.Dec(11_400_000)), Series: maybe(g, 95, 3)}
		case 8:
			part.Kind = hw.KindWireless
			part.Wireless = &hw.Card{Key: hw.Known("A+E"), Length: hw.Known(30),
				Interface: pickOf(g, hw.PCIe, hw.PCIe, hw.CNVi),
				Standard:  pickOf[hw.Standard](g, "wifi5", "wifi6", "wifi6e"), Antennas: hw.Known(pickOf(g, 2, 2, 3))}
		case 9:
			part.Kind, part.Provides = hw.KindAccessory, pickOf(g, "bracket", "cable")
		}
		p.Parts = append(p.Parts, part)
	}
	return p
}

func (g gen) request() *hw.Request {
	r := &hw.Request{LabourRate: hw.Known(int64(pickOf(g, 0, 4800))),
		BudgetCents: maybe(g, 60, int64(pickOf(g, 3000, 9000, 20000)))}
	r.Goals.MemoryGB = maybe(g, 60, gb(pickOf(g, 12, 16, 24)))
	r.Goals.StorageGB = maybe(g, 60, gb(pickOf(g, 500, 1000, 2000)))
	r.Goals.RuntimeH = maybe(g, 50, gb(pickOf(g, 4, 6, 8)))
	r.Goals.Wireless = maybe(g, 40, pickOf[hw.Standard](g, "wifi5", "wifi6", "wifi6e"))
	if r.Goals == (hw.Goals{}) {
		r.Goals.MemoryGB = hw.Known(gb(16))
	}
	r.Practice = hw.Practice{MemoryLimit: maybe(g, 60, pickOf(g, hw.LimitMaker, hw.LimitProven, hw.LimitController)),
		Pairing:    maybe(g, 60, pickOf(g, hw.PairAny, hw.PairEqual, hw.PairMatch, hw.PairIdentical)),
		Rotational: pickOf(g, hw.Maybe[hw.RotationalUse]{}, hw.Known(hw.SpinNever), hw.Known(hw.SpinAny)),
		AllowBay:   maybe(g, 20, g.IntN(2) == 0), AllowOrder: maybe(g, 40, g.IntN(2) == 0),
		AllowUnlistedBattery: maybe(g, 30, true),
		AccessPoint:          maybe(g, 50, pickOf[hw.Standard](g, "wifi5", "wifi6"))}
	return r
}
