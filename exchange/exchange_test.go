package exchange

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/proof"
	"yembo/core/reading"
	"yembo/core/teardown"
)

// documents reads the demo's documents as raw text, by kind.
func documents(t testing.TB) map[string][][]byte {
	t.Helper()
	out := map[string][][]byte{}
	for kind, names := range map[string][]string{"chassis": {"aster", "drover", "block", "osier", "fennel", "carter",
		"reedmace", "aster16"}, "parts": {"parts"}} {
		for _, n := range names {
			raw, err := os.ReadFile(filepath.Join("..", "shop", "demo", n+".json"))
			if err != nil {
				t.Fatal(err)
			}
			out[kind] = append(out[kind], raw)
		}
	}
	raw, err := os.ReadFile(filepath.Join("..", "shop", "demo", "jobs.json"))
	if err != nil {
		t.Fatal(err)
	}
	var list struct {
		Jobs []struct{ Machine, Wish json.RawMessage }
	}
	if err := json.Unmarshal(raw, &list); err != nil {
		t.Fatal(err)
	}
	for _, j := range list.Jobs {
		machine, errM := ReadMachine(j.Machine, nil)
		wish, errW := ReadRequest(j.Wish, nil)
		if errM != nil || errW != nil {
			t.Fatal(errM, errW)
		}
		m, errM := Write(machine)
		w, errW := Write(wish)
		if errM != nil || errW != nil {
			t.Fatal(errM, errW)
		}
		out["machine"] = append(out["machine"], m)
		out["request"] = append(out["request"], w)
	}
	return out
}

// TestRoundTrip: what Yembo writes reads back to the same value, and to the same
// bytes.
func TestRoundTrip(t *testing.T) {
	docs := documents(t)
	for _, raw := range docs["chassis"] {
		a, err := ReadChassis(raw)
		if err != nil {
			t.Fatal(err)
		}
		out, err := WriteChassis(a)
		if err != nil {
			t.Fatal(err)
		}
		b, err := ReadChassis(out)
		if err != nil || !reflect.DeepEqual(a, b) {
			t.Errorf("%s reads back to another value: %v", a.ID, err)
		}
		if again, _ := WriteChassis(b); !bytes.Equal(out, again) {
			t.Errorf("%s is written differently the second time", a.ID)
		}
	}
	for _, raw := range docs["machine"] {
		a, err := ReadMachine(raw, nil)
		if err != nil {
			t.Fatal(err)
		}
		if out, _ := Write(a); !bytes.Equal(out, raw) {
			t.Errorf("machine %s is written differently", a.ID)
		}
	}
}

