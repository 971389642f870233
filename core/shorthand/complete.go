package shorthand

import (
	"sort"
	"strings"

	"yembo/core/hw"
)

// Complete proposes words for the one that ends at a column (runes before the cursor):
// words a line can start with, then words of its thing, ids where ids are meant. At
// most a dozen, in alphabetical order.
func Complete(line string, cursor int, ch *hw.Chassis) []string {
	runes := []rune(line)
	if cursor > len(runes) {
		cursor = len(runes)
	}
	before := string(runes[:max(cursor, 0)])
	start := strings.LastIndexAny(before, " \t") + 1
	word := before[start:]
	p := &parser{ch: ch}
	var known []string
	switch rest := strings.Fields(before[:start]); {
	case strings.HasPrefix(word, "@"):
		known = sourceWords()
	case len(rest) == 0 || len(rest) == 1 && strings.HasPrefix(rest[0], "@"):
		known = p.starts()
	default:
		first := rest[0]
		if strings.HasPrefix(first, "@") {
			first = rest[1]
		}
		name, id, named := strings.Cut(strings.ToLower(first), ":")
		k, _ := p.kindOf(name, id, named)
		if k == nil {
			return nil
		}
		known = p.wordsOf(k, word)
	}
	var out []string
	seen := map[string]bool{}
	for _, w := range known {
		if strings.HasPrefix(strings.ToLower(w), strings.ToLower(word)) && !strings.EqualFold(w, word) && !seen[w] {
			seen[w] = true
			out = append(out, w)
		}
	}
	sort.Strings(out)
	return out[:min(len(out), 12)]
}

// wordsOf are the words of a kind; after a sign that wants an id, the ids.
func (p *parser) wordsOf(k *kind, word string) []string {
	var out []string
	for _, sign := range []struct {
		before string
		lists  []string
	}{{">", []string{"steps"}}, {"after:", []string{"steps"}}, {"xor:", []string{"slots", "bays"}},
		{"takes:", []string{"slots", "bays"}}} {
		if !strings.HasPrefix(word, sign.before) {
			continue
		}
		lead := word[:max(strings.LastIndex(word, ",")+1, len(sign.before))]
		for _, list := range sign.lists {
			for _, id := range p.ids(list) {
				out = append(out, lead+id)
			}
		}
		if sign.before == "xor:" {
			for _, id := range p.ids("batteries") {
				out = append(out, lead+"battery:"+id)
			}
		}
		return out
	}
	for _, f := range k.fields {
		out = append(out, f.codec.literals()...)
	}
	if k.word == "none" {
		for _, x := range lists {
			out = append(out, x.word)
		}
	}
	return out
}

// HelpLine is one kind of line in the help: its word, an example, and its words.
type HelpLine struct {
	Word, Example string
	Forms         []HelpForm
}

// HelpForm is how one fact is written, and what it is.
type HelpForm struct{ Form, What string }

// Help explains the lines by example, in the order in which records are written.
func Help() []HelpLine {
	var out []HelpLine
	for _, k := range kinds {
		h := HelpLine{Word: k.word, Example: k.example}
		for _, f := range k.fields {
			h.Forms = append(h.Forms, HelpForm{f.form, f.what})
		}
		out = append(out, h)
	}
	return out
}
