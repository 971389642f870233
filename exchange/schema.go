package exchange

import (
	"encoding/json"
	"fmt"
	"sort"
	"strconv"
	"strings"
	"sync"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/santhosh-tekuri/jsonschema/v6/kind"

	"yembo/core/hw"
	"yembo/docs/formats"
)

// schemas compiles the published schemas once.
var schemas = sync.OnceValues(func() (map[string]*jsonschema.Schema, error) {
	entries, err := formats.Schemas.ReadDir(".")
	if err != nil {
		return nil, err
	}
	out := map[string]*jsonschema.Schema{}
	c := jsonschema.NewCompiler()
	for _, e := range entries {
		raw, err := formats.Schemas.ReadFile(e.Name())
		if err != nil {
			return nil, err
		}
		doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(raw)))
		if err != nil {
			return nil, fmt.Errorf("%s: %w", e.Name(), err)
		}
		if err := c.AddResource(e.Name(), doc); err != nil {
			return nil, err
		}
		compiled, err := c.Compile(e.Name())
		if err != nil {
			return nil, err
		}
		out[strings.TrimSuffix(e.Name(), ".schema.json")] = compiled
	}
	return out, nil
})

// checkShape validates a tree against the schema of a document ("chassis").
func checkShape(name string, tree any) error {
	all, err := schemas()
	if err != nil {
		return err
	}
	var long hw.Faults
	windows := tooLong(all[name], "", tree, &long)
	if err := long.Err(); err != nil {
		return err
	}
	// Every fault that is found takes far more memory than what is faulty. So long lists are looked
	// at a stretch at a time, until enough is found.
	for k := range windows {
		err = all[name].Validate(stretch(tree, k))
		if err == nil {
			continue
		}
		failed, ok := err.(*jsonschema.ValidationError)
		if !ok {
			return err
		}
		var faults hw.Faults
		collect(failed, tree, k, &faults, map[hw.Fault]bool{})
		sort.SliceStable(faults, func(i, j int) bool { return faults[i].Pointer < faults[j].Pointer })
		return faults.Err()
	}
	return nil
}

// window is how much of a long list is looked at together.
const window = 500

// tooLong adds a fault for each list that is longer than its schema allows, and returns how many
// stretches the longest one has, at least 1.
func tooLong(s *jsonschema.Schema, at string, node any, faults *hw.Faults) (windows int) {
	windows = 1
	for s != nil && s.Ref != nil {
		s = s.Ref
	}
	switch x := node.(type) {
	case map[string]any:
		for name, child := range x {
			var sub *jsonschema.Schema
			if s != nil {
				sub = s.Properties[name]
			}
			windows = max(windows, tooLong(sub, at+"/"+hw.EscapePointer(name), child, faults))
		}
	case []any:
		var items *jsonschema.Schema
		if s != nil {
			if s.MaxItems != nil && len(x) > *s.MaxItems {
				faults.Add(at, hw.FaultRange, fmt.Sprintf("a list of %d", len(x)),
					fmt.Sprintf("at most %d", *s.MaxItems))
				return windows
			}
			items = s.Items2020
		}
		windows = max(windows, (len(x)+window-1)/window)
		for i, child := range x {
			switch child.(type) {
			case map[string]any, []any:
				windows = max(windows, tooLong(items, fmt.Sprint(at, "/", i), child, faults))
			}
		}
	}
	return windows
}

// stretch is a tree in which of every long list only the k-th stretch stands, of one that has no such
// stretch its first item.
func stretch(node any, k int) any {
	switch x := node.(type) {
	case map[string]any:
		out := make(map[string]any, len(x))
		for name, child := range x {
			out[name] = stretch(child, k)
		}
		return out
	case []any:
		from, to := stretchOf(len(x), k)
		out := make([]any, to-from)
		for i := range out {
			out[i] = stretch(x[from+i], k)
		}
		return out
	}
	return node
}

// stretchOf is which items of a list the k-th stretch has.
func stretchOf(length, k int) (from, to int) {
	switch {
	case length <= window && k == 0:
		return 0, length
	case k*window < length:
		return k * window, min(length, (k+1)*window)
	}
	return 0, min(1, length)
}

// collect words the leaves of a schema error.
func collect(e *jsonschema.ValidationError, tree any, k int, faults *hw.Faults, seen map[hw.Fault]bool) {
	if len(e.Causes) > 0 {
		for _, cause := range e.Causes {
			if len(*faults) <= hw.MaxFaults {
				collect(cause, tree, k, faults, seen)
			}
		}
		return
	}
	at, value := place(e.InstanceLocation, tree, k)
	var own hw.Faults
	word(e, at, value, &own)
	for _, f := range own {
		if !seen[f] && len(*faults) <= hw.MaxFaults {
			seen[f] = true
			*faults = append(*faults, f)
		}
	}
}

