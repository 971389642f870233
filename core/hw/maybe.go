package hw

import (
	"bytes"
	"encoding/json"
)

// Maybe holds a fact that may not be known yet. The zero value is "not yet
// known", which is never the same as zero, "no" or an empty list: the value can
// only be reached through Get or Or, so a caller has to say what happens when
// nobody knows.
type Maybe[T any] struct {
	value T
	known bool
}

// Known returns a fact with the value v.
func Known[T any](v T) Maybe[T] { return Maybe[T]{value: v, known: true} }

// Get returns the value and whether it is known.
func (m Maybe[T]) Get() (T, bool) { return m.value, m.known }

// Or returns the value, or fallback when it is not known.
func (m Maybe[T]) Or(fallback T) T {
	if m.known {
		return m.value
	}
	return fallback
}

// IsKnown reports whether the fact is known.
func (m Maybe[T]) IsKnown() bool { return m.known }

// IsZero lets encoding/json leave out a fact that is not known (omitzero).
func (m Maybe[T]) IsZero() bool { return !m.known }

// MarshalJSON writes the bare value, null when it is not known.
func (m Maybe[T]) MarshalJSON() ([]byte, error) {
	if !m.known {
		return []byte("null"), nil
	}
	return json.Marshal(m.value)
}

// UnmarshalJSON reads the bare value; null means not known.
func (m *Maybe[T]) UnmarshalJSON(data []byte) error {
	*m = Maybe[T]{}
	if bytes.Equal(data, []byte("null")) {
		return nil
	}
	if err := json.Unmarshal(data, &m.value); err != nil {
		return err
	}
	m.known = true
	return nil
}

// MaybeEqual reports whether both facts are known and the same. A fact that is
// not known equals nothing, not even another one.
func MaybeEqual[T comparable](a, b Maybe[T]) bool {
	return a.known && b.known && a.value == b.value
}
