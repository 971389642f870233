// Package shop is the use cases of the workshop. Each is one transaction, takes
// the person who acts, and writes what it changes to the record's history.
package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/store"
)

// Actor is the person who acts.
type Actor struct{ Name string }

// Shop is the workshop on a data folder.
type Shop struct {
	store *store.Store
	now   func() time.Time
}

// New returns the workshop on an open store. now is the clock.
func New(s *store.Store, now func() time.Time) *Shop { return &Shop{s, now} }

// Now is the shop's time.
func (s *Shop) Now() time.Time { return s.now() }

// Errors that pages tell apart.
var (
	ErrNotFound = store.ErrNotFound
	ErrChanged  = store.ErrChanged
	// ErrPlanChanged means that an option chosen is no longer among the plan's.
	ErrPlanChanged = errors.New("the plan is no longer the one that was shown")
)

// Kinds of records in the history.
const (
	kindModel   = "model"
	kindMachine = "machine"
	kindJob     = "job"
	kindSetting = "setting"
)

// once runs a use case for a form. A form that was taken before leads where it led
// the first time, and stores nothing.
func (s *Shop) once(ctx context.Context, token string, do func(tx store.Tx) (result string, err error)) (string, error) {
	var result string
	err := s.store.Update(ctx, func(tx store.Tx) error {
		if token != "" {
			before, err := tx.Submitted(token)
			if err != nil || before != "" {
				result = before
				return err
			}
		}
		var err error
		if result, err = do(tx); err != nil {
			return err
		}
		if token == "" {
			return nil
		}
		return tx.Create(&store.Submission{Token: token, Result: result, At: s.now()})
	})
	return result, err
}

func (s *Shop) note(tx store.Tx, a Actor, kind, record, what string, before []byte) error {
	return tx.Create(&store.History{At: s.now(), By: a.Name, Kind: kind, Record: record, What: what, Before: before})
}

// Settings is how the shop works.
type Settings struct {
	Practice   hw.Practice `json:"practice"`
	LabourRate int64       `json:"labour_cents_per_hour"`
	Currency   string      `json:"currency"`
	// Loosen is how the screws of a heat sink are loosened: in the printed order reversed,
	// which unloads it evenly, or as printed, where makers say so (handbook 6).
	Loosen string `json:"loosen"`
}

// The two ways to loosen a heat sink.
const (
	LoosenReversed = "reversed"
	LoosenPrinted  = "printed"
)

const settingsName = "shop"

// defaultSettings hold until the shop sets its own.
func defaultSettings() Settings {
	return Settings{Currency: "EUR", Loosen: LoosenReversed, Practice: hw.Practice{MemoryLimit: hw.Known("maker"), Pairing: hw.Known("any")}}
}

func settings(tx store.Tx) (Settings, error) {
	out := defaultSettings()
	raw, err := tx.Setting(settingsName)
	if err != nil || raw == nil {
		return out, err
	}
	if err := json.Unmarshal(raw, &out); err != nil {
		return out, fmt.Errorf("the shop's settings: %w", err)
	}
	return out, nil
}

// Settings returns the shop's settings.
func (s *Shop) Settings(ctx context.Context) (Settings, error) {
	var out Settings
	err := s.store.View(ctx, func(tx store.Tx) (err error) {
		out, err = settings(tx)
		return err
	})
	return out, err
}

// SetPractice changes how the shop decides about memory limits and pairing. The
// words must be those of the request format; others are faults at their field.
func (s *Shop) SetPractice(ctx context.Context, a Actor, limit, pairing string) error {
	var faults hw.Faults
	choose := func(pointer, got string, words ...string) {
		for _, w := range words {
			if got == w {
				return
			}
		}
		faults.Add(pointer, hw.FaultChoice, fmt.Sprintf("%q", got), fmt.Sprint(words))
	}
	choose("/practice/memory_limit", limit, "maker", "proven", "controller")
	choose("/practice/pairing", pairing, "any", "equal", "match")
	if err := faults.Err(); err != nil {
		return err
	}
	return s.store.Update(ctx, func(tx store.Tx) error {
		now, err := settings(tx)
		if err != nil {
			return err
		}
		if now.Practice.MemoryLimit.Or("") == limit && now.Practice.Pairing.Or("") == pairing {
			return nil
		}
		before, err := json.Marshal(now)
		if err != nil {
			return err
		}
		now.Practice.MemoryLimit, now.Practice.Pairing = hw.Known(limit), hw.Known(pairing)
		if err := putSettings(tx, now); err != nil {
			return err
		}
		return s.note(tx, a, kindSetting, settingsName, fmt.Sprintf("practice: limit %s, pairing %s", limit, pairing), before)
	})
}

// SetLoosen changes how the screws of a heat sink are loosened.
func (s *Shop) SetLoosen(ctx context.Context, a Actor, way string) error {
	if way != LoosenReversed && way != LoosenPrinted {
		return hw.Faults{{Pointer: "/loosen", Text: hw.Word(hw.FaultChoice, fmt.Sprintf("%q", way), LoosenReversed+", "+LoosenPrinted)}}
	}
	return s.store.Update(ctx, func(tx store.Tx) error {
		now, err := settings(tx)
		if err != nil || now.Loosen == way {
			return err
		}
		before, err := json.Marshal(now)
		if err != nil {
			return err
		}
		now.Loosen = way
		if err := putSettings(tx, now); err != nil {
			return err
		}
		return s.note(tx, a, kindSetting, settingsName, "practice: heat sinks are loosened "+way, before)
	})
}

func putSettings(tx store.Tx, v Settings) error {
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	return tx.PutSetting(settingsName, raw)
}

// Parts returns the shelf as a parts list.
func (s *Shop) Parts(ctx context.Context) (*hw.Parts, error) {
	var out *hw.Parts
	err := s.store.View(ctx, func(tx store.Tx) (err error) {
		out, err = parts(tx)
		return err
	})
	return out, err
}

func parts(tx store.Tx) (*hw.Parts, error) {
	how, err := settings(tx)
	if err != nil {
		return nil, err
	}
	rows, err := tx.Parts()
	if err != nil {
		return nil, err
	}
	out := &hw.Parts{Format: hw.FormatParts, Currency: how.Currency, Parts: make([]hw.Part, len(rows))}
	for i := range rows {
		if err := json.Unmarshal(rows[i].Doc, &out.Parts[i]); err != nil {
			return nil, fmt.Errorf("part %s: %w", rows[i].ID, err)
		}
	}
	return out, nil
}

// Change is one line of a record's history.
type Change struct {
	ID   int64
	At   time.Time
	By   string
	What string
	// Restorable says that there was an earlier state, which can be brought back.
	Restorable bool
}

func history(tx store.Tx, kind, record string) ([]Change, error) {
	rows, err := tx.HistoryOf(kind, record)
	if err != nil {
		return nil, err
	}
	out := make([]Change, len(rows))
	for i, r := range rows {
		out[i] = Change{r.ID, r.At, r.By, r.What, kind == kindModel && r.Before != nil}
	}
	return out, nil
}

// Choice is an option that was chosen, with what it rests on.
type Choice struct {
	Option   plan.Option `json:"option"`
	Practice hw.Practice `json:"practice"`
	Currency string      `json:"currency"`
}
