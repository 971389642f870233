package base

import (
	"encoding/json"
	"errors"
	"fmt"

	"yembo/store"
)

// Samples are the records that a shop took in to look around with: the ids of models and parts. Each says in its
// name that it is a sample.
type Samples struct {
	Models []string `json:"models,omitempty"`
	Parts  []string `json:"parts,omitempty"`
}

// Any reports whether there is one.
func (s *Samples) Any() bool { return len(s.Models)+len(s.Parts) > 0 }

const samplesName = "samples"

// SamplesIn reads which records are samples, without those that were removed.
func SamplesIn(tx store.Tx) (Samples, error) {
	var out Samples
	raw, err := tx.Setting(samplesName)
	if err != nil || raw == nil {
		return out, err
	}
	if err := json.Unmarshal(raw, &out); err != nil {
		return out, fmt.Errorf("the list of sample records: %w", err)
	}
	if out.Models, err = there(out.Models, func(id string) error { _, err := tx.Model(id); return err }); err != nil {
		return out, err
	}
	out.Parts, err = there(out.Parts, func(id string) error { _, err := tx.Part(id); return err })
	return out, err
}

// there are those of ids that look finds.
func there(ids []string, look func(string) error) ([]string, error) {
	var out []string
	for _, id := range ids {
		switch err := look(id); {
		case err == nil:
			out = append(out, id)
		case !errors.Is(err, store.ErrNotFound):
			return nil, err
		}
	}
	return out, nil
}

// PutSamples keeps which records are samples.
func PutSamples(tx store.Tx, s Samples) error {
	raw, err := json.Marshal(s)
	if err != nil {
		return err
	}
	return tx.PutSetting(samplesName, raw)
}