// TestFaults: each slip is refused with the pointer of its place and in words.
func TestFaults(t *testing.T) {
	docs := documents(t)
	read := map[string]func([]byte) error{
		"chassis": func(d []byte) error { _, err := ReadChassis(d); return err },
		"machine": func(d []byte) error { _, err := ReadMachine(d, nil); return err },
		"parts":   func(d []byte) error { _, err := ReadParts(d); return err },
		"request": func(d []byte) error { _, err := ReadRequest(d, nil); return err },
	}
	for _, c := range []struct{ kind, from, to, want string }{
		{"chassis", `"kind": "notebook"`, `"kind": "laptop"`,
			`/kind: "laptop" is not an option; use notebook, mini_pc`},
		{"chassis", `"kind": "notebook",`, ``, `kind is missing`},
		{"chassis", `"kind": "notebook"`, `"kind": "notebook", "colour": "grey"`,
			`/colour: "colour" is not a field here`},
		{"chassis", `"channels": 2`, `"channels": "two"`,
			`/memory/channels: "two" is not valid here; expected a whole number`},
		{"chassis", `"channels": 2`, `"channels": 2.5`,
			`/memory/channels: 2.5 is not valid here; expected a whole number`},
		{"chassis", `"channels": 2`, `"channels": null`, `/memory/channels: null is not valid here`},
		{"chassis", `"channels": 2`, `"channels": 1`, `/memory/sockets/0/channel: "B": no such channel`},
		{"chassis", `"capacity_gb": 8`, `"capacity_gb": 1e308`,
			`/memory/soldered/0/capacity_gb: 1e308 is not a number between`},
		{"chassis", `"capacity_gb": 8`, `"capacity_gb": -8`, `/memory/soldered/0/capacity_gb: -8 is out of range`},
		{"chassis", `"capacity_gb": 8`, `"capacity_gb": "NaN"`,
			`/memory/soldered/0/capacity_gb: "NaN" is not valid here; expected a number`},
		{"chassis", `"capacity_gb": 8`, `"capacity_gb": NaN`, `line `},
		{"chassis", `"maker_gb": 24`, `"maker_gb": 4`,
			`/memory/limits/maker_gb: the maker's limit is 4 GB, but 8 GB are soldered already`},
		{"chassis", `"80": "movable"`, `"80": "glued"`,
			`/slots/0/lengths/80: "glued" is not an option; use fitted, movable, none or needs:ACCESSORY`},
		{"chassis", `"80": "movable"`, `"long": "movable"`, `/slots/0/lengths/long`},
		{"chassis", `"path": "/memory/type"`, `"path": "/memory/kind"`,
			`/findings/0/path: /memory/kind is not in the record`},
		{"chassis", `"id": "onboard"`, `"id": "On Board"`,
			`/memory/soldered/0/id: "On Board" is not an option; use lower-case letters, digits and single dashes`},
		{"chassis", `"maker": "Quillon"`, `"maker": "Quillon", "maker": "Pellam"`, `/maker: "maker" is already used`},
		{"chassis", `"format": "yembo.chassis/1"`, `"format": "yembo.chassis/9"`,
			`/format: "yembo.chassis/9" is not an option`},
		{"machine", `"chassis": "quillon-aster-14"`, `"chassis": "quillon-aster-14", "memory": {}`,
			`/memory: "memory" is not a field here`},
		{"machine", `"boot": true`, `"boot": "yes"`,
			`/fitted/drives/0/boot: "yes" is not valid here; expected true or false`},
		{"parts", `"kind": "memory"`, `"kind": "drive"`, `/parts/0: drive is missing`},
		{"parts", `"price_cents": 1990`, `"price_cents": 19.9`, `/parts/0/price_cents: 19.9 is not valid here`},
		{"parts", `"id": "cv-d4-16"`, `"id": "cv-d4-8"`, `/parts/1/id: "cv-d4-8" is already used`},
		{"request", `"memory_gb": 24`, ``, `/goals: at least one goal or service is missing`},
		{"request", `"memory_gb": 24`, `"memory_gb": 0`, `/goals/memory_gb: 0 is out of range`},
	} {
		raw := docs[c.kind][0]
		changed := bytes.Replace(raw, []byte(c.from), []byte(c.to), 1)
		if bytes.Equal(raw, changed) {
			t.Fatalf("%s has no %s", c.kind, c.from)
		}
		err := read[c.kind](changed)
		var faults hw.Faults
		if !errors.As(err, &faults) || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s → %s:\n%v\nwant %s", c.from, c.to, err, c.want)
		}
	}
}

