package counter

import (
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"strings"
	"time"

	"yembo/shop/base"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/form"
	"yembo/web/kit"
)

// findView is the first page of the intake: which model, or which machine that was here
// before.
type findView struct {
	Query    string
	Models   []modelChoice
	Machines []machineRow
	None     bool // no model is recorded at all
}

type modelChoice struct{ ID, Name, Code, Memory string }

// intakeView is the form for taking in a machine.
type intakeView struct {
	Variants []string // configurations that places of the record name
	counterView
	Known     string // key of a machine that was here before
	KnownTag  string
	OpenJob   int64 // of that machine, 0 for none
	OpenLabel string
	Earlier   []jobs.Earlier // its proven jobs
	Groups    []form.MachineGroup
}

// newMachine finds the model by code, sibling code or name, or a machine by its serial;
// where one alone fits, its form comes at once.
func (s *pages) newMachine(c *echo.Context) error {
	model, machine := c.QueryParam("model"), c.QueryParam("machine")
	ctx := c.Request().Context()
	if model == "" && machine != "" {
		r, err := s.Shop.Machine(ctx, machine)
		if err != nil {
			return err
		}
		model = r.Chassis.ID
	}
	if model != "" {
		return s.intakeForm(c, model, machine)
	}
	v := findView{Query: strings.TrimSpace(c.QueryParam("q"))}
	records, err := s.Shop.Briefs(ctx, v.Query, kit.MaxFound)
	if err != nil {
		return err
	}
	v.None = len(records) == 0 && v.Query == ""
	for _, r := range records {
		v.Models = append(v.Models, modelChoice{r.ID, r.Name, r.Code, kit.MemorySummary(r)})
	}
	if v.Query != "" {
		list, err := s.Shop.Machines(ctx, v.Query)
		if err != nil {
			return err
		}
		v.Machines = machineRows(list.Machines[:min(len(list.Machines), kit.MaxFound)], s.Shop.Now())
		for i := range list.Machines {
			m := &list.Machines[i]
			if strings.EqualFold(m.Serial, v.Query) || strings.EqualFold(m.ID, v.Query) {
				return kit.SeeOther(c,
					"/machines/new?model="+url.QueryEscape(m.ModelID)+"&machine="+url.QueryEscape(m.Key))
			}
		}
		if exact := kit.ModelOfCode(records, v.Query); exact != "" {
			return kit.SeeOther(c, "/machines/new?model="+url.QueryEscape(exact))
		}
		if len(v.Models) == 1 && len(v.Machines) == 0 {
			return kit.SeeOther(c, "/machines/new?model="+url.QueryEscape(v.Models[0].ID))
		}
	}
	return s.Render(c, http.StatusOK, "find", "Take in a machine", "machines", v)
}

func (s *pages) intakeForm(c *echo.Context, model, machine string) error {
	f := form.New(url.Values{"/chassis": {model}})
	view, err := s.intakeView(c, f, model)
	if err != nil {
		return err
	}
	if machine != "" {
		r, err := s.Shop.Machine(c.Request().Context(), machine)
		if err != nil {
			return err
		}
		presetMachine(f, &view, &r)
		f.Opens()
		if view.Earlier, err = s.Shop.EarlierOf(c.Request().Context(), r.Key, 0); err != nil {
			return err
		}
	}
	return s.Render(c, http.StatusOK, "intake", "Take in a machine", "machines", view)
}

// presetMachine fills in what is known of a machine that was here before.
func presetMachine(f *form.Form, v *intakeView, r *jobs.MachineRecord) {
	v.Known, v.KnownTag = r.Key, r.Machine.ID
	if r.JobID != 0 && r.Closed.IsZero() {
		v.OpenJob, v.OpenLabel = r.JobID, base.Label(r.JobID)
	}
	f.Values.Set("known", r.Key)
	f.Values.Set("/contact", r.Contact)
	maps.Copy(f.Values, machineTyped(v.Chassis, r))
}

func (s *pages) intakeView(c *echo.Context, f *form.Form, model string) (intakeView, error) {
	v := intakeView{Known: f.Text("known")}
	r, err := s.Shop.Model(c.Request().Context(), model)
	if err != nil {
		return v, err
	}
	customers, err := s.Shop.CustomerNames(c.Request().Context())
	if err != nil {
		return v, err
	}
	v.counterView = counterOf(f, r.Chassis, customers)
	v.Variants, v.Groups = v.Chassis.Variants(), form.MachineGroups(v.Chassis)
	return v, nil
}

func (s *pages) takeIn(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	view, err := s.intakeView(c, f, f.Text("/chassis"))
	if err != nil {
		return err
	}
	var known jobs.MachineRecord
	if view.Known != "" {
		if known, err = s.Shop.Machine(c.Request().Context(), view.Known); err != nil {
			return err
		}
		if view.Earlier, err = s.Shop.EarlierOf(c.Request().Context(), known.Key, 0); err != nil {
			return err
		}
		f.Pick()
		now := form.New(url.Values{})
		presetMachine(now, &view, &known)
		if f.CatchUp(now.Values) {
			return s.Render(c, http.StatusConflict, "intake", "Not saved", "machines", view)
		}
	}
	in := readIntake(f, &view, s.Shop.Now(), s.Settings(c))
	if view.Known != "" {
		// What the form does not ask for stays as it was.
		in.Details.Returns = int64(f.Whole("/returns").Or(0))
		in.Known, in.KnownVer, in.Machine, in.Another = true, known.MachineVer, keepKnown(known.Machine, in.Machine),
			f.Is("/another", "yes")
		in.Machine.Variant = readVariant(f, view.Chassis, known.Machine.Variant)
	}
	if f.Count() == 0 {
		id, err := s.Shop.TakeIn(c.Request().Context(), s.Acting(c), f.Text("token"), in)
		switch {
		case err == nil:
			return kit.SeeOther(c, "/jobs/"+fmt.Sprint(id))
		case !f.Take(err):
			return err
		}
	}
	return s.Render(c, http.StatusUnprocessableEntity, "intake", "Not saved", "machines", view)
}

// keepKnown is a known machine with what the form told of it anew: all that was there is in its fields.
func keepKnown(was, typed *hw.Machine) *hw.Machine {
	m := *was
	m.Serial, m.Fitted, m.Usage = typed.Serial, typed.Fitted, typed.Usage
	return &m
}

// readIntake reads what was typed. What cannot be read is a fault at its field.
func readIntake(f *form.Form, v *intakeView, now time.Time, how *base.Settings) jobs.Intake {
	m := &hw.Machine{ID: f.Slug("/id", ""), Chassis: f.Text("/chassis"), Serial: f.Text("/serial")}
	m.Usage = readUsage(f)
	if v.Chassis != nil {
		m.Fitted, m.Variant = f.Fitted(v.Chassis), readVariant(f, v.Chassis, nil)
	}
	// What the eye saw of the pack goes before what was told of it.
	if b := m.Fitted.Battery; b != nil {
		swollen := f.Is("/condition/swollen", "yes")
		if swollen || !b.Swollen.IsKnown() && f.Is("/condition/looked", "yes") {
			b.Swollen = hw.Known(swollen)
		}
	}
	in := jobs.Intake{Agreement: readAgreement(f, v.Chassis, now, how, time.Time{}), Machine: m}
	if comes := kit.DueOf(f, "/comes", now); comes != "" || f.Is("/away", "yes") {
		if in.Away = (&jobs.Away{Due: comes}); comes.Late(now) {
			f.Fault("/comes", "that is past: leave it blank where the machine is here")
		}
	}
	return in
}
