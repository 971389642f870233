package hw

import (
	"encoding/json"
	"strings"
	"testing"
)

func TestDec(t *testing.T) {
	for text, want := range map[string]string{"52.5": "52.5", "0": "0", "-3.25": "-3.25", "1e3": "1000",
		"0.000001": "0.000001", "8.0": "8"} {
		d, err := ParseDec(text)
		if err != nil || d.String() != want {
			t.Errorf("%s reads as %s, %v; want %s", text, d, err, want)
		}
	}
	for _, text := range []string{"", "NaN", "Inf", "1e308", "1e-9", "0.1234567", "0x10", "1_000", "1e999999999",
		"2000000000", "12 "} {
		if d, err := ParseDec(text); err == nil {
			t.Errorf("%q reads as %s", text, d)
		}
	}
}

func TestRounding(t *testing.T) {
	for text, want := range map[string]string{"1.25": "1.3", "1.24": "1.2", "0.05": "0.1", "25.65": "25.7",
		"-1.25": "-1.3"} {
		d, _ := ParseDec(text)
		if got := d.Tenths().String(); got != want {
			t.Errorf("%s to a tenth is %s, want %s", text, got, want)
		}
	}
	// Labour: minutes × rate ÷ 60, half up, from the exact minutes.
	for _, c := range []struct {
		minutes string
		rate    int64
		cents   int64
	}{{"18.3", 4800, 1464}, {"0.01", 3000, 1}, {"0.01", 2900, 0}, {"1", 90, 2}, {"1", 89, 1}} {
		d, _ := ParseDec(c.minutes)
		if got := MinutesOf(d).Labour(c.rate); got != c.cents {
			t.Errorf("%s min at %d is %d cents, want %d", c.minutes, c.rate, got, c.cents)
		}
	}
	if got := MinutesOf(DecOf(1)).Back(); got != 800 {
		t.Errorf("the way back of a minute is %d thousandths", got)
	}
}

func TestMaybe(t *testing.T) {
	var doc struct {
		A Maybe[int] `json:"a,omitzero"`
		B Maybe[Dec] `json:"b,omitzero"`
	}
	if err := json.Unmarshal([]byte(`{"a":0}`), &doc); err != nil {
		t.Fatal(err)
	}
	if v, known := doc.A.Get(); !known || v != 0 {
		t.Error("a zero that is told is not known")
	}
	out, _ := json.Marshal(doc)
	if string(out) != `{"a":0}` || doc.B.IsKnown() {
		t.Errorf("a fact not known is written: %s", out)
	}
	if MaybeEqual(doc.B, doc.B) {
		t.Error("two facts not known are called the same")
	}
}

