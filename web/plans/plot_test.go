package plans

import (
	"fmt"
	"math"
	"math/rand/v2"
	"net/url"
	"testing"
	"yembo/shop/jobs"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/web/form"
)

// TestPlot: whatever the options cost and bring, each lies inside the axes, and no name
// lies on another.
func TestPlot(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 9))
	for range 300 {
		p := &jobs.Planned{Plan: &plan.Plan{}, Request: &hw.Request{}}
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
	if drawPlot(&jobs.Planned{Plan: &plan.Plan{}, Request: &hw.Request{}}, nil, 0, nil, nil) != nil {
		t.Error("no option is plotted")
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
