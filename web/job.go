package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/exchange/photo"
	"yembo/shop"
	"yembo/web/draw"
	"yembo/web/form"
)

// jobView is the page of one job: what comes next, what was agreed, what was said.
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
	Benches                []int
	Photos                 []photoView
	Chosen                 string
	History                []shop.Change
	Refused                []string
	HasBattery             bool
	SignedAt               string
	Parts                  []jobPartRow
}

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
	for _, p := range j.Parts {
		row := jobPartRow{ID: p.Part, Name: p.Name, CanFit: p.Held}
		var said []string
		say := func(n int, words string) {
			if n > 0 {
				said = append(said, fmt.Sprintf("%d %s", n, words))
			}
		}
		say(p.Fitted, "fitted")
		say(p.Held, "kept for it")
		if l := p.Lack; l != nil {
			coming := 0
			if l.Order != nil {
				coming = l.Order.N
				words := fmt.Sprintf("on order %d", l.Order.Order)
				if l.Order.Due != "" {
					words += ", due " + hw.Day(l.Order.Due)
				}
				say(coming, words)
				if l.Order.Late(today) {
					row.Late = "Late: ring " + l.Order.Supplier + " " + l.Order.Contact
				}
			}
			if l.Gone {
				say(l.N-coming, "can be had no more: plan anew")
			} else {
				say(l.N-coming, "to be ordered")
			}
		}
		row.State = fmt.Sprintf("%d wanted: ", p.Asked) + strings.Join(said, ", ")
		out = append(out, row)
	}
	return out
}

// fitPart notes that a part of the job's option was fitted, or lies on the shelf again.
func (s *server) fitPart(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	id, err := jobID(c)
	if err != nil {
		return err
	}
	kind := shop.Fitted
	if f.Is("do", "back") {
		kind = shop.Unfitted
	}
	err = s.Shop.MovePart(c.Request().Context(), s.Actor, f.Text("token"),
		shop.Moving{Part: f.Text("part"), Kind: kind, N: f.Whole("n").Or(1),
			Job: id, Serials: serialsOf(f.Text("serials"))})
	if err == nil {
		return seeOther(c, fmt.Sprintf("/jobs/%d#parts", id))
	}
	if !f.Take(err) {
		return err
	}
	return s.jobPage(c, http.StatusUnprocessableEntity, jobView{Form: f})
}

// tabs are the pages of one machine.
type tabs struct {
	Key       string // of the machine, for addresses
	MachineID string
	JobID     int64
	At        string // job, plan, readings, draw, history
}

// Label is the job's number as on its label, "" where the machine has no job.
func (t tabs) JobLabel() string {
	if t.JobID == 0 {
		return ""
	}
	return shop.Label(t.JobID)
}

func tabsOf(r *shop.MachineRecord, at string) tabs { return tabs{r.Key, r.Machine.ID, r.JobID, at} }

func jobID(c *echo.Context) (int64, error) {
	id, err := strconv.ParseInt(c.Param("job"), 10, 64)
	if err != nil {
		return 0, shop.ErrNotFound
	}
	return id, nil
}

// findJob opens the job of a label that was typed or scanned; anything else is searched.
func (s *server) findJob(c *echo.Context) error {
	code := strings.TrimSpace(c.QueryParam("code"))
	id, ok := shop.JobOfLabel(code)
	if ok {
		_, err := s.Shop.Job(c.Request().Context(), id)
		if ok = err == nil; err != nil && !errors.Is(err, shop.ErrNotFound) {
			return err
		}
	}
	if ok {
		return seeOther(c, fmt.Sprintf("/jobs/%d", id))
	}
	// A part's label or number, or the serial of a piece, when no machine has it.
	found, err := s.Shop.Machines(c.Request().Context(), code)
	if err != nil {
		return err
	}
	if len(found.Machines) == 0 {
		look, err := s.Shop.LookAtPart(c.Request().Context(), code)
		switch {
		case err != nil:
			return err
		case len(look.Serials) > 0:
			return seeOther(c, "/parts/"+look.Serials[0].Part)
		case look.Same != nil && len(look.Like) == 0:
			return seeOther(c, "/parts/"+look.Same.ID)
		case look.Same != nil:
			return seeOther(c, "/parts?q="+url.QueryEscape(code))
		}
	}
	return seeOther(c, "/machines?q="+url.QueryEscape(code))
}

