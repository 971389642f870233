package plan

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"yembo/core/hw"
)

// base is a case in which everything fits and nothing is worth a warning: the
// cases below each change one thing.
func base() Input {
	ch := &hw.Chassis{ID: "c", Kind: "notebook",
		Memory: &hw.Memory{Type: hw.Known[hw.MemoryType]("DDR4"), MaxSpeed: hw.Known(3200), Channels: hw.Known(2),
			Soldered: []hw.Soldered{{ID: "on", Channel: "A", Capacity: gb(8), Speed: hw.Known(3200)}},
			Sockets: []hw.Socket{{ID: "dimm1", Channel: "B", Form: "SO-DIMM", MaxModule: hw.Known(gb(32)),
				Reach: "plug"}},
			Limits: hw.Limits{Maker: hw.Known(gb(40)), Controller: hw.Known(gb(64))}},
		Slots: []hw.Slot{
			{ID: "m2a", Purpose: "storage", Key: hw.Known("M"), Gen: hw.Known(4), Lanes: hw.Known(4),
				Protocols: []hw.Interface{"nvme"}, Refuses: []hw.Refusal{},
				Lengths: map[string]string{"80": "fitted", "42": "none"}, MaxTop: hw.Known(dec("1.5")),
				MaxBottom: hw.Known(gb(0)), Excludes: []string{}, CarryOver: []string{}, Reach: "plug"},
			{ID: "wlan", Purpose: "wireless", Key: hw.Known("E"), Protocols: []hw.Interface{"pcie"},
				Refuses: []hw.Refusal{}, Lengths: map[string]string{"30": "fitted"},
				Antennas: []string{"black", "white"}, Excludes: []string{}, CarryOver: []string{}, Reach: "plug"}},
		Bays: []hw.Bay{{ID: "bay", Form: "2.5in", Height: hw.Known(gb(7)), Interface: hw.Known[hw.Interface]("sata"),
			Connector: hw.Known("fitted"), Caddy: hw.Known("fitted"), Excludes: []string{}, CarryOver: []string{},
			Reach: "plug"}},
		Batteries: []hw.Battery{
			{ID: "small", DesignWh: hw.Known(gb(50)), NominalV: hw.Known(dec("11.4")), Series: hw.Known(3),
				PartNumbers: []string{"N1"}, Excludes: []string{}, CarryOver: []string{}},
			{ID: "large", DesignWh: hw.Known(gb(76)), NominalV: hw.Known(dec("15.2")), Series: hw.Known(4),
				PartNumbers: []string{"N2"}, Excludes: []string{}, CarryOver: []string{}}},
		BatteryReach: "plug",
		Services:     []hw.Service{{ID: "paste", Reach: "plug", Minutes: hw.Known(gb(12))}},
		Steps: []hw.Step{{ID: "off", Verb: "power_down"},
			{ID: "plug", Verb: "unplug", Needs: []string{"off"}, IsolatesPwr: hw.Known(true)}}}
	m := &hw.Machine{ID: "m", Chassis: "c", Variant: []string{}, Fitted: hw.Fitted{
		Memory: []hw.FittedModule{{Socket: "dimm1",
			Module: hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(gb(4)), Speed: hw.Known(3200),
				Ranks: hw.Known(1)}}},
		Drives: []hw.FittedDrive{{Place: "bay",
			Drive:  hw.Drive{Interface: "sata", Form: "2.5in", Capacity: hw.Known(gb(250)), ReadMBs: hw.Known(gb(500))},
			UsedGB: hw.Known(gb(0)), Boot: hw.Known(false)}},
		Battery:  &hw.FittedBattery{Option: "small", FullWh: hw.Known(gb(40)), Swollen: hw.Known(false)},
		Wireless: &hw.FittedWireless{Slot: "wlan", Standard: hw.Known[hw.Standard]("wifi5")}},
		Usage: hw.Usage{RuntimeH: hw.Known(gb(4)), MemoryPeak: hw.Known(gb(9))}}
	parts := &hw.Parts{Currency: "EUR", Parts: []hw.Part{
		{ID: "ram", Kind: hw.KindMemory, PriceCents: 4000,
			Memory: &hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(gb(8)), Speed: hw.Known(3200),
				Ranks: hw.Known(1)}},
		{ID: "ssd", Kind: hw.KindDrive, PriceCents: 6000,
			Drive: &hw.Drive{Interface: "nvme", Key: hw.Known("M"), Length: hw.Known(80), Gen: hw.Known(4),
				Lanes: hw.Known(4), Capacity: hw.Known(gb(1000)),
				ReadMBs: hw.Known(gb(5000)), WriteMBs: hw.Known(gb(4000)), Top: hw.Known(dec("1.5")),
				Bottom: hw.Known(gb(0)), PowerW: hw.Known(gb(4))}},
		{ID: "hdd", Kind: hw.KindDrive, PriceCents: 9000,
			Drive: &hw.Drive{Interface: "sata", Form: "2.5in", Height: hw.Known(gb(7)), Capacity: hw.Known(gb(2000)),
				ReadMBs: hw.Known(gb(540)), WriteMBs: hw.Known(gb(500))}},
		{ID: "pack", Kind: hw.KindBattery, PriceCents: 7000,
			Battery: &hw.Pack{PartNumber: "N1", DesignWh: hw.Known(gb(50)), NominalV: hw.Known(dec("11.4")),
				Series: hw.Known(3)}},
		{ID: "card", Kind: hw.KindWireless, PriceCents: 2000,
			Wireless: &hw.Card{Key: hw.Known("A+E"), Length: hw.Known(30), Interface: "pcie", Standard: "wifi6",
				Antennas: hw.Known(2)}}}}
	req := &hw.Request{LabourRate: hw.Known(int64(4800)),
		Goals: hw.Goals{MemoryGB: hw.Known(gb(16)), StorageGB: hw.Known(gb(1000)), RuntimeH: hw.Known(gb(5)),
			Wireless: hw.Known[hw.Standard]("wifi6")}}
	return Input{Chassis: ch, Machine: m, Parts: parts, Request: req}
}

