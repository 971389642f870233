package shop

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"strings"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/store"
)

// event is what the history keeps of a change: in words for people, and where the
// application looks for it again by its kind and its data, never by its wording.
type event struct {
	what, kind, data string
	job              int64  // that it belongs to, 0 for none
	before           []byte // what was before, where whoever tells it keeps that
}

// The kinds of events that are looked for.
const (
	eventLine      = "line"      // lines were typed; the data is the line, where it was one
	eventTalk      = "talk"      // with a customer, and what was agreed
	eventSigned    = "signed"    // by a customer
	eventMoved     = "moved"     // a job, with words of people; the data is its course
	eventCorrected = "corrected" // what was entered; the data is whose it was before, where that changed
	eventRemoved   = "removed"   // a record, or brought back
	eventWork      = "work"      // told in Yembo's own words alone: nothing in it is a person's
)

// edit makes a record's next state out of the one before, which it leaves as it is, and
// says what the history tells of it; with no words the history names the facts that changed.
type edit func(before *hw.Chassis) (next *hw.Chassis, told event, err error)

// latest is the version of a change that rests on no earlier look: it holds for the record
// as it is.
const latest = -1

// changeModel is the one way in which a record changes, once for a token: it is read, its
// version is the one that was looked at, what becomes of it is checked whole, each machine's
// fitted parts still have their places, it is stored and the history told. The error is
// hw.Faults where something cannot be, ErrChanged where the record was changed meanwhile.
func (s *Shop) changeModel(ctx context.Context, a Actor, token, id string, version int, change edit) error {
	_, err := s.once(ctx, token, func(tx store.Tx) (string, error) {
		return id, s.changeModelIn(tx, a, id, version, change)
	})
	return err
}

// changeModelIn is changeModel within a transaction.
func (s *Shop) changeModelIn(tx store.Tx, a Actor, id string, version int, change edit) error {
	row, err := tx.Model(id)
	if err != nil {
		return err
	}
	if version != latest && row.Version != version {
		return ErrChanged
	}
	record, err := modelRecord(&row)
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
	if told.what == "" {
		told.what = "changed: " + strings.Join(changedFacts(record.Chassis, next), ", ")
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
	return s.noteEvent(tx, a, kindModel, next.ID, told, old)
}

// addModel is the one way in which a new record comes in: checked whole, under an id that
// no other model has; at is the pointer of a fault of the id.
func (s *Shop) addModel(tx store.Tx, a Actor, next *hw.Chassis, at string, told event) error {
	taken, err := tx.Taken(kindModel, "id", next.ID)
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
	return s.noteEvent(tx, a, kindModel, next.ID, told, nil)
}

// fillModel puts a record into its row, with what lists show of it.
func (s *Shop) fillModel(row *store.Model, ch *hw.Chassis) (err error) {
	if row.Doc, err = json.Marshal(ch); err != nil {
		return err
	}
	row.ID, row.Maker, row.Model, row.Code, row.Kind = ch.ID, ch.Maker, ch.Model, ch.Code, string(ch.Kind)
	row.UpdatedAt = s.Now()
	row.Brief, err = json.Marshal(BriefOf(ch))
	return err
}
