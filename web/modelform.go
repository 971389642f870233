package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/shop"
)

func itoa(n int) string { return strconv.Itoa(n) }

// modelFormView is the form for a model, new or changed.
type modelFormView struct {
	*Form
	ID        string // "" for a new record
	Name      string
	Version   int
	Types     []string
	Forms     []string
	Sources   []string
	Soldered  []int
	Sockets   []int
	Action    string
	Changed   []shop.Change // what someone else did meanwhile
	Today     string
	Line      *lineView // for a new record
	ShownSold int       // rows shown before "add another"
	ShownSock int
}

func (s *server) modelForm(f *Form, id, name string, version int) modelFormView {
	v := modelFormView{Form: f, ID: id, Name: name, Version: version, Types: hw.MemoryTypes.Words(), Forms: hw.ModuleForms.Words(), Sources: hw.Sources.Words(),
		Action: "/models", Today: s.Shop.Now().Format("2006-01-02")}
	if id != "" {
		v.Action = "/models/" + id
	}
	v.Soldered, v.ShownSold = formRows(f, "/memory/soldered", "capacity_gb", 1, 3)
	v.Sockets, v.ShownSock = formRows(f, "/memory/sockets", "form", 2, 6)
	return v
}

// formRows says how many rows a list has on the page, and how many of them show
// before "add another": those in use, at least shown.
func formRows(f *Form, list, field string, shown, spare int) (rows []int, visible int) {
	used := 0
	for i := range maxRows {
		if f.text(fmt.Sprintf("%s/%d/id", list, i)) != "" || f.text(fmt.Sprintf("%s/%d/%s", list, i, field)) != "" {
			used = i + 1
		}
	}
	for i := range min(max(used+spare, shown), maxRows) {
		rows = append(rows, i)
	}
	return rows, max(used, shown)
}

func (s *server) newModel(c *echo.Context) error {
	return s.newModelPage(c, http.StatusOK, lineView{})
}

// newModelPage is the form for a new record, with a line beside it for those who
// rather type.
func (s *server) newModelPage(c *echo.Context, status int, line lineView) error {
	// Where such a fact usually comes from; the technician says otherwise.
	f := newForm(url.Values{"/kind": {"notebook"}, "how:/memory/max_speed_mts": {"controller_document"}, "how:/memory/channels": {"controller_document"},
		"how:/memory/limits/maker_gb": {"maker_document"}, "how:/memory/limits/controller_gb": {"controller_document"}})
	v := s.modelForm(f, "", "", 0)
	line.Action, line.Sources = "/models/lines", hw.Sources.Words()
	v.Line = &line
	return s.render(c, status, "modelform", "Record a model", "models", v)
}

