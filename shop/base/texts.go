package base

import (
	"strings"
)

// UpperFirst is a text with its first letter large.
func UpperFirst(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// OrWord is the first text, or the other where it is empty.
func OrWord(a, b string) string {
	if strings.TrimSpace(a) != "" {
		return a
	}
	return b
}
