package web

import (
	"log/slog"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"yembo/shop"
	"yembo/store"
	"yembo/web/kit"
)

// TestWelcome: an empty shop asks what it is called and who works there before anything else; whoever
// is chosen at a screen is whom the history names.
func TestWelcome(t *testing.T) {
	e, err := New(kit.Config{Shop: emptyShop(t), Workshop: kit.NoName, Log: slog.New(slog.DiscardHandler), Actor: shop.Actor{Name: "Technician"}})
	if err != nil {
		t.Fatal(err)
	}
	if w := request(e, "GET", "/", nil, nil); w.Code != http.StatusSeeOther || w.Header().Get("Location") != "/welcome" {
		t.Fatalf("an empty shop answers %d %s", w.Code, w.Header().Get("Location"))
	}
	form := fieldsOf(t, page(e, "/welcome"), "/welcome")
	if code, body := sendForm(e, "/welcome", form); code != http.StatusUnprocessableEntity || strings.Count(body, `class="fault"`) != 2 {
		t.Errorf("with neither name: %d, %d faults", code, strings.Count(body, `class="fault"`))
	}
	form.Set("/workshop", "Gaunt & Daughter")
	form.Set("/technicians", "A. Gaunt,  B.  Gaunt, A. Gaunt")
	form.Set("/address", "Slip Lane 3\r\nHarrow Fell")
	w := request(e, "POST", "/welcome", form, sameOrigin)
	if w.Code != http.StatusSeeOther || !strings.Contains(w.Header().Get("Set-Cookie"), "A.+Gaunt") {
		t.Fatalf("%d %s", w.Code, w.Header().Get("Set-Cookie"))
	}
	if body := page(e, "/"); !strings.Contains(body, "Gaunt &amp; Daughter") || strings.Count(body, "B. Gaunt") == 0 {
		t.Error("the bench does not name the shop and who else works there")
	}
	if w := request(e, "POST", "/who", url.Values{"name": {"nobody"}, "back": {"/"}}, sameOrigin); w.Code != http.StatusNotFound {
		t.Errorf("somebody who does not work there: %d", w.Code)
	}
	as := func(r *http.Request) {
		sameOrigin(r)
		r.AddCookie(&http.Cookie{Name: kit.WhoCookie, Value: "B.+Gaunt"})
	}
	model := url.Values{"token": {"1"}, "/maker": {"Quillon"}, "/model": {"Aster 20"}, "/kind": {"notebook"}}
	if w := request(e, "POST", "/models", model, as); w.Code != http.StatusSeeOther {
		t.Fatalf("%d %.300s", w.Code, w.Body)
	}
	if body := page(e, "/models/quillon-aster-20"); !strings.Contains(body, "B. Gaunt: recorded") {
		t.Error("the history does not name who works at the screen")
	}

	later, _ := New(kit.Config{Shop: emptyShop(t), Workshop: kit.NoName, Log: slog.New(slog.DiscardHandler)})
	if w := request(later, "POST", "/welcome", url.Values{"do": {"later"}}, sameOrigin); w.Code != http.StatusSeeOther {
		t.Errorf("later: %d", w.Code)
	}
	if w := request(later, "GET", "/", nil, nil); w.Code != http.StatusOK {
		t.Errorf("it asks again: %d", w.Code)
	}
}

func emptyShop(t *testing.T) *shop.Shop {
	t.Helper()
	st, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	return shop.New(st, time.Now)
}
