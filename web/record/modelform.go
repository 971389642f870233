package record

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"time"
	"yembo/shop/base"
	"yembo/shop/records"

	"github.com/labstack/echo/v5"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/exchange/slug"
	"yembo/web/form"
	"yembo/web/kit"
)

// modelFormView is the form for a model, new or changed.
type modelFormView struct {
	*form.Form
	ID        string // "" for a new record
	Name      string
	Version   int
	Types     []string
	ECC       []hw.Term[string]
	Clocked   []hw.Term[string]
	Forms     []string
	Sources   []string
	Soldered  []int
	Sockets   []int
	Action    string
	Changed   []base.Change // what someone else did meanwhile
	Today     string
	Line      *kit.LineView // for a new record
	ShownSold int           // rows shown before "add another"
	ShownSock int
}

func (s *pages) modelForm(f *form.Form, id, name string, version int) modelFormView {
	v := modelFormView{Form: f, ID: id, Name: name, Version: version, Types: hw.MemoryTypes.Words(),
		ECC: hw.ECCUses.Terms(), Clocked: hw.ClockedUses.Terms(),
		Forms: hw.ModuleForms.Words(), Sources: hw.Sources.Words(),
		Action: "/models", Today: hw.Day(s.Shop.Now().Format(time.DateOnly))}
	if id != "" {
		v.Action = "/models/" + id
	}
	v.Soldered, v.ShownSold = formRows(f, "/memory/soldered", "capacity_gb", 1, 3)
	v.Sockets, v.ShownSock = formRows(f, "/memory/sockets", "form", 2, 6)
	return v
}

// formRows says how many rows a list has on the page, and how many of them show
// before "add another": those in use, at least shown.
func formRows(f *form.Form, list, field string, shown, spare int) (rows []int, visible int) {
	used := 0
	for i := range form.MaxRows {
		if f.Text(fmt.Sprintf("%s/%d/id", list, i)) != "" || f.Text(fmt.Sprintf("%s/%d/%s", list, i, field)) != "" {
			used = i + 1
		}
	}
	for i := range min(max(used+spare, shown), form.MaxRows) {
		rows = append(rows, i)
	}
	return rows, max(used, shown)
}

func (s *pages) newModel(c *echo.Context) error {
	if c.QueryParam("like") == "usual" {
		return s.newModelPage(c, http.StatusOK, kit.LineView{Text: records.UsualNotebook(), Source: string(hw.Assumed), Focus: true})
	}
	return s.newModelPage(c, http.StatusOK, kit.LineView{})
}

// newModelPage is the form for a new record, with a line beside it for those who
// rather type.
func (s *pages) newModelPage(c *echo.Context, status int, line kit.LineView) error {
	// Where such a fact usually comes from; the technician says otherwise.
	f := form.New(url.Values{"/kind": {"notebook"}})
	for name, source := range map[string]hw.Source{"/memory/max_speed_mts": hw.ControllerDocument,
		"/memory/channels": hw.ControllerDocument,
		"/memory/ecc":      hw.MakerDocument, "/memory/clocked": hw.MakerDocument,
		"/memory/limits/maker_gb": hw.MakerDocument, "/memory/limits/controller_gb": hw.ControllerDocument} {
		f.Values.Set("how:"+name, string(source))
		f.Values.Set("was:"+name, "") // said, not left to the whole form
	}
	v := s.modelForm(f, "", "", 0)
	line.Action, line.Sources = "/models/lines", hw.Sources.Words()
	v.Line = &line
	return s.Render(c, status, "modelform", "Record a model", "models", v)
}

func (s *pages) editModel(c *echo.Context) error {
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	f := form.New(modelValues(r.Chassis))
	return s.Render(c, http.StatusOK, "modelform", "Change "+r.Chassis.Name(), "models",
		s.modelForm(f, r.Chassis.ID, r.Chassis.Name(), r.Version))
}

