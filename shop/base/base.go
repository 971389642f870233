// Package base is what every room of the workshop stands on: the data, the clock and who acts, one
// transaction a form, the history, the settings.
package base

import (
	"context"
	"errors"
	"sync"
	"time"

	"yembo/store"
)

// Actor is the person who acts, and the shared screen that they do it at, "" for a browser of their own.
type Actor struct{ Name, Screen string }

// Base is the data of a workshop and its clock.
type Base struct {
	Store *store.Store
	Clock func() time.Time
	work  *workbench
	noted *noted
	// Called is the name that the workshop was started with, where its settings tell none.
	Called string
}

// New returns the base on an open store. now is the clock.
func New(s *store.Store, now func() time.Time) *Base {
	return &Base{Store: s, Clock: now, work: &workbench{}, noted: &noted{}}
}

// noted is when something was noted last: a clock that jumped back stands before it.
type noted struct {
	mu   sync.Mutex
	last time.Time
}

// at keeps when something was noted.
func (n *noted) at(t time.Time) {
	n.mu.Lock()
	defer n.mu.Unlock()
	if t.After(n.last) {
		n.last = t
	}
}

// Noted tells that something was noted at a time.
func (s *Base) Noted(at time.Time) { s.noted.at(at) }

// LastNoted is when something was noted last.
func (s *Base) LastNoted() time.Time {
	s.noted.mu.Lock()
	defer s.noted.mu.Unlock()
	return s.noted.last
}

// Now is the shop's time.
func (s *Base) Now() time.Time { return s.Clock() }

// Errors that pages tell apart.
var (
	ErrNotFound = store.ErrNotFound
	ErrChanged  = store.ErrChanged
	ErrBusy     = store.ErrBusy
	ErrFull     = store.ErrFull
	ErrDamaged  = store.ErrDamaged
	ErrReadOnly = store.ErrReadOnly
	ErrMoved    = store.ErrMoved
	// ErrPlanChanged means that an option chosen is no longer among the plan's.
	ErrPlanChanged = errors.New("the plan is no longer the one that was shown")
	// ErrDanger means that the machine has to be made safe before anything else.
	ErrDanger = errors.New("the machine is to be made safe first")
	// ErrSentOther means that a form was sent again with other content than it was stored with.
	ErrSentOther = errors.New("this form was stored already, with other content")
)

type contentKey struct{}

// WithContent tells what the form that is being stored holds, as a sum: sent again with the
// same, a form has its first result, with other content it is refused.
func WithContent(ctx context.Context, sum string) context.Context {
	return context.WithValue(ctx, contentKey{}, sum)
}

// Once runs a use case for a form. A form that was taken before leads where it led
// the first time, and stores nothing.
func (s *Base) Once(ctx context.Context, token string, do func(tx store.Tx) (result string, err error)) (string,
	error) {
	var result string
	content, _ := ctx.Value(contentKey{}).(string)
	err := s.Store.Update(ctx, func(tx store.Tx) error {
		if token != "" {
			before, err := tx.Submitted(token)
			if err != nil {
				return err
			}
			if before.Token != "" {
				if before.Content != "" && content != "" && before.Content != content {
					return ErrSentOther
				}
				result = before.Result
				return nil
			}
		}
		var err error
		if result, err = do(tx); err != nil {
			return err
		}
		if token == "" {
			return nil
		}
		return tx.Create(&store.Submission{Token: token, Content: content, Result: result, At: s.Now()})
	})
	return result, err
}

// The two ways to loosen a heat sink.
const (
	LoosenReversed = "reversed"
	LoosenPrinted  = "printed"
)
