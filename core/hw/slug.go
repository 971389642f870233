package hw

import (
	"strings"

	"github.com/gosimple/slug"
)

// slugLength is about how long an id made of a name becomes.
const slugLength = 24

// Slug makes an id of a name in any script: lower-case letters and digits with dashes
// between, cut at a word where it gets long. Of a name without a letter it makes otherwise.
func Slug(name, otherwise string) string {
	text := strings.Trim(strings.ReplaceAll(slug.Make(name), "_", "-"), "-")
	words := strings.FieldsFunc(text, func(r rune) bool { return r == '-' })
	if len(words) == 0 {
		return otherwise
	}
	out := words[0][:min(len(words[0]), slugLength)]
	for _, w := range words[1:] {
		if len(out) >= slugLength {
			break
		}
		out += "-" + w[:min(len(w), slugLength)]
	}
	return out
}
