package plan

import (
	"slices"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/core/wireless"
)

// socketed is the commonest machine of all: two sockets on two channels, 8 GB in one of them, and no limit on record.
func socketed(in *Input) {
	mem := in.Chassis.Memory
	mem.Soldered, mem.Limits = []hw.Soldered{}, hw.Limits{}
	mem.Sockets = []hw.Socket{{ID: "dimm1", Channel: "A", Form: "SO-DIMM", Reach: "plug"},
		{ID: "dimm2", Channel: "B", Form: "SO-DIMM", Reach: "plug"}}
	in.Machine.Fitted.Memory = []hw.FittedModule{{Socket: "dimm1", Module: hw.Module{Type: "DDR4", Form: "SO-DIMM",
		Capacity: hw.Known(gb(8)), Speed: hw.Known(3200), Ranks: hw.Known(1)}}}
	in.Machine.Usage.MemoryPeak = hw.Maybe[hw.Dec]{}
	in.Request.Goals = hw.Goals{MemoryGB: hw.Known(gb(32))}
	in.Parts.Parts = []hw.Part{memoryOf("eight", 8, 2900), memoryOf("sixteen", 16, 6000), memoryOf("thirtytwo", 32, 11420)}
}

func memoryOf(id string, size int, cents int64) hw.Part {
	return hw.Part{ID: id, Name: id, Kind: hw.KindMemory, PriceCents: cents, Memory: &hw.Module{Type: "DDR4", Form: "SO-DIMM",
		Capacity: hw.Known(gb(size)), Speed: hw.Known(3200), Ranks: hw.Known(1)}}
}

// inWords is what a plan answers, in words: the verdict, what is recommended, the risks of it, what stands in the way, the
// notes, and both ways.
func inWords(in Input, p *Plan) string {
	out, names := []string{p.Verdict}, map[string]string{}
	for _, x := range in.Parts.Parts {
		names[x.ID] = x.ID
	}
	for i := range p.Options {
		o := &p.Options[i]
		if o.ID != p.Picks.Recommended {
			continue
		}
		out = append(out, "recommended: "+o.Words(in.Chassis, names))
		for _, r := range o.Risk.Reasons {
			out = append(out, "risk: "+string(r.Code))
		}
		for _, w := range o.Warnings {
			out = append(out, "warning: "+w.Place+" "+w.Text)
		}
		if o.Migration != nil {
			out = append(out, "data: "+string(o.Migration.How))
		}
	}
	for _, u := range p.Unmet {
		out = append(out, "unmet: "+string(u.Code)+" "+u.Text+" "+u.Fact)
	}
	for _, n := range p.Notes {
		out = append(out, "note: "+n.Text)
	}
	return strings.Join(append(out, BothWays(in, p)...), "\n")
}

