package exchange

import (
	"bytes"
	"encoding/json"
	"slices"
	"strings"
	"unicode/utf8"

	jsonv2 "github.com/go-json-experiment/json"

	"yembo/core/doc"
	"yembo/core/hw"
)

// quick reads a sound document; false sends it the long way.
func quick(name string, data []byte, into any) bool {
	all, err := shapes()
	if err != nil || all[name] == nil || len(data) > MaxDocument || !utf8.Valid(data) {
		return false
	}
	q := &quickReader{data: data}
	if !q.value(all[name], 0) {
		return false
	}
	if q.space(); q.at != len(data) {
		return false
	}
	if jsonv2.Unmarshal(data, into) != nil {
		return false
	}
	if ch, ok := into.(*hw.Chassis); ok {
		for i := range ch.Findings {
			ch.Findings[i].Value = asWritten(ch.Findings[i].Value)
		}
	}
	return true
}

// asWritten is a value that is kept as text, the way Yembo writes it.
func asWritten(raw json.RawMessage) json.RawMessage {
	if d, err := hw.ParseDec(string(raw)); err == nil {
		return json.RawMessage(d.String())
	}
	if !bytes.ContainsAny(raw, "[{\\<>&\u2028\u2029") {
		return raw
	}
	clean, err := json.Marshal(doc.Plain(raw))
	if err != nil {
		return raw
	}
	return clean
}

type quickReader struct {
	data []byte
	at   int
}

func (q *quickReader) space() {
	for q.at < len(q.data) {
		switch q.data[q.at] {
		case ' ', '\n', '\r', '\t':
			q.at++
		default:
			return
		}
	}
}

// next reports whether the next byte after blanks is c, and goes past it.
func (q *quickReader) next(c byte) bool {
	q.space()
	if q.at < len(q.data) && q.data[q.at] == c {
		q.at++
		return true
	}
	return false
}

// value reads one value of a shape.
func (q *quickReader) value(s *shape, depth int) bool {
	q.space()
	if q.at >= len(q.data) || depth > maxDepth {
		return false
	}
	switch c := q.data[q.at]; {
	case c == '{':
		return (s.kind == 'o' || s.kind == 0) && q.object(s, depth)
	case c == '[':
		return (s.kind == 'l' || s.kind == 0) && q.list(s, depth)
	case c == '"':
		text, ok := q.text()
		switch {
		case !ok:
			return false
		case s.kind == 'e':
			return slices.ContainsFunc(s.words, func(word string) bool {
				return len(word) == len(text)+2 && word[0] == '"' && word[1:len(word)-1] == string(text)
			})
		case s.kind == 0:
			return true
		}
		// A text has no more runes than bytes.
		if len(text) < s.least || len(text) > s.most && utf8.RuneCount(text) > s.most {
			return false
		}
		return s.kind == 's' && (s.text == nil || s.text(text))
	case c == 't' || c == 'f':
		for _, word := range []string{"true", "false"} {
			if bytes.HasPrefix(q.data[q.at:], []byte(word)) {
				q.at += len(word)
				return s.kind == 'b' || s.kind == 0
			}
		}
		return false
	case c == '-' || c >= '0' && c <= '9':
		return q.number(s)
	}
	return false // null, and what is no value
}

// number reads a number as nearly all are written: digits, with a point or none. Any other
// goes the long way.
func (q *quickReader) number(s *shape) bool {
	from := q.at
	if q.data[q.at] == '-' {
		q.at++
	}
	digits := func() int {
		start := q.at
		for q.at < len(q.data) && q.data[q.at] >= '0' && q.data[q.at] <= '9' {
			q.at++
		}
		return q.at - start
	}
	first := q.at
	whole, part, pointed := digits(), 0, false
	if q.at < len(q.data) && q.data[q.at] == '.' {
		q.at++
		pointed, part = true, digits()
	}
	word := q.data[from:q.at]
	odd := whole == 0 || whole > 9 || whole > 1 && q.data[first] == '0' || pointed && (part == 0 || part > 6) ||
		word[0] == '-' && q.data[first] == '0'
	if more := q.at < len(q.data) && (q.data[q.at] == 'e' || q.data[q.at] == 'E'); odd || more {
		return false
	}
	switch s.kind {
	case 'e':
		return slices.Contains(s.words, string(word))
	case 'i':
		if pointed {
			return false
		}
	case 'n':
	case 0:
		return true
	default:
		return false
	}
	if s.atLeast == nil && s.above == nil {
		return true
	}
	d, err := hw.ParseDec(string(word))
	return err == nil && (s.atLeast == nil || d >= *s.atLeast) && (s.above == nil || d > *s.above)
}

// text reads a text without its quotes.
func (q *quickReader) text() ([]byte, bool) {
	from := q.at
	q.at++
	escaped := false
	for q.at < len(q.data) {
		switch c := q.data[q.at]; {
		case c == '"':
			q.at++
			raw := q.data[from:q.at]
			if !escaped {
				return raw[1 : len(raw)-1], true
			}
			var text string
			err := json.Unmarshal(raw, &text)
			// A half of a surrogate pair is read as a mark of its own: the long way says so.
			return []byte(text), err == nil && !strings.ContainsRune(text, utf8.RuneError) && !strings.ContainsFunc(text, noText)
		case c < ' ' || c == 0x7f || c == 0xc2 && q.at+1 < len(q.data) && q.data[q.at+1] < 0xa0:
			return nil, false // a control sign, which the long way names
		case c == '\\':
			escaped = true
			q.at++
		}
		q.at++
	}
	return nil, false
}

// anything is the shape of a value that the formats leave open.
var anything = &shape{most: 1 << 30}

func (q *quickReader) list(s *shape, depth int) bool {
	q.at++
	n := 0
	var seen []string
	for !q.next(']') {
		if n > 0 && !q.next(',') {
			return false
		}
		q.space()
		from := q.at
		item := s.items
		if item == nil {
			item = anything
		}
		if !q.value(item, depth+1) {
			return false
		}
		if s.unique {
			word := string(q.data[from:q.at])
			if slices.Contains(seen, word) {
				return false
			}
			seen = append(seen, word)
		}
		n++
	}
	return n >= s.least && n <= s.most
}

func (q *quickReader) object(s *shape, depth int) bool {
	q.at++
	var seen uint64
	var others []string
	var words map[string]string // the texts that conditions ask for
	for first := true; !q.next('}'); first = false {
		if !first && !q.next(',') {
			return false
		}
		q.space()
		if q.at >= len(q.data) || q.data[q.at] != '"' {
			return false
		}
		name, ok := q.text()
		if !ok || !q.next(':') {
			return false
		}
		f, known := s.fields[string(name)]
		switch {
		case known:
			if seen&f.bit != 0 {
				return false
			}
			seen |= f.bit
		case s.kind != 0 && (s.keys == nil || !s.keys(name)), slices.Contains(others, string(name)):
			return false
		default:
			others = append(others, string(name))
			if f.shape = s.values; s.kind == 0 {
				f.shape = anything
			}
		}
		q.space()
		from := q.at
		if !q.value(f.shape, depth+1) {
			return false
		}
		if len(s.also) > 0 && q.data[from] == '"' {
			if words == nil {
				words = map[string]string{}
			}
			words[string(name)] = strings.Trim(string(q.data[from:q.at]), `"`)
		}
	}
	if seen&s.required != s.required {
		return false
	}
	for _, x := range s.also {
		want := x.elseq
		if words[x.field] == x.is {
			want = x.then
		}
		if seen&want != want {
			return false
		}
	}
	return true
}
