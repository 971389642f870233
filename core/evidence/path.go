package evidence

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// listIn returns the list that a pointer goes through, and the rest behind it:
// "/slots/0/lanes" is the list "/slots", token "0", rest "/lanes".
func listIn(path string) (list, token, rest string, ok bool) {
	for _, l := range []string{"/memory/soldered", "/memory/sockets", "/slots", "/bays", "/batteries",
		"/fasteners", "/steps", "/services", "/shapes", "/suspected"} {
		tail, found := strings.CutPrefix(path, l+"/")
		if !found {
			continue
		}
		token, rest, _ = strings.Cut(tail, "/")
		if rest != "" {
			rest = "/" + rest
		}
		return l, token, rest, true
	}
	return "", "", "", false
}

// ByID turns a document's pointer into one by place id. ok is false when the
// index is not in the list.
func ByID(ch *hw.Chassis, pointer string) (string, bool) {
	list, token, rest, within := listIn(pointer)
	if !within {
		return pointer, true
	}
	all := ch.IDs(list[1:])
	i, err := strconv.Atoi(token)
	if err != nil || i < 0 || i >= len(all) {
		return pointer, false
	}
	return list + "/" + all[i] + rest, true
}

// ByIndex turns a path by place id into a document's pointer. ok is false when no
// such place is in the record (any more).
func ByIndex(ch *hw.Chassis, path string) (string, bool) {
	list, token, rest, within := listIn(path)
	if !within {
		return path, true
	}
	for i, id := range ch.IDs(list[1:]) {
		if id == token {
			return list + "/" + strconv.Itoa(i) + rest, true
		}
	}
	return path, false
}

// Pointer is ByIndex for a path that is known to be in the record.
func Pointer(ch *hw.Chassis, path string) string {
	pointer, _ := ByIndex(ch, path)
	return pointer
}

// Validate checks that every fact's field carries the value in force (formats:
// "a field carries the value in force"). Findings that are all set aside may
// speak of what is no longer in the record.
func Validate(ch *hw.Chassis) hw.Faults {
	var faults hw.Faults
	if len(ch.Findings) == 0 {
		return faults
	}
	number := map[*hw.Finding]int{}
	for i := range ch.Findings {
		number[&ch.Findings[i]] = i
	}
	for _, fact := range Facts(ch.Findings) {
		if fact.InForce == nil {
			continue
		}
		at := fmt.Sprintf("/findings/%d", number[fact.InForce])
		pointer, ok := ByIndex(ch, fact.Path)
		if !ok {
			faults.Add(at+"/path", hw.FaultReference, `"`+fact.Path+`"`, "place in this record")
			continue
		}
		field, found, err := fieldAt(ch, pointer)
		if err != nil {
			faults.Add(at+"/path", hw.FaultSyntax, err.Error(), "")
			continue
		}
		if found && bytes.Equal(field, fact.InForce.Value) {
			continue
		}
		stated, err := decode(fact.InForce.Value)
		switch {
		case err != nil:
			faults.Add(at+"/value", hw.FaultSyntax, err.Error(), "")
		case !found && stated != nil:
			faults.Add(at+"/path", hw.FaultConflict, pointer+" is not in the record",
				"its strongest finding says "+string(fact.InForce.Value))
		case found && !alike(field, stated):
			faults.Add(at+"/value", hw.FaultConflict, pointer+" is "+string(field)+" in the record",
				"its strongest finding says "+string(fact.InForce.Value))
		}
	}
	return faults
}

// alike reports whether what is written is the value stated.
func alike(written json.RawMessage, stated any) bool {
	v, err := decode(written)
	return err == nil && same(v, stated)
}
