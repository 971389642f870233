package proof

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/core/reading"
)

const chassis = `{"format":"yembo.chassis/1","id":"tern","kind":"notebook","memory":{"type":"DDR4","max_speed_mts":3200,
"channels":2,
"soldered":[{"id":"onboard","channel":"A","capacity_gb":8,"speed_mts":3200}],"sockets":[{"id":"dimm1","form":"SO-DIMM",
"channel":"B"},{"id":"dimm2","form":"SO-DIMM","channel":"A"}]},
"slots":[{"id":"m2a","purpose":"storage","pcie_gen":4,"lanes":4},{"id":"m2b","purpose":"storage","pcie_gen":3,"lanes":2}],
"bays":[{"id":"bay","form":"2.5in"},{"id":"odd","form":"optical"}],
"batteries":[{"id":"small","design_wh":50},{"id":"large","design_wh":76}]}`

const machine = `{"format":"yembo.machine/1","id":"m1","chassis":"tern","serial":"QA-1",
"fitted":{"memory":[{"socket":"dimm1","module":{"type":"DDR4","capacity_gb":16,"speed_mts":3200}}],
"drives":[{"place":"m2a","drive":{"interface":"nvme","capacity_gb":1000,"pcie_gen":4,"lanes":4}},{"place":"bay",
"drive":{"interface":"sata","capacity_gb":2000,"serial":"S9"}},{"place":"odd","drive":{"form":"optical","interface":"sata"}}],
"battery":{"option":"small","full_wh":50}}}`

const observed = `{"format":"yembo.observed/1","from":["dmidecode","lspci"],"system":{"serial":"QA-1"},
"memory":{"devices":[{"locator":"on board","capacity_gb":8,"running_mts":3200,"soldered":true},
{"locator":"DIMM1","capacity_gb":16,"type":"DDR4","running_mts":3200},{"locator":"DIMM2","capacity_gb":0}]},
"links":[{"address":"01:00.0","class":"nvme","now_gen":4,"now_lanes":4},{"address":"02:00.0","class":"network","now_gen":1}],
"drives":[{"interface":"sata","serial":"S9","capacity_bytes":2000398934016},{"interface":"nvme","serial":"N1",
"capacity_bytes":1000204886016}],
"batteries":[{"design_wh":51,"full_wh":48}]}`

// compared is what differs after some texts of the documents were replaced, and how many are the same.
func compared(t *testing.T, replace ...string) (string, int) {
	t.Helper()
	// The documents are set in lines to be read; what is replaced in them is told without.
	flat := strings.NewReplacer("\n", "")
	texts := []string{flat.Replace(chassis), flat.Replace(machine), flat.Replace(observed)}
	for i := 0; i < len(replace); i += 2 {
		found, old, next := false, flat.Replace(replace[i]), flat.Replace(replace[i+1])
		for k := range texts {
			found = found || strings.Contains(texts[k], old)
			texts[k] = strings.ReplaceAll(texts[k], old, next)
		}
		if !found {
			t.Fatalf("nothing says %s", replace[i])
		}
	}
	ch, m, o := &hw.Chassis{}, &hw.Machine{}, &reading.Observed{}
	for i, into := range []any{ch, m, o} {
		if err := json.Unmarshal([]byte(texts[i]), into); err != nil {
			t.Fatalf("%v in %s", err, texts[i])
		}
	}
	d := DifferencesOf(ch, m, Compare(ch, m, o))
	var words []string
	for _, x := range d.Differences {
		words = append(words, fmt.Sprintf("%s %s %s>%s %s", x.Place, x.What, x.Expected, x.Observed,
			strings.TrimPrefix(string(x.Code), "proof.")))
		if len(x.Causes) == 0 || len(x.Try) == 0 {
			t.Errorf("%s has no cause or nothing to try", x.Code)
		}
	}
	return strings.Join(words, "; "), d.Same
}

