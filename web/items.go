package web

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"sort"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

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
		Action: c.Request().URL.Path, Sources: evidence.Sources, Today: s.Shop.Now().Format("2006-01-02"), Lengths: usualLengths}
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
			v.Marks[field] = factRow{Source: fact.InForce.Source, Date: day(fact.InForce.On), By: fact.InForce.By, Disputed: fact.Disputed}
		}
	}
	return v, r.Chassis, nil
}

// Turns are the ways a place may be turned.
func (v itemView) Turns() []string { return turns }

// WordsOf are the choices of a field; steps are those of the record.
func (v itemView) WordsOf(f fieldSpec) []string {
	if f.Kind == "choice" && f.Words == nil {
		return v.Steps
	}
	return f.Words
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
func itemTree(ch *hw.Chassis, list, id string) (map[string]any, bool) {
	tree := recordTree(ch)
	if list == "" {
		return tree, true
	}
	for _, item := range listIn(tree, list) {
		if item["id"] == id {
			return item, true
		}
	}
	return nil, false
}

// recordTree is a record as its document has it.
func recordTree(ch *hw.Chassis) map[string]any {
	tree := map[string]any{}
	raw, err := json.Marshal(ch)
	if err != nil || json.Unmarshal(raw, &tree) != nil {
		return map[string]any{}
	}
	return tree
}

// listIn finds a list of things in a document, such as slots or memory/sockets.
func listIn(tree map[string]any, list string) []map[string]any {
	var node any = tree
	for _, name := range strings.Split(list, "/") {
		object, _ := node.(map[string]any)
		node = object[name]
	}
	items, _ := node.([]any)
	out := make([]map[string]any, 0, len(items))
	for _, item := range items {
		object, _ := item.(map[string]any)
		out = append(out, object)
	}
	return out
}

// fillItem fills the form from the record.
func fillItem(f *Form, ch *hw.Chassis, spec itemSpec, id string) bool {
	item, ok := itemTree(ch, spec.List, id)
	if !ok {
		return false
	}
	for _, field := range spec.Fields {
		value, known := item[field.Name]
		if !known {
			continue
		}
		name := "/" + field.Name
		switch x := value.(type) {
		case bool:
			f.values.Set(name, map[bool]string{true: "yes", false: "no"}[x])
		case float64:
			f.values.Set(name, strconv.FormatFloat(x, 'f', -1, 64))
		case string:
			f.values.Set(name, x)
		case []any:
			f.values.Set(name, listText(x))
		case map[string]any:
			for mm, how := range x {
				f.values.Set(name+"/"+mm, fmt.Sprint(how))
			}
		}
	}
	if at, ok := item["at"].(map[string]any); ok {
		for name, x := range at {
			f.values.Set("/at/"+name, fmt.Sprint(x))
		}
	}
	return true
}

// listText writes a list as it is typed: with commas; an empty one is "none".
func listText(list []any) string {
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
			words[i] = fmt.Sprint(item)
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
		items := listIn(recordTree(ch), list)
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
func (f *Form) howOfItem(string) (source, on, note string, anew bool) {
	source = f.text("how:")
	if evidence.Rank(source) == len(evidence.Sources) {
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
	tree := recordTree(ch)
	for _, spec := range itemSpecs {
		if spec.List == "" {
			continue
		}
		for _, item := range listIn(tree, spec.List) {
			id, _ := item["id"].(string)
			out = append(out, partRowOf{spec.Slug(), id, spec.Name, spec.words(item)})
		}
	}
	return out
}

// words sums a thing up, field by field in the order of its form.
func (s itemSpec) words(item map[string]any) string {
	var out []string
	for _, f := range s.Fields {
		label := strings.ToLower(f.Label[:1]) + f.Label[1:]
		switch x := item[f.Name].(type) {
		case nil:
		case bool:
			if x {
				out = append(out, label)
			}
		case string:
			switch {
			case f.Name == "id" || f.Name == "reach":
			case f.Name == "key" || f.Name == "cooling" || f.Name == "channel":
				out = append(out, label+" "+x)
			default:
				out = append(out, strings.ReplaceAll(x, "_", " "))
			}
		case float64:
			out = append(out, strings.TrimSpace(label+" "+strconv.FormatFloat(x, 'f', -1, 64)+" "+unitOf(f.Name)))
		case []any:
			if len(x) > 0 && f.Kind != "points" {
				out = append(out, label+" "+listText(x))
			}
		case map[string]any:
			out = append(out, lengthList(x))
		}
	}
	return strings.Join(out, "; ")
}

// lengthList writes how each module length is held, shortest first.
func lengthList(lengths map[string]any) string {
	var mm []int
	for text := range lengths {
		if n, err := strconv.Atoi(text); err == nil {
			mm = append(mm, n)
		}
	}
	sort.Ints(mm)
	words := make([]string, len(mm))
	for i, n := range mm {
		words[i] = itoa(n) + " mm " + fmt.Sprint(lengths[itoa(n)])
	}
	return strings.Join(words, ", ")
}

// unitOf is the unit that a field's name carries.
func unitOf(name string) string {
	for suffix, unit := range fieldUnits {
		if strings.HasSuffix(name, suffix) {
			return unit
		}
	}
	return ""
}
