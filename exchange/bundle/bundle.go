// Package bundle writes and reads the zip in which many model records travel with
// their photos:
//
//	ID.chassis.json   the record, yembo.chassis/1
//	ID.photos.json    what its photos show, yembo.photos/1
//	ID/NAME.jpg       the photos
//
// Each record stands for itself: one that cannot be read spoils none of the others.
package bundle

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"iter"
	"path"
	"sort"
	"strings"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/exchange"
	"yembo/exchange/photo"
)

const (
	maxFiles   = 20_000
	maxRecords = 5_000
	// maxUnpacked is how much of a zip is unpacked in all.
	maxUnpacked = 1 << 30
)

// Photo is a picture of a record, with the path of the fact it shows by place id. Open gives its file,
// which is unpacked then and no sooner: all of them at once would be more than a machine holds.
type Photo struct {
	File, Fact, Caption, On, By string
	Open                        func() ([]byte, error)
}

// Record is a model record with its photos. Chassis is nil where Err says why it
// cannot be read.
type Record struct {
	Name    string // of the file
	Chassis *hw.Chassis
	Photos  []Photo
	Err     error
}

// list is yembo.photos/1; facts are JSON Pointers into the chassis document.
type list struct {
	Format string      `json:"format"`
	Photos []listPhoto `json:"photos"`
}

type listPhoto struct {
	File    string `json:"file"`
	Fact    string `json:"fact,omitempty"`
	Caption string `json:"caption,omitempty"`
	On      string `json:"on,omitempty"`
	By      string `json:"by,omitempty"`
}

// Write writes records as a zip, one after the other as they are given. A photo's File is given by its
// place in the list.
func Write(w io.Writer, records iter.Seq2[Record, error]) error {
	z := zip.NewWriter(w)
	put := func(name string, method uint16, content []byte) error {
		out, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: method})
		if err != nil {
			return err
		}
		_, err = out.Write(content)
		return err
	}
	for r, err := range records {
		if err != nil {
			return err
		}
		doc, err := exchange.WriteChassis(r.Chassis)
		if err != nil {
			return err
		}
		if err := put(r.Chassis.ID+".chassis.json", zip.Deflate, doc); err != nil {
			return err
		}
		photos := list{Format: hw.FormatPhotos}
		for i, p := range r.Photos {
			file := fmt.Sprintf("%s/%03d.jpg", r.Chassis.ID, i+1)
			fact := ""
			if p.Fact != "" {
				fact = evidence.Pointer(r.Chassis, p.Fact)
			}
			photos.Photos = append(photos.Photos, listPhoto{file, fact, p.Caption, p.On, p.By})
			jpeg, err := p.Open()
			if err != nil {
				return err
			}
			if err := put(file, zip.Store, jpeg); err != nil {
				return err
			}
		}
		if len(photos.Photos) == 0 {
			continue
		}
		if doc, err = exchange.Write(photos); err != nil {
			return err
		}
		if err := put(r.Chassis.ID+".photos.json", zip.Deflate, doc); err != nil {
			return err
		}
	}
	return z.Close()
}

// IsZip reports whether a file is a zip by its content.
func IsZip(file []byte) bool { return bytes.HasPrefix(file, []byte("PK\x03\x04")) }

// Read reads a zip, one record at a time in the order of their names, and how many there are. The error is
// for one that cannot be opened at all; what is wrong with a record stands in it.
func Read(file []byte) (records iter.Seq[Record], n int, err error) {
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	if err != nil {
		return nil, 0, hw.Faults{{Text: "the zip is damaged or cut off"}}
	}
	if len(z.File) > maxFiles {
		return nil, 0, hw.Faults{{Text: fmt.Sprintf("the zip holds %d files; at most %d are taken", len(z.File),
			maxFiles)}}
	}
	in := &unpacker{files: map[string]*zip.File{}, left: maxUnpacked}
	var names []string
	for _, f := range z.File {
		if _, twice := in.files[f.Name]; twice {
			return nil, 0, hw.Faults{{Text: fmt.Sprintf("the zip holds %q twice", f.Name)}}
		}
		in.files[f.Name] = f
		if strings.HasSuffix(f.Name, ".chassis.json") && !strings.Contains(f.Name, "/") {
			names = append(names, f.Name)
		}
	}
	if len(names) == 0 {
		return nil, 0, hw.Faults{{Text: "the zip holds no model record: a file such as maker-model.chassis.json at its " +
			"top is expected"}}
	}
	if len(names) > maxRecords {
		return nil, 0, hw.Faults{{Text: fmt.Sprintf("the zip holds %d records; at most %d are taken", len(names),
			maxRecords)}}
	}
	sort.Strings(names)
	return func(yield func(Record) bool) {
		for _, name := range names {
			r := Record{Name: name}
			if r.Err = in.record(&r); r.Err != nil {
				r.Chassis, r.Photos = nil, nil
			}
			if !yield(r) {
				return
			}
		}
	}, len(names), nil
}

