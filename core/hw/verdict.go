package hw

import "fmt"

// Verdict is the answer of every check: may this part go into this place, and if
// not, why. Fits has an empty code. The text is one plain sentence with the
// numbers in it; templates and documents print it and never build their own.
type Verdict struct {
	Code  string // a code of the handbook's tables, "unknown", or "" for fits
	Place string // the place tried
	Part  string // the part tried, when there is one
	Text  string // one sentence with the numbers compared
	Fact  string // for "unknown": chassis:/… or parts:/…, the fact that is missing
	Step  string // for "unknown" on the chassis: the step that exposes the fact
	// Defaulted are facts that nobody recorded and that a rule filled in.
	Defaulted []string
}

// CodeUnknown is the verdict of a check that needs a fact nobody knows.
const CodeUnknown = "unknown"

// Fits reports whether nothing rules the part out and nothing is unknown.
func (v Verdict) Fits() bool { return v.Code == "" }

// Refuse makes a verdict that rules a part out.
func Refuse(code, format string, args ...any) Verdict {
	return Verdict{Code: code, Text: fmt.Sprintf(format, args...)}
}

// Unknown makes a verdict for a missing fact. fact is a prefixed pointer.
func Unknown(fact, format string, args ...any) Verdict {
	return Verdict{Code: CodeUnknown, Fact: fact, Text: fmt.Sprintf(format, args...)}
}
