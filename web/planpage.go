package web

import (
	"fmt"
	"math"
	"net/http"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/power"
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
	Storage    []string
	Battery    string
	Wireless   string
	Parts      string
	PartLines  []string
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
	Unmet      []string
	Missing    []string
	Actions    []string
	ChannelOff string
}

type riskRow struct {
	Text   string
	Points int
}

type listRow struct {
	ID, Words, Total string
	Shown, Chosen    bool
	Pick             string
}

type ruledRow struct{ Part, Name, Place, Text, Code, Fact, Step string }

// maxColumns is how many options stand beside today.
const maxColumns = 3

func (s *server) showPlan(c *echo.Context) error {
	return s.planPage(c, c.Param("id"), http.StatusOK, "")
}

func (s *server) planPage(c *echo.Context, id string, status int, notice string) error {
	p, err := s.Shop.Plan(c.Request().Context(), id)
	if err != nil {
		return err
	}
	v := buildPlanView(&p, c.QueryParam("with"))
	v.Notice = notice
	return s.render(c, status, "plan", "Plan for "+id, "machines", v)
}

func buildPlanView(p *shop.Planned, with string) planView {
	r, cur := &p.Record, p.Settings.Currency
	v := planView{tabs: tabsOf(r, "plan"), Model: r.Chassis.Name(), ModelID: r.Chassis.ID, Customer: r.Customer, Contact: r.Contact,
		Serial: r.Machine.Serial, Complaint: r.Complaint, Goals: wishWords(p.Request.Goals), Practice: p.Settings.Practice,
		Limits: []string{"maker", "proven", "controller"}, Pairings: []string{"any", "equal", "match"},
		Unmet: p.Plan.Unmet, Rate: money(cur, p.Settings.LabourRate), Choice: r.Choice, ChosenBy: r.ChosenBy,
		History: r.History, NamesStorage: p.Request.Goals.StorageGB.IsKnown(), NamesRuntime: p.Request.Goals.RuntimeH.IsKnown(),
		NamesWireless: p.Request.Goals.Wireless.IsKnown()}
	if r.Choice != nil {
		v.ChosenAt = stamp(r.ChosenAt)
	}
	if cents, ok := p.Request.BudgetCents.Get(); ok {
		v.Budget = money(cur, cents)
	}
	v.Limit, v.LimitWhy = limitWords(p)
	v.Verdict, v.Why = verdictWords(p)
	if gb, ok := p.Today.Limit.GB.Get(); ok && p.Today.Memory.TotalGB > gb {
		v.Above = fmt.Sprintf("The machine has %s GB, more than the %s GB that the practice allows for this model. It may stay so; nothing is added to it.", p.Today.Memory.TotalGB, gb)
	}
	for _, n := range p.Plan.Notes {
		if n.Code == power.CodeSwollen {
			v.Stop = n.Text
		} else {
			v.Notes = append(v.Notes, n)
		}
	}
	picks := pickNames(p.Plan.Picks)
	shown := chooseColumns(p.Plan, with)
	scale := barScale(p, shown)
	v.Columns = append(v.Columns, todayColumn(p, scale))
	names := partNames(p.Parts)
	cheapest := int64(math.MaxInt64)
	for i := range p.Plan.Options {
		o := &p.Plan.Options[i]
		row := listRow{ID: o.ID, Words: actionWords(o, names), Total: money(cur, o.TotalCents), Pick: picks[o.ID]}
		row.Shown = shown[o.ID]
		row.Chosen = isChosen(r.Choice, o)
		v.List = append(v.List, row)
		if !shown[o.ID] {
			continue
		}
		col := optionColumn(p, o, scale, names)
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
	v.Ruled = ruledOut(p.Plan, names)
	return v
}

func isChosen(c *shop.Choice, o *plan.Option) bool {
	return c != nil && shop.Fingerprint(c.Option) == shop.Fingerprint(*o)
}

// chooseColumns picks what stands beside today: the option asked for, then the
// picks, then the cheapest.
func chooseColumns(p *plan.Plan, with string) map[string]bool {
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
		if id != "" && len(shown) < maxColumns {
			shown[id] = true
		}
	}
	return shown
}