func dec(text string) hw.Dec {
	d, err := hw.ParseDec(text)
	if err != nil {
		panic(err)
	}
	return d
}

// codesOf lists every code that a plan carries, by where it stands.
func codesOf(p *Plan) []string {
	var out []string
	add := func(kind string, code any) { out = append(out, fmt.Sprint(kind, " ", code)) }
	add("verdict", p.Verdict)
	for _, r := range p.Rejected {
		add("rejected", r.Code)
	}
	for _, n := range p.Notes {
		add("note", n.Code)
	}
	for _, u := range p.Unmet {
		add("unmet", u.Code)
	}
	for _, o := range p.Options {
		for _, w := range o.Warnings {
			add("warning", w.Code)
		}
		for _, r := range o.Risk.Reasons {
			add("risk", fmt.Sprintf("%s %d", r.Code, r.Points))
		}
		for _, c := range o.Consents {
			add("consent", c)
		}
		for _, name := range o.Missing {
			add("missing", name)
		}
	}
	return out
}

// cases names for each code the change that brings it about.
var cases = []struct {
	code   string
	change func(in *Input)
}{
	{"rejected memory.soldered_only",
		func(in *Input) { in.Chassis.Memory.Sockets, in.Machine.Fitted.Memory = []hw.Socket{}, nil }},
	{"rejected memory.form", func(in *Input) { in.Parts.Parts[0].Memory.Form = "DIMM" }},
	{"rejected memory.type", func(in *Input) { in.Parts.Parts[0].Memory.Type = "DDR5" }},
	{"rejected memory.type", func(in *Input) {
		in.Chassis.Memory.Type, in.Parts.Parts[0].Memory.Type = hw.Known[hw.MemoryType]("DDR3L"), "DDR3"
	}},
	{"rejected memory.over_socket", func(in *Input) { in.Chassis.Memory.Sockets[0].MaxModule = hw.Known(gb(4)) }},
	{"rejected memory.over_limit", func(in *Input) { in.Chassis.Memory.Limits.Maker = hw.Known(gb(12)) }},
	{"rejected memory.over_limit", func(in *Input) { in.Chassis.Memory.Limits.Controller = hw.Known(gb(12)) }},
	{"rejected memory.pairing", func(in *Input) {
		in.Chassis.Memory.Sockets = append(in.Chassis.Memory.Sockets,
			hw.Socket{ID: "dimm2", Form: "SO-DIMM", MaxModule: hw.Known(gb(4)), Reach: "plug"})
		in.Machine.Fitted.Memory = append(in.Machine.Fitted.Memory,
			hw.FittedModule{Socket: "dimm2", Module: in.Machine.Fitted.Memory[0].Module})
		in.Request.Practice.Pairing = hw.Known[hw.Pairing]("equal")
		in.Request.Goals.MemoryGB = hw.Known(gb(20))
	}},
	{"rejected memory.ecc", func(in *Input) { in.Chassis.Memory.ECC = hw.Known(hw.ECCRequired) }},
	{"rejected memory.clocked", func(in *Input) {
		in.Parts.Parts[0].Memory.Clocked, in.Chassis.Memory.Clocked = hw.Known(true), hw.Known(hw.ClockedNone)
	}},
	{"rejected unknown", func(in *Input) { in.Chassis.Memory.Type = hw.Maybe[hw.MemoryType]{} }},
	{"rejected unknown", func(in *Input) {
		in.Chassis.Memory.Limits, in.Machine.Fitted.Memory = hw.Limits{}, []hw.FittedModule{}
		for i := range in.Chassis.Memory.Sockets {
			in.Chassis.Memory.Sockets[i].MaxModule = hw.Maybe[hw.Dec]{}
		}
	}},
	{"rejected bay.form", func(in *Input) {
		in.Chassis.Bays[0].Form, in.Chassis.Bays[0].Caddy, in.Chassis.Bays[0].Height = hw.FormOptical,
			hw.Known("not_used"), hw.Known(dec("9.5"))
	}},
	{"rejected bay.height", func(in *Input) {
		// 9.5 mm in a caddy want a bay of 12.7.
		in.Chassis.Bays[0].Form, in.Chassis.Bays[0].Caddy, in.Chassis.Bays[0].Height = hw.FormOptical,
			hw.Known("fitted"), hw.Known(dec("9.5"))
		in.Parts.Parts[2].Drive.Height = hw.Known(dec("9.5"))
	}},
	{"rejected keep", func(in *Input) { in.Request.Keep = []string{"wlan"} }},
	{"rejected unknown", func(in *Input) {
		// The large pack excludes the bay, and nobody told of the drives.
		in.Chassis.Batteries[1].Excludes, in.Machine.Fitted.Drives = []string{"bay"}, nil
		in.Parts.Parts[3].Battery = &hw.Pack{PartNumber: "N2", DesignWh: hw.Known(gb(76)),
			NominalV: hw.Known(hw.Dec(15_200_000)), Series: hw.Known(4)}
	}},
	{"rejected unknown", func(in *Input) { in.Parts.Parts[1].Drive.Bottom = hw.Maybe[hw.Dec]{} }},
	{"rejected m2.purpose", func(in *Input) { in.Chassis.Slots[0].Purpose = "wwan" }},
	{"rejected m2.key", func(in *Input) { in.Parts.Parts[1].Drive.Key = hw.Known("B") }},
	{"rejected m2.length", func(in *Input) { in.Parts.Parts[1].Drive.Length = hw.Known(110) }},
	{"rejected m2.length", func(in *Input) { in.Parts.Parts[1].Drive.Length = hw.Known(42) }},
	{"rejected m2.protocol", func(in *Input) { in.Parts.Parts[1].Drive.Interface = "sata" }},
	{"rejected m2.protocol", func(in *Input) { in.Parts.Parts[4].Wireless.Interface = "cnvi" }},
	{"rejected m2.refused", func(in *Input) {
		in.Chassis.Slots[0].Refuses, in.Parts.Parts[1].Drive.Lanes = []hw.Refusal{"x2"}, hw.Known(2)
	}},
	{"rejected m2.thickness", func(in *Input) { in.Parts.Parts[1].Drive.Bottom = hw.Known(gb(1)) }},
	{"rejected wireless.antennas", func(in *Input) { in.Parts.Parts[4].Wireless.Antennas = hw.Known(3) }},
	{"rejected wireless.firmware_list", func(in *Input) {
		in.Chassis.Slots[1].AcceptsOnly, in.Parts.Parts[4].Wireless.PartNumber = []string{"H1"}, "H2"
	}},
	{"rejected bay.no_header", func(in *Input) { in.Chassis.Bays[0].Connector = hw.Known("no_header") }},
	{"rejected bay.height", func(in *Input) { in.Parts.Parts[2].Drive.Height = hw.Known(gb(9)) }},
	{"rejected bay.interface", func(in *Input) { in.Chassis.Bays[0].Interface = hw.Known[hw.Interface]("nvme") }},
	{"rejected no_place", func(in *Input) {
		in.Chassis.Bays, in.Machine.Fitted.Drives = []hw.Bay{},
			[]hw.FittedDrive{}
	}},
	{"rejected practice.rotational", func(in *Input) {
		in.Request.Practice.Rotational = hw.Known(hw.SpinNever)
		in.Parts.Parts[1].Drive.Rotational = hw.Known(true)
	}},
	{"warning drive.rotational", func(in *Input) { in.Parts.Parts[1].Drive.Rotational = hw.Known(true) }},
	{"rejected practice.no_bay", func(in *Input) { in.Request.Practice.AllowBay = hw.Known(false) }},
	{"rejected excluded", func(in *Input) {
		in.Chassis.Slots[0].Excludes, in.Machine.Fitted.Drives[0].Boot = []string{"bay"}, hw.Known(true)
	}},
	{"rejected not_on_variant", func(in *Input) { in.Chassis.Slots[0].OnlyOn = "model with two slots" }},
	{"rejected stock", func(in *Input) { in.Parts.Parts[0].Stock = hw.Known(0) }},
	{"rejected battery.not_listed", func(in *Input) { in.Parts.Parts[3].Battery.PartNumber = "N9" }},
	{"rejected battery.voltage", func(in *Input) { in.Parts.Parts[3].Battery.NominalV = hw.Known(hw.Dec(12_100_000)) }},
	{"rejected battery.voltage", func(in *Input) { in.Parts.Parts[3].Battery.Series = hw.Known(4) }},
	{"rejected battery.excluded", func(in *Input) {
		in.Chassis.Batteries[1].Excludes, in.Machine.Fitted.Drives[0].Boot = []string{"bay"}, hw.Known(true)
		in.Parts.Parts[3].Battery = &hw.Pack{PartNumber: "N2", DesignWh: hw.Known(gb(76)),
			NominalV: hw.Known(hw.Dec(15_200_000)), Series: hw.Known(4)}
	}},

	{"warning memory.mixed", addSocket},
	{"risk memory.mixed 1", addSocket},
	{"warning memory.asymmetric", func(in *Input) { in.Parts.Parts[0].Memory.Capacity = hw.Known(gb(16)) }},
	{"risk memory.asymmetric 0", func(in *Input) { in.Parts.Parts[0].Memory.Capacity = hw.Known(gb(16)) }},
	{"warning memory.slower", func(in *Input) { in.Parts.Parts[0].Memory.Speed = hw.Known(2666) }},
	{"risk memory.beyond_maker 3", beyondMaker},
	{"consent beyond_maker", beyondMaker},
	{"risk memory.limit_inferred 1", noMakersFigure},
	{"consent limit_unknown", noMakersFigure},
	{"note memory.limit_inferred", noMakersFigure},
	{"risk memory.narrower 1", narrower},
	{"warning memory.narrower", narrower},
	{"risk memory.single_channel 1", oneChannel},
	{"warning memory.single_channel", oneChannel},
	{"warning drive.data_out", func(in *Input) { in.Machine.Fitted.Drives[0].UsedGB = hw.Known(gb(120)) }},
	{"warning drive.optical_out", func(in *Input) {
		in.Chassis.Bays[0].Form, in.Chassis.Bays[0].Caddy, in.Chassis.Bays[0].Height = hw.FormOptical,
			hw.Known("fitted"), hw.Known(dec("12.7"))
		in.Machine.Fitted.Drives[0] = hw.FittedDrive{Place: "bay", Drive: hw.Drive{Form: hw.FormOptical}}
		in.Request.Goals.StorageGB = hw.Known(gb(2000))
	}},
	{"note drive.spinning", func(in *Input) {
		in.Machine.Fitted.Drives[0].Boot, in.Machine.Fitted.Drives[0].Drive.Rotational = hw.Known(true), hw.Known(true)
	}},
	{"risk part.customer 0", func(in *Input) {
		in.Parts.Parts[0].Source, in.Parts.Parts[0].For, in.Parts.Parts[0].PriceCents = hw.OriginCustomer,
			in.Machine.ID, 0
	}},
	{"warning drive.held_back", func(in *Input) { in.Chassis.Slots[0].Lanes = hw.Known(2) }},
	{"warning drive.no_gain", func(in *Input) { bootInSlot(in); in.Chassis.Slots[0].Gen = hw.Known(3) }},
	{"warning drive.hot", func(in *Input) { in.Chassis.Slots[0].Cooling = hw.Known[hw.Cooling]("none") }},
	{"risk drive.hot 1", func(in *Input) {
		in.Chassis.Slots[0].Cooling, in.Chassis.Slots[0].Gen = hw.Known(hw.NoCooling), hw.Known(3)
		in.Parts.Parts[1].Drive.PowerW = hw.Known(gb(6))
	}},
	{"warning drive.heatsink", func(in *Input) {
		in.Chassis.Slots[0].Cooling, in.Parts.Parts[1].Drive.Heatsink = hw.Known(hw.Shroud), hw.Known(true)
	}},
	{"warning drive.boot_replaced", bootInSlot},
	{"risk drive.boot_replaced 1", bootInSlot},
	{"consent data", bootInSlot},
	{"warning drive.raid0", func(in *Input) { in.Machine.Fitted.Drives[0].Raid0 = hw.Known(true) }},
	{"note drive.raid0", striped}, {"rejected drive.raid0", striped},
	{"rejected drive.raid0", func(in *Input) { striped(in); in.Request.Keep = []string{"bay"} }},
	{"unmet drive.raid0", func(in *Input) { striped(in); in.Parts.Parts = in.Parts.Parts[2:3] }},
	{"note drive.failing", oneFailing}, {"warning drive.failing", oneFailing}, {"risk drive.failing 4", oneFailing},
	{"risk drive.failing 4", func(in *Input) {
		oneFailing(in)
		in.Request.Goals, in.Request.Services = hw.Goals{}, []hw.AskedService{{ID: "paste"}}
	}},
	{"warning drive.clean_install", func(in *Input) { bootInSlot(in); in.Machine.Fitted.Drives[0].Unreadable = hw.Known(true) }},
	{"warning drive.keep_pad", func(in *Input) { in.Chassis.Slots[0].Cooling = hw.Known[hw.Cooling]("pad") }},
	{"warning drive.encrypted", func(in *Input) { bootInSlot(in); in.Machine.Fitted.Drives[0].Encrypted = hw.Known(true) }},
	{"warning drive.mbr", func(in *Input) {
		bootInSlot(in)
		in.Machine.Fitted.Drives[0].PartitionTable, in.Parts.Parts[1].Drive.Capacity = hw.Known("mbr"),
			hw.Known(gb(4000))
	}},
	{"warning drive.stated_limit",
		func(in *Input) { bootInSlot(in); in.Chassis.Slots[0].StatedMax = hw.Known(gb(512)) }},
	{"warning drive.clean_install",
		func(in *Input) { bootInSlot(in); in.Machine.Fitted.Drives[0].UsedGB = hw.Known(gb(950)) }},
	{"warning wireless.no_gain", func(in *Input) { in.Request.Practice.AccessPoint = hw.Known[hw.Standard]("wifi5") }},
	{"risk battery.not_listed 3", unlisted},
	{"consent unlisted_battery", unlisted},
	{"risk step.board_out 3", func(in *Input) { in.Chassis.Steps[1].RemovesBoard = hw.Known(true) }},
	{"risk step.glued 1", func(in *Input) { in.Chassis.Steps[1].Verb = "peel" }},
	{"consent glued_part", func(in *Input) { in.Chassis.Steps[1].Glued = hw.Known(true) }},
	{"risk step.seal 1", func(in *Input) { in.Chassis.Steps[0].Verb = "open_seal" }},
	{"consent seal", func(in *Input) { in.Chassis.Steps[0].Seal = hw.Known(true) }},
	{"risk step.live_unplug 1", func(in *Input) { in.Chassis.Steps[0].LiveRisk = hw.Known(true) }},
	{"risk reach.not_recorded 1", func(in *Input) { in.Chassis.Memory.Sockets[0].Reach = "" }},
	{"warning reach.not_recorded", func(in *Input) { in.Chassis.BatteryReach = "" }},
	{"note fact.defaulted", func(in *Input) { in.Chassis.Bays[0].Reach = "" }},
	{"warning drive.encrypted", newLock}, {"consent data", newLock},
	{"risk fact.assumed 1", func(in *Input) {
		in.Chassis.Findings = []hw.Finding{{Path: "/memory/type", Value: []byte(`"DDR4"`), Source: "seller"}}
	}},
	{"risk fact.disputed 2", disputed},
	{"note fact.disputed", disputed},
	{"note fact.defaulted", func(in *Input) { in.Chassis.Slots[0].Refuses = nil }},
	{"risk part.pulled 1", func(in *Input) { in.Parts.Parts[0].Source = "pulled" }},

	{"note memory.limit_unreachable", func(in *Input) {
		in.Chassis.Memory.Limits = hw.Limits{Maker: hw.Known(gb(64))}
	}},
	{"note memory.more_than_needed", func(in *Input) {
		in.Machine.Usage.MemoryPeak = hw.Known(gb(3))
		in.Request.Goals.MemoryGB = hw.Known(gb(32))
	}},
	{"note battery.worn", func(in *Input) { in.Machine.Fitted.Battery.FullWh = hw.Known(gb(29)) }},
	{"note battery.swollen", func(in *Input) { in.Machine.Fitted.Battery.Swollen = hw.Known(true) }},
	{"note battery.not_inspected", func(in *Input) { in.Machine.Fitted.Battery.Swollen = hw.Maybe[bool]{} }},
	{"note machine.not_known", func(in *Input) { in.Machine.Usage.RuntimeH = hw.Maybe[hw.Dec]{} }},
	{"note fact.defaulted", func(in *Input) { in.Parts.Parts[3].Battery.Series = hw.Maybe[int]{} }},
	{"risk battery.other_wh 1", func(in *Input) { in.Parts.Parts[3].Battery.DesignWh = hw.Known(dec("55.1")) }},
	{"warning battery.other_wh", func(in *Input) { in.Parts.Parts[3].Battery.DesignWh = hw.Known(dec("44.9")) }},
	{"note machine.not_known", func(in *Input) { in.Machine.Fitted.Wireless = nil }},

	{"verdict stop", func(in *Input) { in.Machine.Fitted.Battery.Swollen = hw.Known(true) }},
	{"verdict enough", func(in *Input) { in.Request.Goals = hw.Goals{MemoryGB: hw.Known(gb(12))} }},
	{"verdict partial", func(in *Input) { in.Request.Goals.MemoryGB = hw.Known(gb(32)) }},
	{"verdict not_possible", func(in *Input) { in.Request.Goals = hw.Goals{MemoryGB: hw.Known(gb(16))}; in.Parts.Parts = nil }},
	{"unmet memory.type", func(in *Input) { in.Parts.Parts[0].Memory.Type = "DDR5" }},
	{"unmet missing", func(in *Input) {
		in.Request.Goals = hw.Goals{StorageGB: hw.Known(gb(1250))}
		in.Chassis.Slots[0].Lengths["80"] = "needs:post"
		in.Parts.Parts = in.Parts.Parts[1:2]
	}},
	{"missing post", func(in *Input) { in.Chassis.Slots[0].Lengths["80"] = "needs:post" }},
	{"unmet budget", func(in *Input) { in.Request.BudgetCents = hw.Known(int64(100)) }},
	{"unmet conflict", func(in *Input) {
		// Runtime needs the large pack, which takes the bay of a data drive that the
		// storage goal counts on.
		in.Request.Goals = hw.Goals{StorageGB: hw.Known(gb(1200)), RuntimeH: hw.Known(gb(7))}
		in.Chassis.Batteries[1].Excludes = []string{"bay"}
		in.Machine.Fitted.Drives[0].Boot = hw.Known(false)
		in.Parts.Parts = in.Parts.Parts[:2]
		in.Parts.Parts = append(in.Parts.Parts, hw.Part{ID: "big", Kind: hw.KindBattery, PriceCents: 9000,
			Battery: &hw.Pack{PartNumber: "N2", DesignWh: hw.Known(gb(76)), NominalV: hw.Known(hw.Dec(15_200_000)),
				Series: hw.Known(4)}})
	}},
	{"verdict not_known", func(in *Input) {
		in.Request.Goals, in.Machine.Fitted.Memory = hw.Goals{MemoryGB: hw.Known(gb(16))}, nil
	}},
	{"unmet machine.not_known", func(in *Input) { in.Machine.Fitted.Drives = nil }},
	{"verdict service", func(in *Input) {
		in.Request.Goals, in.Request.Services = hw.Goals{},
			[]hw.AskedService{{ID: "paste"}}
	}},
	{"unmet memory.over_limit", func(in *Input) {
		in.Request.Goals.MemoryGB, in.Chassis.Memory.Limits.Maker = hw.Known(gb(32)), hw.Known(gb(24))
		in.Chassis.Memory.Sockets[0].MaxModule = hw.Known(gb(32))
		big := in.Parts.Parts[0]
		big.ID, big.Memory = "big", &hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(gb(32)),
			Speed: hw.Known(3200), Ranks: hw.Known(2)}
		in.Parts.Parts = append(in.Parts.Parts, big)
	}},
	{"unmet memory.pairing", func(in *Input) {
		addSocket(in)
		in.Request.Practice.Pairing, in.Request.Goals.MemoryGB = hw.Known(hw.PairEqual), hw.Known(gb(24))
		in.Chassis.Memory.Limits.Maker = hw.Known(gb(64))
		in.Chassis.Memory.Soldered[0].Capacity = gb(4)
		in.Machine.Fitted.Memory = []hw.FittedModule{{Socket: "dimm2",
			Module: hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(gb(4)), Speed: hw.Known(3200),
				Ranks: hw.Known(1)}}}
		four, sixteen := in.Parts.Parts[0], in.Parts.Parts[0]
		four.ID, four.Memory = "four", &hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(gb(4)),
			Speed: hw.Known(3200), Ranks: hw.Known(1)}
		sixteen.ID, sixteen.Stock, sixteen.Memory = "sixteen", hw.Known(1),
			&hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(gb(16)), Speed: hw.Known(3200),
				Ranks: hw.Known(1)}
		in.Parts.Parts = append(in.Parts.Parts, four, sixteen)
	}},
	{"unmet keep", func(in *Input) {
		// One of the two drives fits where it may go, but is too small by itself.
		in.Request.Goals.StorageGB, in.Request.Keep = hw.Known(gb(2500)), []string{"m2a"}
	}},
	{"unmet stock", func(in *Input) {
		in.Request.Goals.MemoryGB = hw.Known(gb(24))
		big := in.Parts.Parts[0]
		big.ID, big.Stock, big.Memory = "big", hw.Known(0),
			&hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(gb(16)), Speed: hw.Known(3200),
				Ranks: hw.Known(1)}
		in.Parts.Parts = append(in.Parts.Parts, big)
	}},
	{"unmet wireless.no_gain", func(in *Input) {
		in.Request.Goals = hw.Goals{Wireless: hw.Known[hw.Standard]("wifi6")}
		in.Request.Practice.AccessPoint = hw.Known[hw.Standard]("wifi5")
	}},
	{"unmet unknown", func(in *Input) {
		in.Request.Goals.MemoryGB = hw.Known(gb(24))
		big := in.Parts.Parts[0]
		big.ID, big.Memory = "big", &hw.Module{Type: "DDR4", Capacity: hw.Known(gb(16)), Speed: hw.Known(3200)}
		in.Parts.Parts = append(in.Parts.Parts, big)
	}},
	{"unmet no_part", func(in *Input) { in.Request.Goals.MemoryGB = hw.Known(gb(32)) }},
}

