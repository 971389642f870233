package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"sort"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/wireless"
	"yembo/shop"
)

type machineRow struct {
	ID, Model, Customer, Serial string
	Wish                        string
	State, Why                  string
	TakenIn                     string
	Danger                      bool
}

type machineList struct {
	Query string
	Rows  []machineRow
	All   int
}

func (s *server) listMachines(c *echo.Context) error {
	records, err := s.Shop.Machines(c.Request().Context())
	if err != nil {
		return err
	}
	view := machineList{Query: c.QueryParam("q"), All: len(records)}
	for _, r := range records {
		row := machineRow{ID: r.Machine.ID, Model: r.Chassis.Name(), Customer: r.Customer, Serial: r.Machine.Serial,
			Wish: wishWords(r.Wish.Goals), TakenIn: stamp(r.TakenIn)}
		switch {
		case r.Machine.Fitted.Battery != nil && r.Machine.Fitted.Battery.Swollen.Or(false):
			row.State, row.Why, row.Danger = "Stop: make the pack safe", "Pack swollen: nothing is planned", true
		case r.Choice != nil:
			row.State, row.Why = "Print the card and open it", "Option chosen "+stamp(r.ChosenAt)
		default:
			row.State, row.Why = "Choose an option", r.Complaint
		}
		if matches(view.Query, row.ID, row.Model, row.Customer, row.Serial, r.Chassis.Code) {
			view.Rows = append(view.Rows, row)
		}
	}
	sort.SliceStable(view.Rows, func(i, j int) bool { return view.Rows[i].Danger && !view.Rows[j].Danger })
	return s.render(c, http.StatusOK, "machines", "Machines", "machines", view)
}

// wishWords puts goals into words.
func wishWords(g hw.Goals) string {
	var words []string
	if gb, ok := g.MemoryGB.Get(); ok {
		words = append(words, gb.String()+" GB memory")
	}
	if gb, ok := g.StorageGB.Get(); ok {
		words = append(words, gb.String()+" GB storage")
	}
	if h, ok := g.RuntimeH.Get(); ok {
		words = append(words, h.String()+" h on the battery")
	}
	if std, ok := g.Wireless.Get(); ok {
		words = append(words, std)
	}
	return strings.Join(words, ", ")
}

// intakeView is the form for taking in a machine.
type intakeView struct {
	*Form
	Models    []modelChoice
	Chassis   *hw.Chassis // nil before a model is chosen
	Customers []string
	Types     []string
	Standards []string
	Sockets   []socketRow
	Places    []string // slots and bays for drives
	Packs     []string
}

type modelChoice struct{ ID, Name, Code, Memory string }

type socketRow struct {
	Index    int
	ID, Form string
	Reach    string
}

func (s *server) newMachine(c *echo.Context) error {
	model := c.QueryParam("model")
	f := newForm(url.Values{"/chassis": {model}})
	view, err := s.intakeView(c, f, model)
	if err != nil {
		return err
	}
	if view.Chassis != nil {
		for _, row := range view.Sockets {
			f.values.Set(fmt.Sprintf("/fitted/memory/%d/type", row.Index), view.Chassis.Mem().Type.Or(""))
			f.values.Set(fmt.Sprintf("/fitted/memory/%d/speed_mts", row.Index), intWords(view.Chassis.Mem().MaxSpeed, ""))
		}
	}
	return s.render(c, http.StatusOK, "intake", "Take in a machine", "machines", view)
}

func (s *server) intakeView(c *echo.Context, f *Form, model string) (intakeView, error) {
	v := intakeView{Form: f, Types: memoryTypes, Standards: wireless.Standards}
	records, err := s.Shop.Models(c.Request().Context())
	if err != nil {
		return v, err
	}
	for _, r := range records {
		v.Models = append(v.Models, modelChoice{r.Chassis.ID, r.Chassis.Name(), r.Chassis.Code, memorySummary(r.Chassis)})
		if r.Chassis.ID == model {
			v.Chassis = r.Chassis
		}
	}
	if v.Customers, err = s.Shop.Customers(c.Request().Context()); err != nil || v.Chassis == nil {
		return v, err
	}
	for i := range v.Chassis.Mem().Sockets {
		so := &v.Chassis.Memory.Sockets[i]
		v.Sockets = append(v.Sockets, socketRow{i, so.ID, so.Form, so.Reach})
	}
	for i := range v.Chassis.Slots {
		if v.Chassis.Slots[i].Purpose == "storage" {
			v.Places = append(v.Places, v.Chassis.Slots[i].ID)
		}
	}
	for i := range v.Chassis.Bays {
		v.Places = append(v.Places, v.Chassis.Bays[i].ID)
	}
	for i := range v.Chassis.Batteries {
		v.Packs = append(v.Packs, v.Chassis.Batteries[i].ID)
	}
	return v, nil
}

func (s *server) takeIn(c *echo.Context) error {
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	f := newForm(c.Request().PostForm)
	view, err := s.intakeView(c, f, f.text("/chassis"))
	if err != nil {
		return err
	}
	if view.Chassis == nil {
		f.fault("/chassis", "choose the model first")
	}
	in := readIntake(f, &view)
	if f.Count() == 0 {
		id, err := s.Shop.TakeIn(c.Request().Context(), s.Actor, f.text("token"), in)
		switch {
		case err == nil:
			return c.Redirect(http.StatusSeeOther, "/machines/"+id)
		case !f.take(err):
			return err
		}
	}
	return s.render(c, http.StatusUnprocessableEntity, "intake", "Not stored yet", "machines", view)
}

