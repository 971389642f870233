package main

import (
	"archive/zip"
	"bytes"
	"fmt"
	"image"
	"image/png"
	"mime/multipart"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"
)

// bomb is a small file that would do large damage.
type bomb struct {
	name, to, field string // of the form's file
	file            func(t *testing.T) []byte
}

func chassisWith(rest string) []byte {
	return []byte(`{"format":"yembo.chassis/1","id":"x","kind":"notebook",` + rest + `}`)
}

// list is a list of n values, each as written.
func list(n int, each func(i int) string) string {
	var out strings.Builder
	for i := range n {
		if i > 0 {
			out.WriteByte(',')
		}
		out.WriteString(each(i))
	}
	return "[" + out.String() + "]"
}

func same(text string) func(int) string { return func(int) string { return text } }

func zipped(t *testing.T, files map[string][]byte) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, content := range files {
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write(content); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// bombs are the files; what each of them is made of is too much for the program that reads it all.
var bombs = []bomb{
	{"3 MB of faults", "/models/import", "file", func(*testing.T) []byte {
		return chassisWith(`"slots":` + list(1990, same(`{"wrong":1,"also":2}`)) + `,"findings":` + list(40_000,
			same(`{"x":1,"y":2,"z":3}`)))
	}},
	{"a list of 300,000 slots", "/models/import", "file", func(*testing.T) []byte {
		return chassisWith(`"slots":` + list(300_000, same(`{"id":"a"}`)))
	}},
	{"8 MB of numbers", "/models/import", "file",
		func(*testing.T) []byte { return chassisWith(`"year":` + list(4_000_000, same(`1`))) }},
	{"500,000 fields", "/models/import", "file", func(*testing.T) []byte {
		return []byte("{" + strings.Trim(list(500_000, func(i int) string { return fmt.Sprintf(`"f%d":1`, i) }), "[]") +
			"}")
	}},
	{"nested 100,000 deep", "/models/import", "file",
		func(*testing.T) []byte { return bytes.Repeat([]byte("["), 100_000) }},
	{"2,000 steps that all need all", "/models/import", "file", func(*testing.T) []byte {
		needs := list(400, func(i int) string { return fmt.Sprintf(`"s%d"`, i) })
		return chassisWith(`"steps":` + list(2000, func(i int) string {
			if i < 400 {
				return fmt.Sprintf(`{"id":"s%d","verb":"lift","needs":[]}`, i)
			}
			return fmt.Sprintf(`{"id":"s%d","verb":"lift","needs":%s}`, i, needs)
		}))
	}},
	{"50,000 findings of one fact", "/models/import", "file", func(*testing.T) []byte {
		return chassisWith(`"year":2020,"findings":` + list(49_000, func(i int) string {
			return fmt.Sprintf(`{"path":"/year","value":%d,"source":"seller","on":"2026-01-01","by":"a"}`, 2000+i%20)
		}))
	}},
	{"a zip of 1 MB with 1 GB in it", "/models/import", "file", func(t *testing.T) []byte {
		files := map[string][]byte{}
		zeros := make([]byte, 24<<20)
		photos := ""
		for i := range 40 {
			files[fmt.Sprintf("x/%d.jpg", i)] = zeros
			photos += fmt.Sprintf(`{"file":"x/%d.jpg"},`, i)
		}
		files["x.chassis.json"] = chassisWith(`"maker":"M","model":"X"`)
		files["x.photos.json"] = []byte(`{"format":"yembo.photos/1","photos":[` + strings.Trim(photos, ",") + `]}`)
		return zipped(t, files)
	}},
	{"a zip of 60 large records", "/models/import", "file", func(t *testing.T) []byte {
		files := map[string][]byte{}
		for i := range 60 {
			files[fmt.Sprintf("x%d.chassis.json",
				i)] = []byte(fmt.Sprintf(`{"format":"yembo.chassis/1","id":"x%d","kind":"notebook","covers":%s}`,
				i, list(1900, func(k int) string { return `"` + strings.Repeat("c", 300) + fmt.Sprint(k) + `"` })))
		}
		return zipped(t, files)
	}},
	{"a table of 500,000 columns", "/machines/import", "list",
		func(*testing.T) []byte { return bytes.Repeat([]byte("a;"), 500_000) }},
	{"a table of 8 MB in one line", "/machines/import", "list",
		func(*testing.T) []byte { return bytes.Repeat([]byte("a,"), 4_000_000) }},
	{"a table of 20,000 faulty rows", "/machines/import", "list", func(*testing.T) []byte {
		return []byte("customer;serial;model\n" + strings.Repeat("a;b;c;d;e\n", 20_000))
	}},
	{"a picture of 50 megapixels", "/jobs/3/photos", "photo", func(t *testing.T) []byte {
		var out bytes.Buffer
		if err := png.Encode(&out, image.NewGray(image.Rect(0, 0, 7000, 7000))); err != nil {
			t.Fatal(err)
		}
		return out.Bytes()
	}},
	{"a report of 7 MB", "/machines/3/readings", "report", func(*testing.T) []byte {
		return []byte("# dmidecode 3.3\n" +
			strings.Repeat("Handle 0x0011, DMI type 17, 40 bytes\nMemory Device\n\tSize: 8 GB\n", 110_000))
	}},
	{"a report of 60 MB", "/machines/3/readings", "report",
		func(*testing.T) []byte { return bytes.Repeat([]byte("x"), 60<<20) }},
}

// TestBombs: whatever is sent, the program answers with what is wrong or takes it, answers others
// meanwhile, and stays under 300 MB.
func TestBombs(t *testing.T) {
	dir := seeded(t)
	p := serving(t, dir)
	for _, b := range bombs {
		if !hard() && strings.HasPrefix(b.name, "a zip") {
			continue // it takes long to make
		}
		file := b.file(t)
		before := p.peak(t)
		done := make(chan string)
		began := time.Now()
		go func() {
			status, body := p.upload(b, file)
			done <- fmt.Sprint(status)
			if status == 0 || status >= 500 {
				t.Errorf("%s: %d %.300s", b.name, status, body)
			}
		}()
		slowest, answer := time.Duration(0), ""
		for answer == "" {
			asked := time.Now()
			if status, _ := p.get("/machines"); status != 200 {
				t.Errorf("%s: nobody else is answered: %d", b.name, status)
			}
			slowest = max(slowest, time.Since(asked))
			select {
			case answer = <-done:
			case <-time.After(20 * time.Millisecond):
			}
		}
		t.Logf("%-32s %6d kB: %s in %5.2f s, others within %4.2f s, peak %d MB (before %d)", b.name, len(file)/1024,
			answer,
			time.Since(began).Seconds(), slowest.Seconds(), p.peak(t), before)
	}
	if most := p.peak(t); most > 300 {
		t.Errorf("it took %d MB", most)
	}
	p.kill()
	sound(t, dir)
}

// upload sends a file by a form, and follows to what came of it.
func (p *program) upload(b bomb, file []byte) (status int, body string) {
	var sent bytes.Buffer
	w := multipart.NewWriter(&sent)
	part, err := w.CreateFormFile(b.field, "file")
	if err == nil {
		_, err = part.Write(file)
	}
	if err != nil || w.WriteField("token", "t"+b.name) != nil || w.Close() != nil {
		return 0, fmt.Sprint(err)
	}
	r, err := http.NewRequest("POST", p.url+b.to, &sent)
	if err != nil {
		return 0, err.Error()
	}
	r.Header.Set("Content-Type", w.FormDataContentType())
	status, body, _ = p.send(r)
	if strings.Contains(body, "/models/import/take-records") {
		return p.takeZip(body)
	}
	return status, body
}

// takeZip ticks all records of a zip, and waits for what comes of it.
func (p *program) takeZip(body string) (int, string) {
	form := url.Values{}
	for _, m := range fieldTag.FindAllStringSubmatch(body, -1) {
		if v := valueOf.FindStringSubmatch(m[0]); v != nil {
			form.Add(m[1], v[1])
		}
	}
	status, body, to := p.post("/models/import/take-records", form)
	for status == 303 {
		if status, body = p.get(to); strings.Contains(body, to+"/stop") {
			time.Sleep(50 * time.Millisecond)
			status = 303
		}
	}
	return status, body
}

// TestManyBombs: several at once are no worse than one; each waits for the other.
func TestManyBombs(t *testing.T) {
	if !hard() {
		t.Skip("only in make hard")
	}
	p := serving(t, seeded(t))
	done := make(chan int)
	files := make([][]byte, len(bombs))
	for i, b := range bombs {
		files[i] = b.file(t)
	}
	for range 3 {
		for i, b := range bombs {
			go func() {
				status, _ := p.upload(b, files[i])
				done <- status
			}()
		}
	}
	for range 3 * len(bombs) {
		if status := <-done; status == 0 || status >= 500 {
			t.Errorf("%d", status)
		}
	}
	t.Logf("%d at once, peak %d MB", 3*len(bombs), p.peak(t))
	if most := p.peak(t); most > 300 {
		t.Errorf("it took %d MB", most)
	}
}
