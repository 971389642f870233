package record_test

import (
	"archive/zip"
	"bytes"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// TestBundle: all records leave with their photos and come back into an empty shop;
// of a zip with good and faulty records the good ones can be taken, and what changes
// is shown before anything is stored.
func TestBundle(t *testing.T) {
	from, _ := webtest.Application(t)
	all := webtest.Request(from, "GET", "/models/export?", nil, nil)
	if all.Header().Get("Content-Type") != "application/zip" {
		t.Fatalf("%v", all.Header())
	}
	some := webtest.Request(from, "GET", "/models/export?q=quillon", nil, nil).Body.Bytes()
	if n := len(entries(t, some)); n >= len(entries(t, all.Body.Bytes())) || n == 0 {
		t.Errorf("those that were searched for are %d files", n)
	}
	// One record is changed on the way, one spoilt.
	var changed bytes.Buffer
	z := zip.NewWriter(&changed)
	for name, content := range entries(t, all.Body.Bytes()) {
		switch name {
		case "pellam-drover-15.chassis.json":
			content = bytes.Replace(content, []byte(`"year": 2021`), []byte(`"year": 2022`), 1)
		case "quillon-block-2.chassis.json":
			content = bytes.Replace(content, []byte(`"DDR5"`), []byte(`"DDR9"`), 1)
		}
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write(content); err != nil {
			t.Fatal(err)
		}
	}
	z.Close()
	to, _ := webtest.Application(t)
	look := webtest.Upload(t, to, "/models/import", map[string]string{}, map[string][]byte{"all.zip": changed.Bytes()})
	body := strings.NewReplacer("&#34;", `"`).Replace(look.Body.String())
	for _, want := range []string{"9 records in the zip, 8 can be taken", "Changes 1 fact of",
		"year: 2021 becomes 2022", `/memory/type: "DDR9"`} {
		if look.Code != http.StatusOK || !strings.Contains(body, want) {
			t.Errorf("%d, the look lacks %q", look.Code, want)
		}
	}
	form := webtest.FormValues(look.Body.String())
	if strings.Contains(webtest.Page(to, "/models/pellam-drover-15"), "2022") {
		t.Error("a look stored something")
	}
	form["take"] = []string{"pellam-drover-15"}
	if w := webtest.DoneAside(to, "/models/import/take-records", form); w.Code != http.StatusOK ||
		!strings.Contains(w.Body.String(), "Stored:") {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if body := webtest.Page(to, "/models/pellam-drover-15"); !strings.Contains(body, "notebook, 2022") ||
		strings.Count(body, "<img") != 1 {
		t.Error("the record was not taken, or its photo not kept once")
	}
	// The version that was looked at is old now.
	form.Set("token", "again")
	if w := webtest.DoneAside(to, "/models/import/take-records", form); !strings.Contains(w.Body.String(),
		"changed since you looked") {
		t.Errorf("an old look: %d", w.Code)
	}
	if w := webtest.Request(to, "POST", "/models/import/take-records", url.Values{"upload": {"77"}, "take": {"x"}},
		webtest.SameOrigin); w.Code != http.StatusNotFound {
		t.Errorf("no such upload: %d", w.Code)
	}
	if w := webtest.Upload(t, to, "/models/import", nil,
		map[string][]byte{"half.zip": changed.Bytes()[:3000]}); w.Code != http.StatusUnprocessableEntity ||
		!strings.Contains(w.Body.String(), "damaged or cut off") {
		t.Errorf("half a zip: %d", w.Code)
	}
}

func entries(t *testing.T, file []byte) map[string][]byte {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	if err != nil {
		t.Fatal(err)
	}
	out := map[string][]byte{}
	for _, f := range z.File {
		in, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		var content bytes.Buffer
		if _, err := content.ReadFrom(in); err != nil {
			t.Fatal(err)
		}
		in.Close()
		out[f.Name] = content.Bytes()
	}
	return out
}

// TestLinesWithoutScript: a line that cannot be kept comes back with its faults and what
// was typed, for a record and for a new one; one that can is kept.
func TestLinesWithoutScript(t *testing.T) {
	e, _ := webtest.Application(t)
	const record = "/models/marrowby-osier-14/lines"
	for _, c := range []struct {
		path, text string
		status     int
		says       string
	}{
		{record, "m2b pda <b>", 422, "column 5: pda is not a word of slot; did you mean pad?"},
		{record, "unclip lid after:lid", 422, "in a circle"},
		{record, "", 422, "the line is missing"},
		{record, "m2b pad\nm2a x", 422, "line 2, column 5"},
		{"/models/lines", "m2a nvme", 422, "the model is not named"},
		{"/models/lines", "model Marrowby \"Osier 14\"", 422, "another model has it"},
		{record, "m2b pad", 303, ""},
		{record, "m2b spreader", 409, "Someone else changed the record"},
		{"/models/lines", "model Sundrel Moss mini\nnone bays", 303, ""},
	} {
		w := webtest.Request(e, "POST", c.path, url.Values{"text": {c.text}, "version": {"1"}, "source": {"bench"},
			"token": {c.text}}, webtest.SameOrigin)
		body := strings.NewReplacer("&#39;", "'", "&#34;", `"`).Replace(w.Body.String())
		if w.Code != c.status || !strings.Contains(body, c.says) ||
			c.status != 303 &&
				!strings.Contains(
					w.Body.String(),
					strings.NewReplacer("<", "&lt;", ">", "&gt;", `"`, "&#34;").Replace(c.text)+"</textarea>",
				) {
			t.Errorf("%q: %d, not %d with %q", c.text, w.Code, c.status, c.says)
		}
	}
}
