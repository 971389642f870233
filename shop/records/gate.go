package records

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"strings"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/shop/base"
	"yembo/store"
)

// edit makes a record's next state out of the one before, which it leaves as it is, and
// says what the history tells of it; with no words the history names the facts that changed.
type edit func(before *hw.Chassis) (next *hw.Chassis, told base.Event, err error)

// Latest is the version of a change that rests on no earlier look: it holds for the record
// as it is.
const Latest = -1

// changeModel is the one way in which a record changes, once for a token: it is read, its
// version is the one that was looked at, what becomes of it is checked whole, each machine's
// fitted parts still have their places, it is stored and the history told. The error is
// hw.Faults where something cannot be, ErrChanged where the record was changed meanwhile.
func (s *Records) changeModel(ctx context.Context, a base.Actor, token, id string, version int, change edit) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		return id, s.ChangeModelIn(tx, a, id, version, change)
	})
	return err
}

// ChangeModelIn is changeModel within a transaction.
func (s *Records) ChangeModelIn(tx store.Tx, a base.Actor, id string, version int, change edit) error {
	row, err := tx.Model(id)
	if err != nil {
		return err
	}
	if version != Latest && row.Version != version {
		return base.ErrChanged
	}
	record, err := ReadModel(&row)
	if err != nil {
		return err
	}
	next, told, err := change(record.Chassis)
	if err != nil {
		return err
	}
	if err := exchange.CheckWhole(next); err != nil {
		return err
	}
	if err := s.fitsItsMachines(tx, record.Chassis, next); err != nil {
		return err
	}
	if told.What == "" {
		told.What = "changed: " + strings.Join(changedFacts(record.Chassis, next), ", ")
	}
	old := row.Doc
	if err := s.fillModel(&row, next); err != nil {
		return err
	}
	if bytes.Equal(row.Doc, old) {
		return nil // nothing to store, and nothing to tell in the history
	}
	was := row.Version
	row.Version++
	if err := tx.SaveModel(&row, was); err != nil {
		return err
	}
	return s.NoteEvent(tx, a, base.KindModel, next.ID, told, old)
}

// AddModelIn is the one way in which a new record comes in: checked whole, under an id that
// no other model has; at is the pointer of a fault of the id.
func (s *Records) AddModelIn(tx store.Tx, a base.Actor, next *hw.Chassis, at string, told base.Event) error {
	taken, err := tx.Taken(base.KindModel, "id", next.ID)
	if err != nil {
		return err
	}
	if taken {
		who := "another model has it"
		if _, err := tx.Model(next.ID); errors.Is(err, store.ErrNotFound) {
			who = "a removed model has it, which can be brought back"
		}
		return hw.Faults{{Pointer: at, Text: hw.Word(hw.FaultDuplicate, `"`+next.ID+`"`, who)}}
	}
	if err := exchange.CheckWhole(next); err != nil {
		return err
	}
	row := store.Model{Version: 1, CreatedAt: s.Now()}
	if err := s.fillModel(&row, next); err != nil {
		return err
	}
	if err := tx.CreateModel(&row); err != nil {
		return err
	}
	return s.NoteEvent(tx, a, base.KindModel, next.ID, told, nil)
}

// fillModel puts a record into its row, with what lists show of it.
func (s *Records) fillModel(row *store.Model, ch *hw.Chassis) (err error) {
	if row.Doc, err = json.Marshal(ch); err != nil {
		return err
	}
	row.ID, row.Maker, row.Model, row.Code, row.Kind = ch.ID, ch.Maker, ch.Model, ch.Code, string(ch.Kind)
	row.UpdatedAt = s.Now()
	row.Brief, err = json.Marshal(BriefOf(ch))
	return err
}