// TestCompare goes through everything that can differ, and through what one side does not tell.
func TestCompare(t *testing.T) {
	const devices = `{"locator":"DIMM1","capacity_gb":16,"type":"DDR4","running_mts":3200},{"locator":"DIMM2","capacity_gb":0}`
	const nvme = `{"interface":"nvme","serial":"N1","capacity_bytes":1000204886016}`
	for name, c := range map[string]struct {
		replace []string
		want    string
		same    int
	}{
		"as planned": {nil, "", 14},
		"another machine": {[]string{`"system":{"serial":"QA-1"}`, `"system":{"serial":"qa-1"}`},
			`machine serial "QA-1">"qa-1" serial`, 13},
		"serial not known": {[]string{`"system":{"serial":"QA-1"},`, ``}, "", 13},
		"not seated": {[]string{`"DIMM1","capacity_gb":16,"type":"DDR4","running_mts":3200`,
			`"DIMM1","capacity_gb":0`}, "dimm1 capacity_gb 16>0 module_absent; memory capacity_gb 24>8 module_absent", 10},
		"in the other one": {[]string{devices,
			`{"locator":"DIMM1","capacity_gb":0},{"locator":"DIMM2","capacity_gb":16,"type":"DDR4","running_mts":3200}`},
			"dimm1 capacity_gb 16>0 module_absent; dimm2 capacity_gb null>16 other_module", 11},
		"by order, one too few": {[]string{devices, `{"capacity_gb":16,"type":"DDR4","running_mts":3200}`}, "", 14},
		"by order, none": {[]string{",\n" + devices, ``},
			"dimm1 capacity_gb 16>null module_absent; memory capacity_gb 24>8 module_absent", 10},
		"one is not named": {[]string{`"locator":"DIMM2",`, `"locator":"x",`}, "", 13},
		"another size, faster": {[]string{`"DIMM1","capacity_gb":16,"type":"DDR4","running_mts":3200`,
			`"DIMM1","capacity_gb":8,"type":"DDR4","running_mts":3200`},
			"dimm1 capacity_gb 16>8 other_module; memory capacity_gb 24>16 other_module", 11},
		"another type": {[]string{`"capacity_gb":16,"type":"DDR4","running_mts"`,
			`"capacity_gb":16,"type":"DDR5","running_mts"`}, `dimm1 type "DDR4">"DDR5" other_module`, 13},
		"the volts alone": {[]string{`"type":"DDR4"`, `"type":"DDR3"`,
			`"capacity_gb":16,"type":"DDR3","running_mts"`, `"capacity_gb":16,"type":"DDR3L","running_mts"`}, "", 14},
		"slower": {[]string{`"capacity_gb":16,"type":"DDR4","running_mts":3200`,
			`"capacity_gb":16,"type":"DDR4","running_mts":2667`}, "memory speed_mts 3200>2666 slower", 13},
		"as slow as planned": {[]string{`"capacity_gb":8,"speed_mts":3200`, `"capacity_gb":8,"speed_mts":2666`,
			`"running_mts":3200`, `"running_mts":2667`}, "", 14},
		"faster": {[]string{`"capacity_gb":8,"speed_mts":3200`, `"capacity_gb":8,"speed_mts":2666`},
			"memory speed_mts 2666>3200 other_module", 13},
		"a speed is not known": {[]string{`"capacity_gb":16,"speed_mts":3200`, `"capacity_gb":16`}, "", 13},
		"images tell the modules alone": {[]string{`"from":["dmidecode","lspci"]`, `"from":["spd"]`,
			`{"locator":"on board","capacity_gb":8,"running_mts":3200,"soldered":true},`, ``}, "", 14},
		"images, and one is missing": {[]string{`"from":["dmidecode","lspci"]`, `"from":["spd"]`,
			`"DIMM1","capacity_gb":16,"type":"DDR4","running_mts":3200`, `"DIMM1","capacity_gb":0`},
			"dimm1 capacity_gb 16>0 module_absent; memory capacity_gb 16>0 module_absent", 10},
		"well, and new": {[]string{nvme, `{"interface":"nvme","capacity_bytes":1000204886016,"healthy":true,"power_on_h":24,
"wear_percent":2}`, `"place":"m2a",`, `"place":"m2a","new":true,`}, "", 17},
		"used, and failing": {[]string{nvme, `{"interface":"nvme","capacity_bytes":1000204886016,"healthy":false,"power_on_h":25,
"wear_percent":3}`, `"place":"m2a",`, `"place":"m2a","new":true,`},
			"m2a healthy true>false drive_failing; m2a power_on_h 24>25 drive_used; m2a wear_percent 2>3 drive_used", 14},
		"it is said to fail": {[]string{nvme, `{"interface":"nvme","capacity_bytes":1000204886016,"healthy":false,"power_on_h":25}`,
			`"place":"m2a",`, `"place":"m2a","failing":true,`}, "", 14},
		"soldered, this machine's own": {[]string{`"fitted":{"memory"`, `"fitted":{"soldered_gb":{"onboard":4},"memory"`},
			"memory capacity_gb 20>24 other_module", 12},
		"no sockets, nothing told": {[]string{`"sockets":[{"id":"dimm1","form":"SO-DIMM","channel":"B"},{"id":"dimm2",
"form":"SO-DIMM","channel":"A"}]`, `"sockets":[]`,
			`"memory":[{"socket":"dimm1","module":{"type":"DDR4","capacity_gb":16,"speed_mts":3200}}],`, ``, ",\n" + devices, ``}, "", 11},
		"memory not known": {[]string{`"memory":[{"socket":"dimm1","module":{"type":"DDR4","capacity_gb":16,
"speed_mts":3200}}],`, ``}, "", 9},
		"no drive answers": {[]string{nvme, ``, `2000398934016},`, `2000398934016}`, `,"class":"nvme"`,
			`,"class":"sata"`}, `m2a drive {"interface":"nvme","pcie_gen":4,"lanes":4,"capacity_gb":1000}>null drive_absent`, 11},
		"one more": {[]string{nvme, nvme + `,{"interface":"sata","capacity_bytes":5}`},
			`drives drive null>{"interface":"sata","capacity_bytes":5} other_drive`, 14},
		"another size":  {[]string{`1000204886016`, `512110190592`}, "m2a capacity_gb 1000>512 other_drive", 13},
		"one per cent":  {[]string{`1000204886016`, `1010000000000`}, "", 14},
		"a little more": {[]string{`1000204886016`, `1010000001000`}, "m2a capacity_gb 1000>1010 other_drive", 13},
		"another serial": {[]string{`"serial":"S9","capacity_bytes"`, `"serial":"S8","capacity_bytes"`},
			`bay serial "S9">"S8" other_drive`, 13},
		"swapped by serial": {[]string{`"capacity_gb":1000,"pcie`, `"capacity_gb":1000,"serial":"N2","pcie`},
			`m2a serial "N2">"N1" other_drive`, 14},
		"another interface": {[]string{nvme, `{"interface":"sata","capacity_bytes":1000204886016}`, `,"class":"nvme"`,
			`,"class":"sata"`}, `m2a interface "nvme">"sata" other_drive`, 12},
		"fewer lanes": {[]string{`"now_lanes":4`, `"now_lanes":2`},
			`m2a link {"gen":4,"lanes":4}>{"gen":4,"lanes":2} link`, 13},
		"the slot is the lower": {[]string{`"place":"m2a"`, `"place":"m2b"`, `"now_gen":4,"now_lanes":4`,
			`"now_gen":3,"now_lanes":2`}, "", 14},
		"more than is recorded": {[]string{`"place":"m2a"`, `"place":"m2b"`},
			`m2b link {"gen":3,"lanes":2}>{"gen":4,"lanes":4} link`, 13},
		"lanes alone are told": {[]string{`"now_gen":4,"now_lanes":4`, `"now_lanes":1`}, `m2a link {"lanes":4}>{"lanes":1} link`, 13},
		"links do not add up":  {[]string{`"class":"network"`, `"class":"nvme"`}, "", 13},
		"drives not known, links": {[]string{`"drives":[{"interface":"sata","serial":"S9","capacity_bytes":2000398934016},` +
			nvme + `],`, ``}, "", 9},
		"none of the drives": {[]string{`"drives":[{"interface":"sata","serial":"S9","capacity_bytes":2000398934016},` +
			nvme + `],`, `"drives":[],`},
			`m2a drive {"interface":"nvme","pcie_gen":4,"lanes":4,
"capacity_gb":1000}>null drive_absent; bay drive {"interface":"sata","capacity_gb":2000,"serial":"S9"}>null drive_absent`, 8},
		"another pack":          {[]string{`"design_wh":51`, `"design_wh":60`}, "battery design_wh 50>60 other_battery", 12},
		"of two, the nearer":    {[]string{`{"design_wh":51,`, `{"design_wh":76},{"design_wh":51,`}, "", 14},
		"no pack":               {[]string{`{"design_wh":51,"full_wh":48}`, ``}, "battery design_wh 50>null other_battery", 12},
		"not calibrated":        {[]string{`"full_wh":48`, `"full_wh":47.4`}, "battery full_wh 50>47.4 battery_low", 13},
		"just in":               {[]string{`"full_wh":48`, `"full_wh":47.5`}, "", 14},
		"a worn one is not new": {[]string{`"small","full_wh":50`, `"small","full_wh":39`}, "", 13},
	} {
		got, same := compared(t, c.replace...)
		if got != strings.ReplaceAll(c.want, "\n", "") || same != c.same {
			t.Errorf("%s: %q and %d the same, not %q and %d", name, got, same, c.want, c.same)
		}
	}
}

