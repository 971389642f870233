package records

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"sort"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/exchange"
	"yembo/shop/base"
	"yembo/store"
)

// Export writes a model record as yembo.chassis.
func (s *Records) Export(ctx context.Context, id string) ([]byte, error) {
	r, err := s.Model(ctx, id)
	if err != nil {
		return nil, err
	}
	return exchange.WriteChassis(r.Chassis)
}

// Import is what taking in a yembo.chassis document would do.
type Import struct {
	Chassis *hw.Chassis
	New     bool // there is no record of that id yet
	Version int  // of the record that it would change
	Changes []FactChange
}

// FactChange is one fact that would become another.
type FactChange struct {
	Path   string
	Before json.RawMessage // nil: not known now
	After  json.RawMessage // nil: not known afterwards
}

// LookAtImport reads a document and compares it with the record there is. The error
// is hw.Faults for a document that cannot be taken; nothing is stored in any case.
func (s *Records) LookAtImport(ctx context.Context, doc []byte) (Import, error) {
	ch, err := exchange.ReadChassis(doc)
	if err != nil {
		return Import{}, err
	}
	return s.lookAt(ctx, ch)
}

func (s *Records) lookAt(ctx context.Context, ch *hw.Chassis) (Import, error) {
	out := Import{Chassis: ch, New: true}
	now := &hw.Chassis{}
	switch r, err := s.Model(ctx, ch.ID); {
	case err == nil:
		out.New, out.Version, now = false, r.Version, r.Chassis
	case !errors.Is(err, base.ErrNotFound):
		return out, err
	}
	var err error
	out.Changes, err = differences(now, ch)
	return out, err
}

// differences lists the facts in which two records differ, by path.
func differences(a, b *hw.Chassis) ([]FactChange, error) {
	before, err := evidence.Leaves(a, "")
	if err != nil {
		return nil, err
	}
	after, err := evidence.Leaves(b, "")
	if err != nil {
		return nil, err
	}
	var out []FactChange
	for path, value := range after {
		if old := before[path]; path != "/format" && (old == nil || !evidence.SameValue(old, value)) {
			out = append(out, FactChange{path, before[path], value})
		}
	}
	for path, value := range before {
		if _, still := after[path]; !still && path != "/format" {
			out = append(out, FactChange{path, value, nil})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Path < out[j].Path })
	return out, nil
}

// TakeImport stores a yembo.chassis document: a new record, or in place of the one
// of its id. version is the one that was looked at, 0 for a new record; where it is
// another by now the error is ErrChanged. It returns the model's id.
func (s *Records) TakeImport(ctx context.Context, a base.Actor, token string, doc []byte, version int) (string, error) {
	ch, err := exchange.ReadChassis(doc)
	if err != nil {
		return "", err
	}
	return s.Once(ctx, token, func(tx store.Tx) (string, error) {
		return ch.ID, s.takeChassis(tx, a, ch, version)
	})
}

func (s *Records) takeChassis(tx store.Tx, a base.Actor, ch *hw.Chassis, version int) error {
	if version == 0 {
		if _, err := tx.Model(ch.ID); err == nil {
			return base.ErrChanged
		}
		return s.AddModelIn(tx, a, ch, "/id", base.Event{What: "recorded"})
	}
	err := s.ChangeModelIn(tx, a, ch.ID, version, func(*hw.Chassis) (*hw.Chassis, base.Event, error) {
		return ch, base.Event{},
			nil
	})
	if errors.Is(err, store.ErrNotFound) {
		return base.ErrChanged
	}
	return err
}

// fitsItsMachines refuses a record that lacks a place in which a machine of the model has
// something fitted, also one that was recorded before and would be not known any more.
func (s *Records) fitsItsMachines(tx store.Tx, before, next *hw.Chassis) error {
	machines, err := tx.MachinesOfModel(next.ID)
	if err != nil {
		return err
	}
	var faults hw.Faults
	for i := range machines {
		var m hw.Machine
		if err := json.Unmarshal(machines[i].Doc, &m); err != nil {
			return fmt.Errorf("machine %s: %w", machines[i].ID, err)
		}
		for _, f := range hw.ValidateMachine(&m, next) {
			faults = append(faults, hw.Fault{Text: "machine " + m.ID + ", " + f.Pointer + ": " + f.Text})
		}
		for _, id := range m.Fitted.Places() {
			_, was := before.PlaceNamed(id)
			if _, is := next.PlaceNamed(id); was && !is && len(faults) == 0 {
				faults = append(faults, hw.Fault{Text: "machine " + m.ID + " has something in " + id +
					": take it out of the machine first"})
			}
		}
	}
	return faults.Err()
}
