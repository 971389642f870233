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
	"yembo/shop/records"

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
	Types     []string
	Drives    []hw.Term[string]
	Sockets   []socketRow
	Places    []string // slots and bays for drives
	Packs     []string
}

type socketRow struct {
	Index    int
	ID, Form string
	Reach    string
}

// maxProposed is how many customers are proposed while one types.
const maxProposed = 200

// maxFound is how many models and machines are offered; more words find the others.
const maxFound = 30

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
	records, err := s.Shop.Briefs(ctx, v.Query, maxFound)
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
		v.Machines = machineRows(list.Machines[:min(len(list.Machines), maxFound)], s.Shop.Now())
		for i := range list.Machines {
			m := &list.Machines[i]
			if strings.EqualFold(m.Serial, v.Query) || strings.EqualFold(m.ID, v.Query) {
				return kit.SeeOther(c,
					"/machines/new?model="+url.QueryEscape(m.ModelID)+"&machine="+url.QueryEscape(m.Key))
			}
		}
		if exact := exactModel(records, v.Query); exact != "" {
			return kit.SeeOther(c, "/machines/new?model="+url.QueryEscape(exact))
		}
		if len(v.Models) == 1 && len(v.Machines) == 0 {
			return kit.SeeOther(c, "/machines/new?model="+url.QueryEscape(v.Models[0].ID))
		}
	}
	return s.Render(c, http.StatusOK, "find", "Take in a machine", "machines", v)
}

// exactModel finds the one model with that very code.
func exactModel(records []records.Brief, code string) string {
	found := ""
	for _, r := range records {
		for _, own := range append([]string{r.Code}, r.Covers...) {
			if own != "" && strings.EqualFold(own, code) {
				if found != "" && found != r.ID {
					return ""
				}
				found = r.ID
			}
		}
	}
	return found
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
	set := f.Values.Set
	set("known", r.Key)
	set("/customer", r.Customer)
	set("/contact", r.Contact)
	set("/serial", r.Machine.Serial)
	maps.Copy(f.Values, usageTyped(&r.Machine.Usage))
	maps.Copy(f.Values, form.MachineTyped(v.Chassis, r.Machine))
	if r.Machine.Fitted.Memory != nil && len(r.Machine.Fitted.Memory) == 0 {
		set("/fitted/memory_empty", "yes")
	}
	for i := range r.Machine.Fitted.Drives {
		if d := &r.Machine.Fitted.Drives[i]; d.Boot.Or(false) {
			set("/fitted/boot", d.Place)
		}
	}
}

func (s *pages) intakeView(c *echo.Context, f *form.Form, model string) (intakeView, error) {
	v := intakeView{Types: hw.MemoryTypes.Words(), Drives: hw.DriveInterfaces.Terms(), Known: f.Text("known")}
	r, err := s.Shop.Model(c.Request().Context(), model)
	if err != nil {
		return v, err
	}
	customers, err := s.Shop.CustomerNames(c.Request().Context())
	if err != nil {
		return v, err
	}
	v.counterView = counterOf(f, r.Chassis, customers)
	v.Variants = variantsOf(v.Chassis)
	for i := range v.Chassis.Mem().Sockets {
		so := &v.Chassis.Memory.Sockets[i]
		v.Sockets = append(v.Sockets, socketRow{i, so.ID, string(so.Form), so.Reach})
	}
	for _, p := range v.Chassis.Places() {
		if p.Kind != hw.InPack && p.Takes == hw.KindDrive {
			v.Places = append(v.Places, p.ID)
		}
	}
	for i := range v.Chassis.Batteries {
		v.Packs = append(v.Packs, v.Chassis.Batteries[i].ID)
	}
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
			return s.Render(c, http.StatusConflict, "intake", "Not stored yet", "machines", view)
		}
	}
	in := readIntake(f, &view, s.Shop.Now(), s.Settings(c).FloorOf())
	if view.Known != "" {
		// What the form does not ask for stays as it was.
		in.Details.Returns = int64(f.Whole("/returns").Or(0))
		in.Known, in.KnownVer, in.Machine, in.Another = true, known.MachineVer, keepKnown(known.Machine, in.Machine),
			f.Is("/another", "yes")
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
	return s.Render(c, http.StatusUnprocessableEntity, "intake", "Not stored yet", "machines", view)
}

