package plan

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"yembo/core/hw"
)

// doing is what an option does, place by place, as Own is told it.
func doing(o *Option) map[string]string {
	at := map[string]string{}
	for _, a := range o.Actions {
		switch a.Do {
		case DoKeep:
		case DoRemove:
			at[a.Place] = Removed
		default:
			at[a.Place] = a.Part
		}
	}
	return at
}

// checkSum holds "cover 3 + fan 1.5 = 4.5 min" to what it says.
func checkSum(t *testing.T, text string) {
	t.Helper()
	terms, total, ok := strings.Cut(strings.TrimSuffix(text, " min"), " = ")
	var sum hw.Dec
	for _, term := range strings.Split(terms, " + ") {
		d, err := hw.ParseDec(term[strings.LastIndexByte(term, ' ')+1:])
		if err != nil {
			t.Errorf("%q: %v", text, err)
		}
		sum += d
	}
	if want := sum.Tenths().String(); !ok || total != want {
		t.Errorf("%q adds up to %s", text, want)
	}
}

// TestOwnIsLikeTheOptions: an option that is made by hand has the figures of the plan's
// own, with nothing against it; its arithmetic ends in its figures.
func TestOwnIsLikeTheOptions(t *testing.T) {
	seen := 0
	for seed := range uint64(1000) {
		in := newGen(seed).input(6)
		p, err := Make(t.Context(), in)
		if err != nil {
			t.Fatal(err)
		}
		explainer, err := NewExplainer(in)
		if err != nil {
			t.Fatal(err)
		}
		for i := range p.Options {
			o := p.Options[i]
			own, faults, err := Own(t.Context(), in, doing(&o))
			// What an option has missing is all that is said against it.
			missing := func(v hw.Verdict) bool { return v.Code == hw.CodeMissing }
			if len(o.Missing) > 0 && len(faults) == len(o.Missing) {
				faults = slices.DeleteFunc(faults, missing)
			}
			if err != nil || len(faults) > 0 {
				t.Errorf("seed %d, %s: %v %v", seed, o.ID, faults, err)
				continue
			}
			own.ID = o.ID
			a, _ := json.Marshal(o)
			b, _ := json.Marshal(own)
			if string(a) != string(b) {
				t.Errorf("seed %d\n%s\nby hand\n%s", seed, a, b)
			}
			sum := explainer.Explain(&o)
			if last := sum.Cost[len(sum.Cost)-1].Sum; !strings.HasSuffix(last,
				fmt.Sprintf("%d.%02d", o.TotalCents/100, o.TotalCents%100)) {
				t.Errorf("seed %d: %s is not %d cents", seed, last, o.TotalCents)
			}
			if !slices.Contains(sum.Minutes, Term{"Total", o.Minutes.String() + " min"}) {
				t.Errorf("seed %d: %v is not %s min", seed, sum.Minutes, o.Minutes)
			}
			if total := sum.Memory[0].Sum; o.Memory != nil && o.Memory.TotalGB > 0 &&
				!strings.HasSuffix(total, o.Memory.TotalGB.String()+" GB") {
				t.Errorf("seed %d: %s is not %s GB", seed, total, o.Memory.TotalGB)
			}
			if way := sum.Minutes[0]; way.What == "Disassembly" {
				checkSum(t, way.Sum)
			}
			seen++
		}
	}
	if seen < 200 {
		t.Errorf("only %d options were looked at", seen)
	}
}

