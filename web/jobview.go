package web

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/shop"
	"yembo/web/draw"
	"yembo/web/form"
)

// jobView is the page of one job: its trail, what comes next, what was agreed, what was said.
type jobView struct {
	*form.Form
	tabs
	Label                  string
	Seen                   string // where the job stands, for what is sent
	Model, ModelID         string
	Customer, Contact      string
	CustomerID             int64
	Serial, Complaint      string
	Next, Why, WaitsFor    string
	Since                  string
	Danger, Ready, Running bool
	Worked, Proven         bool // its work at the bench is done; its proof is signed
	OnBench                bool
	Earlier                []shop.Earlier
	Cautions               []string
	Closed                 string
	Wish, Budget           string
	Promised, TakenIn      string
	Details                shop.Details
	Condition              []string
	Looked                 bool
	Consents               []consentRow
	Contacts               []shop.Contact
	Ways                   []string
	ConsentNames           []string
	NotAsked               []string // consents, by their short names
	Benches                []benchChoice
	Photos                 []photoView
	Chosen                 string
	Refused                []string
	History                []shop.Change
	HasBattery             bool
	SignedAt               string
	Parts                  []jobPartRow
	Out                    []jobOut
	Trail                  *draw.Trail
	Stations               []stationView
	Spent                  string
	SpentOn                string // of it, what was spent on what
	Box                    jobBox
	Money                  []moneyLine
	Total, Net             string
	Quotes                 []versionRow
	MoneySays              string
}

// jobBox is where the job stands: what is missing before a screw is turned, and what is here.
type jobBox struct {
	Missing, Here []boxLine
	Link, Do      string // the one main action, where it is a page
	Stops         bool   // something stands against opening it
	Despite       string // why it was begun all the same
}

type boxLine struct {
	Says, Under, Link string
	Pieces            *draw.Pieces
}

// benchChoice is a bench to put the job on.
type benchChoice struct {
	N     int
	Taken bool
	Next  bool // the one that is proposed
}

// stationView is a station of the trail. Class is done, open, ahead or skipped.
type stationView struct {
	Says, Class, When, By string
}

// jobOut is what comes out of the machine.
type jobOut struct{ Place, What string }

type moneyLine struct{ What, Amount string }

// jobPartRow is a part of the option chosen, with how far it is.
type jobPartRow struct {
	ID, Name, State string
	Pieces          *draw.Pieces
	CanFit          int
	Late            string
}

// jobParts lists the parts of a job's option.
func jobParts(j *shop.JobRecord, today string) []jobPartRow {
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
		say(p.Held, draw.PieceHeld, "kept for it")
		if l := p.Lack; l != nil {
			coming := 0
			if l.Order != nil {
				coming = l.Order.N
				say(coming, draw.PieceComing, orderWords(l.Order))
				if l.Order.Late(today) {
					row.Late = "Late: ring " + l.Order.Supplier + " " + l.Order.Contact
				}
			}
			if l.Gone {
				say(l.N-coming, draw.PieceMissing, "can be had no more: plan anew")
			} else {
				say(l.N-coming, draw.PieceMissing, "to be ordered")
			}
		}
		row.State = strings.Join(said, ", ")
		if len(said) == 0 {
			row.State = fmt.Sprintf("%d wanted; nobody counts it", p.Asked)
		}
		row.Pieces = draw.PiecesOf(p.Doc, groups)
		out = append(out, row)
	}
	return out
}

func orderWords(o *shop.Coming) string {
	words := fmt.Sprintf("on order %d", o.Order)
	if o.Due != "" {
		words += ", due " + hw.Day(o.Due)
	}
	return words
}

