package storage

import (
	"fmt"
	"strings"
	"testing"

	"yembo/core/hw"
)

// told writes a verdict whole: code, place, sentence, missing fact, the step that shows
// it, and what a rule filled in.
func told(v hw.Verdict) string {
	text := fmt.Sprintf("%s %s: %s", v.Code, v.Place, v.Text)
	if v.Fact != "" {
		text += " {" + v.Fact + " by " + v.Step + "}"
	}
	if len(v.Defaulted) > 0 {
		text += " defaulted " + strings.Join(v.Defaulted, " ")
	}
	return text
}

// TestFitSlot holds each check of an M.2 slot with its numbers, and their order: each case
// spoils one thing more of a slot and drive that fit, going from the last check to the first.
func TestFitSlot(t *testing.T) {
	slot := hw.Slot{ID: "m2a", Purpose: "storage", Key: hw.Known("M"),
		Lengths:   map[string]string{"80": "fitted", "42": "movable", "60": "none"},
		Protocols: []hw.Interface{"nvme"}, Refuses: []hw.Refusal{}, MaxTop: hw.Known(dec(t, "1.5")),
		MaxBottom: hw.Known(hw.Dec(0)), Reach: "plug"}
	d := hw.Drive{Interface: "nvme", Key: hw.Known("M"), Length: hw.Known(80), Lanes: hw.Known(4),
		Top: hw.Known(dec(t, "1.5")), Bottom: hw.Known(hw.Dec(0))}
	check := func(name, want string) {
		t.Helper()
		if got := told(FitSlot(&hw.Chassis{Slots: []hw.Slot{{ID: "other"}, slot}}, 1, &d, 7)); got != want {
			t.Errorf("%s:\n got %s\nwant %s", name, got, want)
		}
	}
	check("fits", " m2a: ")
	slot.Refuses = nil
	check("no marking recorded", " m2a:  defaulted /slots/1/refuses")
	slot.MaxTop, slot.MaxBottom = hw.Maybe[hw.Dec]{}, hw.Maybe[hw.Dec]{}
	check("room not measured", " m2a:  defaulted /slots/1/max_top_mm /slots/1/max_bottom_mm /slots/1/refuses")
	d.Top = hw.Known(dec(t, "1.6"))
	check("thick where nobody measured",
		"unknown m2a: needs 1.6 mm above the module; the room in slot m2a is not measured "+
			"{chassis:/slots/1/max_top_mm by plug}")
	slot.MaxTop = hw.Known(dec(t, "1.5"))
	check("too thick", "m2.thickness m2a: needs 1.6 mm above the module; slot m2a has 1.5 mm")
	slot.Refuses = []hw.Refusal{"x2", "sata", "cache_module"}
	d.Lanes = hw.Known(2)
	check("two lanes", "m2.refused m2a: 2 lanes; slot m2a is marked as refusing two-lane drives")
	d.Lanes = hw.Maybe[int]{}
	check("lanes not known", "unknown m2a: slot m2a refuses two-lane drives; how many lanes this one has is not "+
		"known {parts:/parts/7/drive/lanes by }")
	d.CacheModule = hw.Known(true)
	check("a sure refusal before one that is not", "m2.refused m2a: slot m2a is marked as refusing cache modules")
	slot.Refuses = []hw.Refusal{"cache_module", "x2"}
	check("a cache module", "m2.refused m2a: slot m2a is marked as refusing cache modules")
	slot.Protocols, d.Interface, d.CacheModule = []hw.Interface{"nvme", "sata"}, "sata", hw.Maybe[bool]{}
	slot.Refuses = []hw.Refusal{"cache_module", "x2", "sata"}
	check("SATA by its marking", "m2.refused m2a: slot m2a is marked as refusing SATA drives")
	slot.Protocols = []hw.Interface{"nvme"}
	check("SATA without the protocol", "m2.protocol m2a: an SATA drive; slot m2a takes NVMe only")
	slot.Protocols = []hw.Interface{}
	check("no protocol at all", "m2.protocol m2a: an SATA drive; slot m2a takes neither")
	slot.Protocols = nil
	check("protocols not known", "unknown m2a: whether slot m2a takes NVMe or SATA is not known "+
		"{chassis:/slots/1/protocols by plug}")
	d.Length = hw.Known(60)
	check("nothing holds it", "m2.length m2a: 60 mm long: nothing holds it in slot m2a, which holds 42, 80 mm")
	d.Length = hw.Known(110)
	check("longer", "m2.length m2a: needs 110 mm, slot m2a holds 42, 80 mm")
	slot.Lengths = map[string]string{"60": "none"}
	check("holds nothing", "m2.length m2a: needs 110 mm, slot m2a holds no length")
	d.Length = hw.Maybe[int]{}
	check("length not known", "unknown m2a: the length of this module is not known; slot m2a holds no length "+
		"{parts:/parts/7/drive/length_mm by }")
	slot.Lengths = nil
	check("lengths not known", "unknown m2a: which lengths slot m2a holds is not known {chassis:/slots/1/lengths by "+
		"plug}")
	d.Key = hw.Known("B")
	check("key", "m2.key m2a: key B does not enter slot m2a, which has key M")
	d.Key = hw.Maybe[string]{}
	check("key of the drive not known",
		"unknown m2a: the key of this module is not known; slot m2a has key M {parts:/parts/7/drive/key by }")
	slot.Key = hw.Maybe[string]{}
	check("key not known", "unknown m2a: the key of slot m2a is not known {chassis:/slots/1/key by plug}")
	slot.Purpose = "wwan"
	check("purpose", "m2.purpose m2a: a drive; slot m2a is for a modem")
}

