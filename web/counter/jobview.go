package counter

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/work"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// jobView is the page of one job: its trail, what comes next, what was agreed, what was said.
type jobView struct {
	*form.Form
	kit.Tabs
	Label                  string
	Seen                   string // where the job stands, for what is sent
	Model, ModelID         string
	Customer, Contact      string
	CustomerID             int64
	Serial, Complaint      string
	Next, Why, WaitsFor    string
	Data                   string // what can be lost
	Since                  string
	Danger, Ready, Running bool
	Worked, Proven         bool // its work at the bench is done; its proof is signed
	OnBench                bool
	Away                   bool // the machine is not here yet
	Earlier                []jobs.Earlier
	Cautions               []string
	Closed                 string
	Wish, Budget           string
	Promised, TakenIn      string
	Details                jobs.Details
	Condition              []string
	Looked                 bool
	Consents               []kit.ConsentRow
	Contacts               []jobs.Contact
	Ways                   []string
	ConsentNames           []string
	NotAsked               []string // consents, by their short names
	Benches                []kit.BenchChoice
	Photos                 []kit.PhotoView
	Chosen                 string
	Refused                []string
	History                []base.Change
	HasBattery             bool
	SignedAt               string
	Parts                  []jobPartRow
	Out                    []jobOut
	Trail                  *draw.Trail
	Stations               []stationView
	Spent                  string
	SpentOn                string // of it, what was spent on what
	Box                    kit.JobBox
	Money                  []kit.MoneyLine
	Total, Net             string
	Quotes                 []kit.VersionRow
	MoneySays              string
}

// stationView is a station of the trail. Class is done, open, ahead or skipped.
type stationView struct {
	Says, Class, When, By string
}

// jobOut is what comes out of the machine.
type jobOut struct{ Place, What string }

// jobPartRow is a part of the option chosen, with how far it is.
type jobPartRow struct {
	ID, Name, State string
	Pieces          *draw.Pieces
	CanFit          int
	Late            string
}

// jobParts lists the parts of a job's option.
func jobParts(j *jobs.JobRecord, now time.Time) []jobPartRow {
	var out []jobPartRow
	for i := range j.Parts {
		p := &j.Parts[i]
		row := jobPartRow{ID: p.Part, Name: p.Name, CanFit: p.Held}
		var said []string
		var groups []draw.PieceGroup
		say := func(n int, state draw.PieceState, words string) {
			if n > 0 {
				said = append(said, fmt.Sprintf("%d %s", n, words))
				groups = append(groups, draw.PieceGroup{State: state, N: n})
			}
		}
		say(p.Fitted, draw.PieceFree, "fitted")
		say(p.Held, draw.PieceHeld, "reserved")
		if l := p.Lack; l != nil {
			coming := 0
			if l.Order != nil {
				coming = l.Order.N
				say(coming, draw.PieceComing, kit.OrderWords(l.Order))
				if l.Order.Due.Late(now) {
					row.Late = "Late: call " + l.Order.Supplier + " " + l.Order.Contact
				}
			}
			if l.Gone {
				say(l.N-coming, draw.PieceMissing, "no longer available: plan again")
			} else {
				say(l.N-coming, draw.PieceMissing, "to be ordered")
			}
		}
		row.State = strings.Join(said, ", ")
		if len(said) == 0 {
			row.State = fmt.Sprintf("%d wanted; not counted", p.Asked)
		}
		row.Pieces = draw.PiecesOf(p.Doc, groups)
		out = append(out, row)
	}
	return out
}

