package evidence

import (
	"encoding/json"
	"slices"
	"testing"

	"yembo/core/hw"
)

// TestSources: each source beats all behind it, however old it is; the two weakest are a
// risk to plan on, and what nobody knows ranks last (docs/rules.md, Evidence, The plan).
func TestSources(t *testing.T) {
	order := []hw.Source{"bench", "reading", "label", "maker_document", "controller_document", "seller", "assumed"}
	for i, s := range order {
		if hw.Sources[i].Word != s || Rank(s) != i {
			t.Fatalf("%s stands at %d", s, Rank(s))
		}
	}
	for i, strong := range order {
		for _, weak := range order[i+1:] {
			f := Of([]hw.Finding{finding("1", strong, "2020-01-01"), finding("2", weak, "2026-01-01")}, "/f")
			if string(f.InForce.Value) != "1" || !f.Disputed {
				t.Errorf("%s of 2020 does not stand before %s of 2026", strong, weak)
			}
		}
		if Weak(strong) != (strong == "seller" || strong == "assumed") {
			t.Errorf("%s: weak is %v", strong, Weak(strong))
		}
	}
	if Rank("hearsay") <= Rank("assumed") {
		t.Error("a source that is not known ranks before assumed")
	}
	// Of three of one source and day the last entered holds.
	f := Of([]hw.Finding{finding("1", "bench", "2026-01-01"), finding("3", "bench", "2026-01-01"),
		finding("2", "bench", "2026-01-01")}, "/f")
	if string(f.InForce.Value) != "2" || string(f.Others[0].Value) != "3" {
		t.Errorf("in force %s before %s", f.InForce.Value, f.Others[0].Value)
	}
}

// TestSameValue compares by meaning, all the way down.
func TestSameValue(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want bool
	}{
		{"8", "8.0", true}, {"8", "8e0", true}, {"8", "9", false}, {"8", `"8"`, false}, {`"8"`, "8", false},
		{"null", "null", true}, {"null", "0", false},
		{"true", "true", true}, {"true", "false", false}, {`"a"`, `"b"`, false},
		{"1234567890123", "1234567890123.0", false},
		{"[1,2]", "[1,2.0]", true}, {"[1,2]", "[2,1]", false}, {"[1,2]", "[1]", false}, {"[1]", "[1,2]", false},
		{"[1]", `{"0":1}`, false},
		{`{"a":1,"b":2}`, `{"b":2.0,"a":1}`, true}, {`{"a":1}`, `{"a":2}`, false}, {`{"a":1}`, `{"b":1}`, false},
		{`{"a":null}`, `{"b":null}`, false},
		{`{"a":1}`, `{"a":1,"b":2}`, false}, {`{"a":1,"b":2}`, `{"a":1}`, false}, {`{"a":[1]}`, `{"a":[1]}`, true},
		{`{"a":[1]}`, `{"a":[3]}`, false}, {`{"a":1}`, "[1]", false},
		{"{", "{", true}, {"{", "[", false}, {"8", "{", false},
	} {
		if SameValue(json.RawMessage(c.a), json.RawMessage(c.b)) != c.want {
			t.Errorf("%s and %s: not %v", c.a, c.b, c.want)
		}
	}
}

// TestUsed: a verdict leans on the facts of the places named, whole names compared, and not
// on what was set aside.
func TestUsed(t *testing.T) {
	at := func(path string, aside bool) hw.Finding {
		f := hw.Finding{Path: path, Value: json.RawMessage("1"), Source: "bench"}
		if aside {
			f.SetAside = &hw.SetAside{}
		}
		return f
	}
	facts := Facts([]hw.Finding{at("/slots/m2a/lanes", false), at("/slots/m2ab/lanes", false),
		at("/slots/m2a/key", true), at("/memory/type", false), at("/memory/max_speed_mts", false),
		at("/slots/m2a/pcie_gen", false)})
	var got []string
	for _, f := range Used(facts, []string{"/memory/type", "/slots/m2a", "/slots"}) {
		got = append(got, f.Path)
	}
	if want := []string{"/slots/m2a/lanes", "/slots/m2ab/lanes", "/memory/type",
		"/slots/m2a/pcie_gen"}; !slices.Equal(got, want) {
		t.Errorf("used: %v, want %v", got, want)
	}
	got = nil
	for _, f := range Used(facts, []string{"/slots/m2a"}) {
		got = append(got, f.Path)
	}
	if want := []string{"/slots/m2a/lanes", "/slots/m2a/pcie_gen"}; !slices.Equal(got, want) {
		t.Errorf("of m2a: %v, want %v", got, want)
	}
}

