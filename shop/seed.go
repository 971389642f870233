package shop

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image/jpeg"
	"slices"
	"time"

	"yembo/core/hw"
	"yembo/core/quote"
	"yembo/core/run"
	"yembo/shop/base"
	"yembo/shop/demo"
	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/shop/stock"
	"yembo/shop/work"
	"yembo/store"
)

// SeedDemo fills an empty store with the demo workshop as it is today, without its past.
func (s *Shop) SeedDemo(ctx context.Context) error {
	if _, err := s.SeedShop(ctx); err != nil {
		return err
	}
	return s.SeedToday(ctx)
}

// SeedShop enters what the demo workshop has had since it opened: its settings, its models with their photos, its shelf.
func (s *Shop) SeedShop(ctx context.Context) (*demo.Data, error) {
	data, err := demo.Load(s.ahead())
	if err != nil {
		return nil, err
	}
	a, then := base.Actor{Name: demo.Technician}, s.then(demo.Opened)
	return data, s.Store.Update(ctx, func(tx store.Tx) error {
		if err := base.PutSettings(tx, demoSettings(data), then.Now()); err != nil {
			return err
		}
		for _, ch := range data.Models {
			if err := then.AddModelIn(tx, a, ch, "/id", base.Event{What: "recorded"}); err != nil {
				return fmt.Errorf("demo model %s: %w", ch.ID, err)
			}
		}
		for i := range data.Photos {
			if err := then.seedPhoto(tx, &data.Photos[i]); err != nil {
				return fmt.Errorf("demo photo %s: %w", data.Photos[i].File, err)
			}
		}
		return s.seedShelf(tx, a, data)
	})
}

// SeedToday enters the machines that are in the demo workshop today, with what happened to them.
func (s *Shop) SeedToday(ctx context.Context) error {
	data, err := demo.Load(s.ahead())
	if err != nil {
		return err
	}
	a := base.Actor{Name: demo.Technician}
	var ids []int64
	err = s.Store.Update(ctx, func(tx store.Tx) error {
		for _, o := range data.Shelf.Orders {
			if err := s.seedOrder(tx, a, &o); err != nil {
				return fmt.Errorf("demo order: %w", err)
			}
		}
		for i := range data.Jobs {
			j := &data.Jobs[i]
			id, err := s.seedJob(ctx, tx, a, j)
			if err != nil {
				return fmt.Errorf("demo machine %s: %w", j.Machine.ID, err)
			}
			ids = append(ids, id)
		}
		return nil
	})
	if err != nil {
		return err
	}
	for i, id := range ids {
		if err := s.seedMoves(ctx, a, id, &data.Jobs[i]); err != nil {
			return fmt.Errorf("demo machine %s: %w", data.Jobs[i].Machine.ID, err)
		}
	}
	return nil
}

// seedShelf enters the demo's suppliers and parts, with what is under way.
func (s *Shop) seedShelf(tx store.Tx, a base.Actor, data *demo.Data) error {
	before := s.then(demo.Opened)
	suppliers := map[string]int64{}
	for _, x := range data.Shelf.Suppliers {
		id, err := before.SaveSupplierIn(tx, a, stock.Supplier{Name: x.Name, Contact: x.Contact, Days: hw.Known(x.Days),
			Closes: x.Closes})
		if err != nil {
			return fmt.Errorf("demo supplier %s: %w", x.Name, err)
		}
		suppliers[x.Name] = id
	}
	from := map[string]int64{}
	for name, parts := range data.Shelf.From {
		for _, part := range parts {
			from[part] = suppliers[name]
		}
	}
	for _, p := range data.Parts.Parts {
		pieces, counted := p.Stock.Get()
		p.Stock = hw.Maybe[int]{}
		l := stock.PartLine{Part: p, Orderable: !counted || data.Shelf.Low[p.ID] > 0, Low: data.Shelf.Low[p.ID],
			Supplier: from[p.ID]}
		if l.Supplier == 0 && !p.Pulled() {
			l.Supplier = suppliers[data.Shelf.Usual]
		}
		id, err := before.AddPartIn(tx, a, l, stock.Moving{})
		if err == nil && pieces > 0 {
			err = before.BookMovement(tx, a, store.Movement{PartID: id, Kind: string(stock.Counted), Shelf: pieces,
				Tested: data.Shelf.Tested[id],
				Note:   "opening stock"})
		}
		if err != nil {
			return fmt.Errorf("demo part %s: %w", p.ID, err)
		}
	}
	return nil
}

