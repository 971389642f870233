package evidence

import (
	"encoding/json"
	"fmt"
	"slices"
	"sort"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// Leaves lists the single facts of a part of a record by path, with their values:
// fields of objects, and of the things in lists that have ids. A list of plain
// values is one fact, and so is how module lengths are held, a step's condition, a fixing
// or what settled a suspicion. Ids and drawing places
// are no facts.
func Leaves(ch *hw.Chassis, prefix string) (map[string]json.RawMessage, error) {
	plain := *ch
	plain.Findings = nil
	raw, err := json.Marshal(&plain)
	if err != nil {
		return nil, err
	}
	tree, err := decode(raw)
	if err != nil {
		return nil, err
	}
	out := map[string]json.RawMessage{}
	if err := leaves(tree, "", prefix, out); err != nil {
		return nil, err
	}
	return out, nil
}

// oneFact are objects that are known as a whole.
var oneFact = []string{"/lengths", "/when", "/back", "/fixing", "/settled"}

func leaves(node any, at, prefix string, out map[string]json.RawMessage) error {
	whole := slices.ContainsFunc(oneFact, func(name string) bool { return strings.HasSuffix(at, name) })
	if object, ok := node.(map[string]any); ok && !whole {
		for name, child := range object {
			if name == "id" || name == "at" {
				continue
			}
			if err := leaves(child, at+"/"+hw.EscapePointer(name), prefix, out); err != nil {
				return err
			}
		}
		return nil
	}
	if list, ok := node.([]any); ok && len(list) > 0 {
		if first, isObject := list[0].(map[string]any); isObject && first["id"] != nil {
			for _, item := range list {
				object, _ := item.(map[string]any)
				id, _ := object["id"].(string)
				if err := leaves(item, at+"/"+id, prefix, out); err != nil {
					return err
				}
			}
			return nil
		}
	}
	if !Within(at, prefix) {
		return nil
	}
	raw, err := json.Marshal(node)
	if err != nil {
		return err
	}
	out[at] = raw
	return nil
}

// Set returns a copy of the record with one fact, named by its path by place id,
// set to a value; null takes the fact out.
func Set(ch *hw.Chassis, path string, value json.RawMessage) (*hw.Chassis, error) {
	pointer, ok := ByIndex(ch, path)
	if !ok {
		return nil, fmt.Errorf("%s is not in the record", path)
	}
	raw, err := json.Marshal(ch)
	if err != nil {
		return nil, err
	}
	tree, err := decode(raw)
	if err != nil {
		return nil, err
	}
	v, err := decode(value)
	if err != nil {
		return nil, err
	}
	if err := put(tree, strings.Split(strings.TrimPrefix(pointer, "/"), "/"), v); err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	if raw, err = json.Marshal(tree); err != nil {
		return nil, err
	}
	var out hw.Chassis
	if err := json.Unmarshal(raw, &out); err != nil {
		return nil, err
	}
	return &out, nil
}

func put(tree any, tokens []string, v any) error {
	for i, token := range tokens {
		token = strings.ReplaceAll(strings.ReplaceAll(token, "~1", "/"), "~0", "~")
		last := i == len(tokens)-1
		switch node := tree.(type) {
		case map[string]any:
			if last && v == nil {
				delete(node, token)
				return nil
			}
			if last {
				node[token] = v
				return nil
			}
			if node[token] == nil {
				node[token] = map[string]any{}
			}
			tree = node[token]
		case []any:
			k, err := strconv.Atoi(token)
			if err != nil || k < 0 || k >= len(node) {
				return fmt.Errorf("there is no entry %s", token)
			}
			if last {
				node[k] = v
				return nil
			}
			tree = node[k]
		default:
			return fmt.Errorf("%s is not a record", token)
		}
	}
	return nil
}

// Record adds what was entered to a record's findings and brings the fields in
// line with the findings in force.
//
// typed is the record as entered, before the earlier record (nil for a new one).
// covers says which paths the entry speaks of; all else is left alone. For each of
// its facts whose value differs from the finding in force, or for which how
// says that its source was entered anew, a finding is added; a fact that was cleared has its findings set aside; so
// have those of places that are gone. Where a stronger finding says otherwise the
// field keeps the value in force, and the fact is disputed.
func Record(before, typed *hw.Chassis, covers func(path string) bool, how func(path string) (f hw.Finding, anew bool),
	aside hw.SetAside) (*hw.Chassis, error) {
	entered, err := Leaves(typed, "")
	if err != nil {
		return nil, err
	}
	filled := map[string]bool{} // lists that have things
	for path := range entered {
		for at := path; strings.Count(at, "/") > 1; {
			at = at[:strings.LastIndex(at, "/")]
			filled[at] = true
		}
		if !covers(path) {
			delete(entered, path)
		}
	}
	if err := single(before, entered); err != nil {
		return nil, err
	}
	out := *typed
	if before != nil {
		out.Findings = append([]hw.Finding(nil), before.Findings...)
	}
	for i := range out.Findings {
		f := &out.Findings[i]
		if f.SetAside == nil && filled[f.Path] && string(f.Value) == "[]" {
			// It was said that there is none, and now there is one.
			f.SetAside = &hw.SetAside{On: aside.On, By: aside.By, Note: "there is one after all"}
			continue
		}
		if _, still := entered[f.Path]; !still && f.SetAside == nil && covers(f.Path) {
			gone := aside
			f.SetAside = &gone
		}
	}
	earlier := map[string]json.RawMessage{}
	if before != nil {
		if earlier, err = Leaves(before, ""); err != nil {
			return nil, err
		}
	}
	paths := make([]string, 0, len(entered))
	for path := range entered {
		paths = append(paths, path)
	}
	sort.Strings(paths)
	for _, path := range paths {
		f, anew := how(path)
		f.Path, f.Value = path, entered[path]
		now := Of(out.Findings, path).InForce
		stands := now != nil && SameValue(now.Value, f.Value)
		if old := earlier[path]; now == nil && old != nil {
			stands = SameValue(old, f.Value) // a fact without a source stays one
		}
		if stands && !anew {
			continue
		}
		out.Findings = append(corrected(out.Findings, f), f)
	}
	result := &out
	for _, path := range paths {
		if now := Of(result.Findings, path).InForce; now != nil && !SameValue(now.Value, entered[path]) {
			if result, err = Set(result, path, now.Value); err != nil {
				return nil, err
			}
		}
	}
	return result, nil
}

// corrected sets aside what a person only assumed and now knows better, and what the same person said otherwise
// of the same fact from the same source on the same day: a typing error put right, no dispute. Two machines that
// tell different things do contradict each other, and so do words that give another reason.
func corrected(findings []hw.Finding, f hw.Finding) []hw.Finding {
	if f.By == "" || f.On == "" || f.Source == hw.FromReading {
		return findings
	}
	for i := range findings {
		old := &findings[i]
		if old.SetAside == nil && old.Path == f.Path && old.Source == hw.Assumed && f.Source != hw.Assumed && old.By == f.By {
			old.SetAside = &hw.SetAside{On: f.On, By: f.By, Note: "assumed, and looked at since"}
			continue
		}
		if old.SetAside != nil || old.Path != f.Path || old.Source != f.Source || old.By != f.By || old.On != f.On ||
			SameValue(old.Value, f.Value) {
			continue
		}
		if old.Note == f.Note || old.Note == "" || f.Note == "" {
			old.SetAside = &hw.SetAside{On: f.On, By: f.By, Note: "corrected the same day"}
		}
	}
	return findings
}

// single adds to the facts entered those that an earlier finding names by themselves
// although they are part of a larger one: /slots/m2a/lengths/80.
func single(before *hw.Chassis, entered map[string]json.RawMessage) error {
	if before == nil {
		return nil
	}
	for i := range before.Findings {
		at, key, ok := strings.Cut(before.Findings[i].Path, "/lengths/")
		if !ok || before.Findings[i].SetAside != nil {
			continue
		}
		lengths := map[string]json.RawMessage{}
		if whole := entered[at+"/lengths"]; whole == nil {
			continue
		} else if err := json.Unmarshal(whole, &lengths); err != nil {
			return err
		}
		if held, still := lengths[key]; still {
			entered[before.Findings[i].Path] = held
		}
	}
	return nil
}

// Add adds one finding about a fact of the record and brings the field in line with
// what is in force then. The error is for a path that is not in the record.
func Add(ch *hw.Chassis, f hw.Finding) (*hw.Chassis, error) {
	if _, there := ByIndex(ch, f.Path); !there {
		return nil, fmt.Errorf("%s is not in the record", f.Path)
	}
	out := *ch
	out.Findings = append(corrected(append([]hw.Finding(nil), ch.Findings...), f), f)
	return Set(&out, f.Path, Of(out.Findings, f.Path).InForce.Value)
}

// Retract sets one finding aside and brings the field in line with what is in force
// then. Where nothing is, the fact is not known any more and leaves the record; a
// field that the record cannot be without stays, with no source.
func Retract(ch *hw.Chassis, finding int, aside hw.SetAside) (*hw.Chassis, error) {
	out := *ch
	out.Findings = append([]hw.Finding(nil), ch.Findings...)
	out.Findings[finding].SetAside = &aside
	path := out.Findings[finding].Path
	if _, there := ByIndex(&out, path); !there {
		return &out, nil
	}
	if now := Of(out.Findings, path).InForce; now != nil {
		return Set(&out, path, now.Value)
	}
	for _, needed := range []string{"/form", "/capacity_gb", "/purpose", "/verb", "/needs"} {
		if strings.HasSuffix(path, needed) {
			return &out, nil
		}
	}
	return Set(&out, path, json.RawMessage("null"))
}
