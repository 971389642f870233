package shop

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
func (s *Shop) AddPhoto(ctx context.Context, a Actor, token, model string, in PhotoEntry) (int64, error) {
	record, err := s.Model(ctx, model)
	if err != nil {
		return 0, err
	}
	if in.On == "" {
		in.On = s.today()
	}
	row, err := readPhoto(ctx, record.Chassis, in)
	if err != nil {
		return 0, err
	}
	row.By, row.CreatedAt = a.Name, s.Now()
	result, err := s.once(ctx, token, func(tx store.Tx) (string, error) {
		id, err := s.storePhoto(tx, a, row)
		return strconv.FormatInt(id, 10), err
	})
	if err != nil {
		return 0, err
	}
	return strconv.ParseInt(result, 10, 64)
}

// AddJobPhoto keeps a photo of a machine as it came. The error is hw.Faults where the file
// cannot be taken.
func (s *Shop) AddJobPhoto(ctx context.Context, a Actor, token string, job int64, in PhotoEntry) error {
	j, err := s.Job(ctx, job)
	if err != nil {
		return err
	}
	in.Fact, in.On = "", s.today()
	row, err := readPhoto(ctx, j.Chassis, in)
	if err != nil {
		return err
	}
	row.Kind, row.Record, row.By, row.CreatedAt = kindJob, strconv.FormatInt(job, 10), a.Name, s.Now()
	_, err = s.once(ctx, token, func(tx store.Tx) (string, error) {
		id, err := s.storePhoto(tx, a, row)
		return strconv.FormatInt(id, 10), err
	})
	return err
}

// readPhoto checks and re-encodes a photo; this takes its time and is done before
// the data file is touched.
func readPhoto(ctx context.Context, ch *hw.Chassis, in PhotoEntry) (*store.Photo, error) {
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
	return &store.Photo{Kind: kindModel, Record: ch.ID, Fact: in.Fact, Caption: strings.TrimSpace(in.Caption),
		TakenOn: in.On,
		Width:   pic.Width, Height: pic.Height, Full: pic.Full, Thumb: pic.Thumb, Sum: sumOf(pic.Full),
		SourceSum: sumOf(in.File)}, nil
}

// sumOf tells files apart.
func sumOf(file []byte) string {
	sum := sha256.Sum256(file)
	return hex.EncodeToString(sum[:])
}

// storePhoto stores a photo that was read. The same file a second time, or one that
// left here and comes back, is the photo there is, put back where it had been removed.
func (s *Shop) storePhoto(tx store.Tx, a Actor, row *store.Photo) (int64, error) {
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
	return row.ID, s.note(tx, a, row.Kind, row.Record, strings.TrimSuffix("photo added: "+row.Caption, ": "), nil)
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
func (s *Shop) Photos(ctx context.Context, model string) ([]Photo, error) {
	var out []Photo
	err := s.store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.PhotosOf(kindModel, model)
		for i := range rows {
			r := &rows[i]
			out = append(out, photoOf(r))
		}
		return err
	})
	return out, err
}

func photoOf(r *store.Photo) Photo {
	return Photo{r.ID, r.Fact, r.Caption, r.TakenOn, r.By, r.Width, r.Height, r.CreatedAt, r.Removed}
}

// PhotoFile returns a photo as a JPEG file.
func (s *Shop) PhotoFile(ctx context.Context, model string, id int64, thumb bool) ([]byte, error) {
	return s.photoFile(ctx, kindModel, model, id, thumb)
}

// JobPhotoFile returns a photo of a machine as it came.
func (s *Shop) JobPhotoFile(ctx context.Context, job, id int64, thumb bool) ([]byte, error) {
	return s.photoFile(ctx, kindJob, strconv.FormatInt(job, 10), id, thumb)
}

func (s *Shop) photoFile(ctx context.Context, kind, record string, id int64, thumb bool) ([]byte, error) {
	var out []byte
	err := s.store.View(ctx, func(tx store.Tx) error {
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
func (s *Shop) RemovePhoto(ctx context.Context, a Actor, model string, id int64, removed bool) error {
	return s.store.Update(ctx, func(tx store.Tx) error {
		row, err := tx.Photo(kindModel, model, id)
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
		return s.note(tx, a, kindModel, model, strings.TrimSuffix(what+": "+row.Caption, ": "), nil)
	})
}