// TestFitBay does the same for a bay.
func TestFitBay(t *testing.T) {
	bay := hw.Bay{ID: "bay25", Form: "2.5in", Connector: hw.Known("fitted"), Height: hw.Known(hw.DecOf(7)),
		Interface: hw.Known[hw.Interface]("sata"), Reach: "cage"}
	d := hw.Drive{Interface: "sata", Form: "2.5in", Height: hw.Known(hw.DecOf(7))}
	plugged := false
	check := func(name, want string) {
		t.Helper()
		if got := told(FitBay(&hw.Chassis{Bays: []hw.Bay{bay}}, 0, &d, 2, plugged)); got != want {
			t.Errorf("%s:\n got %s\nwant %s", name, got, want)
		}
	}
	check("fits", " bay25: ")
	bay.Height = hw.Known(dec(t, "9.5"))
	check("held with a spacer", " bay25: ")
	d.Interface = "nvme"
	check("interface", "bay.interface bay25: an NVMe drive; bay bay25 is SATA")
	bay.Interface = hw.Maybe[hw.Interface]{}
	check("interface not known", "unknown bay25: the interface of bay bay25 is not known {chassis:/bays/0/interface "+
		"by cage}")
	bay.Height, d.Height = hw.Known(hw.DecOf(7)), hw.Known(dec(t, "9.5"))
	check("height", "bay.height bay25: 9.5 mm high; bay bay25 takes 7 mm")
	d.Height = hw.Maybe[hw.Dec]{}
	check("height of the drive not known",
		"unknown bay25: the height of this drive is not known; bay bay25 takes 7 mm {parts:/parts/2/drive/height_mm "+
			"by }")
	bay.Height = hw.Maybe[hw.Dec]{}
	check("height not known", "unknown bay25: how high a drive bay bay25 takes is not known "+
		"{chassis:/bays/0/height_mm by cage}")
	bay.Connector = hw.Known("no_header")
	check("no header", "bay.no_header bay25: bay bay25 has room but nothing to plug a drive into")
	bay.Connector = hw.Maybe[string]{}
	check("connector not known", "unknown bay25: whether bay bay25 has a connector is not known: a space without "+
		"one is not a bay {chassis:/bays/0/connector by cage}")

	// An optical bay: its caddy decides, and how high a drive that takes; an optical drive in
	// it shows the connector, not the caddy.
	bay = hw.Bay{ID: "odd", Form: hw.FormOptical, Height: hw.Known(dec(t, "12.7")), Interface: hw.Known(hw.SATA),
		Reach: "cage"}
	d = hw.Drive{Interface: "sata", Form: "2.5in", Height: hw.Known(dec(t, "9.5"))}
	check("nothing plugged in", "unknown odd: whether bay odd has a connector is not known: a space without one is "+
		"not a bay {chassis:/bays/0/connector by cage}")
	plugged = true
	check("caddy not known", "unknown odd: whether optical bay odd takes a caddy for a 2.5-inch drive is not known "+
		"{chassis:/bays/0/caddy by cage}")
	bay.Caddy = hw.Known(hw.CaddyNotUsed)
	check("no caddy", "bay.form odd: a 2.5-inch drive; optical bay odd takes no caddy, only an optical drive")
	bay.Caddy = hw.Known("needs:caddy")
	check("9.5 mm in 12.7", " odd: ")
	bay.Height = hw.Known(dec(t, "9.5"))
	check("9.5 mm in 9.5", "bay.height odd: 9.5 mm high; bay odd takes 7 mm in its caddy")
	d.Height = hw.Known(hw.DecOf(7))
	check("7 mm in 9.5", " odd: ")
}

