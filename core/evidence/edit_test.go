package evidence

import (
	"encoding/json"
	"fmt"
	"testing"

	"yembo/core/hw"
)

// TestSetAndLeaves: each single fact of a record can be named, and setting it to what
// it is changes nothing; to another value, that fact alone; to null, takes it out.
func TestSetAndLeaves(t *testing.T) {
	ch := record()
	ch.Slots[0] = hw.Slot{ID: "m2a", Purpose: "storage", Key: hw.Known("M"), Lanes: hw.Known(4),
		Protocols: []hw.Interface{"nvme"}, Lengths: map[string]string{"80": "fitted"}, Excludes: []string{},
		At: &hw.At{X: 1, Y: 2}}
	leaves, err := Leaves(ch, "")
	if err != nil {
		t.Fatal(err)
	}
	for _, path := range []string{"/slots/m2a/lanes", "/slots/m2a/protocols", "/slots/m2a/lengths",
		"/slots/m2a/excludes", "/memory/type", "/memory/sockets/d1/channel", "/kind"} {
		if leaves[path] == nil {
			t.Errorf("%s is no fact of its own", path)
		}
	}
	for path := range leaves {
		if path == "/slots/m2a/id" || Within(path, "/slots/m2a/at") {
			t.Errorf("%s is called a fact", path)
		}
	}
	for path, value := range leaves {
		same, err := Set(ch, path, value)
		if err != nil {
			t.Fatalf("%s: %v", path, err)
		}
		if got, _ := Leaves(same, ""); len(got) != len(leaves) || string(got[path]) != string(value) {
			t.Errorf("setting %s to what it is changes the record", path)
		}
	}
	other, err := Set(ch, "/slots/m2a/lanes", json.RawMessage("2"))
	if err != nil || other.Slots[0].Lanes.Or(0) != 2 || ch.Slots[0].Lanes.Or(0) != 4 {
		t.Errorf("set on a copy: %v, original %v, %v", other.Slots[0].Lanes, ch.Slots[0].Lanes, err)
	}
	gone, err := Set(ch, "/memory/type", json.RawMessage("null"))
	if err != nil || gone.Memory.Type.IsKnown() {
		t.Errorf("null takes it out: %v %v", gone.Memory.Type, err)
	}
	fresh, err := Set(&hw.Chassis{ID: "c", Kind: "notebook"}, "/memory/limits/maker_gb", json.RawMessage("24"))
	if err != nil || fresh.Memory.Limits.Maker.Or(0) != hw.DecOf(24) {
		t.Errorf("a fact of a part that was not there: %v", err)
	}
	if _, err := Set(ch, "/slots/nowhere/lanes", json.RawMessage("2")); err == nil {
		t.Error("a place that is not there is set")
	}
}

// TestRetract: what is in force then stands in the field; what the record cannot be
// without stays.
func TestRetract(t *testing.T) {
	ch := record()
	ch.Findings = []hw.Finding{{Path: "/slots/m2b/lanes", Value: json.RawMessage("2"), Source: "bench"},
		{Path: "/slots/m2b/lanes", Value: json.RawMessage("4"), Source: "seller"},
		{Path: "/memory/sockets/d1/form", Value: json.RawMessage(`"SO-DIMM"`), Source: "bench"},
		{Path: "/slots/gone/key", Value: json.RawMessage(`"M"`), Source: "bench"}}
	one, err := Retract(ch, 0, hw.SetAside{Note: "misread"})
	if err != nil || one.Slots[1].Lanes.Or(0) != 4 || one.Findings[0].SetAside == nil ||
		ch.Findings[0].SetAside != nil {
		t.Errorf("the other one holds: %+v %v", one, err)
	}
	both, err := Retract(one, 1, hw.SetAside{Note: "another board"})
	if err != nil || both.Slots[1].Lanes.IsKnown() {
		t.Errorf("none holds: %v %v", both.Slots[1].Lanes, err)
	}
	form, err := Retract(ch, 2, hw.SetAside{})
	if err != nil || form.Memory.Sockets[0].Form != "SO-DIMM" {
		t.Errorf("a socket without a form: %v", err)
	}
	if _, err := Retract(ch, 3, hw.SetAside{}); err != nil {
		t.Errorf("a finding on a place that is gone: %v", err)
	}
}

