package past

import (
	"time"

	"yembo/shop/base"
	"yembo/shop/stock"
)

// Two of the orders do not go as they should: by their number among all.
const (
	lateOrder  = 4
	shortOrder = 7
)

// deliveries books in what is due on a day. One order comes three days late, another in two parts.
func (p *shopPast) deliveries(day time.Time) error {
	today := day.Format(time.DateOnly)
	for n, id := range p.orders {
		o, err := p.s.Order(p.ctx, id)
		if err != nil {
			return err
		}
		due := o.Expected.Day()
		if at, err := time.Parse(time.DateOnly, due); err == nil && n == lateOrder {
			due = at.AddDate(0, 0, 3).Format(time.DateOnly)
		}
		if o.Closed || due > today {
			continue
		}
		var came []stock.Arrival
		for i, l := range o.Lines {
			if n == shortOrder && i == 0 && l.Got == 0 && l.N > 1 {
				came = append(came, stock.Arrival{Line: l.ID, N: l.Open() - 1})
				continue
			}
			came = append(came, stock.Arrival{Line: l.ID, N: l.Open()})
		}
		p.later(5 * time.Minute)
		if err := p.s.Deliver(p.ctx, p.actor(), "", id, o.Version, came); err != nil {
			return err
		}
	}
	return nil
}

// order orders what lies on the shelf no more since the last time, and what jobs wait for.
func (p *shopPast) order(day time.Time) error {
	shelf, err := p.s.Shelf(p.ctx)
	if err != nil {
		return err
	}
	suppliers, err := p.s.Suppliers(p.ctx)
	if err != nil {
		return err
	}
	for _, x := range suppliers {
		var lines []stock.Wanted
		for _, l := range shelf.Lines {
			n := p.opening[l.ID] + l.Held - l.Shelf - l.UnderWay()
			for _, short := range l.Short {
				n += short.N
			}
			if l.Supplier != x.ID || l.Part.Pulled() || n <= 0 {
				continue
			}
			lines = append(lines, stock.Wanted{Part: l.ID, N: n, Cents: l.Part.PriceCents * 4 / 5})
		}
		if len(lines) == 0 {
			continue
		}
		p.later(6 * time.Minute)
		id, err := p.s.PlaceOrder(p.ctx, p.actor(), "", x.ID, lines,
			stock.Delivery{Expected: base.DueAt(day.AddDate(0, 0, x.Days.Or(2)), false)})
		if err != nil {
			return err
		}
		p.orders = append(p.orders, id)
	}
	return nil
}
