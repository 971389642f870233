package records

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strconv"
	"strings"
	"time"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/exchange/photo"
	"yembo/shop/base"
	"yembo/store"
)

// Photo is a picture on a model record, without its file.
type Photo struct {
	ID            int64
	Fact          string // path of the fact or place it shows, "" the whole machine
	Caption       string
	On, By        string
	Width, Height int
	At            time.Time
	Removed       bool
}

// PhotoEntry is a photo as it was sent.
type PhotoEntry struct {
	File    []byte
	Fact    string
	Caption string
	On      string // date it was taken; "" is today
}

// maxPhotos is how many photos a record may have.
const maxPhotos = 200

// AddPhoto takes a photo onto a model record and returns its id. The error is
// hw.Faults where the file or what was said about it cannot be taken; nothing is
// stored then.
func (s *Records) AddPhoto(ctx context.Context, a base.Actor, token, model string, in PhotoEntry) (int64, error) {
	record, err := s.Model(ctx, model)
	if err != nil {
		return 0, err
	}
	if in.On == "" {
		in.On = s.Today()
	}
	row, err := ReadPhoto(ctx, record.Chassis, in)
	if err != nil {
		return 0, err
	}
	row.By, row.CreatedAt = a.Name, s.Now()
	result, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		id, err := s.StorePhoto(tx, a, row)
		return strconv.FormatInt(id, 10), err
	})
	if err != nil {
		return 0, err
	}
	return strconv.ParseInt(result, 10, 64)
}

// ReadPhoto checks and re-encodes a photo; this takes its time and is done before
// the data file is touched.
func ReadPhoto(ctx context.Context, ch *hw.Chassis, in PhotoEntry) (*store.Photo, error) {
	var faults hw.Faults
	if in.Fact != "" && !isPhotoFact(ch, in.Fact) {
		faults.Add("/fact", hw.FaultReference, `"`+in.Fact+`"`, "fact or place of this record")
	}
	if len([]rune(in.Caption)) > 400 {
		faults.Add("/caption", hw.FaultRange, "the caption", "at most 400 characters")
	}
	if err := faults.Err(); err != nil {
		return nil, err
	}
	pic, err := photo.Read(ctx, in.File)
	if refused, ok := err.(photo.Refused); ok {
		return nil, hw.Faults{{Pointer: "/photo", Text: string(refused)}}
	}
	if err != nil {
		return nil, err
	}
	return &store.Photo{Kind: base.KindModel, Record: ch.ID, Fact: in.Fact, Caption: strings.TrimSpace(in.Caption),
		TakenOn: in.On,
		Width:   pic.Width, Height: pic.Height, Full: pic.Full, Thumb: pic.Thumb, Sum: SumOf(pic.Full),
		SourceSum: SumOf(in.File)}, nil
}

// SumOf tells files apart.
func SumOf(file []byte) string {
	sum := sha256.Sum256(file)
	return hex.EncodeToString(sum[:])
}

// StorePhoto stores a photo that was read. The same file a second time, or one that
// left here and comes back, is the photo there is, put back where it had been removed.
func (s *Records) StorePhoto(tx store.Tx, a base.Actor, row *store.Photo) (int64, error) {
	before, err := tx.PhotosOf(row.Kind, row.Record)
	if err != nil {
		return 0, err
	}
	for i := range before {
		if b := &before[i]; b.Sum == row.Sum || b.SourceSum == row.SourceSum || b.Sum == row.SourceSum {
			return before[i].ID, tx.SetPhotoRemoved(before[i].ID, false)
		}
	}
	if len(before) >= maxPhotos {
		return 0, hw.Faults{{Pointer: "/photo", Text: fmt.Sprintf("the record has %d photos already; no more are taken",
			maxPhotos)}}
	}
	if err := tx.Create(row); err != nil {
		return 0, err
	}
	return row.ID, s.Note(tx, a, row.Kind, row.Record, strings.TrimSuffix("photo added: "+row.Caption, ": "), nil)
}

// isPhotoFact reports whether a photo can show it: a fact with a finding, or a place.
func isPhotoFact(ch *hw.Chassis, path string) bool {
	for _, p := range PhotoFacts(ch) {
		if p == path {
			return true
		}
	}
	return false
}

// PhotoFacts lists what a photo of a model can be said to show: its places, then its
// facts, by path.
func PhotoFacts(ch *hw.Chassis) []string {
	var out []string
	seen := map[string]bool{}
	add := func(path string) {
		if !seen[path] {
			seen[path] = true
			out = append(out, path)
		}
	}
	for _, so := range ch.Mem().Soldered {
		add("/memory/soldered/" + so.ID)
	}
	for _, p := range ch.Places() {
		add(p.Path())
	}
	for i := range ch.Fasteners {
		add("/fasteners/" + ch.Fasteners[i].ID)
	}
	for i := range ch.Steps {
		add("/steps/" + ch.Steps[i].ID)
	}
	for _, f := range evidence.Facts(ch.Findings) {
		add(f.Path)
	}
	return out
}

// Photos lists the photos of a model, removed ones too.
func (s *Records) Photos(ctx context.Context, model string) ([]Photo, error) {
	var out []Photo
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.PhotosOf(base.KindModel, model)
		for i := range rows {
			r := &rows[i]
			out = append(out, PhotoOf(r))
		}
		return err
	})
	return out, err
}

// PhotoOf is a picture without its bytes.
func PhotoOf(r *store.Photo) Photo {
	return Photo{r.ID, r.Fact, r.Caption, r.TakenOn, r.By, r.Width, r.Height, r.CreatedAt, r.Removed}
}

// PhotoFile returns a photo as a JPEG file.
func (s *Records) PhotoFile(ctx context.Context, model string, id int64, thumb bool) ([]byte, error) {
	return s.photoFile(ctx, base.KindModel, model, id, thumb)
}

// JobPhotoFile returns a photo of a machine as it came.
func (s *Records) JobPhotoFile(ctx context.Context, job, id int64, thumb bool) ([]byte, error) {
	return s.photoFile(ctx, base.KindJob, strconv.FormatInt(job, 10), id, thumb)
}

func (s *Records) photoFile(ctx context.Context, kind, record string, id int64, thumb bool) ([]byte, error) {
	var out []byte
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.Photo(kind, record, id)
		out = row.Full
		if thumb {
			out = row.Thumb
		}
		return err
	})
	return out, err
}

// RemovePhoto takes a photo off the record, or puts it back. It is not deleted.
func (s *Records) RemovePhoto(ctx context.Context, a base.Actor, model string, id int64, removed bool) error {
	return s.Store.Update(ctx, func(tx store.Tx) error {
		row, err := tx.Photo(base.KindModel, model, id)
		if err != nil || row.Removed == removed {
			return err
		}
		if err := tx.SetPhotoRemoved(id, removed); err != nil {
			return err
		}
		what := "photo put back"
		if removed {
			what = "photo removed"
		}
		return s.Note(tx, a, base.KindModel, model, strings.TrimSuffix(what+": "+row.Caption, ": "), nil)
	})
}
