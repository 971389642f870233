package reading

import (
	"encoding/json"
	"strings"
	"testing"

	"yembo/core/hw"
)

// chassis is a model with one soldered chip, one socket, two slots and two packs; its
// controller's figure was seen at the bench.
func chassis(t *testing.T, findings ...hw.Finding) *hw.Chassis {
	t.Helper()
	var ch hw.Chassis
	err := json.Unmarshal([]byte(`{"format":"yembo.chassis/1","id":"q","maker":"Quillon","model":"Aster 14","kind":"notebook",
		"memory":{"type":"DDR4","soldered":[{"id":"mem","capacity_gb":8}],"sockets":[{"id":"dimm1","form":"SO-DIMM"}],
"limits":{"controller_gb":32}},
		"slots":[{"id":"m2a","purpose":"storage","pcie_gen":3,"lanes":4,"protocols":["nvme"]},{"id":"m2b","purpose":"storage",
"protocols":["sata"]}],
		"batteries":[{"id":"small","design_wh":40,"nominal_v":11.4},{"id":"large","design_wh":60}]}`), &ch)
	if err != nil {
		t.Fatal(err)
	}
	ch.Findings = findings
	return &ch
}

func line(c *Comparison, what string) Line {
	for _, l := range c.Lines {
		if l.What == what {
			return l
		}
	}
	return Line{}
}