// place is where a location of the k-th stretch lies in the whole document, and what stands there.
func place(location []string, tree any, k int) (at string, value any) {
	for _, token := range location {
		switch node := tree.(type) {
		case map[string]any:
			tree = node[token]
		case []any:
			i, err := strconv.Atoi(token)
			from, _ := stretchOf(len(node), k)
			if i += from; err != nil || i >= len(node) {
				return at, nil
			}
			tree, token = node[i], strconv.Itoa(i)
		}
		at += "/" + hw.EscapePointer(token)
	}
	return at, tree
}

func word(e *jsonschema.ValidationError, at string, value any, faults *hw.Faults) {
	switch k := e.ErrorKind.(type) {
	case *kind.Required:
		for _, name := range k.Missing {
			faults.Add(at, hw.FaultMissing, "", name)
		}
	case *kind.AdditionalProperties:
		for _, name := range k.Properties {
			faults.Add(at+"/"+hw.EscapePointer(name), hw.FaultExtra, show(name), "")
		}
	case *kind.Type:
		faults.Add(at, hw.FaultType, show(value), article(k.Want))
	case *kind.Enum:
		words := make([]string, len(k.Want))
		for i, w := range k.Want {
			words[i] = strings.Trim(show(w), `"`)
		}
		want := strings.Join(words, ", ")
		if got, ok := k.Got.(string); ok {
			if near := hw.Nearest(got, words); near != "" {
				want += "; did you mean " + near + "?"
			}
		}
		faults.Add(at, hw.FaultChoice, show(k.Got), want)
	case *kind.Const:
		faults.Add(at, hw.FaultChoice, show(k.Got), show(k.Want))
	case *kind.Pattern:
		faults.Add(at, hw.FaultChoice, show(k.Got), patternWords(k.Want))
	case *kind.MinProperties:
		faults.Add(at, hw.FaultMissing, "", "at least one entry")
	case *kind.MinLength:
		faults.Add(at, hw.FaultRange, "an empty text", "leave the field out where nothing is known")
	case *kind.MaxLength:
		faults.Add(at, hw.FaultRange, fmt.Sprintf("a text of %d characters", k.Got), fmt.Sprintf("at most %d", k.Want))
	case *kind.MinItems:
		faults.Add(at, hw.FaultRange, fmt.Sprintf("a list of %d", k.Got), fmt.Sprintf("at least %d", k.Want))
	case *kind.MaxItems:
		faults.Add(at, hw.FaultRange, fmt.Sprintf("a list of %d", k.Got), fmt.Sprintf("at most %d", k.Want))
	default:
		faults.Add(at, hw.FaultSyntax, "does not follow the format", strings.Join(e.ErrorKind.KeywordPath(), "/"))
	}
}

// patternWords says in words what our patterns ask for.
func patternWords(pattern string) string {
	switch {
	case strings.Contains(pattern, "needs:"):
		names := strings.Split(strings.TrimPrefix(pattern, "^("), "|needs:")[0]
		return strings.ReplaceAll(names, "|", ", ") + " or needs:ACCESSORY"
	case strings.Contains(pattern, "battery:"):
		return "a place id or battery:ID"
	case strings.Contains(pattern, "[A-Z]{3}"):
		return "a currency code of three capital letters"
	case pattern == "^[A-Z]$":
		return "one capital letter, A for the first channel"
	case strings.Contains(pattern, "{4}-"):
		return "a date such as 2026-03-02"
	case strings.HasPrefix(pattern, "^(/"):
		return "a JSON Pointer such as /memory/type"
	case strings.HasPrefix(pattern, "^o"):
		return "o and a number"
	}
	return "lower-case letters, digits and single dashes"
}

func article(want []string) string {
	words := make([]string, len(want))
	for i, w := range want {
		switch w {
		case "number":
			words[i] = "a number"
		case "integer":
			words[i] = "a whole number"
		case "string":
			words[i] = "a text in quotes"
		case "boolean":
			words[i] = "true or false"
		case "array":
			words[i] = "a list"
		case "object":
			words[i] = "an object"
		default:
			words[i] = w
		}
	}
	return strings.Join(words, " or ")
}

// show prints a value short enough for a message.
func show(v any) string {
	raw, err := json.Marshal(v)
	if err != nil {
		return "this value"
	}
	switch v.(type) {
	case map[string]any:
		return "an object"
	case []any:
		return "a list"
	}
	if r := []rune(string(raw)); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return string(raw)
}