// keepKnown is a known machine with what the form told of it anew.
func keepKnown(was, typed *hw.Machine) *hw.Machine {
	m := *was
	if typed.Serial != "" {
		m.Serial = typed.Serial
	}
	if typed.Fitted.Memory != nil {
		for i := range typed.Fitted.Memory {
			for k := range was.Fitted.Memory {
				if old := &was.Fitted.Memory[k]; old.Socket == typed.Fitted.Memory[i].Socket &&
					hw.MaybeEqual(old.Module.Capacity, typed.Fitted.Memory[i].Module.Capacity) {
					typed.Fitted.Memory[i].Module.Voltage, typed.Fitted.Memory[i].Module.ECC = old.Module.Voltage,
						old.Module.ECC
				}
			}
		}
		m.Fitted.Memory = typed.Fitted.Memory
	}
	for i := range typed.Fitted.Drives {
		d := &typed.Fitted.Drives[i]
		for k := range was.Fitted.Drives {
			if old := was.Fitted.Drives[k]; old.Place == d.Place && hw.MaybeEqual(old.Drive.Capacity,
				d.Drive.Capacity) {
				old.UsedGB, old.Boot, old.Drive.Interface = d.UsedGB, d.Boot, d.Drive.Interface
				*d = old
			}
		}
	}
	if typed.Fitted.Drives != nil {
		m.Fitted.Drives = typed.Fitted.Drives
	}
	if b := typed.Fitted.Battery; b != nil {
		if old := was.Fitted.Battery; old != nil && old.Option == b.Option {
			b.Cycles = old.Cycles
		}
		m.Fitted.Battery = b
	}
	if typed.Usage.MemoryPeak.IsKnown() {
		m.Usage.MemoryPeak = typed.Usage.MemoryPeak
	}
	return &m
}

// readIntake reads what was typed. What cannot be read is a fault at its field.
func readIntake(f *form.Form, v *intakeView, now time.Time, floor base.Floor) jobs.Intake {
	m := &hw.Machine{ID: f.Slug("/id", ""), Chassis: f.Text("/chassis"), Serial: f.Text("/serial")}
	m.Usage = readUsage(f)
	readFitted(f, v, m)
	if v.Chassis != nil {
		m.Variant = readVariant(f, v.Chassis, nil)
	}
	return jobs.Intake{Agreement: readAgreement(f, v.Chassis, now, floor, time.Time{}), Machine: m}
}

func readFitted(f *form.Form, v *intakeView, m *hw.Machine) {
	if f.Is("/fitted/memory_empty", "yes") && len(v.Sockets) > 0 {
		m.Fitted.Memory = []hw.FittedModule{}
	}
	for _, row := range v.Sockets {
		at := fmt.Sprintf("/fitted/memory/%d/", row.Index)
		gb := f.Dec(at + "capacity_gb")
		if !gb.IsKnown() {
			continue
		}
		f.Rows[fmt.Sprintf("/fitted/memory/%d/module", len(m.Fitted.Memory))] = fmt.Sprintf("/fitted/memory/%d",
			row.Index)
		m.Fitted.Memory = append(m.Fitted.Memory, hw.FittedModule{Socket: row.ID, Module: hw.Module{
			Type: form.Choose(f, at+"type", hw.MemoryTypes).Or(""), Form: hw.ModuleForm(row.Form), Capacity: gb,
			Speed: f.Whole(at + "speed_mts"), Ranks: f.Whole(at + "ranks")}})
	}
	for i, place := range v.Places {
		at := fmt.Sprintf("/fitted/drives/%d/", i)
		gb := f.Dec(at + "capacity_gb")
		if !gb.IsKnown() {
			continue
		}
		d := hw.FittedDrive{Place: place,
			Drive:  hw.Drive{Capacity: gb, Interface: form.Choose(f, at+"interface", hw.DriveInterfaces).Or("")},
			UsedGB: f.Dec(at + "used_gb"),
			Boot:   hw.Known(f.Is("/fitted/boot", place))}
		f.Rows[fmt.Sprintf("/fitted/drives/%d/drive", len(m.Fitted.Drives))] = fmt.Sprintf("/fitted/drives/%d", i)
		m.Fitted.Drives = append(m.Fitted.Drives, d)
	}
	if len(v.Packs) > 0 && f.Text("/fitted/battery/option") != "" {
		m.Fitted.Battery = &hw.FittedBattery{Option: f.Choice("/fitted/battery/option", v.Packs).Or(""),
			FullWh: f.Dec("/fitted/battery/full_wh")}
		if f.Is("/condition/looked", "yes") && !f.Is("/condition/swollen", "yes") {
			m.Fitted.Battery.Swollen = hw.Known(false)
		}
	}
}
