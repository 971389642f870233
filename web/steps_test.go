package web

import (
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
)

// TestSteps: the way in is shown with its reasons, put into another order by a button or by
// dragging, and an order that is none or stands on an older record stores nothing.
func TestSteps(t *testing.T) {
	e, _, sh := started(t)
	order := func() []string {
		r, err := sh.Model(t.Context(), "marrowby-osier-14")
		if err != nil {
			t.Fatal(err)
		}
		return r.Chassis.IDs("steps")
	}
	first := order()
	body := page(e, "/models/marrowby-osier-14/steps?t=m2a&t=dimm1&t=nothing")
	for _, want := range []string{"22.1 min down, the work and back; 1 bit change, 1 flip",
		"begun at the front, the short clips break", "(R. Okell, 18 Apr 26)",
		"loosen 3 2 4 1 (the printed order reversed: it unloads evenly); tighten 1 4 2 3, in rounds", "isolates power",
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
		w := request(e, "POST", "/models/marrowby-osier-14/steps", *c.form, sameOrigin)
		if w.Code != c.want || !slices.Equal(order(), c.then) {
			t.Errorf("%s: %d, then %v", c.name, w.Code, order())
		}
	}
	if w := request(e, "POST", "/models/marrowby-osier-14/loosen", url.Values{"loosen": {"printed"}},
		sameOrigin); w.Code != http.StatusSeeOther {
		t.Errorf("the practice: %d", w.Code)
	}
	if w := request(e, "POST", "/models/marrowby-osier-14/loosen", url.Values{"loosen": {"sideways"}},
		sameOrigin); w.Code != http.StatusBadRequest {
		t.Errorf("a practice that is none: %d", w.Code)
	}
	if body := page(e, "/models/marrowby-osier-14/steps"); !strings.Contains(body,
		"loosen 1 4 2 3 (the printed order, as the maker says); tighten 1 4 2 3, in rounds") {
		t.Error("the practice is not followed")
	}
}
