package record

import (
	"fmt"
	"slices"
	"strings"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/web/form"
)

// stepWording reports whether a fact is plainly how a step was worded: what is done and to what is not
// found out, it is said. What was said twice or is in dispute stays.
func stepWording(f evidence.Fact) bool {
	parts := strings.Split(strings.TrimPrefix(f.Path, "/"), "/")
	return len(parts) == 3 && parts[0] == "steps" && !f.Disputed && len(f.Others) == 0 && len(f.Aside) == 0 &&
		slices.Contains([]string{"verb", "part", "needs", "side", "start_at", "close_hint", "when", "back", "back_before"}, parts[2])
}

// has reports whether a fact has every word of a query in its name, a value or a note, and a finding
// that is known so.
func (f *factFindings) has(query, from string) bool {
	text := strings.ToLower(f.Name)
	known := from == ""
	for _, x := range f.Findings {
		text += " " + strings.ToLower(x.Value+" "+x.Note+" "+x.By)
		known = known || x.Source == from
	}
	for _, word := range strings.Fields(strings.ToLower(query)) {
		if !strings.Contains(text, word) {
			return false
		}
	}
	return known
}

// The groups that are no single thing.
const (
	groupDisputed = "disputed"
	groupMemory   = "memory"
	groupModel    = "model"
)

// thingOf names the thing that a fact is about: the list and the id of it, or one of the groups above.
func thingOf(path string) (key, title, what string) {
	parts := strings.Split(strings.TrimPrefix(path, "/"), "/")
	for _, spec := range form.Items {
		list := strings.Split(spec.List, "/")
		if spec.List != "" && len(parts) > len(list) && slices.Equal(parts[:len(list)], list) {
			return spec.List + "/" + parts[len(list)], parts[len(list)], spec.Name
		}
	}
	if parts[0] == "memory" {
		return groupMemory, "Memory", "of the model"
	}
	return groupModel, "The model", "as a whole"
}

// place puts a fact into the group of its thing; what is disputed comes first, whatever it is about.
func (v *findingsView) place(f *factFindings, ch *hw.Chassis) {
	key, title, what := thingOf(f.Path)
	if f.Disputed {
		key, title, what = groupDisputed, "Disputed", "open the machine to settle"
	} else if i := stepAt(ch, key); i >= 0 {
		title, what = fmt.Sprintf("%d. %s", i+1, ch.Steps[i].Does()), "step"
	}
	at := slices.IndexFunc(v.Groups, func(g findingGroup) bool { return g.Key == key })
	if at < 0 {
		at = len(v.Groups)
		v.Groups = append(v.Groups, findingGroup{Title: title, What: what, Key: key,
			Open: key == groupDisputed || key == v.opened || v.Query != "" || v.From != ""})
	}
	g := &v.Groups[at]
	g.Facts = append(g.Facts, *f)
	g.Open = g.Open || v.Adding.Is("path", f.Path) ||
		slices.ContainsFunc(f.Findings, func(x oneFinding) bool { return x.Number == v.Wrong })
}

// stepAt is which step of the record a group is about, -1 for none.
func stepAt(ch *hw.Chassis, key string) int {
	if id, ok := strings.CutPrefix(key, "steps/"); ok {
		return ch.StepByID(id)
	}
	return -1
}

// order puts the groups in the order of the drawing: disputes, memory and its places, the other places,
// the model, then screws, steps and what else there is, as the record has them.
func (v *findingsView) order(ch *hw.Chassis) {
	var keys []string
	for _, p := range ch.Places() {
		keys = append(keys, p.List()+"/"+p.ID)
	}
	for i := range ch.Mem().Soldered {
		keys = append([]string{"memory/soldered/" + ch.Memory.Soldered[i].ID}, keys...)
	}
	keys = append([]string{groupDisputed, groupMemory}, append(keys, groupModel)...)
	for i := range ch.Fasteners {
		keys = append(keys, "fasteners/"+ch.Fasteners[i].ID)
	}
	for i := range ch.Steps {
		keys = append(keys, "steps/"+ch.Steps[i].ID)
	}
	rank := func(g findingGroup) int {
		if at := slices.Index(keys, g.Key); at >= 0 {
			return at
		}
		return len(keys)
	}
	slices.SortStableFunc(v.Groups, func(a, b findingGroup) int { return rank(a) - rank(b) })
}
