package base

import (
	"crypto/sha256"
	"encoding/hex"
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

// KeyHash is what is kept of a key that opens something to whoever has it.
func KeyHash(key string) string {
	sum := sha256.Sum256([]byte(key))
	return hex.EncodeToString(sum[:])
}
