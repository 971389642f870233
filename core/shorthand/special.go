package shorthand

import (
	"fmt"
	"strconv"
	"strings"

	"yembo/core/evidence"
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

// captiveOf reads cap2: two of the screws told last stay in their part. They are among those told, so
// that 3xT15 cap3 are three screws; where only some stay, those are a group of their own.
func (r *reader) captiveOf(of *Item, n int, t token, next func() *Item) bool {
	told, counted := of.Fields["count"].(int)
	switch {
	case !counted:
		of.Fields["count"], of.From["count"] = n, r.from
	case n > told:
		r.l.fail(
			t.col,
			t.size,
			t.text,
			fmt.Sprintf("%d of %d screws cannot stay in", n, told),
			"at most as many as were told before it",
			"",
		)
		return true
	case n < told:
		from := of
		from.Fields["count"] = told - n
		of = next()
		for _, name := range []string{"bit", "length_mm", "thread", "head"} {
			if from.Fields[name] != nil {
				of.Fields[name], of.From[name] = from.Fields[name], r.from
			}
		}
		of.Fields["count"], of.From["count"] = n, r.from
	}
	of.Fields["captive"], of.From["captive"] = true, r.from
	r.say(t, fmt.Sprintf("%d of them captive", n), "screw group")
	return true
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
		return r.captiveOf(r.item, n, t, func() *Item {
			next()
			return r.item
		})
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
		return r.captiveOf(last, n, t, func() *Item { return r.make("fasteners", "") })
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
		r.item.ID = r.p.distinct("steps", id, "step")
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
			return
		}
		r.item.ID = r.p.distinct(r.k.list, r.item.ID, r.k.word)
	}
}

// distinct is an id that no thing of another kind has: a natural name that another kind has, or the
// pack's place, gets the word of its own kind behind it.
func (p *parser) distinct(list, id, word string) string {
	if id == "" || p.has(list, id) {
		return id
	}
	elsewhere := func(id string) bool {
		if id == hw.BatteryPlace {
			return true
		}
		for _, e := range p.earlier {
			if e.ID == id && e.List != list && e.List != "" {
				return true
			}
		}
		other := p.listOf(id)
		return other != "" && other != list
	}
	if !elsewhere(id) {
		return id
	}
	word = strings.TrimSuffix(word, "s")
	for n := 0; ; n++ {
		if next := numbered(id+"-"+word, n, "-"); !elsewhere(next) || p.has(list, next) {
			return next
		}
	}
}

// lists are those that can be said to be empty, by their words.
var lists = []struct{ word, path string }{
	{"soldered", "memory/soldered"}, {"sockets", "memory/sockets"}, {"slots", "slots"}, {"bays", "bays"},
	{"batteries", "batteries"}, {"screws", "fasteners"},
	{"steps", "steps"}, {"services", "services"}, {"shapes", "shapes"}, {"suspects", "suspected"},
}

// seenIn lists what a list of the record has, and was more than assumed.
func (p *parser) seenIn(path string) []string {
	var out []string
	for _, id := range p.ids(path) {
		f := evidence.Of(p.ch.Findings, "/"+path+"/"+id).InForce
		for _, g := range p.ch.Findings {
			if f == nil && g.SetAside == nil && strings.HasPrefix(g.Path, "/"+path+"/"+id+"/") && g.Source != hw.Assumed {
				f = &g
			}
		}
		if f != nil && f.Source != hw.Assumed {
			out = append(out, id)
		}
	}
	for _, e := range p.earlier {
		if e.List == path {
			out = append(out, e.ID)
		}
	}
	return out
}

func isAre(n int) string {
	if n == 1 {
		return "one was"
	}
	return fmt.Sprintf("%d were", n)
}

// alsoLists are other words for them that are read and not written.
var alsoLists = map[string]string{
	"socket":  "sockets",
	"slot":    "slots",
	"bay":     "bays",
	"battery": "batteries",
	"pack":    "batteries",
	"bat":     "batteries",
	"screw":   "screws",
	"step":    "steps",
	"service": "services",
	"shape":   "shapes",
	"suspect": "suspects",
}

// noneOf reads what was looked for and is not there.
func noneOf(r *reader, t token) bool {
	word := strings.ToLower(t.text)
	if also, ok := alsoLists[word]; ok {
		word = also
	}
	for _, x := range lists {
		if x.word == word {
			if seen := r.p.seenIn(x.path); len(seen) > 0 {
				r.l.fail(t.col, t.size, t.text, fmt.Sprintf("%s seen and recorded: %s", isAre(len(seen)), strings.Join(seen, ", ")),
					"take each away on its own form, with the reason; none removes nothing that was seen", "")
				return true
			}
			r.put(r.item, &field{name: x.path, what: "looked for"}, []any{}, "no "+x.word, t)
			if x.path == "steps" {
				r.p.lastStep = ""
			}
			return true
		}
	}
	return false
}
