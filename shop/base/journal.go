package base

import (
	"context"
	"time"

	"yembo/store"
)

// What the journal tells of.
const (
	JournalSign    = "sign"    // signing in and out, tries that failed
	JournalRights  = "rights"  // people, what they may, lending a PIN
	JournalScreens = "screens" // enrolled, struck off
	JournalWeek    = "week"    // shown to all, calendars read
	JournalData    = "data"    // exports, forgetting, restoring, copies, links made
)

// NoteJournal writes a line of the journal. It names no customer: the journal is kept when a customer is forgotten.
func (s *Base) NoteJournal(tx store.Tx, a Actor, kind, what string) error {
	return tx.Create(&store.JournalLine{At: s.Now(), By: a.Name, Screen: a.Screen, Kind: kind, What: what})
}

// TellJournal is NoteJournal in a transaction of its own.
func (s *Base) TellJournal(ctx context.Context, a Actor, kind, what string) error {
	return s.Store.Update(ctx, func(tx store.Tx) error { return s.NoteJournal(tx, a, kind, what) })
}

// JournalLine is one line of the journal.
type JournalLine struct {
	At                     time.Time
	By, Screen, What, Kind string
}

// Journal lists the newest lines of the journal in which a text stands, at most so many.
func (s *Base) Journal(ctx context.Context, find string, most int) ([]JournalLine, error) {
	var out []JournalLine
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.Journal(find, most)
		for _, r := range rows {
			out = append(out, JournalLine{r.At, r.By, r.Screen, r.What, r.Kind})
		}
		return err
	})
	return out, err
}