// TestAnswersFollowTheirSchema checks what the core answers against the published
// schemas of the answers.
func TestAnswersFollowTheirSchema(t *testing.T) {
	docs := documents(t)
	parts, err := ReadParts(docs["parts"][0])
	if err != nil {
		t.Fatal(err)
	}
	check := func(name string, doc any) {
		t.Helper()
		raw, err := Write(doc)
		if err != nil {
			t.Fatal(err)
		}
		tree, err := readTree(raw)
		if err == nil {
			err = checkShape(name, tree)
		}
		if err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
	models := map[string]*hw.Chassis{}
	for _, raw := range docs["chassis"] {
		ch, err := ReadChassis(raw)
		if err != nil {
			t.Fatal(err)
		}
		models[ch.ID] = ch
	}
	for i, raw := range docs["machine"] {
		of, errC := ReadMachine(raw, nil)
		if errC != nil {
			t.Fatal(errC)
		}
		ch := models[of.Chassis]
		m, errM := ReadMachine(raw, ch)
		req, errR := ReadRequest(docs["request"][i], nil)
		if errC != nil || errM != nil || errR != nil {
			t.Fatal(errC, errM, errR)
		}
		p, err := plan.Make(t.Context(), plan.Input{Chassis: ch, Machine: m, Parts: parts, Request: req})
		if err != nil || len(p.Options) == 0 && p.Verdict == "upgrade" {
			t.Fatal(err)
		}
		check("plan", p)
		targets := []string{"dimm1", "battery"}
		if len(ch.Batteries) == 0 {
			targets = targets[:1]
		}
		sheet, err := teardown.RunSheet(t.Context(), ch, targets, teardown.Job{})
		if err != nil {
			t.Fatal(err)
		}
		check("runsheet", sheet)
		seen := &reading.Observed{
			System: &reading.System{Serial: "another"},
			Memory: &reading.Memory{Devices: []reading.Device{}},
			Drives: []reading.Drive{{Interface: "sata"}},
		}
		check(
			"report",
			proof.Report{
				Format:   proof.FormatReport,
				Job:      "7",
				Machine:  proof.ReportMachine{ID: "m", Model: ch.ID},
				Sentence: "It starts.",
				Found:    []string{"dust"},
				Done:     []proof.ReportDone{{Place: "dimm1", What: "a module", Serial: "S1"}},
				Measures: []proof.ReportMeasure{
					{Name: "start", Unit: "s", After: hw.Known(hw.DecOf(20)), Shows: "better"},
				},
				Tests:    []string{},
				Left:     []string{},
				Data:     []string{},
				Old:      []proof.ReportOld{{What: "a module", Goes: "back"}},
				Care:     []string{},
				Cautions: []string{},
				Warranty: []proof.ReportWarranty{{What: "a module", Until: "2027-05-14"}},
				Open:     []string{},
				Notes:    []string{},
				Signed: &proof.ReportSigned{
					By: "a",
					On: "2026-05-14",
				},
				Handed: &proof.ReportHanded{To: "b", On: "2026-05-14", With: []string{"charger"}, Without: []string{}},
			},
		)
		check("differences", proof.DifferencesOf(ch, m, proof.Compare(ch, m, seen)))
	}
}

func TestHostileDocuments(t *testing.T) {
	for name, c := range map[string]struct {
		data []byte
		want string
	}{
		"too large":         {bytes.Repeat([]byte(" "), MaxDocument+1), "at most 16 MB"},
		"not UTF-8":         {[]byte("{\"format\":\"\xff\"}"), "not UTF-8 (first wrong byte at line 1, column 12)"},
		"cut short":         {[]byte(`{"format": "yembo.chassis/1"`), "line 1"},
		"more behind":       {[]byte(`{} {}`), "something follows"},
		"too deep":          {[]byte(strings.Repeat(`{"a":`, 100) + "1" + strings.Repeat("}", 100)), "nested deeper"},
		"empty":             {nil, "ends too early"},
		"a list":            {[]byte(`[]`), "expected an object"},
		"hostile exponent":  {[]byte(`{"a":1e999999999}`), "not a number between"},
		"with a byte order": {[]byte("\xef\xbb\xbf{}"), "format is missing"},
	} {
		_, err := ReadChassis(c.data)
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v; want %s", name, err, c.want)
		}
	}
	// 200 steps and 10,000 parts are large, not wrong.
	var steps, parts strings.Builder
	for i := range 200 {
		need := ""
		if i > 0 {
			need = `"s` + itoa(i-1) + `"`
		}
		steps.WriteString(sep(i) + `{"id":"s` + itoa(i) + `","verb":"lift","needs":[` + need + `]}`)
	}
	if _, err := ReadChassis([]byte(`{"format":"yembo.chassis/1","id":"c","kind":"notebook","steps":[` +
		steps.String() + `]}`)); err != nil {
		t.Errorf("200 steps: %v", err)
	}
	for i := range 10_000 {
		parts.WriteString(sep(i) + `{"id":"p` + itoa(i) +
			`","kind":"accessory","name":"n","price_cents":1,"provides":"x"}`)
	}
	if _, err := ReadParts([]byte(`{"format":"yembo.parts/1","parts":[` + parts.String() + `]}`)); err != nil {
		t.Errorf("10,000 parts: %v", err)
	}
}

func sep(i int) string {
	if i == 0 {
		return ""
	}
	return ","
}

func itoa(n int) string { return hw.DecOf(n).String() }

func fuzz(f *testing.F, kind string, read func([]byte) (any, error)) {
	for _, raw := range documents(f)[kind] {
		f.Add(raw)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		doc, err := read(data)
		if err != nil {
			return
		}
		out, err := Write(doc)
		if err != nil {
			t.Fatal(err)
		}
		again, err := read(out)
		if err != nil {
			t.Fatalf("what was written is not read: %v\n%s", err, out)
		}
		if second, _ := Write(again); !bytes.Equal(out, second) {
			t.Errorf("written differently the second time:\n%s\n%s", out, second)
		}
	})
}

func FuzzMachine(f *testing.F) {
	fuzz(f, "machine", func(d []byte) (any, error) { return ReadMachine(d, nil) })
}
func FuzzParts(f *testing.F) {
	fuzz(f, "parts", func(d []byte) (any, error) { return ReadParts(d) })
}
func FuzzRequest(f *testing.F) {
	fuzz(f, "request", func(d []byte) (any, error) { return ReadRequest(d, nil) })
}

// FuzzChassis writes with paths by index and reads them back by id.
func FuzzChassis(f *testing.F) {
	for _, raw := range documents(f)["chassis"] {
		f.Add(raw)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		ch, err := ReadChassis(data)
		if err != nil {
			return
		}
		out, err := WriteChassis(ch)
		if err != nil {
			t.Fatal(err)
		}
		if again, err := ReadChassis(out); err != nil || !reflect.DeepEqual(ch.Findings, again.Findings) {
			t.Errorf("findings do not come back: %v\n%s", err, out)
		}
	})
}

