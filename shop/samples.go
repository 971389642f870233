package shop

import (
	"context"
	"fmt"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/demo"
	"yembo/shop/stock"
	"yembo/store"
)

// sampleMark stands behind the name of each sample, wherever that is read.
const sampleMark = " (sample)"

// AddSamples takes in sample records to look around with: a few of the demo's models with their photos, and what of its
// parts lies on the shelf. Where there are samples already, nothing is added.
func (s *Shop) AddSamples(ctx context.Context, a base.Actor, token string) error {
	data, err := demo.Load(s.ahead())
	if err != nil {
		return err
	}
	_, err = s.Once(ctx, token, func(tx store.Tx) (string, error) {
		taken, err := base.SamplesIn(tx)
		if err != nil || taken.Any() {
			return "", err
		}
		named := map[string]string{} // the sample's id by the demo's
		for _, ch := range data.Models {
			if !demo.Samples[ch.ID] {
				continue
			}
			id, err := freeSample(tx, base.KindModel, ch.ID)
			if err != nil {
				return "", err
			}
			named[ch.ID], ch.ID = id, id
			ch.Model += sampleMark
			if err := s.AddModelIn(tx, a, ch, "/id", base.Event{What: "taken in as a sample"}); err != nil {
				return "", fmt.Errorf("sample %s: %w", id, err)
			}
			taken.Models = append(taken.Models, id)
		}
		for i := range data.Photos {
			p := data.Photos[i]
			if p.Model = named[p.Model]; p.Model == "" {
				continue
			}
			if err := s.seedPhoto(tx, &p); err != nil {
				return "", fmt.Errorf("sample photo %s: %w", p.File, err)
			}
		}
		for _, p := range data.Parts.Parts {
			pieces := p.Stock.Or(0)
			if pieces == 0 || p.Pulled() {
				continue // what was pulled has a story of its own, which a sample has not
			}
			if p.ID, err = freeSample(tx, base.KindPart, p.ID); err != nil {
				return "", err
			}
			p.Name, p.Stock = p.Name+sampleMark, hw.Maybe[int]{}
			id, err := s.AddPartIn(tx, a, stock.PartLine{Part: p}, stock.Moving{})
			if err == nil {
				err = s.BookMovement(tx, a, store.Movement{PartID: id, Kind: string(stock.Counted), Shelf: pieces, Note: "sample"})
			}
			if err != nil {
				return "", fmt.Errorf("sample %s: %w", p.ID, err)
			}
			taken.Parts = append(taken.Parts, id)
		}
		return "", base.PutSamples(tx, taken)
	})
	return err
}

// freeSample is an id for a sample: those of samples that were removed can still be brought back, and are not free.
func freeSample(tx store.Tx, kind, id string) (string, error) {
	for n := 1; ; n++ {
		try := "sample-" + id
		if n > 1 {
			try = fmt.Sprintf("sample-%d-%s", n, id)
		}
		if taken, err := tx.Taken(kind, "id", try); err != nil || !taken {
			return try, err
		}
	}
}