// TestStories: the machines that a fresh look found wrongly advised, with what a good technician says of each.
func TestStories(t *testing.T) {
	for name, c := range map[string]struct {
		change    func(in *Input)
		want, not []string
	}{
		"8 GB in one of two sockets, no limit on record": {socketed, []string{
			"partial", "recommended: dimm2: eight", "unmet: memory.over_limit", "the maker's or the controller's limit would settle it",
			"what the sockets take", "chassis:/memory/limits/maker_gb"}, []string{"no practice allows more"}},
		"the same, by what the sockets take": {func(in *Input) {
			socketed(in)
			in.Request.Practice.MemoryLimit = hw.Known(hw.LimitSockets)
		}, []string{"upgrade", "recommended: dimm1: sixteen; dimm2: sixteen", "risk: memory.limit_inferred"}, []string{"unmet"}},
		"a matched pair before one module on one channel": {func(in *Input) {
			socketed(in)
			in.Chassis.Memory.Limits.Maker, in.Machine.Fitted.Memory = hw.Known(gb(64)), []hw.FittedModule{}
		}, []string{"recommended: dimm1: sixteen; dimm2: sixteen"}, []string{"risk: memory.single_channel"}},
		"a good module stays where adding costs the same": {func(in *Input) {
			socketed(in)
			in.Chassis.Memory.Limits.Maker, in.Request.Goals.MemoryGB = hw.Known(gb(64)), hw.Known(gb(16))
		}, []string{"recommended: dimm2: eight"}, nil},
		"both ways, memory alone beside memory alone": {func(in *Input) {
			socketed(in)
			in.Chassis.Memory.Limits.Maker, in.Request.Practice.Pairing = hw.Known(gb(64)), hw.Known(hw.PairAny)
			in.Request.Goals.Wireless = hw.Known[hw.Standard]("wifi6")
			in.Parts.Parts = append(in.Parts.Parts, hw.Part{ID: "card", Kind: hw.KindWireless, PriceCents: 2000,
				Wireless: &hw.Card{Key: hw.Known("A+E"), Length: hw.Known(30), Interface: "pcie", Standard: "wifi6", Antennas: hw.Known(2)}})
		}, []string{"Memory alone, both ways. Keep and add: 40 GB", "€117.96",
			"Replace with equal ones: 32 GB, all interleaved, €125.36"}, nil},
		"a drive in the bay or in a slot, with no other part's price in either": {func(in *Input) {
			in.Request.Goals = hw.Goals{StorageGB: hw.Known(gb(1000)), Wireless: hw.Known[hw.Standard]("wifi6")}
		}, []string{"A drive in the bay: €94.56 and", "In an M.2 slot: €64.56 and"}, nil},
		"a slot that does not reach the wish is no way beside the bay": {func(in *Input) {
			in.Request.Goals = hw.Goals{StorageGB: hw.Known(gb(2000))}
			in.Request.Keep = []string{"dimm1"}
		}, nil, []string{"A drive in the bay"}},
		"a failing boot drive, and memory wanted": {func(in *Input) {
			bootInSlot(in)
			in.Machine.Fitted.Drives[0].Failing = hw.Known(true)
			in.Request.Goals = hw.Goals{MemoryGB: hw.Known(gb(16))}
		}, []string{"note: the drive in m2a is failing: image it before anything else, then replace it", "risk: drive.failing",
			"warning: m2a the drive that stays there is failing"}, nil},
		"a failing boot drive, replaced": {func(in *Input) {
			bootInSlot(in)
			in.Machine.Fitted.Drives[0].Failing = hw.Known(true)
			in.Request.Goals = hw.Goals{StorageGB: hw.Known(gb(250))}
		}, []string{"upgrade", "recommended: m2a: ssd", "data: clone", "image it before anything else"},
			[]string{"risk: drive.failing"}},
		"a spinning drive is no replacement": {func(in *Input) {
			in.Machine.Fitted.Drives[0].Boot = hw.Known(true)
			in.Request.Goals = hw.Goals{StorageGB: hw.Known(gb(1000))}
			in.Parts.Parts[2].Drive.Rotational = hw.Known(true)
		}, []string{"recommended: m2a: ssd"}, []string{"bay: hdd"}},
		"one of two striped drives": {func(in *Input) {
			in.Machine.Fitted.Drives[0].Raid0 = hw.Known(true)
			in.Request.Goals = hw.Goals{StorageGB: hw.Known(gb(1000))}
		}, []string{"note: drives of this machine are one striped volume (RAID 0): they stay; image it first",
			"recommended: m2a: ssd"}, nil},
		"goals out of reach: what is nearer in both": {func(in *Input) {
			in.Request.Goals = hw.Goals{MemoryGB: hw.Known(gb(64)), StorageGB: hw.Known(gb(5000))}
			in.Parts.Parts = in.Parts.Parts[:2]
		}, []string{"partial", "recommended: dimm1: ram; m2a: ssd"}, nil},
		"the pack's health was not read": {func(in *Input) {
			in.Machine.Fitted.Battery.FullWh = hw.Maybe[hw.Dec]{}
			in.Request.Goals = hw.Goals{RuntimeH: hw.Known(gb(5))}
		}, []string{"not_known", "unmet: machine.not_known", "Read its full capacity", "machine:/fitted/battery/full_wh"},
			[]string{"no battery that can be had"}},
		"a socket that is tied to no step": {func(in *Input) {
			in.Chassis.Memory.Sockets[0].Reach = ""
			in.Request.Goals = hw.Goals{MemoryGB: hw.Known(gb(16))}
		}, []string{"risk: reach.not_recorded", "which step gives access to dimm1 is not recorded",
			"dimm1, way in is not recorded"}, nil},
	} {
		in := base()
		c.change(&in)
		got := inWords(in, made(t, in))
		for _, want := range c.want {
			if !strings.Contains(got, want) {
				t.Errorf("%s: it does not say %q:\n%s", name, want, got)
			}
		}
		for _, not := range c.not {
			if strings.Contains(got, not) {
				t.Errorf("%s: it says %q:\n%s", name, not, got)
			}
		}
	}
}

// TestReachableSum: two sockets of 48 GB hold 96, whatever the largest module made is.
func TestReachableSum(t *testing.T) {
	in := base()
	socketed(&in)
	for i := range in.Chassis.Memory.Sockets {
		in.Chassis.Memory.Sockets[i].MaxModule = hw.Known(gb(48))
	}
	in.Chassis.Memory.Type = hw.Known[hw.MemoryType]("DDR5")
	in.Chassis.Memory.Limits.Maker = hw.Known(gb(128))
	in.Machine.Fitted.Memory = []hw.FittedModule{}
	if p := made(t, in); len(p.Notes) == 0 || !strings.Contains(p.Notes[0].Text, "2 × 48 = 96 GB") {
		t.Errorf("%v", p.Notes)
	}
}

