package shop

import (
	"context"
	"errors"
	"fmt"
	"io"
	"time"

	"yembo/core/hw"
	"yembo/exchange/bundle"
	"yembo/store"
)

// ExportBundle writes model records with their photos as a zip: those with the given
// ids, all where none is given. The error is ErrNotFound for an id that no model has.
func (s *Shop) ExportBundle(ctx context.Context, w io.Writer, ids ...string) error {
	if len(ids) == 0 {
		all, err := s.Briefs(ctx, "", -1)
		if err != nil {
			return err
		}
		for i := range all {
			ids = append(ids, all[i].ID)
		}
	}
	var records []bundle.Record
	for _, id := range ids {
		r, err := s.Model(ctx, id)
		if err != nil {
			return fmt.Errorf("%s: %w", id, err)
		}
		record := bundle.Record{Chassis: r.Chassis}
		photos, err := s.Photos(ctx, id)
		if err != nil {
			return err
		}
		for _, p := range photos {
			if p.Removed {
				continue
			}
			jpeg, err := s.PhotoFile(ctx, id, p.ID, false)
			if err != nil {
				return err
			}
			fact := p.Fact
			if fact != "" && !isPhotoFact(r.Chassis, fact) {
				fact = "" // the place it showed is gone
			}
			record.Photos = append(record.Photos,
				bundle.Photo{Fact: fact, Caption: p.Caption, On: p.On, By: p.By, JPEG: jpeg})
		}
		records = append(records, record)
	}
	return bundle.Write(w, records)
}

// BundleLook is what taking in one record of a zip would do. Err is hw.Faults for one
// that cannot be taken.
type BundleLook struct {
	Import
	Name   string // of its file
	Photos int
	Err    error
}

// LookAtBundle reads a zip and compares each of its records with the one there is.
// The error is hw.Faults for a zip that cannot be opened at all; nothing is stored.
func (s *Shop) LookAtBundle(ctx context.Context, file []byte) ([]BundleLook, error) {
	records, err := bundle.Read(file)
	if err != nil {
		return nil, err
	}
	out := make([]BundleLook, len(records))
	for i, r := range records {
		out[i] = BundleLook{Name: r.Name, Photos: len(r.Photos), Err: r.Err}
		if r.Err != nil {
			continue
		}
		if out[i].Import, err = s.lookAt(ctx, r.Chassis); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Taken is what became of one record of a zip.
type Taken struct {
	ID     string
	Photos int
	Err    error // hw.Faults or ErrChanged: then nothing of this record was stored
}

// TakeBundle stores records of a zip with their photos, each whole or not at all.
// versions names the records that are wanted by id, with the version that was looked
// at (0 for a new one).
func (s *Shop) TakeBundle(ctx context.Context, a Actor, token string, file []byte, versions map[string]int) ([]Taken,
	error) {
	records, err := bundle.Read(file)
	if err != nil {
		return nil, err
	}
	var out []Taken
	for i := range records {
		r := &records[i]
		if r.Chassis == nil {
			continue
		}
		version, wanted := versions[r.Chassis.ID]
		if !wanted {
			continue
		}
		err := s.takeRecord(ctx, a, token+"-"+r.Chassis.ID, r, version)
		var faults hw.Faults
		if err != nil && !errors.As(err, &faults) && !errors.Is(err, ErrChanged) {
			return out, err
		}
		out = append(out, Taken{r.Chassis.ID, len(r.Photos), err})
	}
	return out, nil
}

// takeRecord re-encodes the photos of a record like any others, then stores all of it.
func (s *Shop) takeRecord(ctx context.Context, a Actor, token string, r *bundle.Record, version int) error {
	var rows []*store.Photo
	for _, p := range r.Photos {
		row, err := readPhoto(ctx, r.Chassis, PhotoEntry{File: p.JPEG, Fact: p.Fact, Caption: p.Caption})
		var faults hw.Faults
		if errors.As(err, &faults) {
			return hw.Faults{{Pointer: p.File, Text: faults[0].Text}}
		}
		if err != nil {
			return err
		}
		row.TakenOn, row.By, row.CreatedAt = p.On, p.By, s.now()
		rows = append(rows, row)
	}
	_, err := s.once(ctx, token, func(tx store.Tx) (string, error) {
		if err := s.takeChassis(tx, a, r.Chassis, version); err != nil {
			return "", err
		}
		for _, row := range rows {
			if _, err := s.storePhoto(tx, a, row); err != nil {
				return "", err
			}
		}
		return r.Chassis.ID, nil
	})
	return err
}

// uploadTime is how long a file that was only looked at is kept.
const uploadTime = 24 * time.Hour

// KeepUpload keeps a file between the look at it and the answer to it, and returns
// its name. Files of a day ago that were never answered are dropped.
func (s *Shop) KeepUpload(ctx context.Context, file []byte) (int64, error) {
	row := store.Upload{Content: file, CreatedAt: s.now()}
	err := s.store.Update(ctx, func(tx store.Tx) error {
		if err := tx.DropUploads(s.now().Add(-uploadTime)); err != nil {
			return err
		}
		return tx.Create(&row)
	})
	return row.ID, err
}

// Upload returns a kept file; ErrNotFound where it was answered or is too old.
func (s *Shop) Upload(ctx context.Context, id int64) ([]byte, error) {
	var out []byte
	err := s.store.View(ctx, func(tx store.Tx) error {
		row, err := tx.Upload(id)
		out = row.Content
		return err
	})
	return out, err
}
