package plan

import (
	"bytes"
	"context"
	"encoding/json"
	"runtime"
	"strings"
	"testing"

	"yembo/core/hw"
)

// TestPicks: each pick is best in its one respect among those that meet the most
// goals; the smallest total that would do is named when the budget is too small.
func TestPicks(t *testing.T) {
	in := base()
	in.Request.Goals = hw.Goals{MemoryGB: hw.Known(gb(16)), StorageGB: hw.Known(gb(1000))}
	used := in.Parts.Parts[0]
	used.ID, used.PriceCents, used.Source = "used", 1000, "pulled"
	large := in.Parts.Parts[0]
	large.ID, large.PriceCents = "large", 9000
	module := *large.Memory
	module.Capacity = hw.Known(gb(32))
	large.Memory = &module
	in.Parts.Parts = append(in.Parts.Parts[:3], used, large)
	p, err := Make(t.Context(), in)
	if err != nil {
		t.Fatal(err)
	}
	by := map[string]string{}
	for _, o := range p.Options {
		words := ""
		for _, a := range o.Actions {
			if a.Part != "" {
				words += a.Part + " "
			}
		}
		by[o.ID] = strings.TrimSpace(words)
	}
	// Parts 10, 40 or 90 for memory, 60 or 90 for the drive; labour the same for all
	// that open the same places.
	for name, c := range map[string]struct{ got, want string }{
		"least cost":    {by[p.Picks.LeastCost], "used ssd"},
		"least work":    {by[p.Picks.LeastWork], "used ssd"},
		"lowest risk":   {by[p.Picks.LowestRisk], "ram ssd"},
		"recommended":   {by[p.Picks.Recommended], "used ssd"}, // 30 less for one point, which is worth 15
		"most headroom": {by[p.Picks.MostHeadroom], "large hdd"},
	} {
		if c.got != c.want {
			t.Errorf("%s is %q, want %q of %v", name, c.got, c.want, by)
		}
	}
	for i := range p.Options {
		if i > 0 && p.Options[i].TotalCents < p.Options[i-1].TotalCents {
			t.Error("the options are not in the order of their totals")
		}
	}
	in.Request.Practice.RiskCents = hw.Known[int64](4000)
	careful, err := Make(t.Context(), in)
	if err != nil {
		t.Fatal(err)
	}
	if careful.Picks.Recommended != careful.Picks.LowestRisk {
		t.Errorf("a point is worth 40, and %+v", careful.Picks)
	}
	in.Request.BudgetCents = hw.Known(p.Options[0].TotalCents - 1)
	for i := range p.Options {
		if p.Options[i].ID == p.Picks.LeastCost {
			in.Request.BudgetCents = hw.Known(p.Options[i].TotalCents - 1)
		}
	}
	short, err := Make(t.Context(), in)
	if err != nil {
		t.Fatal(err)
	}
	if short.Verdict != Partial || len(short.Unmet) != 1 || short.Unmet[0].Code != "budget" ||
		!strings.Contains(short.Unmet[0].Text, "€76.16") {
		t.Errorf("a cent short: %s %v", short.Verdict, short.Unmet)
	}
}

// TestSpinning: where a spinning drive may go, by practice and by what is told of the drives that are there.
func TestSpinning(t *testing.T) {
	boot := func(is hw.Maybe[bool]) []hw.FittedDrive {
		return []hw.FittedDrive{{Place: "m2a", Drive: hw.Drive{Interface: "nvme", Capacity: hw.Known(gb(250))}, Boot: is}}
	}
	optical := hw.FittedDrive{Place: "bay", Drive: hw.Drive{Form: hw.FormOptical}}
	for name, c := range map[string]struct {
		practice   hw.Maybe[hw.RotationalUse]
		drives     []hw.FittedDrive
		slot, free bool // ruled out in the slot of the drive, and in the free bay
	}{
		"beside the boot drive":  {hw.Maybe[hw.RotationalUse]{}, boot(hw.Known(true)), true, false},
		"not known which starts": {hw.Known(hw.SpinBulk), boot(hw.Maybe[bool]{}), true, false},
		"in place of data":       {hw.Known(hw.SpinBulk), boot(hw.Known(false)), false, false},
		"told to have none":      {hw.Known(hw.SpinBulk), []hw.FittedDrive{}, true, true},
		"an optical one":         {hw.Known(hw.SpinBulk), []hw.FittedDrive{optical}, true, true},
		"nobody told":            {hw.Known(hw.SpinBulk), nil, false, false},
		"never":                  {hw.Known(hw.SpinNever), boot(hw.Known(true)), true, true},
		"any":                    {hw.Known(hw.SpinAny), boot(hw.Known(true)), false, false},
	} {
		in := base()
		in.Request.Practice.Rotational, in.Machine.Fitted.Drives = c.practice, c.drives
		in.Parts.Parts[1].Drive.Rotational = hw.Known(true)
		s, err := newSearch(in)
		if err != nil {
			t.Fatal(err)
		}
		slot, bay := s.placeIndex["m2a"], s.placeIndex["bay"]
		if got := s.spinsWrongly(1, slot); got != c.slot {
			t.Errorf("%s: in the slot %v", name, got)
		}
		if got := s.spinsWrongly(1, bay); got != c.free {
			t.Errorf("%s: in the bay %v", name, got)
		}
	}
}