// modelValues fills the form from a record.
func modelValues(ch *hw.Chassis) url.Values {
	v := url.Values{}
	set := func(name, value string) { v.Set(name, value) }
	how := func(name, path string) {
		if f := evidence.Of(ch.Findings, path).InForce; f != nil {
			v.Set("how:"+name, string(f.Source))
			v.Set("on:"+name, f.On)
			v.Set("note:"+name, f.Note)
		}
	}
	set("/id", ch.ID)
	set("/kind", string(ch.Kind))
	set("/maker", ch.Maker)
	set("/model", ch.Model)
	set("/code", ch.Code)
	set("/year", intWords(ch.Year, ""))
	if ch.Outline != nil {
		set("/outline/width_mm", ch.Outline.Width.String())
		set("/outline/depth_mm", ch.Outline.Depth.String())
	}
	mem := ch.Mem()
	set("/memory/type", string(mem.Type.Or("")))
	set("/memory/max_speed_mts", intWords(mem.MaxSpeed, ""))
	set("/memory/channels", intWords(mem.Channels, ""))
	set("/memory/ecc", string(mem.ECC.Or("")))
	set("/memory/clocked", string(mem.Clocked.Or("")))
	limits := map[string]hw.Maybe[hw.Dec]{"maker_gb": mem.Limits.Maker, "controller_gb": mem.Limits.Controller,
		"proven_gb": mem.Limits.Proven}
	for name, gb := range limits {
		if x, ok := gb.Get(); ok {
			set("/memory/limits/"+name, x.String())
		}
		how("/memory/limits/"+name, "/memory/limits/"+name)
	}
	for _, name := range []string{"type", "max_speed_mts", "channels", "ecc", "clocked"} {
		how("/memory/"+name, "/memory/"+name)
	}
	if mem.Soldered != nil && len(mem.Soldered) == 0 {
		set("/memory/no_soldered", "yes")
	}
	for i := range mem.Soldered {
		s := &mem.Soldered[i]
		at := fmt.Sprintf("/memory/soldered/%d", i)
		set(at+"/id", s.ID)
		set(at+"/channel", s.Channel)
		set(at+"/capacity_gb", s.Capacity.String())
		set(at+"/speed_mts", intWords(s.Speed, ""))
		set(at+"/ranks", intWords(s.Ranks, ""))
		how(at, "/memory/soldered/"+s.ID+"/capacity_gb")
	}
	if mem.Sockets != nil && len(mem.Sockets) == 0 {
		set("/memory/no_sockets", "yes")
	}
	for i := range mem.Sockets {
		s := &mem.Sockets[i]
		at := fmt.Sprintf("/memory/sockets/%d", i)
		set(at+"/id", s.ID)
		set(at+"/channel", s.Channel)
		set(at+"/form", string(s.Form))
		if gb, ok := s.MaxModule.Get(); ok {
			set(at+"/max_module_gb", gb.String())
		}
		how(at, "/memory/sockets/"+s.ID+"/form")
	}
	return v
}

func (s *pages) createModel(c *echo.Context) error { return s.saveModel(c, "") }

func (s *pages) changeModel(c *echo.Context) error { return s.saveModel(c, c.Param("id")) }

func (s *pages) saveModel(c *echo.Context, id string) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	f.Pick()
	version := f.Whole("version").Or(0)
	entry := records.ModelEntry{Before: id, Version: version, Chassis: readModel(f, id), How: f.HowFor()}
	view := s.modelForm(f, id, f.Text("/maker")+" "+f.Text("/model"), version)
	if f.Count() > 0 {
		return s.Render(c, http.StatusUnprocessableEntity, "modelform", "Not saved", "models", view)
	}
	saved, err := s.Shop.RecordModel(c.Request().Context(), s.Acting(c), f.Text("token"), entry)
	switch {
	case errors.Is(err, base.ErrChanged):
		if err := s.modelConflict(c, &view); err != nil {
			return err
		}
		return s.Render(c, http.StatusConflict, "modelform", "Not saved", "models", view)
	case err != nil && f.Take(err):
		return s.Render(c, http.StatusUnprocessableEntity, "modelform", "Not saved", "models", view)
	case err != nil:
		return err
	}
	return kit.SeeOther(c, "/models/"+saved)
}

