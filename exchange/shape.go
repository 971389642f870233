package exchange

import (
	"bytes"
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"sync"

	"yembo/core/hw"
	"yembo/docs/formats"
)

// Sound documents are read in one pass over their bytes against the published schemas, and
// decoded from them directly. Whatever this pass does not like, for whatever reason, goes
// the long way (readTree, checkShape), which finds the fault and words it: the pass never
// judges a document faulty, it only vouches for sound ones. TestShapes holds both against
// each other.

// shape is one schema, as far as the published ones go; compile refuses what it does not know.
type shape struct {
	// 'o' object, 'l' list, 's' text, 'n' number, 'i' whole number, 'b' true or false, 'e' one of, 0 anything
	kind     byte
	fields   map[string]field
	required uint64            // the bits of the fields
	keys     func([]byte) bool // which other names an object may have, nil none
	values   *shape            // of those
	items    *shape
	least    int // items, runes
	most     int
	unique   bool
	words    []string
	text     func([]byte) bool
	atLeast  *hw.Dec
	above    *hw.Dec
	also     []condition
}

// field is one field of an object, and its bit among those seen.
type field struct {
	*shape
	bit uint64
}

// condition is the if of an object: where it holds, the then, else the else.
type condition struct {
	field       string
	is          string
	then, elseq uint64 // the bits of the fields required
}

var shapes = sync.OnceValues(func() (map[string]*shape, error) {
	entries, err := formats.Schemas.ReadDir(".")
	if err != nil {
		return nil, err
	}
	out := map[string]*shape{}
	for _, e := range entries {
		kind := strings.TrimSuffix(e.Name(), ".schema.json")
		if formats.OnlyWritten(kind) {
			continue
		}
		raw, err := formats.Schemas.ReadFile(e.Name())
		if err != nil {
			return nil, err
		}
		var root map[string]any
		if err := json.Unmarshal(raw, &root); err != nil {
			return nil, err
		}
		defs, _ := root["$defs"].(map[string]any)
		c := &compiler{defs: defs, done: map[string]*shape{}}
		s := c.compile(root)
		if c.err != nil {
			return nil, fmt.Errorf("%s: %w", e.Name(), c.err)
		}
		out[kind] = s
	}
	return out, nil
})

type compiler struct {
	defs map[string]any
	done map[string]*shape
	err  error
}

func (c *compiler) compile(node any) *shape {
	m, _ := node.(map[string]any)
	s := &shape{most: 1 << 30}
	for name, v := range m {
		c.keyword(s, name, v)
	}
	if ref, ok := m["$ref"].(string); ok {
		name := strings.TrimPrefix(ref, "#/$defs/")
		if c.done[name] == nil {
			c.done[name] = c.compile(c.defs[name])
		}
		return c.done[name]
	}
	s.required |= c.bits(s, m["required"])
	if m["if"] != nil {
		c.conditional(s, m)
	}
	if _, open := m["properties"]; open && m["additionalProperties"] != false {
		c.fail("an object that takes any field")
	}
	return s
}

func (c *compiler) fail(format string, args ...any) {
	if c.err == nil {
		c.err = fmt.Errorf("the quick check does not know "+format, args...)
	}
}

