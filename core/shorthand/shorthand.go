// Package shorthand reads and writes the one-line entry of a technician who has a
// machine open: what is seen is typed in short words, a line a thing.
//
// A line names its thing first, then what was found, in any order:
//
//	m2b 2280* 2242 g3x2 nvme sata pad >battery-plug
//
// is the slot m2b: its 80 mm post is fitted, a post moves to 42 mm, generation 3 with
// two lanes, it takes NVMe and SATA, has a pad, and lies behind the step battery-plug.
// Words that are not said are left as they were; nothing is ever taken for known
// because it was not typed.
//
// A word that starts with @ says how the words after it on the line are known, with
// date and note: @maker:2026-03-02#"p. 41". A line of such a word alone holds for the
// lines after it. The words of each thing are one table (kinds.go), from which lines
// are read, written, completed and explained.
package shorthand

import (
	"fmt"
	"strings"
	"time"

	"yembo/core/hw"
)

// Limits of one entry.
const (
	MaxLines = 400
	maxLine  = 10_000 // runes
	maxItems = 1_000
)

// Source is how a fact is known. Name is one of the formats' sources; "" is no source.
type Source struct {
	Name     hw.Source
	On, Note string
}

// Item is one thing that a line speaks of: List and ID as in the document, List ""
// for the record itself, whose fields are named by their path ("memory/type").
type Item struct {
	List, ID string
	Fields   map[string]any    // as in the document; nil: not known any more
	From     map[string]Source // by field
	implied  map[string]any    // for a thing that is not in the record yet
	start    Source            // how what is implied is known: as the line begins
}

// Lengths are changes to how module lengths are held; "" is a length that does not fit.
type Lengths map[string]string

// Word is one word of a line with what it means.
type Word struct {
	Col, Len int // in runes, from 1
	Text     string
	Means    string // in a few words
	Detail   string // what kind of fact that is
	Fault    *Fault
}

// Line is one line as it was read.
type Line struct {
	Number int
	Text   string
	Words  []Word
	Items  []*Item
	kind   *kind
}

// Fault is a word that cannot be read.
type Fault struct {
	Line, Col int
	Got       string // what stands there
	Want      string // what would be right
	Near      string // the known word nearest to it, "" for none
}

func (f *Fault) Error() string {
	text := fmt.Sprintf("line %d, column %d: %s", f.Line, f.Col, f.Text())
	return text
}

// Text is the fault without its place.
func (f *Fault) Text() string {
	text := f.Got
	if f.Near != "" {
		text += "; did you mean " + f.Near + "?"
	}
	if f.Want != "" {
		text += " (expected: " + f.Want + ")"
	}
	return text
}

// Faults lists the faults of lines in their order.
func Faults(lines []Line) []*Fault {
	var out []*Fault
	for i := range lines {
		for k := range lines[i].Words {
			if f := lines[i].Words[k].Fault; f != nil {
				out = append(out, f)
			}
		}
	}
	return out
}

// Namer makes an id of a name that was typed, in any script: lower-case letters and
// digits with dashes between. It is empty where the name has no letter. The spelling of
// other scripts is a matter of tables that the core does not keep.
type Namer func(name string) string

// Parse reads lines. ch is the record they are about, which tells what ids stand for;
// it may be nil. force is how things are known where no line says so, name makes an id
// of a name. What cannot be read is a fault at its word, and the other words of the line
// are read all the same.
func Parse(text string, ch *hw.Chassis, force Source, name Namer) []Line {
	p := &parser{ch: ch, force: force, name: name}
	if ch != nil && len(ch.Steps) > 0 {
		p.lastStep = ch.Steps[len(ch.Steps)-1].ID
	}
	var out []Line
	for i, line := range strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
		if strings.TrimSpace(line) == "" {
			continue
		}
		l := Line{Number: i + 1, Text: line}
		switch {
		case len(out) == MaxLines:
			l.fail(1, 1, "", fmt.Sprintf("more than %d lines", MaxLines), "the rest by itself", "")
			return append(out, l)
		case len([]rune(line)) > maxLine:
			l.fail(1, 1, "", fmt.Sprintf("the line has more than %d characters", maxLine), "several shorter lines", "")
		default:
			p.line(&l)
		}
		out = append(out, l)
	}
	return out
}

func (l *Line) fail(col, size int, text, got, want, near string) {
	l.Words = append(l.Words, Word{Col: col, Len: size, Text: text,
		Fault: &Fault{Line: l.Number, Col: col, Got: got, Want: want, Near: near}})
}

// parser carries what lines hand on to one another.
type parser struct {
	ch       *hw.Chassis
	force    Source
	name     Namer
	lastStep string // a new step comes after it unless it says otherwise
	items    int
	earlier  []*Item // what the lines before speak of
}

// line reads one line: its thing, then its words.
func (p *parser) line(l *Line) {
	tokens, bad := split(l.Text)
	if bad != nil {
		bad.Line = l.Number
		l.Words = append(l.Words, Word{Col: bad.Col, Len: 1, Fault: bad})
		return
	}
	if tokens[0].text[0] == '@' {
		from, ok := p.source(l, tokens[0])
		if ok && len(tokens) == 1 {
			p.force = from
			return
		}
		if !ok {
			return
		}
		p.rest(l, tokens[1:], from)
		return
	}
	p.rest(l, plainly(tokens), p.force)
}

