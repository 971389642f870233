package web

import (
	"fmt"
	"math"
	"math/rand/v2"
	"net/url"
	"testing"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/shop"
	"yembo/web/draw"
	"yembo/web/form"
)

// TestPlot: whatever the options cost and bring, each lies inside the axes, and no name
// lies on another.
func TestPlot(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 9))
	for range 300 {
		p := &shop.Planned{Plan: &plan.Plan{}, Request: &hw.Request{}}
		p.Settings.Currency, p.Parts, p.Record.Chassis = "EUR", &hw.Parts{}, &hw.Chassis{}
		gains := map[string]hw.Dec{}
		letters := map[string]string{}
		scale := math.Pow(10, float64(r.IntN(5)))
		for i := range 1 + r.IntN(40) {
			o := plan.Option{ID: fmt.Sprintf("o%d", i+1), TotalCents: int64(r.Float64() * 100 * scale)}
			gains[o.ID] = hw.DecOf(r.IntN(60)) / 10
			if i < 3 {
				letters[o.ID] = string(rune('A' + i))
			}
			p.Plan.Options = append(p.Plan.Options, o)
		}
		if r.IntN(2) == 0 {
			p.Request.BudgetCents = hw.Known(int64(r.Float64() * 200 * scale))
		}
		v := drawPlot(p, gains, hw.DecOf(r.IntN(30))/10, letters,
			func(o *plan.Option) string { return "?with=" + o.Key() })
		if v.TodayY < 5 || v.TodayY > v.Bottom+1 || v.BudgetX > v.Right+1 || len(v.XTicks) < 2 || len(v.XTicks) > 8 ||
			len(v.YTicks) < 2 || len(v.YTicks) > 8 {
			t.Errorf("axes: %+v", v)
		}
		for i, a := range v.Points {
			if a.X < v.PlotLeft-1 || a.X > v.Right+9 || a.Y < 5 || a.Y > v.Bottom+1 || a.Title == "" || a.Href == "" {
				t.Errorf("%+v lies outside", a)
			}
			for _, b := range v.Points[:i] {
				if a.Letter != "" && b.Letter != "" && math.Hypot(a.X-b.X, a.Y-b.Y) < 16 {
					t.Errorf("%s lies on %s", a.Letter, b.Letter)
				}
			}
		}
	}
	if drawPlot(&shop.Planned{Plan: &plan.Plan{}, Request: &hw.Request{}}, nil, 0, nil, nil) != nil {
		t.Error("no option is plotted")
	}
}

// TestLinkBars: lanes in use and idle are drawn, what holds a drive back is said.
func TestLinkBars(t *testing.T) {
	p := &shop.Planned{Parts: &hw.Parts{Parts: []hw.Part{{ID: "fast", Kind: hw.KindDrive,
		Drive: &hw.Drive{Interface: "nvme", Gen: hw.Known(4), Lanes: hw.Known(4), Capacity: hw.Known(hw.DecOf(2000)),
			ReadMBs: hw.Known(hw.DecOf(5000))}}}}}
	p.Record.Chassis = &hw.Chassis{Slots: []hw.Slot{{ID: "m2a", Gen: hw.Known(3), Lanes: hw.Known(2)}, {ID: "m2b"}},
		Bays: []hw.Bay{{ID: "bay"}}}
	p.Record.Machine = &hw.Machine{Fitted: hw.Fitted{Drives: []hw.FittedDrive{{Place: "m2a",
		Drive: hw.Drive{Interface: "nvme", Lanes: hw.Known(2), Capacity: hw.Known(hw.DecOf(256)),
			ReadMBs: hw.Known(hw.DecOf(1500))}},
		{Place: "bay", Drive: hw.Drive{Interface: "sata", Capacity: hw.Known(hw.DecOf(1000))}},
		{Place: "m2b", Drive: hw.Drive{Interface: "nvme"}}}}}
	links := []plan.Link{{Place: "m2a", Gen: hw.Known(3), Lanes: hw.Known(2), LinkMBs: hw.Known(1969),
		ReadMBs: hw.Known(hw.DecOf(1500))}, {Place: "bay", LinkMBs: hw.Known(600)}, {Place: "m2b"}}
	today := draw.LinksOf(p.Input(), &plan.StorageState{Links: links}, nil)
	for i, want := range []draw.Link{{Drive: "256 GB", Label: "gen 3 ×2", Sub: "1500 MB/s: the drive's own speed"},
		{Drive: "1 TB", Label: "SATA", Sub: "link 600 MB/s; the drive's speed was not told"},
		{Drive: "?", Label: "not known", Sub: "its link is not yet known"}} {
		if got := today[i]; got.Drive != want.Drive || got.Label != want.Label || got.Sub != want.Sub || got.New ||
			got.Held {
			t.Errorf("%+v, want %+v", got, want)
		}
	}
	o := &plan.Option{Actions: []plan.Action{{Do: plan.DoReplace, Place: "m2a", Part: "fast"}}}
	links[0].ReadMBs = hw.Known(hw.DecOf(1969))
	if got := draw.LinksOf(p.Input(), &plan.StorageState{Links: links[:1]}, o)[0]; !got.New || !got.Held ||
		got.Drive != "+2 TB" || len(got.Lanes) != 2 || len(got.Idle) != 2 ||
		got.Sub != "1969 of 5000 MB/s: the link holds it back" {
		t.Errorf("a drive that is held back: %+v", got)
	}
}

// TestStateLinks: a link changes one thing of the address; what is pinned is not
// forbidden at once, and twice is undone.
func TestStateLinks(t *testing.T) {
	st := planState{Form: form.New(url.Values{}),
		values: url.Values{"memory_gb": {"24"}, "ban": {"a", "b"}, "with": {"o1"}}}
	for got, want := range map[string]string{
		st.link("with", "o2"):  "?ban=a&ban=b&memory_gb=24&with=o2",
		st.link("with", ""):    "?ban=a&ban=b&memory_gb=24",
		st.toggle("ban", "a"):  "?ban=b&memory_gb=24&with=o1",
		st.toggle("ban", "c"):  "?ban=a&ban=b&ban=c&memory_gb=24&with=o1",
		st.toggle("pin", "a"):  "?ban=b&memory_gb=24&pin=a&with=o1",
		st.link("own:m2", "x"): "?ban=a&ban=b&memory_gb=24&own%3Am2=x&with=o1",
	} {
		if got != want {
			t.Errorf("%s, want %s", got, want)
		}
	}
}