func (s *server) jobPage(c *echo.Context, status int, v jobView) error {
	id, err := jobID(c)
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
	row := shop.Stand(*r, j.Lacks, s.Shop.Now().Format(time.DateOnly))
	for i := range rows {
		if rows[i].JobID == id {
			row = rows[i] // as it is planned onto the benches
		}
	}
	v.tabs, v.Label = tabsOf(r, "job"), shop.Label(id)
	v.Model, v.ModelID, v.Customer, v.Contact, v.CustomerID = r.Chassis.Name(), r.Chassis.ID, r.Customer, r.Contact,
		r.CustomerID
	v.Serial, v.Complaint, v.Details, v.Contacts, v.History = r.Machine.Serial, r.Complaint, r.Details, j.Contacts, r.History
	v.Next, v.Why, v.WaitsFor, v.Since = row.Next, strings.TrimSuffix(row.Why, "."), row.WaitsFor,
		sinceWords(s.Shop.Now(), row.Since)
	v.Seen, v.Parts = j.Mark(), jobParts(&j, s.Shop.Now().Format(time.DateOnly))
	v.Worked, v.Proven = row.Class == shop.ClassDone, r.State.Proven != nil
	v.OnBench, v.Earlier = r.State.Running != nil, j.Earlier
	v.Danger, v.Ready, v.Running = row.Class == shop.ClassDanger, row.Class == shop.ClassReady,
		row.Class == shop.ClassRunning
	if v.Danger {
		v.Cautions = dangerCautions(r)
	}
	v.TakenIn, v.Wish = stamp(r.TakenIn), wishWords(r.Wish, r.Chassis)
	if cents, ok := r.Wish.BudgetCents.Get(); ok {
		v.Budget = hw.Money(how.Currency, cents)
	}
	if !r.Promised.IsZero() {
		v.Promised = stamp(r.Promised)
	}
	if !r.Closed.IsZero() {
		v.Closed = stamp(r.Closed)
	}
	v.Looked, v.Condition = r.Details.Condition.Looked, conditionWords(&r.Details.Condition)
	v.Consents, v.ConsentNames = consentRows(r.Details.Consents), hw.ConsentNames()
	for i := range v.Consents {
		x := &v.Consents[i]
		x.Asked = r.Choice != nil && slices.Contains(r.Choice.Option.Consents, hw.Consent(x.Code))
		if !x.Asked && !x.Given {
			v.NotAsked = append(v.NotAsked, hw.Consent(x.Code).Row().Short)
		}
	}
	v.Ways, v.HasBattery = shop.ContactWays, r.Machine.Fitted.Battery != nil
	v.Quotes = versionRows(j.Quotes, 0)
	v.Benches = benchChoices(rows, &row, how.FloorOf().Benches)
	if r.Choice != nil {
		v.chosen(r)
		v.quoted(&j)
	}
	if sig := r.Details.Signature; sig != nil {
		v.SignedAt = stamp(sig.At)
	}
	v.Box = boxOf(&j, &row)
	if v.Closed == "" && (r.Choice != nil || v.Worked) {
		p, err := s.Shop.Proof(ctx, id)
		if err != nil {
			return err
		}
		v.proof(&p)
	}
	v.trail(&j, &row, how.FloorOf())
	v.Photos, _ = photoViewsAt(fmt.Sprintf("/jobs/%d/photos/", id), j.Photos)
	return s.render(c, status, "job", v.Label+" "+v.MachineID, "machines", v)
}

// benchChoices are the benches, the one that the job is planned for first, else the first free one.
func benchChoices(rows []shop.BenchRow, row *shop.BenchRow, benches int) []benchChoice {
	out := make([]benchChoice, benches)
	for b := range out {
		out[b].N = b + 1
	}
	for i := range rows {
		if r := &rows[i]; r.Class == shop.ClassRunning && r.Bench >= 1 && r.Bench <= benches && r.JobID != row.JobID {
			out[r.Bench-1].Taken = true
		}
	}
	next := row.Bench - 1
	if next < 0 || next >= benches || out[next].Taken {
		next = 0
		for next < benches-1 && out[next].Taken {
			next++
		}
	}
	out[next].Next = true
	out[0], out[next] = out[next], out[0]
	return out
}

// quoted fills what was accepted, as it stands on the quote.
func (v *jobView) quoted(j *shop.JobRecord) {
	q := j.Agreed()
	if q == nil {
		return
	}
	alt := q.Doc.Alternative(q.Given.Letter)
	v.Money = nil
	for _, l := range alt.Lines {
		v.Money = append(v.Money, moneyLine{l.Text, hw.Money(q.Doc.Currency, l.Cents)})
	}
	for _, t := range alt.Sum.Taxes {
		if t.Percent > 0 {
			v.Money = append(v.Money, moneyLine{fmt.Sprintf("Tax, %s %%", t.Percent), hw.Money(q.Doc.Currency, t.Cents)})
		}
	}
	v.Total, v.MoneySays = hw.Money(q.Doc.Currency, alt.Sum.Total), "As accepted in quote "+q.Label()+"."
}