func (s *pages) jobPage(c *echo.Context, status int, v jobView) error {
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	j, err := s.Shop.Job(ctx, id)
	if err != nil {
		return err
	}
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	rows, err := s.Shop.BenchList(ctx)
	if err != nil {
		return err
	}
	r := &j.MachineRecord
	row := jobs.Stand(*r, j.Lacks, s.Shop.Now())
	for i := range rows {
		if rows[i].JobID == id {
			row = rows[i] // as it is planned onto the benches
		}
	}
	v.Tabs, v.Label = kit.TabsOf(r, "job"), base.Label(id)
	v.Model, v.ModelID, v.Customer, v.Contact, v.CustomerID = r.Chassis.Name(), r.Chassis.ID, r.Customer, r.Contact,
		r.CustomerID
	v.Serial, v.Complaint, v.Details, v.Contacts, v.History = r.Machine.Serial, r.Complaint, r.Details, j.Contacts, r.History
	v.Data = row.Data
	v.Next, v.Why, v.WaitsFor, v.Since = row.Next, strings.TrimSuffix(row.Why, "."), row.WaitsFor,
		kit.SinceWords(s.Shop.Now(), row.Since)
	v.Seen, v.Parts = j.Mark(), jobParts(&j, s.Shop.Now())
	v.Worked, v.Proven = row.Class == jobs.ClassDone, r.State.Proven != nil
	v.OnBench, v.Earlier = r.State.Running != nil, j.Earlier
	v.Danger, v.Ready, v.Running = row.Class == jobs.ClassDanger, row.Class == jobs.ClassReady,
		row.Class == jobs.ClassRunning
	if v.Danger {
		v.Cautions = kit.DangerCautions(r)
	}
	v.TakenIn, v.Wish = kit.Stamp(r.TakenIn), kit.WishWords(r.Wish, r.Chassis)
	if cents, ok := r.Wish.BudgetCents.Get(); ok {
		v.Budget = kit.BudgetWords(&how, cents)
	}
	if !r.Promised.IsZero() {
		v.Promised = kit.Stamp(r.Promised)
	}
	if !r.Closed.IsZero() {
		v.Closed = kit.Stamp(r.Closed)
	}
	v.Looked, v.Condition = r.Details.Condition.Looked, conditionWords(&r.Details.Condition)
	v.Consents, v.ConsentNames = kit.ConsentRows(r.Details.Consents), hw.ConsentNames()
	for i := range v.Consents {
		x := &v.Consents[i]
		x.Asked = r.Choice != nil && slices.Contains(r.Choice.Option.Consents, hw.Consent(x.Code))
		if !x.Asked && !x.Given {
			v.NotAsked = append(v.NotAsked, hw.Consent(x.Code).Row().Short)
		}
	}
	v.Ways, v.HasBattery = jobs.ContactWays, r.Machine.Fitted.Battery != nil
	v.Quotes = kit.VersionRows(j.Quotes, 0)
	v.Benches = kit.BenchChoices(rows, &row, how.FloorOf().Benches)
	if r.Choice != nil {
		v.chosen(r)
		v.quoted(&j)
	}
	if sig := r.Details.Signature; sig != nil {
		v.SignedAt = kit.Stamp(sig.At)
	}
	v.Box = kit.BoxOf(&j, &row, s.Shop.Now())
	v.Away = r.State.Away != nil
	if v.Closed == "" && (r.Choice != nil || v.Worked) {
		p, err := s.Shop.ProofOf(ctx, j)
		if err != nil {
			return err
		}
		v.proof(&p)
	}
	v.trail(&j, &row, how.FloorOf())
	v.Photos, _ = kit.PhotoViewsAt(fmt.Sprintf("/jobs/%d/photos/", id), j.Photos)
	return s.Render(c, status, "job", v.Label+" "+v.MachineID, "machines", v)
}

// quoted fills what was accepted, as it stands on the quote.
func (v *jobView) quoted(j *jobs.JobRecord) {
	q := j.Agreed()
	if q == nil {
		return
	}
	alt := q.Doc.Alternative(q.Given.Letter)
	v.Money = nil
	for _, l := range alt.Lines {
		v.Money = append(v.Money, kit.MoneyLine{What: l.Text, Amount: hw.Money(q.Doc.Currency, l.Cents)})
	}
	for _, t := range alt.Sum.Taxes {
		if t.Percent > 0 {
			v.Money = append(v.Money, kit.MoneyLine{What: fmt.Sprintf("Tax, %s %%", t.Percent), Amount: hw.Money(q.Doc.Currency, t.Cents)})
		}
	}
	v.Total, v.MoneySays = hw.Money(q.Doc.Currency, alt.Sum.Total), "As accepted in quote "+q.Label()+"."
}

// chosen fills what the chosen option comes to.
func (v *jobView) chosen(r *jobs.MachineRecord) {
	o := &r.Choice.Option
	money := func(cents int64) string { return hw.Money(r.Choice.Currency, cents) }
	copying := jobs.CopyWords(o)
	if copying != "" {
		copying = ", " + copying
	}
	v.Chosen = fmt.Sprintf(
		"%s, %s min%s, %s by %s",
		kit.ChosenWords(r.Choice),
		o.Minutes,
		copying,
		kit.Stamp(r.ChosenAt),
		r.ChosenBy,
	)
	names := map[string]string{}
	for i := range v.Parts {
		names[v.Parts[i].ID] = v.Parts[i].Name
	}
	for _, b := range o.Buy {
		v.Money = append(v.Money, kit.MoneyLine{What: fmt.Sprintf("%d × %s", b.Quantity, names[b.Part]), Amount: money(b.Cents)})
	}
	v.Money = append(v.Money, kit.MoneyLine{What: fmt.Sprintf("Labour, %s min", o.Minutes), Amount: money(o.LabourCents)})
	if cents, ok := o.ServicesCents.Get(); ok {
		v.Money = append(v.Money, kit.MoneyLine{What: "What the services use up", Amount: money(cents)})
	}
	v.Total, v.MoneySays = money(o.TotalCents), "From the chosen option, without tax. No quote accepted yet."
	for _, a := range o.Actions {
		if a.Do == plan.DoReplace || a.Do == plan.DoRemove {
			v.Out = append(v.Out, jobOut{a.Place, a.Out})
		}
	}
}

