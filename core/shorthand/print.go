package shorthand

import (
	"encoding/json"
	"fmt"
	"strings"

	"yembo/core/doc"
	"yembo/core/evidence"
	"yembo/core/hw"
)

// Print writes a record as lines that read back to the same record, each fact with its
// source in force. What cannot be typed (findings that are not in force) is left to the
// page of findings.
func Print(ch *hw.Chassis) string {
	tree := doc.Of(ch)
	w := &writer{ch: ch}
	done := map[string]bool{}
	for _, k := range kinds {
		if k.word == "none" {
			w.empty(tree)
			continue
		}
		if k.list == "" {
			w.line(k, tree, "")
			continue
		}
		if done[k.list] {
			continue
		}
		done[k.list] = true
		for _, x := range tree.List(k.list) {
			id, _ := x["id"].(string)
			w.line(kindFor(k, x), x, id)
		}
	}
	return strings.Join(w.lines, "\n")
}

// PrintOne writes the line of one thing, "" where there is no such thing. list "" and
// an id that is a kind's word writes that line of the record itself.
func PrintOne(ch *hw.Chassis, list, id string) string {
	w := &writer{ch: ch}
	tree := doc.Of(ch)
	if list == "" {
		if k := kindNamed(id); k != nil {
			w.line(k, tree, "")
		}
		return strings.Join(w.lines, "\n")
	}
	for _, k := range kinds {
		if k.list != list {
			continue
		}
		for _, x := range tree.List(list) {
			if x["id"] == id {
				w.line(kindFor(k, x), x, id)
				return strings.Join(w.lines, "\n")
			}
		}
	}
	return ""
}

// kindFor is the kind of a slot by its purpose; lists of other things have one kind.
func kindFor(k *kind, item doc.Tree) *kind {
	if k.list != "slots" {
		return k
	}
	for _, x := range kinds {
		if x.list == "slots" && x.implied["purpose"] == item["purpose"] {
			return x
		}
	}
	return k
}

type writer struct {
	ch    *hw.Chassis
	lines []string
}

// said is one word with how it is known.
type said struct {
	word string
	from Source
	bare bool // not a fact: where a thing lies, or a name
}

// line writes one thing; nothing where there is nothing to say of the machine.
func (w *writer) line(k *kind, item doc.Tree, id string) {
	at := ""
	if k.list != "" {
		at = "/" + k.list + "/" + id
	}
	var words []said
	seen := map[string]bool{}
	for i := range k.fields {
		f := &k.fields[i]
		value := item.Get(f.name)
		if value == nil || seen[f.name] || fmt.Sprint(k.implied[f.name]) == fmt.Sprint(value) {
			continue
		}
		word := f.codec.write(value)
		if f.name == "lengths" {
			word = writeLengths(value, widthOf(item))
		}
		if word == "" || !readsBack(f.codec, word, k) {
			continue
		}
		seen[f.name] = true
		words = append(words, said{word, w.source(at, f.name, value), f.name == "at"})
	}
	if k.list == "" && len(words) == 0 {
		return
	}
	out := []string{subjectWord(k, id)}
	now := Source{Name: "?"} // unlike any
	lead := ""
	for _, x := range words {
		if !x.bare && x.from != now {
			now = x.from
			sign := sourceWord(now)
			if lead == "" && len(out) == 1 {
				lead = sign // before the thing, so that it holds for what is implied too
			} else {
				out = append(out, sign)
			}
		}
		out = append(out, x.word)
	}
	if lead != "" {
		out = append([]string{lead}, out...)
	} else if k.list != "" {
		out = append([]string{"@-"}, out...)
	}
	w.lines = append(w.lines, strings.Join(out, " "))
}

// widthOf is what the codes of a slot's lengths begin with.
func widthOf(item doc.Tree) int {
	if n, ok := item["width_mm"].(json.Number); ok {
		if mm, err := n.Int64(); err == nil && (mm == 16 || mm == 30) {
			return int(mm)
		}
	}
	return 22
}

// readsBack reports whether a word that was written would be read by its own field: two
// fields may share a shape (a thread that is none is written with its sign).
func readsBack(c codec, word string, k *kind) bool {
	if _, loose := c.(looseList); loose {
		return true
	}
	tokens, bad := split(word)
	if bad != nil {
		return false
	}
	for _, t := range expand(k, tokens) {
		if _, _, ok := c.read(t.text); !ok {
			return false
		}
	}
	return true
}

// source is how a fact is known: by its finding in force, or that of one of its parts.
func (w *writer) source(at, name string, value any) Source {
	path := at + "/" + name
	if f := evidence.Of(w.ch.Findings, path).InForce; f != nil {
		return Source{f.Source, f.On, f.Note}
	}
	if _, parts := value.(map[string]any); parts {
		for _, f := range evidence.Used(evidence.Facts(w.ch.Findings), []string{path}) {
			return Source{f.InForce.Source, f.InForce.On, f.InForce.Note}
		}
	}
	return Source{}
}

func sourceWord(s Source) string {
	out := "@" + noSource
	if word := wordsOf(hw.Sources).write(s.Name); word != "" {
		out = "@" + word
	}
	if isDate(s.On) {
		out += ":" + s.On
	}
	if s.Note != "" {
		out += "#" + `"` + strings.ReplaceAll(s.Note, `"`, "''") + `"`
	}
	return out
}

// subjectWord is how a line names its thing.
func subjectWord(k *kind, id string) string {
	if k.list == "" {
		return k.word
	}
	if k.bare != nil && k.bare.MatchString(id) && !isVerb(id) {
		return id
	}
	return k.word + ":" + id
}

// empty writes what was looked for and is not there.
func (w *writer) empty(tree doc.Tree) {
	out := []string{}
	now := Source{Name: "?"}
	for _, x := range lists {
		all, ok := tree.Get(x.path).([]any)
		if !ok || len(all) > 0 {
			continue
		}
		if from := w.source("", x.path, all); from != now {
			now = from
			sign := sourceWord(from)
			if len(out) == 0 {
				out = append(out, sign, "none")
			} else {
				out = append(out, sign)
			}
		}
		out = append(out, x.word)
	}
	if len(out) > 0 {
		w.lines = append(w.lines, strings.Join(out, " "))
	}
}
