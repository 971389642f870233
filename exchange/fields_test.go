package exchange

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/proof"
	"yembo/core/quote"
	"yembo/core/reading"
	"yembo/core/teardown"
	"yembo/core/week"
	"yembo/docs/formats"
)

// documentTypes are the types that each schema describes.
var documentTypes = map[string]reflect.Type{
	"chassis": reflect.TypeFor[hw.Chassis](), "machine": reflect.TypeFor[hw.Machine](), "parts": reflect.TypeFor[hw.Parts](),
	"request": reflect.TypeFor[hw.Request](), "plan": reflect.TypeFor[plan.Plan](), "runsheet": reflect.TypeFor[teardown.Sheet](),
	"observed": reflect.TypeFor[reading.Observed](), "differences": reflect.TypeFor[proof.Differences](),
	"report": reflect.TypeFor[proof.Report](), "quote": reflect.TypeFor[quote.Quote](),
	"week": reflect.TypeFor[week.Request](), "schedule": reflect.TypeFor[week.Schedule](),
	"invoice": reflect.TypeFor[quote.Invoice](),
}

// ofOne are fields of a type that belong to one piece: a part is bought many times, and its pieces have the serials.
var ofOne = map[string]bool{"parts/parts/memory/serial": true, "parts/parts/drive/serial": true}

// TestFieldsAndSchemas holds each type against its schema, both ways, field by field: a field that one has and the other
// has not is named by its path.
func TestFieldsAndSchemas(t *testing.T) {
	for name, typ := range documentTypes {
		raw, err := formats.Schemas.ReadFile(name + ".schema.json")
		if err != nil {
			t.Fatal(err)
		}
		var schema map[string]any
		if err := json.Unmarshal(raw, &schema); err != nil {
			t.Fatal(err)
		}
		w := walker{t: t, root: schema, name: name, seen: map[string]bool{}}
		w.compare(typ, schema, "")
		if w.fields < 5 {
			t.Errorf("%s: only %d fields were looked at", name, w.fields)
		}
	}
}

type walker struct {
	t      *testing.T
	root   map[string]any
	name   string
	seen   map[string]bool
	fields int
}

// resolved follows references, and takes the one of several shapes that has fields.
func (w *walker) resolved(schema map[string]any) map[string]any {
	for {
		ref, is := schema["$ref"].(string)
		if !is {
			break
		}
		schema, _ = w.root["$defs"].(map[string]any)[strings.TrimPrefix(ref, "#/$defs/")].(map[string]any)
	}
	for _, word := range []string{"oneOf", "anyOf", "allOf"} {
		list, _ := schema[word].([]any)
		for _, x := range list {
			if one := w.resolved(x.(map[string]any)); one["properties"] != nil || one["items"] != nil {
				return one
			}
		}
	}
	return schema
}

// bare takes pointers, known-or-not and lists off a type.
func bare(typ reflect.Type) reflect.Type {
	for {
		switch {
		case typ.Kind() == reflect.Pointer, typ.Kind() == reflect.Slice, typ.Kind() == reflect.Array, typ.Kind() == reflect.Map:
			typ = typ.Elem()
		case typ.Kind() == reflect.Struct && strings.HasPrefix(typ.Name(), "Maybe["):
			m, _ := typ.MethodByName("Get")
			typ = m.Type.Out(0)
		default:
			return typ
		}
	}
}

func (w *walker) compare(typ reflect.Type, schema map[string]any, at string) {
	typ = bare(typ)
	schema = w.resolved(schema)
	for schema["items"] != nil {
		schema = w.resolved(schema["items"].(map[string]any))
	}
	for _, word := range []string{"additionalProperties", "patternProperties"} {
		if more, is := schema[word].(map[string]any); is && schema["properties"] == nil {
			if word == "patternProperties" {
				for _, x := range more {
					more, _ = x.(map[string]any)
				}
			}
			schema = w.resolved(more)
		}
	}
	props, _ := schema["properties"].(map[string]any)
	if typ.Kind() != reflect.Struct || props == nil {
		return
	}
	has := map[string]reflect.Type{}
	fieldsOf(typ, has)
	if len(has) == 0 {
		return // it writes itself
	}
	key := typ.String() + at
	if w.seen[key] {
		return
	}
	w.seen[key] = true
	for field := range props {
		if _, ok := has[field]; !ok {
			w.t.Errorf("%s%s/%s is in the schema, and %s has no such field", w.name, at, field, typ)
		}
	}
	for field, of := range has {
		w.fields++
		next, ok := props[field].(map[string]any)
		if ofOne[w.name+at+"/"+field] {
			continue
		}
		if !ok {
			w.t.Errorf("%s%s/%s is a field of %s, and not in the schema", w.name, at, field, typ)
			continue
		}
		w.compare(of, next, at+"/"+field)
	}
}

// fieldsOf are the names that a type's fields have in documentTypes, those of what is embedded among them.
func fieldsOf(typ reflect.Type, into map[string]reflect.Type) {
	for i := range typ.NumField() {
		f := typ.Field(i)
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		switch {
		case f.Anonymous && name == "":
			fieldsOf(bare(f.Type), into)
		case name != "" && name != "-":
			into[name] = f.Type
		}
	}
}
