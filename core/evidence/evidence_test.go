package evidence

import (
	"encoding/json"
	"strings"
	"testing"

	"yembo/core/hw"
)

func finding(value string, source hw.Source, on string) hw.Finding {
	return hw.Finding{Path: "/f", Value: json.RawMessage(value), Source: source, On: on}
}

// TestInForce: the strongest source, the newest of equals; any other that says
// something else makes a dispute; what is set aside counts no more (docs/rules.md, Evidence).
func TestInForce(t *testing.T) {
	aside := finding("9", "bench", "2026-05-01")
	aside.SetAside = &hw.SetAside{Note: "misread"}
	for name, c := range map[string]struct {
		findings []hw.Finding
		value    string
		disputed bool
	}{
		"stronger beats newer": {[]hw.Finding{finding("1", "bench", "2026-01-01"),
			finding("2", "reading", "2026-05-01")}, "1", true},
		"newest of equals": {[]hw.Finding{finding("1", "bench", "2026-05-01"),
			finding("2", "bench", "2026-01-01")}, "1", true},
		"later of the same day": {[]hw.Finding{finding("1", "label", "2026-05-01"),
			finding("2", "label", "2026-05-01")}, "2", true},
		"agreement is no dispute":  {[]hw.Finding{finding("8", "bench", ""), finding("8.0", "seller", "")}, "8", false},
		"set aside counts no more": {[]hw.Finding{aside, finding("2", "assumed", "")}, "2", false},
		"all set aside":            {[]hw.Finding{aside}, "", false},
		"the whole order": {[]hw.Finding{finding("1", "assumed", ""), finding("2", "seller", ""),
			finding("3", "controller_document", ""), finding("4", "maker_document", "")}, "4", true},
	} {
		f := Of(c.findings, "/f")
		got := ""
		if f.InForce != nil {
			got = string(f.InForce.Value)
		}
		if got != c.value || f.Disputed != c.disputed {
			t.Errorf("%s: %s in force, disputed %v", name, got, f.Disputed)
		}
	}
}

func record() *hw.Chassis {
	return &hw.Chassis{ID: "c", Kind: "notebook", Slots: []hw.Slot{{ID: "m2a"}, {ID: "m2b", Lanes: hw.Known(2)}},
		Memory: &hw.Memory{Type: hw.Known[hw.MemoryType]("DDR4"),
			Sockets: []hw.Socket{{ID: "d1", Form: "SO-DIMM", Channel: "A"}}}}
}

// TestPaths: a fact is named by place id inside, by index in a document.
func TestPaths(t *testing.T) {
	ch := record()
	for pointer, path := range map[string]string{"/slots/1/lanes": "/slots/m2b/lanes",
		"/memory/sockets/0": "/memory/sockets/d1", "/memory/type": "/memory/type"} {
		if got, ok := ByID(ch, pointer); !ok || got != path {
			t.Errorf("%s by id is %s", pointer, got)
		}
		if got, ok := ByIndex(ch, path); !ok || got != pointer {
			t.Errorf("%s by index is %s", path, got)
		}
	}
	if _, ok := ByID(ch, "/slots/2/lanes"); ok {
		t.Error("an index past the list is taken")
	}
	if Within("/slots/m2ab", "/slots/m2a") || !Within("/slots/m2a/key", "/slots/m2a") {
		t.Error("Within looks at letters, not at names")
	}
}

func TestFieldCarriesTheValueInForce(t *testing.T) {
	ch := record()
	ch.Findings = []hw.Finding{{Path: "/slots/m2b/lanes", Value: json.RawMessage("4"), Source: "bench"}}
	if faults := Validate(ch); len(faults) != 1 || faults[0].Pointer != "/findings/0/value" ||
		!strings.Contains(faults[0].Text, "/slots/1/lanes is 2") {
		t.Errorf("faults: %v", faults)
	}
	ch.Findings = append(ch.Findings, hw.Finding{Path: "/slots/m2b/lanes", Value: json.RawMessage("2"), Source: "bench",
		On: "2026-01-01"})
	if faults := Validate(ch); len(faults) != 0 {
		t.Errorf("the newer finding agrees with the field: %v", faults)
	}
	ch.Findings[0].Path, ch.Findings[1].Path = "/slots/gone/lanes", "/slots/gone/lanes"
	if faults := Validate(ch); len(faults) != 1 {
		t.Errorf("a finding on a place that is not there: %v", faults)
	}
}

// TestRecord: what is entered becomes findings; nothing stronger is overruled,
// nothing found before is lost.
func TestRecord(t *testing.T) {
	memory := func(path string) bool { return Within(path, "/memory") }
	bench := func(string) (hw.Finding, bool) { return hw.Finding{Source: "bench", On: "2026-02-02", By: "T"}, false }
	first, err := Record(nil, record(), memory, bench, hw.SetAside{})
	if err != nil {
		t.Fatal(err)
	}
	if n := len(first.Findings); n != 3 {
		t.Fatalf("%d findings for type, form and channel", n)
	}
	typed := record()
	typed.Memory.Type = hw.Known[hw.MemoryType]("DDR5")
	typed.Memory.Sockets[0].Channel = ""
	seller := func(string) (hw.Finding, bool) { return hw.Finding{Source: "seller", On: "2026-03-03"}, false }
	next, err := Record(first, typed, memory, seller, hw.SetAside{Note: "cleared"})
	if err != nil {
		t.Fatal(err)
	}
	if kind, _ := next.Memory.Type.Get(); kind != "DDR4" {
		t.Errorf("a seller overruled the bench: %s", kind)
	}
	if f := Of(next.Findings, "/memory/type"); !f.Disputed || len(f.Others) != 1 {
		t.Error("the seller's word is not kept as a dispute")
	}
	if f := Of(next.Findings, "/memory/sockets/d1/channel"); f.InForce != nil || len(f.Aside) != 1 ||
		f.Aside[0].SetAside.Note != "cleared" {
		t.Error("a cleared fact is not set aside")
	}
	if faults := Validate(next); len(faults) > 0 {
		t.Error(faults)
	}
}
