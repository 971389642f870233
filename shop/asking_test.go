package shop_test

import (
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"yembo/shop"

	"yembo/shop/base"
	"yembo/shop/demo"
	"yembo/standin/supplier"
	"yembo/store"
)

// TestAskSupplier: each way in which the service fails is told, it is left alone for longer each time, what
// it said stays with its age, and a price is taken only as it was seen.
func TestAskSupplier(t *testing.T) {
	st, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	now := morning
	s := shop.New(st, func() time.Time { return now })
	s.Ask.Timeout = 200 * time.Millisecond
	if err := s.SeedDemo(t.Context()); err != nil {
		t.Fatal(err)
	}
	const part = "cv-d4-16"
	ask := func() error { return s.AskSupplier(t.Context(), []string{part}) }
	if err := ask(); err == nil || !strings.Contains(err.Error(), "no supplier's service") {
		t.Errorf("nobody is named: %v", err)
	}
	data, err := demo.Load(0)
	if err != nil {
		t.Fatal(err)
	}
	service := supplier.New(data.Parts.Parts, "EUR")
	service.SlowFor = time.Second
	there := httptest.NewServer(service)
	defer there.Close()
	for _, address := range []string{"http://supplier.example:80", "ftp://127.0.0.1", "http://10.0.0.1"} {
		if err := setSettings(t.Context(), s, func(how *base.Settings) { how.SupplierService = address }); err == nil {
			t.Errorf("%s would be asked", address)
		}
	}
	if err := setSettings(t.Context(), s, func(how *base.Settings) { how.SupplierService = there.URL }); err != nil {
		t.Fatal(err)
	}
	if err := ask(); err != nil {
		t.Fatal(err)
	}
	first := s.Offers()[part]
	if first.Cents == 0 || !first.At.Equal(now) {
		t.Errorf("%+v", first)
	}
	asked := service.Asked()
	if err := ask(); err != nil || service.Asked() != asked {
		t.Errorf("asked again at once: %v", err)
	}
	now = now.Add(time.Hour)
	pause := time.Duration(0)
	for _, fault := range []string{supplier.Slow, supplier.Down, supplier.Nonsense} {
		service.Switch(fault)
		err := ask()
		if err == nil || s.Offers()[part] != first {
			t.Errorf("%s: %v, %+v", fault, err, s.Offers()[part])
		}
		asked := service.Asked()
		if err := ask(); err == nil || !strings.Contains(err.Error(), "asked again from") || service.Asked() != asked {
			t.Errorf("%s: it is asked at once again: %v", fault, err)
		}
		state, err := s.Asking(t.Context())
		if err != nil || state.Again.Sub(now) <= pause {
			t.Errorf("%s: the pause is %s after %s", fault, state.Again.Sub(now), pause)
		}
		pause = state.Again.Sub(now)
		now = state.Again
	}
	service.Switch(supplier.Dearer)
	if err := ask(); err != nil || s.Offers()[part].Cents <= first.Cents {
		t.Fatalf("%v %+v", err, s.Offers()[part])
	}
	if err := s.TakeOffer(t.Context(), okell, "", part, first.Cents); err != base.ErrChanged {
		t.Errorf("a price that nobody says any more is taken: %v", err)
	}
	if err := s.TakeOffer(t.Context(), okell, "", part, s.Offers()[part].Cents); err != nil {
		t.Fatal(err)
	}
	if r := shelfOf(t, s, part); r.Part.PriceCents != s.Offers()[part].Cents || !r.Part.LeadDays.IsKnown() {
		t.Errorf("%+v", r.Part)
	}
	service.Switch(supplier.Gone)
	now = now.Add(time.Hour)
	if err := ask(); err != nil || !s.Offers()[part].Missing {
		t.Errorf("%v %+v", err, s.Offers()[part])
	}
}