// TestUnsourcedFactsStay: saving what stands there adds no finding to a fact that
// never had one; a new source for it does.
func TestUnsourcedFactsStay(t *testing.T) {
	all := func(string) bool { return true }
	how := func(anew bool) func(string) (hw.Finding, bool) {
		return func(string) (hw.Finding, bool) { return hw.Finding{Source: "bench"}, anew }
	}
	if out, err := Record(record(), record(), all, how(false), hw.SetAside{}); err != nil || len(out.Findings) != 0 {
		t.Errorf("%d findings out of nothing, %v", len(out.Findings), err)
	}
	if out, err := Record(record(), record(), all, how(true), hw.SetAside{}); err != nil || len(out.Findings) == 0 {
		t.Errorf("a source given anew is lost, %v", err)
	}
}

// TestLengths: how lengths are held is one fact; where an earlier finding names one
// length by itself, that one is kept in step.
func TestLengths(t *testing.T) {
	before := record()
	before.Slots[0].Lengths = map[string]string{"30": "none", "80": "fitted"}
	before.Findings = []hw.Finding{
		{Path: "/slots/m2a/lengths", Value: []byte(`{"30":"none","80":"fitted"}`), Source: "label", On: "2026-01-01"},
		{Path: "/slots/m2a/lengths/80", Value: []byte(`"fitted"`), Source: "label", On: "2026-01-01"}}
	covers := func(path string) bool { return Within(path, "/slots/m2a") }
	how := func(string) (hw.Finding, bool) { return hw.Finding{Source: "bench", On: "2026-02-02"}, false }
	same := *before
	next, err := Record(before, &same, covers, how, hw.SetAside{})
	if err != nil || len(next.Findings) != 2 || next.Findings[0].SetAside != nil || next.Findings[1].SetAside != nil {
		t.Errorf("unchanged: %+v %v", next.Findings, err)
	}
	changed := *before
	changed.Slots = append([]hw.Slot(nil), before.Slots...)
	changed.Slots[0].Lengths = map[string]string{"80": "movable"}
	if next, err = Record(before, &changed, covers, how, hw.SetAside{}); err != nil {
		t.Fatal(err)
	}
	for path, want := range map[string]string{"/slots/m2a/lengths": `{"80":"movable"}`,
		"/slots/m2a/lengths/80": `"movable"`} {
		if f := Of(next.Findings, path).InForce; f == nil || !SameValue(f.Value, []byte(want)) {
			t.Errorf("%s is %+v", path, f)
		}
	}
	if faults := Validate(next); len(faults) > 0 {
		t.Error(faults)
	}
}

// TestNoneAfterAll: that a list is empty counts no more once there is a thing in it.
func TestNoneAfterAll(t *testing.T) {
	before := record()
	before.Bays = []hw.Bay{}
	before.Findings = []hw.Finding{{Path: "/bays", Value: []byte("[]"), Source: "bench", On: "2026-01-01"}}
	typed := *before
	typed.Bays = []hw.Bay{{ID: "bay25", Form: "2.5in"}}
	how := func(string) (hw.Finding, bool) { return hw.Finding{Source: "label", On: "2026-02-02"}, false }
	next, err := Record(before, &typed, func(path string) bool { return Within(path, "/bays/bay25") }, how,
		hw.SetAside{On: "2026-02-02", By: "T"})
	if err != nil || next.Findings[0].SetAside == nil || len(Validate(next)) > 0 {
		t.Errorf("%+v %v", next, err)
	}
}

