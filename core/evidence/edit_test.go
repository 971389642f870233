package evidence

import (
	"encoding/json"
	"testing"

	"yembo/core/hw"
)

// TestSetAndLeaves: each single fact of a record can be named, and setting it to what
// it is changes nothing; to another value, that fact alone; to null, takes it out.
func TestSetAndLeaves(t *testing.T) {
	ch := record()
	ch.Slots[0] = hw.Slot{ID: "m2a", Purpose: "storage", Key: hw.Known("M"), Lanes: hw.Known(4), Protocols: []string{"nvme"}, Lengths: map[string]string{"80": "fitted"}, Excludes: []string{},
		At: &hw.At{X: 1, Y: 2}}
	leaves, err := Leaves(ch, "")
	if err != nil {
		t.Fatal(err)
	}
	for _, path := range []string{"/slots/m2a/lanes", "/slots/m2a/protocols", "/slots/m2a/lengths/80", "/slots/m2a/excludes", "/memory/type", "/memory/sockets/d1/channel", "/kind"} {
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
	ch.Findings = []hw.Finding{{Path: "/slots/m2b/lanes", Value: json.RawMessage("2"), Source: "bench"}, {Path: "/slots/m2b/lanes", Value: json.RawMessage("4"), Source: "seller"},
		{Path: "/memory/sockets/d1/form", Value: json.RawMessage(`"SO-DIMM"`), Source: "bench"}, {Path: "/slots/gone/key", Value: json.RawMessage(`"M"`), Source: "bench"}}
	one, err := Retract(ch, 0, hw.SetAside{Note: "misread"})
	if err != nil || one.Slots[1].Lanes.Or(0) != 4 || one.Findings[0].SetAside == nil || ch.Findings[0].SetAside != nil {
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
