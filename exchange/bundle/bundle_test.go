package bundle

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"iter"
	"os"
	"slices"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/exchange"
)

func record(t *testing.T) Record {
	raw, err := os.ReadFile("../../shop/demo/aster.json")
	if err != nil {
		t.Fatal(err)
	}
	ch, err := exchange.ReadChassis(raw)
	if err != nil {
		t.Fatal(err)
	}
	return Record{Chassis: ch, Photos: []Photo{
		{Fact: "/slots/m2a/lanes", Caption: "lanes", On: "2026-05-01", By: "A", Open: file("one")},
		{Fact: "/memory/sockets/dimm1", Open: file("two")}, {Open: file("three")}}}
}

func file(content string) func() ([]byte, error) {
	return func() ([]byte, error) { return []byte(content), nil }
}

func only(r Record) iter.Seq2[Record, error] {
	return func(yield func(Record, error) bool) { yield(r, nil) }
}

func readAll(file []byte) ([]Record, error) {
	records, _, err := Read(file)
	if err != nil {
		return nil, err
	}
	return slices.Collect(records), nil
}

// TestRoundTrip: what is written is read back, and facts are pointers in the zip.
func TestRoundTrip(t *testing.T) {
	want := record(t)
	var out bytes.Buffer
	if err := Write(&out, only(want)); err != nil {
		t.Fatal(err)
	}
	got, err := readAll(out.Bytes())
	if err != nil || len(got) != 1 || got[0].Err != nil || !IsZip(out.Bytes()) {
		t.Fatalf("%v %+v", err, got)
	}
	for i, p := range got[0].Photos {
		p.File = ""
		jpeg, err := p.Open()
		was, _ := want.Photos[i].Open()
		p.Open, want.Photos[i].Open = nil, nil
		if err != nil || string(jpeg) != string(was) || fmt.Sprint(p) != fmt.Sprint(want.Photos[i]) {
			t.Errorf("photo %d comes back as %v", i, p)
		}
	}
	if !bytes.Contains(entry(t, out.Bytes(), "quillon-aster-14.photos.json"), []byte(`"/slots/0/lanes"`)) {
		t.Error("the list of photos does not name the fact by its pointer")
	}
}

func entry(t *testing.T, file []byte, name string) []byte {
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	if err != nil {
		t.Fatal(err)
	}
	f, err := z.Open(name)
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if _, err := out.ReadFrom(f); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// TestFaultyZips: each fault is named at its file, and a record that cannot be read
// spoils none of the others.
func TestFaultyZips(t *testing.T) {
	var whole bytes.Buffer
	if err := Write(&whole, only(record(t))); err != nil {
		t.Fatal(err)
	}
	good := string(entry(t, whole.Bytes(), "quillon-aster-14.chassis.json"))
	photos := func(list ...map[string]string) string {
		doc, err := json.Marshal(map[string]any{"format": hw.FormatPhotos, "photos": list})
		if err != nil {
			t.Fatal(err)
		}
		return string(doc)
	}
	const id = "quillon-aster-14"
	for name, c := range map[string]struct {
		files map[string]string
		says  string
	}{
		"nothing": {map[string]string{"readme.txt": "hello"}, "the zip holds no model record"},
		"not json": {map[string]string{id + ".chassis.json": "{"},
			"line 1, column 2: the document ends too early"},
		"another name": {map[string]string{"other.chassis.json": good}, "is not the name of its file"},
		"missing photo": {map[string]string{id + ".chassis.json": good,
			id + ".photos.json": photos(map[string]string{"file": id + "/1.jpg"})}, "1.jpg is not in the zip"},
		"out of its place": {map[string]string{id + ".chassis.json": good,
			id + ".photos.json": photos(map[string]string{"file": "other/1.jpg"}), "other/1.jpg": "x"},
			"does not lie in the folder"},
		"upwards": {map[string]string{id + ".chassis.json": good,
			id + ".photos.json": photos(map[string]string{"file": "../1.jpg"})}, "/photos/0/file"},
		"no such fact": {map[string]string{id + ".chassis.json": good,
			id + ".photos.json": photos(map[string]string{"file": id + "/1.jpg", "fact": "/slots/9/key"}),
			id + "/1.jpg":       "x"}, "/photos/0/fact"},
		"unknown field": {map[string]string{id + ".chassis.json": good,
			id + ".photos.json": photos(map[string]string{"file": id + "/1.jpg", "taken": "x"})}, "/photos/0/taken"},
		"too large": {map[string]string{id + ".chassis.json": strings.Repeat(" ", 17<<20)}, "larger than 16 MB"},
	} {
		var buf bytes.Buffer
		z := zip.NewWriter(&buf)
		for file, content := range c.files {
			w, err := z.Create(file)
			if err != nil {
				t.Fatal(err)
			}
			if _, err := w.Write([]byte(content)); err != nil {
				t.Fatal(err)
			}
		}
		z.Close()
		got, err := readAll(buf.Bytes())
		if err == nil {
			err = got[0].Err
		}
		var faults hw.Faults
		if !errors.As(err, &faults) || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := readAll(whole.Bytes()[:whole.Len()/2]); err == nil || !strings.Contains(err.Error(), "damaged") {
		t.Errorf("half a zip: %v", err)
	}
}
