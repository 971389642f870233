package form

import (
	"maps"
	"net/url"
	"slices"
	"sort"
	"strings"
)

// Two people change one record: the second to save is shown, field by field, what the
// first made of it, and chooses. A form carries the choices beside its fields:
// theirs:NAME is what the other wrote, pick:NAME says whose stands.

// clash is a field that both changed.
type clash struct{ Theirs string }

// Clash is what someone else wrote into a field that was changed here too, nil where
// nothing has to be chosen.
func (f *Form) Clash(name string) *clash { return f.Clashing[name] }

// Meanwhile is what someone else made of a field that was not touched here; it was
// taken over.
func (f *Form) Meanwhile(name string) string { return f.Taken[name] }

// Clashes is how many fields wait for a choice.
func (f *Form) Clashes() int { return len(f.Clashing) }

// Pick carries out the choices that the form brings. A field with none is a fault.
func (f *Form) Pick() {
	for name := range f.Values {
		field, asked := strings.CutPrefix(name, "theirs:")
		if !asked {
			continue
		}
		switch f.Values.Get("pick:" + field) {
		case "theirs":
			f.Values.Set(field, f.Values.Get(name))
		case "mine":
		default:
			f.Clashing[field] = &clash{f.Values.Get(name)}
			f.Fault(field, "choose one of the two")
		}
	}
}

// Merge compares what was typed with what the record was when the form was opened
// and what it is now. What only the other changed is taken over, what both changed
// waits for a choice. Only fields of the document are compared.
func (f *Form) Merge(then, now url.Values) {
	names := map[string]bool{}
	for _, values := range []url.Values{then, now, f.Values} {
		for name := range values {
			if strings.HasPrefix(name, "/") {
				names[name] = true
			}
		}
	}
	for name := range names {
		mine, was, theirs := flat(f.Value(name)), flat(then.Get(name)), flat(now.Get(name))
		switch {
		case theirs == was || theirs == mine:
		case mine == was:
			f.Values.Set(name, now.Get(name))
			f.Taken[name] = shownValue(theirs)
		default:
			f.Clashing[name] = &clash{now.Get(name)}
		}
	}
}

// flat is a text as it is compared: how its lines are broken is a browser's matter.
func flat(text string) string { return strings.Join(strings.Fields(text), " ") }

func shownValue(text string) string {
	if text == "" {
		return "not yet known"
	}
	return text
}

// Changes lists what was taken over, for the head of the page.
func (f *Form) Changes() []string {
	var out []string
	for name, to := range f.Taken {
		out = append(out, strings.ReplaceAll(strings.TrimPrefix(name, "/"), "/", ", ")+": "+to)
	}
	sort.Strings(out)
	return out
}

// thenPrefix begins the hidden fields that say what a field was when the form was opened.
const thenPrefix = "then:"

// Opens keeps what the fields are now as what they were when the form was opened.
func (f *Form) Opens() {
	f.then = url.Values{}
	maps.Copy(f.then, documentFields(f.Values))
}

// documentFields are those of a form's fields that belong to the document: the others say
// what is done with it.
func documentFields(values url.Values) url.Values {
	out := url.Values{}
	for name, list := range values {
		if strings.HasPrefix(name, "/") && name != "/chassis" {
			out[name] = slices.Clone(list)
		}
	}
	return out
}

// Opened are the hidden fields that a form of shared things carries: with them it is told
// whether somebody changed them since it was opened.
func (f *Form) Opened() []Field {
	var out []Field
	for name := range f.then {
		out = append(out, Field{thenPrefix + name, f.then.Get(name)})
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Name < out[j].Name })
	return out
}

// CatchUp compares a form that was sent with what its fields are by now, and reports whether
// somebody changed any of them since it was opened. What they alone changed is taken over,
// what both changed waits for a choice.
func (f *Form) CatchUp(now url.Values) bool {
	f.then = url.Values{}
	for name, values := range f.Values {
		if field, ok := strings.CutPrefix(name, thenPrefix); ok {
			f.then[field] = values
		}
	}
	if len(f.then) == 0 {
		return false
	}
	now = documentFields(now)
	changed := false
	for name := range now {
		changed = changed || flat(now.Get(name)) != flat(f.then.Get(name))
	}
	for name := range f.then {
		changed = changed || flat(now.Get(name)) != flat(f.then.Get(name))
	}
	if changed {
		f.Merge(f.then, now)
		f.then = now
	}
	return changed
}

type Field struct{ Name, Value string }