// everyCode is every code that a plan may carry.
const everyCode = `memory.soldered_only memory.form memory.type memory.ecc memory.clocked memory.over_socket
	memory.over_limit memory.pairing memory.mixed memory.asymmetric memory.slower memory.limit_unreachable
	memory.more_than_needed memory.beyond_maker
	memory.limit_inferred memory.narrower memory.single_channel limit_unknown drive.data_out drive.optical_out drive.spinning
	part.customer keep bay.form not_known service
	m2.purpose m2.key m2.length m2.protocol m2.refused m2.thickness wireless.antennas wireless.firmware_list wireless.no_gain
	bay.no_header bay.height bay.interface excluded not_on_variant no_place practice.no_bay practice.rotational
	drive.rotational stock unknown drive.held_back drive.no_gain drive.hot drive.heatsink drive.boot_replaced
	drive.raid0 drive.failing drive.keep_pad drive.encrypted drive.mbr
	drive.stated_limit drive.clean_install battery.not_listed battery.voltage battery.excluded battery.other_wh
	battery.worn battery.swollen battery.not_inspected step.board_out step.glued step.seal step.live_unplug
	reach.not_recorded fact.assumed fact.disputed fact.defaulted part.pulled
	machine.not_known missing budget conflict no_part
	beyond_maker data glued_part seal unlisted_battery stop enough partial not_possible`

