package record

import (
	"errors"
	"net/http"
	"net/url"
	"strings"
	"time"
	"yembo/shop/base"

	"github.com/labstack/echo/v5"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/web/form"
	"yembo/web/kit"
)

// findingsView is every fact of a model with everything that was found about it.
type findingsView struct {
	ID, Name string
	Version  int
	Groups   []findingGroup
	Facts    int
	Shown    int // facts that the filter leaves
	Disputed int
	Query    string // what the facts shown have in them
	From     string // how they are known
	opened   string // the thing that something was just told of
	Unknown  []unknownRow
	Wrong    int    // the finding whose setting aside was refused, -1 none
	Reason   string // what was typed for it
	Fault    string
	Notice   string
	Adding   *form.Form // what was typed for one more finding; its fact is in the field path
	Today    string
	Sources  []string
}

// findingGroup is one thing of the model with its facts.
type findingGroup struct {
	Title, What, Key string
	Facts            []factFindings
	Open             bool
}

type factFindings struct {
	Name     string
	Disputed bool
	Settles  string // what would settle a dispute
	Findings []oneFinding
	Photos   []kit.PhotoView
	Path     string
}

type oneFinding struct {
	Number  int
	Value   string
	Source  string
	Date    string
	By      string
	Note    string
	InForce bool
	Aside   string // who set it aside, when and why
}

func (s *pages) showFindings(c *echo.Context) error {
	return s.findingsPage(c, http.StatusOK, findingsView{Wrong: -1})
}

func (s *pages) findingsPage(c *echo.Context, status int, v findingsView) error {
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	ch := r.Chassis
	v.ID, v.Name, v.Version = ch.ID, ch.Name(), r.Version
	photos, err := s.photosOf(c, ch.ID)
	if err != nil {
		return err
	}
	v.opened = c.QueryParam("open")
	v.Query, v.From = strings.TrimSpace(c.QueryParam("q")), c.QueryParam("from")
	v.Unknown, v.Sources, v.Today = toFindOut(ch), hw.Sources.Words(), hw.Day(s.Shop.Now().Format(time.DateOnly))
	if v.Adding == nil {
		v.Adding = form.New(url.Values{})
	}
	v.Facts = factsOf(ch)
	number := map[*hw.Finding]int{}
	for i := range ch.Findings {
		number[&ch.Findings[i]] = i
	}
	for _, f := range evidence.Facts(ch.Findings) {
		row := factFindings{Name: kit.FactName(f.Path), Disputed: f.Disputed, Path: f.Path, Photos: about(photos, f.Path)}
		if f.Disputed {
			v.Disputed++
			row.Settles = settleWords(f)
		}
		add := func(list []*hw.Finding, inForce bool) {
			for _, x := range list {
				row.Findings = append(row.Findings, findingLine(x, number[x], inForce))
			}
		}
		if f.InForce != nil {
			add([]*hw.Finding{f.InForce}, true)
		}
		add(f.Others, false)
		add(f.Aside, false)
		if stepWording(f) {
			continue
		}
		if !row.has(v.Query, v.From) {
			continue
		}
		v.Shown++
		v.place(&row, ch)
	}
	v.order(ch)
	return s.Render(c, status, "findings", "Findings on "+v.Name, "models", v)
}

// factsOf counts the facts of a record that have findings, the wording of steps apart, which stands in the
// steps: the one answer of every page that says how many there are.
func factsOf(ch *hw.Chassis) int {
	n := 0
	for _, f := range evidence.Facts(ch.Findings) {
		if !stepWording(f) {
			n++
		}
	}
	return n
}

func findingLine(x *hw.Finding, number int, inForce bool) oneFinding {
	o := oneFinding{Number: number, Value: hw.ValueWords(x.Path, x.Value), Source: string(x.Source), Date: hw.Day(x.On),
		By: x.By, Note: x.Note, InForce: inForce}
	if a := x.SetAside; a != nil {
		o.Aside = strings.TrimSpace("Set aside " + hw.Day(a.On) + " by " + a.By + ": " + a.Note)
	}
	return o
}

// settleWords says what would settle a dispute: what is stronger than all that was
// said, or, where the bench disagrees with itself, another look.
func settleWords(f evidence.Fact) string {
	if f.InForce.Source == "bench" && f.Others[0].Source != "bench" {
		return "Seen at the bench: set the other finding aside and say why."
	}
	if f.InForce.Source == "bench" {
		return "Two bench findings differ: look again, then set the wrong one aside."
	}
	return "A look with the machine open settles it."
}

