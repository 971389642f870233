// Package slug makes ids of names that people type.
package slug

import (
	"strings"

	gosimple "github.com/gosimple/slug"
)

// length is about how long an id made of a name becomes.
const length = 24

// Make makes an id of a name in any script: lower-case letters and digits with dashes
// between, cut at a word where it gets long. Of a name without a letter it makes otherwise.
func Make(name, otherwise string) string {
	text := strings.Trim(strings.ReplaceAll(gosimple.Make(name), "_", "-"), "-")
	words := strings.FieldsFunc(text, func(r rune) bool { return r == '-' })
	if len(words) == 0 {
		return otherwise
	}
	out := words[0][:min(len(words[0]), length)]
	for _, w := range words[1:] {
		if len(out) >= length {
			break
		}
		out += "-" + w[:min(len(w), length)]
	}
	return out
}

// Of is Make with nothing for a name without a letter.
func Of(name string) string { return Make(name, "") }
