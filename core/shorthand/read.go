package shorthand

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// reader reads the words of one line.
type reader struct {
	p     *parser
	l     *Line
	k     *kind
	item  *Item
	from  Source
	first string  // id of the line's first thing
	made  []*Item // things that the line makes besides its own: sockets, screw groups
	loose int     // loose words read so far
}

var slug = regexp.MustCompile(`^[a-z0-9]+(-[a-z0-9]+)*$`)

// subject finds what a line speaks of. used is false where the first word is one of
// the thing's own words too.
func (p *parser) subject(l *Line, t token, from Source, called string) (k *kind, item *Item, used bool) {
	name, id, named := strings.Cut(t.text, ":")
	alone := id == ""
	name = strings.ToLower(name)
	if !t.quoted {
		k, id = p.kindOf(name, id, named)
	}
	if k == nil {
		l.fail(t.col, t.size, t.text, fmt.Sprintf("%s is nothing that a line can start with", clip(t.text)),
			"a thing, such as "+strings.Join(subjects(), " ")+", or a step's verb", hw.Nearest(name, p.starts()))
		return nil, nil, false
	}
	if called != "" && (k.list == "" || !alone || id == name) {
		l.fail(t.col, t.size, t.text, clip(t.text)+" has its name already",
			"as NAME in a line that names its thing by a word alone, such as slot or unscrew", "")
		return nil, nil, false
	}
	if called != "" {
		id = called
	}
	if id != "" && !slug.MatchString(id) {
		l.fail(t.col, t.size, t.text, fmt.Sprintf("%q is no id", id), "lower-case letters, digits and single dashes",
			"")
		return nil, nil, false
	}
	if k.list == "" {
		id = ""
	} else if id == "" && k.finish == nil {
		l.fail(t.col, t.size, t.text, "it is not said which "+k.word, "an id, such as "+k.word+":ID", "")
		return nil, nil, false
	}
	if named && id != "" && k.list != "" && called == "" {
		id = p.distinct(k.list, id, k.word)
	}
	item = newItem(k.list, id)
	item.start = from
	for field, value := range k.implied {
		item.implied[field] = value
	}
	detail := "new"
	if p.has(k.list, id) {
		detail = "in the record"
	}
	if k.list == "" {
		detail = "of the machine"
	}
	means := k.word
	if id != "" {
		means = strings.TrimSpace(strings.TrimSuffix(k.word, "s") + " " + id)
	}
	if isVerb(name) {
		verb := strings.ReplaceAll(name, "-", "_")
		item.Fields["verb"], item.From["verb"] = verb, from
		means = spaced(verb)
	}
	l.Words = append(l.Words, Word{Col: t.col, Len: t.size, Text: t.text, Means: means, Detail: detail})
	return k, item, true
}

func clip(text string) string {
	if r := []rune(text); len(r) > 24 {
		return string(r[:24]) + "…"
	}
	return text
}

func isVerb(name string) bool {
	_, _, ok := wordsOf(hw.VerbWords()).read(strings.ReplaceAll(name, "_", "-"))
	return ok
}

// kindOf finds the kind of a line by its first word: a word for a kind, an id that
// says by itself what it is, a step's verb, or an id of the record.
func (p *parser) kindOf(name, id string, named bool) (*kind, string) {
	if isVerb(name) {
		return kindNamed("step"), id
	}
	for _, k := range kinds {
		for _, w := range append([]string{k.word}, k.also...) {
			if w != name {
				continue
			}
			if id == "" {
				id = p.usual(k)
			}
			return k, id
		}
	}
	for _, k := range kinds {
		if !named && k.bare != nil && k.bare.MatchString(name) {
			return k, name
		}
	}
	if list := p.listOf(name); list != "" && !named {
		for _, k := range kinds {
			if k.list == list {
				return k, name
			}
		}
	}
	return nil, ""
}

func kindNamed(word string) *kind {
	for _, k := range kinds {
		if k.word == word {
			return k
		}
	}
	return nil
}

// usual is the thing that is meant by a kind alone: the only one there is, else the
// usual id of a first one.
func (p *parser) usual(k *kind) string {
	if k.id == "" || p.ch == nil {
		return k.id
	}
	ids := p.ids(k.list)
	if k.list == "slots" || len(ids) != 1 {
		return k.id
	}
	return ids[0]
}

// ids lists the ids of a list of the record.
func (p *parser) ids(list string) []string {
	if p.ch == nil {
		return nil
	}
	return p.ch.IDs(list)
}

func (p *parser) has(list, id string) bool {
	for _, x := range p.ids(list) {
		if x == id {
			return true
		}
	}
	return false
}