// proof says what of the proof is to be seen to: what stands against signing when the work is done,
// before that what is better measured now than never.
func (v *jobView) proof(p *work.Proof) {
	if v.Worked {
		v.Box.Missing = nil
		for _, bar := range p.Bars {
			v.Box.Missing = append(v.Box.Missing, kit.BoxLine{Says: kit.Sentence(bar), Link: kit.ProofAt(v.JobID)})
		}
		return
	}
	var names []string
	for _, m := range p.Unmeasured() {
		names = append(names, hw.LowerFirst(m.Name))
	}
	if len(names) > 0 {
		v.Box.Missing = append(v.Box.Missing, kit.BoxLine{Says: "Measure before work: " + strings.Join(names, "; "),
			Under: "needed for the proof; work can start without", Link: kit.ProofAt(v.JobID) + "#measures"})
	}
}

// trail draws the job's life and tells it in a sentence.
func (v *jobView) trail(j *jobs.JobRecord, row *jobs.BenchRow, floor base.Floor) {
	t := &j.Trail
	in := draw.TrailTime{From: t.From, Until: t.Until, End: t.Until, Promise: j.Promised, Closed: !j.Closed.IsZero(),
		Opens: floor.Opens, Closes: floor.Closes, OpenOn: floor.Days.Has}
	for _, x := range t.Spans {
		in.Spans = append(in.Spans, draw.TrailSpan{Class: string(x.Kind), From: x.From, To: x.To, Says: spanWords.Says(x.Kind)})
	}
	farthest := 0 // the last station that was passed
	for i := range t.Stations {
		if !t.Stations[i].At.IsZero() {
			farthest = i
		}
	}
	for i := range t.Stations {
		x := &t.Stations[i]
		st := stationView{Says: x.Says(), When: kit.Stamp(x.At), By: x.By, Class: "done"}
		at, ahead := x.At, false
		if x.At.IsZero() {
			st.When, st.Class, ahead = "", "ahead", true
			switch {
			case i < farthest || in.Closed:
				st.Class, st.By = "skipped", "not noted"
			case x.ID == jobs.StationOpened && !row.Start.IsZero() && row.Class == jobs.ClassReady:
				at = row.Start
				st.When, st.By = kit.Stamp(at), fmt.Sprintf("bench %d, %s min", row.Bench, row.Minutes.Or(0))
			case x.ID == jobs.StationOut && !j.Promised.IsZero():
				at = j.Promised
				st.When, st.By = kit.Stamp(at), "promised"
			}
		}
		if x.Open {
			st.Class = "open"
			if v.Danger {
				st.Class = "halted" // it has no box of its own: what stops it comes first
			}
			if x.At.IsZero() && st.When == "" {
				st.By = openWords(j)
			}
		}
		if ahead && !at.After(in.Until) {
			at = time.Time{} // it lies behind, and did not happen
		}
		if at.After(in.End) {
			in.End = at
		}
		in.Stations, in.Ahead = append(in.Stations, at), append(in.Ahead, ahead)
		v.Stations = append(v.Stations, st)
	}
	v.Trail = in.Draw()
	v.Spent = fmt.Sprintf("On the bench %s of %s.", draw.DurationWords(t.Spent[jobs.SpanBench]),
		draw.DurationWords(t.Until.Sub(t.From)))
	var waits []string
	for _, x := range []struct {
		kind jobs.SpanKind
		who  string
	}{{jobs.SpanCustomer, "for the customer"}, {jobs.SpanParts, "for parts"}, {jobs.SpanShop, "for us"}} {
		if d := t.Spent[x.kind].Round(time.Minute); d > 0 {
			waits = append(waits, draw.DurationWords(d)+" "+x.who)
		}
	}
	if len(waits) > 0 {
		v.SpentOn = "Waited " + strings.Join(waits, ", ") + "."
	}
	if t.Hands > 0 {
		v.SpentOn = strings.TrimSpace(v.SpentOn + " Hands-on, step by step: " + draw.DurationWords(t.Hands) + ".")
	}
	v.Trail.Says = v.Spent + " " + v.SpentOn
}
