package exchange

import (
	"bytes"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/reading"
	"yembo/core/teardown"
	"yembo/core/week"
)

// kindsRead are the documents by their schema, with a value of each to read into.
var kindsRead = map[string]func() any{
	"chassis": func() any { return &hw.Chassis{} }, "machine": func() any { return &hw.Machine{} },
	"parts":   func() any { return &hw.Parts{} },
	"request": func() any { return &hw.Request{} }, "plan": func() any { return &plan.Plan{} },
	"runsheet": func() any { return &teardown.Sheet{} },
	"observed": func() any { return &reading.Observed{} }, "week": func() any { return &week.Request{} },
}

// TestShapes holds the quick check against the published schema: every document of the demo
// goes the quick way and gives the same value, and of many documents spoilt at random none
// goes the quick way that the schema refuses, nor comes out differently.
func TestShapes(t *testing.T) {
	docs := documents(t)
	r := rand.New(rand.NewPCG(1, 2))
	good, bad, spoilt := 0, 0, []string{`null`, `0`, `-1`, `2.50`, `1e3`, `7.5`, `""`, `"x"`, `"A B"`, `true`, `[]`,
		`{}`, `[1]`, `"aé\u0301"`, `"\ud800"`, `{"a":1,"a":2}`, `"optical"`, `""`}
	for kind, list := range docs {
		for _, raw := range list {
			quickly, slowly := kindsRead[kind](), kindsRead[kind]()
			if !quick(kind, raw, quickly) {
				t.Errorf("a sound %s goes the long way: %.200s", kind, raw)
				continue
			}
			if err := readWhole(kind, raw, slowly); err != nil || !reflect.DeepEqual(quickly, slowly) {
				t.Errorf("%s comes out differently: %v", kind, err)
			}
			for range 400 {
				doc := spoil(r, raw, spoilt)
				quickly, slowly := kindsRead[kind](), kindsRead[kind]()
				ok, err := quick(kind, doc, quickly), readWhole(kind, doc, slowly)
				switch {
				case ok && err != nil:
					t.Fatalf("the quick way takes what the schema refuses, %v:\n%s", err, doc)
				case ok && !reflect.DeepEqual(quickly, slowly):
					t.Fatalf("the quick way reads another value:\n%s", doc)
				case err == nil:
					good++
				default:
					bad++
				}
			}
		}
	}
	if good < 200 || bad < 2000 {
		t.Errorf("%d sound and %d faulty documents hold nothing", good, bad)
	}
}

// spoil puts another value in place of one of a document's, takes one out, or a byte.
func spoil(r *rand.Rand, raw []byte, values []string) []byte {
	switch r.IntN(6) {
	case 0:
		i := r.IntN(len(raw))
		return append(append([]byte{}, raw[:i]...), raw[i+1:]...)
	case 1: // a field twice
		lines := bytes.Split(raw, []byte("\n"))
		i := r.IntN(len(lines))
		return bytes.Join(append(append(append([][]byte{}, lines[:i+1]...), lines[i]), lines[i+1:]...), []byte("\n"))
	}
	lines := strings.Split(string(raw), "\n")
	for {
		i := r.IntN(len(lines))
		name, value, ok := strings.Cut(lines[i], ": ")
		if !ok || strings.HasSuffix(value, "{") || strings.HasSuffix(value, "[") {
			continue
		}
		end := ""
		if strings.HasSuffix(value, ",") {
			end = ","
		}
		if r.IntN(4) == 0 {
			lines[i] = strings.Replace(name, `"`, `"x`, 1) + ": " + value
		} else {
			lines[i] = name + ": " + values[r.IntN(len(values))] + end
		}
		return []byte(strings.Join(lines, "\n"))
	}
}
