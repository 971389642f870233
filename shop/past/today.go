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
	"yembo/store"
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
	due := base.DueAt(demo.OnDay(demo.Stepped(sh.Now(), 5), 10*time.Hour), true)
	if err := at(now.Add(-20*time.Minute)).MoveJob(ctx, a, "", job,
		jobs.Move{To: jobs.WaitsParts, For: "a module in place of the bad one, from Skelbeck Trade", Due: due}); err != nil {
		return err
	}
	for i := range ahead {
		if err := ahead[i].takeIn(ctx, sh, now); err != nil {
			return fmt.Errorf("job %d of the past, once more: %w", ahead[i].before, err)
		}
	}
	return nil
}

// back is a machine of the past that is here again, or comes: for its paste, or for a larger drive, which is copied.
type back struct {
	before   int64         // its job of the past
	since    int           // working days since it was taken in
	promised int           // in so many working days, 0 for not
	clock    time.Duration // of that day
	comes    int           // in so many working days, 0 for a machine that is here
	drive    bool
}

// ahead are the machines that give the days after today something to do: one that was not promised and is passed by others,
// one for the day after, one that is brought then, one whose drive is copied.
var ahead = []back{{before: 43, since: 3}, {before: 44, since: 1, promised: 2, clock: 12 * time.Hour},
	{before: 45, since: 1, promised: 1, clock: 17 * time.Hour, comes: 1},
	{before: 34, since: 1, promised: 1, clock: 16 * time.Hour, drive: true}}

func (x *back) takeIn(ctx context.Context, sh *shop.Shop, now time.Time) error {
	then := demo.OnDay(demo.Stepped(now, -x.since), 9*time.Hour+30*time.Minute)
	s := shop.New(sh.Store, func() time.Time { return then })
	was, err := s.Job(ctx, x.before)
	if err != nil {
		return err
	}
	in := jobs.Intake{Known: true, KnownVer: was.MachineVer, Machine: was.Machine, Agreement: jobs.Agreement{
		Customer: was.Customer, Contact: was.Contact, Complaint: "Runs hot, and its fan is never quiet.",
		Wish:    &hw.Request{Format: hw.FormatRequest, Services: []hw.AskedService{{ID: "repaste", Charge: hw.Known(int64(350))}}},
		Details: jobs.Details{Condition: jobs.Condition{Looked: x.comes == 0, Seal: "none"}, Consents: []hw.Consent{hw.ConsentData}}}}
	if x.drive {
		in.Complaint = "The drive is full of photographs of the boats."
		in.Wish = &hw.Request{Format: hw.FormatRequest, Goals: hw.Goals{StorageGB: hw.Known(hw.DecOf(2000))}}
	}
	if x.promised > 0 {
		in.Promised = demo.OnDay(demo.Stepped(sh.Now(), x.promised), x.clock)
	}
	if x.comes > 0 {
		in.Away = &jobs.Away{Due: base.DueAt(demo.OnDay(demo.Stepped(sh.Now(), x.comes), 9*time.Hour+15*time.Minute), true)}
	}
	a := base.Actor{Name: demo.Technicians[1]}
	if _, err := s.TakeIn(ctx, a, "", in); err != nil {
		return err
	}
	return s.Store.Update(ctx, func(tx store.Tx) error {
		p, err := s.Gather(tx, was.Key, jobs.PlanQuery{})
		if err != nil {
			return err
		}
		if err := p.Make(ctx); err != nil || len(p.Plan.Options) == 0 {
			return fmt.Errorf("nothing to choose: %w", err)
		}
		return s.StoreChoice(tx, a, &p, p.Plan.Options[0])
	})
}
