package plan

import (
	"testing"

	"yembo/core/hw"
)

// benchInput is the case of the figure to hold: a chassis with 2 sockets, 3 drive
// places and 2 packs, all goals unmet, and that many parts generated from a seed.
func benchInput(seed uint64, parts int) Input {
	g := newGen(seed)
	slot := func(id string, gen int) hw.Slot {
		return hw.Slot{ID: id, Purpose: "storage", Key: hw.Known("M"), Gen: hw.Known(gen), Lanes: hw.Known(4),
			Protocols: []hw.Interface{"nvme", "sata"},
			Lengths:   map[string]string{"30": "fitted", "80": "needs:bracket"}, MaxTop: hw.Known(hw.DecOf(2)),
			MaxBottom: hw.Known(hw.DecOf(2)), Cooling: hw.Known[hw.Cooling]("none"), Reach: "plug"}
	}
	ch := &hw.Chassis{ID: "c", Kind: "notebook",
		Memory: &hw.Memory{Type: hw.Known[hw.MemoryType]("DDR4"), MaxSpeed: hw.Known(3200), Channels: hw.Known(2),
			Limits: hw.Limits{Maker: hw.Known(gb(64))},
			Sockets: []hw.Socket{{ID: "d0", Channel: "A", Form: "SO-DIMM", Reach: "shield"},
				{ID: "d1", Channel: "B", Form: "SO-DIMM", Reach: "shield"}}},
		Slots: []hw.Slot{slot("m0", 4), slot("m1", 3),
			{ID: "wl", Purpose: "wireless", Key: hw.Known("E"), Protocols: []hw.Interface{"pcie"},
				Lengths: map[string]string{"30": "fitted"}, Antennas: []string{"black", "white"}, Reach: "plug"}},
		Bays: []hw.Bay{{ID: "b0", Form: "2.5in", Height: hw.Known(hw.DecOf(7)),
			Interface: hw.Known[hw.Interface]("sata"), Connector: hw.Known("needs:cable"),
			Excludes: []string{"battery:p1"}, Reach: "plug"}},
		Batteries: []hw.Battery{{ID: "p0", DesignWh: hw.Known(gb(50)), NominalV: hw.Known(hw.Dec(11_400_000)),
			Series: hw.Known(3), PartNumbers: []string{"N0"}},
			{ID: "p1", DesignWh: hw.Known(gb(76)), NominalV: hw.Known(hw.Dec(11_400_000)), Series: hw.Known(3),
				PartNumbers: []string{"N1"}}},
		BatteryReach: "plug",
		Steps: []hw.Step{{ID: "off", Verb: "power_down"}, {ID: "cover", Verb: "unclip", Needs: []string{"off"}},
			{ID: "plug", Verb: "unplug", Needs: []string{"cover"}, IsolatesPwr: hw.Known(true)},
			{ID: "shield", Verb: "lift", Needs: []string{"plug"}}}}
	m := &hw.Machine{ID: "m", Chassis: "c", Fitted: hw.Fitted{
		Memory: []hw.FittedModule{{Socket: "d0", Module: hw.Module{Capacity: hw.Known(gb(4)), Speed: hw.Known(2666),
			Ranks: hw.Known(1)}}},
		Drives: []hw.FittedDrive{{Place: "m0",
			Drive:  hw.Drive{Interface: "nvme", Length: hw.Known(30), Capacity: hw.Known(gb(250))},
			UsedGB: hw.Known(gb(200)), Boot: hw.Known(true)}},
		Battery:  &hw.FittedBattery{Option: "p0", FullWh: hw.Known(gb(30)), Swollen: hw.Known(false)},
		Wireless: &hw.FittedWireless{Slot: "wl", Standard: hw.Known[hw.Standard]("wifi4")}},
		Usage: hw.Usage{MemoryPeak: hw.Known(gb(14)), RuntimeH: hw.Known(gb(3))}}
	req := &hw.Request{LabourRate: hw.Known(int64(4800)),
		Goals: hw.Goals{MemoryGB: hw.Known(gb(32)), StorageGB: hw.Known(gb(2000)), RuntimeH: hw.Known(gb(6)),
			Wireless: hw.Known[hw.Standard]("wifi6")}}
	list := g.parts(parts)
	for i := range list.Parts {
		list.Parts[i].PriceCents = int64(1000 + g.IntN(20_000))
	}
	return Input{Chassis: ch, Machine: m, Parts: list, Request: req}
}

func BenchmarkPlan5000(b *testing.B) {
	in := benchInput(1, 5000)
	options := 0
	for b.Loop() {
		p, err := Make(b.Context(), in)
		if err != nil {
			b.Fatal(err)
		}
		options = len(p.Options)
	}
	b.ReportMetric(float64(options), "options")
}

// BenchmarkPlanLarge is a machine with four sockets, four drive places and three packs, all four kinds
// wanted, no budget and 10,000 parts: nearly 20,000 options.
func BenchmarkPlanLarge(b *testing.B) {
	in := largeInput()
	options := 0
	for b.Loop() {
		p, err := Make(b.Context(), in)
		if err != nil {
			b.Fatal(err)
		}
		options = len(p.Options)
	}
	b.ReportMetric(float64(options), "options")
}

func largeInput() Input {
	in := benchInput(5, 10_000)
	ch := in.Chassis
	ch.Memory.Sockets = append(ch.Memory.Sockets,
		hw.Socket{ID: "d2", Channel: "A", Form: "SO-DIMM", Reach: "shield"},
		hw.Socket{ID: "d3", Channel: "B", Form: "SO-DIMM", Reach: "shield"})
	ch.Memory.Limits.Maker = hw.Known(gb(128))
	third := ch.Slots[0]
	third.ID = "m2"
	ch.Slots = append(ch.Slots, third)
	pack := ch.Batteries[1]
	pack.ID, pack.DesignWh, pack.PartNumbers = "p2", hw.Known(gb(60)), []string{"N2"}
	ch.Batteries = append(ch.Batteries, pack)
	in.Request.Goals.MemoryGB = hw.Known(gb(64))
	in.Request.Goals.StorageGB = hw.Known(gb(4000))
	return in
}