func (s *server) editModel(c *echo.Context) error {
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	f := newForm(modelValues(r.Chassis))
	return s.render(c, http.StatusOK, "modelform", "Change "+r.Chassis.Name(), "models", s.modelForm(f, r.Chassis.ID, r.Chassis.Name(), r.Version))
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
	limits := map[string]hw.Maybe[hw.Dec]{"maker_gb": mem.Limits.Maker, "controller_gb": mem.Limits.Controller, "proven_gb": mem.Limits.Proven}
	for name, gb := range limits {
		if x, ok := gb.Get(); ok {
			set("/memory/limits/"+name, x.String())
		}
		how("/memory/limits/"+name, "/memory/limits/"+name)
	}
	for _, name := range []string{"type", "max_speed_mts", "channels"} {
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

func (s *server) createModel(c *echo.Context) error { return s.saveModel(c, "") }
func (s *server) changeModel(c *echo.Context) error { return s.saveModel(c, c.Param("id")) }

func (s *server) saveModel(c *echo.Context, id string) error {
	f, err := sentForm(c)
	if err != nil {
		return err
	}
	f.pick()
	version := f.whole("version").Or(0)
	entry := shop.ModelEntry{Before: id, Version: version, Chassis: readModel(f, id), How: f.howFor()}
	view := s.modelForm(f, id, f.text("/maker")+" "+f.text("/model"), version)
	if f.Count() > 0 {
		return s.render(c, http.StatusUnprocessableEntity, "modelform", "Not stored yet", "models", view)
	}
	saved, err := s.Shop.RecordModel(c.Request().Context(), s.Actor, f.text("token"), entry)
	switch {
	case errors.Is(err, shop.ErrChanged):
		if err := s.modelConflict(c, &view); err != nil {
			return err
		}
		return s.render(c, http.StatusConflict, "modelform", "Not stored yet", "models", view)
	case err != nil && f.take(err):
		return s.render(c, http.StatusUnprocessableEntity, "modelform", "Not stored yet", "models", view)
	case err != nil:
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/models/"+saved)
}

// modelConflict fills in what someone else made of the form's fields since it was
// opened.
func (s *server) modelConflict(c *echo.Context, v *modelFormView) error {
	ctx := c.Request().Context()
	then, changes, err := s.Shop.Since(ctx, v.ID, v.Version)
	if err != nil {
		return err
	}
	now, err := s.Shop.Model(ctx, v.ID)
	if err != nil {
		return err
	}
	v.merge(modelValues(then), modelValues(now.Chassis))
	v.Changed, v.Version = changes, now.Version
	v.Soldered, v.ShownSold = formRows(v.Form, "/memory/soldered", "capacity_gb", 1, 3)
	v.Sockets, v.ShownSock = formRows(v.Form, "/memory/sockets", "form", 2, 6)
	return nil
}

// readModel reads what was typed. What cannot be read is a fault at its field.
func readModel(f *Form, id string) *hw.Chassis {
	ch := &hw.Chassis{ID: id, Kind: choose(f, "/kind", hw.Builds).Or(hw.Notebook), Maker: f.text("/maker"), Model: f.text("/model"),
		Code: f.text("/code"), Year: f.whole("/year")}
	if ch.Maker == "" {
		f.fault("/maker", hw.Word(hw.FaultMissing, "", "the maker"))
	}
	if ch.Model == "" {
		f.fault("/model", hw.Word(hw.FaultMissing, "", "the model's name"))
	}
	if id == "" {
		ch.ID = f.slug("/id", hw.Slug(ch.Maker+" "+ch.Model, "model"))
	}
	w, d := f.dec("/outline/width_mm"), f.dec("/outline/depth_mm")
	if w.IsKnown() != d.IsKnown() {
		f.fault("/outline/depth_mm", "the outline needs both width and depth")
	}
	if w.IsKnown() && d.IsKnown() {
		ch.Outline = &hw.Outline{Width: w.Or(0), Depth: d.Or(0)}
	}
	mem := &hw.Memory{Type: choose(f, "/memory/type", hw.MemoryTypes), MaxSpeed: f.whole("/memory/max_speed_mts"), Channels: f.whole("/memory/channels")}
	mem.Limits = hw.Limits{Maker: f.dec("/memory/limits/maker_gb"), Controller: f.dec("/memory/limits/controller_gb"), Proven: f.dec("/memory/limits/proven_gb")}
	if f.Is("/memory/no_soldered", "yes") {
		mem.Soldered = []hw.Soldered{}
	}
	for n, i := range f.rowsOf("/memory/soldered", "capacity_gb", "id", "channel", "speed_mts", "ranks") {
		at := fmt.Sprintf("/memory/soldered/%d", i)
		s := hw.Soldered{ID: f.slug(at+"/id", proposal("onboard", n)), Channel: f.channel(at + "/channel"), Speed: f.whole(at + "/speed_mts"), Ranks: f.whole(at + "/ranks")}
		gb := f.dec(at + "/capacity_gb")
		if !gb.IsKnown() && len(f.Errors(at+"/capacity_gb")) == 0 {
			f.fault(at+"/capacity_gb", hw.Word(hw.FaultMissing, "", "the capacity"))
		}
		s.Capacity = gb.Or(0)
		mem.Soldered = append(mem.Soldered, s)
	}
	if f.Is("/memory/no_sockets", "yes") {
		mem.Sockets = []hw.Socket{}
	}
	for n, i := range f.rowsOf("/memory/sockets", "form", "id", "channel", "max_module_gb") {
		at := fmt.Sprintf("/memory/sockets/%d", i)
		s := hw.Socket{ID: f.slug(at+"/id", "dimm"+itoa(n+1)), Channel: f.channel(at + "/channel"), MaxModule: f.dec(at + "/max_module_gb")}
		form := choose(f, at+"/form", hw.ModuleForms)
		if !form.IsKnown() && len(f.Errors(at+"/form")) == 0 {
			f.fault(at+"/form", hw.Word(hw.FaultMissing, "", "the form"))
		}
		s.Form = form.Or("")
		mem.Sockets = append(mem.Sockets, s)
	}
	f.contradiction("/memory/no_soldered", len(mem.Soldered), "soldered memory")
	f.contradiction("/memory/no_sockets", len(mem.Sockets), "sockets")
	ch.Memory = mem
	return ch
}

// contradiction is a list said to be empty that has rows.
func (f *Form) contradiction(name string, rows int, what string) {
	if f.Is(name, "yes") && rows > 0 {
		f.fault(name, fmt.Sprintf("it says there is none, but %d rows of %s are filled in", rows, what))
	}
}

func proposal(base string, n int) string {
	if n == 0 {
		return base
	}
	return base + "-" + itoa(n+1)
}

// channel reads a channel letter, in either case.
func (f *Form) channel(name string) string {
	text := strings.ToUpper(f.text(name))
	if text == "" {
		return ""
	}
	if len(text) != 1 || text[0] < 'A' || text[0] > 'Z' {
		f.fault(name, hw.Word(hw.FaultChoice, fmt.Sprintf("%q", f.text(name)), "one letter, A for the first channel"))
		return ""
	}
	return text
}

// howFor says for a fact's path how the form says it is known. A row of sockets or
// soldered memory has one source for all its facts.
func (f *Form) howFor() func(path string) (source hw.Source, on, note string, anew bool) {
	byID := map[string]string{} // "/memory/sockets/dimm1" -> "/memory/sockets/0"
	for _, list := range []string{"/memory/sockets", "/memory/soldered"} {
		n := 0
		for i := range maxRows {
			at := fmt.Sprintf("%s/%d", list, i)
			fields := map[string][]string{"/memory/sockets": {"form", "id", "channel", "max_module_gb"}, "/memory/soldered": {"capacity_gb", "id", "channel", "speed_mts", "ranks"}}
			typed := false
			for _, name := range fields[list] {
				typed = typed || f.text(at+"/"+name) != ""
			}
			if !typed {
				continue
			}
			standard := proposal("onboard", n)
			if list == "/memory/sockets" {
				standard = "dimm" + itoa(n+1)
			}
			name := f.text(at + "/id")
			if name == "" {
				name = standard
			}
			byID[list+"/"+name] = at
			n++
		}
	}
	return func(path string) (source hw.Source, on, note string, anew bool) {
		name := path
		for prefix, row := range byID {
			if evidence.Within(path, prefix) {
				name = row
			}
		}
		source = hw.Source(f.text("how:" + name))
		if hw.Sources.Index(source) < 0 {
			source = hw.Bench
		}
		anew = f.text("was:"+name) != f.Known(name)
		return source, f.date("on:" + name), f.text("note:" + name), anew
	}
}

// Known is how a fact is said to be known, in one text; the form carries what it
// was beside it, to tell an answer given anew from one left standing.
func (f *Form) Known(name string) string {
	return f.text("how:"+name) + "|" + f.text("on:"+name) + "|" + f.text("note:"+name)
}

// Was is what stood there when the form was first shown.
func (f *Form) Was(name string) string {
	if f.values.Has("was:" + name) {
		return f.text("was:" + name)
	}
	return f.Known(name)
}

// date reads an optional date; one that does not exist is a fault at its field.
func (f *Form) date(name string) string {
	text := f.text(name)
	if _, err := time.Parse("2006-01-02", text); err != nil && text != "" {
		f.fault(name, hw.Word(hw.FaultType, strconv.Quote(text), "a date such as 2026-05-14"))
		return ""
	}
	return text
}
