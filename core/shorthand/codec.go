package shorthand

import (
	"encoding/json"
	"fmt"
	"regexp"
	"sort"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// codec reads and writes the words of one field.
type codec interface {
	// read returns the value and what it means; ok is false for a word of another field.
	read(text string) (value any, means string, ok bool)
	// write returns the words for a value as JSON has it; "" where it cannot be written.
	write(value any) string
	// literals are the words that can be completed.
	literals() []string
}

// number is a figure with a sign before or after it: g4, 7mm, top1.5.
type number struct {
	before, after []string // the first is the one that is written
	whole         bool
	bare          func(hw.Dec) bool // whether a figure alone is meant
	says          string            // %s is the figure
}

func (c number) read(text string) (any, string, bool) {
	low := strings.ToLower(text)
	for _, b := range append([]string{""}, c.before...) {
		rest, ok := strings.CutPrefix(low, b)
		if !ok || b == "" && len(c.before) > 0 && c.bare == nil {
			continue
		}
		for _, a := range append([]string{""}, c.after...) {
			figure, ok := strings.CutSuffix(rest, a)
			if !ok || a == "" && len(c.after) > 0 && c.bare == nil || !bareNumber.MatchString(figure) {
				continue
			}
			d, err := hw.ParseDec(strings.ReplaceAll(figure, ",", "."))
			if err != nil || c.whole && d != hw.DecOf(d.Whole()) || a == "" && b == "" && c.bare != nil && !c.bare(d) {
				continue
			}
			means := fmt.Sprintf(c.says, d)
			if c.whole {
				return d.Whole(), means, true
			}
			return d, means, true
		}
	}
	return nil, "", false
}

func (c number) write(value any) string {
	n, ok := value.(json.Number)
	if !ok {
		return ""
	}
	out := n.String()
	if len(c.before) > 0 {
		out = c.before[0] + out
	}
	if len(c.after) > 0 {
		out += c.after[0]
	}
	return out
}

func (c number) literals() []string { return nil }

// choice is a word that stands for a value. Several words may mean one value; the
// first is the one that is written.
type choice []option

type option struct {
	word  string
	value any
	says  string
}

func (c choice) read(text string) (any, string, bool) {
	for _, o := range c {
		if strings.EqualFold(o.word, text) {
			return o.value, o.says, true
		}
	}
	for _, o := range c {
		if o.says != "" && strings.EqualFold(spoken(o.says), text) {
			return o.value, o.says, true
		}
	}
	return nil, "", false
}

// spoken is how what a page says is typed as one word: cooling pad is cooling-pad.
func spoken(says string) string { return strings.Join(strings.Fields(says), "-") }

func (c choice) write(value any) string {
	for _, o := range c {
		if fmt.Sprint(o.value) == fmt.Sprint(value) {
			return o.word
		}
	}
	return ""
}

func (c choice) literals() []string {
	out := make([]string, len(c))
	for i, o := range c {
		out[i] = o.word
	}
	return out
}

// some is a list of which each word is an entry: nvme sata. empty is the word for a
// list that was looked at and has none.
type some struct {
	choice
	empty string
	says  string // of the empty list
}

// entryOf is one entry of a list that several words make up; nil is the empty list.
type entryOf struct{ value any }

func (c some) read(text string) (any, string, bool) {
	if strings.EqualFold(text, c.empty) {
		return entryOf{}, c.says, true
	}
	value, says, ok := c.choice.read(text)
	return entryOf{value}, says, ok
}

func (c some) write(value any) string {
	list, ok := value.([]any)
	if !ok {
		return ""
	}
	if len(list) == 0 {
		return c.empty
	}
	out := make([]string, len(list))
	for i, x := range list {
		out[i] = c.choice.write(x)
	}
	return strings.Join(out, " ")
}

func (c some) literals() []string { return append(c.choice.literals(), c.empty) }

// text is a text after a sign: with:"plastic pick", >battery-plug.
type text struct {
	before string
	says   string
	shape  *regexp.Regexp // that the text has to have, where it has one
}

func (c text) read(word string) (any, string, bool) {
	if len(word) <= len(c.before) || !strings.EqualFold(word[:len(c.before)], c.before) {
		return nil, "", false
	}
	body := unquote(word[len(c.before):])
	if body == "" || c.shape != nil && !c.shape.MatchString(body) {
		return nil, "", false
	}
	return body, fmt.Sprintf(c.says, body), true
}

func (c text) write(value any) string {
	s, ok := value.(string)
	if !ok || s == "" {
		return ""
	}
	return c.before + quote(s)
}

func (c text) literals() []string { return []string{c.before} }

// list is a list after a sign, with commas: xor:bay25,battery:large; xor:none.
type list struct {
	before string
	says   string
	whole  bool // of whole numbers
}

func (c list) read(word string) (any, string, bool) {
	if len(word) <= len(c.before) || !strings.EqualFold(word[:len(c.before)], c.before) {
		return nil, "", false
	}
	body := word[len(c.before):]
	if strings.EqualFold(body, "none") {
		return []any{}, fmt.Sprintf(c.says, "none"), true
	}
	out := []any{}
	for _, x := range pieces(body) {
		if !c.whole {
			out = append(out, x)
			continue
		}
		n, err := strconv.Atoi(x)
		if err != nil {
			return nil, "", false
		}
		out = append(out, n)
	}
	return out, fmt.Sprintf(c.says, strings.ReplaceAll(unquote(body), ",", ", ")), true
}

func (c list) write(value any) string {
	items, ok := value.([]any)
	if !ok {
		return ""
	}
	out := make([]string, len(items))
	for i, x := range items {
		out[i] = fmt.Sprint(x)
	}
	return c.before + quoteAll(out)
}

func (c list) literals() []string { return []string{c.before} }

// held is a connector or caddy: there, not there, or to be had: plug, noplug,
// plug+bay-cable.
type held struct {
	word, absent string // absent is the value of "no" + word
}

func (c held) read(text string) (any, string, bool) {
	low := strings.ToLower(text)
	switch {
	case low == c.word:
		return "fitted", "fitted", true
	case low == "no"+c.word:
		return c.absent, strings.ReplaceAll(c.absent, "_", " "), true
	case strings.HasPrefix(low, c.word+"+") && len(low) > len(c.word)+1:
		return "needs:" + low[len(c.word)+1:], "needs " + low[len(c.word)+1:], true
	}
	return nil, "", false
}

func (c held) write(value any) string {
	s, _ := value.(string)
	if name, needed := hw.Needs(s); needed {
		return c.word + "+" + name
	}
	return map[string]string{"fitted": c.word, c.absent: "no" + c.word}[s]
}

func (c held) literals() []string { return []string{c.word, "no" + c.word, c.word + "+"} }

// lengths are how module lengths are held: 2280* the post is there, 2242 one moves
// there, 2230- nothing holds it, 2260+bracket an accessory does, 2260x it does not fit.
type lengths struct{}

var lengthWord = regexp.MustCompile(`(?i)^(16|22|30)(30|42|60|80|110)(\*|-|x|\+[a-z0-9-]+)?$`)

// lengthChange is one length of a slot, with the width its code names.
type lengthChange struct {
	width     int
	long, how string
}

func (lengths) read(text string) (any, string, bool) {
	if strings.EqualFold(text, "len:none") {
		return map[string]any{}, "takes no length", true
	}
	m := lengthWord.FindStringSubmatch(text)
	if m == nil {
		return nil, "", false
	}
	width, _ := strconv.Atoi(m[1])
	c := lengthChange{width: width, long: m[2]}
	says := ""
	switch {
	case m[3] == "*":
		c.how, says = "fitted", "post fitted"
	case m[3] == "":
		c.how, says = "movable", "post moves there"
	case m[3] == "-":
		c.how, says = "none", "nothing holds it"
	case strings.EqualFold(m[3], "x"):
		says = "does not fit"
	default:
		c.how, says = "needs:"+strings.ToLower(m[3][1:]), "held by "+m[3][1:]
	}
	return c, m[2] + " mm, " + says, true
}

func (lengths) write(value any) string { return writeLengths(value, 22) }

func writeLengths(value any, width int) string {
	all, ok := value.(map[string]any)
	if !ok {
		return ""
	}
	if len(all) == 0 {
		return "len:none"
	}
	var mm []int
	for long := range all {
		n, err := strconv.Atoi(long)
		if err != nil {
			return ""
		}
		mm = append(mm, n)
	}
	sort.Ints(mm)
	out := make([]string, len(mm))
	for i, n := range mm {
		how, _ := all[strconv.Itoa(n)].(string)
		sign := map[string]string{"fitted": "*", "movable": "", "none": "-"}[how]
		if name, needed := hw.Needs(how); needed {
			sign = "+" + name
		}
		out[i] = fmt.Sprintf("%d%d%s", width, n, sign)
	}
	return strings.Join(out, " ")
}

func (lengths) literals() []string { return []string{"2230", "2242", "2260", "2280", "22110"} }

// place is where a thing lies: at:12/10/22x84/90 is left, top, width x height, turn.
type place struct{ many bool }

var placeWord = regexp.MustCompile(`^(-?[0-9.]+)/(-?[0-9.]+)(?:/([0-9.]+|\?)x([0-9.]+|\?))?(?:/(0|90|180|270))?$`)

func (c place) read(word string) (any, string, bool) {
	body, ok := strings.CutPrefix(strings.ToLower(word), "at:")
	if !ok {
		return nil, "", false
	}
	if !c.many {
		at, ok := onePlace(body)
		return at, "lies at " + body, ok
	}
	if body == "none" {
		return []any{}, "lie nowhere", true
	}
	out := []any{}
	for _, p := range strings.Split(body, ",") {
		at, ok := onePlace(p)
		if !ok {
			return nil, "", false
		}
		out = append(out, at)
	}
	return out, fmt.Sprintf("%d places", len(out)), true
}

func onePlace(text string) (map[string]any, bool) {
	m := placeWord.FindStringSubmatch(text)
	if m == nil {
		return nil, false
	}
	out := map[string]any{}
	for i, name := range []string{"x_mm", "y_mm", "w_mm", "h_mm"} {
		if m[i+1] == "" || m[i+1] == "?" {
			continue
		}
		d, err := hw.ParseDec(m[i+1])
		if err != nil {
			return nil, false
		}
		out[name] = d
	}
	if m[5] != "" {
		n, err := strconv.Atoi(m[5])
		if err != nil {
			return nil, false
		}
		out["turn_deg"] = n
	}
	return out, true
}

func (c place) write(value any) string {
	list := []any{value}
	if c.many {
		all, ok := value.([]any)
		if !ok {
			return ""
		}
		if len(all) == 0 {
			return "at:none"
		}
		list = all
	}
	out := make([]string, len(list))
	for i, x := range list {
		at, ok := x.(map[string]any)
		if !ok {
			return ""
		}
		out[i] = fmt.Sprintf("%v/%v", at["x_mm"], at["y_mm"])
		w, h := at["w_mm"], at["h_mm"]
		if w != nil || h != nil {
			out[i] += "/" + orQuery(w) + "x" + orQuery(h)
		}
		if at["turn_deg"] != nil {
			out[i] += fmt.Sprintf("/%v", at["turn_deg"])
		}
	}
	return "at:" + strings.Join(out, ",")
}

func orQuery(v any) string {
	if v == nil {
		return "?"
	}
	return fmt.Sprint(v)
}

func (place) literals() []string { return []string{"at:"} }
