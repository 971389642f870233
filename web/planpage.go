package web

import (
	"fmt"
	"math"
	"net/http"
	"net/url"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/shop"
)

// planView is the plan of one machine: today as the first column, options beside it.
type planView struct {
	tabs
	Model, ModelID     string
	Customer, Contact  string
	Serial, Complaint  string
	Notice             string
	Verdict, Why       string
	Above              string // fitted above the limit in force
	Stop               string
	Goals              string
	Budget             string
	Limit              string
	LimitWhy           string
	Practice           hw.Practice
	Limits, Pairings   []string
	Columns            []column
	List               []listRow
	Ruled              []ruledRow
	Unmet              []plan.Unmet
	Notes              []plan.Note
	Rate               string
	NamesStorage       bool
	NamesRuntime       bool
	NamesWireless      bool
	Choice             *shop.Choice
	ChosenBy, ChosenAt string
	History            []shop.Change

	*planState
	Said, Ways  []string
	Told        string   // the situation, in the demo
	Since       []string // what changed in the model's record since the choice
	Differs     bool     // the address asks for something else than what is stored
	Address     string
	Plot        *plot
	Inside      *inside
	Marks       []planMark
	Looking     string // the option in the drawing
	Asked       *askView
	Parts       []partChoice
	OwnPlaces   []ownPlace
	Pinned      []pinnedPart
	Standards   []string
	Migrations  []string
	StateFields []stateField
	LimitIs     string
	PairingIs   string
	MigrationIs string
	BayIs       string
	ShownOf     int // rows ruled out that were found; only the first are shown
	RuledAny    bool
}

type partChoice struct{ ID, Name, Kind string }

type pinnedPart struct {
	Name, Undo string
	Forbidden  bool
}

type stateField struct{ Name, Value string }

// ownPlace is a place with what can be done there, for an own combination.
type ownPlace struct {
	Place, Now, Chosen string
	CanRemove          bool
	Parts              []partChoice
}

// column is one state of the machine: today (no option) or an option.
type column struct {
	Today      bool
	ID         string
	Heading    string
	Sub        string
	Bars       *channelBars
	Memory     string
	MemorySub  string
	Drives     []linkBar
	DriveTotal string
	Battery    string
	Wireless   string
	Parts      string
	PartLines  []partLine
	Labour     string
	Minutes    string
	Total      string
	More       string // difference to the cheapest column
	Ready      string
	Points     int
	Risks      []riskRow
	Consents   []string
	Warnings   []plan.Warning
	Chosen     bool
	Fingerp    string
	MeetsAll   bool
	Sums       plan.Arithmetic
	Against    []hw.Verdict
	Own        bool
	WithTax    string
	Unmet      []string
	Missing    []string
	Actions    []string
	ChannelOff string
}

// partLine is a part that is bought, with the addresses that pin and forbid it.
type partLine struct{ Text, Pin, Ban string }

type riskRow struct {
	Text   string
	Points int
}

type listRow struct {
	ID, Words, Total string
	Link             string
	Shown, Chosen    bool
	Pick             string
}

type ruledRow struct{ Part, Name, Place, Text, Code, Fact, Step string }

// maxRuled is how many rows of what was ruled out are shown; more words find the others.
const maxRuled = 150

// maxColumns is how many options stand beside today.
const maxColumns = 3

func (s *server) showPlan(c *echo.Context) error {
	return s.planPage(c, c.Param("id"), http.StatusOK, "", c.QueryParams())
}

func (s *server) planPage(c *echo.Context, id string, status int, notice string, address url.Values) error {
	ctx := c.Request().Context()
	st := readState(c, address)
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	st.query.Practice = st.practice(how.Practice)
	p, err := s.Shop.Plan(ctx, id, st.query)
	if err != nil {
		return err
	}
	v, err := buildPlanView(&p, &st)
	if err != nil {
		return err
	}
	if v.Asked, err = ask(ctx, &p, st.text("ask")); err != nil {
		return err
	}
	if st.Count() > 0 && status == http.StatusOK {
		status = http.StatusUnprocessableEntity
	}
	v.Notice = notice
	return s.render(c, status, "plan", "Plan for "+id, "machines", v)
}

// keepWish makes what the address asks for the job's wish.
func (s *server) keepWish(c *echo.Context) error {
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	id := c.Param("id")
	st := readState(c, c.Request().PostForm)
	if st.query.Wish == nil {
		return s.planPage(c, id, http.StatusUnprocessableEntity, "", c.Request().PostForm)
	}
	if err := s.Shop.KeepWish(c.Request().Context(), s.Actor, c.FormValue("token"), id, st.query.Wish); err != nil {
		return err
	}
	for _, name := range []string{"wish", "memory_gb", "storage_gb", "runtime_h", "wireless", "budget", "ask", "find"} {
		st.values.Del(name)
	}
	return c.Redirect(http.StatusSeeOther, "/machines/"+id+"?"+st.values.Encode())
}

