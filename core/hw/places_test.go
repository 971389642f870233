package hw

import (
	"strings"
	"testing"
)

func TestPlaces(t *testing.T) {
	ch := &Chassis{ID: "c", BatteryReach: "plug", Memory: &Memory{Sockets: []Socket{{ID: "d1", Reach: "shield"}}},
		Slots:     []Slot{{ID: "m1", Excludes: []string{"battery:large"}, Reach: "plug"}, {ID: "m2"}},
		Bays:      []Bay{{ID: "bay", Excludes: []string{"m2"}, Reach: "cover"}},
		Batteries: []Battery{{ID: "small"}, {ID: "large"}}, Services: []Service{{ID: "paste", Reach: "board"}}}
	for place, want := range map[string]string{"d1": "shield", "m1": "plug", "bay": "cover", "paste": "board",
		"battery": "plug", "m2": ""} {
		if step, exists := ch.ReachOf(place); !exists || step != want {
			t.Errorf("%s is behind %q, %v", place, step, exists)
		}
	}
	if _, exists := ch.ReachOf("nowhere"); exists {
		t.Error("a place that is not there")
	}
	// An exclusion holds both ways, whichever side states it.
	for _, pair := range [][2]string{{"m1", "battery:large"}, {"battery:large", "m1"}, {"m2", "bay"}, {"bay", "m2"}} {
		if !ch.Excluded(pair[0], pair[1]) {
			t.Errorf("%v go together", pair)
		}
	}
	for _, pair := range [][2]string{{"m1", "battery:small"}, {"m1", "m2"}, {"bay", "m1"}, {"battery:nope", "m1"}} {
		if ch.Excluded(pair[0], pair[1]) {
			t.Errorf("%v exclude each other", pair)
		}
	}
	if (&Chassis{}).Name() != "" || (&Chassis{ID: "x"}).Name() != "x" ||
		(&Chassis{Maker: "Q", Model: "A"}).Name() != "Q A" {
		t.Error("names")
	}
}

func TestNearest(t *testing.T) {
	words := []string{"storage", "wireless", "wwan"}
	for got, want := range map[string]string{"storge": "storage", "wirless": "wireless", "wan": "wwan", "zebra": "",
		"": ""} {
		if near := Nearest(got, words); near != want {
			t.Errorf("nearest to %q is %q, want %q", got, near, want)
		}
	}
}

func TestStock(t *testing.T) {
	for name, c := range map[string]struct {
		part      Part
		purchases int
		order     bool
		want      bool
	}{
		"in stock":               {Part{Stock: Known(2)}, 2, false, true},
		"more than in stock":     {Part{Stock: Known(2)}, 3, true, false},
		"more, with a lead time": {Part{Stock: Known(2), LeadDays: Known(3)}, 3, true, true},
		"more, nothing ordered":  {Part{Stock: Known(2), LeadDays: Known(3)}, 3, false, false},
		"not counted":            {Part{}, 9, true, true},
		"not counted, no orders": {Part{}, 1, false, false},
		"none and no lead time":  {Part{Stock: Known(0)}, 1, true, false},
	} {
		if got := c.part.CanBeHad(c.purchases, c.order); got != c.want {
			t.Errorf("%s: %v", name, got)
		}
	}
	kit := Part{Count: Known(2)}
	if kit.Purchases(1) != 1 || kit.Purchases(2) != 1 || kit.Purchases(3) != 2 {
		t.Error("pieces ÷ count is not rounded up")
	}
}

// TestPlugsClose: every plug of the table goes back in its own way, and no way is told of a
// plug that is not in it.
func TestPlugsClose(t *testing.T) {
	for _, c := range Connectors {
		step := Step{Verb: Unplug, Part: "fan plug", Connector: c.Word}
		if back := step.Undone(""); closes[c.Word] == "" || back != "Plug the fan plug in: "+closes[c.Word] {
			t.Errorf("%s goes back as %q", c.Word, back)
		}
	}
	if len(closes) != len(Connectors) {
		t.Errorf("%d plugs are known, of %d it is said how they go back", len(Connectors), len(closes))
	}
}

// TestBayWords: a bay says its height and how a drive plugs in; an optical one what its
// caddy makes of it, known or not.
func TestBayWords(t *testing.T) {
	for want, b := range map[string]Bay{
		"7 mm high; connector fitted": {Form: Form25,
			Height: Known(DecOf(7)), Connector: Known(HeldFitted)},
		"height not yet known; needs cable": {Form: Form25,
			Connector: Known("needs:cable")},
		"height not yet known; nothing to plug into": {Form: Form25,
			Connector: Known(NoHeader)},
		"12.7 mm high; connector not yet known; 2.5-inch with caddy-12": {Form: FormOptical,
			Height: Known(Dec(12_700_000)), Caddy: Known("needs:caddy-12")},
		"9.5 mm high; connector not yet known; optical drives alone": {Form: FormOptical,
			Height: Known(Dec(9_500_000)), Caddy: Known(CaddyNotUsed)},
		"9.5 mm high; connector not yet known; 2.5-inch in its caddy": {Form: FormOptical,
			Height: Known(Dec(9_500_000)), Caddy: Known(HeldFitted)},
		"height not yet known; connector not yet known; 2.5-inch: not yet known": {Form: FormOptical},
	} {
		if got := strings.Join(b.Words(), "; "); got != want {
			t.Errorf("%q, not %q", got, want)
		}
	}
}
