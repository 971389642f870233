package form

import (
	"strconv"
	"strings"

	"yembo/core/hw"
	"yembo/exchange/slug"
)

// ReadItem reads what was typed into the fields of the document; an empty field is
// not known. What cannot be read is a fault at its field.
func ReadItem(f *Form, spec ItemSpec) map[string]any {
	out := map[string]any{}
	for _, field := range spec.Fields {
		name := "/" + field.Name
		value := ReadField(f, &field, name)
		// The formats ask for these (the id is asked for above).
		if value == nil && (field.Name == "purpose" || field.Name == "verb" || field.Name == "form" ||
			(field.Name == "capacity_gb" && spec.List == "memory/soldered")) {
			f.Fault(name, hw.Word(hw.FaultMissing, "", strings.ToLower(field.Label)))
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

// ReadField reads what was typed into one field, nil for nothing. What cannot be read is a fault
// at the field with that name.
func ReadField(f *Form, field *FieldSpec, name string) (value any) {
	switch field.Kind {
	case "id":
		value = f.Slug(name, "")
		if value == "" {
			f.Fault(name, hw.Word(hw.FaultMissing, "", "the id"))
		}
	case "int":
		if n, ok := f.Whole(name).Get(); ok {
			value = n
		}
	case "dec":
		if n, ok := f.Dec(name).Get(); ok {
			value = n
		}
	case "yesno":
		if text, ok := f.Choice(name, yesNo).Get(); ok {
			value = text == "yes"
		}
	case "list":
		value = f.list(name)
		if words, ok := value.([]string); ok {
			for i := range words {
				words[i] = field.meant(words[i])
			}
		}
	case "held":
		if text := f.Text(name); text != "" {
			value = heldTyped(text)
		}
	case "condition":
		value = f.condition(name)
	case "lengths":
		value = f.lengths(name)
	case "screws":
		value = f.screws(name)
	case "ints":
		value = f.ints(name)
	case "points", "board":
		value = f.points(name, field.Kind == "board")
	default:
		if text := f.Text(name); text != "" {
			value = field.meant(text)
		}
	}
	return value
}

// FieldAt is the field of a form that a fact is typed into, by the fact's path; ok is false where no
// form has it.
func FieldAt(path string) (FieldSpec, bool) {
	words := strings.Split(strings.Trim(path, "/"), "/")
	list, rest := "", words
	switch {
	case words[0] == "memory" && len(words) > 3:
		list, rest = words[0]+"/"+words[1], words[3:]
	case len(words) > 2:
		list, rest = words[0], words[2:]
	}
	name := strings.Join(rest, "/")
	for i := range Items {
		for k := range Items[i].Fields {
			if Items[i].List == list && Items[i].Fields[k].Name == name {
				return Items[i].Fields[k], true
			}
		}
	}
	return FieldSpec{}, false
}

// list reads words with commas. "none" is an empty list, an empty field is not known.
func (f *Form) list(name string) any {
	text := f.Text(name)
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
	for field := range f.Values {
		if mm, ok := strings.CutPrefix(field, name+"/"); ok && f.Text(field) != "" {
			out[mm] = heldTyped(f.Text(field))
		}
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

// heldTyped is how something is held, as typed: fitted, moves there, needs a bracket.
func heldTyped(text string) string {
	field := FieldSpec{Terms: hw.HeldTerms.Terms()}
	if how := field.meant(text); hw.HeldTerms.Index(how) >= 0 {
		return how
	}
	low := strings.ToLower(text)
	if name, ok := strings.CutPrefix(low, "needs"); ok {
		return "needs:" + slug.Of(strings.TrimPrefix(strings.TrimLeft(name, ": "), "a "))
	}
	return text
}

// condition reads "bay25 empty": a place and its state.
func (f *Form) condition(name string) any {
	words := strings.Fields(f.Text(name))
	switch len(words) {
	case 0:
		return nil
	case 2:
		return hw.Condition{Place: words[0], State: strings.ToLower(words[1])}
	}
	f.Fault(name, hw.Word(hw.FaultType, strconv.Quote(f.Text(name)),
		"a place and its state, such as bay25 empty or battery small"))
	return nil
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
			f.Fault(name, hw.Word(hw.FaultType, strconv.Quote(w), "a group and how many screws, such as cover-long 7"))
			continue
		}
		out = append(out, hw.StepFasteners{Group: group, Count: n})
	}
	return out
}

// ints reads whole numbers with commas.
func (f *Form) ints(name string) any {
	words, _ := f.list(name).([]string)
	if words == nil {
		return nil
	}
	out := []int{}
	for _, w := range words {
		n, err := strconv.Atoi(w)
		if err != nil {
			f.Fault(name, hw.Word(hw.FaultType, strconv.Quote(w), "a whole number"))
			continue
		}
		out = append(out, n)
	}
	return out
}

// Points reads places such as "10 8, 157 8": left and top in mm; nil where none is typed.
func (f *Form) Points(name string) []any {
	list, _ := f.points(name, false).([]any)
	return list
}

// points reads places such as "10 8, 157 8": left and top in mm. The corners of a
// board are pairs in the document, the places of screws are objects.
func (f *Form) points(name string, pairs bool) any {
	words, _ := f.list(name).([]string)
	if words == nil {
		return nil
	}
	out := []any{}
	for _, w := range words {
		numbers := strings.Fields(w)
		var at [2]hw.Dec
		good := len(numbers) == 2
		for i := range at {
			if good {
				var err error
				at[i], err = hw.ParseDec(numbers[i])
				good = err == nil
			}
		}
		if !good {
			f.Fault(name, hw.Word(hw.FaultType, strconv.Quote(w),
				"left and top in mm, such as 10 8, with commas between the points"))
			continue
		}
		if pairs {
			out = append(out, []hw.Dec{at[0], at[1]})
			continue
		}
		out = append(out, map[string]any{"x_mm": at[0], "y_mm": at[1]})
	}
	return out
}

// placeOnBase reads where a thing lies; nothing typed is not known.
func (f *Form) placeOnBase() any {
	out := map[string]any{}
	for _, name := range []string{"x_mm", "y_mm", "w_mm", "h_mm"} {
		least := -500
		if name == "w_mm" || name == "h_mm" {
			least = 1
		}
		if n, ok := f.MM("/at/"+name, least).Get(); ok {
			out[name] = n
		}
	}
	if text, ok := f.Choice("/at/turn_deg", Turns).Get(); ok {
		n, err := strconv.Atoi(text)
		if err == nil {
			out["turn_deg"] = n
		}
	}
	if len(out) == 0 {
		return nil
	}
	if out["x_mm"] == nil || out["y_mm"] == nil {
		f.Fault("/at/x_mm", "a place needs both left and top")
		return nil
	}
	return out
}