// modelConflict fills in what someone else made of the form's fields since it was
// opened.
func (s *pages) modelConflict(c *echo.Context, v *modelFormView) error {
	ctx := c.Request().Context()
	then, changes, err := s.Shop.Since(ctx, v.ID, v.Version)
	if err != nil {
		return err
	}
	now, err := s.Shop.Model(ctx, v.ID)
	if err != nil {
		return err
	}
	v.Merge(modelValues(then), modelValues(now.Chassis))
	v.Changed, v.Version = changes, now.Version
	v.Soldered, v.ShownSold = formRows(v.Form, "/memory/soldered", "capacity_gb", 1, 3)
	v.Sockets, v.ShownSock = formRows(v.Form, "/memory/sockets", "form", 2, 6)
	return nil
}

// readModel reads what was typed. What cannot be read is a fault at its field.
func readModel(f *form.Form, id string) *hw.Chassis {
	ch := &hw.Chassis{ID: id, Kind: form.Choose(f, "/kind", hw.Builds).Or(hw.Notebook), Maker: f.Text("/maker"),
		Model: f.Text("/model"),
		Code:  f.Text("/code"), Year: f.Whole("/year")}
	if ch.Maker == "" {
		f.Fault("/maker", hw.Word(hw.FaultMissing, "", "the maker"))
	}
	if ch.Model == "" {
		f.Fault("/model", hw.Word(hw.FaultMissing, "", "the model's name"))
	}
	if id == "" {
		ch.ID = f.Slug("/id", slug.Make(ch.Maker+" "+ch.Model, "model"))
	}
	w, d := f.Dec("/outline/width_mm"), f.Dec("/outline/depth_mm")
	if w.IsKnown() != d.IsKnown() {
		f.Fault("/outline/depth_mm", "the outline needs both width and depth")
	}
	if w.IsKnown() && d.IsKnown() {
		ch.Outline = &hw.Outline{Width: w.Or(0), Depth: d.Or(0)}
	}
	mem := &hw.Memory{Type: form.Choose(f, "/memory/type", hw.MemoryTypes), MaxSpeed: f.Whole("/memory/max_speed_mts"),
		Channels: f.Whole("/memory/channels"), ECC: form.Choose(f, "/memory/ecc", hw.ECCUses),
		Clocked: form.Choose(f, "/memory/clocked", hw.ClockedUses)}
	mem.Limits = hw.Limits{Maker: f.Dec("/memory/limits/maker_gb"), Controller: f.Dec("/memory/limits/controller_gb"),
		Proven: f.Dec("/memory/limits/proven_gb")}
	if f.Is("/memory/no_soldered", "yes") {
		mem.Soldered = []hw.Soldered{}
	}
	for n, i := range f.RowsOf("/memory/soldered", "capacity_gb", "id", "channel", "speed_mts", "ranks") {
		at := fmt.Sprintf("/memory/soldered/%d", i)
		s := hw.Soldered{ID: f.Slug(at+"/id", form.Proposal("onboard", n)), Channel: f.Channel(at + "/channel"),
			Speed: f.Whole(at + "/speed_mts"), Ranks: f.Whole(at + "/ranks")}
		gb := f.Dec(at + "/capacity_gb")
		if !gb.IsKnown() && len(f.Errors(at+"/capacity_gb")) == 0 {
			f.Fault(at+"/capacity_gb", hw.Word(hw.FaultMissing, "", "the capacity"))
		}
		s.Capacity = gb.Or(0)
		mem.Soldered = append(mem.Soldered, s)
	}
	if f.Is("/memory/no_sockets", "yes") {
		mem.Sockets = []hw.Socket{}
	}
	for n, i := range f.RowsOf("/memory/sockets", "form", "id", "channel", "max_module_gb") {
		at := fmt.Sprintf("/memory/sockets/%d", i)
		s := hw.Socket{ID: f.Slug(at+"/id", "dimm"+strconv.Itoa(n+1)), Channel: f.Channel(at + "/channel"),
			MaxModule: f.Dec(at + "/max_module_gb")}
		shape := form.Choose(f, at+"/form", hw.ModuleForms)
		if !shape.IsKnown() && len(f.Errors(at+"/form")) == 0 {
			f.Fault(at+"/form", hw.Word(hw.FaultMissing, "", "the form"))
		}
		s.Form = shape.Or("")
		mem.Sockets = append(mem.Sockets, s)
	}
	f.Contradiction("/memory/no_soldered", len(mem.Soldered), "soldered memory")
	f.Contradiction("/memory/no_sockets", len(mem.Sockets), "sockets")
	ch.Memory = mem
	return ch
}