// TestAskIsLikeTheRejections: what a plan rejects, and why, is what asking about the part
// says; a part that some option uses fits somewhere.
func TestAskIsLikeTheRejections(t *testing.T) {
	rejected, used, warned := 0, 0, 0
	for seed := range uint64(600) {
		in := newGen(seed).input(6)
		p, err := Make(t.Context(), in)
		if err != nil {
			t.Fatal(err)
		}
		for i := range in.Parts.Parts {
			part := in.Parts.Parts[i]
			var want, got []string
			for _, r := range p.Rejected {
				if r.Part == part.ID {
					want = append(want, r.Place+" "+string(r.Code)+" "+r.Text+r.Step)
				}
			}
			verdicts, err := Ask(t.Context(), in, part)
			if err != nil {
				t.Fatal(err)
			}
			fits := false
			for _, v := range verdicts {
				fits, warned = fits || v.Fits(), warned+len(v.Warnings)
				if !v.Fits() && len(v.Warnings) > 0 {
					t.Errorf("seed %d: %s is refused in %s and warns: %v", seed, part.ID, v.Place, v.Warnings)
				}
				got = append(got, v.Place+" "+string(v.Code)+" "+v.Text+v.Step)
			}
			// Whether a battery is wanted decides what can be emptied for it: asked by
			// itself, its kind counts as wanted and no other does.
			if len(want) > 0 && strings.Join(got, "; ") != strings.Join(want, "; ") &&
				!strings.Contains(strings.Join(append(got, want...), ""), "stays in use") {
				t.Errorf("seed %d, %s: asked it is %v, the plan says %v", seed, part.ID, got, want)
			}
			rejected += len(want)
			for _, o := range p.Options {
				if slices.ContainsFunc(o.Buy, func(b Buy) bool { return b.Part == part.ID }) &&
					part.Kind != hw.KindAccessory {
					if used++; !fits {
						t.Errorf("seed %d: %s is in an option, and asked it fits nowhere", seed, part.ID)
					}
				}
			}
		}
	}
	if rejected < 100 || used < 100 || warned < 100 {
		t.Errorf("only %d rejections, %d uses and %d warnings were looked at", rejected, used, warned)
	}
}

