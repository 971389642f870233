package form

import (
	"encoding/json"
	"net/url"
	"reflect"
	"strings"
	"testing"

	"yembo/core/doc"
	"yembo/docs/formats"
)

// schemaAt follows a path of fields through a schema, into lists and references.
func schemaAt(root map[string]any, path ...string) map[string]any {
	at := root
	into := func(node any) {
		at, _ = node.(map[string]any)
		if ref, ok := at["$ref"].(string); ok {
			defs, _ := root["$defs"].(map[string]any)
			at, _ = defs[strings.TrimPrefix(ref, "#/$defs/")].(map[string]any)
		}
	}
	for _, name := range path {
		if items, ok := at["items"]; ok {
			into(items)
		}
		fields, _ := at["properties"].(map[string]any)
		into(fields[name])
	}
	if items, ok := at["items"]; ok {
		into(items)
	}
	return at
}

// TestEveryWordHasAForm takes each word of each enumeration of a model's record from the
// document into its form and back: a word that is added to the formats alone fails here.
func TestEveryWordHasAForm(t *testing.T) {
	raw, err := formats.Schemas.ReadFile("chassis.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	var root map[string]any
	if err := json.Unmarshal(raw, &root); err != nil {
		t.Fatal(err)
	}
	words := 0
	for _, spec := range Items {
		var path []string
		if spec.List != "" {
			path = strings.Split(spec.List, "/")
		}
		fields, _ := schemaAt(root, path...)["properties"].(map[string]any)
		if len(fields) == 0 {
			t.Errorf("%s is not in the schema", spec.List)
		}
		for name := range fields {
			list := schemaAt(root, append(append([]string{}, path...), name)...)
			enum, _ := list["enum"].([]any)
			if spec.List == "" && name != "quirks" { // the kind has a form of its own
				continue
			}
			node, _ := fields[name].(map[string]any)
			_, many := node["items"]
			for _, word := range enum {
				words++
				var value any = word
				if many {
					value = []any{word}
				}
				if got := throughForm(spec, name, value); !reflect.DeepEqual(got, value) {
					t.Errorf("%s, %s: %v comes back as %v", spec.Name, name, value, got)
				}
			}
		}
	}
	if words < 50 {
		t.Errorf("only %d words were taken through forms", words)
	}
}

// throughForm fills a thing's form with one field and reads it again.
func throughForm(spec ItemSpec, name string, value any) any {
	f := New(url.Values{})
	for i := range spec.Fields {
		if field := &spec.Fields[i]; field.Name == name {
			field.Fill(f, "/"+name, value)
		}
	}
	return doc.Of(ReadItem(f, spec)).Get(name)
}
