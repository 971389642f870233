package record_test

import (
	"bytes"
	"net/http"
	"strconv"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// TestPhotos: of several files the good ones are kept and the others named with the
// reason; a photo is served as a JPEG, stands at its fact, can be removed and put
// back, and the same form sent twice keeps it once.
func TestPhotos(t *testing.T) {
	e, _ := webtest.Application(t)
	const model = "/models/quillon-block-2"
	fields := map[string]string{"token": "t1", "fact": "/slots/m2a/key", "caption": "<b>the key</b>",
		"on": "2026-05-11"}
	svg := []byte(`<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>`)
	w := webtest.Upload(t, e, model+"/photos", fields,
		map[string][]byte{"drawing.svg": svg, "claims.jpg": []byte("no picture")})
	if body := w.Body.String(); w.Code != http.StatusUnprocessableEntity ||
		!strings.Contains(body, "drawing.svg: an SVG file") ||
		!strings.Contains(body, "claims.jpg: its content is not a picture") ||
		!strings.Contains(body, "&lt;b&gt;the key") {
		t.Errorf("%d %s", w.Code, body)
	}
	for range 2 {
		if w := webtest.Upload(t, e, model+"/photos", fields,
			map[string][]byte{"key.png": webtest.PNGOf(t, 64, 48)}); w.Code != http.StatusSeeOther {
			t.Fatalf("%d %s", w.Code, w.Body)
		}
	}
	body := webtest.Page(e, model+"/findings")
	at := strings.Index(body, model+"/photos/12.jpg")
	if at < 0 || strings.Count(body, model+"/photos/12.jpg") != 1 {
		t.Fatalf("the photo does not stand at its fact once: %s", body)
	}
	full := webtest.Request(e, "GET", model+"/photos/12.jpg", nil, nil)
	if full.Header().Get("Content-Type") != "image/jpeg" || !bytes.HasPrefix(full.Body.Bytes(),
		[]byte{0xff, 0xd8, 0xff}) || full.Header().Get("X-Content-Type-Options") != "nosniff" {
		t.Errorf("served as %v", full.Header())
	}
	for path, want := range map[string]int{"/photos/12/thumb.jpg": 200, "/photos/12/other.jpg": 404,
		"/photos/99.jpg": 404, "/photos/x.jpg": 404, "/photos/1.jpg": 404} {
		if got := webtest.Request(e, "GET", model+path, nil, nil).Code; got != want {
			t.Errorf("%s answers %d", path, got)
		}
	}
	webtest.Request(e, "POST", model+"/photos/12", map[string][]string{"do": {"remove"}}, webtest.SameOrigin)
	if strings.Contains(webtest.Page(e, model+"/findings"), "/photos/12.jpg") || !strings.Contains(webtest.Page(e, model+"/photos"),
		"Put it back") {
		t.Error("a removed photo is still on the record, or cannot be put back")
	}
	webtest.Request(e, "POST", model+"/photos/12", map[string][]string{"do": {"restore"}}, webtest.SameOrigin)
	if !strings.Contains(webtest.Page(e, model), "/photos/12.jpg") || !strings.Contains(webtest.Page(e, model),
		"photo put back: <b>the key</b>") && !strings.Contains(webtest.Page(e, model), "photo put back: &lt;b&gt;") {
		t.Error("the photo is not back")
	}
	for name, c := range map[string]struct {
		fields map[string]string
		files  int
		says   string
	}{
		"none":         {fields, 0, "no picture is chosen"},
		"too many":     {fields, 9, "9 pictures at once; at most 8"},
		"no such fact": {map[string]string{"fact": "/slots/zz"}, 1, "no such fact or place of this record"},
		"long caption": {map[string]string{"caption": strings.Repeat("x", 401)}, 1, "at most 400 characters"},
	} {
		files := map[string][]byte{}
		for i := range c.files {
			files[strconv.Itoa(i)+".png"] = webtest.PNGOf(t, 4, 4+i)
		}
		if w := webtest.Upload(t, e, model+"/photos", c.fields, files); w.Code != http.StatusUnprocessableEntity ||
			!strings.Contains(w.Body.String(), c.says) {
			t.Errorf("%s: %d %s", name, w.Code, w.Body)
		}
	}
}
