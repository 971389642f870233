// Package evidence decides what is believed of a model and how well it is known.
//
// A fact may have several findings. The one in force is that of the strongest
// source, the newest of equals; where any other finding that is not set aside
// says something else, the fact is disputed (docs/rules.md, Evidence).
package evidence

import (
	"bytes"
	"encoding/json"
	"sort"
	"strings"

	"yembo/core/hw"
)

// Rank is a source's place in the order of the table, 0 the strongest. A source that is
// not in it ranks last.
func Rank(source hw.Source) int {
	if i := hw.Sources.Index(source); i >= 0 {
		return i
	}
	return len(hw.Sources)
}

// Weak reports whether a source is one that a plan counts as a risk.
func Weak(source hw.Source) bool { return source == hw.FromSeller || source == hw.Assumed }

// Fact is everything that was found about one fact.
type Fact struct {
	Path     string        // by place id, as in hw.Finding
	InForce  *hw.Finding   // nil when every finding is set aside
	Others   []*hw.Finding // the rest that still count, strongest first
	Aside    []*hw.Finding // set aside: shown, not counted
	Disputed bool          // one of Others says something else
}

// Facts groups a model's findings by fact, in the order of their first finding.
func Facts(findings []hw.Finding) []Fact {
	var facts []Fact
	at := map[string]int{}
	for i := range findings {
		f := &findings[i]
		k, seen := at[f.Path]
		if !seen {
			k = len(facts)
			at[f.Path] = k
			facts = append(facts, Fact{Path: f.Path})
		}
		if f.SetAside != nil {
			facts[k].Aside = append(facts[k].Aside, f)
		} else {
			facts[k].Others = append(facts[k].Others, f)
		}
	}
	for k := range facts {
		facts[k].settle()
	}
	return facts
}

// settle picks the finding in force out of those that count. Of two with the same
// source and date the later entered one holds.
func (f *Fact) settle() {
	live := f.Others
	entered := make(map[*hw.Finding]int, len(live))
	for i, finding := range live {
		entered[finding] = i
	}
	sort.SliceStable(live, func(i, j int) bool {
		a, b := live[i], live[j]
		if ra, rb := Rank(a.Source), Rank(b.Source); ra != rb {
			return ra < rb
		}
		if a.On != b.On {
			return a.On > b.On
		}
		return entered[a] > entered[b]
	})
	if len(live) == 0 {
		return
	}
	f.InForce, f.Others = live[0], live[1:]
	for _, other := range f.Others {
		if !SameValue(f.InForce.Value, other.Value) {
			f.Disputed = true
		}
	}
}

// Of returns what was found about one fact; the zero Fact when nothing was.
func Of(findings []hw.Finding, path string) Fact {
	var own []hw.Finding
	for _, f := range findings {
		if f.Path == path {
			own = append(own, f)
		}
	}
	if facts := Facts(own); len(facts) > 0 {
		return facts[0]
	}
	return Fact{Path: path}
}

// Used returns the facts in force whose path is one of the prefixes or lies
// within it: what a verdict leans on.
func Used(facts []Fact, prefixes []string) []Fact {
	var used []Fact
	for _, f := range facts {
		if f.InForce == nil {
			continue
		}
		for _, p := range prefixes {
			if Within(f.Path, p) {
				used = append(used, f)
				break
			}
		}
	}
	return used
}

// Within reports whether path is prefix or lies in it.
func Within(path, prefix string) bool {
	rest, ok := strings.CutPrefix(path, prefix)
	return ok && (rest == "" || rest[0] == '/')
}

// SameValue compares two JSON values by meaning: 8 and 8.0 are the same, the
// order of an object's fields does not count.
func SameValue(a, b json.RawMessage) bool {
	if bytes.Equal(a, b) {
		return true
	}
	x, errX := decode(a)
	y, errY := decode(b)
	return errX == nil && errY == nil && same(x, y)
}

func decode(raw json.RawMessage) (any, error) {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	var v any
	err := d.Decode(&v)
	return v, err
}

func same(a, b any) bool {
	switch x := a.(type) {
	case json.Number:
		y, ok := b.(json.Number)
		if !ok {
			return false
		}
		dx, errX := hw.ParseDec(x.String())
		dy, errY := hw.ParseDec(y.String())
		return errX == nil && errY == nil && dx == dy
	case []any:
		y, ok := b.([]any)
		if !ok || len(x) != len(y) {
			return false
		}
		for i := range x {
			if !same(x[i], y[i]) {
				return false
			}
		}
		return true
	case map[string]any:
		y, ok := b.(map[string]any)
		if !ok || len(x) != len(y) {
			return false
		}
		for k := range x {
			other, there := y[k]
			if !there || !same(x[k], other) {
				return false
			}
		}
		return true
	}
	return a == b
}
