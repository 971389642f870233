package shop

import (
	"testing"

	"yembo/core/shorthand"
)

// BenchmarkLook is one key of a line: what it means, with the whole record made anew
// and checked (figure: 30 ms).
func BenchmarkLook(b *testing.B) {
	s := workshop(b)
	r, err := s.Model(b.Context(), "marrowby-osier-14")
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		look, err := s.LookAtLines(okell, r.Chassis, "m2b 2280* 2242 g3x2 nvme sata pad", shorthand.Source{Name: "bench"})
		if err != nil || !look.Clear() {
			b.Fatal(look.Faults, look.Wrong, err)
		}
	}
}
