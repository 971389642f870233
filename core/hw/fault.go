package hw

import (
	"fmt"
	"strings"
)

// FaultKind says what is wrong with a value in a document.
type FaultKind int

// The kinds of fault. Schema checks and Go checks share them, so that a reader
// hears one voice whoever found the fault.
const (
	FaultOther     FaultKind = iota // said in words alone
	FaultSyntax                     // not readable at all
	FaultMissing                    // a required field is absent
	FaultExtra                      // a field that the format does not have
	FaultType                       // a text where a number should be, and so on
	FaultChoice                     // not one of the allowed words
	FaultRange                      // a number outside what is possible
	FaultDuplicate                  // an id or place used twice
	FaultReference                  // names something that is not there
	FaultConflict                   // contradicts another value
)

// Word is the sentence for a fault: got is what stands there, want is what would
// be right. It is the only place that words faults.
func Word(kind FaultKind, got, want string) string {
	switch kind {
	case FaultMissing:
		return want + " is missing"
	case FaultExtra:
		if want == "" {
			return got + " is not a field here"
		}
		return fmt.Sprintf("%s is not a field here; did you mean %s?", got, want)
	case FaultType:
		return fmt.Sprintf("%s is not valid here; expected %s", got, want)
	case FaultChoice:
		return fmt.Sprintf("%s is not an option; use %s", got, want)
	case FaultRange:
		return fmt.Sprintf("%s is out of range; %s", got, want)
	case FaultDuplicate:
		return fmt.Sprintf("%s is already used; %s", got, want)
	case FaultReference:
		return fmt.Sprintf("%s: no such %s", got, want)
	case FaultConflict:
		return fmt.Sprintf("%s, but %s", got, want)
	case FaultOther, FaultSyntax: // they change nothing here
	}
	return strings.TrimSpace(got + " " + want)
}

// Fault is something wrong with a document, at its place.
type Fault struct {
	Pointer string // JSON Pointer, "" for the whole document
	Text    string
	Kind    FaultKind // FaultOther where the text alone says what is wrong
}

// Error makes a Fault usable as an error.
func (f Fault) Error() string {
	if f.Pointer == "" {
		return f.Text
	}
	return f.Pointer + ": " + f.Text
}

// Faults is every fault of a document.
type Faults []Fault

// Error prints one fault a line.
func (fs Faults) Error() string {
	lines := make([]string, len(fs))
	for i, f := range fs {
		lines[i] = f.Error()
	}
	return strings.Join(lines, "\n")
}

// MaxFaults is how many faults of one document are collected: who mends those sees the others then.
const MaxFaults = 50

// Add notes one fault; past MaxFaults only that there are more.
func (fs *Faults) Add(pointer string, kind FaultKind, got, want string) {
	switch n := len(*fs); {
	case n < MaxFaults:
		*fs = append(*fs, Fault{pointer, Word(kind, got, want), kind})
	case n == MaxFaults:
		*fs = append(*fs, Fault{Text: "there are more errors; fix these first"})
	}
}

// Err is nil when there are none.
func (fs Faults) Err() error {
	if len(fs) == 0 {
		return nil
	}
	return fs
}

// Nearest returns the word closest to got, or "" when none is near (more than a
// third of its letters differ).
func Nearest(got string, words []string) string {
	best, bestAt := "", len(got)/3+1
	for _, w := range words {
		if d := editDistance(got, w); d <= bestAt && (best == "" || d < bestAt) {
			best, bestAt = w, d
		}
	}
	return best
}

func editDistance(a, b string) int {
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := 1; i <= len(a); i++ {
		before := row[0]
		row[0] = i
		for j := 1; j <= len(b); j++ {
			here := before
			if a[i-1] != b[j-1] {
				here = 1 + min(before, row[j], row[j-1])
			}
			before, row[j] = row[j], here
		}
	}
	return row[len(b)]
}
