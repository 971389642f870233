package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"yembo/store"
)

// Earlier is a job of a machine that was proven before.
type Earlier struct {
	Job       int64
	On        time.Time // when its proof was signed
	Complaint string
	Done      string // what was chosen, "" for nothing
	Open      []string
	Until     string // the day until which the shop answers for it, "" where that is not told
	Within    bool   // that day has not passed
}

// Label is what pages call the job.
func (e Earlier) Label() string { return Label(e.Job) }

// EarlierOf lists the proven jobs of a machine, the newest first, without one of them (0 for all).
func (s *Shop) EarlierOf(ctx context.Context, machine string, without int64) ([]Earlier, error) {
	var out []Earlier
	err := s.store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.earlierOf(tx, machine, without)
		return err
	})
	return out, err
}

func (s *Shop) earlierOf(tx store.Tx, machine string, without int64) ([]Earlier, error) {
	rows, err := tx.ProofsOfMachine(machine)
	if err != nil {
		return nil, err
	}
	var out []Earlier
	for i := range rows {
		if rows[i].JobID == without {
			continue
		}
		job, err := tx.Job(rows[i].JobID)
		if err != nil {
			return nil, err
		}
		var d ProofDoc
		if err := json.Unmarshal(rows[i].Doc, &d); err != nil || d.Sign == nil {
			return nil, fmt.Errorf("the proof of %s: %w", Label(rows[i].JobID), err)
		}
		e := Earlier{Job: job.ID, On: d.Sign.At, Complaint: job.Complaint, Open: d.Sign.Open}
		if job.Choice != nil {
			var c Choice
			if err := json.Unmarshal(job.Choice, &c); err != nil {
				return nil, err
			}
			e.Done = c.Words
		}
		if d.Hand != nil {
			e.Until = d.Hand.Warranty
			e.Within = e.Until != "" && e.Until >= s.today()
		}
		out = append(out, e)
	}
	return out, nil
}

// wasEarlier reports whether a job is a proven one of a machine.
func (s *Shop) wasEarlier(tx store.Tx, machine string, job int64) (bool, error) {
	list, err := s.earlierOf(tx, machine, 0)
	return slices.ContainsFunc(list, func(e Earlier) bool { return e.Job == job }), err
}

// ToAsk is a job whose customer is to be asked how it goes.
type ToAsk struct {
	Job      int64
	Machine  string
	Customer string
	On       string
}

// Label is what pages call the job.
func (t ToAsk) Label() string { return Label(t.Job) }

// ToAsk lists the jobs whose customers are to be asked today, or were to be.
func (s *Shop) ToAsk(ctx context.Context) ([]ToAsk, error) {
	var out []ToAsk
	err := s.store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.ProofsToAsk(s.today())
		if err != nil {
			return err
		}
		for i := range rows {
			j, err := tx.Job(rows[i].JobID)
			if errors.Is(err, ErrNotFound) {
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
func (s *Shop) Asked(ctx context.Context, a Actor, token string, job int64, said string) error {
	_, err := s.once(ctx, token, func(tx store.Tx) (string, error) {
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
			), s.noteEvent(
				tx,
				a,
				kindMachine,
				j.MachineID,
				event{what: Label(job) + ": asked how it goes", kind: eventTalk, job: job},
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
func (l Learned) Label() string { return Label(l.Job) }

// LearnedOf lists what signed proofs taught about a model, the newest first.
func (s *Shop) LearnedOf(ctx context.Context, model string) ([]Learned, error) {
	var out []Learned
	err := s.store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.ProofsOfModel(model)
		if err != nil {
			return err
		}
		for i := range rows {
			var d ProofDoc
			if err := json.Unmarshal(rows[i].Doc, &d); err != nil {
				return fmt.Errorf("the proof of %s: %w", Label(rows[i].JobID), err)
			}
			if d.Sign != nil && len(d.Sign.Learned) > 0 { // of a person who is forgotten nothing is told
				out = append(out, Learned{rows[i].JobID, d.Sign.At, d.Sign.By, d.Sign.Learned})
			}
		}
		return nil
	})
	return out, err
}

// takeHandBack takes back the hand-over of a job that is still here.
func (s *Shop) takeHandBack(tx store.Tx, job int64) error {
	row, err := tx.ProofOf(job)
	if err != nil {
		return err
	}
	var d ProofDoc
	if err := json.Unmarshal(row.Doc, &d); err != nil {
		return err
	}
	was := row.Version
	d.Hand, row.HandedAt, row.AskOn = nil, nil, ""
	if row.Doc, err = json.Marshal(&d); err != nil {
		return err
	}
	row.UpdatedAt = s.Now()
	row.Version++
	return tx.SaveProof(&row, was)
}
