package web

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/wireless"
	"yembo/shop"
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
}

type plotTick struct {
	At    float64
	Label string
}

// drawPlot lays the options out: euros to the right, reached ÷ goal upwards.
func drawPlot(p *shop.Planned, gains map[string]hw.Dec, today hw.Dec, letters map[string]string, link func(o *plan.Option) string) *plot {
	if len(p.Plan.Options) == 0 || today == 0 && len(gains) == 0 {
		return nil
	}
	const left, top, right, bottom = 34.0, 12.0, 226.0, 170.0
	v := &plot{W: 240, H: 206, PlotLeft: left, Bottom: bottom, Right: right}
	most := int64(0)
	low, high := today.Float(), today.Float()
	for i := range p.Plan.Options {
		o := &p.Plan.Options[i]
		most = max(most, o.TotalCents)
		g := gains[o.ID].Float()
		low, high = math.Min(low, g), math.Max(high, g)
	}
	budget, limited := p.Request.BudgetCents.Get()
	if limited && budget < most*3 {
		most = max(most, budget)
	}
	step := niceStep(float64(most)/100, 4)
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
			Title: fmt.Sprintf("%s: %s, reached ÷ goal %s", o.Words(p.Record.Chassis, p.Parts), money(p.Settings.Currency, o.TotalCents), gains[o.ID])}
		pt.AtX, pt.AtY = pt.X, pt.Y
		v.Points = append(v.Points, pt)
	}
	v.giveWay()
	v.Caption = "Reached ÷ goal, summed; today " + today.String()
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

// honest says what comes before any option that costs money: what gains nothing, and what
// is not known until something is opened.
func honest(p *shop.Planned) []string {
	var out []string
	ch, m := p.Record.Chassis, p.Record.Machine
	if want, ok := p.Request.Goals.Wireless.Get(); ok {
		if ap, told := p.Request.Practice.AccessPoint.Get(); told && wireless.Rank(ap) < wireless.Rank(want) {
			out = append(out, fmt.Sprintf("The access point has %s: a card with %s gains nothing until it is changed.", hw.Standards.Says(ap), hw.Standards.Says(want)))
		}
	}
	for i := range m.Fitted.Drives {
		f := &m.Fitted.Drives[i]
		for k := range ch.Slots {
			s := &ch.Slots[k]
			slot, okS := s.Gen.Get()
			drive, okD := f.Drive.Gen.Get()
			if s.ID == f.Place && okS && okD && f.Drive.Interface == hw.NVMe && drive >= slot && p.Request.Goals.StorageGB.IsKnown() {
				out = append(out, fmt.Sprintf("A newer generation than %d gains nothing in %s: the slot itself is generation %d.", slot, s.ID, slot))
			}
		}
		used, okU := f.UsedGB.Get()
		size, okG := f.Drive.Capacity.Get()
		if okU && okG && size > 0 && p.Request.Goals.StorageGB.IsKnown() {
			words := fmt.Sprintf("The drive in %s is %d %% full", f.Place, used*100/size)
			if grows, ok := m.Usage.DiskGrowth.Get(); ok && grows > 0 && size > used {
				words += fmt.Sprintf(" and fills by %s GB a month: full in %d months", grows, (size-used)/grows)
			}
			out = append(out, words+".")
		}
	}
	said := map[string]bool{}
	for _, r := range p.Plan.Rejected {
		if r.Code != "unknown" || r.Step == "" || said[r.Step+r.Place] {
			continue
		}
		said[r.Step+r.Place] = true
		if i := ch.StepByID(r.Step); i >= 0 && len(said) <= 3 {
			out = append(out, fmt.Sprintf("Not known of %s until this is done: %s.", r.Place, hw.LowerFirst(bareStep(ch, &ch.Steps[i]))))
		}
	}
	return out
}

// bothWays says, where two ways are sound, what each costs and gains, in two sentences.
func bothWays(p *shop.Planned) []string {
	var out []string
	cur := p.Settings.Currency
	cheapest := func(is func(o *plan.Option) bool) *plan.Option {
		for i := range p.Plan.Options {
			if o := &p.Plan.Options[i]; is(o) && len(o.Missing) == 0 {
				return o
			}
		}
		return nil
	}
	memoryDoes := func(o *plan.Option, do string) bool {
		for _, a := range o.Actions {
			if a.Do == do && p.Record.Chassis.SocketByID(a.Place) >= 0 {
				return true
			}
		}
		return false
	}
	keep := cheapest(func(o *plan.Option) bool { return memoryDoes(o, plan.DoAdd) && !memoryDoes(o, plan.DoReplace) })
	pair := cheapest(func(o *plan.Option) bool {
		return memoryDoes(o, plan.DoReplace) && o.Memory != nil && o.Memory.Mode.Or("") == "dual"
	})
	if keep != nil && pair != nil && keep.ID != pair.ID {
		line, _ := memoryWords(keep.Memory)
		other, _ := memoryWords(pair.Memory)
		out = append(out, fmt.Sprintf("Keep and add (%s): %s. Replace with equal ones (%s): %s; by practice %s.", money(cur, keep.TotalCents), line,
			money(cur, pair.TotalCents), other, hw.Pairings.Says(p.Request.Practice.Pairing.Or(hw.PairAny))))
	}
	inBay := func(o *plan.Option, bay bool) bool {
		for _, a := range o.Actions {
			if a.Part == "" || a.Do == plan.DoKeep {
				continue
			}
			if i := p.Record.Chassis.BayByID(a.Place); i >= 0 && bay {
				return true
			}
			if i := p.Record.Chassis.SlotByID(a.Place); i >= 0 && !bay && p.Record.Chassis.Slots[i].Purpose == hw.ForStorage {
				return true
			}
		}
		return false
	}
	bay, slot := cheapest(func(o *plan.Option) bool { return inBay(o, true) && !inBay(o, false) }), cheapest(func(o *plan.Option) bool { return inBay(o, false) && !inBay(o, true) })
	if bay != nil && slot != nil {
		out = append(out, fmt.Sprintf("A drive in the bay: %s and %s min, and the bay is taken. In an M.2 slot: %s and %s min, and the bay stays free for a pack or a second drive.",
			money(cur, bay.TotalCents), bay.Minutes, money(cur, slot.TotalCents), slot.Minutes))
	}
	if o := cheapest(func(o *plan.Option) bool { return o.Migration != nil }); o != nil {
		minutes := "its minutes are not known"
		if m, ok := o.Migration.Minutes.Get(); ok {
			minutes = "about " + m.String() + " min beside the bench"
		}
		if o.Migration.How == hw.Clone {
			out = append(out, fmt.Sprintf("Copying the boot drive keeps everything as it was, %s. A clean installation takes longer and leaves old faults behind; the practice says copy.", minutes))
		} else {
			out = append(out, "A clean installation leaves old faults behind and needs the customer's programs and data brought back. A copy would keep everything as it was; here it is not made.")
		}
	}
	l := p.Record.Chassis.Mem().Limits
	maker, okM := l.Maker.Get()
	controller, okC := l.Controller.Get()
	if okM && okC && controller > maker && p.Request.Goals.MemoryGB.IsKnown() {
		proven := ""
		if gb, ok := l.Proven.Get(); ok {
			proven = fmt.Sprintf(", %s GB were proven", gb)
		}
		out = append(out, fmt.Sprintf("To the maker's %s GB nothing is at risk. The controller takes %s GB%s: more room, and the maker may refuse help; by practice %s.", maker, controller, proven,
			hw.LimitPractices.Says(p.Request.Practice.MemoryLimit.Or(hw.LimitMaker))))
	}
	return out
}