// listOf is the list of the record in which an id stands, "" where it does not.
func (p *parser) listOf(id string) string {
	for _, k := range kinds {
		if k.list != "" && p.has(k.list, id) {
			return k.list
		}
	}
	return ""
}

func subjects() []string {
	out := make([]string, len(kinds))
	for i, k := range kinds {
		out[i] = k.word
	}
	return out
}

// starts are all words that a line can start with.
func (p *parser) starts() []string {
	out := subjects()
	out = append(out, wordsOf(hw.VerbWords()).literals()...)
	for _, k := range kinds {
		if k.list != "" {
			out = append(out, p.ids(k.list)...)
		}
	}
	return out
}

// word reads one word of a line.
func (r *reader) word(t token) {
	if !t.quoted {
		if r.k.special != nil && r.k.special(r, t) {
			return
		}
		for i := range r.k.fields {
			f := &r.k.fields[i]
			if value, means, ok := f.codec.read(t.text); ok {
				r.put(r.item, f, value, means, t)
				return
			}
		}
	}
	if r.k.joined && !t.quoted && r.strayed(t) {
		return
	}
	if r.looseWord(t) {
		return
	}
	r.unread(t)
}

// strayed refuses a word that would silently become part of a name, where that is not meant: one that
// stands apart from the other words of the name, or nearly is a word that is known.
func (r *reader) strayed(t token) bool {
	var known []string
	for _, f := range r.k.fields {
		known = append(known, f.codec.literals()...)
	}
	near := ""
	if low := strings.ToLower(t.text); len(low) >= 5 && strings.ContainsAny(low, "-0123456789") {
		near = hw.Nearest(low, known)
	}
	last := r.l.Words[len(r.l.Words)-1]
	apart := r.loose > 0 && last.Detail != r.field(r.k.loose[0]).what
	if near == "" && !apart {
		return false
	}
	r.l.fail(t.col, t.size, t.text, fmt.Sprintf("%s is not a word of %s", clip(t.text), r.k.word),
		"the words of a name together, or in quotes: \"such a name\"", near)
	return true
}

// unread is the fault of a word that nobody reads.
func (r *reader) unread(t token) {
	var known, forms []string
	for _, f := range r.k.fields {
		known = append(known, f.codec.literals()...)
		forms = append(forms, f.form)
	}
	sign, _, signed := strings.Cut(strings.ToLower(t.text), ":")
	if signed {
		sign += ":" // the text after it is not what was mistyped
	}
	r.l.fail(t.col, t.size, t.text, fmt.Sprintf("%s is not a word of %s", clip(t.text), r.k.word),
		strings.Join(forms, " "), hw.Nearest(sign, known))
}

func (r *reader) say(t token, means, detail string) {
	r.l.Words = append(r.l.Words, Word{Col: t.col, Len: t.size, Text: t.text, Means: means, Detail: detail})
}

// put notes a field's value; a field that is said twice is a fault at the second.
func (r *reader) put(item *Item, f *field, value any, means string, t token) {
	_, twice := item.Fields[f.name]
	switch v := value.(type) {
	case entryOf:
		list, _ := item.Fields[f.name].([]any)
		if list == nil {
			list = []any{}
		}
		if v.value != nil {
			list = append(list, v.value)
		}
		value, twice = list, false
	case lengthChange:
		all, _ := item.Fields[f.name].(Lengths)
		if all == nil {
			all = Lengths{}
		}
		_, twice = all[v.long]
		all[v.long] = v.how
		value = all
		if v.width != 22 {
			item.Fields["width_mm"], item.From["width_mm"] = v.width, r.from
		}
	}
	if f.name == "width_mm" && twice && fmt.Sprint(item.Fields[f.name]) == fmt.Sprint(value) {
		twice = false // the length's code has said it too
	}
	if twice {
		r.l.fail(t.col, t.size, t.text, f.what+" is said twice", "it once", "")
		return
	}
	item.Fields[f.name], item.From[f.name] = value, r.from
	r.say(t, means, f.what)
}

// looseWord reads a word that is a text, or part of one.
func (r *reader) looseWord(t token) bool {
	if len(r.k.loose) == 0 || !t.quoted && strings.ContainsAny(t.text, `:>*+@`) {
		return false
	}
	text := unquote(t.text)
	if text == "" {
		return false
	}
	at := 0
	if !r.k.items && !r.k.joined {
		at = r.loose
	}
	if at >= len(r.k.loose) {
		return false
	}
	f := r.field(r.k.loose[at])
	r.loose++
	switch {
	case r.k.items:
		value := entryOf{text}
		if strings.EqualFold(text, "none") && !t.quoted {
			value = entryOf{}
		}
		r.put(r.item, f, value, text, t)
	case r.k.joined && r.item.Fields[f.name] != nil:
		before, _ := r.item.Fields[f.name].(string)
		r.item.Fields[f.name] = before + " " + text
		r.say(t, before+" "+text, f.what)
	default:
		r.put(r.item, f, text, text, t)
	}
	return true
}

