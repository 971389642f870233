package record

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"
	"yembo/shop/base"
	"yembo/shop/records"

	"github.com/labstack/echo/v5"

	"yembo/core/doc"
	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/web/form"
	"yembo/web/kit"
)

// itemView is the form for one thing of a record.
type itemView struct {
	*form.Form
	Spec    form.ItemSpec
	Model   string
	Name    string // of the model
	ID      string // of the thing, "" for a new one
	Version int
	Action  string
	Steps   []hw.Term[string]
	Lengths []int
	Sources []string
	Today   string
	Changed []base.Change      // what someone else did meanwhile
	Gone    bool               // the thing was taken out of the record meanwhile
	Line    string             // the same as a line of shorthand
	Marks   map[string]factRow // how each field is known now, by the field's name
}

// usualLengths are those that the form asks for; others that are recorded are added.
var usualLengths = []int{30, 42, 60, 80, 110}

func (s *pages) itemView(c *echo.Context, f *form.Form) (itemView, *hw.Chassis, error) {
	list := c.Param("list")
	if list == "record" {
		list = "/"
	}
	spec, ok := form.ItemOf(list)
	if !ok {
		return itemView{}, nil, base.ErrNotFound
	}
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return itemView{}, nil, err
	}
	v := itemView{Form: f, Spec: spec, Model: r.Chassis.ID, Name: r.Chassis.Name(), ID: c.Param("item"),
		Version: r.Version,
		Action:  c.Request().URL.Path, Sources: hw.Sources.Words(), Today: hw.Day(s.Shop.Now().Format(time.DateOnly)),
		Lengths: usualLengths}
	for i := range r.Chassis.Steps {
		st := &r.Chassis.Steps[i]
		v.Steps = append(v.Steps, hw.Term[string]{Word: st.ID, Says: fmt.Sprintf("%s (step %d)", st.Does(), i+1)})
	}
	if v.ID == "new" {
		v.ID = ""
	}
	v.Marks = map[string]factRow{}
	if v.ID != "" && spec.List != "" {
		v.Line = shorthand.PrintOne(r.Chassis, spec.List, v.ID)
	}
	prefix := "/" + spec.List + "/" + v.ID
	if spec.List == "" {
		prefix = ""
	}
	for _, fact := range evidence.Facts(r.Chassis.Findings) {
		if field, ok := strings.CutPrefix(fact.Path, prefix); ok && fact.InForce != nil &&
			(v.ID != "" || spec.List == "") {
			v.Marks[field] = factRow{Source: string(fact.InForce.Source), Date: hw.Day(fact.InForce.On),
				By: fact.InForce.By, Disputed: fact.Disputed}
		}
	}
	return v, r.Chassis, nil
}

// Turns are the ways a place may be turned.
func (v itemView) Turns() []string { return form.Turns }

// TermsOf are the choices of a field with their words; without a table they are the steps
// of the record.
func (v itemView) TermsOf(f form.FieldSpec) []hw.Term[string] {
	if f.Terms != nil {
		return f.Terms
	}
	return v.Steps
}

func (s *pages) editItem(c *echo.Context) error {
	f := form.New(url.Values{})
	v, ch, err := s.itemView(c, f)
	if err != nil {
		return err
	}
	if v.ID != "" || v.Spec.List == "" {
		if !fillItem(f, ch, v.Spec, v.ID) {
			return base.ErrNotFound
		}
	}
	f.Values.Set("version", strconv.Itoa(v.Version))
	return s.Render(c, http.StatusOK, "item", v.title(), "models", v)
}

func (v itemView) title() string {
	if v.ID == "" && v.Spec.List != "" {
		return v.Spec.Verb + " to " + v.Name
	}
	return "Change " + strings.TrimSpace(v.Spec.Name+" "+v.ID) + " of " + v.Name
}

// itemTree returns one thing of a record as the document has it.
func itemTree(ch *hw.Chassis, list, id string) (doc.Tree, bool) {
	tree := doc.Of(ch)
	if list != "" {
		tree = tree.Item(list, id)
	}
	return tree, tree != nil
}

// fillItem fills the form from the record.
func fillItem(f *form.Form, ch *hw.Chassis, spec form.ItemSpec, id string) bool {
	item, ok := itemTree(ch, spec.List, id)
	if !ok {
		return false
	}
	for _, field := range spec.Fields {
		if value := item.Get(field.Name); value != nil {
			field.Fill(f, "/"+field.Name, value)
		}
	}
	if at, ok := item["at"].(map[string]any); ok {
		for name, x := range at {
			f.Values.Set("/at/"+name, fmt.Sprint(x))
		}
	}
	return true
}

func (s *pages) saveItem(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	v, ch, err := s.itemView(c, f)
	if err != nil {
		return err
	}
	if v.ID != "" && v.Spec.List != "" {
		if _, there := itemTree(ch, v.Spec.List, v.ID); !there {
			// Someone took it out: what was typed is kept and can be added anew.
			v.Gone, v.Action, v.ID = true, strings.TrimSuffix(v.Action, v.ID)+"new", ""
			f.Values.Set("version", strconv.Itoa(v.Version))
			return s.Render(c, http.StatusConflict, "item", "Not saved", "models", v)
		}
	}
	f.Pick()
	in := records.ItemEntry{Model: v.Model, Version: f.Whole("version").Or(-1), List: v.Spec.List, Before: v.ID,
		How: f.HowOfItem}
	if !f.Is("do", "remove") {
		in.Fields = form.ReadItem(f, v.Spec)
	}
	if f.Count() == 0 {
		err := s.Shop.RecordItem(c.Request().Context(), s.Acting(c), f.Text("token"), in)
		switch {
		case err == nil:
			return kit.SeeOther(c, "/models/"+v.Model)
		case errors.Is(err, base.ErrChanged):
			return s.itemConflict(c, v, ch, in.Version)
		}
		f.AtItem(ch, v.Spec.List, v.ID)
		if !f.Take(err) {
			return err
		}
	}
	return s.Render(c, http.StatusUnprocessableEntity, "item", "Not saved", "models", v)
}

// itemConflict shows the form again, with what someone else made of its fields since
// it was opened. Saving it once more is saving over the record as it is now.
func (s *pages) itemConflict(c *echo.Context, v itemView, now *hw.Chassis, version int) error {
	then, changes, err := s.Shop.Since(c.Request().Context(), v.Model, version)
	if err != nil {
		return err
	}
	was, is := form.New(url.Values{}), form.New(url.Values{})
	if v.ID != "" || v.Spec.List == "" {
		fillItem(was, then, v.Spec, v.ID)
		fillItem(is, now, v.Spec, v.ID)
		v.Merge(was.Values, is.Values)
	}
	v.Changed = changes
	v.Values.Set("version", strconv.Itoa(v.Version))
	return s.Render(c, http.StatusConflict, "item", "Not saved", "models", v)
}

// partRowOf is one line of the record's list of parts that have a form.
type partRowOf struct {
	List, ID, Name, What string
}

// partsOf lists what a record has, by the forms' own names.
func partsOf(ch *hw.Chassis) []partRowOf {
	var out []partRowOf
	tree := doc.Of(ch)
	for _, spec := range form.Items {
		if spec.List == "" {
			continue
		}
		for _, item := range tree.List(spec.List) {
			id, _ := item["id"].(string)
			out = append(out, partRowOf{spec.Slug(), id, spec.Name, spec.Words(item)})
		}
	}
	return out
}
