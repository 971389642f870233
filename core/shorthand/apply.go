package shorthand

import (
	"encoding/json"
	"fmt"
	"strings"

	"yembo/core/hw"
)

// treeOf is a record as its document has it, with numbers as they are written.
func treeOf(ch *hw.Chassis) map[string]any {
	tree, _ := asJSON(ch).(map[string]any)
	if tree == nil {
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
	for _, x := range items {
		object, _ := x.(map[string]any)
		out = append(out, object)
	}
	return out
}

// Stated says how a fact that lines speak of is known, by its path by place id.
type Stated map[string]Source

// Of returns how the fact with that path is known, and whether a line spoke of it.
func (s Stated) Of(path string) (Source, bool) {
	for at := path; at != ""; at = at[:strings.LastIndex(at, "/")] {
		if from, ok := s[at]; ok {
			return from, true
		}
	}
	return Source{}, false
}

// Apply returns the record with what lines say in it, and what the lines speak of. What
// they do not say stays. A thing that is not there yet is added at the end of its list.
// The record is not checked: lines that follow may complete it. Where two lines say the
// same fact, the later counts; Batches keeps such lines apart.
func Apply(ch *hw.Chassis, lines ...Line) (*hw.Chassis, Stated, error) {
	tree := treeOf(ch)
	stated := Stated{}
	for i := range lines {
		for _, item := range lines[i].Items {
			item.apply(tree, stated)
		}
	}
	raw, err := json.Marshal(tree)
	if err != nil {
		return nil, nil, err
	}
	out := &hw.Chassis{}
	if err := json.Unmarshal(raw, out); err != nil {
		return nil, nil, fmt.Errorf("what the lines say: %w", err)
	}
	return out, stated, nil
}

func (item *Item) apply(tree map[string]any, stated Stated) {
	at, object := "", tree
	if item.List != "" {
		if item.ID == "" {
			return // its line has a fault
		}
		var fresh bool
		object, fresh = thing(tree, item.List, item.ID)
		at = "/" + item.List + "/" + item.ID
		for name, value := range item.implied {
			if _, said := item.Fields[name]; fresh && !said {
				object[name] = asJSON(value)
				stated[at+"/"+name] = item.start
			}
		}
	}
	for name, value := range item.Fields {
		put(object, name, value)
		if name != "at" {
			stated[at+"/"+name] = item.From[name]
		}
	}
}

// Batches cuts lines where a fact is said a second time: within a batch no line speaks
// of what another has said, so that a batch can be applied at once without one finding
// hiding another.
func Batches(lines []Line) [][]Line {
	var out [][]Line
	said := map[string]bool{}
	start := 0
	for i := range lines {
		again := false
		var names []string
		for _, item := range lines[i].Items {
			for name := range item.Fields {
				key := item.List + "/" + item.ID + "/" + name
				again = again || said[key]
				names = append(names, key)
			}
		}
		if again {
			out = append(out, lines[start:i])
			start, said = i, map[string]bool{}
		}
		for _, key := range names {
			said[key] = true
		}
	}
	if start < len(lines) {
		out = append(out, lines[start:])
	}
	return out
}

// thing finds a thing in its list, or adds it.
func thing(tree map[string]any, list, id string) (object map[string]any, fresh bool) {
	for _, x := range listIn(tree, list) {
		if x["id"] == id {
			return x, false
		}
	}
	parent := tree
	names := strings.Split(list, "/")
	for _, n := range names[:len(names)-1] {
		child, ok := parent[n].(map[string]any)
		if !ok {
			child = map[string]any{}
			parent[n] = child
		}
		parent = child
	}
	last := names[len(names)-1]
	items, _ := parent[last].([]any)
	object = map[string]any{"id": id}
	parent[last] = append(items, object)
	return object, true
}

// put sets a field, named by its path in the object.
func put(object map[string]any, name string, value any) {
	names := strings.Split(name, "/")
	for _, n := range names[:len(names)-1] {
		child, ok := object[n].(map[string]any)
		if !ok {
			child = map[string]any{}
			object[n] = child
		}
		object = child
	}
	last := names[len(names)-1]
	if changes, ok := value.(Lengths); ok {
		all, _ := object[last].(map[string]any)
		if all == nil {
			all = map[string]any{}
		}
		for long, how := range changes {
			if all[long] = how; how == "" {
				delete(all, long)
			}
		}
		object[last] = all
		return
	}
	object[last] = asJSON(value)
}

// Build makes a record out of lines alone. The error is the first of their faults.
func Build(text string) (*hw.Chassis, error) {
	ch := &hw.Chassis{}
	lines := Parse(text, nil, Source{})
	if faults := Faults(lines); len(faults) > 0 {
		return nil, faults[0]
	}
	ch, _, err := Apply(ch, lines...)
	return ch, err
}