func (r *reader) field(name string) *field {
	for i := range r.k.fields {
		if r.k.fields[i].name == name {
			return &r.k.fields[i]
		}
	}
	return &field{name: name, what: name}
}

// fieldOf is a field of another kind.
func fieldOf(word, name string) *field {
	r := reader{k: kindNamed(word)}
	return r.field(name)
}

// make adds another thing to the line.
func (r *reader) make(list, id string) *Item {
	item := r.p.add(r.l, newItem(list, id))
	r.made = append(r.made, item)
	return item
}

var (
	soldWord = regexp.MustCompile(`(?i)^(?:([0-9]+)[x×])?([0-9]+(?:[.,][0-9]+)?)(?:gb)?sold(?:ered)?$`)
	sockWord = regexp.MustCompile(`(?i)^(?:([0-9]+)[x×])?(sodimm|so-dimm|so|dimm|rdimm|camm2|lpcamm2)$`)
	noneWord = regexp.MustCompile(`(?i)^(sold|sock)0$`)
)

// mostOfOne is how many sockets or chips one word may stand for.
const mostOfOne = 16

// ramWord reads the memory of a machine in one line: 8 sold a + 2x sodimm a b max32.
func ramWord(r *reader, t token) bool {
	low := strings.ToLower(t.text)
	if t.text == "+" {
		r.say(t, "and", "memory")
		return true
	}
	if m := noneWord.FindStringSubmatch(low); m != nil {
		name := map[string]string{"sold": "memory/soldered", "sock": "memory/sockets"}[m[1]]
		r.put(r.item, &field{name: name, what: "memory"}, []any{}, "none", t)
		return true
	}
	if m := soldWord.FindStringSubmatch(low); m != nil {
		gb, err := hw.ParseDec(strings.ReplaceAll(m[2], ",", "."))
		return err == nil && r.several(m[1], func(n int) {
			item := r.make("memory/soldered", numbered("onboard", n, "-"))
			item.Fields["capacity_gb"], item.From["capacity_gb"] = gb, r.from
		}, func(n int) { r.say(t, fmt.Sprintf("%s GB soldered", gb), numberOf(n, "chip group")) })
	}
	if m := sockWord.FindStringSubmatch(low); m != nil {
		form, _, _ := fieldOf("sock", "form").codec.read(m[2])
		first := 1
		for _, x := range r.made {
			if x.List == "memory/sockets" {
				first++
			}
		}
		return r.several(m[1], func(n int) {
			item := r.make("memory/sockets", "dimm"+strconv.Itoa(first+n))
			item.Fields["form"], item.From["form"] = form, r.from
		}, func(n int) { r.say(t, fmt.Sprint(form), numberOf(n, "socket")) })
	}
	if strings.HasPrefix(low, "max") {
		f := fieldOf("sock", "max_module_gb")
		value, means, ok := f.codec.read(low)
		if !ok {
			return false
		}
		found := false
		for _, x := range r.made {
			if x.List == "memory/sockets" {
				x.Fields[f.name], x.From[f.name], found = value, r.from, true
			}
		}
		if found {
			r.say(t, means, f.what)
		}
		return found
	}
	if lower.MatchString(t.text) {
		// A channel's letter is that of the first thing of the line that has none.
		for _, x := range r.made {
			if x.Fields["channel"] == nil {
				x.Fields["channel"], x.From["channel"] = strings.ToUpper(t.text), r.from
				r.say(t, "channel "+strings.ToUpper(t.text), "of "+x.ID)
				return true
			}
		}
	}
	return false
}

// several makes as many things as a count says, one without.
func (r *reader) several(count string, one func(n int), say func(n int)) bool {
	n := 1
	if count != "" {
		var err error
		if n, err = strconv.Atoi(count); err != nil || n < 1 || n > mostOfOne {
			return false
		}
	}
	for i := range n {
		one(i)
	}
	say(n)
	return true
}

func numbered(id string, n int, dash string) string {
	if n == 0 {
		return id
	}
	return id + dash + strconv.Itoa(n+1)
}

func numberOf(n int, what string) string {
	if n == 1 {
		return "one " + what
	}
	return strconv.Itoa(n) + " " + what + "s"
}
