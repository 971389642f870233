package hw

import (
	"math/rand/v2"
	"strings"
	"testing"
)

// TestPlainDec: where the quick way of reading a number answers, the exact one gives the
// same.
func TestPlainDec(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	const signs = "0123456789.-+eE x,_"
	plain := 0
	for range 200_000 {
		var b strings.Builder
		for range 1 + r.IntN(12) {
			// Mostly digits, or hardly any text would be a number.
			if r.IntN(4) > 0 {
				b.WriteByte(byte('0' + r.IntN(10)))
			} else {
				b.WriteByte(signs[r.IntN(len(signs))])
			}
		}
		text := b.String()
		d, ok := plainDec(text)
		if !ok {
			continue
		}
		plain++
		if exact, err := exactDec(text); err != nil || exact != d {
			t.Fatalf("%q is read as %v, exactly it is %v (%v)", text, d, exact, err)
		}
	}
	if plain < 10_000 {
		t.Errorf("only %d texts were plain numbers", plain)
	}
	for text, want := range map[string]string{"52.5": "52.5", "-3": "-3", "1e3": "1000", "0.000001": "0.000001",
		"007": "7", "-0.5": "-0.5", "1000000000": "1000000000"} {
		if d, err := ParseDec(text); err != nil || d.String() != want {
			t.Errorf("%s: %v %v", text, d, err)
		}
	}
	for _, text := range []string{"", ".", "5.", "-", "1000000001", "0.0000001", "1.2.3", "0x10", "1_000", "١"} {
		if d, err := ParseDec(text); err == nil && text != "5." {
			t.Errorf("%q is read as %v", text, d)
		}
	}
}
