package web

import (
	"encoding/json"
	"errors"
	"net/http"
	"net/url"
	"sort"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/shop"
)

// findingsView is every fact of a model with everything that was found about it.
type findingsView struct {
	ID, Name string
	Version  int
	Facts    []factFindings
	Disputed int
	Unknown  []unknownRow
	Wrong    int    // the finding whose setting aside was refused, -1 none
	Reason   string // what was typed for it
	Fault    string
	Notice   string
	Adding   *Form // what was typed for one more finding; its fact is in the field path
	Today    string
	Sources  []string
}

type factFindings struct {
	Name     string
	Disputed bool
	Settles  string // what would settle a dispute
	Findings []oneFinding
	Photos   []photoView
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

func (s *server) showFindings(c *echo.Context) error {
	return s.findingsPage(c, http.StatusOK, findingsView{Wrong: -1})
}

func (s *server) findingsPage(c *echo.Context, status int, v findingsView) error {
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
	v.Unknown, v.Sources, v.Today = toFindOut(ch), hw.Sources.Words(), s.Shop.Now().Format("2006-01-02")
	if v.Adding == nil {
		v.Adding = newForm(url.Values{})
	}
	number := map[*hw.Finding]int{}
	for i := range ch.Findings {
		number[&ch.Findings[i]] = i
	}
	for _, f := range evidence.Facts(ch.Findings) {
		row := factFindings{Name: factName(f.Path), Disputed: f.Disputed, Path: f.Path, Photos: about(photos, f.Path)}
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
		v.Facts = append(v.Facts, row)
	}
	sort.SliceStable(v.Facts, func(i, j int) bool { return v.Facts[i].Disputed && !v.Facts[j].Disputed })
	return s.render(c, status, "findings", "Findings on "+v.Name, "models", v)
}

func findingLine(x *hw.Finding, number int, inForce bool) oneFinding {
	o := oneFinding{Number: number, Value: hw.ValueWords(x.Path, x.Value), Source: string(x.Source), Date: hw.Day(x.On), By: x.By, Note: x.Note, InForce: inForce}
	if a := x.SetAside; a != nil {
		o.Aside = strings.TrimSpace("Set aside " + hw.Day(a.On) + " by " + a.By + ": " + a.Note)
	}
	return o
}

// factName names a fact for people: "dimm1, largest module".
func factName(path string) string { return hw.FactSays(path) }

// settleWords says what would settle a dispute: what is stronger than all that was
// said, or, where the bench disagrees with itself, another look.
func settleWords(f evidence.Fact) string {
	if f.InForce.Source == "bench" && f.Others[0].Source != "bench" {
		return "The bench has seen it; set the other aside with what explains it."
	}
	if f.InForce.Source == "bench" {
		return "The bench disagrees with itself: look once more, then set the wrong one aside."
	}
	return "A look with the machine open settles it."
}

// addFinding adds what somebody found about one fact. The value is typed as it is
// shown: numbers without their unit, lists with commas.
func (s *server) addFinding(c *echo.Context) error {
	f, err := sentForm(c)
	if err != nil {
		return err
	}
	id := c.Param("id")
	r, err := s.Shop.Model(c.Request().Context(), id)
	if err != nil {
		return err
	}
	finding := hw.Finding{Path: f.text("path"), Source: choose(f, "source", hw.Sources).Or(""), On: f.date("on"), Note: f.text("note")}
	now := evidence.Of(r.Chassis.Findings, finding.Path).InForce
	if now == nil {
		return shop.ErrNotFound
	}
	if finding.Value = f.valueLike("value", now.Value); f.text("value") == "" {
		f.fault("value", hw.Word(hw.FaultMissing, "", "what was found"))
	}
	if finding.Source == "" && len(f.Errors("source")) == 0 {
		f.fault("source", hw.Word(hw.FaultMissing, "", "how it is known"))
	}
	if f.Count() == 0 {
		err := s.Shop.AddFinding(c.Request().Context(), s.Actor, f.text("token"), id, f.whole("version").Or(-1), finding)
		switch {
		case err == nil:
			return c.Redirect(http.StatusSeeOther, "/models/"+id+"/findings")
		case errors.Is(err, shop.ErrChanged):
			return s.findingsPage(c, http.StatusConflict, findingsView{Wrong: -1, Adding: f,
				Notice: "Someone else changed the record meanwhile. Nothing was stored; this is the record as it is now. What you typed is still here."})
		}
		var faults hw.Faults
		if !errors.As(err, &faults) {
			return err
		}
		f.fault("value", faults[0].Text)
	}
	return s.findingsPage(c, http.StatusUnprocessableEntity, findingsView{Wrong: -1, Adding: f})
}

// valueLike reads a value of the same kind as another: a number, yes or no, a text, a
// list, or how module lengths are held ("30 fitted, 80 movable").
func (f *Form) valueLike(name string, like json.RawMessage) json.RawMessage {
	var kind, value any
	if json.Unmarshal(like, &kind) != nil {
		return nil
	}
	switch kind.(type) {
	case float64:
		if n, ok := f.dec(name).Get(); ok {
			value = n
		}
	case bool:
		if text, ok := f.choice(name, yesNo).Get(); ok {
			value = text == "yes"
		}
	case []any:
		value = f.list(name)
	case map[string]any:
		lengths := map[string]string{}
		words, _ := f.list(name).([]string)
		for _, w := range words {
			mm, how, found := strings.Cut(strings.ReplaceAll(w, " mm", ""), " ")
			if !found {
				f.fault(name, hw.Word(hw.FaultType, `"`+w+`"`, "a length and how it is held, such as 80 fitted, 30 movable"))
				continue
			}
			lengths[mm] = strings.TrimSpace(how)
		}
		value = lengths
	default:
		value = f.text(name)
	}
	raw, err := json.Marshal(value)
	if err != nil {
		f.fault(name, err.Error())
	}
	return raw
}

func (s *server) setAside(c *echo.Context) error {
	f := newForm(nil)
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	f.values = c.Request().PostForm
	version, finding := f.whole("version").Or(-1), f.whole("finding").Or(-1)
	id := c.Param("id")
	err := s.Shop.SetAside(c.Request().Context(), s.Actor, f.text("token"), id, version, finding, f.text("reason"))
	var faults hw.Faults
	switch {
	case err == nil:
		return c.Redirect(http.StatusSeeOther, "/models/"+id+"/findings")
	case errors.Is(err, shop.ErrChanged):
		return s.findingsPage(c, http.StatusConflict, findingsView{Wrong: finding, Reason: f.text("reason"),
			Notice: "Someone else changed the record meanwhile. Nothing was stored; this is the record as it is now."})
	case errors.As(err, &faults):
		return s.findingsPage(c, http.StatusUnprocessableEntity, findingsView{Wrong: finding, Reason: f.text("reason"), Fault: faults[0].Text})
	}
	return err
}