func buildPlanView(p *shop.Planned, st *planState) (planView, error) {
	r, cur := &p.Record, p.Settings.Currency
	v := planView{tabs: tabsOf(r, "plan"), Model: r.Chassis.Name(), ModelID: r.Chassis.ID, Customer: r.Customer, Contact: r.Contact,
		Serial: r.Machine.Serial, Complaint: r.Complaint, Goals: wishWords(p.Request.Goals), Practice: p.Request.Practice,
		Limits: hw.LimitPractices.Words(), Pairings: hw.Pairings.Words(), Migrations: hw.Migrations.Words(), Standards: hw.Standards.Words(),
		Unmet: p.Plan.Unmet, Rate: money(cur, p.Settings.LabourRate), Choice: r.Choice, ChosenBy: r.ChosenBy,
		History: r.History, NamesStorage: p.Request.Goals.StorageGB.IsKnown(), NamesRuntime: p.Request.Goals.RuntimeH.IsKnown(),
		NamesWireless: p.Request.Goals.Wireless.IsKnown(), planState: st, Told: r.Details.Told}
	if r.Choice != nil {
		v.ChosenAt = stamp(r.ChosenAt)
	}
	if cents, ok := p.Request.BudgetCents.Get(); ok {
		v.Budget = money(cur, cents)
	}
	v.Limit, v.LimitWhy = limitWords(p)
	v.Verdict, v.Why = verdictWords(p)
	if gb, ok := p.Today.Limit.GB.Get(); ok && p.Today.Memory != nil && p.Today.Memory.TotalGB > gb {
		v.Above = fmt.Sprintf("The machine has %s GB, more than the %s GB that the practice allows for this model. It may stay so; nothing is added to it.", p.Today.Memory.TotalGB, gb)
	}
	for _, n := range p.Plan.Notes {
		if n.Code == hw.CodeSwollen {
			v.Stop = n.Text
		} else {
			n.Text = namedFacts(r.Chassis, n.Text)
			v.Notes = append(v.Notes, n)
		}
	}
	if r.State.Danger != "" && r.Closed.IsZero() && v.Stop == "" {
		v.Stop = "the machine came " + r.State.Danger + ": nothing is planned until it is made safe"
	}
	picks := pickNames(p.Plan.Picks)
	most := maxColumns
	if p.Own != nil {
		most--
	}
	shown := chooseColumns(p.Plan, st.text("with"), most)
	scale := barScale(p, shown)
	names := partNames(p.Parts)
	why, err := plan.NewExplainer(p.Input())
	if err != nil {
		return v, err
	}
	today := todayColumn(p, scale)
	today.Sums = why.Explain(nil)
	v.Columns = append(v.Columns, today)
	gains := map[string]hw.Dec{}
	cheapest := int64(math.MaxInt64)
	for i := range p.Plan.Options {
		o := &p.Plan.Options[i]
		gains[o.ID] = why.Gain(o)
		row := listRow{ID: o.ID, Words: actionWords(o, names), Total: money(cur, o.TotalCents), Pick: picks[o.ID], Link: st.link("with", o.ID)}
		row.Shown = shown[o.ID]
		row.Chosen = isChosen(r.Choice, o)
		v.List = append(v.List, row)
		if !shown[o.ID] {
			continue
		}
		col := optionColumn(p, st, o, scale, names)
		col.Sums = why.Explain(o)
		if col.Heading = picks[o.ID]; len(p.Plan.Options) == 1 {
			col.Heading = "The one way"
		} else if col.Heading == "" {
			col.Heading = "Another way"
		}
		if cheapest == math.MaxInt64 {
			cheapest = o.TotalCents
		} else {
			col.More = "+ " + money(cur, o.TotalCents-cheapest)
		}
		col.Chosen = row.Chosen
		v.Columns = append(v.Columns, col)
	}
	if p.Own != nil {
		col := optionColumn(p, st, p.Own, scale, names)
		col.Heading, col.Own, col.Against, col.ID = "Your own", true, p.Against, ""
		col.Sums = why.Explain(p.Own)
		v.Columns = append(v.Columns, col)
	}
	v.Plot = drawPlot(p, gains, why.Gain(nil), shown, func(id string) string { return st.link("with", id) })
	v.Ruled = found(ruledOut(p.Plan, names), st.text("find"))
	v.ShownOf = len(v.Ruled)
	v.Ruled = v.Ruled[:min(len(v.Ruled), maxRuled)]
	v.RuledAny = len(p.Plan.Rejected) > 0
	v.Said, v.Ways = honest(p), bothWays(p)
	v.drawChosen(p)
	v.offer(p, names)
	return v, nil
}

// found are the rows in which every word stands.
func found(rows []ruledRow, query string) []ruledRow {
	if query == "" {
		return rows
	}
	var out []ruledRow
	for _, r := range rows {
		if matches(query, r.Name, r.Place, r.Text, r.Code) {
			out = append(out, r)
		}
	}
	return out
}

