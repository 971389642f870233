package web_test

import (
	"net/http"
	"strings"
	"testing"

	"yembo/web/webtest"
)

// TestSentAgain: a form sent twice stores one thing and has one answer; changed and sent again
// under the same token it is refused, with what was typed.
func TestSentAgain(t *testing.T) {
	e, _ := webtest.Application(t)
	first := webtest.IntakeForm("token", "once")
	w := webtest.Request(e, "POST", "/machines", first, webtest.SameOrigin)
	again := webtest.Request(e, "POST", "/machines", first, webtest.SameOrigin)
	if w.Code != http.StatusSeeOther || again.Code != http.StatusSeeOther ||
		w.Header().Get("Location") != again.Header().Get("Location") {
		t.Fatalf("sent twice: %d %s, %d %s", w.Code, w.Header().Get("Location"), again.Code,
			again.Header().Get("Location"))
	}
	other := webtest.Request(
		e,
		"POST",
		"/machines",
		webtest.IntakeForm("token", "once", "/customer", "Someone Else"),
		webtest.SameOrigin,
	)
	if other.Code != http.StatusConflict || !strings.Contains(other.Body.String(), "This form was sent already") ||
		!strings.Contains(other.Body.String(), "Someone Else") {
		t.Errorf("changed and sent again: %d", other.Code)
	}
	if strings.Contains(webtest.Page(e, "/machines"), "Someone Else") {
		t.Error("it was stored all the same")
	}
	// The same token under another address is another form.
	if w := webtest.Request(e, "POST", "/customers/1", first, webtest.SameOrigin); strings.Contains(w.Body.String(),
		"This form was sent already") {
		t.Errorf("another form: %d", w.Code)
	}
}
