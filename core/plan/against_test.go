package plan

import (
	"fmt"
	"strings"
	"testing"

	"yembo/core/hw"
)

// TestAgainst: what an option gives and takes against another, in signed figures, and nothing that is the same or not
// known of either.
func TestAgainst(t *testing.T) {
	known := func(n int) hw.Maybe[hw.Dec] { return hw.Known(gb(n)) }
	a := Option{TotalCents: 24184, Risk: Risk{Points: 1}, Minutes: gb(28), ReadyInDays: hw.Known(7),
		Memory: &MemoryState{TotalGB: gb(24), Bandwidth: known(51)}, Storage: &StorageState{TotalGB: gb(1000)},
		Battery: &BatteryState{RuntimeH: known(7)}, Wireless: &WirelessState{Standard: hw.Known[hw.Standard]("wifi5")}}
	for name, c := range map[string]struct {
		change func(o *Option)
		want   string
	}{
		"the same": {func(o *Option) {}, "gives [] takes []"},
		"cheaper and riskier, slower memory": {func(o *Option) {
			o.TotalCents, o.Risk.Points, o.Memory = 22194, 4, &MemoryState{TotalGB: gb(24), Bandwidth: known(38)}
		}, "gives [−€19.90 less to pay] takes [+3 risk points; −13 GB/s of memory]"},
		"more of everything, later": {func(o *Option) {
			o.TotalCents, o.Risk.Points, o.Minutes, o.ReadyInDays = 28454, 0, gb(32), hw.Known(9)
			o.Storage, o.Battery = &StorageState{TotalGB: gb(1500)}, &BatteryState{RuntimeH: known(8)}
			o.Wireless = &WirelessState{Standard: hw.Known[hw.Standard]("wifi6")}
		}, "gives [−1 risk point; +500 GB of storage; +1 h on the battery; Wi-Fi 6 in place of Wi-Fi 5] " +
			"takes [+€42.70 more to pay; +4 min of work; +2 days]"},
		"all in stock": {func(o *Option) { o.ReadyInDays = hw.Known(0) }, "gives [−7 days: all in stock] takes []"},
		"nobody says when": {func(o *Option) { o.ReadyInDays = hw.Maybe[int]{} },
			"gives [] takes [ arrival date not known]"},
		"not known is not compared": {func(o *Option) {
			o.Battery, o.Storage, o.Memory = nil, nil, &MemoryState{TotalGB: gb(24)}
			o.Wireless = &WirelessState{}
		}, "gives [] takes []"},
		"a longer runtime that is a least figure": {func(o *Option) {
			o.Battery = &BatteryState{RuntimeH: known(9), AtLeast: true}
		}, "gives [+2 h on the battery, at least] takes []"},
		"a shorter one that is a least figure may be the longer": {func(o *Option) {
			o.Battery = &BatteryState{RuntimeH: known(5), AtLeast: true}
		}, "gives [] takes []"},
	} {
		o := a
		c.change(&o)
		words := func(list []Gain) string {
			var out []string
			for _, g := range list {
				out = append(out, g.Figure+" "+g.Of)
			}
			return strings.Join(out, "; ")
		}
		gives, takes := Against(&o, &a, "EUR")
		if got := fmt.Sprintf("gives [%s] takes [%s]", words(gives), words(takes)); got != c.want {
			t.Errorf("%s: %s", name, got)
		}
	}
}

// TestWorthSpan: within the range the recommended option stays it, and beyond its ends what is named is recommended.
func TestWorthSpan(t *testing.T) {
	cases, ends := uint64(1500), 0
	if testing.Short() {
		cases = 80
	}
	for seed := range cases {
		in := newGen(seed).input(12)
		p, err := Make(t.Context(), in)
		if err != nil {
			t.Fatal(err)
		}
		if len(p.Rivals()) < 2 {
			continue
		}
		at := func(cents int64) string {
			again := in
			req := *in.Request
			req.Practice.RiskCents = hw.Known(cents)
			again.Request = &req
			other, err := Make(t.Context(), again)
			if err != nil {
				t.Fatal(err)
			}
			return other.Picks.Recommended
		}
		span, best := p.WorthSpan(), p.Picks.Recommended
		if span.Below != "" {
			ends++
			if span.From < span.To && at(span.From+1) != best || at(span.From-1) == best {
				t.Errorf("seed %d: from %d on %s is recommended: %+v", seed, span.From, best, span)
			}
		}
		if span.Above != "" {
			ends++
			if span.To > span.From && at(span.To-1) != best || span.To < hw.MostRiskCents && at(span.To+1) == best {
				t.Errorf("seed %d: up to %d %s is recommended: %+v", seed, span.To, best, span)
			}
		}
	}
	if ends < 20 && !testing.Short() {
		t.Errorf("only %d ends were tried", ends)
	}
}

// TestWorthFetching: a fact that could change the plan is named once, with what knowing it could change.
func TestWorthFetching(t *testing.T) {
	in := base()
	socketed(&in)
	in.Machine.Fitted.Battery.FullWh = hw.Maybe[hw.Dec]{}
	in.Chassis.Slots[0].Key = hw.Maybe[string]{}
	in.Request.Goals.RuntimeH, in.Request.Goals.StorageGB = hw.Known(gb(5)), hw.Known(gb(1000))
	ssd := base().Parts.Parts[1]
	in.Parts.Parts = append(in.Parts.Parts, ssd)
	in.Chassis.Findings = []hw.Finding{{Path: "/memory/type", Value: []byte(`"DDR4"`), Source: "seller"}}
	got := map[string]Fetch{}
	why, err := NewExplainer(in)
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range why.WorthFetching(made(t, in)) {
		if _, twice := got[x.Fact]; twice || x.About == "" || x.Could == "" {
			t.Errorf("%+v", x)
		}
		got[x.Fact] = x
	}
	for fact, could := range map[string]string{
		"machine:/usage/memory_peak_gb":   "up to 6.4 GB no more memory is needed",
		"machine:/fitted/battery/full_wh": "makes a new one last longer",
		"chassis:/memory/limits/maker_gb": "the limit is inferred, 16 GB",
		"chassis:/slots/0/key":            "1 more part may fit",
		"chassis:/memory/type":            "a point of risk less",
	} {
		if !strings.Contains(got[fact].Could, could) {
			t.Errorf("%s: %q does not say %q", fact, got[fact].Could, could)
		}
	}
}
