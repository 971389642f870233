package evidence

import (
	"encoding/json"
	"reflect"
	"strconv"
	"strings"
	"sync"

	"yembo/core/hw"
)

// fieldAt is what a record says at a pointer, as it would be written; ok is false where a
// document would have nothing there.
func fieldAt(ch *hw.Chassis, pointer string) (value json.RawMessage, ok bool, err error) {
	at := reflect.ValueOf(ch).Elem()
	for token := range strings.SplitSeq(strings.TrimPrefix(pointer, "/"), "/") {
		token = strings.ReplaceAll(strings.ReplaceAll(token, "~1", "/"), "~0", "~")
		if at, ok = child(at, token); !ok {
			return nil, false, nil
		}
	}
	value, err = json.Marshal(at.Interface())
	return value, true, err
}

// child is one step down: into a field by its name in the documents, a list by number, a
// map by key. What is not told is not there.
func child(at reflect.Value, token string) (reflect.Value, bool) {
	if at.Kind() == reflect.Pointer {
		at = at.Elem()
	}
	var none reflect.Value
	switch at.Kind() {
	case reflect.Struct:
		f, known := fieldsOf(at.Type())[token]
		if !known {
			return none, false
		}
		field := at.Field(f.index)
		return field, f.always || !field.IsZero()
	case reflect.Slice, reflect.Array:
		if i, err := strconv.Atoi(token); err == nil && i >= 0 && i < at.Len() {
			return at.Index(i), true
		}
	case reflect.Map:
		v := at.MapIndex(reflect.ValueOf(token))
		return v, v.IsValid()
	}
	return none, false
}

// named is a field of a struct: its number, and whether it is written even where it is zero.
type named struct {
	index  int
	always bool
}

var fieldNames sync.Map // of a type: its fields by their names in the documents

func fieldsOf(t reflect.Type) map[string]named {
	if known, ok := fieldNames.Load(t); ok {
		return known.(map[string]named)
	}
	fields := map[string]named{}
	for i := range t.NumField() {
		name, how, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
		fields[name] = named{i, how == ""}
	}
	fieldNames.Store(t, fields)
	return fields
}
