package care

import (
	"context"
	"fmt"
	"strings"

	"yembo/shop/base"
	"yembo/store"
)

// SampleRecords is what there is of sample records: how many models and parts, and the machines that were taken in to try them.
type SampleRecords struct {
	Models, Parts int
	Machines      []string // by their tags
}

// Samples tells what there is of sample records.
func (s *Care) Samples(ctx context.Context) (SampleRecords, error) {
	var out SampleRecords
	err := s.Store.View(ctx, func(tx store.Tx) error {
		all, err := base.SamplesIn(tx)
		if err != nil {
			return err
		}
		out.Models, out.Parts = len(all.Models), len(all.Parts)
		for _, id := range all.Models {
			machines, err := tx.MachinesOfModel(id)
			if err != nil {
				return err
			}
			for i := range machines {
				out.Machines = append(out.Machines, machines[i].Tag)
			}
		}
		return nil
	})
	return out, err
}

// RemoveSamples removes all sample records, and the machines that were taken in to try them, with their jobs; for 30 days each
// can be brought back. What was really used stays, for what was done with it is kept: kept says why, a sentence each.
func (s *Care) RemoveSamples(ctx context.Context, a base.Actor, token string) (kept []string, err error) {
	_, err = s.Once(ctx, token, func(tx store.Tx) (string, error) {
		all, err := base.SamplesIn(tx)
		if err != nil {
			return "", err
		}
		var left base.Samples
		for _, id := range all.Models {
			machines, err := tx.MachinesOfModel(id)
			if err != nil {
				return "", err
			}
			for i := range machines {
				if _, err := s.removeSample(tx, a, base.KindMachine, machines[i].ID, &kept); err != nil {
					return "", err
				}
			}
			gone, err := s.removeSample(tx, a, base.KindModel, id, &kept)
			if err != nil {
				return "", err
			}
			if !gone {
				left.Models = append(left.Models, id)
			}
		}
		for _, id := range all.Parts {
			gone, err := s.removeSample(tx, a, base.KindPart, id, &kept)
			if err != nil {
				return "", err
			}
			if !gone {
				left.Parts = append(left.Parts, id)
			}
		}
		return "", base.PutSamples(tx, left)
	})
	return kept, err
}

// removeSample removes a record unless something stands against it, which is said in kept. A record that was removed by hand is
// gone.
func (s *Care) removeSample(tx store.Tx, a base.Actor, kind, id string, kept *[]string) (bool, error) {
	r, err := s.removal(tx, kind, id)
	if err != nil {
		return false, err
	}
	if len(r.Against) > 0 {
		var why []string
		for _, o := range r.Against {
			why = append(why, o.Says)
		}
		*kept = append(*kept, fmt.Sprintf("%s stays: %s.", r.Name, strings.Join(why, "; ")))
		return false, nil
	}
	return true, s.removeIn(tx, a, &r)
}