// TestAdd: one more finding is kept beside the others; the field follows the strongest.
func TestAdd(t *testing.T) {
	ch := record()
	ch.Findings = []hw.Finding{{Path: "/slots/m2b/lanes", Value: []byte("2"), Source: "reading", On: "2026-01-01"}}
	for _, c := range []struct {
		source hw.Source
		value  string
		lanes  int
	}{{"seller", "4", 2}, {"bench", "4", 4}} {
		next, err := Add(ch, hw.Finding{Path: "/slots/m2b/lanes", Value: []byte(c.value), Source: c.source,
			On: "2026-02-02"})
		if err != nil {
			t.Fatal(err)
		}
		if next.Slots[1].Lanes.Or(0) != c.lanes || !Of(next.Findings, "/slots/m2b/lanes").Disputed ||
			len(ch.Findings) != 1 {
			t.Errorf("%s: %d lanes, %+v", c.source, next.Slots[1].Lanes.Or(0), next.Findings)
		}
	}
	if _, err := Add(ch, hw.Finding{Path: "/slots/m2z/lanes", Value: []byte("2"), Source: "bench"}); err == nil {
		t.Error("a finding about a place that is not there is taken")
	}
}

// TestCorrected: what a person says otherwise on the same day from the same source replaces
// what they said; another day, person, source or reason is a dispute, and so are two readings.
func TestCorrected(t *testing.T) {
	first := hw.Finding{Path: "/slots/m2b/lanes", Value: []byte("2"), Source: hw.Bench, On: "2026-02-02", By: "Isla"}
	for name, c := range map[string]struct {
		change   func(f *hw.Finding)
		disputed bool
	}{
		"the same visit": {func(*hw.Finding) {}, false},
		"with a word":    {func(f *hw.Finding) { f.Note = "looked again" }, false},
		"another day":    {func(f *hw.Finding) { f.On = "2026-02-03" }, true},
		"another person": {func(f *hw.Finding) { f.By = "Rowan" }, true},
		"nobody named":   {func(f *hw.Finding) { f.By = "" }, true},
		"another source": {func(f *hw.Finding) { f.Source = hw.FromLabel }, true},
	} {
		next := first
		next.Value = []byte("4")
		c.change(&next)
		ch := record()
		ch.Findings = []hw.Finding{first}
		added, err := Add(ch, next)
		if err != nil {
			t.Fatal(err)
		}
		if got := Of(added.Findings, next.Path); got.Disputed != c.disputed || !c.disputed &&
			string(got.InForce.Value) != "4" {
			t.Errorf("%s: %+v", name, added.Findings)
		}
	}
	ch := record()
	ch.Findings = []hw.Finding{first}
	ch.Findings[0].Source = hw.FromReading
	other := ch.Findings[0]
	other.Value = []byte("4")
	if added, err := Add(ch, other); err != nil || !Of(added.Findings, other.Path).Disputed {
		t.Errorf("two readings that differ: %+v, %v", added, err)
	}
}