// seedOrder places one of the demo's orders that are under way.
func (s *Shop) seedOrder(tx store.Tx, a base.Actor, o *demo.Order) error {
	suppliers, err := tx.Suppliers()
	if err != nil {
		return err
	}
	at := slices.IndexFunc(suppliers, func(x store.Supplier) bool { return x.Name == o.From })
	if at < 0 {
		return fmt.Errorf("no supplier %s", o.From)
	}
	var lines []stock.Wanted
	for part, n := range o.Lines {
		row, err := tx.Part(part)
		if err != nil {
			return err
		}
		p, err := stock.ReadPart(&row)
		if err != nil {
			return err
		}
		lines = append(lines, stock.Wanted{Part: part, N: n, Cents: p.PriceCents})
	}
	when := stock.Delivery{Expected: s.expected(o.Expected), Confirmed: o.Confirmed}
	_, err = s.then(o.At).PlaceOrderIn(tx, a, suppliers[at].ID, lines, when)
	return err
}

// expected is when something of the demo is expected, as it lies to this day.
func (s *Shop) expected(due base.Due) base.Due {
	at, timed, ok := due.At(time.UTC)
	if !ok {
		return due
	}
	return base.DueAt(s.moved(at), timed)
}

// ahead is how far the demo's own day lies before this one.
func (s *Shop) ahead() time.Duration {
	last := demo.LastOpen(s.Now())
	return time.Date(last.Year(), last.Month(), last.Day(), 0, 0, 0, 0, time.UTC).Sub(demo.Day)
}

// then is the shop at a time of the demo, moved to this day. A demo that starts early in
// the morning has everything happen before that.
func (s *Shop) then(at time.Time) *Shop {
	at = s.moved(at)
	if latest := s.Now(); at.After(latest) {
		at = latest
	}
	return New(s.Store, func() time.Time { return at })
}

// moved is a time of the demo as it lies to this day, on the clock of the shop: what happened today happened as long ago, or
// sooner where the shop has not been open so long; days before and after it are working days before and after. While the shop
// is closed, what was going on went on until it closed, and what is promised is for when it opens.
func (s *Shop) moved(at time.Time) time.Time {
	const early = 8 * time.Hour // nothing of the demo's day was before
	now := s.Now()
	asOf := demo.LastOpen(now)
	clock := time.Duration(at.Hour())*time.Hour + time.Duration(at.Minute())*time.Minute
	day := time.Date(at.Year(), at.Month(), at.Day(), 0, 0, 0, 0, time.UTC)
	then := demo.Day.Add(demo.Clock)
	switch {
	case day.Equal(demo.Day) && !at.After(then):
		ago := then.Sub(at)
		if open := asOf.Sub(demo.Midnight(asOf).Add(early)); open < demo.Clock-early {
			ago = time.Duration(float64(ago) * float64(open) / float64(demo.Clock-early))
		}
		return asOf.Add(-ago).Truncate(time.Minute)
	case day.Before(demo.Day):
		return demo.OnDay(demo.Stepped(asOf, -demo.WorkingDays(day, demo.Day)), clock)
	}
	if day.Equal(demo.Day) && now.Equal(asOf) {
		return promised(now, at.Sub(then))
	}
	next := now
	if now.Sub(asOf) > 0 {
		next = demo.Stepped(asOf, 1)
	}
	return demo.OnDay(demo.Stepped(next, demo.WorkingDays(demo.Day, day)), clock)
}

// promised is a time that lies so far ahead of now, to ten minutes: the next working day where the shop closes before.
func promised(now time.Time, ahead time.Duration) time.Time {
	const last, first = 17*time.Hour + 30*time.Minute, 9 * time.Hour
	clock := now.Add(ahead+10*time.Minute-1).Sub(demo.Midnight(now)) / (10 * time.Minute) * (10 * time.Minute)
	if clock <= last {
		return demo.OnDay(now, clock)
	}
	return demo.OnDay(demo.Stepped(now, 1), first+clock-last)
}

