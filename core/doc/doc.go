// Package doc treats a document as a tree: forms, lines and findings name the fields they
// set by their path, and leave alone what they do not name.
package doc

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Tree is an object of a document, with numbers as they are written.
type Tree map[string]any

// Of is a value as its document has it. A value that has no document gives an empty tree.
func Of(value any) Tree {
	tree, _ := Plain(value).(map[string]any)
	if tree == nil {
		return Tree{}
	}
	return tree
}

// Plain gives a value the form that it has when a document is read: maps, lists, texts,
// json.Numbers, true and false.
func Plain(value any) any {
	raw, err := json.Marshal(value)
	if err != nil {
		return nil
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	var out any
	if d.Decode(&out) != nil {
		return nil
	}
	return out
}

// Into reads the tree back into a value of the documents' types.
func (t Tree) Into(value any) error {
	raw, err := json.Marshal(t)
	if err != nil {
		return err
	}
	if err := json.Unmarshal(raw, value); err != nil {
		return fmt.Errorf("what was entered does not make a document: %w", err)
	}
	return nil
}

// Get is the field at a path such as "memory/type", nil where there is none.
func (t Tree) Get(path string) any {
	at, last := t.parent(path, false)
	return at[last]
}

// Set puts a value at a path, making the objects on the way; nil takes the field out, and
// the objects on the way that are then empty.
func (t Tree) Set(path string, value any) {
	if value = Plain(value); value != nil {
		at, last := t.parent(path, true)
		at[last] = value
		return
	}
	at, last := t.parent(path, false)
	delete(at, last)
	if cut := strings.LastIndexByte(path, '/'); cut >= 0 && at != nil && len(at) == 0 {
		t.Set(path[:cut], nil)
	}
}

// parent is the object that a path's last name stands in, nil where it is not there and is
// not to be made.
func (t Tree) parent(path string, make bool) (at Tree, last string) {
	names := strings.Split(path, "/")
	at = t
	for _, n := range names[:len(names)-1] {
		child, ok := at[n].(map[string]any)
		if !ok {
			if !make {
				return nil, n
			}
			child = map[string]any{}
			at[n] = child
		}
		at = child
	}
	return at, names[len(names)-1]
}

// List is the things of a list such as "slots" or "memory/sockets"; they can be set in
// place.
func (t Tree) List(path string) []Tree {
	items, _ := t.Get(path).([]any)
	out := make([]Tree, 0, len(items))
	for _, x := range items {
		object, _ := x.(map[string]any)
		out = append(out, object)
	}
	return out
}

// Item is the thing with an id in a list, nil where there is none.
func (t Tree) Item(list, id string) Tree {
	for _, x := range t.List(list) {
		if x["id"] == id {
			return x
		}
	}
	return nil
}

// Add puts a new thing at the end of a list, which it makes where there is none.
func (t Tree) Add(list string, item Tree) {
	at, last := t.parent(list, true)
	items, _ := at[last].([]any)
	at[last] = append(items, map[string]any(item))
}

// Drop takes the thing with an id out of a list.
func (t Tree) Drop(list, id string) {
	at, last := t.parent(list, false)
	items, _ := at[last].([]any)
	kept := []any{}
	for _, x := range items {
		if object, _ := x.(map[string]any); object["id"] != id {
			kept = append(kept, x)
		}
	}
	if items != nil {
		at[last] = kept
	}
}

// Leaves lists the paths of all that a tree tells, sorted. A thing of a list is named by
// its id, its socket or its place, so that the order of the list does not count.
func Leaves(tree Tree) []string {
	var out []string
	var walk func(at string, node any)
	walk = func(at string, node any) {
		switch x := node.(type) {
		case map[string]any:
			for name, child := range x {
				walk(at+"/"+name, child)
			}
		case []any:
			for i, item := range x {
				walk(at+"/"+nameIn(i, item), item)
			}
		default:
			out = append(out, at)
		}
	}
	walk("", map[string]any(tree))
	slices.Sort(out)
	return out
}

// nameIn is what a thing of a list is called, its number where it has no name.
func nameIn(i int, item any) string {
	object, _ := item.(map[string]any)
	for _, name := range []string{"id", "socket", "place"} {
		if text, ok := object[name].(string); ok {
			return text
		}
	}
	return strconv.Itoa(i)
}
