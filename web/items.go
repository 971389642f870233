package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/doc"
	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/shop"
)

// itemView is the form for one thing of a record.
type itemView struct {
	*Form
	Spec    itemSpec
	Model   string
	Name    string // of the model
	ID      string // of the thing, "" for a new one
	Version int
	Action  string
	Steps   []string
	Lengths []int
	Sources []string
	Today   string
	Changed []shop.Change      // what someone else did meanwhile
	Gone    bool               // the thing was taken out of the record meanwhile
	Line    string             // the same as a line of shorthand
	Marks   map[string]factRow // how each field is known now, by the field's name
}

// usualLengths are those that the form asks for; others that are recorded are added.
var usualLengths = []int{30, 42, 60, 80, 110}

func (s *server) itemView(c *echo.Context, f *Form) (itemView, *hw.Chassis, error) {
	list := c.Param("list")
	if list == "record" {
		list = "/"
	}
	spec, ok := specOf(list)
	if !ok {
		return itemView{}, nil, shop.ErrNotFound
	}
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return itemView{}, nil, err
	}
	v := itemView{Form: f, Spec: spec, Model: r.Chassis.ID, Name: r.Chassis.Name(), ID: c.Param("item"), Version: r.Version,
		Action: c.Request().URL.Path, Sources: hw.Sources.Words(), Today: s.Shop.Now().Format("2006-01-02"), Lengths: usualLengths}
	for i := range r.Chassis.Steps {
		v.Steps = append(v.Steps, r.Chassis.Steps[i].ID)
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
		if field, ok := strings.CutPrefix(fact.Path, prefix); ok && fact.InForce != nil && (v.ID != "" || spec.List == "") {
			v.Marks[field] = factRow{Source: string(fact.InForce.Source), Date: hw.Day(fact.InForce.On), By: fact.InForce.By, Disputed: fact.Disputed}
		}
	}
	return v, r.Chassis, nil
}

// Turns are the ways a place may be turned.
func (v itemView) Turns() []string { return turns }

// TermsOf are the choices of a field with their words; without a table they are the steps
// of the record.
func (v itemView) TermsOf(f fieldSpec) []hw.Term[string] {
	if f.Terms != nil {
		return f.Terms
	}
	out := make([]hw.Term[string], len(v.Steps))
	for i, id := range v.Steps {
		out[i] = hw.Term[string]{Word: id, Says: id}
	}
	return out
}

func (s *server) editItem(c *echo.Context) error {
	f := newForm(url.Values{})
	v, ch, err := s.itemView(c, f)
	if err != nil {
		return err
	}
	if v.ID != "" || v.Spec.List == "" {
		if !fillItem(f, ch, v.Spec, v.ID) {
			return shop.ErrNotFound
		}
	}
	f.values.Set("version", itoa(v.Version))
	return s.render(c, http.StatusOK, "item", v.title(), "models", v)
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
func fillItem(f *Form, ch *hw.Chassis, spec itemSpec, id string) bool {
	item, ok := itemTree(ch, spec.List, id)
	if !ok {
		return false
	}
	for _, field := range spec.Fields {
		if value := item.Get(field.Name); value != nil {
			field.fill(f, "/"+field.Name, value)
		}
	}
	if at, ok := item["at"].(map[string]any); ok {
		for name, x := range at {
			f.values.Set("/at/"+name, fmt.Sprint(x))
		}
	}
	return true
}

// fill writes a field's value the way it is typed.
func (field *fieldSpec) fill(f *Form, name string, value any) {
	switch x := value.(type) {
	case bool:
		f.values.Set(name, map[bool]string{true: "yes", false: "no"}[x])
	case []any:
		f.values.Set(name, field.listText(x))
	case map[string]any:
		if field.Kind == "condition" {
			f.values.Set(name, fmt.Sprintf("%v %v", x["place"], x["state"]))
			return
		}
		for mm, how := range x {
			f.values.Set(name+"/"+mm, fmt.Sprint(how))
		}
	default:
		f.values.Set(name, fmt.Sprint(x))
	}
}

// listText writes a list as it is typed: with commas; an empty one is "none".
func (field *fieldSpec) listText(list []any) string {
	if len(list) == 0 {
		return "none"
	}
	words := make([]string, len(list))
	for i, item := range list {
		switch x := item.(type) {
		case map[string]any:
			words[i] = fmt.Sprintf("%v %v", x["group"], x["count"])
			if x["group"] == nil {
				words[i] = fmt.Sprintf("%v %v", x["x_mm"], x["y_mm"])
			}
		case []any:
			words[i] = strings.Trim(fmt.Sprint(x), "[]")
		default:
			words[i] = field.says(fmt.Sprint(item))
		}
	}
	return strings.Join(words, ", ")
}

func (s *server) saveItem(c *echo.Context) error {
	f, err := sentForm(c)
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
			f.values.Set("version", itoa(v.Version))
			return s.render(c, http.StatusConflict, "item", "Not stored yet", "models", v)
		}
	}
	f.pick()
	in := shop.ItemEntry{Model: v.Model, Version: f.whole("version").Or(-1), List: v.Spec.List, Before: v.ID, How: f.howOfItem}
	if !f.Is("do", "remove") {
		in.Fields = readItem(f, v.Spec)
	}
	if f.Count() == 0 {
		err := s.Shop.RecordItem(c.Request().Context(), s.Actor, f.text("token"), in)
		switch {
		case err == nil:
			return c.Redirect(http.StatusSeeOther, "/models/"+v.Model)
		case errors.Is(err, shop.ErrChanged):
			return s.itemConflict(c, v, ch, in.Version)
		}
		f.atItem(ch, v.Spec.List, v.ID)
		if !f.take(err) {
			return err
		}
	}
	return s.render(c, http.StatusUnprocessableEntity, "item", "Not stored yet", "models", v)
}

