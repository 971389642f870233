package web

import (
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
)

// TestTags: a machine's address is a number, also where an old one is asked for; its tag is
// changed without it, and each word of a tag that cannot be is told at its field.
func TestTags(t *testing.T) {
	e, _ := application(t)
	for _, path := range []string{"/machines/wath-07", "/machines/wath-07/history?x=1", "/machines/wath-07/readings"} {
		w := directly(e, path)
		if want := strings.Replace(path, "wath-07", "2", 1); w.Code != http.StatusFound ||
			w.Header().Get("Location") != want {
			t.Errorf("%s leads to %d %s", path, w.Code, w.Header().Get("Location"))
		}
	}
	for _, path := range []string{"/machines", "/machines/2", "/machines/2/readings", "/jobs/2", "/customers/2",
		"/machines/new?q=wath"} {
		if tagged := regexp.MustCompile(`href="/machines/[^"]*wath[^"]*"`).FindString(page(e, path)); tagged != "" {
			t.Errorf("%s has an address with a name: %s", path, tagged)
		}
	}
	for tag, says := range map[string]string{"tarn-vet-03": "another machine has it", "147": "a tag with a letter",
		"Wath 7": "lower-case letters", "": "lower-case letters"} {
		form := url.Values{"/tag": {tag}, "was": {"wath-07"}, "token": {"t" + tag}}
		if w := request(e, "POST", "/machines/2/tag", form, sameOrigin); w.Code != http.StatusUnprocessableEntity ||
			!strings.Contains(w.Body.String(), says) {
			t.Errorf("the tag %q: %d, want %q", tag, w.Code, says)
		}
	}
	change := url.Values{"/tag": {"ticket-desk"}, "was": {"wath-07"}, "token": {"c"}}
	if w := request(e, "POST", "/machines/2/tag", change, sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	if body := page(e, "/machines/2/history"); !strings.Contains(body, "the tag is ticket-desk, it was wath-07") ||
		!strings.Contains(page(e, "/machines?q=ticket"), "ticket-desk") {
		t.Error("the new tag is not told or not found")
	}
	if w := directly(e, "/machines/wath-07"); w.Code != http.StatusNotFound {
		t.Errorf("the old tag still leads to %d", w.Code)
	}
	change.Set("token", "again")
	if w := request(e, "POST", "/machines/2/tag", change, sameOrigin); w.Code != http.StatusConflict {
		t.Errorf("a second who saw the old tag: %d", w.Code)
	}
}
