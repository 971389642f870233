package counter_test

import (
	"net/http"
	"reflect"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/web/webtest"
)

// TestPractice: each figure of how the shop promises is on the page of the settings, kept as typed, forgotten when it is
// emptied, and refused at its field where it cannot be; one that was added to the settings and not here is named.
func TestPractice(t *testing.T) {
	e, _, s := webtest.Started(t)
	fields := map[string]string{"Margin": "/margin", "Round": "/round_to", "Clear": "/clear", "Test": "/memory_test",
		"Charge": "/charging"}
	kept := func() base.WeekPractice {
		how, err := s.Settings(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		return how.Week
	}
	for i := range reflect.TypeFor[base.WeekPractice]().NumField() {
		f := reflect.TypeFor[base.WeekPractice]().Field(i)
		if f.Type != reflect.TypeFor[hw.Maybe[int]]() {
			continue // whether somebody has to be there is a tick
		}
		at := fields[f.Name]
		for _, x := range []struct {
			typed  string
			status int
			want   hw.Maybe[int]
		}{
			{"45", http.StatusSeeOther, hw.Known(45)}, {"1441", http.StatusUnprocessableEntity, hw.Known(45)},
			{"soon", http.StatusUnprocessableEntity, hw.Known(45)}, {"", http.StatusSeeOther, hw.Maybe[int]{}},
		} {
			form := webtest.FieldsOf(t, webtest.Page(e, "/settings"), "/settings")
			if _, there := form[at]; !there {
				t.Fatalf("%s has no field %q", f.Name, at)
			}
			form.Set(at, x.typed)
			status, body := webtest.SendForm(e, "/settings", form)
			if status != x.status || status != http.StatusSeeOther && !strings.Contains(body, `value="`+x.typed+`"`) {
				t.Errorf("%s %q: %d", at, x.typed, status)
			}
			if got := reflect.ValueOf(kept()).Field(i).Interface(); got != x.want {
				t.Errorf("%s %q is kept as %v", at, x.typed, got)
			}
		}
	}
}
