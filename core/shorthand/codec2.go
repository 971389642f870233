package shorthand

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// The codecs of single fields.

// channelWord is one letter.
type channelWord struct{}

func (channelWord) read(text string) (any, string, bool) {
	if !lower.MatchString(text) {
		return nil, "", false
	}
	letter := strings.ToUpper(text)
	return letter, "channel " + letter, true
}

func (channelWord) write(value any) string {
	s, _ := value.(string)
	return strings.ToLower(s)
}

func (channelWord) literals() []string { return nil }

// keyWord is keyM, or key:"a maker's own".
type keyWord struct{}

var oneKey = regexp.MustCompile(`(?i)^key([a-z])$`)

func (keyWord) read(word string) (any, string, bool) {
	if m := oneKey.FindStringSubmatch(word); m != nil {
		key := strings.ToUpper(m[1])
		return key, "key " + key, true
	}
	return text{"key:", "key %s", nil}.read(word)
}

func (keyWord) write(value any) string {
	s, _ := value.(string)
	if oneKey.MatchString("key"+s) && s == strings.ToUpper(s) {
		return "key" + s
	}
	return text{before: "key:"}.write(value)
}

func (keyWord) literals() []string { return []string{"keyM", "keyB", "keyE", "keyA", "key:"} }

// outlineWord is width x depth.
type outlineWord struct{}

var outlinePattern = regexp.MustCompile(`^([0-9]+(?:[.,][0-9]+)?)[xX×]([0-9]+(?:[.,][0-9]+)?)$`)

func (outlineWord) read(word string) (any, string, bool) {
	m := outlinePattern.FindStringSubmatch(word)
	if m == nil {
		return nil, "", false
	}
	w, errW := hw.ParseDec(strings.ReplaceAll(m[1], ",", "."))
	d, errD := hw.ParseDec(strings.ReplaceAll(m[2], ",", "."))
	return map[string]any{"width_mm": w, "depth_mm": d}, fmt.Sprintf("base of %s × %s mm", w, d),
		errW == nil && errD == nil
}

func (outlineWord) write(value any) string {
	o, _ := value.(map[string]any)
	if o == nil {
		return ""
	}
	return fmt.Sprintf("%vx%v", o["width_mm"], o["depth_mm"])
}

func (outlineWord) literals() []string { return nil }

// stepCount is how many screws of a group a step turns: 7*cover-long.
type stepCount struct{}

var stepCountWord = regexp.MustCompile(`^([0-9]+)\*([a-z0-9-]+)$`)

func (stepCount) read(word string) (any, string, bool) {
	if strings.EqualFold(word, "screws:none") {
		return entryOf{}, "no screws", true
	}
	m := stepCountWord.FindStringSubmatch(word)
	if m == nil {
		return nil, "", false
	}
	n, err := strconv.Atoi(m[1])
	return entryOf{map[string]any{"group": m[2], "count": n}}, m[1] + " of " + m[2], err == nil
}

func (stepCount) write(value any) string {
	list, ok := value.([]any)
	if !ok {
		return ""
	}
	if len(list) == 0 {
		return "screws:none"
	}
	out := make([]string, len(list))
	for i, x := range list {
		o, _ := x.(map[string]any)
		out[i] = fmt.Sprintf("%v*%v", o["count"], o["group"])
	}
	return strings.Join(out, " ")
}

func (stepCount) literals() []string { return nil }

// corners are those of the main board: at:8/6,306/6.
type corners struct{}

func (corners) read(word string) (any, string, bool) {
	places, _, ok := place{many: true}.read(word)
	if !ok {
		return nil, "", false
	}
	out := []any{}
	for _, p := range places.([]any) {
		at, _ := p.(map[string]any)
		if len(at) != 2 {
			return nil, "", false
		}
		out = append(out, []any{at["x_mm"], at["y_mm"]})
	}
	return out, fmt.Sprintf("%d corners", len(out)), true
}

func (corners) write(value any) string {
	list, ok := value.([]any)
	if !ok {
		return ""
	}
	if len(list) == 0 {
		return "at:none"
	}
	out := make([]string, len(list))
	for i, x := range list {
		pair, _ := x.([]any)
		if len(pair) != 2 {
			return ""
		}
		out[i] = fmt.Sprintf("%v/%v", pair[0], pair[1])
	}
	return "at:" + strings.Join(out, ",")
}

