package plans

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"yembo/shop/base"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

func (s *pages) choose(c *echo.Context) error {
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	id := c.Param("id")
	ctx := c.Request().Context()
	st := readState(c, c.Request().PostForm)
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	st.query.Practice = st.practice(how.Practice)
	_, err = s.Shop.Choose(ctx, s.Acting(c), c.FormValue("token"), id, c.FormValue("option"), c.FormValue("seen"), st.query)
	var agreed jobs.Agreed
	var overtaken jobs.Overtaken
	if errors.As(err, &agreed) {
		st.agreed = &agreedView{
			Label:  agreed.Quote.Label(),
			Quote:  agreed.Quote.ID,
			Option: jobs.Fingerprint(agreed.Option),
			Words:  agreed.Words,
			Cost:   hw.Money(how.Currency, agreed.Option.TotalCents),
		}
		alt := agreed.Quote.Doc.Alternative(agreed.Quote.Given.Letter)
		st.agreed.Was, st.agreed.WasCost = alt.Letter+": "+alt.Name, hw.Money(agreed.Quote.Doc.Currency, alt.Sum.Total)
		return s.planPageOf(c, id, http.StatusConflict, "", &st)
	}
	if errors.As(err, &overtaken) {
		return s.planPage(
			c,
			id,
			http.StatusConflict,
			"Nothing was saved: "+overtaken.Error()+". Look at it, and choose again if yours is to stand.",
			st.values,
		)
	}
	if errors.Is(err, base.ErrDanger) {
		return s.planPage(c, id, http.StatusConflict, "Not saved: make the machine safe first.",
			st.values)
	}
	if errors.Is(err, base.ErrPlanChanged) {
		return s.planPage(c, id, http.StatusConflict,
			"The plan has changed (a part, the record or a shop rule). Nothing "+
				"was stored; this is the plan as it stands.", st.values)
	}
	if err != nil {
		return err
	}
	return kit.SeeOther(c, "/machines/"+id+"/card")
}

// planView is the plan of one machine: today as the first column, options beside it.
// agreedView sets what was accepted beside another choice.
type agreedView struct {
	Label, Was, WasCost string
	Quote               int64
	Option, Words, Cost string
}

type planView struct {
	Agreed     *agreedView // another choice was pressed after a quote was accepted
	ChoiceMark string
	ModelVer   int    // the version of the record that it is planned from
	Here       string // its own address
	kit.Tabs
	Model, ModelID     string
	Customer, Contact  string
	Serial, Complaint  string
	Notice             string
	Verdict, Why       string
	Proven             bool   // the job is, so nothing more is chosen on it
	Above              string // fitted above the limit in force
	Stop               string
	Goals              string
	JobWish, WishMark  string // what is on the job, and which it is
	Budget             string
	Limit              string
	LimitWhy           string
	Practice           hw.Practice
	Limits             []hw.Term[string]
	Pairings           []hw.Term[string]
	Columns            []column
	List               []listRow
	Ruled              []ruledRow
	Unmet              []outOfReach
	Data, Notes        []noteGroup // what can be lost, first of all; the others
	Replace            string      // the address with a wish that replaces what is failing
	PracticeSays       string
	Options            int // how many of them have columns
	Shared             []sharedLine
	Fetch              []fetchRow
	Reach              []reachAsk
	Advice             []adviceRow
	FetchMore          int
	Worths             *worthView
	Rate               string
	NamesStorage       bool
	NamesRuntime       bool
	NamesWireless      bool
	Choice             *base.Choice
	ChosenWords        string
	Gone               []string // what the wish names and the record has no more
	ChosenBy, ChosenAt string
	History            []base.Change

	*planState
	Said, Ways  []string
	Told        string   // the situation, in the demo
	Simulated   []int64  // readings of the simulated machine that were taken over
	Since       []string // what changed in the model's record since the choice
	Differs     bool     // the address asks for something else than what is stored
	Address     string
	Plot        *plot
	Inside      *draw.Inside
	Marks       []draw.Mark
	Looking     string // the option in the drawing
	Asked       *askView
	Parts       []kit.PartChoice
	OwnPlaces   []ownPlace
	Pinned      []pinnedPart
	Standards   []hw.Term[string]
	Migrations  []hw.Term[string]
	Services    []kit.Pickable
	Keepable    []kit.Pickable
	StateFields []form.Field
	LimitIs     string
	PairingIs   string
	MigrationIs string
	RiskWorth   string // what a point of risk is worth by practice, in words
	BayIs       string
	Lookups     []lookupRow
	Brought     []kit.PartChoice // parts that the customer brings
	ShownOf     int              // rows ruled out that were found; only the first are shown
	RuledAny    bool
}

