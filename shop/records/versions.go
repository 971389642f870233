package records

import (
	"context"
	"encoding/json"
	"fmt"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/store"
)

// Restore brings back the state that a model record had before one of its changes.
// Nothing is lost: the state it replaces stays in the history. The error is hw.Faults
// where the old state does not fit what is in the shop now, ErrChanged where the
// record was changed since it was read.
func (s *Records) Restore(ctx context.Context, a base.Actor, token, id string, version int, change int64) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		entry, err := tx.HistoryEntry(change)
		if err != nil {
			return "", err
		}
		if entry.Kind != base.KindModel || entry.Record != id || entry.Before == nil {
			return "", base.ErrNotFound
		}
		var then hw.Chassis
		if err := json.Unmarshal(entry.Before, &then); err != nil {
			return "", fmt.Errorf("the earlier state of %s: %w", id, err)
		}
		what := "restored as it was before " + entry.At.Format("2 Jan 06, 15:04") + " (" + entry.What + ")"
		return id, s.ChangeModelIn(tx, a, id, version,
			func(*hw.Chassis) (*hw.Chassis, base.Event, error) { return &then, base.Event{What: what}, nil })
	})
	return err
}

// Since returns a model record as it was in an earlier version, with the changes made
// since, newest first. A version that never was is ErrNotFound.
func (s *Records) Since(ctx context.Context, id string, version int) (*hw.Chassis, []base.Change, error) {
	var then *hw.Chassis
	var changes []base.Change
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.Model(id)
		if err != nil {
			return err
		}
		rows, err := tx.HistoryOf(base.KindModel, id)
		if err != nil {
			return err
		}
		doc := row.Doc
		// Each change of the document raised the version by one and kept the state
		// before it; a photo that came or went did neither.
		for at := row.Version; at > version && len(rows) > 0; rows = rows[1:] {
			if rows[0].Before == nil {
				continue
			}
			doc = rows[0].Before
			changes = append(changes, base.Change{ID: rows[0].ID, At: rows[0].At, By: rows[0].By, What: rows[0].What})
			at--
		}
		if version < 1 || row.Version-len(changes) != version {
			return base.ErrNotFound
		}
		then = &hw.Chassis{}
		return json.Unmarshal(doc, then)
	})
	return then, changes, err
}

// Copy makes a new record out of another model's. What was found there is only
// assumed of the new one until somebody looks. It returns the new id.
func (s *Records) Copy(ctx context.Context, a base.Actor, token, from string, general hw.Chassis) (string, error) {
	return s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Model(from)
		if err != nil {
			return "", err
		}
		record, err := ReadModel(&row)
		if err != nil {
			return "", err
		}
		var faults hw.Faults
		if general.Model == "" {
			faults.Add("/model", hw.FaultMissing, "", "the new model's name")
		}
		next := *record.Chassis
		next.ID, next.Maker, next.Model, next.Code, next.Year, next.Covers = general.ID, general.Maker, general.Model,
			general.Code, general.Year, nil
		if next.ID == "" {
			next.ID = slug.Make(general.Maker+" "+general.Model, "model")
		}
		if err := faults.Err(); err != nil {
			return "", err
		}
		next.Findings = nil
		seen := map[string]bool{}
		for _, f := range record.Chassis.Findings {
			if f.SetAside != nil || seen[f.Path] {
				continue
			}
			seen[f.Path] = true
			now := evidence.Of(record.Chassis.Findings, f.Path).InForce
			next.Findings = append(next.Findings,
				hw.Finding{Path: f.Path, Value: now.Value, Source: "assumed", On: s.Today(),
					By: a.Name, Note: "copied from " + record.Chassis.Name()})
		}
		return next.ID, s.AddModelIn(tx, a, &next, "/id", base.Event{What: "copied from " + record.Chassis.Name()})
	})
}