// plainly puts a line that begins with what people call a thing into the words of its kind.
func plainly(tokens []token) []token {
	if len(tokens) < 2 || tokens[0].quoted || tokens[1].quoted {
		return tokens
	}
	first, second := tokens[0], tokens[1]
	id, name := "", ""
	switch strings.ToLower(first.text + " " + second.text) {
	case "processor socket", "cpu socket":
		id, name = "service:processor", "Change the processor"
	case "clock cell", "coin cell", "cmos battery":
		id, name = "service:clock-cell", "Change the clock cell"
	default:
		return tokens
	}
	return append(
		[]token{{text: id, col: first.col, size: first.size}, {text: `name:"` + name + `"`, col: second.col, size: second.size}},
		tokens[2:]...)
}

func (p *parser) rest(l *Line, tokens []token, from Source) {
	tokens, name, ok := p.named(l, tokens)
	if !ok {
		return
	}
	k, item, used := p.subject(l, tokens[0], from, name)
	if k == nil {
		return
	}
	l.kind = k
	item = p.add(l, item)
	r := &reader{p: p, l: l, k: k, item: item, from: from, first: item.ID}
	if used {
		tokens = tokens[1:]
	}
	for _, t := range expand(k, tokens) {
		if t.text[0] == '@' && !t.quoted {
			if next, ok := p.source(l, t); ok {
				r.from = next
			}
			continue
		}
		r.word(t)
	}
	made := item.ID == ""
	if k.finish != nil {
		k.finish(r)
	}
	if made && k.list != "" {
		r.keepFirst()
	}
	p.earlier = append(p.earlier, l.Items...)
}

// named takes the name that a line gives its thing, "as NAME", out of its words.
func (p *parser) named(l *Line, tokens []token) (rest []token, name string, ok bool) {
	for i, t := range tokens {
		if i == 0 || t.quoted || !strings.EqualFold(t.text, "as") {
			continue
		}
		if i+1 == len(tokens) {
			l.fail(t.col, t.size, t.text, "the name after as is missing", "as NAME, such as as rear-screws", "")
			return nil, "", false
		}
		next := tokens[i+1]
		if name = next.text; !slug.MatchString(name) {
			l.fail(next.col, next.size, next.text, fmt.Sprintf("%q is no id", clip(name)),
				"lower-case letters, digits and single dashes", "")
			return nil, "", false
		}
		l.Words = append(l.Words, Word{Col: t.col, Len: next.col + next.size - t.col, Text: t.text + " " + name,
			Means: "named " + name, Detail: "by you"})
		rest = append(append(rest, tokens[:i]...), tokens[i+2:]...)
		return rest, name, true
	}
	return tokens, "", true
}

func (p *parser) add(l *Line, item *Item) *Item {
	p.items++
	if p.items == maxItems+1 {
		l.fail(1, 1, "", fmt.Sprintf("more than %d things", maxItems), "the rest by itself", "")
	}
	if p.items > maxItems {
		return newItem(item.List, item.ID) // counted no more
	}
	l.Items = append(l.Items, item)
	return item
}

func newItem(list, id string) *Item {
	return &Item{List: list, ID: id, Fields: map[string]any{}, From: map[string]Source{}, implied: map[string]any{}}
}

// noSource is the word for facts that nobody vouches for.
const noSource = "-"

// sourceWords are the words that name a source.
func sourceWords() []string {
	var out []string
	for _, o := range wordsOf(hw.Sources) {
		out = append(out, "@"+o.word)
	}
	return append(out, "@"+noSource)
}

// source reads @name:date#"note".
func (p *parser) source(l *Line, t token) (Source, bool) {
	body, note, _ := strings.Cut(t.text[1:], "#")
	name, on, dated := strings.Cut(body, ":")
	value, means, ok := wordsOf(hw.Sources).read(name)
	if name == noSource {
		value, means, ok = "", "no source", true
	}
	if ok {
		if dated && !isDate(on) {
			l.fail(t.col, t.size, t.text, fmt.Sprintf("%q is no date", on), "year-month-day, such as @maker:2026-03-02",
				"")
			return Source{}, false
		}
		says := "for the words after it"
		if on != "" {
			says = on
		}
		l.Words = append(l.Words, Word{Col: t.col, Len: t.size, Text: t.text, Means: means, Detail: says})
		return Source{hw.Source(value.(string)), on, unquote(note)}, true
	}
	words := sourceWords()
	l.fail(t.col, t.size, t.text, fmt.Sprintf("%q is no source", t.text), strings.Join(words, " "),
		hw.Nearest("@"+strings.ToLower(name), words))
	return Source{}, false
}

func isDate(text string) bool {
	if len(text) != 10 || text[4] != '-' || text[7] != '-' {
		return false
	}
	for i, r := range text {
		if i != 4 && i != 7 && (r < '0' || r > '9') {
			return false
		}
	}
	_, err := time.Parse("2006-01-02", text)
	return err == nil
}
