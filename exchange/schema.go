package exchange

import (
	"encoding/json"
	"fmt"
	"sort"
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
	err = all[name].Validate(tree)
	if err == nil {
		return nil
	}
	failed, ok := err.(*jsonschema.ValidationError)
	if !ok {
		return err
	}
	var faults hw.Faults
	seen := map[hw.Fault]bool{}
	collect(failed, tree, &faults, seen)
	sort.SliceStable(faults, func(i, j int) bool { return faults[i].Pointer < faults[j].Pointer })
	return faults.Err()
}

// collect words the leaves of a schema error.
func collect(e *jsonschema.ValidationError, tree any, faults *hw.Faults, seen map[hw.Fault]bool) {
	if len(e.Causes) > 0 {
		for _, cause := range e.Causes {
			collect(cause, tree, faults, seen)
		}
		return
	}
	at := ""
	for _, token := range e.InstanceLocation {
		at += "/" + hw.EscapePointer(token)
	}
	var own hw.Faults
	word(e, at, tree, &own)
	for _, f := range own {
		if !seen[f] {
			seen[f] = true
			*faults = append(*faults, f)
		}
	}
}

func word(e *jsonschema.ValidationError, at string, tree any, faults *hw.Faults) {
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
		faults.Add(at, hw.FaultType, show(valueAt(tree, e.InstanceLocation)), article(k.Want))
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

func valueAt(tree any, path []string) any {
	for _, token := range path {
		switch node := tree.(type) {
		case map[string]any:
			tree = node[token]
		case []any:
			i := 0
			if _, err := fmt.Sscanf(token, "%d", &i); err != nil || i >= len(node) {
				return nil
			}
			tree = node[i]
		}
	}
	return tree
}