// TestStriped: drives of a striped volume count, unless one of them fails: then none does.
func TestStriped(t *testing.T) {
	in := base()
	in.Machine.Fitted.Drives = []hw.FittedDrive{
		{Place: "m2a", Drive: hw.Drive{Interface: "nvme", Capacity: hw.Known(gb(250))}, Raid0: hw.Known(true)},
		{Place: "bay", Drive: hw.Drive{Interface: "sata", Form: "2.5in", Capacity: hw.Known(gb(500))}, Raid0: hw.Known(true)}}
	in.Request.Goals = hw.Goals{StorageGB: hw.Known(gb(700))}
	p, err := Make(t.Context(), in)
	if err != nil || p.Verdict != Enough {
		t.Errorf("750 GB on two striped drives, 700 wanted: %v %v", p.Verdict, err)
	}
	in.Machine.Fitted.Drives[1].Failing = hw.Known(true)
	today, err := AsItIs(in)
	if err != nil || today.Storage.TotalGB != 0 {
		t.Errorf("one of them fails: %v %v", today.Storage, err)
	}
}

// TestFailing: a failing drive counts nothing and stands against the goal while it is in the machine, told how large
// it is or not; replacing it needs no larger one.
func TestFailing(t *testing.T) {
	in := base()
	in.Request.Goals = hw.Goals{StorageGB: hw.Known(gb(1000))}
	old := &in.Machine.Fitted.Drives[0]
	old.Failing, old.Drive.Capacity = hw.Known(true), hw.Maybe[hw.Dec]{}
	p := made(t, in)
	if p.Verdict != Upgrade || p.Notes[0].Code != hw.CodeDriveFailing {
		t.Fatalf("%s %v", p.Verdict, p.Notes)
	}
	for _, o := range p.Options {
		out := o.Actions[len(o.Actions)-2].Do == DoReplace
		if o.MeetsAll != out || o.Storage.TotalGB < gb(1000) {
			t.Errorf("%v: met %v, %s GB", o.Actions, o.MeetsAll, o.Storage.TotalGB)
		}
	}
	old.Drive.Capacity = hw.Known(gb(2000))
	if p = made(t, in); p.Verdict != Upgrade {
		t.Errorf("a failing drive of 2000 GB is taken for storage, or one of 2000 GB for no better: %s", p.Verdict)
	}
	in.Request.Goals = hw.Goals{MemoryGB: hw.Known(gb(12))}
	if p = made(t, in); p.Verdict != Enough || p.Notes[0].Code != hw.CodeDriveFailing {
		t.Errorf("nothing is wanted of the drive: %s %v", p.Verdict, p.Notes)
	}
	today, err := AsItIs(in)
	if err != nil || today.Storage == nil || today.Storage.TotalGB != 0 {
		t.Errorf("the only drive fails: %+v %v", today.Storage, err)
	}
}

