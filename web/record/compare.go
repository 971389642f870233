package record

import (
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/evidence"
	"yembo/core/grade"
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/plan"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// mostCompared is how many models stand beside each other.
const mostCompared = 3

// compareView is up to three models for one question: what can be replaced, how deep, how far, and what it costs.
type compareView struct {
	*form.Form
	Names       []string // of the models, to be chosen from
	Chosen      []string // what was typed, by field
	Asked       string
	Head, Why   string // the verdict, and what it hangs on
	Columns     []compareColumn
	Rule        []string // how the grade is reckoned
	Rate        string
	Wish        bool
	NotFound    []string
	Compare     string // the title
	WeightWords string
}

// compareColumn is one model.
type compareColumn struct {
	ID, Name, Sub string
	Plain         *draw.Plain
	Grade         grade.Grade
	Rows          []gradeRow
	Plumb         *draw.Plumb
	Memory        []string
	MemoryBars    []memoryBar
	Drives        []string
	Pack          []string
	Cost          string
	Asked         []string
	Unknown       []string
	MoreUnknown   int
	best          int // of the plan's options, -1 for none that does all that was asked
	plan          *plan.Plan
}

// gradeRow is a kind with its ten boxes: kept, or why lost.
type gradeRow struct {
	Kind, Place string
	Boxes       []string // "" kept, "-" nothing there, else the letter
	Sum         string
	Points      int
	Says        string // fixed, not known
}

// memoryBar is a part of the memory that a model can hold; Class is solid for what is soldered, place for a socket, open
// for one of which it is not known how much it takes.
type memoryBar struct {
	GB    hw.Dec
	X, W  float64 // px
	Label string
	Class string
}

// The measures of the bars of memory, px.
const (
	memoryWide = 296.0
	memoryOpen = 26.0 // of a socket of which it is not known how much it takes
)

// compareModels sets models beside each other.
func (s *pages) compareModels(c *echo.Context) error {
	ctx := c.Request().Context()
	f := form.Of(c, c.QueryParams())
	v := compareView{Form: f, Compare: "Compare models"}
	goals := hw.Goals{MemoryGB: f.Dec("memory_gb"), StorageGB: f.Dec("storage_gb")}
	briefs, err := s.Shop.Briefs(ctx, "", kit.MaxProposed)
	if err != nil {
		return err
	}
	for _, b := range briefs {
		v.Names = append(v.Names, b.Name)
	}
	var ids []string
	for _, typed := range kit.AtMost(mostCompared, f.Values["m"]) {
		typed = strings.TrimSpace(typed)
		v.Chosen = append(v.Chosen, typed)
		id, err := s.ModelNamed(ctx, typed)
		if err != nil {
			return err
		}
		switch {
		case typed == "" || slices.Contains(ids, id):
		case id == "":
			v.NotFound = append(v.NotFound, typed)
		default:
			ids = append(ids, id)
		}
	}
	for len(v.Chosen) < mostCompared {
		v.Chosen = append(v.Chosen, "")
	}
	list, how, err := s.Shop.CompareModels(ctx, ids, goals)
	if err != nil && !f.Take(err) {
		return err
	}
	v.Rate = hw.Money(how.Currency, how.LabourRate)
	v.fill(list, &how, goals)
	status := http.StatusOK
	if f.Count() > 0 {
		status = http.StatusUnprocessableEntity
	}
	return s.Render(c, status, "compare", v.Compare, "models", v)
}

func (v *compareView) fill(list []jobs.ModelBeside, how *base.Settings, goals hw.Goals) {
	v.Wish = goals != (hw.Goals{})
	if v.Wish {
		v.Asked = kit.WishWords(&hw.Request{Goals: goals}, nil)
	}
	var scale draw.PlumbScale
	for i := range list {
		scale.Fit(list[i].Chassis)
	}
	for i := range list {
		v.Columns = append(v.Columns, columnOf(&list[i], how, scale))
	}
	var words []string
	for _, t := range grade.Kinds {
		words = append(words, fmt.Sprintf("%s %d", hw.LowerFirst(t.Says), how.Grade.Of(t.Word)))
	}
	v.WeightWords = strings.Join(words, ", ")
	v.drawMemory()
	v.judge(how)
}

func columnOf(x *jobs.ModelBeside, how *base.Settings, scale draw.PlumbScale) compareColumn {
	ch := x.Chassis
	facts := evidence.Facts(ch.Findings)
	disputed := 0
	for i := range facts {
		if facts[i].Disputed {
			disputed++
		}
	}
	c := compareColumn{ID: ch.ID, Name: ch.Name(), Plain: draw.PlainOf(ch), Grade: grade.Make(ch, how.Grade),
		Plumb: draw.PlumbOf(ch, scale),
		plan:  x.Plan, best: -1}
	sub := []string{}
	if ch.Code != "" {
		sub = append(sub, ch.Code)
	}
	if year, told := ch.Year.Get(); told {
		sub = append(sub, fmt.Sprint(year))
	}
	sub = append(sub, hw.Count(len(facts), "fact", "facts"))
	if disputed > 0 {
		sub = append(sub, fmt.Sprintf("%d disputed", disputed))
	}
	sub = append(sub, hw.Count(x.Machines, "machine here", "machines here"))
	c.Sub = strings.Join(sub, ", ")
	c.grades()
	c.ceiling(ch, how)
	c.asked(x, how)
	open := evidence.ToFindOut(ch)
	for i := range facts {
		if facts[i].Disputed {
			c.Unknown = append(c.Unknown, hw.FactSays(facts[i].Path)+" is disputed")
		}
	}
	for _, o := range open {
		c.Unknown = append(c.Unknown, hw.FactSays(o.Path)+": "+o.How)
	}
	const most = 5
	if n := len(c.Unknown); n > most {
		c.Unknown, c.MoreUnknown = c.Unknown[:most], n-most
	}
	return c
}

// Possible reports whether all that was asked can be done, or is there already.
func (c *compareColumn) Possible() bool { return c.best >= 0 || c.enough() }

// enough reports whether a machine with nothing fitted has what is asked already.
func (c *compareColumn) enough() bool { return c.plan != nil && c.plan.Verdict == plan.Enough }

// cost is what it takes to get to what is asked, with its risk counted as money, cents.
func (c *compareColumn) cost(worth int64) int64 {
	if c.best < 0 {
		return 0
	}
	return c.plan.Options[c.best].WithRisk(worth)
}

// notKnown reports whether what cannot be done hangs on a fact that is not known.
func (c *compareColumn) notKnown() bool {
	return c.plan != nil && slices.ContainsFunc(c.plan.Unmet, func(u plan.Unmet) bool {
		return u.Code == hw.CodeUnknown ||
			u.Fact != ""
	})
}

// misses says that a model does not get to what is asked, or that it is not known.
func (c *compareColumn) misses(asked string) string {
	if c.notKnown() {
		return "of which it is not known whether it gets to " + asked
	}
	return "which does not get to " + asked
}

func (c *compareColumn) grades() {
	for i := range c.Grade.Rows {
		r := &c.Grade.Rows[i]
		row := gradeRow{Kind: grade.Kinds.Says(r.Kind), Place: r.Place, Points: r.Points, Sum: fmt.Sprintf("%d × %d",
			r.Points, r.Weight)}
		switch {
		case !r.Known:
			row.Says = "not known: counts nothing"
		case r.Fixed:
			row.Says = "fixed"
		default:
			for k := range grade.Full {
				box := ""
				if k >= r.Points {
					box = string(r.Lost[k-r.Points])
				}
				row.Boxes = append(row.Boxes, box)
			}
		}
		c.Rows = append(c.Rows, row)
	}
}

// ceiling says how far each kind goes.
func (c *compareColumn) ceiling(ch *hw.Chassis, how *base.Settings) {
	mem := ch.Mem()
	limits := mem.Limits
	for _, l := range []struct {
		gb    hw.Maybe[hw.Dec]
		words string
	}{{limits.Maker, "maker's limit %s GB"}, {limits.Proven, "proven %s GB"}, {limits.Controller, "controller's limit %s GB"}} {
		if gb, told := l.gb.Get(); told {
			c.Memory = append(c.Memory, fmt.Sprintf(l.words, gb))
		}
	}
	for i := range mem.Soldered {
		gb := mem.Soldered[i].Capacity
		c.MemoryBars = append(c.MemoryBars, memoryBar{GB: gb, Label: gb.String(), Class: "solid"})
	}
	for i := range mem.Sockets {
		bar := memoryBar{Label: "?", Class: "open"}
		if gb, told := mem.Sockets[i].MaxModule.Get(); told {
			bar = memoryBar{GB: gb, Label: gb.String(), Class: "place"}
		}
		c.MemoryBars = append(c.MemoryBars, bar)
	}
	if _, words, ok := memory.Reachable(ch, &hw.Machine{}, how.LargestModules()); ok {
		c.Memory = append(c.Memory, "the sockets hold "+words)
	}
	if len(c.Memory) == 0 {
		c.Memory = []string{"how far it goes is not recorded"}
	}
	for i := range ch.Slots {
		if s := &ch.Slots[i]; s.Purpose == hw.ForStorage {
			c.Drives = append(c.Drives, s.ID+": "+slotTakes(s))
		}
	}
	for i := range ch.Bays {
		b := &ch.Bays[i]
		c.Drives = append(c.Drives, b.ID+": "+hw.DriveForms.Says(b.Form)+", "+strings.Join(b.Words(), ", "))
	}
	if ch.Slots == nil || ch.Bays == nil {
		c.Drives = append(c.Drives, "not checked for all places of drives")
	}
	for i := range ch.Batteries {
		c.Pack = append(c.Pack, ch.Batteries[i].ID+": "+draw.EnergyWords(&ch.Batteries[i]))
	}
	if ch.Batteries == nil {
		c.Pack = []string{"not recorded"}
	}
}

// drawMemory lays the bars of all models out to one scale, so that the widest has room.
func (v *compareView) drawMemory() {
	most, open := hw.Dec(0), 0
	for i := range v.Columns {
		sum, asks := hw.Dec(0), 0
		for _, b := range v.Columns[i].MemoryBars {
			if sum += b.GB; b.Class == "open" {
				asks++
			}
		}
		most, open = max(most, sum), max(open, asks)
	}
	scale := 0.0
	if most > 0 {
		scale = (memoryWide - float64(open)*memoryOpen) / most.Float()
	}
	for i := range v.Columns {
		x := 0.0
		for k := range v.Columns[i].MemoryBars {
			b := &v.Columns[i].MemoryBars[k]
			b.X, b.W = x, b.GB.Float()*scale
			if b.Class == "open" {
				b.W = memoryOpen
			}
			x += b.W
		}
	}
}

// asked says what the wish costs on a machine of the model in which nothing is fitted.
func (c *compareColumn) asked(x *jobs.ModelBeside, how *base.Settings) {
	if x.Plan == nil {
		return
	}
	for i := range x.Plan.Options {
		if o := &x.Plan.Options[i]; o.ID == x.Plan.Picks.Recommended && o.MeetsAll {
			c.best = i
		}
	}
	if c.best < 0 {
		switch {
		case c.enough():
			c.Cost = "Enough as it comes."
		case c.notKnown():
			c.Cost = "Not known."
		default:
			c.Cost = "Not possible."
		}
		for _, u := range x.Plan.Unmet {
			c.Asked = append(c.Asked, plan.GoalSays(u.Goal)+": "+u.Text)
		}
		return
	}
	o := &x.Plan.Options[c.best]
	c.Cost = hw.Money(how.Currency, o.TotalCents)
	c.Asked = append(c.Asked, o.Minutes.String()+" min; parts here: "+kit.ReadyWords(o.ReadyInDays))
	for _, consent := range o.Consents {
		c.Asked = append(c.Asked, "asks for a consent: "+consent.Row().Says)
	}
	if o.Risk.Points > 0 {
		var why []string
		for _, r := range o.Risk.Reasons {
			if r.Points > 0 {
				why = append(why, r.Code.Row().Says)
			}
		}
		c.Asked = append(c.Asked, hw.Count(o.Risk.Points, "risk point", "risk points")+": "+strings.Join(slices.Compact(why), ", "))
	}
}

// judge says which of the models, on what condition, and why not the others.
func (v *compareView) judge(how *base.Settings) {
	if len(v.Columns) == 0 {
		return
	}
	best, worth := 0, how.Practice.RiskCents.Or(hw.UsualRiskCents)
	for i := range v.Columns {
		a, b := &v.Columns[i], &v.Columns[best]
		switch {
		case v.Wish && a.Possible() != b.Possible():
			if a.Possible() {
				best = i
			}
		case v.Wish && a.Possible():
			if a.cost(worth) < b.cost(worth) {
				best = i
			}
		case a.Grade.Percent() > b.Grade.Percent():
			best = i
		}
	}
	c := &v.Columns[best]
	v.Head = c.Name
	if len(v.Columns) == 1 {
		v.Head = c.Name + ": " + c.Grade.Words()
	}
	var why []string
	if len(v.Columns) > 1 {
		for i := range v.Columns {
			x := &v.Columns[i]
			words := x.Name + " " + x.Grade.Words()
			switch {
			case v.Wish && x.enough():
				words += ", with " + v.Asked + " as it comes"
			case v.Wish && x.best >= 0:
				words += ", " + v.Asked + " for " + x.Cost
			case v.Wish:
				words += ", " + x.misses(v.Asked)
			}
			why = append(why, words)
		}
	}
	switch {
	case v.Wish && !c.Possible() && slices.ContainsFunc(v.Columns, func(x compareColumn) bool { return x.notKnown() }):
		v.Head = "Not known of any whether it gets to " + v.Asked
		if len(v.Columns) == 1 {
			v.Head = "Not known whether " + c.Name + " gets to " + v.Asked
		}
	case v.Wish && !c.Possible() && len(v.Columns) == 1:
		v.Head = c.Name + " does not get to " + v.Asked
	case v.Wish && !c.Possible():
		v.Head = "None of them gets to " + v.Asked
	case v.Wish && c.best >= 0:
		for _, consent := range c.plan.Options[c.best].Consents {
			if consent == hw.ConsentBeyondMaker {
				v.Head += ", if the maker's limit may be passed"
			}
		}
	}
	if v.Why = strings.Join(why, "; "); v.Why != "" {
		v.Why += "."
	}
}