// TestToFindOut: what is absent is asked for with the step that exposes it, what was
// looked at and is empty is not, and a fact that becomes known is no more asked for.
func TestToFindOut(t *testing.T) {
	asked := func(ch *hw.Chassis) map[string]Open {
		out := map[string]Open{}
		for _, o := range ToFindOut(ch) {
			if o.How == "" {
				t.Errorf("%s has no way to find it out", o.Path)
			}
			out[o.Path] = o
		}
		return out
	}
	bare := asked(&hw.Chassis{ID: "c", Kind: "notebook"})
	for _, path := range []string{"/outline", "/memory/type", "/memory/channels", "/memory/max_speed_mts",
		"/memory/limits/maker_gb", "/memory/limits/controller_gb", "/memory/limits/proven_gb",
		"/memory/soldered", "/memory/sockets", "/slots", "/bays", "/batteries"} {
		if bare[path].Path == "" {
			t.Errorf("%s is not asked for", path)
		}
	}
	ch := &hw.Chassis{ID: "c", Kind: "notebook", BatteryReach: "plug", Bays: []hw.Bay{{ID: "bay", Reach: "door"}},
		Batteries: []hw.Battery{{ID: "pack"}},
		Slots:     []hw.Slot{{ID: "m2", Purpose: "storage", Reach: "plug"}, {ID: "wlan", Purpose: "wireless"}},
		Memory: &hw.Memory{Sockets: []hw.Socket{{ID: "d1", Form: "SO-DIMM", Reach: "shield"}},
			Soldered: []hw.Soldered{{ID: "on"}}},
		Fasteners: []hw.Fastener{{ID: "s"}}, Suspected: []hw.Suspected{{ID: "more", Step: "board"}}}
	for path, step := range map[string]string{"/slots/m2/key": "plug", "/slots/m2/lengths": "plug",
		"/slots/m2/protocols": "plug", "/slots/m2/pcie_gen": "plug", "/slots/m2/lanes": "plug",
		"/slots/m2/max_top_mm": "plug", "/slots/m2/max_bottom_mm": "plug", "/slots/m2/cooling": "plug",
		"/slots/wlan/antennas": "", "/slots/wlan/reach": "",
		"/bays/bay/height_mm": "door", "/bays/bay/interface": "door", "/bays/bay/connector": "door",
		"/bays/bay/caddy":           "door",
		"/batteries/pack/design_wh": "plug", "/batteries/pack/nominal_v": "plug", "/batteries/pack/series": "plug",
		"/batteries/pack/part_numbers": "plug",
		"/memory/sockets/d1/channel":   "shield", "/memory/sockets/d1/max_module_gb": "shield",
		"/memory/soldered/on/channel": "", "/memory/soldered/on/ranks": "", "/memory/soldered/on/speed_mts": "",
		"/fasteners/s/count": "", "/fasteners/s/bit": "", "/fasteners/s/length_mm": "", "/suspected/more": "board"} {
		if o := asked(ch)[path]; o.Path == "" || o.Step != step {
			t.Errorf("%s: %+v", path, o)
		}
	}
	ch.Slots[0].MaxBottom, ch.Memory.Sockets[0].Channel = hw.Known(hw.DecOf(0)), "A"
	now := asked(ch)
	for _, path := range []string{"/slots", "/bays", "/batteries", "/memory/sockets", "/slots/m2/antennas",
		"/slots/wlan/cooling", "/slots/m2/reach", "/slots/m2/max_bottom_mm", "/memory/sockets/d1/channel"} {
		if now[path].Path != "" {
			t.Errorf("%s is asked for although it is known or does not apply", path)
		}
	}
	if mini := asked(&hw.Chassis{ID: "c", Kind: "mini_pc"}); mini["/batteries"].Path != "" {
		t.Error("a mini PC is asked for its pack")
	}
}

// TestOwnAssumption: what a person assumed gives way to what the same person knows, whatever that is and
// on whatever day; another's assumption stays, and is disputed where it differs.
func TestOwnAssumption(t *testing.T) {
	ch := &hw.Chassis{ID: "a", Kind: hw.Notebook, Year: hw.Known(2020),
		Findings: []hw.Finding{{Path: "/year", Value: json.RawMessage("2020"), Source: hw.Assumed, By: "R. Okell", On: "2026-05-01"}}}
	for name, c := range map[string]struct {
		by, value string
		left      int // findings that count
		disputed  bool
	}{"confirmed": {"R. Okell", "2020", 1, false}, "found otherwise": {"R. Okell", "2021", 1, false},
		"another confirms": {"T. Ansty", "2020", 2, false}, "another contradicts": {"T. Ansty", "2021", 2, true}} {
		out, err := Add(ch, hw.Finding{Path: "/year", Value: json.RawMessage(c.value), Source: hw.Bench, By: c.by, On: "2026-05-14"})
		if err != nil {
			t.Fatal(err)
		}
		left := 0
		for i := range out.Findings {
			if out.Findings[i].SetAside == nil {
				left++
			}
		}
		if f := Of(out.Findings, "/year"); left != c.left || f.Disputed != c.disputed || fmt.Sprint(out.Year.Or(0)) != c.value {
			t.Errorf("%s: %d findings count, disputed %v, %v", name, left, f.Disputed, out.Year)
		}
	}
}
