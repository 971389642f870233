package shorthand

import (
	"fmt"
	"reflect"

	"yembo/core/doc"
	"yembo/core/evidence"
	"yembo/core/hw"
)

// keepFirst refuses a line whose thing got its name from its words, where a thing of that
// name says otherwise already: a second line never takes the place of a first unseen. What
// was only assumed may be replaced, and what says nothing new is the same line again.
func (r *reader) keepFirst() {
	for _, item := range append([]*Item{r.item}, r.made...) {
		if item.ID == "" {
			continue
		}
		old, before := r.p.said(item)
		for name, value := range item.Fields {
			was, told := old[name]
			if !told || alike(was, value) {
				continue
			}
			w := r.l.Words[0]
			r.l.fail(w.Col, w.Len, w.Text, fmt.Sprintf("%s says otherwise already, %s", item.ID, before),
				fmt.Sprintf("%s:%s to change it, or as NAME for another", w.Text, item.ID), "")
			return
		}
	}
}

// said is what is known of a thing beside what was only assumed, and where it was said.
func (p *parser) said(item *Item) (fields map[string]any, where string) {
	fields = map[string]any{}
	for _, e := range p.earlier {
		if e.List == item.List && e.ID == item.ID {
			for name, value := range e.Fields {
				fields[name] = value
			}
		}
	}
	if len(fields) > 0 {
		return fields, "in a line before"
	}
	if p.ch == nil || !p.has(item.List, item.ID) {
		return fields, ""
	}
	for name, value := range doc.Of(p.ch).Item(item.List, item.ID) {
		f := evidence.Of(p.ch.Findings, "/"+item.List+"/"+item.ID+"/"+name).InForce
		if f != nil && f.Source != hw.Assumed {
			fields[name] = value
		}
	}
	return fields, "in the record"
}

// alike compares two values as documents have them.
func alike(a, b any) bool {
	return reflect.DeepEqual(doc.Plain(a), doc.Plain(b))
}

// shareScrews lets thread, head and bit that a line says once hold for all its groups.
func shareScrews(r *reader) {
	groups := r.l.Items
	for _, name := range []string{"thread", "head", "bit"} {
		var value any
		times := 0
		for _, g := range groups {
			if g.Fields[name] != nil {
				value = g.Fields[name]
				times++
			}
		}
		if times != 1 {
			continue
		}
		for _, g := range groups {
			if g.Fields[name] == nil && g.Fields["count"] != nil {
				g.Fields[name], g.From[name] = value, r.from
			}
		}
	}
}