// TestLeastRuntime: what a pack held when it was new stands for what it holds where that was not read and nothing
// else compares packs: other packs last at least so long. What only such figures leave out of reach is not known.
func TestLeastRuntime(t *testing.T) {
	none := hw.Maybe[hw.Dec]{}
	for name, c := range map[string]struct {
		goal    int
		change  func(in *Input)
		verdict string
		runtime string
		least   bool
		unmet   hw.Code
	}{
		// 4 h × 50 ÷ 40 as read; nobody read it: 4 × 50 ÷ 50.
		"read": {5, func(in *Input) {}, Upgrade, "5", false, ""},
		"not read, a larger pack": {5, func(in *Input) {
			in.Machine.Fitted.Battery.FullWh, in.Parts.Parts[3].Battery.PartNumber = none, "N2"
			in.Parts.Parts[3].Battery.DesignWh = none
			in.Parts.Parts[3].Battery.NominalV, in.Parts.Parts[3].Battery.Series = none, hw.Maybe[int]{}
		}, Upgrade, "6.1", true, ""},
		"not read, the same again": {5, func(in *Input) { in.Machine.Fitted.Battery.FullWh = none }, NotKnown, "", false,
			hw.CodeMachineNotKnown},
		"read, and none will do": {12, func(in *Input) {}, Partial, "5", false, hw.CodeNoPart},
		"none to be had": {5, func(in *Input) {
			in.Machine.Fitted.Battery.FullWh, in.Parts.Parts[3].Stock = none, hw.Known(0)
		}, NotPossible, "", false, hw.CodeStock},
		"a draw compares": {5, func(in *Input) {
			in.Machine.Fitted.Battery.FullWh, in.Machine.Usage.DrawW = none, hw.Known(gb(9))
		}, Upgrade, "5.3", false, ""},
		"the one pack, not known": {5, func(in *Input) {
			in.Machine.Fitted.Battery, in.Chassis.Batteries = nil, in.Chassis.Batteries[:1]
		}, NotKnown, "", false, hw.CodeMachineNotKnown},
		"nothing told": {5, func(in *Input) { in.Machine.Usage.RuntimeH = none }, NotKnown, "", false, hw.CodeMachineNotKnown},
		"runtime alone, battery not on the maker's list": {5, func(in *Input) {
			in.Machine.Fitted.Battery = &hw.FittedBattery{PartNumber: "N9"}
		}, NotKnown, "", false, hw.CodeMachineNotKnown},
		"it lasts so long as it is": {4, func(in *Input) {
			in.Machine.Fitted.Battery = &hw.FittedBattery{PartNumber: "N9"}
		}, Enough, "", false, ""},
		"no pack at all": {5, func(in *Input) {
			in.Chassis.Batteries, in.Machine.Fitted.Battery = []hw.Battery{}, nil
			in.Machine.Usage.RuntimeH = none
		}, NotPossible, "", false, hw.CodeBatteryNotListed},
	} {
		in := base()
		in.Request.Goals = hw.Goals{RuntimeH: hw.Known(gb(c.goal))}
		c.change(&in)
		p, err := Make(t.Context(), in)
		if err != nil {
			t.Fatal(err)
		}
		got := ""
		if len(p.Options) > 0 {
			got = p.Options[0].Battery.RuntimeH.Or(0).String()
			if p.Options[0].Battery.AtLeast != c.least {
				t.Errorf("%s: a least figure: %v", name, !c.least)
			}
		}
		unmet := hw.Code("")
		if len(p.Unmet) > 0 {
			unmet = p.Unmet[0].Code
		}
		if p.Verdict != c.verdict || got != c.runtime || unmet != c.unmet {
			t.Errorf("%s: %s, %q h, %s %v", name, p.Verdict, got, unmet, p.Rejected)
		}
	}
	// A pack that was told stays on the list of what is kept, though nobody said how long it runs.
	in := base()
	in.Machine.Usage.RuntimeH = none
	for _, o := range made(t, in).Options {
		if last := o.Actions[len(o.Actions)-1]; last != (Action{Do: DoKeep, Place: hw.BatteryPlace}) || o.Battery == nil {
			t.Errorf("the pack: %+v %+v", last, o.Battery)
		}
	}
}

// TestCancelled: a plan stops when nobody waits for it any more.
func TestCancelled(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	if _, err := Make(ctx, benchInput(1, 300)); err == nil {
		t.Error("a cancelled plan was made")
	}
}

// TestWalkEnds: a walk that is cancelled on its way, or passes the limit of steps,
// unwinds whole: it never goes on after having been told to stop.
func TestWalkEnds(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	s := &search{}
	cancelled, endless := s.collector(ctx), s.collector(t.Context())
	cancel()
	endless.steps = mostSteps - 1
	for _, c := range []*collector{cancelled, endless} {
		at := 0
		for range 3000 {
			if c.stopped() {
				at++
			} else if at > 0 {
				t.Fatal("went on after it was told to stop")
			}
		}
		if at == 0 || c.err == nil {
			t.Errorf("never stopped: %v", c.err)
		}
	}
	if !strings.Contains(endless.err.Error(), "20000000 ways") {
		t.Errorf("the limit is not named: %v", endless.err)
	}
}

// TestHands: a plan does not tell how many hands made it, to the byte.
func TestHands(t *testing.T) {
	before := runtime.GOMAXPROCS(0)
	defer runtime.GOMAXPROCS(before)
	inputs := []Input{benchInput(1, 1500)}
	for seed := range uint64(200) {
		inputs = append(inputs, newGen(seed).input(40))
	}
	for i, in := range inputs {
		var first []byte
		for _, hands := range []int{1, 2, 7} {
			runtime.GOMAXPROCS(hands)
			p, err := Make(t.Context(), in)
			if err != nil {
				t.Fatal(err)
			}
			text, err := json.Marshal(p)
			switch {
			case err != nil:
				t.Fatal(err)
			case first == nil:
				first = text
			case !bytes.Equal(first, text):
				t.Errorf("input %d: %d hands make another plan than one", i, hands)
			}
		}
	}
}
