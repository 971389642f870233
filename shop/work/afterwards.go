package work

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/store"
)

// ToAsk is a job whose customer is to be asked how it goes.
type ToAsk struct {
	Job      int64
	Machine  string
	Customer string
	On       string
}

// Label is what pages call the job.
func (t ToAsk) Label() string { return base.Label(t.Job) }

// ToAsk lists the jobs whose customers are to be asked today, or were to be.
func (s *Hands) ToAsk(ctx context.Context) ([]ToAsk, error) {
	var out []ToAsk
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.ProofsToAsk(s.Today())
		if err != nil {
			return err
		}
		for i := range rows {
			j, err := tx.Job(rows[i].JobID)
			if errors.Is(err, base.ErrNotFound) {
				continue
			}
			if err != nil {
				return err
			}
			out = append(out, ToAsk{j.ID, j.Machine.Tag, j.Machine.Customer.Name, rows[i].AskOn})
		}
		return nil
	})
	return out, err
}

// Asked notes that a customer was asked how it goes, and what they said.
func (s *Hands) Asked(ctx context.Context, a base.Actor, token string, job int64, said string) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		if err := tooLong("/said", said, "what they said"); err != nil {
			return "", err
		}
		row, err := tx.ProofOf(job)
		if err != nil {
			return "", err
		}
		was := row.Version
		row.AskOn = ""
		row.Version++
		if err := tx.SaveProof(&row, was); err != nil {
			return "", err
		}
		j, err := tx.Job(job)
		if err != nil {
			return "", err
		}
		if err := tx.Create(&store.Contact{JobID: job, At: s.Now(), By: a.Name, How: "phone", Said: askedWords(said)}); err != nil {
			return "", err
		}
		return fmt.Sprint(
				job,
			), s.NoteEvent(
				tx,
				a,
				base.KindMachine,
				j.MachineID,
				base.Event{What: base.Label(job) + ": asked how it goes", Kind: base.EventTalk, Job: job},
				nil,
			)
	})
	return err
}

// askedWords are the talk that is noted when a customer was asked how it goes.
func askedWords(said string) string {
	if said = strings.TrimSpace(said); said == "" {
		return "Asked how it goes."
	}
	return "Asked how it goes: " + said
}

// Learned is what a job taught about a model.
type Learned struct {
	Job   int64
	On    time.Time
	By    string
	Words []string
}

// Label is what pages call the job.
func (l Learned) Label() string { return base.Label(l.Job) }

// LearnedOf lists what signed proofs taught about a model, the newest first.
func (s *Hands) LearnedOf(ctx context.Context, model string) ([]Learned, error) {
	var out []Learned
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.ProofsOfModel(model)
		if err != nil {
			return err
		}
		for i := range rows {
			var d jobs.ProofDoc
			if err := json.Unmarshal(rows[i].Doc, &d); err != nil {
				return fmt.Errorf("the proof of %s: %w", base.Label(rows[i].JobID), err)
			}
			if d.Sign != nil && len(d.Sign.Learned) > 0 { // of a person who is forgotten nothing is told
				out = append(out, Learned{rows[i].JobID, d.Sign.At, d.Sign.By, d.Sign.Learned})
			}
		}
		return nil
	})
	return out, err
}
