package storage

import (
	"testing"

	"yembo/core/hw"
)

func dec(t *testing.T, text string) hw.Dec {
	t.Helper()
	d, err := hw.ParseDec(text)
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// TestLinkMBs holds the link formula.
func TestLinkMBs(t *testing.T) {
	for _, c := range []struct{ gen, lanes, want int }{
		{1, 1, 250}, {2, 1, 500}, {3, 1, 985}, {4, 1, 1969}, {5, 1, 3938}, {3, 2, 1969}, {3, 4, 3938}, {4, 4, 7877},
		{5, 4, 15754}, {1, 4, 1000}, {6, 4, 0}, {0, 4, 0}, {3, 0, 0},
	} {
		if got := LinkMBs(c.gen, c.lanes); got != c.want {
			t.Errorf("generation %d ×%d carries %d, want %d", c.gen, c.lanes, got, c.want)
		}
	}
}

func TestConnect(t *testing.T) {
	slot := &hw.Slot{Gen: hw.Known(3), Lanes: hw.Known(2)}
	nvme := &hw.Drive{Interface: "nvme", Gen: hw.Known(4), Lanes: hw.Known(4), ReadMBs: hw.Known(hw.DecOf(5000))}
	l := Connect("m2b", slot, nvme)
	if l.Gen.Or(0) != 3 || l.Lanes.Or(0) != 2 || l.MBs.Or(0) != 1969 || l.Read.Or(0) != hw.DecOf(1969) ||
		!HeldBack(l, nvme) {
		t.Errorf("the lower of both: %+v", l)
	}
	sata := &hw.Drive{Interface: "sata", ReadMBs: hw.Known(hw.DecOf(560))}
	if l := Connect("bay", nil, sata); l.MBs.Or(0) != 600 || l.Read.Or(0) != hw.DecOf(550) || l.Gen.IsKnown() ||
		HeldBack(l, sata) {
		t.Errorf("SATA: %+v", l)
	}
	nvme.Lanes = hw.Maybe[int]{}
	if l := Connect("m2b", slot, nvme); l.MBs.IsKnown() || l.Read.IsKnown() || HeldBack(l, nvme) {
		t.Errorf("a link of unknown lanes has a figure: %+v", l)
	}
}

// TestThickness holds what is asked of heights: measured room, room that nobody
// measured, heights that nobody gives; a sure refusal goes before an unknown.
func TestThickness(t *testing.T) {
	m := func(text string) hw.Maybe[hw.Dec] {
		if text == "" {
			return hw.Maybe[hw.Dec]{}
		}
		return hw.Known(dec(t, text))
	}
	for _, c := range []struct {
		roomTop, roomBottom, top, bottom string
		want                             hw.Code
		fact                             string
	}{
		{"1.5", "0", "1.5", "0", "", ""},
		{"1.5", "0", "1.6", "0", hw.CodeM2Thickness, ""},
		{"1.5", "0", "1.5", "1.35", hw.CodeM2Thickness, ""},
		{"1.5", "1.5", "1.5", "1.35", "", ""},
		{"", "", "1.5", "", "", ""},
		{"", "", "1.5", "0", "", ""},
		{"", "", "1.6", "0", "unknown", "chassis:/slots/2/max_top_mm"},
		{"", "", "1.5", "1.35", "unknown", "chassis:/slots/2/max_bottom_mm"},
		{"", "", "", "0", "unknown", "parts:/parts/7/drive/top_mm"},
		{"1.5", "0", "", "0", "unknown", "parts:/parts/7/drive/top_mm"},
		{"1.5", "0", "1.5", "", "unknown", "parts:/parts/7/drive/bottom_mm"},
		{"", "0", "", "1.35", hw.CodeM2Thickness, ""},
	} {
		slot := &hw.Slot{ID: "m", MaxTop: m(c.roomTop), MaxBottom: m(c.roomBottom)}
		v := thickness(slot, hw.Where{List: "slots", Index: 2, PartIndex: 7, Body: "drive"},
			&hw.Drive{Top: m(c.top), Bottom: m(c.bottom)})
		if v.Code != c.want || v.Fact != c.fact {
			t.Errorf("%+v: %s %s", c, v.Code, v.Fact)
		}
	}
}

// TestUnknownSlotFacts: a fact that nobody recorded is never taken for a fit, and
// the verdict names it with the step that exposes it.
func TestUnknownSlotFacts(t *testing.T) {
	full := hw.Slot{ID: "m2a", Purpose: "storage", Key: hw.Known("M"), Lengths: map[string]string{"80": "fitted"},
		Protocols: []hw.Interface{"nvme"}, Reach: "plug"}
	d := &hw.Drive{Interface: "nvme", Key: hw.Known("B+M"), Length: hw.Known(80), Top: hw.Known(hw.DecOf(1)),
		Bottom: hw.Known(hw.DecOf(0))}
	for fact, drop := range map[string]func(*hw.Slot){
		"":                           func(*hw.Slot) {},
		"chassis:/slots/0/key":       func(s *hw.Slot) { s.Key = hw.Maybe[string]{} },
		"chassis:/slots/0/lengths":   func(s *hw.Slot) { s.Lengths = nil },
		"chassis:/slots/0/protocols": func(s *hw.Slot) { s.Protocols = nil },
	} {
		s := full
		drop(&s)
		v := FitSlot(&hw.Chassis{Slots: []hw.Slot{s}}, 0, d, 3)
		if v.Fact != fact || (fact != "" && (v.Code != "unknown" || v.Step != "plug")) {
			t.Errorf("%s: %+v", fact, v)
		}
	}
	for _, c := range []struct {
		module, socket string
		want           bool
	}{{"B+M", "B", true}, {"B+M", "M", true}, {"M", "B", false}, {"A+E", "E", true}, {"Q-own", "Q-own", true},
		{"M", "Q-own", false}} {
		if KeyEnters(c.module, c.socket) != c.want {
			t.Errorf("key %s into %s", c.module, c.socket)
		}
	}
}

func TestClone(t *testing.T) {
	known := func(n int) hw.Maybe[hw.Dec] { return hw.Known(hw.DecOf(n)) }
	old := hw.FittedDrive{UsedGB: known(431), Drive: hw.Drive{ReadMBs: known(2400), Capacity: known(512)}}
	fresh := hw.Drive{Capacity: known(1000), WriteMBs: known(4200)}
	link := Link{MBs: hw.Known(7877)}
	if c := PlanClone(&old, &fresh, link); !c.Possible || c.Minutes.Or(0).String() != "25.7" {
		t.Errorf("431 GB through the enclosure: %+v", c)
	}
	slow := old
	slow.Drive.ReadMBs = known(100)
	if c := PlanClone(&slow, &fresh, link); c.Minutes.Or(0).String() != "102.6" {
		t.Errorf("the slowest counts: %+v", c)
	}
	full := old
	full.UsedGB = known(900)
	if c := PlanClone(&full, &fresh, link); !c.Possible {
		t.Error("0.9 of the new drive is still cloned")
	}
	full.UsedGB = known(901)
	if c := PlanClone(&full, &fresh, link); c.Possible {
		t.Error("more than 0.9 of the new drive is cloned")
	}
	unknown := old
	unknown.UsedGB = hw.Maybe[hw.Dec]{}
	if c := PlanClone(&unknown, &fresh, link); !c.Possible || c.Minutes.IsKnown() {
		t.Errorf("a 512 GB drive fits 1000 GB however full: %+v", c)
	}
	failing := old
	failing.Failing = hw.Known(true)
	if c := PlanClone(&failing, &fresh, link); !c.Possible || c.Minutes.IsKnown() {
		t.Errorf("a failing drive is imaged, and how long it takes is not known that takes: %+v", c)
	}
	failing.UsedGB = known(901)
	if c := PlanClone(&failing, &fresh, link); c.Possible {
		t.Error("a failing drive is copied to where it does not fit")
	}
	failing.UsedGB, failing.Unreadable = known(431), hw.Known(true)
	if c := PlanClone(&failing, &fresh, link); c.Possible {
		t.Error("a drive is copied that cannot be read")
	}
	if got := MonthsUntilFull(hw.DecOf(512), hw.DecOf(431), hw.DecOf(9)); got.Or(0).String() != "9" {
		t.Errorf("81 GB free at 9 a month: %v", got)
	}
	if got := MonthsUntilFull(hw.DecOf(512), hw.DecOf(431), 0); got.IsKnown() {
		t.Error("a drive that does not grow fills up")
	}
	if got := CentsPerGB(6900, hw.DecOf(1000)); got.Or(0).String() != "6.9" {
		t.Errorf("69.00 for 1000 GB: %v cents a GB", got)
	}
	if got := GiB(hw.DecOf(500)).String(); got != "465.7" {
		t.Errorf("500 GB shows as %s GiB", got)
	}
}
