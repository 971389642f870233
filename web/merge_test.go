package web

import (
	"net/http"
	"net/url"
	"strings"
	"testing"
)

// TestTwoOnOneSlot: the second to save gets what the first changed and they did not,
// is asked where both changed, and loses nothing.
func TestTwoOnOneSlot(t *testing.T) {
	e, _ := application(t)
	const form = "/models/quillon-aster-14/parts/slots/m2a"
	slot := func(version string, changes ...string) url.Values {
		v := url.Values{"version": {version}, "token": {strings.Join(changes, " ") + version}, "how:": {"bench"}, "on:": {"2026-05-14"}, "/id": {"m2a"}, "/purpose": {"storage"}, "/key": {"M"}, "/pcie_gen": {"4"},
			"/lanes": {"4"}, "/protocols": {"nvme"}, "/lengths/30": {"fitted"}, "/lengths/80": {"movable"}, "/max_top_mm": {"1.5"}, "/max_bottom_mm": {"0"}, "/cooling": {"pad"},
			"/refuses": {"x2"}, "/excludes": {"none"}, "/carry_over": {"mounting screw, pad"}, "/reach": {"battery-plug"}, "/at/x_mm": {"12"}, "/at/y_mm": {"10"}, "/at/w_mm": {"22"}, "/at/h_mm": {"84"}, "/at/turn_deg": {"90"}}
		for i := 0; i+1 < len(changes); i += 2 {
			v.Set(changes[i], changes[i+1])
		}
		return v
	}
	if w := request(e, "POST", form, slot("1", "/max_top_mm", "2.3", "/cooling", "spreader"), sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	w := request(e, "POST", form, slot("1", "/max_top_mm", "1.8", "/max_bottom_mm", "1.35"), sameOrigin)
	body := w.Body.String()
	for _, want := range []string{`name="theirs:/max_top_mm" value="2.3"`, `value="1.8"`, `value="1.35"`, `name="version" value="2"`, "1 field was", "cooling: spreader", `value="spreader" selected`} {
		if w.Code != http.StatusConflict || !strings.Contains(body, want) {
			t.Errorf("%d, the page of the second lacks %s", w.Code, want)
		}
	}
	second := slot("2", "/max_top_mm", "1.8", "/max_bottom_mm", "1.35", "/cooling", "spreader", "theirs:/max_top_mm", "2.3")
	if w := request(e, "POST", form, second, sameOrigin); w.Code != http.StatusUnprocessableEntity || !strings.Contains(w.Body.String(), "choose one of the two") {
		t.Errorf("without a choice: %d", w.Code)
	}
	second.Set("pick:/max_top_mm", "theirs")
	if w := request(e, "POST", form, second, sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	body = page(e, form)
	for _, want := range []string{`value="2.3"`, `value="1.35"`, `value="spreader" selected`} {
		if !strings.Contains(body, want) {
			t.Errorf("the slot ends without %s", want)
		}
	}
	// Where the other touched none of the fields, keeping it again is enough.
	if w := request(e, "POST", form, slot("1", "/max_top_mm", "2.3", "/cooling", "spreader", "/max_bottom_mm", "1.35", "/lanes", "2"), sameOrigin); w.Code != http.StatusConflict || !strings.Contains(w.Body.String(), "Nothing you typed was touched") {
		t.Errorf("no clash: %d", w.Code)
	}
	// Taken out meanwhile: nothing typed is lost, and it can be recorded anew.
	request(e, "POST", "/models/pellam-hurdle-16/parts/slots/m2b", url.Values{"version": {"1"}, "token": {"gone"}, "do": {"remove"}}, sameOrigin)
	w = request(e, "POST", "/models/pellam-hurdle-16/parts/slots/m2b", slot("1", "/id", "m2b", "/cooling", "shroud"), sameOrigin)
	if w.Code != http.StatusConflict || !strings.Contains(w.Body.String(), "took this out") || !strings.Contains(w.Body.String(), `action="/models/pellam-hurdle-16/parts/slots/new"`) || !strings.Contains(w.Body.String(), `value="shroud" selected`) {
		t.Errorf("taken out: %d %s", w.Code, w.Body)
	}
}
