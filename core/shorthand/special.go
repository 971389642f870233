package shorthand

import (
	"fmt"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// The words that do not stand for one field of the line's own thing.

// batteryReach reads the way to the pack, which belongs to the machine.
func batteryReach(r *reader, t token) bool {
	if !strings.HasPrefix(t.text, ">") {
		return false
	}
	f := fieldOf("battery-reach", "battery_reach")
	value, means, ok := f.codec.read(t.text)
	if ok {
		item := r.make("", "")
		r.put(item, f, value, means, t)
	}
	return ok
}

// screwParts reads 7xPH0x6: how many, bit, length.
func screwParts(word string) (count int, bit string, length any, ok bool) {
	m := screwWord.FindStringSubmatch(word)
	if m == nil {
		return 0, "", nil, false
	}
	count, err := strconv.Atoi(m[1])
	if err != nil {
		return 0, "", nil, false
	}
	if m[3] != "" {
		d, err := hw.ParseDec(strings.ReplaceAll(m[3], ",", "."))
		if err != nil {
			return 0, "", nil, false
		}
		length = d
	}
	return count, strings.ToUpper(m[2]), length, true
}

// fillScrews notes what 7xPH0x6 says of a group.
func (r *reader) fillScrews(item *Item, count int, bit string, length any, t token) {
	item.Fields["count"], item.From["count"] = count, r.from
	item.Fields["bit"], item.From["bit"] = bit, r.from
	says := fmt.Sprintf("%d screws, %s", count, bit)
	if length != nil {
		item.Fields["length_mm"], item.From["length_mm"] = length, r.from
		says += fmt.Sprintf(", %v mm", length)
	}
	r.say(t, says, "screw group")
}

// screwGroup reads screw groups: 7xPH0x6 M2 4xPH0x4 cap2. A second count begins a
// second group, named by its number.
func screwGroup(r *reader, t token) bool {
	next := func() {
		if r.item.Fields["count"] == nil {
			return
		}
		r.item = r.make("fasteners", numbered(r.first, len(r.made)+1, "-"))
	}
	if count, bit, length, ok := screwParts(t.text); ok {
		next()
		r.fillScrews(r.item, count, bit, length, t)
		return true
	}
	if m := capWord.FindStringSubmatch(t.text); m != nil {
		n, err := strconv.Atoi(m[1])
		if err != nil {
			return false
		}
		bit := r.item.Fields["bit"]
		next()
		r.item.Fields["count"], r.item.From["count"] = n, r.from
		r.item.Fields["captive"], r.item.From["captive"] = true, r.from
		if bit != nil {
			r.item.Fields["bit"], r.item.From["bit"] = bit, r.from
		}
		r.say(t, m[1]+" captive", "screw group")
		return true
	}
	return false
}

// stepScrews reads screws in the line of the step that turns them: each makes a group,
// named after the part.
func stepScrews(r *reader, t token) bool {
	if count, bit, length, ok := screwParts(t.text); ok {
		r.fillScrews(r.make("fasteners", ""), count, bit, length, t)
		return true
	}
	if len(r.made) == 0 {
		return false
	}
	last := r.made[len(r.made)-1]
	if m := capWord.FindStringSubmatch(t.text); m != nil {
		n, err := strconv.Atoi(m[1])
		if err != nil {
			return false
		}
		group := r.make("fasteners", "")
		group.Fields["count"], group.From["count"] = n, r.from
		group.Fields["captive"], group.From["captive"] = true, r.from
		group.Fields["bit"], group.From["bit"] = last.Fields["bit"], r.from
		r.say(t, m[1]+" captive", "screw group")
		return true
	}
	if strings.EqualFold(t.text, "cap") {
		last.Fields["captive"], last.From["captive"] = true, r.from
		r.say(t, "captive", "screw group")
		return true
	}
	if thread.MatchString(t.text) {
		last.Fields["thread"], last.From["thread"] = t.text, r.from
		r.say(t, "thread "+t.text, "screw group")
		return true
	}
	return false
}

// nameStep names a step that was typed without an id, by what it does to what: unscrew
// base cover is base-cover-screws. A new step comes after the one before it, unless the
// line says otherwise.
func nameStep(r *reader) {
	verb, _ := r.item.Fields["verb"].(string)
	part, _ := r.item.Fields["part"].(string)
	if r.item.ID == "" {
		id := r.p.name(part)
		switch {
		case verb == string(hw.PowerDown):
			id = "power-off"
			if part == "" {
				r.item.implied["part"] = "machine"
			}
		case id != "":
			end := hw.Verb(verb).Row().Name
			id = strings.TrimSuffix(id, end) + end
		}
		if id == "" {
			w := r.l.Words[0]
			r.l.fail(w.Col, w.Len, w.Text, "the step has no name",
				"what it is done to, such as unclip base cover, or an id, such as step:cover", "")
			return
		}
		r.item.ID = id
		// Another move of the same part is another step: unscrew and loosen, unclip and lift.
		if old, _ := r.p.said(r.item); old["verb"] != nil && old["verb"] != verb {
			r.item.ID = id + "-" + strings.ReplaceAll(verb, "_", "-")
		}
	}
	known, _ := r.p.said(r.item)
	fresh := len(known) == 0 && !r.p.has("steps", r.item.ID)
	for i, group := range r.made {
		base := r.p.name(part)
		if base == "" {
			base = r.item.ID
		}
		group.ID = r.p.freeGroup(strings.TrimSuffix(base, "-screws")+"-screw", i, fresh)
		list, _ := r.item.Fields["fasteners"].([]any)
		r.item.Fields["fasteners"] = append(list, map[string]any{"group": group.ID, "count": group.Fields["count"]})
		r.item.From["fasteners"] = r.from
	}
	needs := []any{}
	if verb != string(hw.PowerDown) && r.p.lastStep != "" && r.p.lastStep != r.item.ID {
		needs = append(needs, r.p.lastStep)
	}
	r.item.implied["needs"] = needs
	r.p.lastStep = r.item.ID
}

// freeGroup is the n-th name of a screw group; those of a new step are none that another
// step has.
func (p *parser) freeGroup(base string, n int, fresh bool) string {
	taken := func(id string) bool {
		for _, e := range p.earlier {
			if e.List == "fasteners" && e.ID == id {
				return true
			}
		}
		return p.has("fasteners", id)
	}
	for at := 0; ; at++ {
		id := numbered(base, at, "-")
		if fresh && taken(id) {
			continue
		}
		if n--; n < 0 {
			return id
		}
	}
}

// nameLoose names a thing that was typed without an id by one of its texts.
func nameLoose(name string) func(r *reader) {
	return func(r *reader) {
		if r.item.ID != "" {
			return
		}
		text, _ := r.item.Fields[name].(string)
		if r.item.ID = r.p.name(text); r.item.ID == "" {
			w := r.l.Words[0]
			r.l.fail(w.Col, w.Len, w.Text, "it has no name", "an id, such as "+r.k.word+":ID, or words to name it by",
				"")
		}
	}
}

// lists are those that can be said to be empty, by their words.
var lists = []struct{ word, path string }{
	{"soldered", "memory/soldered"}, {"sockets", "memory/sockets"}, {"slots", "slots"}, {"bays", "bays"},
	{"batteries", "batteries"}, {"screws", "fasteners"},
	{"steps", "steps"}, {"services", "services"}, {"shapes", "shapes"}, {"suspects", "suspected"},
}

// noneOf reads what was looked for and is not there.
func noneOf(r *reader, t token) bool {
	for _, x := range lists {
		if strings.EqualFold(x.word, t.text) {
			r.put(r.item, &field{name: x.path, what: "looked for"}, []any{}, "no "+x.word, t)
			if x.path == "steps" {
				r.p.lastStep = ""
			}
			return true
		}
	}
	return false
}