func (c *compiler) keyword(s *shape, name string, v any) {
	number := func() int { n, _ := v.(float64); return int(n) }
	switch name {
	case "$schema", "$id", "$defs", "$ref", "title", "additionalProperties":
	case "type":
		kinds := map[string]byte{"object": 'o', "array": 'l', "string": 's', "number": 'n', "integer": 'i',
			"boolean": 'b'}
		text, _ := v.(string)
		if s.kind = kinds[text]; s.kind == 0 {
			c.fail("the type %v", v)
		}
	case "const", "enum":
		s.kind = 'e'
		list, ok := v.([]any)
		if !ok {
			list = []any{v}
		}
		for _, x := range list {
			raw, _ := json.Marshal(x)
			s.words = append(s.words, string(raw))
		}
	case "properties":
		s.fields = map[string]field{}
		all, _ := v.(map[string]any)
		for name, sub := range all {
			s.fields[name] = field{c.compile(sub), 1 << len(s.fields)}
		}
		if len(all) > 64 {
			c.fail("an object of %d fields", len(all))
		}
	case "required":
		// Below, when the fields have their bits.
	case "patternProperties":
		all, _ := v.(map[string]any)
		if len(all) != 1 {
			c.fail("several patterns of names")
		}
		for pattern, sub := range all {
			s.keys, s.values = matcher(pattern), c.compile(sub)
		}
	case "items":
		s.items = c.compile(v)
	case "minItems", "minLength":
		s.least = number()
	case "maxItems", "maxLength":
		s.most = number()
	case "uniqueItems":
		s.unique = true
	case "pattern":
		text, _ := v.(string)
		s.text = matcher(text)
	case "minimum", "exclusiveMinimum":
		raw, _ := json.Marshal(v)
		d, err := hw.ParseDec(string(raw))
		if err != nil {
			c.fail("the bound %v", v)
		}
		if name == "minimum" {
			s.atLeast = &d
		} else {
			s.above = &d
		}
	case "allOf":
		list, _ := v.([]any)
		*s = *c.compile(list[0])
		for _, x := range list[1:] {
			c.conditional(s, x)
		}
	case "if", "then", "else":
		// Together, in compile.
	default:
		c.fail("the keyword %s", name)
	}
}

// bits are those of a list of fields.
func (c *compiler) bits(s *shape, v any) (bits uint64) {
	list, _ := v.([]any)
	for _, x := range list {
		name, _ := x.(string)
		f, known := s.fields[name]
		if !known {
			c.fail("a required %s that is no field", name)
			return 0
		}
		bits |= f.bit
	}
	return bits
}

// conditional reads {"if": a field is a word, "then": …, "else": …}.
func (c *compiler) conditional(s *shape, node any) {
	m, _ := node.(map[string]any)
	test, _ := m["if"].(map[string]any)
	fields, _ := test["properties"].(map[string]any)
	if len(fields) != 1 {
		c.fail("such an if")
		return
	}
	for field, is := range fields {
		x := condition{field: field}
		value, _ := is.(map[string]any)
		x.is, _ = value["const"].(string)
		if then, ok := m["then"].(map[string]any); ok {
			x.then = c.bits(s, then["required"])
		}
		if other, ok := m["else"].(map[string]any); ok {
			x.elseq = c.bits(s, other["required"])
		}
		s.also = append(s.also, x)
	}
}

// matcher is a pattern as a function; ids, which are most of what is matched, without the
// regular expression.
func matcher(pattern string) func([]byte) bool {
	switch pattern {
	case "^[a-z0-9]+(-[a-z0-9]+)*$":
		return isSlug
	case "^[0-9]{4}-[0-9]{2}-[0-9]{2}$":
		return isDate
	case "^(/[^/]+)+$":
		return isPath
	}
	return regexp.MustCompile(pattern).Match
}

// isDate and isPath stand for the patterns that every finding is held to.
func isDate(text []byte) bool {
	for i, c := range text {
		if dash := i == 4 || i == 7; dash != (c == '-') || !dash && (c < '0' || c > '9') {
			return false
		}
	}
	return len(text) == len("2006-01-02")
}

func isPath(text []byte) bool {
	return len(text) > 1 && text[0] == '/' && text[len(text)-1] != '/' && !bytes.Contains(text, []byte("//"))
}

func isSlug(text []byte) bool {
	dash := true
	for i := range len(text) {
		c := text[i]
		switch {
		case c >= 'a' && c <= 'z' || c >= '0' && c <= '9':
			dash = false
		case c == '-' && !dash:
			dash = true
		default:
			return false
		}
	}
	return !dash
}