type pinnedPart struct {
	Name, Undo string
	Forbidden  bool
}

// ownPlace is a place with what can be done there, for an own combination.
type ownPlace struct {
	Place, Now, Chosen string
	CanRemove          bool
	Parts              []kit.PartChoice
}

type listRow struct {
	Letter, Words, Total string
	Link                 string
	Shown, Chosen        bool
	Pick, Short          string
}

type ruledRow struct {
	Part, Name, Place, Text, Says, Step string
	Unknown                             bool
	Link                                string // to the field of the fact that is not known, "" for none
}

// maxRuled is how many rows of what was ruled out are shown; more words find the others.
const maxRuled = 150

func (s *pages) showPlan(c *echo.Context) error {
	return s.planPage(c, c.Param("id"), http.StatusOK, "", c.QueryParams())
}

func (s *pages) planPage(c *echo.Context, id string, status int, notice string, address url.Values) error {
	st := readState(c, address)
	return s.planPageOf(c, id, status, notice, &st)
}

func (s *pages) planPageOf(c *echo.Context, id string, status int, notice string, st *planState) error {
	ctx := c.Request().Context()
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	st.query.Practice = st.practice(how.Practice)
	p, err := s.Shop.Plan(ctx, id, st.query)
	if err != nil {
		return err
	}
	v, err := buildPlanView(&p, st)
	if err != nil {
		return err
	}
	if v.Asked, err = ask(ctx, &p, st.Text("ask")); err != nil {
		return err
	}
	if st.Count() > 0 && status == http.StatusOK {
		status = http.StatusUnprocessableEntity
	}
	v.Notice, v.Agreed, v.ModelVer, v.Here = notice, st.agreed, p.Model.Version, "/machines/"+id+"?"+st.values.Encode()
	return s.Render(c, status, "plan", "Plan for "+v.MachineID, "machines", v)
}

// keepWish makes what the address asks for the job's wish.
func (s *pages) keepWish(c *echo.Context) error {
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	id := c.Param("id")
	st := readState(c, c.Request().PostForm)
	if st.query.Wish == nil {
		return s.planPage(c, id, http.StatusUnprocessableEntity, "", c.Request().PostForm)
	}
	err := s.Shop.KeepWish(c.Request().Context(), s.Acting(c), c.FormValue("token"), id, c.FormValue("seen"),
		st.query.Wish)
	if errors.Is(err, base.ErrChanged) {
		return s.planPage(c, id, http.StatusConflict, "The request was not saved: it was changed on the job while you had "+
			"this page open. What you asked for is planned below, and the job's request is shown next to it: choose one.",
			c.Request().PostForm)
	}
	if err != nil {
		return err
	}
	for _, name := range append([]string{"ask", "find"}, wishNames...) {
		st.values.Del(name)
	}
	maps.DeleteFunc(st.values, func(name string, _ []string) bool { return strings.HasPrefix(name, chargePrefix) })
	return kit.SeeOther(c, "/machines/"+id+"?"+st.values.Encode())
}

