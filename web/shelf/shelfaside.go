package shelf

import (
	"context"
	"fmt"
	"strings"
	"time"

	"yembo/shop/base"
	"yembo/shop/stock"

	"yembo/core/hw"
	"yembo/web/kit"
)

// wordsOfFault is a fault of a part's document without the document's own words.
func wordsOfFault(f hw.Fault) string {
	if f.Pointer == "" {
		return f.Text
	}
	return kit.FieldName(f.Pointer) + ": " + f.Text
}

// orderList works out what should be ordered now, with what it comes to.
func (s *pages) orderList(shelf *stock.Shelf, how *base.Settings) orderList {
	needs := s.Shop.ToOrder(shelf.Lines)
	var out orderList
	total, jobs := int64(0), int64(0)
	row := func(n *stock.OrderNeed) orderRow {
		cents := int64(n.N) * n.Part.PriceCents
		r := orderRow{ID: n.ID, Name: n.Part.Name, N: n.N, Price: plainMoney(cents)}
		if n.Part.PriceCents == 0 {
			r.Price = "?"
		}
		total += cents
		out.Pieces += n.N
		return r
	}
	for i := range needs.Jobs {
		n := &needs.Jobs[i]
		r := row(n)
		var who []string
		for _, h := range n.For {
			who = append(who, fmt.Sprintf("%s, %s", base.Label(h.Job), h.Tag))
		}
		r.Why = strings.Join(who, "; ")
		if days, ok := n.Part.LeadDays.Get(); ok {
			r.Why += "; here " + hw.Day(s.Shop.Now().AddDate(0, 0, days).Format(time.DateOnly)) + " if ordered today"
		}
		jobs += int64(n.N) * n.Part.PriceCents
		out.JobPieces += n.N
		if len(out.Jobs) < mostAsideRows {
			out.Jobs = append(out.Jobs, r)
		}
	}
	for i := range needs.Low {
		n := &needs.Low[i]
		r := row(n)
		r.Why = fmt.Sprintf("%d free, reorder level %d", n.Free(), n.Low)
		if len(out.Low) < mostAsideRows {
			out.Low = append(out.Low, r)
		}
	}
	out.Total, out.JobTotal = hw.Money(how.Currency, total), hw.Money(how.Currency, jobs)
	return out
}

// fillShelfAside adds what stands beside the shelf: what is under way, the last movements.
func (s *pages) fillShelfAside(ctx context.Context, v *shelfView) error {
	orders, err := s.Shop.Orders(ctx)
	if err != nil {
		return err
	}
	for i := range orders {
		if o := &orders[i]; !o.Closed {
			v.Coming = append(v.Coming, comingOf(o))
		}
	}
	suppliers, err := s.Shop.Suppliers(ctx)
	if err != nil {
		return err
	}
	v.NoSupplier = true
	for _, x := range suppliers {
		v.NoSupplier = v.NoSupplier && x.Retired
	}
	moves, err := s.Shop.Movements(ctx, "", 8)
	for i := range moves {
		v.Moves = append(v.Moves, moveOf(&moves[i]))
	}
	return err
}

func comingOf(o *stock.Order) comingRow {
	row := comingRow{Order: o.ID, From: o.Supplier.Name, Late: o.Late, Due: "date not known"}
	if o.Expected != "" {
		row.Due = o.Expected.Sheet()
	}
	var what, whom []string
	for i := range o.Lines {
		l := &o.Lines[i]
		if l.Open() == 0 {
			continue
		}
		what = append(what, fmt.Sprintf("%d × %s", l.Open(), l.Name))
		for _, h := range l.For {
			whom = append(whom, base.Label(h.Job))
		}
	}
	if len(what) > 3 {
		what = append(what[:3], fmt.Sprintf("%d more", len(what)-3))
	}
	row.What, row.For = strings.Join(what, ", "), strings.Join(whom, ", ")
	return row
}

// moveOf is a movement as lists show it.
func moveOf(m *stock.Movement) moveRow {
	row := moveRow{At: kit.Stamp(m.At), What: m.Name, Part: m.PartID, Why: stock.MoveKinds.Says(stock.MoveKind(m.Kind))}
	n := m.Shelf
	switch {
	case m.Shelf > 0:
		row.Change = fmt.Sprintf("+%d", n)
	case m.Shelf < 0:
		row.Change = fmt.Sprintf("−%d", -n)
	default:
		n = m.Held
		if n == 0 {
			n = m.Tested
		}
		row.Change = fmt.Sprint(max(n, -n))
		if m.Held != 0 || m.Tested != 0 {
			row.Change = "(" + row.Change + ")"
		}
	}
	if m.JobID != nil {
		row.Job, row.JobLabel = *m.JobID, base.Label(*m.JobID)
	}
	if m.Tag != "" && m.JobID == nil {
		row.Why += ", " + m.Tag
	}
	if m.Note != "" {
		row.Why += ": " + m.Note
	}
	return row
}
