package base

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"yembo/core/hw"
	"yembo/core/plan"
)

// Label is a job's number as it stands on its label: "YB-0012".
func Label(job int64) string { return fmt.Sprintf("YB-%04d", job) }

var labelText = regexp.MustCompile(`^YB-0*([1-9][0-9]{0,9})$`)

// JobOfLabel reads a job's label, as typed or scanned.
func JobOfLabel(text string) (int64, bool) { return NumberOn(labelText, text) }

// NumberOn is the number on a label, as typed or scanned.
func NumberOn(label *regexp.Regexp, text string) (int64, bool) {
	m := label.FindStringSubmatch(strings.ToUpper(strings.TrimSpace(text)))
	if m == nil {
		return 0, false
	}
	n, err := strconv.ParseInt(m[1], 10, 64)
	return n, err == nil
}

// Choice is an option that was chosen, with what it rests on.
type Choice struct {
	Option   plan.Option `json:"option"`
	Practice hw.Practice `json:"practice"`
	Currency string      `json:"currency"`
	// Words say what the option does, as the parts were called then.
	Words string `json:"words,omitempty"`
}