// TestChassisFaults checks that each slip is found at its place.
func TestChassisFaults(t *testing.T) {
	const good = `{"id":"c","kind":"notebook","memory":{"channels":2,"soldered":[{"id":"on","channel":"A","capacity_gb":8}],
		"sockets":[{"id":"d1","channel":"B","form":"SO-DIMM","reach":"s1"}],"limits":{"maker_gb":16}},
		"slots":[{"id":"m1","purpose":"storage","excludes":["b1"]}],"bays":[{"id":"b1","form":"2.5in"}],
		"batteries":[{"id":"p1","nominal_v":11.4,"series":3,"part_numbers":["N"]}],
		"fasteners":[{"id":"f1","count":4}],
		"shapes":[{"id":"pad","what":"pad","thickness_mm":1.5,"faces":"down","under":"d1"}],
		"steps":[{"id":"s1","verb":"lift","needs":[],"fasteners":[{"group":"f1","count":4}]},{"id":"s2","verb":"lift","needs":["s1"]}]}`
	for _, c := range []struct{ from, to, pointer, say string }{
		{"", "", "", ""},
		{`"capacity_gb":8`, `"capacity_gb":0`, "/memory/soldered/0/capacity_gb", "out of range"},
		{`"capacity_gb":8`, `"capacity_gb":100000`, "/memory/soldered/0/capacity_gb", "at most"},
		{`"channel":"B"`, `"channel":"C"`, "/memory/sockets/0/channel", "the machine has 2, A to B"},
		{`"maker_gb":16`, `"maker_gb":4`, "/memory/limits/maker_gb", "8 GB are soldered already"},
		{`"id":"d1"`, `"id":"m1"`, "/slots/0/id", "it stands at /memory/sockets/0/id already"},
		{`"id":"d1"`, `"id":"battery"`, "/memory/sockets/0/id", "kept for the place of the pack"},
		{`"reach":"s1"`, `"reach":"s9"`, "/memory/sockets/0/reach", `"s9": no such step`},
		{`["b1"]`, `["b9"]`, "/slots/0/excludes/0", "no such slot"},
		{`["b1"]`, `["m1"]`, "/slots/0/excludes/0", "excludes itself"},
		{`"series":3`, `"series":4`, "/batteries/0/nominal_v", "2.9 V a cell"},
		{`"count":4}]}`, `"count":5}]}`, "/steps/0/fasteners/0/count", "has 4"},
		{`"group":"f1"`, `"group":"f2"`, "/steps/0/fasteners/0/group", "no such screw group"},
		{`"needs":[],`, `"needs":["s2"],`, "/steps/0/needs", "s1 → s2 → s1"},
		{`"needs":["s1"]`, `"needs":["s2"]`, "/steps/1/needs", "s2 → s2"},
		{`"needs":["s1"]`, `"needs":["s1"],"minutes":1.234`, "/steps/1/minutes", "at most two places"},
		{`"under":"d1"`, `"under":"d9"`, "/shapes/0/under", "no such place"},
		{`"thickness_mm":1.5`, `"thickness_mm":-1`, "/shapes/0/thickness_mm", "from 0"},
		{`"id":"s2","verb":"lift"`, `"id":"s2","verb":"stick"`, "/steps/1/verb", "the way back alone"},
	} {
		var ch Chassis
		if err := json.Unmarshal([]byte(strings.Replace(good, c.from, c.to, 1)), &ch); err != nil {
			t.Fatal(err)
		}
		faults := ValidateChassis(&ch)
		if c.say == "" {
			if len(faults) > 0 {
				t.Fatalf("the good record has faults: %v", faults)
			}
			continue
		}
		if len(faults) == 0 || faults[0].Pointer != c.pointer || !strings.Contains(faults[0].Text, c.say) {
			t.Errorf("%s → %s: %v; want %s: …%s…", c.from, c.to, faults, c.pointer, c.say)
		}
	}
}

func TestOtherFaults(t *testing.T) {
	ch := &Chassis{ID: "c", Memory: &Memory{Sockets: []Socket{{ID: "d1"}}},
		Slots: []Slot{{ID: "wl", Purpose: "wireless"}}, Bays: []Bay{}, Batteries: []Battery{}}
	for _, c := range []struct{ doc, pointer string }{
		{`{"chassis":"other"}`, "/chassis"},
		{`{"chassis":"c","fitted":{"memory":[{"socket":"d9"}]}}`, "/fitted/memory/0/socket"},
		{`{"chassis":"c","fitted":{"memory":[{"socket":"d1"},{"socket":"d1"}]}}`, "/fitted/memory/1/socket"},
		{`{"chassis":"c","fitted":{"memory":[{"socket":"d1","module":{"type":"DDR4","capacity_gb":12}}]}}`,
			"/fitted/memory/0/module/capacity_gb"},
		{`{"chassis":"c","fitted":{"drives":[{"place":"wl"}]}}`, "/fitted/drives/0/place"},
		{`{"chassis":"c","fitted":{"battery":{"option":"x"}}}`, "/fitted/battery/option"},
		{`{"chassis":"c","usage":{"draw_w":0}}`, "/usage/draw_w"},
	} {
		var m Machine
		if err := json.Unmarshal([]byte(c.doc), &m); err != nil {
			t.Fatal(err)
		}
		if faults := ValidateMachine(&m, ch); len(faults) != 1 || faults[0].Pointer != c.pointer {
			t.Errorf("%s: %v; want one at %s", c.doc, faults, c.pointer)
		}
	}
	var p Parts
	if err := json.Unmarshal([]byte(`{"parts":[{"id":"a","price_cents":-1,"battery":{"nominal_v":11.4,"series":4}},{"id":"a",
"count":0,"memory":{"type":"DDR5","capacity_gb":24}}]}`), &p); err != nil {
		t.Fatal(err)
	}
	var at []string
	for _, f := range ValidateParts(&p) {
		at = append(at, f.Pointer)
	}
	if got := strings.Join(at, " "); got != "/parts/0/price_cents /parts/0/battery/nominal_v /parts/1/id /parts/1/count" {
		t.Errorf("faults of the parts at %s", got)
	}
}
