package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"yembo/shop/base"
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
func (e Earlier) Label() string { return base.Label(e.Job) }

// EarlierOf lists the proven jobs of a machine, the newest first, without one of them (0 for all).
func (s *Jobs) EarlierOf(ctx context.Context, machine string, without int64) ([]Earlier, error) {
	var out []Earlier
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.earlierOf(tx, machine, without)
		return err
	})
	return out, err
}

func (s *Jobs) earlierOf(tx store.Tx, machine string, without int64) ([]Earlier, error) {
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
			return nil, fmt.Errorf("the proof of %s: %w", base.Label(rows[i].JobID), err)
		}
		e := Earlier{Job: job.ID, On: d.Sign.At, Complaint: job.Complaint, Open: d.Sign.Open}
		if job.Choice != nil {
			var c base.Choice
			if err := json.Unmarshal(job.Choice, &c); err != nil {
				return nil, err
			}
			e.Done = c.Words
		}
		if d.Hand != nil {
			e.Until = d.Hand.Warranty
			e.Within = e.Until != "" && e.Until >= s.Today()
		}
		out = append(out, e)
	}
	return out, nil
}

// wasEarlier reports whether a job is a proven one of a machine.
func (s *Jobs) wasEarlier(tx store.Tx, machine string, job int64) (bool, error) {
	list, err := s.earlierOf(tx, machine, 0)
	return slices.ContainsFunc(list, func(e Earlier) bool { return e.Job == job }), err
}

// takeHandBack takes back the hand-over of a job that is still here.
func (s *Jobs) takeHandBack(tx store.Tx, job int64) error {
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
