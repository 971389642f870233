package web_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// TestTwoTabs: whoever saves a shared thing second is shown what the other made of it. What
// only the other changed is taken over, what both changed is chosen; nothing vanishes.
func TestTwoTabs(t *testing.T) {
	for name, c := range map[string]struct {
		page, action       string
		field, mine, other string // a field both change
		theirs, changed    string // one that only the other changes
		says               string // where it shows afterwards
	}{
		"settings": {"/settings", "/settings", "/labour", "50.00", "55.00", "/tax", "19", "/settings"},
		"customer": {"/customers/1", "/customers/1", "/customer", "My name", "Their name", "/contact", "015 999",
			"/customers/1"},
		"a job": {"/jobs/2/correct", "/jobs/2/correct", "/complaint", "slow", "loud", "/account", "bench", "/jobs/2/correct"},
		"a machine": {"/machines/7/correct", "/machines/7/correct", "/serial", "S1", "S2", "/fitted/drives/0/maker",
			"Bexmoor", "/machines/7/correct"},
		"a known machine": {"/machines/new?model=quillon-aster-14&machine=tarn-vet-03", "/machines",
			"/usage/memory_peak_gb", "10", "12",
			"/fitted/memory/0/capacity_gb", "16", "/machines/new?model=quillon-aster-14&machine=tarn-vet-03"},
	} {
		t.Run(name, func(t *testing.T) {
			e, _ := webtest.Application(t)
			opened := webtest.Page(e, c.page)
			first, second := webtest.FieldsOf(t, opened, c.action), webtest.FieldsOf(t, opened, c.action)
			first.Set("token", "first")
			second.Set("token", "second")
			for _, form := range []url.Values{first, second} {
				if form.Has("known") {
					form.Set("/complaint", "slow")
					form.Set("/goals/memory_gb", "24")
					form.Set("/another", "yes")
				}
			}
			first.Set(c.field, c.other)
			first.Set(c.theirs, c.changed)
			second.Set(c.field, c.mine)
			if code, body := webtest.SendForm(e, c.action, first); code != http.StatusSeeOther {
				t.Fatalf("the first is not stored: %d %s", code, body)
			}
			code, body := webtest.SendForm(e, c.action, second)
			if code != http.StatusConflict || !strings.Contains(body, "Both changed it") ||
				!strings.Contains(body, "Updated from their change") {
				t.Fatalf("the second is not known: %d", code)
			}
			again := webtest.FieldsOf(t, body, c.action)
			again.Set("token", "again")
			if got := again.Get(c.theirs); got != c.changed {
				t.Errorf("%s is %q on the page, not %q", c.theirs, got, c.changed)
			}
			if code, _ := webtest.SendForm(e, c.action, again); code != http.StatusUnprocessableEntity {
				t.Errorf("without a choice: %d", code)
			}
			again.Set("pick:"+c.field, "mine")
			if code, body := webtest.SendForm(e, c.action, again); code != http.StatusSeeOther {
				t.Fatalf("chosen, it is not stored: %d %s", code, body)
			}
			now := webtest.FieldsOf(t, webtest.Page(e, c.says), c.action)
			if now.Get(c.field) != c.mine || now.Get(c.theirs) != c.changed {
				t.Errorf("it is %q and %q", now.Get(c.field), now.Get(c.theirs))
			}
		})
	}
}
