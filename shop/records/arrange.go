package records

import (
	"context"
	"path"
	"sort"
	"strings"

	"yembo/core/hw"
	"yembo/shop/base"
)

// Arrange records where things lie in a model: places by list and id, such as
// slots/m2a or memory/sockets/dimm1: an *hw.At, for fasteners a list of them. A nil place is not known any more. The error is
// hw.Faults with pointers into the record where a place cannot be, ErrNotFound where
// there is no such thing, ErrChanged where the record was changed meanwhile.
func (s *Records) Arrange(ctx context.Context, a base.Actor, token, model string, version int, places map[string]any) error {
	moved := make([]string, 0, len(places))
	for key := range places {
		moved = append(moved, path.Base(key))
	}
	sort.Strings(moved)
	return s.changeModel(ctx, a, token, model, version, func(before *hw.Chassis) (*hw.Chassis, base.Event, error) {
		next, err := Arranged(before, places)
		return next, base.Event{What: "arranged: " + strings.Join(moved, ", ")}, err
	})
}

// Arranged returns a record with things lying elsewhere, without storing it, so that
// pages can tell what that would mean.
func Arranged(ch *hw.Chassis, places map[string]any) (*hw.Chassis, error) {
	next := ch
	for key, at := range places {
		var err error
		next, err = withItem(next, ItemEntry{List: path.Dir(key), Before: path.Base(key),
			Fields: map[string]any{"at": at}})
		if err != nil {
			return nil, err
		}
	}
	return next, nil
}

// OrderSteps puts the steps of a model into another order; it decides between orders of
// work that are as good. The error is hw.Faults where the ids are not those of all its
// steps, once each, ErrChanged where the record was changed meanwhile.
func (s *Records) OrderSteps(ctx context.Context, a base.Actor, token, model string, version int, ids []string) error {
	return s.changeModel(ctx, a, token, model, version, func(before *hw.Chassis) (*hw.Chassis, base.Event, error) {
		next := *before
		next.Steps = nil
		seen := map[string]bool{}
		for _, id := range ids {
			if i := before.StepByID(id); i >= 0 && !seen[id] {
				seen[id] = true
				next.Steps = append(next.Steps, before.Steps[i])
			}
		}
		if len(next.Steps) != len(before.Steps) || len(ids) != len(next.Steps) {
			return nil, base.Event{}, hw.Faults{{Pointer: "/steps", Text: "the order does not name each step once"}}
		}
		return &next, base.Event{What: "steps put in another order"}, nil
	})
}