func (s *server) showJob(c *echo.Context) error {
	return s.jobPage(c, http.StatusOK, jobView{Form: form.New(url.Values{})})
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
	r := &j.MachineRecord
	row := shop.Stand(*r, j.Lacks, s.Shop.Now().Format(time.DateOnly))
	v.tabs, v.Label = tabsOf(r, "job"), shop.Label(id)
	v.Model, v.ModelID, v.Customer, v.Contact, v.CustomerID = r.Chassis.Name(), r.Chassis.ID, r.Customer, r.Contact,
		r.CustomerID
	v.Serial, v.Complaint, v.Details, v.History, v.Contacts = r.Machine.Serial, r.Complaint, r.Details, r.History,
		j.Contacts
	v.Next, v.Why, v.WaitsFor, v.Since = row.Next, strings.TrimSuffix(row.Why, "."), row.WaitsFor,
		sinceWords(s.Shop.Now(), row.Since)
	v.Seen, v.Parts = j.Mark(), jobParts(&j, s.Shop.Now().Format(time.DateOnly))
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
		v.Promised = r.Promised.Format("Mon 2 Jan, 15:04")
	}
	if !r.Closed.IsZero() {
		v.Closed = stamp(r.Closed)
	}
	v.Looked, v.Condition = r.Details.Condition.Looked, conditionWords(&r.Details.Condition)
	v.Consents = consentRows(r.Details.Consents)
	v.Ways, v.HasBattery = shop.ContactWays, r.Machine.Fitted.Battery != nil
	for b := 1; b <= how.FloorOf().Benches; b++ {
		v.Benches = append(v.Benches, b)
	}
	if r.Choice != nil {
		v.Chosen = fmt.Sprintf("%s, %s, %s min, %s by %s", chosenWords(r.Choice),
			hw.Money(r.Choice.Currency, r.Choice.Option.TotalCents), r.Choice.Option.Minutes, stamp(r.ChosenAt),
			r.ChosenBy)
	}
	if sig := r.Details.Signature; sig != nil {
		v.SignedAt = stamp(sig.At)
	}
	v.Photos, _ = photoViewsAt(fmt.Sprintf("/jobs/%d/photos/", id), j.Photos)
	return s.render(c, status, "job", v.Label+" "+v.MachineID, "machines", v)
}

// consentsOf are the consents ticked on a form.
func consentsOf(f *form.Form) []hw.Consent {
	var out []hw.Consent
	for _, code := range f.Values["/consents"] {
		out = append(out, hw.Consent(code))
	}
	return out
}

func consentRows(given []hw.Consent) []consentRow {
	var out []consentRow
	for _, x := range hw.Consents {
		out = append(out, consentRow{string(x.Consent), sentence(x.Says), x.Why, slices.Contains(given, x.Consent)})
	}
	return out
}

// conditionWords says how the machine came, what is wrong first.
func conditionWords(c *shop.Condition) []string {
	var out []string
	for _, x := range []struct {
		is   bool
		word string
	}{{c.Swollen, "pack swollen"}, {c.Hot, "hot or smelling"}, {c.Damp, "damp"}, {c.Cracked, "cracked"},
		{c.Screws, "screws missing"}} {
		if x.is {
			out = append(out, x.word)
		}
	}
	if len(out) == 0 && c.Looked {
		out = append(out, "dry, whole, flat, no screw missing")
	}
	if c.Seal != "" {
		out = append(out, map[string]string{"intact": "seal intact", "broken": "seal broken",
			"none": "no seal"}[c.Seal])
	}
	if c.Note != "" {
		out = append(out, c.Note)
	}
	return out
}

// dangerCautions are the usual cautions for what is wrong with a machine (handbook 5).
func dangerCautions(r *shop.MachineRecord) []string {
	c := r.Details.Condition
	var out []string
	if c.Swollen || c.Hot || r.Machine.Fitted.Battery != nil && r.Machine.Fitted.Battery.Swollen.Or(false) {
		out = append(out, "Do not charge it, start it, press it or pry at it. Away from people and anything that "+
			"burns, on stone or in the fire box.",
			"Take the pack out only where local rules and your training allow it; never bend or pierce it. It goes "+
				"to battery recycling, terminals taped.",
			"Smoke, hissing or heat: out of the room, call the fire service.")
	}
	if c.Damp {
		out = append(out, "No charger, no start: pack unplugged as soon as it can be, opened and dried before "+
			"anything is tested.")
	}
	if c.Cracked {
		out = append(out, "Gloves and glasses: broken glass and sharp edges. Tape over the crack before it is "+
			"turned over.")
	}
	return append(out, "Local electrical, battery and waste rules, and the maker's service sheet, come before this "+
		"page.")
}

