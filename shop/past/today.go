package past

import (
	"context"
	"fmt"
	"time"

	"yembo/core/hw"
	"yembo/shop"
	"yembo/shop/base"
	"yembo/shop/demo"
	"yembo/shop/jobs"
	"yembo/shop/stock"
)

// returned is the job of the past whose machine came back: by its number.
const returned = int64(36)

// Today adds to a demo that has its past what follows from it: a machine that came back, whose promise cannot be kept, and
// an order that came short.
func Today(ctx context.Context, sh *shop.Shop) error {
	now := demo.LastOpen(sh.Now())
	a := base.Actor{Name: demo.Technicians[1]}
	at := func(t time.Time) *shop.Shop { return shop.New(sh.Store, func() time.Time { return t }) }

	placed := demo.Stepped(now, -4)
	suppliers, err := sh.Suppliers(ctx)
	if err != nil {
		return err
	}
	part, err := sh.Part(ctx, "cv-d4-16")
	if err != nil {
		return err
	}
	id, err := at(placed).PlaceOrder(ctx, a, "", suppliers[0].ID,
		[]stock.Wanted{{Part: "cv-d4-16", N: 3, Cents: part.Part.PriceCents * 4 / 5}},
		stock.Delivery{Expected: base.DueAt(demo.Stepped(now, -2), false)})
	if err != nil {
		return err
	}
	order, err := sh.Order(ctx, id)
	if err != nil {
		return err
	}
	came := []stock.Arrival{{Line: order.Lines[0].ID, N: 2}}
	if err := at(demo.OnDay(demo.Stepped(now, -2), 10*time.Hour)).Deliver(ctx, a, "", id, order.Version, came); err != nil {
		return err
	}

	before, err := sh.Job(ctx, returned)
	if err != nil {
		return err
	}
	in := jobs.Intake{Known: true, KnownVer: before.MachineVer, Machine: before.Machine, Agreement: jobs.Agreement{
		Customer: before.Customer, Contact: before.Contact, Complaint: "Stops with errors since the upgrade, once a day.",
		Wish: &hw.Request{Format: hw.FormatRequest}, Promised: demo.OnDay(demo.Stepped(sh.Now(), 1), 12*time.Hour),
		Details: jobs.Details{Condition: jobs.Condition{Looked: true, Seal: "none"}, Returns: returned}}}
	late := at(now.Add(-35 * time.Minute))
	job, err := late.TakeIn(ctx, a, "", in)
	if err != nil {
		return fmt.Errorf("the machine that came back: %w", err)
	}
	due := base.DueAt(demo.Stepped(sh.Now(), 5), false)
	return at(now.Add(-20*time.Minute)).MoveJob(ctx, a, "", job,
		jobs.Move{To: jobs.WaitsParts, For: "a module in place of the bad one, from Skelbeck Trade", Due: due})
}