// readIntake reads what was typed. What cannot be read is a fault at its field.
func readIntake(f *Form, v *intakeView) shop.Intake {
	m := &hw.Machine{ID: f.slug("/id", ""), Chassis: f.text("/chassis"), Serial: f.text("/serial")}
	wish := &hw.Request{Format: hw.FormatRequest, BudgetCents: f.cents("/budget_cents")}
	wish.Goals = hw.Goals{MemoryGB: f.dec("/goals/memory_gb"), StorageGB: f.dec("/goals/storage_gb"), RuntimeH: f.dec("/goals/runtime_h"),
		Wireless: f.choice("/goals/wireless", wireless.Standards)}
	if wish.Goals == (hw.Goals{}) && f.Count() == 0 {
		f.fault("/goals/memory_gb", hw.Word(hw.FaultMissing, "", "what is wanted: at least one goal"))
	}
	m.Usage.MemoryPeak = f.dec("/usage/memory_peak_gb")
	if v.Chassis != nil {
		readFitted(f, v, m)
	}
	return shop.Intake{Customer: f.text("/customer"), Contact: f.text("/contact"), Complaint: f.text("/complaint"), Machine: m, Wish: wish}
}

func readFitted(f *Form, v *intakeView, m *hw.Machine) {
	if !f.Is("/fitted/memory_told", "no") && v.Chassis.Mem().Sockets != nil {
		m.Fitted.Memory = []hw.FittedModule{}
		for _, row := range v.Sockets {
			at := fmt.Sprintf("/fitted/memory/%d/", row.Index)
			gb := f.dec(at + "capacity_gb")
			if !gb.IsKnown() {
				continue
			}
			f.rows[fmt.Sprintf("/fitted/memory/%d/module", len(m.Fitted.Memory))] = fmt.Sprintf("/fitted/memory/%d", row.Index)
			m.Fitted.Memory = append(m.Fitted.Memory, hw.FittedModule{Socket: row.ID, Module: hw.Module{
				Type: f.choice(at+"type", memoryTypes).Or(""), Form: row.Form, Capacity: gb, Speed: f.whole(at + "speed_mts"), Ranks: f.whole(at + "ranks")}})
		}
	}
	for i, place := range v.Places {
		at := fmt.Sprintf("/fitted/drives/%d/", i)
		gb := f.dec(at + "capacity_gb")
		if !gb.IsKnown() {
			continue
		}
		d := hw.FittedDrive{Place: place, Drive: hw.Drive{Capacity: gb, Interface: f.choice(at+"interface", []string{"nvme", "sata"}).Or("")}, UsedGB: f.dec(at + "used_gb"),
			Boot: hw.Known(f.Is("/fitted/boot", place))}
		f.rows[fmt.Sprintf("/fitted/drives/%d/drive", len(m.Fitted.Drives))] = fmt.Sprintf("/fitted/drives/%d", i)
		m.Fitted.Drives = append(m.Fitted.Drives, d)
	}
	if len(v.Packs) > 0 && f.text("/fitted/battery/option") != "" {
		b := &hw.FittedBattery{Option: f.choice("/fitted/battery/option", v.Packs).Or(""), FullWh: f.dec("/fitted/battery/full_wh")}
		if told := f.text("/fitted/battery/swollen"); told != "" {
			b.Swollen = hw.Known(told == "yes")
		}
		m.Fitted.Battery = b
	}
}

func (s *server) choose(c *echo.Context) error {
	id := c.Param("id")
	_, err := s.Shop.Choose(c.Request().Context(), s.Actor, c.FormValue("token"), id, c.FormValue("option"))
	if errors.Is(err, shop.ErrPlanChanged) {
		return s.planPage(c, id, http.StatusConflict, "The plan changed since this page was shown: a part, the record or the practice is another now. Nothing was stored; this is the plan as it stands.")
	}
	if err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/machines/"+id+"/card")
}

func (s *server) setPractice(c *echo.Context) error {
	back := c.FormValue("back")
	if !strings.HasPrefix(back, "/machines/") {
		back = "/machines"
	}
	err := s.Shop.SetPractice(c.Request().Context(), s.Actor, c.FormValue("/practice/memory_limit"), c.FormValue("/practice/pairing"))
	var faults hw.Faults
	if errors.As(err, &faults) {
		return echo.ErrBadRequest.Wrap(err)
	}
	if err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, back+"#practice")
}

type partRow struct {
	plan.Buy
	Name, Kind, What, Price, Stock, Source string
}

func (s *server) listParts(c *echo.Context) error {
	parts, err := s.Shop.Parts(c.Request().Context())
	if err != nil {
		return err
	}
	var rows []partRow
	for i := range parts.Parts {
		p := &parts.Parts[i]
		row := partRow{Name: p.Name, Kind: p.Kind, Price: money(parts.Currency, p.PriceCents), Stock: stockWords(p), Source: p.Source}
		row.Part = p.ID
		if p.Memory != nil {
			row.What = plan.ModuleWords(p.Memory) + " " + p.Memory.Form
			if n := p.Pieces(); n > 1 {
				row.What = itoa(n) + " × " + row.What
			}
		}
		if p.Drive != nil {
			row.What = plan.DriveWords(p.Drive)
		}
		rows = append(rows, row)
	}
	return s.render(c, http.StatusOK, "parts", "Parts", "parts", rows)
}

func stockWords(p *hw.Part) string {
	stock, counted := p.Stock.Get()
	lead, orders := p.LeadDays.Get()
	switch {
	case !counted:
		return "to order"
	case stock > 0:
		return itoa(stock) + " on the shelf"
	case orders:
		return "to order, " + itoa(lead) + " days"
	}
	return "cannot be had"
}