// chosen fills what the chosen option comes to.
func (v *jobView) chosen(r *shop.MachineRecord) {
	o := &r.Choice.Option
	money := func(cents int64) string { return hw.Money(r.Choice.Currency, cents) }
	copying := shop.CopyWords(o)
	if copying != "" {
		copying = ", " + copying
	}
	v.Chosen = fmt.Sprintf("%s, %s min%s, %s by %s", chosenWords(r.Choice), o.Minutes, copying, stamp(r.ChosenAt), r.ChosenBy)
	names := map[string]string{}
	for i := range v.Parts {
		names[v.Parts[i].ID] = v.Parts[i].Name
	}
	for _, b := range o.Buy {
		v.Money = append(v.Money, moneyLine{fmt.Sprintf("%d × %s", b.Quantity, names[b.Part]), money(b.Cents)})
	}
	v.Money = append(v.Money, moneyLine{fmt.Sprintf("Labour, %s min", o.Minutes), money(o.LabourCents)})
	if cents, ok := o.ServicesCents.Get(); ok {
		v.Money = append(v.Money, moneyLine{"What the services use up", money(cents)})
	}
	v.Total, v.MoneySays = money(o.TotalCents), "As it was chosen, without tax. No quote is accepted yet."
	for _, a := range o.Actions {
		if a.Do == plan.DoReplace || a.Do == plan.DoRemove {
			v.Out = append(v.Out, jobOut{a.Place, a.Out})
		}
	}
}

// proof says what of the proof is to be seen to: what stands against signing when the work is done,
// before that what is better measured now than never.
func (v *jobView) proof(p *shop.Proof) {
	if v.Worked {
		v.Box.Missing = nil
		for _, bar := range p.Bars {
			v.Box.Missing = append(v.Box.Missing, boxLine{Says: sentence(bar), Link: proofAt(v.JobID)})
		}
		return
	}
	var names []string
	for _, m := range p.Unmeasured() {
		names = append(names, hw.LowerFirst(m.Name))
	}
	if len(names) > 0 {
		v.Box.Missing = append(v.Box.Missing, boxLine{Says: "Measured as it came: " + strings.Join(names, "; "),
			Under: "for the proof; it can begin without", Link: proofAt(v.JobID) + "#measures"})
	}
}

// boxOf says what is missing before a screw is turned, and what is here.
func boxOf(j *shop.JobRecord, row *shop.BenchRow) jobBox {
	b := jobBox{Stops: len(j.Stops) > 0, Despite: j.State.Despite}
	key := j.Key
	for i := range j.Stops {
		st := &j.Stops[i]
		line := boxLine{Says: sentence(st.Says)}
		switch st.Kind {
		case shop.StopLook:
			line.Under, line.Link = "look, then say how it came", fmt.Sprintf("/jobs/%d/correct", j.JobID)
		case shop.StopConsent:
			line.Says, line.Under, line.Link = sentence(st.Consent.Row().Says), "a consent, not given yet", "#talk"
		case shop.StopPart:
			line.Says, line.Under, line.Link = fmt.Sprintf("%d × %s", st.Lack.N, st.Lack.Name), "to be ordered", "/orders/new"
			if o := st.Lack.Order; o != nil {
				line.Under, line.Link = orderWords(o), fmt.Sprintf("/orders/%d", o.Order)
			} else if st.Lack.Gone {
				line.Under, line.Link = "can be had no more", "/machines/"+key
			}
		}
		b.Missing = append(b.Missing, line)
	}
	for _, due := range j.Due {
		b.Missing = append(
			b.Missing,
			boxLine{Says: sentence(due), Under: "invoice, payments", Link: fmt.Sprintf("/jobs/%d/bill", j.JobID)},
		)
	}
	for i := range j.Parts {
		if p := &j.Parts[i]; p.Held > 0 {
			b.Here = append(b.Here, boxLine{Says: fmt.Sprintf("%d × %s", p.Held, p.Name), Under: "kept for this job",
				Link: "/parts/" + p.Part, Pieces: draw.PiecesOf(p.Doc, []draw.PieceGroup{{State: draw.PieceHeld, N: p.Held}})})
		}
	}
	if given := givenConsents(j); given != "" {
		b.Here = append(b.Here, boxLine{Says: "Consents: " + given})
	}
	if j.Details.Condition.Looked {
		b.Here = append(b.Here, boxLine{Says: "Looked over"})
	}
	b.action(j, row)
	return b
}

