package supplier

import (
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"yembo/core/hw"
)

// TestFaults: each fault fails in its own way, and switched off everything is as it was.
func TestFaults(t *testing.T) {
	s := New([]hw.Part{{ID: "a", Name: "A", PriceCents: 1000}, {ID: "used", Source: hw.OriginPulled}}, "EUR")
	s.SlowFor = time.Millisecond
	get := func(number string) (int, Offer) {
		w := httptest.NewRecorder()
		s.ServeHTTP(w, httptest.NewRequest("GET", "/offers?number="+number, nil))
		var o Offer
		if err := json.Unmarshal(w.Body.Bytes(), &o); err != nil {
			return w.Code, Offer{}
		}
		return w.Code, o
	}
	status, usual := get("a")
	if status != 200 || usual.PriceCents < 1000 || usual.Days < 1 {
		t.Fatalf("%d %+v", status, usual)
	}
	for number, want := range map[string]int{"used": 404, "b": 404, "": 404} {
		if status, _ := get(number); status != want {
			t.Errorf("%q: %d", number, status)
		}
	}
	for fault, ok := range map[string]func(status int, o Offer) bool{
		Slow:     func(status int, o Offer) bool { return status == 200 && o == usual },
		Down:     func(status int, _ Offer) bool { return status == 503 },
		Dearer:   func(_ int, o Offer) bool { return o.PriceCents > usual.PriceCents },
		Gone:     func(status int, _ Offer) bool { return status == 404 },
		Nonsense: func(status int, o Offer) bool { return status == 200 && o == Offer{} },
	} {
		w := httptest.NewRecorder()
		s.ServeHTTP(w, httptest.NewRequest(http.MethodPost, "/fault?is="+fault, nil))
		if status, o := get("a"); w.Code != http.StatusNoContent || !ok(status, o) {
			t.Errorf("%s: %d %+v", fault, status, o)
		}
	}
	s.Switch("")
	if _, o := get("a"); o != usual {
		t.Errorf("%+v, before %+v", o, usual)
	}
	if len(Faults) != 5 || s.Asked() < 10 {
		t.Errorf("%d faults, %d asked", len(Faults), s.Asked())
	}
}
