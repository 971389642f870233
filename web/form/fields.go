package form

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"yembo/core/doc"
	"yembo/core/evidence"
	"yembo/core/hw"
)

// MM reads a length of a drawing in MM, between a least one and a metre.
func (f *Form) MM(name string, least int) hw.Maybe[hw.Dec] {
	v := f.Dec(name)
	if n, ok := v.Get(); ok && (n < hw.DecOf(least) || n > hw.DecOf(1000)) {
		f.Fault(name, hw.Word(hw.FaultRange, n.String(), fmt.Sprintf("%d to 1000 mm", least)))
	}
	return v
}

// ValueLike reads a value of the same kind as another: a number, yes or no, a text, a
// list, or how module lengths are held ("30 fitted, 80 movable").
func (f *Form) ValueLike(name string, like json.RawMessage) json.RawMessage {
	var kind, value any
	if json.Unmarshal(like, &kind) != nil {
		return nil
	}
	switch kind.(type) {
	case float64:
		if n, ok := f.Dec(name).Get(); ok {
			value = n
		}
	case bool:
		if text, ok := f.Choice(name, yesNo).Get(); ok {
			value = text == "yes"
		}
	case []any:
		value = f.list(name)
	case map[string]any:
		lengths := map[string]string{}
		words, _ := f.list(name).([]string)
		for _, w := range words {
			mm, how, found := strings.Cut(strings.ReplaceAll(w, " mm", ""), " ")
			if !found {
				f.Fault(name, hw.Word(hw.FaultType, `"`+w+`"`,
					"a length and how it is held, such as 80 fitted, 30 movable"))
				continue
			}
			lengths[mm] = strings.TrimSpace(how)
		}
		value = lengths
	default:
		value = f.Text(name)
	}
	raw, err := json.Marshal(value)
	if err != nil {
		f.Fault(name, err.Error())
	}
	return raw
}

// AtItem lets faults on the thing's place in the record stand at the form's fields.
func (f *Form) AtItem(ch *hw.Chassis, list, id string) {
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
	f.Rows["/"+list+"/"+strconv.Itoa(n)] = ""
}

// HowOfItem is how what was entered or changed is said to be known; with the box
// ticked, all of it.
func (f *Form) HowOfItem(string) (source hw.Source, on, note string, anew bool) {
	source = hw.Source(f.Text("how:"))
	if hw.Sources.Index(source) < 0 {
		source = "bench"
	}
	return source, f.Date("on:"), f.Text("note:"), f.Is("confirm", "yes")
}

// Contradiction is a list said to be empty that has rows.
func (f *Form) Contradiction(name string, rows int, what string) {
	if f.Is(name, "yes") && rows > 0 {
		f.Fault(name, fmt.Sprintf("it says there is none, but %d rows of %s are filled in", rows, what))
	}
}

// Channel reads a Channel letter, in either case.
func (f *Form) Channel(name string) string {
	text := strings.ToUpper(f.Text(name))
	if text == "" {
		return ""
	}
	if len(text) != 1 || text[0] < 'A' || text[0] > 'Z' {
		f.Fault(name, hw.Word(hw.FaultChoice, fmt.Sprintf("%q", f.Text(name)), "one letter, A for the first channel"))
		return ""
	}
	return text
}

// HowFor says for a fact's path how the form says it is known: as is said at its field, else as is
// said for the whole form. A row of sockets or soldered memory has one source for all its facts.
func (f *Form) HowFor() func(path string) (source hw.Source, on, note string, anew bool) {
	byID := map[string]string{} // "/memory/sockets/dimm1" -> "/memory/sockets/0"
	for _, list := range []string{"/memory/sockets", "/memory/soldered"} {
		n := 0
		for i := range MaxRows {
			at := fmt.Sprintf("%s/%d", list, i)
			fields := map[string][]string{"/memory/sockets": {"form", "id", "channel", "max_module_gb"},
				"/memory/soldered": {"capacity_gb", "id", "channel", "speed_mts", "ranks"}}
			typed := false
			for _, name := range fields[list] {
				typed = typed || f.Text(at+"/"+name) != ""
			}
			if !typed {
				continue
			}
			standard := Proposal("onboard", n)
			if list == "/memory/sockets" {
				standard = "dimm" + strconv.Itoa(n+1)
			}
			name := f.Text(at + "/id")
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
		if f.Text("was:"+name) == f.Known(name) {
			return f.HowOfItem(path) // nothing was said at the field: what holds for the whole form
		}
		source = hw.Source(f.Text("how:" + name))
		if hw.Sources.Index(source) < 0 {
			source = hw.Bench
		}
		return source, f.Date("on:" + name), f.Text("note:" + name), true
	}
}

// Known is how a fact is said to be known, in one text; the form carries what it
// was beside it, to tell an answer given anew from one left standing.
func (f *Form) Known(name string) string {
	return f.Text("how:"+name) + "|" + f.Text("on:"+name) + "|" + f.Text("note:"+name)
}

// Was is what stood there when the form was first shown.
func (f *Form) Was(name string) string {
	if f.Values.Has("was:" + name) {
		return f.Text("was:" + name)
	}
	return f.Known(name)
}

// Need reads a number that has to be above zero; ok is false with the fault noted.
func (f *Form) Need(name string) (hw.Dec, bool) {
	v, ok := f.Dec(name).Get()
	switch {
	case !ok && len(f.Errors(name)) == 0:
		f.Fault(name, "a number is missing")
	case ok && (v <= 0 || v > hw.DecOf(1_000_000)):
		f.Fault(name, "a number above 0, at most a million, is expected")
	default:
		return v, ok
	}
	return 0, false
}

// Needs reads several; ok is false where one is missing.
func (f *Form) Needs(names ...string) (out []hw.Dec, ok bool) {
	ok = true
	for _, n := range names {
		v, is := f.Need(n)
		out, ok = append(out, v), ok && is
	}
	return out, ok
}

// Proposal is the id that a row gets where none is typed: the base, then with a number.
func Proposal(base string, n int) string {
	if n == 0 {
		return base
	}
	return base + "-" + strconv.Itoa(n+1)
}

// Turns are the ways a place may be turned.
var Turns = []string{"0", "90", "180", "270"}
