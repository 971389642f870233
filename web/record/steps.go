package record

import (
	"errors"
	"net/http"
	"strconv"
	"strings"
	"yembo/shop/base"

	"github.com/labstack/echo/v5"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/teardown"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// stepsView is the page of the way in: the chart, the steps in their order, what is
// likely forgotten, and the common opening of places that are chosen.
type stepsView struct {
	ID, Name string
	Version  int
	Notice   string
	Reach    *draw.Reach
	Steps    []stepLine
	Remarks  []teardown.Remark
	Targets  []string
	Chosen   map[string]bool
	Opening  *openingView
	Mini     bool
	Loosen   string // the shop's practice
}

type stepLine struct {
	ID, Words, Minutes string
	Needs              []string
	Marks              []string
	Heads              string // how the screws of a heat sink are loosened and tightened
	Why                []stepReason
	First, Last        bool
	Took               string // what it took in jobs that measured it, "" for none
}

// stepReason is why a step is done as it is, as the record's findings say.
type stepReason struct{ Source, Text, Known string }

// stepReasons are the notes of what is in force about a step: which edge the clips open
// from, whether captive screws come last.
func stepReasons(facts []evidence.Fact, id string) []stepReason {
	var out []stepReason
	for _, f := range evidence.Used(facts, []string{"/steps/" + id}) {
		if note := f.InForce.Note; note != "" {
			out = append(out, stepReason{string(f.InForce.Source), note,
				strings.Trim(f.InForce.By+", "+hw.Day(f.InForce.On), ", ")})
		}
	}
	return out
}

// openingView is what the run sheet says of the chosen places.
type openingView struct {
	Sheet  *teardown.Sheet
	Down   []kit.CardStep
	Refuse string
}

func (s *pages) showSteps(c *echo.Context) error {
	return s.stepsPage(c, http.StatusOK, "")
}

func (s *pages) stepsPage(c *echo.Context, status int, notice string) error {
	ctx := c.Request().Context()
	r, err := s.Shop.Model(ctx, c.Param("id"))
	if err != nil {
		return err
	}
	settings, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	ch := r.Chassis
	v := stepsView{ID: ch.ID, Name: ch.Name(), Version: r.Version, Notice: notice, Reach: draw.ReachOf(ch),
		Remarks: teardown.Check(ch), Chosen: map[string]bool{}, Mini: ch.Kind == "mini_pc", Loosen: settings.Loosen}
	facts := evidence.Facts(ch.Findings)
	times, err := s.Shop.StepTimesOf(ctx, ch.ID)
	if err != nil {
		return err
	}
	for i := range ch.Steps {
		st := &ch.Steps[i]
		v.Steps = append(v.Steps, stepLine{ID: st.ID, Words: draw.StepWords(ch, st),
			Minutes: teardown.StepMinutes(st).Shown().String(), Needs: st.Needs, Marks: stepMarks(st),
			Heads: loosenWords(ch, st, settings.Loosen), Why: stepReasons(facts, st.ID), First: i == 0,
			Last: i == len(ch.Steps)-1, Took: kit.TookWords(times[st.ID])})
	}
	for _, t := range teardown.Targets(ch) {
		if !isSuspected(ch, t.Name) {
			v.Targets = append(v.Targets, t.Name)
		}
	}
	var chosen []string
	for _, name := range c.QueryParams()["t"] {
		for _, t := range v.Targets {
			if t == name && !v.Chosen[name] {
				v.Chosen[name] = true
				chosen = append(chosen, name)
			}
		}
	}
	if len(chosen) > 0 {
		v.Opening = &openingView{}
		sheet, err := teardown.RunSheet(ctx, ch, chosen, teardown.Job{})
		if err != nil {
			v.Opening.Refuse = err.Error()
		} else {
			v.Opening.Sheet = sheet
			for n, id := range sheet.Down {
				v.Opening.Down = append(v.Opening.Down, kit.CardStep{Number: n + 1,
					Words: draw.StepWords(ch, &ch.Steps[ch.StepByID(id)])})
			}
		}
	}
	return s.Render(c, status, "steps", "Disassembly of "+v.Name, "models", v)
}

func isSuspected(ch *hw.Chassis, name string) bool {
	for i := range ch.Suspected {
		if ch.Suspected[i].ID == name {
			return true
		}
	}
	return false
}

func stepMarks(st *hw.Step) []string {
	var out []string
	for _, m := range []struct {
		holds bool
		words string
	}{{st.IsolatesPwr.Or(false), "disconnects power"}, {st.LiveRisk.Or(false), "live plug"},
		{teardown.Sealed(st), "breaks a seal"}, {teardown.Glued(st), "glue"}, {teardown.BoardOut(st), "board out"}} {
		if m.holds {
			out = append(out, m.words)
		}
	}
	return out
}

// loosenWords says in which order the screws of a step with a tightening order are
// loosened, by the shop's practice, and why.
func loosenWords(ch *hw.Chassis, st *hw.Step, practice string) string {
	for _, f := range st.Fasteners {
		i := ch.FastenerByID(f.Group)
		if i < 0 || len(ch.Fasteners[i].Order) == 0 {
			continue
		}
		printed := make([]string, len(ch.Fasteners[i].Order))
		reversed := make([]string, len(printed))
		for k, n := range ch.Fasteners[i].Order {
			printed[k] = strconv.Itoa(n)
			reversed[len(printed)-1-k] = strconv.Itoa(n)
		}
		order, why := strings.Join(reversed, " "), "the printed order reversed: it unloads evenly"
		if practice == base.LoosenPrinted {
			order, why = strings.Join(printed, " "), "the printed order, as the maker says"
		}
		return "loosen " + order + " (" + why + "); tighten " + strings.Join(printed, " ") + ", in rounds"
	}
	return ""
}

// saveSteps changes the order of the steps: a button moves one, or the whole order is
// sent after steps were dragged.
func (s *pages) saveSteps(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	order := f.Values["step"]
	move, by, moved := strings.Cut(f.Text("move"), " ")
	if moved {
		order = movedStep(order, move, by == "up")
	}
	err = s.Shop.OrderSteps(c.Request().Context(), s.Acting(c), f.Text("token"), c.Param("id"), f.Whole("version").Or(-1),
		order)
	var faults hw.Faults
	switch {
	case err == nil:
		return kit.SeeOther(c, "/models/"+c.Param("id")+"/steps#"+move)
	case errors.Is(err, base.ErrChanged):
		return s.stepsPage(c, http.StatusConflict,
			"Someone else changed the record meanwhile. Nothing was saved; these are the steps as they are now.")
	case errors.As(err, &faults):
		return s.stepsPage(c, http.StatusUnprocessableEntity, "The order was not saved: "+faults[0].Text)
	}
	return err
}

// movedStep moves one step up or down by one.
func movedStep(order []string, id string, up bool) []string {
	out := append([]string(nil), order...)
	for i, x := range out {
		if x != id {
			continue
		}
		if up && i > 0 {
			out[i-1], out[i] = out[i], out[i-1]
		} else if !up && i+1 < len(out) {
			out[i+1], out[i] = out[i], out[i+1]
		}
		break
	}
	return out
}

func (s *pages) setLoosen(c *echo.Context) error {
	if err := s.Shop.SetLoosen(c.Request().Context(), s.Acting(c), c.FormValue("loosen")); err != nil {
		var faults hw.Faults
		if errors.As(err, &faults) {
			return echo.ErrBadRequest
		}
		return err
	}
	return kit.SeeOther(c, "/models/"+c.Param("id")+"/steps")
}