// TestOwnFaults: what the rules have against a combination is said, and its figures are
// worked out all the same.
func TestOwnFaults(t *testing.T) {
	in := newGen(3).input(0)
	in.Chassis = &hw.Chassis{ID: "c", Kind: "notebook",
		Memory: &hw.Memory{Type: hw.Known[hw.MemoryType]("DDR4"), Channels: hw.Known(2), Soldered: []hw.Soldered{},
			Sockets: []hw.Socket{{ID: "d0", Channel: "A", Form: "SO-DIMM"}, {ID: "d1", Channel: "B", Form: "SO-DIMM"}},
			Limits:  hw.Limits{Maker: hw.Known(gb(16))}},
		Slots: []hw.Slot{{ID: "m2", Purpose: "storage", Key: hw.Known("M"), Protocols: []hw.Interface{"nvme"},
			Lengths: map[string]string{"80": "fitted"}}},
		Bays: []hw.Bay{{ID: "bay", Form: "2.5in", Height: hw.Known(hw.DecOf(7)),
			Interface: hw.Known[hw.Interface]("sata"), Connector: hw.Known("present"),
			Excludes: []string{"battery:large"}}},
		Batteries: []hw.Battery{{ID: "large", DesignWh: hw.Known(hw.DecOf(70)), NominalV: hw.Known(hw.DecOf(11)),
			Series: hw.Known(3), PartNumbers: []string{"L"}}}}
	in.Machine = &hw.Machine{ID: "m", Chassis: "c", Variant: []string{},
		Fitted: hw.Fitted{Memory: []hw.FittedModule{},
			Drives: []hw.FittedDrive{{Place: "m2", Drive: hw.Drive{Interface: "nvme", Capacity: hw.Known(gb(256))},
				Boot: hw.Known(true)}}}}
	module := func(n int) *hw.Module {
		return &hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(gb(n)), Speed: hw.Known(3200),
			Ranks: hw.Known(1)}
	}
	in.Parts = &hw.Parts{Currency: "EUR", Parts: []hw.Part{
		{ID: "m8", Kind: hw.KindMemory, Name: "8 GB", PriceCents: 1000, Stock: hw.Known(1), Memory: module(8)},
		{ID: "m16", Kind: hw.KindMemory, Name: "16 GB", PriceCents: 2000, Stock: hw.Known(2), Memory: module(16)},
		{ID: "sata", Kind: hw.KindDrive, Name: "SATA", PriceCents: 3000, Stock: hw.Known(1),
			Drive: &hw.Drive{Interface: "sata", Key: hw.Known("B+M"), Length: hw.Known(80),
				Capacity: hw.Known(gb(500))}},
		{ID: "disk", Kind: hw.KindDrive, Name: "Disk", PriceCents: 3000, Stock: hw.Known(1),
			Drive: &hw.Drive{Interface: "sata", Form: "2.5in", Height: hw.Known(hw.DecOf(7)),
				Capacity: hw.Known(gb(500))}},
		{ID: "pack", Kind: hw.KindBattery, Name: "Pack", PriceCents: 5000, Stock: hw.Known(1),
			Battery: &hw.Pack{PartNumber: "L", DesignWh: hw.Known(hw.DecOf(70)), NominalV: hw.Known(hw.DecOf(11)),
				Series: hw.Known(3)}}}}
	in.Request = &hw.Request{Goals: hw.Goals{MemoryGB: hw.Known(gb(16))}, BudgetCents: hw.Known[int64](20_000)}
	for name, c := range map[string]struct {
		at   map[string]string
		want []string
	}{
		"sound":              {map[string]string{"d0": "m16"}, nil},
		"nothing":            {map[string]string{"d0": "keep"}, []string{string(hw.CodeNothing)}},
		"past the limit":     {map[string]string{"d0": "m16", "d1": "m8"}, []string{"memory.over_limit"}},
		"more than in stock": {map[string]string{"d0": "m8", "d1": "m8"}, []string{string(hw.CodeStock)}},
		"refused by a slot":  {map[string]string{"m2": "sata"}, []string{"m2.protocol"}},
		"one beside another": {map[string]string{"bay": "disk", "battery": "pack"}, []string{"excluded"}},
		"the boot drive out": {map[string]string{"m2": "remove", "d0": "m8"}, []string{"drive.boot_replaced"}},
		"of another kind": {map[string]string{"d0": "disk"},
			[]string{string(hw.CodeNoPart), string(hw.CodeNothing)}},
		"too dear": {map[string]string{"d0": "m16", "d1": "m16", "battery": "pack", "m2": "sata"},
			[]string{"m2.protocol", "memory.over_limit"}},
	} {
		o, faults, err := Own(t.Context(), in, c.at)
		if err != nil {
			t.Fatal(err)
		}
		var codes []string
		for _, f := range faults {
			codes = append(codes, string(f.Code))
			if f.Text == "" {
				t.Errorf("%s: %s without words", name, f.Code)
			}
		}
		if len(codes) != len(c.want) {
			t.Errorf("%s: %v, want %v", name, faults, c.want)
			continue
		}
		for i, want := range c.want {
			if !strings.HasSuffix(codes[i], want) {
				t.Errorf("%s: %v, want %v", name, codes, c.want)
			}
		}
		if name == "sound" && (o.TotalCents != 2000 || o.Memory.TotalGB != gb(16) || !o.MeetsAll) {
			t.Errorf("%s: %+v", name, o)
		}
	}
}

// TestPinnedAndForbidden: every option uses what is pinned, none what is forbidden.
func TestPinnedAndForbidden(t *testing.T) {
	pinned := 0
	for seed := range uint64(500) {
		in := newGen(seed).input(6)
		p, err := Make(t.Context(), in)
		if err != nil || len(p.Options) == 0 || len(p.Options[0].Buy) == 0 {
			continue
		}
		part := p.Options[len(p.Options)-1].Buy[0].Part
		in.Pinned = []string{part}
		with, err := Make(t.Context(), in)
		if err != nil {
			t.Fatal(err)
		}
		in.Pinned, in.Forbidden = nil, []string{part}
		without, err := Make(t.Context(), in)
		if err != nil {
			t.Fatal(err)
		}
		buys := func(o Option) bool { return slices.ContainsFunc(o.Buy, func(b Buy) bool { return b.Part == part }) }
		for _, o := range with.Options {
			if pinned++; !buys(o) {
				t.Errorf("seed %d: %s is pinned, %s does without", seed, part, o.ID)
			}
		}
		for _, o := range without.Options {
			if buys(o) {
				t.Errorf("seed %d: %s is forbidden, %s uses it", seed, part, o.ID)
			}
		}
	}
	if pinned < 50 {
		t.Errorf("only %d options with a pinned part", pinned)
	}
}
