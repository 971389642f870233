package web_test

import (
	"bytes"
	"image"
	"image/draw"
	"image/png"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yembo/web/webtest"

	"github.com/boombuler/barcode"
	"github.com/boombuler/barcode/code128"
)

// TestFind: a machine is taken in by its model's code, a sibling's code, its name, or by
// the serial of one that was here; where one alone fits, its form comes at once.
func TestFind(t *testing.T) {
	e, _ := webtest.Application(t)
	for query, want := range map[string]string{
		"QA14-2": "/machines/new?model=quillon-aster-14", "qa14-2": "/machines/new?model=quillon-aster-14",
		"QA14-3": "/machines/new?model=quillon-aster-14", "drover": "! Machines seen before",
		"PD15-22071": "/machines/new?model=pellam-drover-15&machine=2",
		"wath-11":    "/machines/new?model=sundrel-fennel-15&machine=3", "quillon": "! Models found",
		"heron": "! Nothing has “heron”", "": "! Models on record",
	} {
		w := webtest.Request(e, "GET", "/machines/new?q="+url.QueryEscape(query), nil, nil)
		if says, page := strings.CutPrefix(want, "! "); page {
			if w.Code != http.StatusOK || !strings.Contains(w.Body.String(), says) {
				t.Errorf("%q: %d, want %q", query, w.Code, says)
			}
		} else if w.Header().Get("Location") != want {
			t.Errorf("%q leads to %s, want %s", query, w.Header().Get("Location"), want)
		}
	}
	if body := webtest.Page(e, "/machines/new?model=pellam-drover-15&machine=2"); !strings.Contains(body,
		`value="PD15-22071"`) || !strings.Contains(body, `value="Wath River Ferries"`) {
		t.Error("what is known of a machine is not in its form")
	}
}

// TestFindByPicture: a picture of a label opens what is on it; one without a code, none, and what is no picture are told so.
func TestFindByPicture(t *testing.T) {
	e, _ := webtest.Application(t)
	bars, err := code128.Encode("YB-0003")
	if err != nil {
		t.Fatal(err)
	}
	wide, err := barcode.Scale(bars, 600, 120)
	if err != nil {
		t.Fatal(err)
	}
	shot := image.NewGray(image.Rect(0, 0, 900, 400))
	draw.Draw(shot, shot.Bounds(), image.White, image.Point{}, draw.Src)
	draw.Draw(shot, image.Rect(150, 140, 750, 260), wide, image.Point{}, draw.Src)
	var label bytes.Buffer
	if err := png.Encode(&label, shot); err != nil {
		t.Fatal(err)
	}
	for name, x := range map[string]struct {
		file []byte
		want string // where it leads, or what it says after "! "
	}{
		"a label":    {label.Bytes(), "/find?code=YB-0003"},
		"a bare one": {webtest.PNGOf(t, 60, 60), "! No code was found"},
		"a text":     {[]byte("YB-0003"), "! not a picture"},
		"nothing":    {nil, "! No picture was sent"},
	} {
		files := map[string][]byte{}
		if x.file != nil {
			files["p.png"] = x.file
		}
		w := webtest.Upload(t, e, "/find", map[string]string{"a": "b"}, files)
		if says, told := strings.CutPrefix(x.want, "! "); told {
			if w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), says) {
				t.Errorf("%s: %d, want %q in %.600s", name, w.Code, says, w.Body.String())
			}
		} else if w.Header().Get("Location") != x.want {
			t.Errorf("%s leads to %q", name, w.Header().Get("Location"))
		}
	}
}