// TestPathsThatLeadNowhere: a finding in force about what is not in the record is a fault at
// the finding; one that says "not there" is none.
func TestPathsThatLeadNowhere(t *testing.T) {
	for _, c := range []struct{ path, value, want string }{
		{"/slots/m2b/lanes", "2", ""},
		{"/slots/m2b/lanes", "{", "/findings/1/value"},
		{"/slots/m2b/lanes", "3", "/findings/1/value"},
		{"/slots/m2b/cooling", `"pad"`, "/findings/1/path"},
		{"/slots/m2b/cooling", "null", ""},
		{"/slots/m2b/lanes/x", "2", "/findings/1/path"},
		{"/memory/type/x", "2", "/findings/1/path"},
		{"/memory/type", `"DDR4"`, ""},
		{"/board/0/1", "5", ""},
		{"/board/0/2", "5", "/findings/1/path"},
		{"/board/-1/1", "5", "/findings/1/path"},
		{"/board/x/1", "5", "/findings/1/path"},
		{"/slots/m2a/lengths/60", `"fitted"`, ""},
		{"/slots/m2a/lengths/a~1b~0", `"none"`, ""},
		{"/slots/zz/lanes", "2", "/findings/1/path"},
	} {
		ch := record()
		ch.Board = [][2]hw.Dec{{hw.DecOf(4), hw.DecOf(5)}}
		ch.Slots[0].Lengths = map[string]string{"60": "fitted", "a/b~": "none"}
		// One that is set aside stands first, so that the index counts.
		ch.Findings = []hw.Finding{{Path: c.path, Value: json.RawMessage("7"), Source: "assumed",
			SetAside: &hw.SetAside{}}, {Path: c.path, Value: json.RawMessage(c.value), Source: "bench"}}
		got := ""
		for _, f := range Validate(ch) {
			got += f.Pointer
		}
		if got != c.want {
			t.Errorf("%s is %s: fault at %q, want %q", c.path, c.value, got, c.want)
		}
		set, err := Set(ch, c.path, json.RawMessage(c.value))
		if c.want != "" || c.value == "null" {
			continue
		}
		if err != nil || len(Validate(set)) > 0 {
			t.Errorf("%s set to %s: %v", c.path, c.value, err)
		}
	}
	// A value deep in a list is set in place.
	ch := record()
	ch.Board = [][2]hw.Dec{{hw.DecOf(4), hw.DecOf(5)}, {hw.DecOf(6), hw.DecOf(7)}}
	set, err := Set(ch, "/board/1/0", json.RawMessage("9"))
	if err != nil || set.Board[1][0] != hw.DecOf(9) || set.Board[1][1] != hw.DecOf(7) || ch.Board[1][0] != hw.DecOf(6) {
		t.Errorf("%v %v", set, err)
	}
	for _, path := range []string{"/board/2/0", "/board/x/0", "/memory/type/x", "/slots/zz/lanes"} {
		if _, err := Set(ch, path, json.RawMessage("9")); err == nil {
			t.Errorf("%s is set", path)
		}
	}
}

// TestToFindOutOnce holds what is asked for only where it can be: the way to a pack, a
// socket and a bay.
func TestToFindOutOnce(t *testing.T) {
	asked := func(ch *hw.Chassis, path string) bool {
		return slices.ContainsFunc(ToFindOut(ch), func(o Open) bool { return o.Path == path })
	}
	for name, c := range map[string]struct {
		ch   hw.Chassis
		path string
		want bool
	}{
		"a pack with no way to it": {hw.Chassis{Kind: "notebook", Batteries: []hw.Battery{{ID: "p"}}}, "/battery_reach",
			true},
		"a pack and its way": {hw.Chassis{Kind: "notebook", BatteryReach: "plug",
			Batteries: []hw.Battery{{ID: "p"}}}, "/battery_reach", false},
		"no pack, no way":          {hw.Chassis{Kind: "notebook", Batteries: []hw.Battery{}}, "/battery_reach", false},
		"a mini PC without a pack": {hw.Chassis{Kind: "mini_pc"}, "/batteries", false},
		"a bay with no way to it":  {hw.Chassis{Bays: []hw.Bay{{ID: "b"}}}, "/bays/b/reach", true},
		"a bay and its way":        {hw.Chassis{Bays: []hw.Bay{{ID: "b", Reach: "cage"}}}, "/bays/b/reach", false},
		"a socket with no way": {hw.Chassis{Memory: &hw.Memory{Sockets: []hw.Socket{{ID: "d"}}}},
			"/memory/sockets/d/reach", true},
		"a socket and its way": {hw.Chassis{Memory: &hw.Memory{Sockets: []hw.Socket{{ID: "d", Reach: "shield"}}}},
			"/memory/sockets/d/reach", false},
		"chips on a known channel": {hw.Chassis{Memory: &hw.Memory{Soldered: []hw.Soldered{{ID: "on", Channel: "A"}}}},
			"/memory/soldered/on/channel", false},
	} {
		if asked(&c.ch, c.path) != c.want {
			t.Errorf("%s: %s asked for is not %v", name, c.path, c.want)
		}
	}
}