// unpacker unpacks files up to a limit: a small zip can hold a great deal.
type unpacker struct {
	files map[string]*zip.File
	left  int64
}

// has looks whether a file is there and says of itself that it is not too large.
func (in *unpacker) has(name string, most uint64) error {
	switch f := in.files[name]; {
	case f == nil:
		return hw.Faults{{Text: name + " is not in the zip"}}
	case f.UncompressedSize64 > most:
		return hw.Faults{{Text: fmt.Sprintf("%s is larger than %d MB", name, most>>20)}}
	}
	return nil
}

func (in *unpacker) read(name string, most int64) ([]byte, error) {
	f := in.files[name]
	if f == nil {
		return nil, hw.Faults{{Text: name + " is not in the zip"}}
	}
	r, err := f.Open()
	if err != nil {
		return nil, hw.Faults{{Text: name + " cannot be unpacked"}}
	}
	defer r.Close()
	most = min(most, in.left)
	content, err := io.ReadAll(io.LimitReader(r, most+1))
	switch {
	case err != nil:
		return nil, hw.Faults{{Text: name + " cannot be unpacked"}}
	case int64(len(content)) > most:
		return nil, hw.Faults{{Text: fmt.Sprintf("%s is larger than %d MB, or the zip is too large in all", name,
			most>>20)}}
	}
	in.left -= int64(len(content))
	return content, nil
}

func (in *unpacker) record(r *Record) error {
	doc, err := in.read(r.Name, exchange.MaxDocument)
	if err != nil {
		return err
	}
	if r.Chassis, err = exchange.ReadChassis(doc); err != nil {
		return err
	}
	id := strings.TrimSuffix(r.Name, ".chassis.json")
	if r.Chassis.ID != id {
		return hw.Faults{{Pointer: "/id", Text: fmt.Sprintf("%q is not the name of its file", r.Chassis.ID)}}
	}
	if in.files[id+".photos.json"] == nil {
		return nil
	}
	if doc, err = in.read(id+".photos.json", exchange.MaxDocument); err != nil {
		return err
	}
	var photos list
	if err := exchange.Read("photos", doc, &photos); err != nil {
		return within(id+".photos.json", err)
	}
	for i, p := range photos.Photos {
		at := fmt.Sprintf("%s.photos.json: /photos/%d", id, i)
		if path.Dir(p.File) != id {
			return hw.Faults{{Pointer: at + "/file", Text: fmt.Sprintf("%q does not lie in the folder %s", p.File, id)}}
		}
		if err := in.has(p.File, photo.MaxBytes); err != nil {
			return within(at+"/file", err)
		}
		fact, ok := "", true
		if p.Fact != "" {
			fact, ok = evidence.ByID(r.Chassis, p.Fact)
		}
		if !ok {
			return hw.Faults{{Pointer: at + "/fact",
				Text: hw.Word(hw.FaultReference, `"`+p.Fact+`"`, "fact or place of this record")}}
		}
		r.Photos = append(r.Photos, Photo{p.File, fact, p.Caption, p.On, p.By,
			func() ([]byte, error) { return in.read(p.File, photo.MaxBytes) }})
	}
	return nil
}

// within puts the file in front of each fault's place.
func within(file string, err error) error {
	var faults hw.Faults
	if !errors.As(err, &faults) {
		return fmt.Errorf("%s: %w", file, err)
	}
	out := make(hw.Faults, len(faults))
	for i, f := range faults {
		out[i] = hw.Fault{Pointer: strings.TrimSuffix(file+": "+f.Pointer, ": "), Text: f.Text}
	}
	return out
}