// TestNothingVanishes: each part of a kind that is wanted is in an option, among the rejected, or said to be in none.
func TestNothingVanishes(t *testing.T) {
	cases := uint64(400)
	if testing.Short() {
		cases = 60
	}
	for seed := range cases {
		in := newGen(seed).input(12)
		p, err := Make(t.Context(), in)
		if err != nil {
			t.Fatal(err)
		}
		if len(p.Options) == 0 {
			continue
		}
		said := map[string]bool{}
		for _, r := range p.Rejected {
			said[r.Part] = true
		}
		for _, o := range p.Options {
			for _, b := range o.Buy {
				said[b.Part] = true
			}
		}
		why, err := NewExplainer(in)
		if err != nil {
			t.Fatal(err)
		}
		for _, v := range why.Unused(p) {
			if said[v.Place] || v.Text == "" {
				t.Errorf("seed %d: %s is said twice, or without a reason", seed, v.Place)
			}
			said[v.Place] = true
		}
		s, err := newSearch(in)
		if err != nil {
			t.Fatal(err)
		}
		for i := range in.Parts.Parts {
			x := &in.Parts.Parts[i]
			if k := kindIndex(x.Kind); k != kNone && s.wanted[k] && s.takesPart(x) && !said[x.ID] {
				t.Errorf("seed %d: %s has vanished", seed, x.ID)
			}
		}
	}
}

// TestUnusedReasons: where a part is said to give no more than what is there, or to be dearer than the budget, plain
// enumeration finds no complete option with it alone of its kind that gives more; and each of the reasons turns up.
func TestUnusedReasons(t *testing.T) {
	cases := uint64(1500)
	if testing.Short() {
		cases = 150
	}
	turns := map[string]int{"the budget is": 0, "no more than is in it": 0, "no more than what it would replace": 0,
		"are in use on the drive": 0, "lasts no longer": 0, "no faster there": 0, "no option with it is better": 0}
	for seed := range cases {
		in := newGen(seed).input(9)
		why, err := NewExplainer(in)
		if err != nil {
			t.Fatal(err)
		}
		p, err := Make(t.Context(), in)
		if err != nil {
			t.Fatal(err)
		}
		if p.Verdict == Stop || p.Verdict == Enough || p.Verdict == ServiceOnly {
			continue
		}
		list := why.Unused(p)
		if len(list) == 0 {
			continue
		}
		gains := gainsAlone(t, in)
		for _, v := range list {
			known := false
			for turn := range turns {
				if strings.Contains(v.Text, turn) {
					turns[turn]++
					known = true
				}
			}
			if !known || gains[v.Place] && !strings.Contains(v.Text, "no option with it is better") {
				t.Errorf("seed %d: %s: %s", seed, v.Place, v.Text)
			}
		}
	}
	for turn, n := range turns {
		if n == 0 && !testing.Short() {
			t.Errorf("no part was said: %s", turn)
		}
	}
}

// gainsAlone are the parts with which, and with no other part of their kind, a complete combination gives more of their
// kind than the machine has today.
func gainsAlone(t *testing.T, in Input) map[string]bool {
	t.Helper()
	_, all := enumerate(t, in)
	s, err := newSearch(in)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]bool{}
	for i := range all {
		if all[i].missing {
			continue
		}
		var of [kinds][]string
		for _, c := range all[i].choice {
			if c < remove {
				k := kindIndex(s.parts[c].Kind)
				if id := s.parts[c].ID; !slices.Contains(of[k], id) {
					of[k] = append(of[k], id)
				}
			}
		}
		values := &all[i].values
		more := [kinds]bool{
			kMemory:   -values[3] > capped(s.todayMemory, s.goals.MemoryGB),
			kDrive:    -values[4] > capped(s.todayStorage, s.goals.StorageGB),
			kWireless: -values[6] > int64(wireless.Effective(s.todayWifi, s.practice.AccessPoint)),
		}
		if s.todayRuntime != nil {
			today, _ := s.todayRuntime.Float64()
			more[kBattery] = -values[5] > int64(min(today, 2*s.goals.RuntimeH.Or(0).Float())*1e9)
		}
		for k := range kinds {
			if more[k] && len(of[k]) == 1 {
				out[of[k][0]] = true
			}
		}
	}
	return out
}
