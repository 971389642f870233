package teardown

import "math/bits"

// set is a set of moves.
type set [MaxSteps / 64]uint64

func (s *set) has(i int) bool { return s[i>>6]&(1<<(i&63)) != 0 }

func (s *set) add(i int) { s[i>>6] |= 1 << (i & 63) }

// within reports whether every move of s is in t.
func (s *set) within(t *set) bool {
	for k := range s {
		if s[k]&^t[k] != 0 {
			return false
		}
	}
	return true
}

func (s *set) count() int {
	n := 0
	for _, word := range s {
		n += bits.OnesCount64(word)
	}
	return n
}
