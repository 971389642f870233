package records

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/exchange"
	"yembo/shop/base"
)

// AddFinding adds what somebody found about one fact, beside what was found before:
// the strongest counts, and where they disagree the fact is disputed. The error is
// hw.Faults for a value that cannot be or a fact that the record does not have,
// ErrChanged where the record was changed meanwhile.
func (s *Records) AddFinding(ctx context.Context, a base.Actor, token, id string, version int, f hw.Finding) error {
	if f.By = a.Name; f.On == "" {
		f.On = s.Today()
	}
	return s.changeModel(ctx, a, token, id, version, func(before *hw.Chassis) (*hw.Chassis, base.Event, error) {
		if evidence.Of(before.Findings, f.Path).InForce == nil {
			return nil, base.Event{}, hw.Faults{{Pointer: "/path",
				Text: hw.Word(hw.FaultReference, `"`+f.Path+`"`, "fact with a finding in this record")}}
		}
		if err := PossibleFinding(before, f); err != nil {
			return nil, base.Event{}, err
		}
		next, err := evidence.Add(before, f)
		return next, base.Event{}, err
	})
}

// AllSeen confirms facts as they are in force: somebody looked at the bench, and all of them are so. The
// error is hw.Faults for one that is not known any more, ErrChanged where the record was changed since.
func (s *Records) AllSeen(ctx context.Context, a base.Actor, token, id string, version int, paths []string) error {
	return s.changeModel(ctx, a, token, id, version, func(before *hw.Chassis) (*hw.Chassis, base.Event, error) {
		next := before
		for _, path := range paths {
			now := evidence.Of(next.Findings, path).InForce
			if now == nil {
				return nil, base.Event{}, hw.Faults{{Text: hw.FactSays(path) + " is not known any more: look at the record"}}
			}
			var err error
			f := hw.Finding{Path: path, Value: now.Value, Source: hw.Bench, On: s.Today(), By: a.Name, Note: "looked at: it is so"}
			if next, err = evidence.Add(next, f); err != nil {
				return nil, base.Event{}, hw.Faults{{Text: err.Error()}}
			}
		}
		return next, base.Event{What: fmt.Sprintf("looked at and found so: %d facts", len(paths))}, nil
	})
}

// PossibleFinding checks a finding's value by itself, as the record would have it, so that one
// that does not come into force is checked too.
func PossibleFinding(ch *hw.Chassis, f hw.Finding) error {
	probe := *ch
	probe.Findings = nil
	next, err := evidence.Set(&probe, f.Path, f.Value)
	if err == nil {
		err = exchange.CheckWhole(next)
	}
	var faults hw.Faults
	if errors.As(err, &faults) {
		return hw.Faults{{Pointer: "/value", Text: faults[0].Text}}
	}
	if err != nil {
		return hw.Faults{{Pointer: "/value", Text: err.Error()}}
	}
	return nil
}

// SetAside retracts one finding of a model, by its place in the record's list, with
// a reason. It is kept and shown, and counts no more; the field takes the value that
// is in force now. The error is hw.Faults without a reason or where there is no such
// finding that counts, ErrChanged where the record was changed meanwhile.
func (s *Records) SetAside(ctx context.Context, a base.Actor, token, id string, version, finding int, reason string) error {
	reason = strings.TrimSpace(reason)
	return s.changeModel(ctx, a, token, id, version, func(before *hw.Chassis) (*hw.Chassis, base.Event, error) {
		var faults hw.Faults
		if reason == "" {
			faults.Add("/reason", hw.FaultMissing, "", "the reason")
		}
		if finding < 0 || finding >= len(before.Findings) || before.Findings[finding].SetAside != nil {
			faults.Add("/finding", hw.FaultReference, fmt.Sprint(finding), "finding that counts")
		}
		if err := faults.Err(); err != nil {
			return nil, base.Event{}, err
		}
		next, err := evidence.Retract(before, finding, hw.SetAside{On: s.Today(), By: a.Name, Note: reason})
		return next, base.Event{}, err
	})
}