func buildPlanView(p *jobs.Planned, st *planState) (planView, error) {
	r, cur := &p.Record, p.Settings.Currency
	v := planView{Tabs: kit.TabsOf(r, "plan"), Model: r.Chassis.Name(), ModelID: r.Chassis.ID, Customer: r.Customer,
		Contact: r.Contact,
		Serial:  r.Machine.Serial, Complaint: r.Complaint, Goals: kit.WishWords(p.Request, r.Chassis),
		Practice: p.Request.Practice,
		Limits:   hw.LimitPractices.Terms(), Pairings: hw.Pairings.Terms(), Migrations: hw.Migrations.Terms(),
		Standards: hw.Standards.Terms(),
		Rate:      hw.Money(cur, p.Settings.LabourRate), Choice: r.Choice, ChosenBy: r.ChosenBy,
		History: r.History, NamesStorage: p.Request.Goals.StorageGB.IsKnown(),
		NamesRuntime:  p.Request.Goals.RuntimeH.IsKnown(),
		NamesWireless: p.Request.Goals.Wireless.IsKnown(), planState: st, Told: r.Details.Told, Simulated: r.Simulated}
	v.JobWish, v.WishMark, v.ChoiceMark = kit.WishWords(r.Wish, r.Chassis), r.WishMark(), r.ChoiceMark()
	if cents, ok := r.Wish.BudgetCents.Get(); ok && v.JobWish != "" {
		v.JobWish += ", budget " + kit.BudgetWords(&p.Settings, cents)
	}
	if r.Choice != nil {
		v.ChosenAt, v.ChosenWords = kit.Stamp(r.ChosenAt), kit.ChosenWords(r.Choice)
	}
	if cents, ok := p.Budget.Get(); ok {
		v.Budget = kit.BudgetWords(&p.Settings, cents)
	}
	v.Limit, v.LimitWhy = limitWords(p)
	if v.Verdict, v.Why = verdictWords(p); r.State.Proven != nil {
		v.Proven = true
		v.Verdict, v.Why = "Done and proven "+r.State.Proven.Format("2 January")+".", provenWords(r)
	}
	if gb, ok := p.Today.Limit.GB.Get(); ok && p.Today.Memory != nil && p.Today.Memory.TotalGB > gb {
		v.Above = fmt.Sprintf("The machine has %s GB, more than the %s GB that the shop rule allows for this model. "+
			"That can stay; no memory is added.", p.Today.Memory.TotalGB, gb)
	}
	for _, n := range p.Plan.Notes {
		if n.Code == hw.CodeSwollen {
			v.Stop = n.Text
		}
	}
	v.Data, v.Notes = groupNotes(p.Plan.Notes, func(fact string) string { return factLink(p, fact) })
	for _, u := range p.Plan.Unmet {
		text := u.Text
		if u.Code == hw.CodeBudget && p.Settings.TaxPercent > 0 && !p.Settings.Pricing.TaxIn {
			text += ", without tax"
		}
		row := outOfReach{Goal: plan.GoalSays(u.Goal), Text: text, Link: factLink(p, u.Fact)}
		if u.Code == hw.CodeMemoryOverLimit && p.Today.Limit.FellBack {
			row.Plan = st.link("limit", string(hw.LimitSockets))
		}
		v.Unmet = append(v.Unmet, row)
	}
	v.PracticeSays = practiceWords(&p.Request.Practice)
	v.Gone = p.Gone
	if r.State.Danger != "" && r.Closed.IsZero() && v.Stop == "" {
		v.Stop = "the machine came " + r.State.Danger + ": nothing is planned until it is made safe"
	}
	picks := kit.PickNames(p.Plan.Picks)
	most := maxColumns
	if p.Own != nil {
		most--
	}
	order := chooseColumns(p.Plan, st.Text("with"), most)
	shown := map[string]bool{}
	letters := map[string]string{}
	for i, id := range order {
		shown[id], letters[id] = true, string(rune('A'+i))
	}
	scale := draw.BarScale(p.Input(), p.Plan, shown)
	names := p.Names()
	why, err := plan.NewExplainer(p.Input())
	if err != nil {
		return v, err
	}
	today := todayColumn(p, scale)
	today.Sums = why.Explain(nil)
	v.Columns = append(v.Columns, today)
	gains := map[string]hw.Dec{}
	options := map[string]*plan.Option{}
	for i := range p.Plan.Options {
		o := &p.Plan.Options[i]
		options[o.ID] = o
		gains[o.ID] = why.Gain(o)
		v.List = append(v.List, listRow{Letter: letters[o.ID], Words: p.Words(o),
			Total: hw.Money(cur, o.TotalCents), Pick: picks[o.ID],
			Short: strings.Join(o.Short(p.Request.Goals), ", "), Link: st.link("with", o.Key()), Shown: shown[o.ID],
			Chosen: isChosen(r.Choice, o)})
	}
	slices.SortStableFunc(v.List, func(a, b listRow) int { return cmp.Compare(fallsShort(&a), fallsShort(&b)) })
	for _, id := range order {
		o := options[id]
		col := optionColumn(p, st, o, scale, names)
		col.Sums, col.Letter, col.Chosen = why.Explain(o), letters[id], isChosen(r.Choice, o)
		if col.Heading, col.Also = splitPick(picks[id]); len(p.Plan.Options) == 1 {
			col.Heading, col.Also = "Only option", ""
		} else if col.Heading == "" {
			col.Heading = "Another way"
		}
		col.Rec = id == order[0]
		col.OnQuote = col.Chosen || id == p.Plan.Picks.Recommended && r.Choice == nil
		if id == p.Plan.Picks.Recommended && len(p.Plan.Options) > 1 {
			col.Because = because(p.Plan, o, options[p.Plan.Picks.LeastCost], cur,
				p.Request.Practice.RiskCents.Or(hw.UsualRiskCents))
		}
		v.Columns = append(v.Columns, col)
	}
	if p.Own != nil {
		col := optionColumn(p, st, p.Own, scale, names)
		col.Heading, col.Own, col.Against, col.ID, col.own = "Your own", true, p.Against, "", p.Own
		col.Sums = why.Explain(p.Own)
		v.Columns = append(v.Columns, col)
	}
	v.Options = len(v.Columns) - 1
	v.Shared = setBeside(v.Columns, options, cur)
	v.worthFetching(p, why)
	v.askReach(p)
	var looked []*plan.Option
	for _, id := range order {
		looked = append(looked, options[id])
	}
	v.advise(p, looked)
	v.weighRisk(p.Plan, st, p.Request.Practice.RiskCents.Or(hw.UsualRiskCents), cur, p.Words, letters)
	if p.Request.Goals != (hw.Goals{}) {
		v.Plot = drawPlot(p, gains, why.Gain(nil), letters,
			func(o *plan.Option) string { return st.link("with", o.Key()) })
	}
	v.Ruled = ruledOut(p, names, why)
	v.RuledAny = len(v.Ruled) > 0
	v.Ruled = found(v.Ruled, st.Text("find"))
	v.ShownOf = len(v.Ruled)
	v.Ruled = v.Ruled[:min(len(v.Ruled), maxRuled)]
	v.Said, v.Ways = plan.Honest(p.Input(), p.Plan), plan.BothWays(p.Input(), p.Plan)
	v.drawChosen(p)
	v.offer(p, names)
	v.Replace = replaceFailing(p, st)
	v.lookFor(p)
	return v, nil
}