// pickNames says in words what an option is best in; one may carry several.
func pickNames(p plan.Picks) map[string]string {
	out := map[string]string{}
	add := func(id, words string) {
		if id == "" {
			return
		}
		if out[id] != "" {
			words = ", " + words
		} else {
			words = string(words[0]-'a'+'A') + words[1:]
		}
		out[id] += words
	}
	add(p.LeastCost, "least money")
	add(p.LeastWork, "least work")
	add(p.LowestRisk, "lowest risk")
	add(p.MostHeadroom, "most headroom")
	return out
}

func partNames(parts *hw.Parts) map[string]string {
	out := map[string]string{}
	for i := range parts.Parts {
		out[parts.Parts[i].ID] = parts.Parts[i].Name
	}
	return out
}

func limitWords(p *shop.Planned) (limit, why string) {
	l := p.Today.Limit
	gb, ok := l.GB.Get()
	if !ok {
		return "not yet known", "Until " + practiceWords(p.Settings.Practice.MemoryLimit.Or("maker")) + " is recorded, nothing can be called fitting."
	}
	if l.Unreachable {
		return gb.String() + " GB", "The stated " + l.Stated.String() + " GB cannot be reached: " + l.Arithmetic + "."
	}
	return gb.String() + " GB", "By practice: " + practiceWords(p.Settings.Practice.MemoryLimit.Or("maker")) + "."
}

// verdictWords is the honest answer in one line, and the sums behind it.
func verdictWords(p *shop.Planned) (verdict, why string) {
	switch p.Plan.Verdict {
	case plan.Stop:
		return "Stop.", "Nothing is planned until the pack is made safe."
	case plan.Enough:
		verdict = "Enough as it is."
	case plan.Upgrade:
		verdict = "Worth doing."
	case plan.Partial:
		verdict = "It helps, but does not reach all that is wanted."
	default:
		verdict = "Not possible as asked."
	}
	today := p.Today.Memory.TotalGB
	peak, ok := p.Record.Machine.Usage.MemoryPeak.Get()
	if !ok {
		return verdict, fmt.Sprintf("It has %s GB. How much the work uses was not measured, so the right size is not yet known.", today)
	}
	why = fmt.Sprintf("The work peaks at %s GB, and the machine has %s GB. It needs %s ÷ 0.8 = %s GB", peak, today, peak, p.Today.Need.Or(0))
	if size, ok := p.Plan.RightSize.MemoryGB.Get(); ok {
		why += fmt.Sprintf("; the next total that can be reached is %s GB.", size)
	} else {
		why += "; no total that can be reached is that large."
	}
	if peak*10 < today*8 {
		why += " That is below 0.8 of what is fitted: memory is not the complaint's cause."
	}
	return verdict, why
}

func todayColumn(p *shop.Planned, scale float64) column {
	c := column{Today: true, Heading: "Today", Sub: "taken in " + stamp(p.Record.TakenIn)}
	in := plan.Input{Chassis: p.Record.Chassis, Machine: p.Record.Machine, Parts: p.Parts, Request: p.Request}
	c.Bars = drawChannels(p.Record.Chassis, plan.Modules(in, nil), scale)
	c.Memory, c.MemorySub = memoryWords(p.Today.Memory)
	if p.Today.Storage != nil {
		c.Storage = linkWords(p.Today.Storage)
	}
	c.Battery = batteryWords(p.Today.Battery)
	c.Wireless = wirelessWords(p.Today.Wireless)
	return c
}

func optionColumn(p *shop.Planned, o *plan.Option, scale float64, names map[string]string) column {
	cur := p.Settings.Currency
	c := column{ID: o.ID, Sub: actionWords(o, names), Parts: money(cur, o.PartsCents), Labour: money(cur, o.LabourCents),
		Minutes: o.Minutes.String() + " min", Total: money(cur, o.TotalCents), Points: o.Risk.Points,
		Fingerp: shop.Fingerprint(*o), MeetsAll: o.MeetsAll, Missing: o.Missing}
	in := plan.Input{Chassis: p.Record.Chassis, Machine: p.Record.Machine, Parts: p.Parts, Request: p.Request}
	c.Bars = drawChannels(p.Record.Chassis, plan.Modules(in, o), scale)
	c.Memory, c.MemorySub = memoryWords(o.Memory)
	c.Storage = linkWords(o.Storage)
	c.Battery, c.Wireless = batteryWords(o.Battery), wirelessWords(o.Wireless)
	for _, b := range o.Buy {
		c.PartLines = append(c.PartLines, fmt.Sprintf("%d × %s %s", b.Quantity, names[b.Part], money(cur, b.Cents)))
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
		c.Consents = append(c.Consents, shop.ConsentWords(code))
	}
	return c
}