// agoWords is how long ago something was.
func agoWords(now, then time.Time) string {
	if now.Sub(then) < time.Minute {
		return "just now"
	}
	return sinceWords(now, then) + " ago"
}

// sinceWords says how long ago something was, without the word.
func sinceWords(now, then time.Time) string {
	if then.IsZero() {
		return ""
	}
	switch d := now.Sub(then); {
	case d < time.Minute:
		return "just now"
	case d < time.Hour:
		return fmt.Sprintf("%d min", int(d.Minutes()))
	case d < 24*time.Hour:
		return fmt.Sprintf("%d h", int(d.Hours()))
	case d < 48*time.Hour:
		return "1 day"
	default:
		return fmt.Sprintf("%d days", int(d.Hours()/24))
	}
}

// jobForm is the form that was sent about a job.
func jobForm(c *echo.Context) (int64, *form.Form, error) {
	id, err := jobID(c)
	if err != nil {
		return 0, nil, err
	}
	f, err := form.Sent(c)
	return id, f, err
}

// moveJob changes where a job stands.
func (s *server) moveJob(c *echo.Context) error {
	id, f, err := jobForm(c)
	if err != nil {
		return err
	}
	m := shop.Move{To: f.Text("/to"), For: f.Text("/for"), Due: f.Date("/due"), Bench: f.Whole("/bench").Or(0),
		Out: f.Is("/out", "yes"), Seen: f.Text("seen")}
	return s.answerJob(c, f, id, s.Shop.MoveJob(c.Request().Context(), s.Actor, f.Text("token"), id, m))
}

// answerJob goes back to the job, or shows it with the faults at their fields.
func (s *server) answerJob(c *echo.Context, f *form.Form, id int64, err error) error {
	switch {
	case err == nil && f.Count() == 0:
		return seeOther(c, fmt.Sprintf("/jobs/%d", id))
	case err != nil && !f.Take(err):
		return err
	}
	return s.jobPage(c, http.StatusUnprocessableEntity, jobView{Form: f})
}

func (s *server) addContact(c *echo.Context) error {
	id, f, err := jobForm(c)
	if err != nil {
		return err
	}
	contact := shop.Contact{Who: f.Text("/who"), How: f.Text("/how"), Said: f.Text("/said"), Agreed: f.Text("/agreed")}
	return s.answerJob(c, f, id, s.Shop.AddContact(c.Request().Context(), s.Actor, f.Text("token"), id, contact,
		consentsOf(f)))
}

func (s *server) signJob(c *echo.Context) error {
	id, f, err := jobForm(c)
	if err != nil {
		return err
	}
	return s.answerJob(c, f, id, s.Shop.Sign(c.Request().Context(), s.Actor, f.Text("token"), id, f.Text("/signature"),
		f.Text("/signer")))
}

// addJobPhotos takes photos of the machine as it came, each by itself.
func (s *server) addJobPhotos(c *echo.Context) error {
	id, err := jobID(c)
	if err != nil {
		return err
	}
	sent, err := c.MultipartForm()
	if err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	defer sent.RemoveAll()
	f := form.New(sent.Value)
	v := jobView{Form: f}
	taken := 0
	for i, file := range sent.File["photo"] {
		if file.Size == 0 && file.Filename == "" {
			continue
		}
		if i >= maxPhotoFiles {
			v.Refused = append(v.Refused, file.Filename+": more than are taken at once")
			continue
		}
		raw, err := readUpload(file, photo.MaxBytes)
		if err != nil {
			return err
		}
		err = s.Shop.AddJobPhoto(c.Request().Context(), s.Actor, f.Text("token")+"-"+itoa(i), id,
			shop.PhotoEntry{File: raw, Caption: f.Text("caption")})
		var faults hw.Faults
		switch {
		case err == nil:
			taken++
		case errors.As(err, &faults):
			v.Refused = append(v.Refused, file.Filename+": "+faults[0].Text)
		default:
			return err
		}
	}
	if taken == 0 && len(v.Refused) == 0 {
		v.Refused = append(v.Refused, "no picture is chosen")
	}
	if len(v.Refused) > 0 {
		return s.jobPage(c, http.StatusUnprocessableEntity, v)
	}
	return seeOther(c, fmt.Sprintf("/jobs/%d#photos", id))
}
