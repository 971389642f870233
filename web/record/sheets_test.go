package record_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"slices"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// TestSettlePages: what is suspected is settled as a place that is there or as nothing; a picture that is
// none, a place that is not told and somebody's change meanwhile store nothing.
func TestSettlePages(t *testing.T) {
	e, _ := webtest.Application(t)
	at := "/models/quillon-block-2/suspected/third-slot"
	form := webtest.FieldsOf(t, webtest.Page(e, at), at)
	post := func(files map[string][]byte, more ...string) *httptest.ResponseRecorder {
		next := url.Values{}
		for k, v := range form {
			next[k] = v
		}
		next.Set("token", fmt.Sprint("s", more))
		for i := 0; i+1 < len(more); i += 2 {
			next.Set(more[i], more[i+1])
		}
		return webtest.Sent(t, e, at, next, files, "photo")
	}
	for _, c := range []struct {
		name   string
		files  map[string][]byte
		more   []string
		status int
	}{
		{"no place", nil, []string{"/as", ""}, 422},
		{"a place that is not there", nil, []string{"/as", "m2z"}, 422},
		{"no day", nil, []string{"/as", "nothing", "/on", "someday"}, 422},
		{"a text for a picture", map[string][]byte{"a.png": []byte("text")}, []string{"/as", "nothing"}, 422},
		{"nothing, with a picture", map[string][]byte{"a.png": webtest.PNGOf(t, 40, 30)},
			[]string{"/as", "nothing", "/on", "2026-05-14"}, 303},
		{"from the page as it was before that", nil, []string{"/as", "nothing", "/on", "2026-05-13"}, 409},
	} {
		if w := post(c.files, c.more...); w.Code != c.status {
			t.Errorf("%s: %d, not %d\n%s", c.name, w.Code, c.status, w.Body.String())
		}
	}
	if body := webtest.Page(e, at); !strings.Contains(body, "nothing: there is none") {
		t.Error("what it was settled as is not known")
	}
}

// TestMatPages: all screws or a job's, on either paper, on one sheet or at true size.
func TestMatPages(t *testing.T) {
	e, _ := webtest.Application(t)
	const at = "/models/marrowby-osier-14/mat"
	for query, want := range map[string][]string{
		"":                         {"Sheet 1 of 1", "50 mm"},
		"?paper=letter":            {"Outline ", "Sheet 1 of 1"},
		"?scale=1":                 {"1 : 1, lay cross on cross. Row 1, column 1. Sheet 1 of ", "Row 2, column 1"},
		"?t=m2a":                   {"screws for m2a"},
		"?t=nothing":               {"all 31 screws"},
		"?paper=papyrus&scale=one": {"Sheet 1 of 1"},
	} {
		body := webtest.Page(e, at+query)
		for _, says := range want {
			if !strings.Contains(body, says) {
				t.Errorf("%q does not say %q", query, says)
			}
		}
	}
	if strings.Contains(webtest.Page(e, at+"?t=m2a"), "board-screw") {
		t.Error("the mat of one place has the screws of the board")
	}
	w := webtest.Request(e, "GET", "/models/marrowby-osier-14/mat.svg", nil, nil)
	if w.Code != http.StatusOK || !strings.HasPrefix(w.Body.String(), "<?xml") || !strings.Contains(w.Body.String(), `mm"`) ||
		strings.Contains(w.Body.String(), "<script") {
		t.Errorf("the file: %d %.80s", w.Code, w.Body.String())
	}
}

// TestSteps: the way in is shown with its reasons, put into another order by a button or by
// dragging, and an order that is none or stands on an older record stores nothing.
func TestSteps(t *testing.T) {
	e, _, sh := webtest.Started(t)
	order := func() []string {
		r, err := sh.Model(t.Context(), "marrowby-osier-14")
		if err != nil {
			t.Fatal(err)
		}
		return r.Chassis.IDs("steps")
	}
	first := order()
	body := webtest.Page(e, "/models/marrowby-osier-14/steps?t=m2a&t=dimm1&t=nothing")
	for _, want := range []string{"22.1 min down, the work and back; 1 bit change, 1 flip",
		"begun at the front, the short clips break", "(R. Okell, 18 Apr 26)",
		"loosen 3 2 4 1 (the printed order reversed: it unloads evenly); tighten 1 4 2 3, in rounds", "disconnects power",
		"board out", "differs only in length from"} {
		if !strings.Contains(body, want) {
			t.Errorf("the steps do not say %q", want)
		}
	}
	send := func(version string, order []string, move string) *url.Values {
		form := url.Values{"version": {version}, "step": order}
		if move != "" {
			form.Set("move", move)
		}
		return &form
	}
	swapped := slices.Clone(first)
	swapped[5], swapped[6] = swapped[6], swapped[5]
	for _, c := range []struct {
		name string
		form *url.Values
		want int
		then []string
	}{
		{"up", send("1", first, first[6]+" up"), http.StatusSeeOther, swapped},
		{"older", send("1", first, first[6]+" up"), http.StatusConflict, swapped},
		{"down", send("2", swapped, first[6]+" down"), http.StatusSeeOther, first},
		{"dragged", send("3", swapped, ""), http.StatusSeeOther, swapped},
		{"one left out", send("4", swapped[1:], ""), http.StatusUnprocessableEntity, swapped},
		{"one twice", send("4", append(slices.Clone(swapped[1:]), swapped[1]), ""), http.StatusUnprocessableEntity,
			swapped},
		{"none that is there", send("4", []string{"x"}, "x up"), http.StatusUnprocessableEntity, swapped},
	} {
		w := webtest.Request(e, "POST", "/models/marrowby-osier-14/steps", *c.form, webtest.SameOrigin)
		if w.Code != c.want || !slices.Equal(order(), c.then) {
			t.Errorf("%s: %d, then %v", c.name, w.Code, order())
		}
	}
	if w := webtest.Request(e, "POST", "/models/marrowby-osier-14/loosen", url.Values{"loosen": {"printed"}},
		webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Errorf("the practice: %d", w.Code)
	}
	if w := webtest.Request(e, "POST", "/models/marrowby-osier-14/loosen", url.Values{"loosen": {"sideways"}},
		webtest.SameOrigin); w.Code != http.StatusBadRequest {
		t.Errorf("a practice that is none: %d", w.Code)
	}
	if body := webtest.Page(e, "/models/marrowby-osier-14/steps"); !strings.Contains(body,
		"loosen 1 4 2 3 (the printed order, as the maker says); tighten 1 4 2 3, in rounds") {
		t.Error("the practice is not followed")
	}
}