// itemConflict shows the form again, with what someone else made of its fields since
// it was opened. Saving it once more is saving over the record as it is now.
func (s *server) itemConflict(c *echo.Context, v itemView, now *hw.Chassis, version int) error {
	then, changes, err := s.Shop.Since(c.Request().Context(), v.Model, version)
	if err != nil {
		return err
	}
	was, is := newForm(url.Values{}), newForm(url.Values{})
	if v.ID != "" || v.Spec.List == "" {
		fillItem(was, then, v.Spec, v.ID)
		fillItem(is, now, v.Spec, v.ID)
		v.merge(was.values, is.values)
	}
	v.Changed = changes
	v.values.Set("version", itoa(v.Version))
	return s.render(c, http.StatusConflict, "item", "Not stored yet", "models", v)
}

// atItem lets faults on the thing's place in the record stand at the form's fields.
func (f *Form) atItem(ch *hw.Chassis, list, id string) {
	n := 0
	if list != "" {
		items := doc.Of(ch).List(list)
		n = len(items)
		for i, item := range items {
			if id != "" && item["id"] == id {
				n = i
			}
		}
	}
	f.rows["/"+list+"/"+itoa(n)] = ""
}

// howOfItem is how what was entered or changed is said to be known; with the box
// ticked, all of it.
func (f *Form) howOfItem(string) (source hw.Source, on, note string, anew bool) {
	source = hw.Source(f.text("how:"))
	if hw.Sources.Index(source) < 0 {
		source = "bench"
	}
	return source, f.date("on:"), f.text("note:"), f.Is("confirm", "yes")
}

// partRowOf is one line of the record's list of parts that have a form.
type partRowOf struct {
	List, ID, Name, What string
}

// partsOf lists what a record has, by the forms' own names.
func partsOf(ch *hw.Chassis) []partRowOf {
	var out []partRowOf
	tree := doc.Of(ch)
	for _, spec := range itemSpecs {
		if spec.List == "" {
			continue
		}
		for _, item := range tree.List(spec.List) {
			id, _ := item["id"].(string)
			out = append(out, partRowOf{spec.Slug(), id, spec.Name, spec.words(item)})
		}
	}
	return out
}

// words sums a thing up, field by field in the order of its form.
func (s itemSpec) words(item doc.Tree) string {
	var out []string
	for _, f := range s.Fields {
		label := hw.LowerFirst(f.Label)
		switch x := item.Get(f.Name).(type) {
		case nil:
		case bool:
			if x {
				out = append(out, label)
			}
		case string:
			switch {
			case f.Name == "id" || f.Name == "reach":
			case f.Terms != nil && f.Name != "cooling":
				out = append(out, f.says(x))
			default:
				out = append(out, label+" "+f.says(x))
			}
		case []any:
			if len(x) > 0 && f.Kind != "points" {
				out = append(out, label+" "+f.listText(x))
			}
		case map[string]any:
			if f.Kind == "condition" {
				out = append(out, fmt.Sprintf("%s %v is %v", label, x["place"], x["state"]))
			} else {
				out = append(out, hw.LengthList(x))
			}
		default:
			out = append(out, strings.TrimSpace(label+" "+fmt.Sprint(x)+" "+hw.UnitOf(f.Name)))
		}
	}
	return strings.Join(out, "; ")
}