func BenchmarkReadChassis(b *testing.B) {
	raw := documents(b)["chassis"][0]
	b.SetBytes(int64(len(raw)))
	for b.Loop() {
		if _, err := ReadChassis(raw); err != nil {
			b.Fatal(err)
		}
	}
}

// manyParts is a list of 5,000 parts, made of the demo's.
func manyParts(tb testing.TB) []byte {
	list, err := ReadParts(documents(tb)["parts"][0])
	if err != nil {
		tb.Fatal(err)
	}
	out := *list
	out.Parts = nil
	for i := range 5000 {
		part := list.Parts[i%len(list.Parts)]
		part.ID, part.PriceCents = fmt.Sprintf("%s-%d", part.ID, i), part.PriceCents+int64(i)
		out.Parts = append(out.Parts, part)
	}
	raw, err := Write(&out)
	if err != nil {
		tb.Fatal(err)
	}
	return raw
}

// BenchmarkReadParts reads and checks a large list; the figure to hold is 20 MB/s.
func BenchmarkReadParts(b *testing.B) {
	raw := manyParts(b)
	b.SetBytes(int64(len(raw)))
	for b.Loop() {
		if _, err := ReadParts(raw); err != nil {
			b.Fatal(err)
		}
	}
}

// TestObserved: what the readers write is of the published shape, and reads back the same.
func TestObserved(t *testing.T) {
	files, err := filepath.Glob("../core/reading/testdata/in/*")
	if err != nil || len(files) < 10 {
		t.Fatal(files, err)
	}
	var all []*reading.Observed
	check := func(name string, o *reading.Observed) {
		out, err := Write(o)
		if err != nil {
			t.Fatal(name, err)
		}
		back, err := ReadObserved(out)
		if err != nil {
			t.Errorf("%s: %v\n%s", name, err, out)
			return
		}
		if again, _ := Write(back); !bytes.Equal(again, out) {
			t.Errorf("%s reads back as\n%s", name, again)
		}
	}
	for _, file := range files {
		data, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		o, err := reading.Read(data)
		if err != nil {
			t.Fatal(file, err)
		}
		all = append(all, o)
		check(file, reading.Merge([]*reading.Observed{o}))
	}
	check("all of them", reading.Merge(all))
}

// FuzzObserved: whatever a report holds, what is read of it has the published shape.
func FuzzObserved(f *testing.F) {
	files, err := filepath.Glob("../core/reading/testdata/in/*")
	if err != nil || len(files) < 10 {
		f.Fatal(files, err)
	}
	for _, file := range files {
		raw, err := os.ReadFile(file)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(raw)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		o, err := reading.Read(data)
		if err != nil {
			return
		}
		out, err := Write(reading.Merge([]*reading.Observed{o, o}))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := ReadObserved(out); err != nil {
			t.Errorf("%v\n%s", err, out)
		}
	})
}

// TestControlSigns: a record with signs that are no text is refused at their place, however they are
// written; what a machine says of itself is taken as it is.
func TestControlSigns(t *testing.T) {
	for _, sign := range []string{`\u0007`, `\u001b[31m`, `\u0000`, "\x7f", "\u0085", `\u009b`} {
		for name, doc := range map[string]string{
			"/model": `{"format":"yembo.chassis/1","id":"a","kind":"notebook","model":"x` + sign + `y"}`,
			"/steps/0/part": `{"format":"yembo.chassis/1","id":"a","kind":"notebook","steps":[{"id":"s","verb":"lift",
"needs":[],"part":"x` + sign + `"}]}`,
			"/findings/0/note": `{"format":"yembo.chassis/1","id":"a","kind":"notebook","year":2020,"findings":[{"path":"/year",
"value":2020,"source":"bench","note":"` + sign + `"}]}`,
		} {
			_, err := ReadChassis([]byte(doc))
			var faults hw.Faults
			if !errors.As(err, &faults) || faults[0].Pointer != name {
				t.Errorf("%q at %s: %v", sign, name, err)
			}
		}
		var o reading.Observed
		if err := Read("observed", []byte(`{"format":"yembo.observed/1","from":["cim"],"system":{"maker":"x`+sign+`"}}`),
			&o); err != nil {
			t.Errorf("%q of a machine: %v", sign, err)
		}
	}
	if _, err := ReadChassis([]byte(`{"format":"yembo.chassis/1","id":"a","kind":"notebook",
"covers_note":"one\ntwo\tthree"}`)); err != nil {
		t.Errorf("line ends and tabs: %v", err)
	}
}