// fallsShort is 1 for an option that does not meet the wish: those that do come first.
func fallsShort(r *listRow) int {
	if r.Short != "" {
		return 1
	}
	return 0
}

// found are the rows in which every word stands.
func found(rows []ruledRow, query string) []ruledRow {
	if query == "" {
		return rows
	}
	var out []ruledRow
	for _, r := range rows {
		if kit.Matches(query, r.Name, r.Place, r.Text, r.Says) {
			out = append(out, r)
		}
	}
	return out
}

// drawChosen draws the option that is looked at, the chosen one, or the first.
func (v *planView) drawChosen(p *jobs.Planned) {
	if p.Own != nil {
		v.Looking = "your own combination"
		v.Inside = draw.Model(p.Record.Chassis, draw.Desk)
		v.Marks = v.Inside.MarksOf(p.Input(), p.Own, p.Names())
		v.Inside.Planned = v.Marks
		return
	}
	var o *plan.Option
	for i := range p.Plan.Options {
		x := &p.Plan.Options[i]
		if x.Key() == v.Text("with") || o == nil && isChosen(p.Record.Choice, x) {
			o = x
		}
	}
	for i := range p.Plan.Options {
		if o == nil && p.Plan.Options[i].ID == p.Plan.Picks.Recommended {
			o = &p.Plan.Options[i]
		}
	}
	if o == nil && len(p.Plan.Options) > 0 {
		o = &p.Plan.Options[0]
	}
	if o == nil {
		return
	}
	v.Looking = p.Words(o)
	v.Inside = draw.Model(p.Record.Chassis, draw.Desk)
	v.Marks = v.Inside.MarksOf(p.Input(), o, p.Names())
	v.Inside.Planned = v.Marks
}