// seedJob stores a job of the demo with what was chosen for it.
func (s *Shop) seedJob(ctx context.Context, tx store.Tx, a base.Actor, j *demo.Job) (int64, error) {
	in := jobs.Intake{Agreement: jobs.Agreement{Customer: j.Customer, Contact: j.Contact, Complaint: j.Complaint, Wish: j.Wish},
		Machine: j.Machine}
	if j.Details != nil {
		if err := json.Unmarshal(j.Details, &in.Details); err != nil {
			return 0, err
		}
	}
	if !j.Promised.IsZero() {
		in.Promised = s.moved(j.Promised)
	}
	then := s.then(j.At)
	id, err := then.StoreIntake(tx, a, in, j.Machine)
	if err != nil || j.Choose == "" {
		return id, err
	}
	p, err := s.Gather(tx, j.Machine.ID, jobs.PlanQuery{})
	if err != nil {
		return 0, err
	}
	if err := p.Make(ctx); err != nil {
		return 0, err
	}
	for _, o := range p.Plan.Options {
		if o.ID == p.Plan.Picks.LeastCost {
			return id, s.then(j.At.Add(20*time.Minute)).StoreChoice(tx, a, &p, o)
		}
	}
	return 0, fmt.Errorf("no option to choose")
}

func (s *Shop) seedMoves(ctx context.Context, a base.Actor, id int64, j *demo.Job) error {
	for _, m := range j.Moves {
		due := s.expected(m.Due)
		if err := s.then(m.At).MoveJob(ctx, a, "", id,
			jobs.Move{To: m.To, For: m.For, Due: due, Bench: m.Bench}); err != nil {
			return err
		}
	}
	if err := s.seedRun(ctx, a, id, j.Ticks); err != nil {
		return err
	}
	for _, t := range j.Talks {
		if err := s.then(t.At).AddContact(ctx, a, "", id,
			jobs.Contact{How: t.How, Who: t.Who, Said: t.Said, Agreed: t.Agreed}, nil); err != nil {
			return err
		}
	}
	return nil
}

// seedRun begins a run with all that it needs, and ticks its first steps.
func (s *Shop) seedRun(ctx context.Context, a base.Actor, id int64, ticks []demo.Tick) error {
	for i, t := range ticks {
		then := s.then(t.At)
		if i == 0 {
			in, err := then.LookAtStart(ctx, id)
			if err != nil {
				return err
			}
			var here []string
			for _, n := range in.Needs {
				here = append(here, n.ID)
			}
			if err := then.BeginRun(ctx, a, "", id, work.Begin{Here: here}); err != nil {
				return err
			}
			continue
		}
		refused, err := then.RunEvents(ctx, a, id, []work.SentEvent{{Client: fmt.Sprintf("demo-%d", i), Kind: run.Ticked,
			Step: t.Step}})
		if err != nil || len(refused) > 0 {
			return fmt.Errorf("tick %s: %v %w", t.Step, refused, err)
		}
	}
	return nil
}

func demoSettings(d *demo.Data) base.Settings {
	out := base.DefaultSettings()
	out.Simulated = true
	out.LabourRate, out.Currency = demo.LabourRate, d.Parts.Currency
	out.Technicians, out.Address, out.Workshop = demo.Technicians, demo.Address, demo.Workshop
	out.TaxPercent, out.Pricing = hw.DecOf(
		demo.TaxPercent,
	), base.Pricing{
		DeclinedCents: 1200,
		Law:           demo.Law,
		Fixed: []quote.FixedLine{
			{Text: "Intake and test", Cents: 1200, When: quote.Always}, {Text: "Copying, attended", Cents: 950, When: quote.Copying},
			{
				Text:  "Erasing the old drive",
				Cents: 400,
				When:  quote.Erasing,
			}, {Text: "Disposal of the battery", Cents: 300, When: quote.Packing}},
	}
	return out
}

func (s *Shop) seedPhoto(tx store.Tx, p *demo.Photo) error {
	size, err := jpeg.DecodeConfig(bytes.NewReader(p.Full))
	if err != nil {
		return err
	}
	_, err = s.StorePhoto(tx, base.Actor{Name: p.By},
		&store.Photo{Kind: base.KindModel, Record: p.Model, Fact: p.Fact, Caption: p.Caption, TakenOn: p.On, By: p.By,
			Width: size.Width, Height: size.Height, Full: p.Full, Thumb: p.Thumb, Sum: records.SumOf(p.Full),
			SourceSum: records.SumOf(p.Full), CreatedAt: s.Now()})
	return err
}
