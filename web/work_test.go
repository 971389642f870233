package web_test

import (
	"context"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"
	"yembo/shop/base"

	"yembo/web/webtest"
)

// longWork goes on until it is stopped.
func longWork(begun chan struct{}) func(ctx context.Context, step func(done, of int)) (any, error) {
	return func(ctx context.Context, step func(done, of int)) (any, error) {
		step(3, 10)
		close(begun)
		<-ctx.Done()
		return nil, ctx.Err()
	}
}

// TestWorkAside: one long thing is done at a time and can be stopped; the same form leads to the same
// one, another is told to wait.
func TestWorkAside(t *testing.T) {
	e, _, sh := webtest.Started(t)
	begun := make(chan struct{})
	id, ok := sh.Begin(base.Actor{Name: "T"}, "token", "Something long", longWork(begun))
	if <-begun; !ok {
		t.Fatal("it was not begun")
	}
	if again, ok := sh.Begin(base.Actor{Name: "T"}, "token", "Something long", longWork(nil)); !ok || again != id {
		t.Errorf("the same form: %s %v", again, ok)
	}
	w := webtest.Request(e, "GET", "/underway/"+id, nil, nil)
	if w.Code != 200 || w.Header().Get("Refresh") == "" || !strings.Contains(w.Body.String(), "3 of 10 are done") {
		t.Errorf("%d %.400s", w.Code, w.Body)
	}
	look := webtest.Sent(t, e, "/parts/import", url.Values{"pasted": {"part;price\n8GB DDR4-3200 SO-DIMM;3\n"}}, nil, "list")
	form := webtest.FormValues(look.Body.String())
	form.Set("do", "take")
	if w := webtest.Request(e, "POST", "/parts/import/take", form, webtest.SameOrigin); w.Code != http.StatusConflict ||
		!strings.Contains(w.Body.String(), "Yours was not started") {
		t.Errorf("another meanwhile: %d", w.Code)
	}
	if w := webtest.Request(e, "POST", "/underway/"+id+"/stop", url.Values{}, webtest.SameOrigin); w.Code != http.StatusSeeOther {
		t.Errorf("stop: %d", w.Code)
	}
	if w, err := sh.Work(t.Context(), id, time.Second); err != nil || !w.Ended || !w.Stopped {
		t.Errorf("%+v %v", w, err)
	}
	if w := webtest.DoneAside(e, "/parts/import/take", form); !strings.Contains(w.Body.String(), "1 new, 0 changed") {
		t.Errorf("after it: %d %.600s", w.Code, w.Body)
	}
	if w := webtest.Request(e, "GET", "/underway/none", nil, nil); w.Code != http.StatusNotFound {
		t.Errorf("%d", w.Code)
	}
}
