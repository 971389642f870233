package base

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"yembo/core/hw"
)

// Limits of what is told of the shop.
const (
	maxTechnicians  = 40
	maxTechnician   = 80 // characters of a name
	maxAddress      = 400
	maxAddressLines = 6
)

// NamesIn reads names that stand on lines of their own or with commas between; a name that stands
// twice counts once.
func NamesIn(text string) []string {
	var out []string
	for _, name := range strings.FieldsFunc(text, func(r rune) bool { return r == '\n' || r == '\r' || r == ',' || r == ';' }) {
		if name = strings.Join(strings.Fields(name), " "); name != "" && !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	return out
}

func checkTechnicians(faults *hw.Faults, names []string) {
	if len(names) > maxTechnicians {
		faults.Add("/technicians", hw.FaultRange, fmt.Sprint(len(names), " names"), fmt.Sprintf("at most %d", maxTechnicians))
	}
	for _, name := range names {
		if utf8.RuneCountInString(name) > maxTechnician {
			faults.Add("/technicians", hw.FaultRange, "a name", fmt.Sprintf("at most %d characters", maxTechnician))
			return
		}
	}
}
