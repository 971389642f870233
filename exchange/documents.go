// Package exchange turns Yembo's open documents into core values and back. Every
// document that comes in is checked against its published schema (shape) and by
// the core (references and ranges); a document with a fault changes nothing.
package exchange

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/reading"
	"yembo/core/week"
)

// Read checks the shape of a document against the schema of that name ("photos") and
// decodes it. The error is hw.Faults, each with its JSON Pointer.
func Read(name string, data []byte, into any) error {
	if quick(name, data, into) {
		return nil
	}
	return readWhole(name, data, into)
}

// readWhole reads a document by way of its tree, which names every fault at its place.
func readWhole(name string, data []byte, into any) error {
	tree, err := readTree(data)
	if err != nil {
		return err
	}
	if err := checkShape(name, tree); err != nil {
		return err
	}
	if name != "observed" { // what a machine says of itself is taken as it says it
		var faults hw.Faults
		checkTexts("", tree, &faults)
		if err := faults.Err(); err != nil {
			return err
		}
	}
	// The tree went through exact decimals; decode what it holds, not the bytes.
	clean, err := json.Marshal(tree)
	if err != nil {
		return err
	}
	if err := json.Unmarshal(clean, into); err != nil {
		return hw.Faults{{Text: err.Error()}}
	}
	return nil
}

// noText is a sign that is no text: a control sign, line ends and tabs apart.
func noText(r rune) bool { return unicode.IsControl(r) && r != '\n' && r != '\r' && r != '\t' }

// checkTexts names each text of a document that holds signs that are no text: a form would refuse them.
func checkTexts(at string, node any, faults *hw.Faults) {
	switch x := node.(type) {
	case string:
		if i := strings.IndexFunc(x, noText); i >= 0 {
			faults.Add(at, hw.FaultType, fmt.Sprintf("the sign %+q", []rune(x[i:])[0]), "text without control signs")
		}
	case map[string]any:
		for _, name := range slices.Sorted(maps.Keys(x)) {
			checkTexts(at+"/"+hw.EscapePointer(name), x[name], faults)
		}
	case []any:
		for i := range x {
			checkTexts(fmt.Sprintf("%s/%d", at, i), x[i], faults)
		}
	}
}

// ReadChassis reads yembo.chassis/1. The error is hw.Faults, each with its JSON
// Pointer. Findings come back with paths by place id.
func ReadChassis(data []byte) (*hw.Chassis, error) {
	var ch hw.Chassis
	if err := Read("chassis", data, &ch); err != nil {
		return nil, err
	}
	faults := hw.ValidateChassis(&ch)
	for i := range ch.Findings {
		path, ok := evidence.ByID(&ch, ch.Findings[i].Path)
		if !ok && ch.Findings[i].SetAside == nil {
			faults.Add(fmt.Sprintf("/findings/%d/path", i), hw.FaultReference, `"`+path+`"`, "place in this record")
		}
		ch.Findings[i].Path = path
	}
	if len(faults) == 0 {
		faults = evidence.Validate(&ch)
	}
	if err := faults.Err(); err != nil {
		return nil, err
	}
	return &ch, nil
}

// CheckPart checks the shape of a part of a record, and that its fields carry the values in
// force. What the part refers to may be missing from it: hw.ValidateChassis looks at that,
// on the whole record.
func CheckPart(part *hw.Chassis) error {
	doc, err := WriteChassis(part)
	if err != nil {
		return err
	}
	tree, err := readTree(doc)
	if err != nil {
		return err
	}
	if err := checkShape("chassis", tree); err != nil {
		return err
	}
	return evidence.Validate(part).Err()
}

// CheckWhole checks a record the way a document that comes in is checked: its shape
// too. Pointers are those of the document it would be written as.
func CheckWhole(ch *hw.Chassis) error {
	doc, err := WriteChassis(ch)
	if err != nil {
		return err
	}
	_, err = ReadChassis(doc)
	return err
}

// ReadMachine reads yembo.machine/1 and checks it against its chassis, where one
// is given (nil: only its own ranges).
func ReadMachine(data []byte, ch *hw.Chassis) (*hw.Machine, error) {
	var m hw.Machine
	if err := Read("machine", data, &m); err != nil {
		return nil, err
	}
	if err := hw.ValidateMachine(&m, ch).Err(); err != nil {
		return nil, err
	}
	return &m, nil
}

// FormatOf is the format that a document says it has, "" for none.
func FormatOf(data []byte) string {
	var doc struct {
		Format string `json:"format"`
	}
	if json.Unmarshal(bytes.TrimPrefix(data, []byte("\xef\xbb\xbf")), &doc) != nil {
		return ""
	}
	return doc.Format
}

// ReadParts reads yembo.parts/1.
func ReadParts(data []byte) (*hw.Parts, error) {
	var p hw.Parts
	if err := Read("parts", data, &p); err != nil {
		return nil, err
	}
	if err := hw.ValidateParts(&p).Err(); err != nil {
		return nil, err
	}
	return &p, nil
}

// ReadRequest reads yembo.request/1 and checks what it names against its chassis, where one
// is given.
func ReadRequest(data []byte, ch *hw.Chassis) (*hw.Request, error) {
	var r hw.Request
	if err := Read("request", data, &r); err != nil {
		return nil, err
	}
	if err := hw.ValidateRequest(&r, ch).Err(); err != nil {
		return nil, err
	}
	return &r, nil
}

// ReadPlan reads yembo.plan/1.
func ReadPlan(data []byte) (*plan.Plan, error) {
	var p plan.Plan
	if err := Read("plan", data, &p); err != nil {
		return nil, err
	}
	return &p, nil
}

// ReadWeek reads yembo.week/1; what contradicts itself in it is told when it is worked out.
func ReadWeek(data []byte) (*week.Request, error) {
	var r week.Request
	if err := Read("week", data, &r); err != nil {
		return nil, err
	}
	return &r, nil
}

// ReadObserved reads yembo.observed/1.
func ReadObserved(data []byte) (*reading.Observed, error) {
	var o reading.Observed
	if err := Read("observed", data, &o); err != nil {
		return nil, err
	}
	return &o, nil
}

// WriteChassis prints yembo.chassis/1 with the findings' paths by index.
func WriteChassis(ch *hw.Chassis) ([]byte, error) {
	doc := *ch
	doc.Format = hw.FormatChassis
	doc.Findings = append([]hw.Finding(nil), ch.Findings...)
	for i := range doc.Findings {
		doc.Findings[i].Path = evidence.Pointer(ch, doc.Findings[i].Path)
	}
	return Write(&doc)
}

// WriteChecked writes a document after it was checked against its schema: what leaves Yembo is what the
// schema says.
func WriteChecked(name string, value any) ([]byte, error) {
	raw, err := Write(value)
	if err != nil {
		return nil, err
	}
	tree, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	return raw, checkShape(name, tree)
}