// action is the one main action where it is a page, and not a move of the job.
func (b *jobBox) action(j *shop.JobRecord, row *shop.BenchRow) {
	switch {
	case row.Class == shop.ClassReady || row.Class == shop.ClassRunning || row.Class == shop.ClassDanger:
	case row.Class == shop.ClassDone:
		if b.Link, b.Do = proofAt(j.JobID), "Prove it"; j.State.Declined != nil {
			b.Link, b.Do = "#close", "It is handed back"
		} else if j.State.Proven != nil {
			b.Do = "Hand it over"
		}
	case row.Class == shop.ClassCustomer && j.State.Quote != 0:
		b.Link, b.Do = quoteAt(j.State.Quote), "Note their answer"
	case row.Class == shop.ClassCustomer:
		b.Link, b.Do = "#talk", "Note what they say"
	case row.Class == shop.ClassParts:
		b.Link, b.Do = "/orders/new", "Order it"
		for i := range j.Lacks {
			switch l := &j.Lacks[i]; {
			case l.Gone:
				b.Link, b.Do = "/machines/"+j.Key, "Plan anew"
				return
			case l.Order != nil:
				b.Link, b.Do = fmt.Sprintf("/orders/%d", l.Order.Order), "It is here: take it in"
			default:
				return
			}
		}
		if len(j.Lacks) == 0 {
			b.Link, b.Do = "/orders", "See the orders"
		}
	case !shop.Surveyed(j.Chassis):
		b.Link, b.Do = "/models/"+j.Chassis.ID, "Record the model"
	default:
		b.Link, b.Do = "/machines/"+j.Key, "Choose an option"
	}
}

// trail draws the job's life and tells it in a sentence.
func (v *jobView) trail(j *shop.JobRecord, row *shop.BenchRow, floor shop.Floor) {
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
		st := stationView{Says: x.Says(), When: stamp(x.At), By: x.By, Class: "done"}
		at, ahead := x.At, false
		if x.At.IsZero() {
			st.When, st.Class, ahead = "", "ahead", true
			switch {
			case i < farthest || in.Closed:
				st.Class, st.By = "skipped", "not noted"
			case x.ID == shop.StationOpened && !row.Start.IsZero() && row.Class == shop.ClassReady:
				at = row.Start
				st.When, st.By = stamp(at), fmt.Sprintf("bench %d, %s min", row.Bench, row.Minutes.Or(0))
			case x.ID == shop.StationOut && !j.Promised.IsZero():
				at = j.Promised
				st.When, st.By = stamp(at), "promised"
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
	v.Spent = fmt.Sprintf("On the bench %s of %s.", draw.DurationWords(t.Spent[shop.SpanBench]),
		draw.DurationWords(t.Until.Sub(t.From)))
	var waits []string
	for _, x := range []struct {
		kind shop.SpanKind
		who  string
	}{{shop.SpanCustomer, "for the customer"}, {shop.SpanParts, "for parts"}, {shop.SpanShop, "for us"}} {
		if d := t.Spent[x.kind].Round(time.Minute); d > 0 {
			waits = append(waits, draw.DurationWords(d)+" "+x.who)
		}
	}
	if len(waits) > 0 {
		v.SpentOn = "It waited " + strings.Join(waits, ", ") + "."
	}
	if t.Hands > 0 {
		v.SpentOn = strings.TrimSpace(v.SpentOn + " Step by step, hands were on it " + draw.DurationWords(t.Hands) + ".")
	}
	v.Trail.Says = v.Spent + " " + v.SpentOn
}
