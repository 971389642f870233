package shorthand

import (
	"encoding/json"
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
	return map[string]any{"width_mm": w, "depth_mm": d}, fmt.Sprintf("base of %s × %s mm", w, d), errW == nil && errD == nil
}

func (outlineWord) write(value any) string {
	o, _ := value.(map[string]any)
	if o == nil {
		return ""
	}
	return fmt.Sprintf("%vx%v", o["width_mm"], o["depth_mm"])
}

func (outlineWord) literals() []string { return nil }

func memoryType() choice {
	out := choice{}
	for _, t := range []string{"DDR3", "DDR3L", "DDR4", "DDR5", "LPDDR3", "LPDDR4", "LPDDR4X", "LPDDR5", "LPDDR5X"} {
		out = append(out, option{strings.ToLower(t), t, t})
	}
	return out
}

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
		if low := strings.ToLower(out[i]); out[i][0] != '"' && (!plainWord.MatchString(out[i]) || units[low] || leading[low]) {
			out[i] = `"` + out[i] + `"`
		}
	}
	return strings.Join(out, " ")
}

var plainWord = regexp.MustCompile(`^[A-Za-z][A-Za-z0-9-]*$`)

func (looseList) literals() []string { return nil }

func dashed(word string) string { return strings.ReplaceAll(word, "_", "-") }
func spaced(word string) string { return strings.ReplaceAll(word, "_", " ") }

// asJSON gives a value the form it has when a document is read, so that values of
// records and of lines can be treated alike.
func asJSON(value any) any {
	raw, err := json.Marshal(value)
	if err != nil {
		return nil
	}
	d := json.NewDecoder(strings.NewReader(string(raw)))
	d.UseNumber()
	var out any
	if d.Decode(&out) != nil {
		return nil
	}
	return out
}