// TestCompare holds the rules for which one counts: bench or reading, record or machine.
func TestCompare(t *testing.T) {
	bench := hw.Finding{Path: "/memory/limits/controller_gb", Value: json.RawMessage("32"), Source: "bench",
		On: "2026-04-18"}
	type want struct{ what, how, rule string }
	for name, x := range map[string]struct {
		o    Observed
		fit  hw.Fitted
		want want
		bars string // what must not be offered or advised: "offered", "advised"
	}{
		"firmware's maximum": {Observed{Memory: &Memory{Max: hw.Known(hw.DecOf(64))}}, hw.Fitted{},
			want{"Largest memory, by firmware", Contradicts, "seen at the bench 2026-04-18 and holds"}, "advised"},
		"a module's ranks": {Observed{Memory: &Memory{Devices: []Device{{Type: "DDR4", Capacity: hw.Known(hw.DecOf(8)),
			Ranks: hw.Known(2), PartNumber: "CV8D4"}}}},
			hw.Fitted{Memory: []hw.FittedModule{{Socket: "dimm1",
				Module: hw.Module{Type: "DDR4", Capacity: hw.Known(hw.DecOf(8)), Speed: hw.Known(3200)}}}},
			want{"In dimm1", More, "adds what was not known: part number, ranks"}, ""},
		"nothing more": {Observed{Memory: &Memory{Devices: []Device{{Type: "DDR4", Capacity: hw.Known(hw.DecOf(8))}}}},
			hw.Fitted{Memory: []hw.FittedModule{{Socket: "dimm1",
				Module: hw.Module{Type: "DDR4", Capacity: hw.Known(hw.DecOf(8)), Speed: hw.Known(3200)}}}},
			want{"In dimm1", Same, ""}, "offered"},
		"soldered speed": {Observed{Memory: &Memory{Devices: []Device{{Capacity: hw.Known(hw.DecOf(8)),
			Soldered: hw.Known(true), Rated: hw.Known(2667)}}}}, hw.Fitted{},
			want{"Speed of soldered mem", New, "nothing on record"}, ""},
		"a drive that is well": {Observed{Drives: []Drive{{Interface: "nvme", Capacity: hw.Known[int64](512110190592),
			Healthy: hw.Known(true), Serial: "S1"}}},
			hw.Fitted{Drives: []hw.FittedDrive{{Place: "m2a",
				Drive: hw.Drive{Interface: "nvme", Capacity: hw.Known(hw.DecOf(500))}}}},
			want{"Drive in m2a", More, "serial, health by its own report"}, ""},
		"firmware's sockets": {Observed{Memory: &Memory{Sockets: hw.Known(2)}}, hw.Fitted{},
			want{"Memory sockets, by firmware", Contradicts, "never overrides what was seen on the bench"}, "offered"},
		"another model": {Observed{System: &System{Maker: "Pellam", Model: "Drover 15"}}, hw.Fitted{},
			want{"Model", Contradicts, "compare the base label"}, "offered"},
		"soldered for this machine": {Observed{Memory: &Memory{Devices: []Device{{Capacity: hw.Known(hw.DecOf(16)),
			Soldered: hw.Known(true)}}}}, hw.Fitted{},
			want{"Soldered mem", Contradicts, "for this machine alone"}, ""},
		"an empty socket": {Observed{Memory: &Memory{Devices: []Device{{Capacity: hw.Known(hw.Dec(0)),
			Soldered: hw.Known(false)}}}},
			hw.Fitted{Memory: []hw.FittedModule{{Socket: "dimm1", Module: hw.Module{Capacity: hw.Known(hw.DecOf(8))}}}},
			want{"In dimm1", Contradicts, "not seated reads as empty"}, "advised"},
		"another type": {Observed{Memory: &Memory{Devices: []Device{{Type: "DDR5", Capacity: hw.Known(hw.DecOf(8))}}}},
			hw.Fitted{}, want{"Memory type", Contradicts, "without a source"}, ""},
		"a failing drive": {Observed{Drives: []Drive{{Interface: "nvme", Capacity: hw.Known[int64](512110190592),
			Healthy: hw.Known(false)}}},
			hw.Fitted{Drives: []hw.FittedDrive{{Place: "m2a",
				Drive: hw.Drive{Interface: "nvme", Capacity: hw.Known(hw.DecOf(500))}}}},
			want{"Drive in m2a", Contradicts, "back up"}, ""},
		"a SATA drive goes where SATA is": {Observed{Drives: []Drive{{Interface: "sata"}}}, hw.Fitted{},
			want{"Drive in m2b", New, "count as empty"}, ""},
		"a slower link": {Observed{Links: []Link{{"01:00.0", "nvme", hw.Known(4), hw.Known(4),
			hw.Known(3), hw.Known(1)}}}, hw.Fitted{}, want{"Link of m2a", Contradicts, "dirty contacts"}, "offered"},
		"a link as slot and drive allow": {Observed{Links: []Link{{"01:00.0", "nvme", hw.Known(4), hw.Known(4),
			hw.Known(3), hw.Known(4)}}}, hw.Fitted{}, want{"Link of m2a", Same, "as slot"}, "offered"},
		"a link past the record": {Observed{Links: []Link{{"01:00.0", "nvme", hw.Known(4), hw.Known(4),
			hw.Known(4), hw.Known(4)}}}, hw.Fitted{}, want{"Link of m2a", Contradicts, "too low"}, "offered"},
		"a pack by its capacity": {Observed{Batteries: []Battery{{Design: hw.Known(hw.DecOf(59)),
			Full: hw.Known(hw.DecOf(50))}}}, hw.Fitted{}, want{"Battery: large", New, "swelling can only be seen by eye"}, ""},
		"a pack of no record": {Observed{Batteries: []Battery{{Design: hw.Known(hw.DecOf(50))}}},
			hw.Fitted{}, want{"Battery", Contradicts, "no pack of the record"}, "offered"},
	} {
		m := &hw.Machine{Fitted: x.fit}
		c := Compare(&x.o, chassis(t, bench), m, nil)
		l := line(c, x.want.what)
		if l.How != x.want.how || !strings.Contains(l.Rule, x.want.rule) || x.bars == "offered" && l.Offered ||
			x.bars == "advised" && l.Advised {
			t.Errorf("%s: %+v\nwant %+v, not %s", name, l, x.want, x.bars)
		}
		if x.bars == "" && !l.Advised && l.Finding == nil {
			t.Errorf("%s: is not advised: %+v", name, l)
		}
		next, err := c.Fit(m, map[string]bool{l.Key: true})
		if err != nil {
			t.Fatal(err)
		}
		if again := line(Compare(&x.o, chassis(t, bench), next, nil), x.want.what); l.fit != nil && again.How != Same {
			t.Errorf("%s: accepted, it still reads %+v", name, again)
		}
	}
}

// TestPlaces: a person's word on where a thing is goes before the order of the report.
func TestPlaces(t *testing.T) {
	ch := chassis(t)
	ch.Memory.Sockets = append(ch.Memory.Sockets, hw.Socket{ID: "dimm2", Form: "SO-DIMM"})
	o := &Observed{Memory: &Memory{Devices: []Device{{Locator: "DIMM 2", Capacity: hw.Known(hw.DecOf(8))},
		{Capacity: hw.Known(hw.Dec(0))}}}}
	c := Compare(o, ch, &hw.Machine{}, nil)
	if l := line(c, "In dimm2"); l.Read != "8 GB" || len(c.Choices) != 1 {
		t.Errorf("a module named like its socket is elsewhere: %+v", c)
	}
	c = Compare(o, ch, &hw.Machine{}, map[string]string{c.Choices[0].Key: "dimm1"})
	if l := line(c, "In dimm1"); l.Read != "8 GB" || line(c, "In dimm2").Read != "empty" {
		t.Errorf("chosen for dimm1: %+v", c.Lines)
	}
}
