package records

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"time"

	"yembo/core/hw"
	"yembo/exchange/bundle"
	"yembo/shop/base"
	"yembo/store"
)

// ExportBundle writes model records with their photos as a zip: those with the given
// ids, all where none is given. The error is ErrNotFound for an id that no model has.
func (s *Records) ExportBundle(ctx context.Context, w io.Writer, ids ...string) error {
	if len(ids) == 0 {
		all, err := s.Briefs(ctx, "", -1)
		if err != nil {
			return err
		}
		for i := range all {
			ids = append(ids, all[i].ID)
		}
	}
	return bundle.Write(w, func(yield func(bundle.Record, error) bool) {
		for _, id := range ids {
			r, err := s.bundled(ctx, id)
			if !yield(r, err) || err != nil {
				return
			}
		}
	})
}

// bundled is one record as it goes into a zip.
func (s *Records) bundled(ctx context.Context, id string) (bundle.Record, error) {
	r, err := s.Model(ctx, id)
	if err != nil {
		return bundle.Record{}, fmt.Errorf("%s: %w", id, err)
	}
	out := bundle.Record{Chassis: r.Chassis}
	photos, err := s.Photos(ctx, id)
	for _, p := range photos {
		if p.Removed {
			continue
		}
		fact := p.Fact
		if fact != "" && !isPhotoFact(r.Chassis, fact) {
			fact = "" // the place it showed is gone
		}
		out.Photos = append(out.Photos, bundle.Photo{Fact: fact, Caption: p.Caption, On: p.On, By: p.By,
			Open: func() ([]byte, error) { return s.PhotoFile(ctx, id, p.ID, false) }})
	}
	return out, err
}

// BundleLook is what taking in one record of a zip would do. Err is hw.Faults for one
// that cannot be taken.
type BundleLook struct {
	Name      string // of its file
	ID, Model string
	New       bool
	Version   int
	Facts     int          // that would change
	Some      []FactChange // the first of them
	Photos    int
	Err       error
}

// someChanges is how many changed facts a look at a zip keeps of each record.
const someChanges = 5

// LookAtBundle reads a zip and compares each of its records with the one there is.
// The error is hw.Faults for a zip that cannot be opened at all; nothing is stored.
func (s *Records) LookAtBundle(ctx context.Context, file []byte) ([]BundleLook, error) {
	records, _, err := bundle.Read(file)
	if err != nil {
		return nil, err
	}
	var out []BundleLook
	for r := range records {
		look := BundleLook{Name: r.Name, Photos: len(r.Photos), Err: r.Err}
		if r.Err == nil {
			now, err := s.lookAt(ctx, r.Chassis)
			if err != nil {
				return nil, err
			}
			look.ID, look.Model, look.New, look.Version = r.Chassis.ID, r.Chassis.Name(), now.New, now.Version
			look.Facts, look.Some = len(now.Changes), slices.Clone(now.Changes[:min(len(now.Changes), someChanges)])
		}
		out = append(out, look)
		if err := ctx.Err(); err != nil {
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
// at (0 for a new one). step is told how far it is.
func (s *Records) TakeBundle(ctx context.Context, a base.Actor, token string, file []byte, versions map[string]int,
	step func(done, of int)) ([]Taken, error) {
	records, n, err := bundle.Read(file)
	if err != nil {
		return nil, err
	}
	var out []Taken
	done := 0
	for r := range records {
		step(done, n)
		if done++; r.Chassis == nil {
			continue
		}
		version, wanted := versions[r.Chassis.ID]
		if !wanted {
			continue
		}
		err := s.takeRecord(ctx, a, token+"-"+r.Chassis.ID, &r, version)
		var faults hw.Faults
		if err != nil && !errors.As(err, &faults) && !errors.Is(err, base.ErrChanged) {
			return out, err
		}
		out = append(out, Taken{r.Chassis.ID, len(r.Photos), err})
	}
	return out, nil
}

// takeRecord re-encodes the photos of a record like any others, then stores all of it.
func (s *Records) takeRecord(ctx context.Context, a base.Actor, token string, r *bundle.Record, version int) error {
	// What is re-encoded waits on the disk: two hundred pictures are more than is held in memory.
	dir, err := os.MkdirTemp("", "photos-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	var rows []*store.Photo
	for _, p := range r.Photos {
		file, err := p.Open()
		if err != nil {
			return err
		}
		row, err := ReadPhoto(ctx, r.Chassis, PhotoEntry{File: file, Fact: p.Fact, Caption: p.Caption})
		var faults hw.Faults
		if errors.As(err, &faults) {
			return hw.Faults{{Pointer: p.File, Text: faults[0].Text}}
		}
		if err != nil {
			return err
		}
		row.TakenOn, row.By, row.CreatedAt = p.On, p.By, s.Now()
		if err := os.WriteFile(aside(dir, len(rows)), row.Full, 0o600); err != nil {
			return err
		}
		row.Full = nil
		rows = append(rows, row)
	}
	_, err = s.Once(ctx, token, func(tx store.Tx) (string, error) {
		if err := s.takeChassis(tx, a, r.Chassis, version); err != nil {
			return "", err
		}
		for i, row := range rows {
			var err error
			if row.Full, err = os.ReadFile(aside(dir, i)); err != nil {
				return "", err
			}
			if _, err := s.StorePhoto(tx, a, row); err != nil {
				return "", err
			}
			row.Full = nil
		}
		return r.Chassis.ID, nil
	})
	return err
}

// aside is where a re-encoded picture waits.
func aside(dir string, i int) string { return filepath.Join(dir, fmt.Sprint(i)) }

// uploadTime is how long a file that was only looked at is kept.
const uploadTime = 24 * time.Hour

// KeepUpload keeps a file between the look at it and the answer to it, and returns
// its name. Files of a day ago that were never answered are dropped.
func (s *Records) KeepUpload(ctx context.Context, file []byte) (int64, error) {
	row := store.Upload{Content: file, CreatedAt: s.Now()}
	err := s.Store.Update(ctx, func(tx store.Tx) error {
		if err := tx.DropUploads(s.Now().Add(-uploadTime)); err != nil {
			return err
		}
		return tx.Create(&row)
	})
	return row.ID, err
}

// Upload returns a kept file; ErrNotFound where it was answered or is too old.
func (s *Records) Upload(ctx context.Context, id int64) ([]byte, error) {
	var out []byte
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.Upload(id)
		out = row.Content
		return err
	})
	return out, err
}