// TestLinkCauses: two drives known by their serials that run as each would in the other's slot are swapped; a link
// at its slowest is read again under load before the record is doubted.
func TestLinkCauses(t *testing.T) {
	gen := func(n int) hw.Maybe[int] { return hw.Known(n) }
	drive := func(place string, g int, serial string) hw.FittedDrive {
		return hw.FittedDrive{Place: place, Drive: hw.Drive{Interface: hw.NVMe, Gen: gen(g), Lanes: gen(4), Serial: serial}}
	}
	for name, c := range map[string]struct {
		slots          [2]int // generations; both drives are of the fourth
		serial         string // of the first drive as it is read
		now            [2]int
		swapped, idles bool
	}{
		"swapped":               {[2]int{4, 3}, "A", [2]int{3, 4}, true, false},
		"one differs alone":     {[2]int{4, 3}, "A", [2]int{3, 3}, false, false},
		"not known by a serial": {[2]int{4, 3}, "", [2]int{3, 4}, false, false},
		"slower than in either": {[2]int{4, 3}, "A", [2]int{2, 2}, false, false},
		"at rest":               {[2]int{4, 3}, "A", [2]int{1, 3}, false, true},
		"no faster is possible": {[2]int{1, 3}, "A", [2]int{1, 3}, false, false},
	} {
		ch := &hw.Chassis{ID: "c", Slots: []hw.Slot{{ID: "m0", Purpose: hw.ForStorage, Gen: gen(c.slots[0]), Lanes: gen(4)},
			{ID: "m1", Purpose: hw.ForStorage, Gen: gen(c.slots[1]), Lanes: gen(4)}}}
		m := &hw.Machine{Fitted: hw.Fitted{Drives: []hw.FittedDrive{drive("m0", 4, "A"), drive("m1", 4, "B")}}}
		o := &reading.Observed{Drives: []reading.Drive{{Interface: hw.NVMe, Serial: c.serial}, {Interface: hw.NVMe, Serial: "B"}},
			Links: []reading.Link{{Class: "nvme", NowGen: gen(c.now[0]), NowLanes: gen(4)},
				{Class: "nvme", NowGen: gen(c.now[1]), NowLanes: gen(4)}}}
		swapped, idles := false, false
		for _, d := range DifferencesOf(ch, m, Compare(ch, m, o)).Differences {
			swapped = swapped || strings.Contains(d.Causes[0], "swapped")
			n := len(d.Causes)
			idles = idles || strings.Contains(d.Causes[n-2], "it idles to save power") && strings.Contains(d.Try[0], "under load")
			if load := strings.Contains(strings.Join(d.Try, ""), "under load"); load != idles {
				t.Errorf("%s: %v", name, d.Try)
			}
		}
		if swapped != c.swapped || idles != c.idles {
			t.Errorf("%s: swapped %v, idles %v", name, swapped, idles)
		}
	}
}

// TestTable: each code has its row, with as many minutes as things to try.
func TestTable(t *testing.T) {
	seen := map[Code]bool{}
	for _, r := range Table {
		if seen[r.Code] || len(r.Try) != len(r.Minutes) || r.Says == "" {
			t.Errorf("%+v", r)
		}
		seen[r.Code] = true
	}
	if len(Table) != 15 || len(ByHandRows()) != 4 {
		t.Errorf("%d rows, %d by hand", len(Table), len(ByHandRows()))
	}
}
