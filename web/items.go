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
	Changed bool
}

// usualLengths are those that the form asks for; others that are recorded are added.
var usualLengths = []int{30, 42, 60, 80, 110}

func (s *server) itemView(c *echo.Context, f *Form) (itemView, *hw.Chassis, error) {
	list := c.Param("list")
	if list == "record" {
		list = ""
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
	return v, r.Chassis, nil
}

// Turns are the ways a place may be turned.
func (v itemView) Turns() []string { return []string{"0", "90", "180", "270"} }

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
	raw, err := json.Marshal(ch)
	if err != nil {
		return nil, false
	}
	tree := map[string]any{}
	if json.Unmarshal(raw, &tree) != nil {
		return nil, false
	}
	if list == "" {
		return tree, true
	}
	items, _ := tree[list].([]any)
	for _, item := range items {
		if object, _ := item.(map[string]any); object["id"] == id {
			return object, true
		}
	}
	return nil, false
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
	prefix := "/" + spec.List + "/" + id
	for _, fact := range evidence.Used(evidence.Facts(ch.Findings), []string{prefix}) {
		if spec.List != "" && !f.values.Has("how:") {
			f.values.Set("how:", fact.InForce.Source)
			f.values.Set("on:", fact.InForce.On)
			f.values.Set("note:", fact.InForce.Note)
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
		if screw, ok := item.(map[string]any); ok {
			words[i] = fmt.Sprintf("%v %v", screw["group"], screw["count"])
			continue
		}
		words[i] = fmt.Sprint(item)
	}
	return strings.Join(words, ", ")
}

// readItem reads what was typed into the fields of the document; an empty field is
// not known. What cannot be read is a fault at its field.
func readItem(f *Form, spec itemSpec) map[string]any {
	out := map[string]any{}
	for _, field := range spec.Fields {
		name := "/" + field.Name
		var value any
		switch field.Kind {
		case "id":
			value = f.slug(name, "")
			if value == "" {
				f.fault(name, hw.Word(hw.FaultMissing, "", "the id"))
			}
		case "int":
			if n, ok := f.whole(name).Get(); ok {
				value = n
			}
		case "dec":
			if n, ok := f.dec(name).Get(); ok {
				value = n
			}
		case "yesno":
			if text, ok := f.choice(name, yesNo).Get(); ok {
				value = text == "yes"
			}
		case "list":
			value = f.list(name)
		case "lengths":
			value = f.lengths(name)
		case "screws":
			value = f.screws(name)
		default:
			if text := f.text(name); text != "" {
				value = text
			}
		}
		// The formats ask for these (the id is asked for above).
		if value == nil && (field.Name == "purpose" || field.Name == "verb" || (field.Name == "form" && spec.List == "bays")) {
			f.fault(name, hw.Word(hw.FaultMissing, "", strings.ToLower(field.Label)))
		}
		out[field.Name] = value
	}
	if spec.List == "steps" && out["needs"] == nil {
		out["needs"] = []string{}
	}
	if spec.Placed {
		out["at"] = f.placeOnBase()
	}
	return out
}

// list reads words with commas. "none" is an empty list, an empty field is not known.
func (f *Form) list(name string) any {
	text := f.text(name)
	if text == "" {
		return nil
	}
	out := []string{}
	if strings.EqualFold(text, "none") {
		return out
	}
	for _, w := range strings.Split(text, ",") {
		if w = strings.TrimSpace(w); w != "" {
			out = append(out, w)
		}
	}
	return out
}

// lengths reads how a module of each length is held.
func (f *Form) lengths(name string) any {
	out := map[string]string{}
	for field := range f.values {
		if mm, ok := strings.CutPrefix(field, name+"/"); ok && f.text(field) != "" {
			out[mm] = f.text(field)
		}
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

// screws reads "cover-long 7, cover-short 4".
func (f *Form) screws(name string) any {
	words, _ := f.list(name).([]string)
	if words == nil {
		return nil
	}
	out := []hw.StepFasteners{}
	for _, w := range words {
		group, count, _ := strings.Cut(w, " ")
		n, err := strconv.Atoi(strings.TrimSpace(count))
		if err != nil {
			f.fault(name, hw.Word(hw.FaultType, strconv.Quote(w), "a group and how many screws, such as cover-long 7"))
			continue
		}
		out = append(out, hw.StepFasteners{Group: group, Count: n})
	}
	return out
}

// placeOnBase reads where a thing lies; nothing typed is not known.
func (f *Form) placeOnBase() any {
	out := map[string]any{}
	for _, name := range []string{"x_mm", "y_mm", "w_mm", "h_mm"} {
		if n, ok := f.dec("/at/" + name).Get(); ok {
			out[name] = n
		}
	}
	if text, ok := f.choice("/at/turn_deg", []string{"0", "90", "180", "270"}).Get(); ok {
		n, err := strconv.Atoi(text)
		if err == nil {
			out["turn_deg"] = n
		}
	}
	if len(out) == 0 {
		return nil
	}
	if out["x_mm"] == nil || out["y_mm"] == nil {
		f.fault("/at/x_mm", "a place needs both left and top")
		return nil
	}
	return out
}

func (s *server) saveItem(c *echo.Context) error {
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	f := newForm(c.Request().PostForm)
	v, ch, err := s.itemView(c, f)
	if err != nil {
		return err
	}
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
			v.Changed = true
			return s.render(c, http.StatusConflict, "item", "Not stored yet", "models", v)
		}
		f.atItem(ch, v.Spec.List, v.ID)
		if !f.take(err) {
			return err
		}
	}
	return s.render(c, http.StatusUnprocessableEntity, "item", "Not stored yet", "models", v)
}

// atItem lets faults on the thing's place in the record stand at the form's fields.
func (f *Form) atItem(ch *hw.Chassis, list, id string) {
	n := 0
	if raw, err := json.Marshal(ch); err == nil && list != "" {
		tree := map[string]any{}
		if json.Unmarshal(raw, &tree) == nil {
			items, _ := tree[list].([]any)
			n = len(items)
			for i, item := range items {
				if object, _ := item.(map[string]any); id != "" && object["id"] == id {
					n = i
				}
			}
		}
	}
	f.rows["/"+list+"/"+itoa(n)] = ""
}

// howOfItem is how the whole form is said to be known.
func (f *Form) howOfItem(string) (source, on, note string, anew bool) {
	source = f.text("how:")
	if evidence.Rank(source) == len(evidence.Sources) {
		source = "bench"
	}
	return source, f.date("on:"), f.text("note:"), f.text("was:") != f.Known("")
}

// partRowOf is one line of the record's list of parts that have a form.
type partRowOf struct {
	List, ID, Name, What string
}

// partsOf lists what a record has, by the forms' own names.
func partsOf(ch *hw.Chassis) []partRowOf {
	var out []partRowOf
	for _, spec := range itemSpecs {
		if spec.List == "" {
			continue
		}
		raw, err := json.Marshal(ch)
		tree := map[string]any{}
		if err != nil || json.Unmarshal(raw, &tree) != nil {
			return out
		}
		items, _ := tree[spec.List].([]any)
		for _, item := range items {
			object, _ := item.(map[string]any)
			id, _ := object["id"].(string)
			out = append(out, partRowOf{spec.List, id, spec.Name, itemWords(object)})
		}
	}
	return out
}

// itemWords sums a thing up: its plain fields in the order of their names.
func itemWords(object map[string]any) string {
	var names []string
	for name, x := range object {
		switch x.(type) {
		case map[string]any, []any:
			continue
		}
		if name != "id" && name != "reach" {
			names = append(names, name)
		}
	}
	sort.Strings(names)
	words := make([]string, len(names))
	for i, n := range names {
		words[i] = strings.NewReplacer("_gb", " GB", "_mm", " mm", "_wh", " Wh", "_v", " V", "_", " ").Replace(n) + " " + fmt.Sprint(object[n])
	}
	return strings.Join(words, ", ")
}
