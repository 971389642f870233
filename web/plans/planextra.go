package plans

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"yembo/shop/jobs"

	"yembo/core/hw"
	"yembo/core/plan"
)

// plot is the kept options, cost against gain.
type plot struct {
	W, H     float64
	Points   []plotPoint
	XTicks   []plotTick
	YTicks   []plotTick
	BudgetX  float64 // 0 where there is none, or it lies outside
	TodayX   float64
	TodayY   float64
	Caption  string
	EqualX   float64 // where the recommended option's cost with its risk lies, 0 for none
	Equal    string
	PlotLeft float64
	Bottom   float64
	Right    float64
}

type plotPoint struct {
	X, Y     float64
	Letter   string  // of its column, "" where it has none
	AtX, AtY float64 // where its option really lies, where the point had to give way
	Href     string
	Title    string
	Rival    bool      // it is compared with the recommended one
	Best     bool      // it is that
	Tail     float64   // where what its risk is worth ends
	Ticks    []float64 // a point of risk each
}

type plotTick struct {
	At    float64
	Label string
}

// drawPlot lays the options out: euros to the right, reached ÷ goal upwards.
func drawPlot(p *jobs.Planned, gains map[string]hw.Dec, today hw.Dec, letters map[string]string,
	link func(o *plan.Option) string) *plot {
	if len(p.Plan.Options) == 0 || today == 0 && len(gains) == 0 {
		return nil
	}
	const left, top, right, bottom = 34.0, 34.0, 500.0, 220.0
	v := &plot{W: 520, H: 256, PlotLeft: left, Bottom: bottom, Right: right}
	worth := p.Request.Practice.RiskCents.Or(hw.UsualRiskCents)
	rivals := map[string]bool{}
	for _, o := range p.Plan.Rivals() {
		rivals[o.ID] = true
	}
	most := int64(0)
	low, high := today.Float(), today.Float()
	for i := range p.Plan.Options {
		o := &p.Plan.Options[i]
		if most = max(most, o.TotalCents); o.ID == p.Plan.Picks.Recommended {
			most = max(most, o.WithRisk(worth))
		}
		g := gains[o.ID].Float()
		low, high = math.Min(low, g), math.Max(high, g)
	}
	budget, limited := p.Request.BudgetCents.Get()
	if limited && budget < most*3 {
		most = max(most, budget)
	}
	step := niceStep(float64(most)/100, 6)
	end := math.Max(math.Ceil(float64(most)/100/step)*step, step)
	x := func(cents int64) float64 { return left + float64(cents)/100/end*(right-left) }
	if high-low < 0.2 {
		high = low + 0.2
	}
	yStep := niceStep(high-low, 4)
	floor, ceil := math.Floor(low/yStep)*yStep, math.Ceil(high/yStep)*yStep
	y := func(g float64) float64 { return bottom - (g-floor)/(ceil-floor)*(bottom-top) }
	for at := 0.0; at <= end+step/100; at += step {
		v.XTicks = append(v.XTicks, plotTick{left + at/end*(right-left), fmt.Sprintf("%g", at)})
	}
	for at := floor; at <= ceil+yStep/100; at += yStep {
		v.YTicks = append(v.YTicks, plotTick{y(at), fmt.Sprintf("%.3g", at)})
	}
	v.TodayX, v.TodayY = x(0), y(today.Float())
	if limited && float64(budget)/100 <= end {
		v.BudgetX = x(budget)
	}
	for i := range p.Plan.Options {
		o := &p.Plan.Options[i]
		pt := plotPoint{X: x(o.TotalCents), Y: y(gains[o.ID].Float()), Letter: letters[o.ID], Href: link(o),
			Title: fmt.Sprintf("%s: %s, reached ÷ goal %s", p.Words(o),
				hw.Money(p.Settings.Currency, o.TotalCents), gains[o.ID])}
		pt.AtX, pt.AtY = pt.X, pt.Y
		if pt.Rival, pt.Best = rivals[o.ID], o.ID == p.Plan.Picks.Recommended; pt.Rival {
			pt.Tail = math.Min(x(o.WithRisk(worth)), right)
			for n := 1; n <= o.Risk.Points; n++ {
				if at := x(o.TotalCents + worth*int64(n)); at <= right {
					pt.Ticks = append(pt.Ticks, at)
				}
			}
		}
		if pt.Best {
			v.EqualX, v.Equal = x(o.WithRisk(worth)), hw.Money(p.Settings.Currency, o.WithRisk(worth))
		}
		v.Points = append(v.Points, pt)
	}
	v.giveWay()
	v.Caption = "Gain: reached ÷ asked, added up; today " + today.String() + ". Total cost, without tax"
	return v
}

// giveWay moves the points with letters apart until none lies on another or on today's
// mark, and puts them last, so that they are drawn above the others.
func (v *plot) giveWay() {
	const room = 17.0
	type spot struct{ x, y float64 }
	taken := []spot{{v.TodayX, v.TodayY}}
	free := func(x, y float64) bool {
		for _, t := range taken {
			if math.Hypot(t.x-x, t.y-y) < room {
				return false
			}
		}
		return x <= v.Right+8 && x >= v.PlotLeft && y >= 6 && y <= v.Bottom
	}
	for i := range v.Points {
		pt := &v.Points[i]
		if pt.Letter == "" {
			continue
		}
		// Places around the true one, nearest first.
	search:
		for ring := 0; ring < 5; ring++ {
			for turn := range 8 {
				a := math.Pi / 4 * float64(turn)
				x, y := pt.AtX+room*float64(ring)*math.Cos(a), pt.AtY-room*float64(ring)*math.Sin(a)
				if free(x, y) {
					pt.X, pt.Y = x, y
					break search
				}
			}
		}
		taken = append(taken, spot{pt.X, pt.Y})
	}
	slices.SortStableFunc(v.Points, func(a, b plotPoint) int { return strings.Compare(a.Letter, b.Letter) })
}

// niceStep is a round step that gives about n steps over a span.
func niceStep(span float64, n int) float64 {
	raw := span / float64(n)
	if raw <= 0 {
		return 1
	}
	unit := math.Pow(10, math.Floor(math.Log10(raw)))
	for _, k := range []float64{1, 2, 2.5, 5, 10} {
		if unit*k >= raw {
			return unit * k
		}
	}
	return unit * 10
}