// actionWords sums an option up: what comes in and out where.
func actionWords(o *plan.Option, names map[string]string) string {
	words := ""
	for _, a := range o.Actions {
		if a.Do == plan.DoKeep {
			continue
		}
		if words != "" {
			words += "; "
		}
		switch a.Do {
		case plan.DoRemove:
			words += a.Place + " out"
		default:
			words += a.Place + ": " + names[a.Part]
		}
	}
	return words
}

// riskRows says each risk with its points, in the words of the warning that goes
// with it where there is one, and returns the other warnings.
func riskRows(o *plan.Option) (rows []riskRow, rest []plan.Warning) {
	said := map[string]bool{}
	for _, r := range o.Risk.Reasons {
		row := riskRow{riskWords(r.Code), r.Points}
		for _, w := range o.Warnings {
			if w.Code == r.Code && !said[w.Code+w.Place] {
				row.Text = w.Text
				said[w.Code+w.Place] = true
				break
			}
		}
		rows = append(rows, row)
	}
	for _, w := range o.Warnings {
		if !said[w.Code+w.Place] {
			rest = append(rest, w)
		}
	}
	return rows, rest
}

func memoryWords(m *plan.MemoryState) (line, sub string) {
	if m == nil {
		return "", ""
	}
	line = m.TotalGB.String() + " GB"
	switch m.Mode.Or("") {
	case "dual":
		line += ", all interleaved"
	case "asymmetric":
		line += fmt.Sprintf(", %s interleaved, %s single", m.Interleaved.Or(0), m.Single.Or(0))
	case "single":
		line += ", on one channel"
	default:
		line += ", channels not yet known"
	}
	if mts, ok := m.SpeedMTs.Get(); ok {
		sub = itoa(mts) + " MT/s"
	} else {
		sub = "speed not yet known"
	}
	if bw, ok := m.Bandwidth.Get(); ok {
		sub += ", " + bw.String() + " GB/s"
		if m.Mode.Or("") == "asymmetric" {
			sub += " on the interleaved part"
		}
	}
	return line, sub
}

func linkWords(st *plan.StorageState) []string {
	if st == nil {
		return nil
	}
	out := []string{st.TotalGB.String() + " GB in all"}
	for _, l := range st.Links {
		line := l.Place
		if gen, ok := l.Gen.Get(); ok {
			line += fmt.Sprintf(" gen %d ×%d", gen, l.Lanes.Or(0))
		}
		if mbs, ok := l.LinkMBs.Get(); ok {
			line += fmt.Sprintf(", %d MB/s link", mbs)
		}
		if read, ok := l.ReadMBs.Get(); ok {
			line += ", reads " + read.String()
		}
		out = append(out, line)
	}
	return out
}

func batteryWords(b *plan.BatteryState) string {
	if b == nil {
		return "none told"
	}
	words := b.Option + b.PartNumber
	if wh, ok := b.FullWh.Get(); ok {
		words += ", " + wh.String() + " Wh"
	}
	if h, ok := b.RuntimeH.Get(); ok {
		words += ", " + h.String() + " h"
	}
	return words
}

func wirelessWords(w *plan.WirelessState) string {
	if w == nil {
		return "none told"
	}
	return w.Slot + " " + w.Standard.Or("standard not yet known")
}

func riskWords(code string) string {
	switch code {
	case "memory.beyond_maker":
		return "memory beyond the maker's figure"
	case "memory.mixed":
		return "modules in the sockets differ"
	case "memory.asymmetric":
		return "part of the memory runs single"
	case "drive.hot":
		return "a drive that runs hot"
	case "drive.boot_replaced":
		return "boot drive replaced"
	case "step.board_out":
		return "the main board comes out"
	case "step.glued":
		return "a glued part is peeled off"
	case "step.seal":
		return "a seal is broken"
	case "step.live_unplug":
		return "a live plug comes off"
	case "battery.not_listed":
		return "a pack on no list"
	case "fact.assumed":
		return "a fact known from a seller or assumed"
	case "fact.disputed":
		return "a disputed fact"
	case "part.pulled":
		return "a used part"
	}
	return code
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
		out = append(out, ruledRow{r.Part, names[r.Part], r.Place, r.Text, r.Code, r.Fact, r.Step})
	}
	return out
}
