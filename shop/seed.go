package shop

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image/jpeg"
	"time"

	"yembo/shop/demo"
	"yembo/store"
)

// SeedDemo fills an empty store with the demo workshop.
func (s *Shop) SeedDemo(ctx context.Context) error {
	data, err := demo.Load()
	if err != nil {
		return err
	}
	a := Actor{demo.Technician}
	return s.store.Update(ctx, func(tx store.Tx) error {
		if err := putSettings(tx, demoSettings(data)); err != nil {
			return err
		}
		for _, ch := range data.Models {
			if err := s.storeModel(tx, a, nil, ch, store.Model{}, 0); err != nil {
				return fmt.Errorf("demo model %s: %w", ch.ID, err)
			}
		}
		for i := range data.Photos {
			if err := s.seedPhoto(tx, &data.Photos[i]); err != nil {
				return fmt.Errorf("demo photo %s: %w", data.Photos[i].File, err)
			}
		}
		for i := range data.Parts.Parts {
			p := &data.Parts.Parts[i]
			doc, err := json.Marshal(p)
			if err != nil {
				return err
			}
			if err := tx.Create(&store.Part{ID: p.ID, Position: i, Kind: p.Kind, Name: p.Name, Doc: doc}); err != nil {
				return err
			}
		}
		for _, j := range data.Jobs {
			then := &Shop{s.store, func() time.Time { return j.At }}
			in := Intake{Customer: j.Customer, Contact: j.Contact, Complaint: j.Complaint, Machine: j.Machine, Wish: j.Wish}
			if err := then.storeIntake(tx, a, in, j.Machine); err != nil {
				return fmt.Errorf("demo machine %s: %w", j.Machine.ID, err)
			}
		}
		return nil
	})
}

func demoSettings(d *demo.Data) Settings {
	out := defaultSettings()
	out.LabourRate, out.Currency = demo.LabourRate, d.Parts.Currency
	return out
}

func (s *Shop) seedPhoto(tx store.Tx, p *demo.Photo) error {
	size, err := jpeg.DecodeConfig(bytes.NewReader(p.Full))
	if err != nil {
		return err
	}
	_, err = s.storePhoto(tx, Actor{p.By}, &store.Photo{Kind: kindModel, Record: p.Model, Fact: p.Fact, Caption: p.Caption, TakenOn: p.On, By: p.By,
		Width: size.Width, Height: size.Height, Full: p.Full, Thumb: p.Thumb, Sum: sumOf(p.Full), SourceSum: sumOf(p.Full), CreatedAt: s.now()})
	return err
}
