package shorthand

import (
	"strings"

	"yembo/core/doc"
	"yembo/core/hw"
)

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
	tree := doc.Of(ch)
	stated := Stated{}
	for i := range lines {
		for _, item := range lines[i].Items {
			item.apply(tree, stated)
		}
	}
	out := &hw.Chassis{}
	if err := tree.Into(out); err != nil {
		return nil, nil, err
	}
	return out, stated, nil
}

func (item *Item) apply(tree doc.Tree, stated Stated) {
	at, object := "", tree
	if item.List != "" {
		if item.ID == "" {
			return // its line has a fault
		}
		object = tree.Item(item.List, item.ID)
		fresh := object == nil
		if fresh {
			object = doc.Tree{"id": item.ID}
			tree.Add(item.List, object)
		}
		at = "/" + item.List + "/" + item.ID
		for name, value := range item.implied {
			if _, said := item.Fields[name]; fresh && !said {
				object.Set(name, value)
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

// SpeaksOf reports whether a line says something of the thing, or of the fact, with that
// path by place id.
func (l *Line) SpeaksOf(path string) bool {
	for _, item := range l.Items {
		at := "/" + item.List + "/" + item.ID
		if item.List != "" && (path == at || strings.HasPrefix(path, at+"/")) {
			return true
		}
		for name := range item.Fields {
			if item.List == "" && (path == "/"+name || strings.HasPrefix(path, "/"+name+"/")) {
				return true
			}
		}
	}
	return false
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

// put sets a field, named by its path in the object; changes of lengths leave the others.
func put(object doc.Tree, name string, value any) {
	changes, ok := value.(Lengths)
	if !ok {
		object.Set(name, value)
		return
	}
	all, _ := object.Get(name).(map[string]any)
	if all == nil {
		all = map[string]any{}
	}
	for long, how := range changes {
		if all[long] = how; how == "" {
			delete(all, long)
		}
	}
	object.Set(name, all)
}
