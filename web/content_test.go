package web

import (
	"net/http"
	"strings"
	"testing"
)

// TestSentAgain: a form sent twice stores one thing and has one answer; changed and sent again
// under the same token it is refused, with what was typed.
func TestSentAgain(t *testing.T) {
	e, _ := application(t)
	first := intakeForm("token", "once")
	w := request(e, "POST", "/machines", first, sameOrigin)
	again := request(e, "POST", "/machines", first, sameOrigin)
	if w.Code != http.StatusSeeOther || again.Code != http.StatusSeeOther ||
		w.Header().Get("Location") != again.Header().Get("Location") {
		t.Fatalf("sent twice: %d %s, %d %s", w.Code, w.Header().Get("Location"), again.Code,
			again.Header().Get("Location"))
	}
	other := request(e, "POST", "/machines", intakeForm("token", "once", "/customer", "Somebody Else"), sameOrigin)
	if other.Code != http.StatusConflict || !strings.Contains(other.Body.String(), "This form was sent already") ||
		!strings.Contains(other.Body.String(), "Somebody Else") {
		t.Errorf("changed and sent again: %d", other.Code)
	}
	if strings.Contains(page(e, "/machines"), "Somebody Else") {
		t.Error("it was stored all the same")
	}
	// The same token under another address is another form.
	if w := request(e, "POST", "/customers/1", first, sameOrigin); strings.Contains(w.Body.String(),
		"This form was sent already") {
		t.Errorf("another form: %d", w.Code)
	}
}