// TestCodes makes each case and checks that its code appears, that it does not
// without the change, and that no code is without a case.
func TestCodes(t *testing.T) {
	plain, err := Make(t.Context(), base())
	if err != nil {
		t.Fatal(err)
	}
	if plain.Verdict != Upgrade || len(plain.Notes) > 0 || len(plain.Rejected) > 0 {
		t.Fatalf("the base case is not plain: %s %v %v", plain.Verdict, plain.Notes, plain.Rejected)
	}
	without := codesOf(plain)
	shown := map[string]bool{}
	for _, c := range cases {
		in := base()
		c.change(&in)
		if faults := append(hw.ValidateChassis(in.Chassis),
			hw.ValidateMachine(in.Machine, in.Chassis)...); len(faults) > 0 {
			t.Errorf("%s: %v", c.code, faults)
		}
		p, err := Make(t.Context(), in)
		if err != nil {
			t.Fatal(err)
		}
		if with := codesOf(p); !slices.Contains(with, c.code) {
			t.Errorf("%s does not appear: %v", c.code, with)
		}
		if slices.Contains(without, c.code) {
			t.Errorf("%s appears without its cause", c.code)
		}
		for _, w := range strings.Fields(c.code) {
			shown[w] = true
		}
	}
	for _, code := range strings.Fields(everyCode) {
		if !shown[code] {
			t.Errorf("no case shows %s", code)
		}
	}
}
