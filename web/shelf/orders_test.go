package shelf_test

import (
	"fmt"
	"net/url"
	"slices"
	"strings"
	"testing"

	"yembo/core/plan"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/stock"
	"yembo/web/webtest"
)

// TestLaterOrder: an order that comes later says whose promise it breaks at its field, with what was typed, and nothing is
// saved; what is not understood and what cannot be is a fault there; ticked it is saved.
func TestLaterOrder(t *testing.T) {
	e, _, s := webtest.Started(t)
	ctx, a := t.Context(), base.Actor{Name: "test"}
	p, err := s.Plan(ctx, "tarn-vet-04", jobs.PlanQuery{})
	if err != nil {
		t.Fatal(err)
	}
	at := slices.IndexFunc(p.Plan.Options, func(o plan.Option) bool {
		return slices.ContainsFunc(o.Buy, func(b plan.Buy) bool { return b.Part == "wx-qb-760" })
	})
	if at < 0 {
		t.Fatal("no option has the pack that is on order")
	}
	if _, err := s.Choose(ctx, a, "", "tarn-vet-04", jobs.Fingerprint(p.Plan.Options[at]), p.Record.ChoiceMark(),
		jobs.PlanQuery{}); err != nil {
		t.Fatal(err)
	}
	orders, err := s.Orders(ctx)
	if err != nil {
		t.Fatal(err)
	}
	of := slices.IndexFunc(orders, func(o stock.Order) bool { return !o.Closed && o.Lines[0].Part == "wx-qb-760" })
	order := &orders[of]
	for _, x := range []struct {
		expected, so, confirmed string
		status                  int
		says                    string
	}{
		{"26 May 9:00", "", "", 422,
			"it breaks a promise: tarn-vet-04 was promised for Fri 22 May 17:00, and would be ready Tue 26 May"},
		{"some day", "", "", 422, "not a time"},
		{"", "", "", 422, "it breaks a promise: tarn-vet-04 was promised for Fri 22 May 17:00. Nothing"},
		{"", "yes", "yes", 422, "the day that the supplier has confirmed"},
		{"22 May 10:00", "", "yes", 303, ""},
		{"26 May 9:00", "yes", "", 303, ""},
	} {
		now, err := s.Order(ctx, order.ID)
		if err != nil {
			t.Fatal(err)
		}
		status, body := webtest.SendForm(e, fmt.Sprintf("/orders/%d", order.ID), url.Values{"do": {"expect"},
			"version": {fmt.Sprint(now.Version)}, "/expected": {x.expected}, "/so": {x.so}, "/confirmed": {x.confirmed}})
		kept := strings.Contains(body, `value="`+x.expected+`"`)
		if status != x.status || !strings.Contains(body, x.says) || status == 422 && !kept {
			t.Errorf("%q: %d, without %q", x.expected, status, x.says)
		}
		after, err := s.Order(ctx, order.ID)
		if err != nil || (after.Version != now.Version) != (x.status == 303) {
			t.Errorf("%q: version %d, before %d: %v", x.expected, after.Version, now.Version, err)
		}
	}
	form := webtest.FieldsOf(t, webtest.Page(e, "/orders/new"), "/orders")
	if _, there := form["/expected"]; !there || !strings.Contains(webtest.Page(e, "/orders/new"), `name="/confirmed"`) {
		t.Error("a new order cannot say when it comes, and whether that is confirmed")
	}
	form.Set("/expected", "22 May 11:30")
	form.Set("/confirmed", "yes")
	form.Set("supplier", fmt.Sprint(order.Supplier.ID))
	form.Set("more", "cv-d4-8")
	form.Set("/more", "1")
	if status, _ := webtest.SendForm(e, "/orders", form); status != 303 {
		t.Fatalf("a new order: %d", status)
	}
	if orders, err = s.Orders(ctx); err != nil || orders[0].Expected != "2026-05-22 11:30" || !orders[0].Confirmed {
		t.Errorf("the new order is expected %q, confirmed %v: %v", orders[0].Expected, orders[0].Confirmed, err)
	}
	if page := webtest.Page(e, fmt.Sprintf("/orders/%d", order.ID)); !strings.Contains(page, "expected 26 May 26, 09:00") ||
		strings.Contains(page, "checked> Confirmed by the supplier") {
		t.Error("the order does not say when it comes")
	}
}
