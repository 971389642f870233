package plan

import (
	"fmt"
	"strings"
	"testing"

	"yembo/core/hw"
)

func made(t *testing.T, in Input) *Plan {
	t.Helper()
	if faults := append(hw.ValidateChassis(in.Chassis),
		hw.ValidateMachine(in.Machine, in.Chassis)...); len(faults) > 0 {
		t.Fatal(faults)
	}
	p, err := Make(t.Context(), in)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// only keeps the parts with these ids, in their order.
func only(in *Input, ids ...string) {
	var kept []hw.Part
	for _, p := range in.Parts.Parts {
		for _, id := range ids {
			if p.ID == id {
				kept = append(kept, p)
			}
		}
	}
	in.Parts.Parts = kept
}

func goal(in *Input, g hw.Goals) { in.Request.Goals = g }

// TestOptionInFull checks every figure of one option against the rules, by hand:
// 8 GB soldered and 4 GB in the socket; 8 GB in for 4 makes 16, 16 GB of them on two
// equal channels; the way is 1 + 0.5 min down, 0.8 of it back, 2 for the swap: 4.7
// min at 48.00 an hour is 3.76. Nobody says how long the order takes.
func TestOptionInFull(t *testing.T) {
	in := base()
	goal(&in, hw.Goals{MemoryGB: hw.Known(gb(16))})
	o := made(t, in).Options[0]
	got := fmt.Sprintln(o.ID, o.Actions, *o.Memory.totals(), o.Buy, o.PartsCents, o.LabourCents, o.TotalCents,
		o.Minutes, o.ReadyInDays.Or(-1), o.Risk, o.Consents, o.MeetsAll)
	want := "o1 [{replace dimm1 ram 4 GB DDR4-3200} {keep wlan  } {keep bay  } {keep battery  }] 16 dual 16 0 3200 " +
		"51.2 [{ram 1 4000}] 4000 376 4376 4.7 -1 {0 []} [] true\n"
	if got != want {
		t.Errorf("option\n%s\nwant\n%s", got, want)
	}
}

func (m *MemoryState) totals() *string {
	s := fmt.Sprintln(m.TotalGB, m.Mode.Or("-"), m.Interleaved.Or(-1), m.Single.Or(-1), m.SpeedMTs.Or(-1),
		m.Bandwidth.Or(-1))
	s = strings.TrimSpace(s)
	return &s
}

// TestKitsStockAndLead: pieces ÷ count, rounded up; what stock does not cover is
// ordered where it may be; the line that takes longest says when all is here.
func TestKitsStockAndLead(t *testing.T) {
	in := base()
	in.Chassis.Memory.Sockets = append(in.Chassis.Memory.Sockets,
		hw.Socket{ID: "dimm2", Channel: "A", Form: "SO-DIMM", MaxModule: hw.Known(gb(32)), Reach: "plug"})
	goal(&in, hw.Goals{MemoryGB: hw.Known(gb(24))})
	only(&in, "ram")
	kit := &in.Parts.Parts[0]
	kit.Count, kit.Stock, kit.LeadDays = hw.Known(2), hw.Known(1), hw.Known(4)
	reaching := func() Option {
		for _, o := range made(t, in).Options {
			if o.MeetsAll {
				return o
			}
		}
		t.Fatal("nothing reaches the goal")
		return Option{}
	}
	o := reaching()
	if fmt.Sprint(o.Buy, o.ReadyInDays.Or(-1), o.TotalCents-o.LabourCents) != "[{ram 1 4000}] 0 4000" {
		t.Errorf("two modules of one kit in stock: %v, ready in %v", o.Buy, o.ReadyInDays)
	}
	kit.Count = hw.Known(1)
	if o = reaching(); fmt.Sprint(o.Buy, o.ReadyInDays.Or(-1)) != "[{ram 2 8000}] 4" {
		t.Errorf("two of which one is in stock: %v, ready in %v", o.Buy, o.ReadyInDays)
	}
	kit.LeadDays = hw.Maybe[int]{}
	if p := made(t, in); p.Verdict != Partial {
		t.Errorf("one in stock and none to order: %s", p.Verdict)
	}
	kit.Stock = hw.Maybe[int]{}
	if o = reaching(); o.ReadyInDays.IsKnown() {
		t.Errorf("to order, nobody says how long: %v", o.ReadyInDays)
	}
	in.Request.Practice.AllowOrder = hw.Known(false)
	if p := made(t, in); p.Verdict != NotPossible || p.Rejected[0].Code != "stock" {
		t.Errorf("nothing is ordered by practice: %s %v", p.Verdict, p.Rejected)
	}
}

// TestAccessories: one piece for each place that asks, none where the fitted part is
// held the same way; the cheapest that can be had.
func TestAccessories(t *testing.T) {
	in := base()
	goal(&in, hw.Goals{StorageGB: hw.Known(gb(1000))})
	only(&in, "ssd")
	in.Chassis.Slots[0].Lengths["80"] = "needs:post"
	post := func(id string, cents int64, stock int) hw.Part {
		return hw.Part{ID: id, Kind: hw.KindAccessory, PriceCents: cents, Stock: hw.Known(stock), Provides: "post"}
	}
	in.Parts.Parts = append(in.Parts.Parts, post("dear", 500, 3), post("gone", 100, 0), post("cheap", 300, 3))
	o := made(t, in).Options[0]
	if fmt.Sprint(o.Buy) != "[{ssd 1 6000} {cheap 1 300}]" || o.PartsCents != 6300 || len(o.Missing) != 0 {
		t.Errorf("bought: %v missing %v", o.Buy, o.Missing)
	}
	bootInSlot(&in) // an 80 mm drive sits there already
	in.Chassis.Slots[0].Lengths["80"] = "needs:post"
	if o = made(t, in).Options[0]; len(o.Buy) != 1 {
		t.Errorf("held the same way already: %v", o.Buy)
	}
}

// TestMigration: only where the boot drive is replaced; copied or installed anew.
func TestMigration(t *testing.T) {
	in := base()
	bootInSlot(&in)
	goal(&in, hw.Goals{StorageGB: hw.Known(gb(1000))})
	only(&in, "ssd")
	o := made(t, in).Options[0]
	// 100 GB through 0.7 × 400 MB/s.
	if o.Migration == nil || o.Migration.How != "clone" || o.Migration.Minutes.Or(0).String() != "6" {
		t.Errorf("copy: %+v", o.Migration)
	}
	in.Request.Practice.Migration = hw.Known[hw.MigrationHow]("clean")
	if o = made(t, in).Options[0]; o.Migration.How != "clean" || o.Migration.Minutes.IsKnown() {
		t.Errorf("by practice: %+v", o.Migration)
	}
	in.Machine.Fitted.Drives[0].Boot = hw.Known(false)
	if o = made(t, in).Options[0]; o.Migration != nil || fmt.Sprint(o.Consents) != "[data]" {
		t.Errorf("a data drive: %+v %v", o.Migration, o.Consents)
	}
	in.Machine.Fitted.Drives[0].UsedGB = hw.Known(gb(0))
	if o = made(t, in).Options[0]; len(o.Consents) != 0 {
		t.Errorf("an empty drive asks for %v", o.Consents)
	}
	in.Machine.Fitted.Drives[0].Boot = hw.Maybe[bool]{}
	if o = made(t, in).Options[0]; o.Migration == nil {
		t.Error("where nobody says, each drive counts as the boot drive")
	}
}

// TestExclusionAcrossKinds: the large pack takes the bay; the data drive in it goes,
// and only then.
func TestExclusionAcrossKinds(t *testing.T) {
	in := base()
	goal(&in, hw.Goals{RuntimeH: hw.Known(gb(7))})
	in.Chassis.Bays[0].Excludes = []string{"battery:large"}
	in.Parts.Parts = []hw.Part{{ID: "big", Kind: hw.KindBattery, PriceCents: 9000,
		Battery: &hw.Pack{PartNumber: "N2", NominalV: hw.Known(hw.Dec(15_200_000)), Series: hw.Known(4)}}}
	o := made(t, in).Options[0]
	words := fmt.Sprint(o.Actions)
	if !strings.Contains(words, "{remove bay  250 GB SATA 2.5in}") ||
		!strings.Contains(words, "{replace battery big small pack, 50 Wh}") {
		t.Errorf("actions: %s", words)
	}
	// 4 h × 76 ÷ 40 Wh; the energy comes from the model's list.
	if o.Battery.RuntimeH.Or(0).String() != "7.6" || o.Battery.Option != "large" || o.Storage.TotalGB != 0 {
		t.Errorf("afterwards: %+v %+v", o.Battery, o.Storage)
	}
	in.Chassis.Bays[0].Excludes = []string{}
	if words := fmt.Sprint(made(t, in).Options[0].Actions); strings.Contains(words, "remove") {
		t.Errorf("a drive goes that is in nobody's way: %s", words)
	}
}

// TestUnknownNamesFactAndStep: an unknown names the fact by pointer, and the step
// that exposes it where the chassis lacks it.
func TestUnknownNamesFactAndStep(t *testing.T) {
	for fact, change := range map[string]func(in *Input){
		"chassis:/slots/0/key":      func(in *Input) { in.Chassis.Slots[0].Key = hw.Maybe[string]{} },
		"chassis:/slots/0/only_on":  func(in *Input) { in.Chassis.Slots[0].OnlyOn = "x"; in.Machine.Variant = nil },
		"chassis:/bays/0/connector": func(in *Input) { in.Chassis.Bays[0].Connector = hw.Maybe[string]{} },
		"chassis:/memory/limits/maker_gb": func(in *Input) {
			in.Chassis.Memory.Limits, in.Machine.Fitted.Memory = hw.Limits{}, []hw.FittedModule{}
			for i := range in.Chassis.Memory.Sockets {
				in.Chassis.Memory.Sockets[i].MaxModule = hw.Maybe[hw.Dec]{}
			}
		},
		"chassis:/memory/sockets": func(in *Input) {
			in.Chassis.Memory.Sockets, in.Machine.Fitted.Memory = nil,
				[]hw.FittedModule{}
		},
		"chassis:/batteries": func(in *Input) { in.Chassis.Batteries = nil },
		"parts:/parts/3/battery/nominal_v": func(in *Input) {
			in.Parts.Parts[3].Battery.NominalV, in.Chassis.Batteries[0].NominalV = hw.Maybe[hw.Dec]{}, hw.Maybe[hw.Dec]{}
		},
		"parts:/parts/1/drive/length_mm": func(in *Input) { in.Parts.Parts[1].Drive.Length = hw.Maybe[int]{} },
	} {
		in := base()
		change(&in)
		found := false
		for _, r := range made(t, in).Rejected {
			if r.Fact == fact {
				found = true
				places := fact != "chassis:/memory/sockets" && fact != "chassis:/memory/limits/maker_gb" &&
					strings.HasPrefix(fact, "chassis:")
				if r.Code != hw.CodeUnknown || (places && r.Step != "plug") ||
					(strings.HasPrefix(fact, "parts:") && r.Step != "") {
					t.Errorf("%s: %+v", fact, r)
				}
			}
		}
		if !found {
			t.Errorf("nothing names %s", fact)
		}
	}
}

// TestHonestEnds: enough, stop and nothing to be had leave no options behind.
func TestHonestEnds(t *testing.T) {
	in := base()
	goal(&in, hw.Goals{MemoryGB: hw.Known(gb(12)), StorageGB: hw.Known(gb(250))})
	p := made(t, in)
	if p.Verdict != Enough || len(p.Options)+len(p.Rejected)+len(p.Unmet) != 0 || p.Picks != (Picks{}) {
		t.Errorf("enough: %+v", p)
	}
	if size, ok := p.RightSize.MemoryGB.Get(); !ok || size != gb(12) {
		t.Errorf("9 GB peak ÷ 0.8 is 11.3; the machine has 12: %v", p.RightSize)
	}
	in = base()
	in.Machine.Fitted.Battery.Swollen = hw.Known(true)
	if p = made(t, in); p.Verdict != Stop || len(p.Options)+len(p.Rejected)+len(p.Unmet) != 0 ||
		!strings.Contains(p.Notes[0].Text, "Do not charge, press or pry") {
		t.Errorf("swollen: %+v", p)
	}
	in = base()
	goal(&in, hw.Goals{MemoryGB: hw.Known(gb(64))})
	in.Parts.Parts[0].Memory.Type = "DDR5"
	only(&in, "ram")
	if p = made(t, in); p.Verdict != NotPossible || p.Unmet[0].Code != "memory.type" ||
		!strings.Contains(p.Unmet[0].Text, "a DDR5 module; the socket takes DDR4") {
		t.Errorf("all ruled out for one reason: %+v", p)
	}
}