// drawChosen draws the option that is looked at, the chosen one, or the first.
func (v *planView) drawChosen(p *shop.Planned) {
	if p.Own != nil {
		v.Looking = "your own"
		v.Inside = drawInside(p.Record.Chassis, deskStyle)
		v.Marks = v.Inside.marksOf(p, p.Own)
		v.Inside.Planned = v.Marks
		return
	}
	var o *plan.Option
	for i := range p.Plan.Options {
		x := &p.Plan.Options[i]
		if x.ID == v.text("with") || o == nil && isChosen(p.Record.Choice, x) {
			o = x
		}
	}
	if o == nil && len(p.Plan.Options) > 0 {
		o = &p.Plan.Options[0]
	}
	if o == nil {
		return
	}
	v.Looking = o.ID
	v.Inside = drawInside(p.Record.Chassis, deskStyle)
	v.Marks = v.Inside.marksOf(p, o)
	v.Inside.Planned = v.Marks
}

func isChosen(c *shop.Choice, o *plan.Option) bool {
	return c != nil && shop.Fingerprint(c.Option) == shop.Fingerprint(*o)
}

// chooseColumns picks what stands beside today: the option asked for, then the
// picks, then the cheapest.
func chooseColumns(p *plan.Plan, with string, most int) map[string]bool {
	shown := map[string]bool{}
	for _, o := range p.Options {
		if o.ID == with {
			shown[with] = true
		}
	}
	order := []string{p.Picks.LeastCost, p.Picks.LowestRisk, p.Picks.MostHeadroom, p.Picks.LeastWork}
	for _, o := range p.Options {
		order = append(order, o.ID)
	}
	for _, id := range order {
		if id != "" && len(shown) < most {
			shown[id] = true
		}
	}
	return shown
}

func partNames(parts *hw.Parts) map[string]string {
	out := map[string]string{}
	for i := range parts.Parts {
		out[parts.Parts[i].ID] = parts.Parts[i].Name
	}
	return out
}

func todayColumn(p *shop.Planned, scale float64) column {
	c := column{Today: true, Heading: "Today", Sub: "taken in " + stamp(p.Record.TakenIn)}
	in := p.Input()
	c.Bars = drawChannels(p.Record.Chassis, plan.Modules(in, nil), scale)
	c.Memory, c.MemorySub = memoryWords(p.Today.Memory)
	if p.Today.Storage != nil {
		c.Drives, c.DriveTotal = linkBars(p, p.Today.Storage, nil), p.Today.Storage.TotalGB.String()+" GB"
	}
	c.Battery = batteryWords(p.Today.Battery)
	c.Wireless = wirelessWords(p.Today.Wireless)
	return c
}

func optionColumn(p *shop.Planned, st *planState, o *plan.Option, scale float64, names map[string]string) column {
	cur := p.Settings.Currency
	c := column{ID: o.ID, Sub: actionWords(o, names), Parts: money(cur, o.PartsCents), Labour: money(cur, o.LabourCents),
		Minutes: o.Minutes.String() + " min", Total: money(cur, o.TotalCents), Points: o.Risk.Points,
		Fingerp: shop.Fingerprint(*o), MeetsAll: o.MeetsAll, Missing: o.Missing}
	in := p.Input()
	c.Bars = drawChannels(p.Record.Chassis, plan.Modules(in, o), scale)
	c.Memory, c.MemorySub = memoryWords(o.Memory)
	if o.Storage != nil {
		c.Drives, c.DriveTotal = linkBars(p, o.Storage, o), o.Storage.TotalGB.String()+" GB"
	}
	c.Battery, c.Wireless = batteryWords(o.Battery), wirelessWords(o.Wireless)
	if p.Settings.TaxPercent > 0 {
		c.WithTax = money(cur, withTax(o.TotalCents, p.Settings.TaxPercent))
	}
	for _, b := range o.Buy {
		c.PartLines = append(c.PartLines, partLine{fmt.Sprintf("%d × %s %s", b.Quantity, names[b.Part], money(cur, b.Cents)), st.toggle("pin", b.Part), st.toggle("ban", b.Part)})
	}
	switch days, ok := o.ReadyInDays.Get(); {
	case !ok:
		c.Ready = "not yet known"
	case days == 0:
		c.Ready = "today"
	default:
		c.Ready = itoa(days) + " days"
	}
	c.Risks, c.Warnings = riskRows(o)
	for _, code := range o.Consents {
		c.Consents = append(c.Consents, code.Row().Says)
	}
	return c
}

// withTax adds a tax to an amount, half up.
func withTax(cents int64, percent hw.Dec) int64 {
	whole := int64(hw.DecOf(100))
	return cents + (cents*int64(percent)+whole/2)/whole
}

// ruledOut lists what was rejected, a part's places on one line where the reason is
// the same.
func ruledOut(p *plan.Plan, names map[string]string) []ruledRow {
	var out []ruledRow
	for _, r := range p.Rejected {
		if n := len(out) - 1; n >= 0 && out[n].Part == r.Part && out[n].Text == r.Text && out[n].Step == r.Step {
			out[n].Place += ", " + r.Place
			continue
		}
		out = append(out, ruledRow{r.Part, names[r.Part], r.Place, r.Text, string(r.Code), r.Fact, r.Step})
	}
	return out
}