func (corners) literals() []string { return []string{"at:"} }

// looseList is a list whose entries are words of their own; it is read by the line.
type looseList struct{}

func (looseList) read(string) (any, string, bool) { return nil, "", false }

func (looseList) write(value any) string {
	items, ok := value.([]any)
	if !ok {
		return ""
	}
	if len(items) == 0 {
		return "none"
	}
	out := make([]string, len(items))
	for i, x := range items {
		out[i] = quote(fmt.Sprint(x))
		// What could be taken for another word, or joined to one, stands in quotes.
		if low := strings.ToLower(out[i]); out[i][0] != '"' &&
			(!plainWord.MatchString(out[i]) || units[low] || leading[low]) {
			out[i] = `"` + out[i] + `"`
		}
	}
	return strings.Join(out, " ")
}

var plainWord = regexp.MustCompile(`^[A-Za-z][A-Za-z0-9-]*$`)

func (looseList) literals() []string { return nil }

func spaced(word string) string { return strings.ReplaceAll(word, "_", " ") }

// condition is a place and its state: when:bay25=empty, back:battery=small.
type condition struct {
	before string
	says   string // of place and state
}

func (c condition) read(word string) (any, string, bool) {
	body, ok := strings.CutPrefix(strings.ToLower(word), c.before)
	place, state, is := strings.Cut(body, "=")
	if !ok || !is || !slug.MatchString(place) || !slug.MatchString(state) {
		return nil, "", false
	}
	return map[string]any{"place": place, "state": state}, fmt.Sprintf(c.says, place, state), true
}

func (c condition) write(value any) string {
	x, _ := value.(map[string]any)
	if x == nil {
		return ""
	}
	return fmt.Sprintf("%s%v=%v", c.before, x["place"], x["state"])
}

func (c condition) literals() []string { return []string{c.before} }

// slashed writes texts with a slash between, those at the end that are not known left out.
func slashed(before string, parts ...any) string {
	words := make([]string, len(parts))
	last := 0
	for i, p := range parts {
		if s, _ := p.(string); s != "" {
			words[i], last = quote(s), i+1
		}
	}
	return before + strings.Join(words[:last], "/")
}

// fixing is the screw of a place: fix:PH0/M2x3/kit is bit, screw, and where it comes from.
type fixing struct{}

func (fixing) read(word string) (any, string, bool) {
	if len(word) < 4 || !strings.EqualFold(word[:4], "fix:") {
		return nil, "", false
	}
	parts := strings.SplitN(word[4:], "/", 3)
	out := map[string]any{}
	if unquote(parts[0]) != "" {
		out["bit"] = unquote(parts[0])
	}
	if len(parts) > 1 && unquote(parts[1]) != "" {
		out["screw"] = unquote(parts[1])
	}
	if len(parts) > 2 {
		from, _, ok := wordsOf(hw.FixingsFrom).read(parts[2])
		if !ok {
			return nil, "", false
		}
		out["from"] = from
	}
	return out, "held by a screw", len(out) > 0
}

func (fixing) write(value any) string {
	x, _ := value.(map[string]any)
	if x == nil {
		return ""
	}
	return slashed("fix:", x["bit"], x["screw"], x["from"])
}

func (fixing) literals() []string { return []string{"fix:"} }

// settled is what a suspicion turned out to be: was:nothing/2026-05-14/"R. Okell".
type settled struct{}

func (settled) read(word string) (any, string, bool) {
	if len(word) < 4 || !strings.EqualFold(word[:4], "was:") {
		return nil, "", false
	}
	out := map[string]any{}
	for i, part := range strings.SplitN(word[4:], "/", 3) {
		name, part := []string{"as", "on", "by"}[i], unquote(part)
		switch {
		case part == "":
		case name == "as" && !slug.MatchString(part), name == "on" && !isDate(part):
			return nil, "", false
		default:
			out[name] = part
		}
	}
	says, _ := out["as"].(string)
	return out, "it was: " + says, true
}

func (settled) write(value any) string {
	x, _ := value.(map[string]any)
	if x == nil {
		return ""
	}
	return slashed("was:", x["as"], x["on"], x["by"])
}

func (settled) literals() []string { return []string{"was:"} }
