package hw

import (
	"encoding/json"
	"fmt"
	"sort"
	"strconv"
	"strings"
)

// ValueWords writes a value with the unit that its field's name carries.
func ValueWords(path string, raw []byte) string {
	words := plainValue(path, raw)
	if unit := UnitOf(path); unit != "" {
		return words + " " + unit
	}
	return words
}

// fieldUnits are the units by the ending of a field's name.
var fieldUnits = map[string]string{"_gb": "GB", "_mts": "MT/s", "_mm": "mm", "_wh": "Wh", "_v": "V", "_h": "h"}

// plainValue writes a value without the signs of its format, its words as pages have them.
func plainValue(path string, raw []byte) string {
	var value any
	if err := json.Unmarshal(raw, &value); err != nil {
		return string(raw)
	}
	field := path[strings.LastIndex(path, "/")+1:]
	switch x := value.(type) {
	case string:
		return ValueSays(field, x)
	case []any:
		words := make([]string, len(x))
		for i, one := range x {
			word, plain := one.(string)
			if !plain {
				return flat(raw)
			}
			words[i] = ValueSays(field, word)
		}
		if len(words) == 0 {
			return "none"
		}
		return strings.Join(words, ", ")
	case map[string]any:
		if field == "lengths" {
			return LengthList(x)
		}
	}
	return flat(raw)
}

func flat(raw []byte) string {
	return strings.NewReplacer(`"`, "", "{", "", "}", "", "[", "", "]", "", ",", ", ", ":", " ", "x_mm", "left", "y_mm",
		"top", "w_mm", "width", "h_mm", "height", "turn_deg", "turned",
		"_mm", "", "_", " ").Replace(string(raw))
}

// LengthList writes how each module length is held, shortest first.
func LengthList(lengths map[string]any) string {
	var mm []int
	for text := range lengths {
		if n, err := strconv.Atoi(text); err == nil {
			mm = append(mm, n)
		}
	}
	sort.Ints(mm)
	words := make([]string, len(mm))
	for i, n := range mm {
		words[i] = strconv.Itoa(n) + " mm " + HeldSays(fmt.Sprint(lengths[strconv.Itoa(n)]))
	}
	return strings.Join(words, ", ")
}

// UnitOf is the unit that a field's name carries.
func UnitOf(name string) string {
	for suffix, unit := range fieldUnits {
		if strings.HasSuffix(name, suffix) {
			return unit
		}
	}
	return ""
}

// HeldSays is how a length, a connector or a caddy is held, in words.
func HeldSays(how string) string {
	if name, needed := Needs(how); needed {
		return "needs " + strings.ReplaceAll(name, "-", " ")
	}
	return HeldTerms.Says(how)
}

// HeldTerms are the ways in which something is held, beside an accessory of a name.
var HeldTerms = Vocabulary[string]{
	{Word: HeldFitted, Says: "fitted"},
	{Word: HeldMovable, Says: "moves there"},
	{Word: HeldByNone, Says: "nothing holds it"},
	{Word: NoHeader, Says: "no header"},
	{Word: CaddyNotUsed, Says: "not used"},
}