func isChosen(c *base.Choice, o *plan.Option) bool {
	return c != nil && jobs.Fingerprint(c.Option) == jobs.Fingerprint(*o)
}

// ruledOut lists what was rejected, a part's places on one line where the reason is
// the same.
func ruledOut(p *jobs.Planned, names map[string]string, why *plan.Explainer) []ruledRow {
	ch := p.Record.Chassis
	var out []ruledRow
	for _, r := range p.Plan.Rejected {
		step := ""
		if i := ch.StepByID(r.Step); i >= 0 {
			step = hw.LowerFirst(draw.BareStep(ch, &ch.Steps[i]))
		}
		if n := len(out) - 1; n >= 0 && out[n].Part == r.Part && out[n].Text == r.Text && out[n].Step == step {
			out[n].Place += ", " + r.Place
			continue
		}
		out = append(out, ruledRow{r.Part, names[r.Part], r.Place, r.Text, r.Code.Row().Says, step,
			r.Code == hw.CodeUnknown, factLink(p, r.Fact)})
	}
	for _, x := range why.Unused(p.Plan) {
		out = append(out, ruledRow{Part: x.Place, Name: names[x.Place], Text: x.Text, Says: "in no option"})
	}
	return out
}

// factLink is the address of the field in which a fact that is not known is entered, by its prefixed
// pointer; "" for none.
func factLink(p *jobs.Planned, fact string) string {
	of, pointer, _ := strings.Cut(fact, ":")
	switch of {
	case "chassis":
		model := "/models/" + url.PathEscape(p.Record.Chassis.ID)
		path, ok := evidence.ByID(p.Record.Chassis, pointer)
		if !ok {
			return model + "/edit"
		}
		steps := strings.SplitN(strings.TrimPrefix(path, "/"), "/", 3)
		if spec, named := form.ItemOf(steps[0]); named && spec.List != "" && len(steps) == 3 {
			return model + "/parts/" + steps[0] + "/" + url.PathEscape(steps[1]) + "#/" + steps[2]
		}
		return model + "/edit#" + path
	case "parts":
		steps := strings.SplitN(strings.TrimPrefix(pointer, "/parts/"), "/", 2)
		parts := p.Input().Listed().Parts
		if n, err := strconv.Atoi(steps[0]); err == nil && n < len(parts) && len(steps) == 2 {
			return "/parts/" + url.PathEscape(parts[n].ID) + "#/" + steps[1]
		}
	case "machine":
		return "/machines/" + url.PathEscape(p.Record.Key) + "/correct#" + pointer
	}
	return ""
}
