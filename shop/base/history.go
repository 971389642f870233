package base

import (
	"time"

	"yembo/store"
)

const KindCustomer = "customer"

// Event is what the history keeps of a change: in words for people, and where the
// application looks for it again by its kind and its data, never by its wording.
type Event struct {
	What, Kind, Data string
	Job              int64  // that it belongs to, 0 for none
	Before           []byte // what was before, where whoever tells it keeps that
}

// The kinds of events that are looked for.
const (
	EventLine      = "line"      // lines were typed; the data is the line, where it was one
	EventTalk      = "talk"      // with a customer, and what was agreed
	EventSigned    = "signed"    // by a customer
	EventMoved     = "moved"     // a job, with words of people; the data is its course
	EventCorrected = "corrected" // what was entered; the data is whose it was before, where that changed
	EventRemoved   = "removed"   // a record, or brought back
	EventWork      = "work"      // told in Yembo's own words alone: nothing in it is a person's
)

const KindPart = "part"

// Kinds of records in the history.
const (
	KindModel   = "model"
	KindMachine = "machine"
	KindJob     = "job"
	kindSetting = "setting"
)

// NoteEvent writes an event to the history of a record; before is the record as it was, nil where nothing is kept of it.
func (s *Base) NoteEvent(tx store.Tx, a Actor, kind, record string, e Event, before []byte) error {
	row := store.History{At: s.Now(), By: a.Name, Kind: kind, Record: record, What: e.What, Event: e.Kind, Data: e.Data,
		Before: before, Screen: a.Screen}
	if e.Job != 0 {
		row.JobID = &e.Job
	}
	s.noted.at(row.At)
	return tx.Create(&row)
}

// Note writes a change to the history of a record, in words.
func (s *Base) Note(tx store.Tx, a Actor, kind, record, what string, before []byte) error {
	return s.NoteEvent(tx, a, kind, record, Event{What: what}, before)
}

// Change is one line of a record's history.
type Change struct {
	ID int64
	At time.Time
	By string
	// Screen is the shared screen at which it was done, "" for a browser of their own.
	Screen string
	What   string
	// Event is the kind of it where it is looked for again, with its data.
	Event, Data string
	JobID       int64 // that it belongs to, 0 for none
	// Restorable says that there was an earlier state, which can be brought back.
	Restorable bool
}

// HistoryIn lists what happened to a record, the newest first.
func HistoryIn(tx store.Tx, kind, record string) ([]Change, error) {
	rows, err := tx.HistoryOf(kind, record)
	if err != nil {
		return nil, err
	}
	out := make([]Change, len(rows))
	for i := range rows {
		out[i] = ChangeOf(&rows[i])
	}
	return out, nil
}

// ChangeOf reads a change out of its row.
func ChangeOf(r *store.History) Change {
	c := Change{ID: r.ID, At: r.At, By: r.By, Screen: r.Screen, What: r.What, Event: r.Event, Data: r.Data,
		Restorable: r.Kind == KindModel && r.Before != nil || r.Event == EventCorrected && r.Before != nil}
	if r.JobID != nil {
		c.JobID = *r.JobID
	}
	return c
}