// addFinding adds what somebody found about one fact. The value is typed as it is
// shown: numbers without their unit, lists with commas.
func (s *pages) addFinding(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	id := c.Param("id")
	r, err := s.Shop.Model(c.Request().Context(), id)
	if err != nil {
		return err
	}
	finding := hw.Finding{Path: f.Text("path"), Source: form.Choose(f, "source", hw.Sources).Or(""), On: f.Date("on"),
		Note: f.Text("note")}
	now := evidence.Of(r.Chassis.Findings, finding.Path).InForce
	if now == nil {
		return base.ErrNotFound
	}
	if finding.Value = f.ValueLike("value", now.Value); f.Text("value") == "" {
		f.Fault("value", hw.Word(hw.FaultMissing, "", "what was found"))
	}
	if finding.Source == "" && len(f.Errors("source")) == 0 {
		f.Fault("source", hw.Word(hw.FaultMissing, "", "how it is known"))
	}
	if f.Count() == 0 {
		err := s.Shop.AddFinding(c.Request().Context(), s.Acting(c), f.Text("token"), id, f.Whole("version").Or(-1),
			finding)
		switch {
		case err == nil:
			return kit.SeeOther(c, findingsAt(id, finding.Path))
		case errors.Is(err, base.ErrChanged):
			return s.findingsPage(c, http.StatusConflict, findingsView{Wrong: -1, Adding: f,
				Notice: "Someone else changed the record meanwhile. Nothing was saved; this is the record as it is " +
					"now. What you typed is still here."})
		}
		var faults hw.Faults
		if !errors.As(err, &faults) {
			return err
		}
		f.Fault("value", faults[0].Text)
	}
	return s.findingsPage(c, http.StatusUnprocessableEntity, findingsView{Wrong: -1, Adding: f})
}

// findingsAt is the page of findings with the thing open that a fact is about.
func findingsAt(model, path string) string {
	key, _, _ := thingOf(path)
	return "/models/" + model + "/findings?open=" + url.QueryEscape(key)
}

func (s *pages) setAside(c *echo.Context) error {
	f := form.New(nil)
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	f.Values = c.Request().PostForm
	version, finding := f.Whole("version").Or(-1), f.Whole("finding").Or(-1)
	id := c.Param("id")
	err := s.Shop.SetAside(c.Request().Context(), s.Acting(c), f.Text("token"), id, version, finding, f.Text("reason"))
	var faults hw.Faults
	switch {
	case err == nil:
		path := ""
		if r, err := s.Shop.Model(c.Request().Context(), id); err == nil && finding >= 0 && finding < len(r.Chassis.Findings) {
			path = r.Chassis.Findings[finding].Path
		}
		return kit.SeeOther(c, findingsAt(id, path))
	case errors.Is(err, base.ErrChanged):
		return s.findingsPage(c, http.StatusConflict, findingsView{Wrong: finding, Reason: f.Text("reason"),
			Notice: "Someone else changed the record meanwhile. Nothing was saved; this is the record as it is now."})
	case errors.As(err, &faults):
		return s.findingsPage(c, http.StatusUnprocessableEntity,
			findingsView{Wrong: finding, Reason: f.Text("reason"), Fault: faults[0].Text})
	}
	return err
}

// allSeen confirms facts that were only assumed, and leads back to the plan that leans on them.
func (s *pages) allSeen(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	err = s.Shop.AllSeen(
		c.Request().Context(),
		s.Acting(c),
		f.Text("token"),
		c.Param("id"),
		f.Whole("version").Or(-1),
		kit.AtMost(mostSeen, f.Values["fact"]),
	)
	if err != nil {
		return err
	}
	return kit.SeeOther(c, f.Text("back"))
}

// mostSeen is how many facts are confirmed by one press.
const mostSeen = 400

// reached records behind which step a place lies, asked where it is needed: on a plan.
func (s *pages) reached(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	place, step := f.Text("place"), f.Text("step")
	if place == hw.BatteryPlace {
		place = "battery-reach"
	}
	source := hw.Bench
	if f.Is("how", "assumed") {
		source = hw.Assumed
	}
	_, err = s.Shop.RecordLines(c.Request().Context(), s.Acting(c), f.Text("token"), c.Param("id"), f.Whole("version").Or(-1),
		place+" >"+step, shorthand.Source{Name: source})
	if err != nil {
		return err
	}
	return kit.SeeOther(c, f.Text("back"))
}
