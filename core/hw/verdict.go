package hw

import "fmt"

// Verdict is the answer of every check: may a part go into a place, and if not,
// why. Fits has an empty code. The text is one plain sentence with the
// numbers in it; templates and documents print it and never build their own.
type Verdict struct {
	Code  Code   // a code of the table of codes, "unknown", or "" for fits
	Place string // the place tried
	Text  string // one sentence with the numbers compared
	Fact  string // for "unknown": chassis:/… or parts:/…, the fact that is missing
	Step  string // for "unknown" on the chassis: the step that exposes the fact
	// Defaulted are facts that nobody recorded and that a rule filled in.
	Defaulted []string

	warns bool // the table of codes only warns of it
}

// Fits reports whether nothing rules the part out and nothing is unknown. What a check only
// warns of, by the table of codes, fits.
func (v Verdict) Fits() bool { return v.Code == "" || v.warns }

// Severity says whether the verdict refuses, warns, or is not known.
func (v Verdict) Severity() Severity { return v.Code.Row().Severity }

// Refuse makes a verdict that rules a part out, or where the table of codes has it so, warns.
func Refuse(code Code, format string, args ...any) Verdict {
	return Verdict{Code: code, Text: fmt.Sprintf(format, args...), warns: code.Row().Severity == Warns}
}

// Unknown makes a verdict for a missing fact. fact is a prefixed pointer.
func Unknown(fact, format string, args ...any) Verdict {
	return Verdict{Code: CodeUnknown, Fact: fact, Text: fmt.Sprintf(format, args...)}
}

// Where names a place of the chassis and a part of the parts list by their indexes,
// so that the pointer of a fact is only put together when it is needed.
type Where struct {
	List      string // of the chassis: "slots", "bays", "batteries"
	Index     int
	PartIndex int
	Body      string // of the part: "drive", "wireless", "battery"
}

// Field is the pointer of one of the place's fields.
func (w Where) Field(name string) string { return fmt.Sprintf("/%s/%d/%s", w.List, w.Index, name) }

// Chassis is Field with the prefix of a verdict's fact.
func (w Where) Chassis(name string) string { return "chassis:" + w.Field(name) }

// Part is the pointer of one of the part's fields, with its prefix.
func (w Where) Part(name string) string {
	return fmt.Sprintf("parts:/parts/%d/%s/%s", w.PartIndex, w.Body, name)
}