// TestHot: a link of 7877 MB/s or more, or a drive over 5 W, in a slot that is recorded as
// having no cooling; no other slot and no bay.
func TestHot(t *testing.T) {
	bare, pad := &hw.Slot{Cooling: hw.Known[hw.Cooling]("none")}, &hw.Slot{Cooling: hw.Known[hw.Cooling]("pad")}
	link := func(mbs int) Link { return Link{MBs: hw.Known(mbs)} }
	watts := func(text string) hw.Drive { return hw.Drive{Interface: "nvme", PowerW: hw.Known(dec(t, text))} }
	for _, c := range []struct {
		link  Link
		slot  *hw.Slot
		drive hw.Drive
		want  bool
	}{
		{link(7877), bare, watts("3"), true}, {link(7876), bare, watts("3"), false},
		{link(3938), bare, watts("5"), false}, {link(3938), bare, watts("5.1"), true},
		{link(15754), pad, watts("9"), false}, {link(15754), nil, watts("9"), false},
		{link(15754), &hw.Slot{}, watts("9"), false}, {Link{}, bare, hw.Drive{Interface: "nvme"}, false},
		{link(7877), bare, hw.Drive{Interface: "sata"}, false},
	} {
		if Hot(c.link, c.slot, &c.drive) != c.want {
			t.Errorf("%+v of %+v: not %v", c.link, c.drive, c.want)
		}
	}
}

// TestNoGain: a newer generation whose link is not above the old one's; nothing is said
// where a figure is not known.
func TestNoGain(t *testing.T) {
	gen := func(n int) *hw.Drive { return &hw.Drive{Gen: hw.Known(n)} }
	link := func(mbs int) Link { return Link{MBs: hw.Known(mbs)} }
	for _, c := range []struct {
		old, fresh Link
		was, is    *hw.Drive
		want       bool
	}{
		{link(3938), link(3938), gen(3), gen(4), true}, {link(3938), link(1969), gen(3), gen(4), true},
		{link(3938), link(7877), gen(3), gen(4), false},
		{link(3938), link(3938), gen(3), gen(3), false}, {link(3938), link(3938), gen(4), gen(3), false},
		{Link{}, link(3938), gen(3), gen(4), false}, {link(3938), Link{}, gen(3), gen(4), false},
		{link(3938), link(3938), &hw.Drive{}, gen(4), false}, {link(3938), link(3938), gen(3), &hw.Drive{}, false},
	} {
		if NoGain(c.old, c.fresh, c.was, c.is) != c.want {
			t.Errorf("%+v after %+v, %+v after %+v: not %v", c.fresh, c.old, c.is, c.was, c.want)
		}
	}
	exact := &hw.Drive{ReadMBs: hw.Known(hw.DecOf(3938))}
	if HeldBack(link(3938), exact) || !HeldBack(link(3937), exact) {
		t.Error("a drive that reads what its link carries is held back, or one above it is not")
	}
}

// TestSums holds the small sums of drives at their edges.
func TestSums(t *testing.T) {
	for _, c := range []struct{ name, got, want string }{
		{"fuller than it is large", MonthsUntilFull(hw.DecOf(512), hw.DecOf(600), hw.DecOf(9)).Or(-1).String(), "0"},
		{"half a GB a month", MonthsUntilFull(hw.DecOf(10), 0, hw.DecOf(1)/2).Or(-1).String(), "20"},
		{"price of nothing", CentsPerGB(100, 0).Or(-1).String(), "-0.000001"},
		{"a price below zero", CentsPerGB(-1, hw.DecOf(1)).Or(-1).String(), "-0.000001"},
		{"given away", CentsPerGB(0, hw.DecOf(1)).Or(-1).String(), "0"},
		{"half a GB", CentsPerGB(50, hw.DecOf(1)/2).Or(-1).String(), "100"},
		{"2 TiB in GB", MBRLimitGB.String(), "2199.023256"},
	} {
		if c.got != c.want {
			t.Errorf("%s: %s, want %s", c.name, c.got, c.want)
		}
	}
}
