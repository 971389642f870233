package shop_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"yembo/shop"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/stock"
	"yembo/store"
)

// module is a memory module as it is entered.
func module(name string, gb int, cents int64) stock.PartLine {
	return stock.PartLine{Part: hw.Part{Kind: hw.KindMemory, Name: name, PriceCents: cents, Memory: &hw.Module{Type: "DDR4",
		Form: "SO-DIMM", Capacity: dec(gb), Speed: hw.Known(3200), Ranks: hw.Known(1)}}}
}

// enter puts a part on the list with n pieces.
func enter(t *testing.T, s *shop.Shop, l stock.PartLine, n int) string {
	t.Helper()
	id, err := s.AddPart(t.Context(), okell, "", l, stock.Moving{Kind: stock.Bought, N: n})
	if err != nil {
		t.Fatal(err)
	}
	return id
}

// shelfOf is what lies on the shelf of a part.
func shelfOf(t *testing.T, s *shop.Shop, id string) stock.PartRecord {
	t.Helper()
	r, err := s.Part(t.Context(), id)
	if err != nil {
		t.Fatal(err)
	}
	return r
}

// choosing is a machine of its own with a plan in which a part is pinned: it chooses the first
// option.
func choosing(t *testing.T, s *shop.Shop, n int, part string) (key string, choose func(ctx context.Context) error) {
	t.Helper()
	in := intake(fmt.Sprintf("Chooser %d", n))
	in.Machine.Serial, in.Machine.Fitted.Memory = fmt.Sprint("C", n), []hw.FittedModule{} // looked at: empty
	id, err := takeIn(t.Context(), s, "", in)
	if err != nil {
		t.Fatal(err)
	}
	q := jobs.PlanQuery{Wish: &hw.Request{Goals: hw.Goals{MemoryGB: dec(16)}}, Pinned: []string{part}}
	p, err := s.Plan(t.Context(), id, q)
	if err != nil || len(p.Plan.Options) == 0 {
		t.Fatalf("no option with %s: %v", part, err)
	}
	mark := jobs.Fingerprint(p.Plan.Options[0])
	return id, func(ctx context.Context) error { return only(s.Choose(ctx, okell, "", id, mark, "", q)) }
}

// lastPieces lets clients choose at once what there are fewer pieces of, and counts who has one.
func lastPieces(t *testing.T, clients, pieces int) {
	s := workshop(t)
	part := enter(t, s, module("Corvane last", 16, 1), pieces)
	var got, gone atomic.Int64
	chooses := make([]func(context.Context) error, clients)
	for n := range clients {
		_, chooses[n] = choosing(t, s, n, part)
	}
	var all sync.WaitGroup
	for _, choose := range chooses {
		all.Go(func() {
			switch err := choose(t.Context()); {
			case err == nil:
				got.Add(1)
			case errors.Is(err, base.ErrPlanChanged):
				gone.Add(1)
			default:
				t.Error(err)
			}
		})
	}
	all.Wait()
	if r := shelfOf(t, s, part); int(got.Load()) != pieces || r.Held != pieces ||
		int(got.Load()+gone.Load()) != clients {
		t.Errorf("%d of %d chose, %d told that it is gone, %d of %d pieces held", got.Load(), clients, gone.Load(),
			r.Held, pieces)
	}
	sumsUp(t, s)
}

func TestLastPieces(t *testing.T) { lastPieces(t, 50, 10) }

// sumsUp holds the stock against the movements it comes from, for every part and every job.
func sumsUp(t *testing.T, s *shop.Shop) {
	t.Helper()
	err := s.Store.View(t.Context(), func(tx store.Tx) error {
		sums, jobs := map[string]store.Stock{}, map[string]int{}
		err := store.Each(tx, func(m *store.Movement) error {
			x := sums[m.PartID]
			x.PartID, x.Shelf, x.Held, x.Tested = m.PartID, x.Shelf+m.Shelf, x.Held+m.Held, x.Tested+m.Tested
			if x.Shelf < 0 || x.Held < 0 || x.Held > x.Shelf || x.Tested < 0 || x.Tested > x.Shelf {
				t.Errorf("after movement %d: %+v", m.ID, x)
			}
			if sums[m.PartID] = x; m.JobID != nil {
				jobs[fmt.Sprint(*m.JobID, m.PartID)] += m.Held
			}
			return nil
		})
		stocks, errS := tx.Stocks()
		if fmt.Sprint(stocks) != fmt.Sprint(sums) {
			t.Errorf("the stock is %v, the movements come to %v", stocks, sums)
		}
		holds, errH := tx.Holds()
		for _, h := range holds {
			if jobs[fmt.Sprint(h.JobID, h.PartID)] != h.N {
				t.Errorf("held: %+v, the movements come to %d", h, jobs[fmt.Sprint(h.JobID, h.PartID)])
			}
		}
		return errors.Join(err, errS, errH)
	})
	if err != nil {
		t.Error(err)
	}
}

// TestMovementsSumUp: after any history, refused movements among it, the stock is the sum of the
// movements, and never below nothing.
func TestMovementsSumUp(t *testing.T) {
	s := workshop(t)
	rnd := rand.New(rand.NewPCG(14, 1))
	used := module("Corvane pulled", 16, 0)
	used.Part.Source = hw.OriginPulled
	parts := []string{enter(t, s, module("Corvane new", 16, 1), 3),
		only2(s.AddPart(t.Context(), okell, "", used, stock.Moving{}))}
	var ids []int64
	var chooses []func(context.Context) error
	for n := range 3 {
		key, choose := choosing(t, s, n, parts[0])
		r, err := s.Machine(t.Context(), key)
		if err != nil {
			t.Fatal(err)
		}
		ids, chooses = append(ids, r.JobID), append(chooses, choose)
	}
	kinds := []stock.MoveKind{stock.Bought, stock.Pulled, stock.Tested, stock.Fitted, stock.Unfitted, stock.Returned,
		stock.SentBack, stock.Scrapped}
	done := 0
	for range 400 {
		n := rnd.IntN(4) + 1
		var err error
		switch rnd.IntN(8) {
		case 0:
			r := shelfOf(t, s, parts[rnd.IntN(2)])
			err = s.CountShelf(t.Context(), okell, "", []stock.CountLine{{Part: r.ID, Seen: r.Shelf, Counts: rnd.IntN(6)}}, "miscounted")
		case 1:
			err = chooses[rnd.IntN(3)](t.Context())
		case 2:
			err = s.MoveJob(t.Context(), okell, "", ids[rnd.IntN(3)],
				jobs.Move{To: []string{"close", "reopen"}[rnd.IntN(2)]})
		default:
			err = s.MovePart(t.Context(), okell, "", stock.Moving{Part: parts[rnd.IntN(2)], Kind: kinds[rnd.IntN(len(kinds))],
				N:   n,
				Job: ids[rnd.IntN(3)], Tested: []string{"", "memory test"}[rnd.IntN(2)], Note: "why"})
		}
		var faults hw.Faults
		if err != nil && !errors.As(err, &faults) && !errors.Is(err, base.ErrPlanChanged) {
			t.Fatal(err)
		} else if err == nil {
			done++
		}
	}
	if done < 100 {
		t.Errorf("only %d of the movements could be", done)
	}
	sumsUp(t, s)
}

func only2[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// TestOrders: what a job is short of is ordered once, comes in parts, goes to the job that waits,
// and that job is ready.
func TestOrders(t *testing.T) {
	s := workshop(t)
	part := module("Corvane far away", 16, 1)
	part.Part.LeadDays = hw.Known(3)
	id := enter(t, s, part, 0)
	key, choose := choosing(t, s, 1, id)
	if err := choose(t.Context()); err != nil {
		t.Fatal(err)
	}
	needs := func() stock.ToOrder {
		shelf, err := s.Shelf(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		return s.ToOrder(shelf.Lines)
	}
	next := func(want string) {
		t.Helper()
		if row := jobOfMachine(t, s, tagOf(t, s, key)); !strings.HasPrefix(row.Next, want) {
			t.Errorf("next is %q, not %q", row.Next, want)
		}
	}
	has := func(list []stock.OrderNeed) bool {
		for _, n := range list {
			if n.ID == id && n.N == 1 && len(n.For) == 1 {
				return true
			}
		}
		return false
	}
	if !has(needs().Jobs) {
		t.Errorf("not on the order list: %+v", needs().Jobs)
	}
	next("Order Corvane far away")
	from, err := s.SaveSupplier(t.Context(), okell, "",
		stock.Supplier{Name: "Dunmoor Parts", Contact: "x 1", Days: hw.Known(2)})
	if err != nil {
		t.Fatal(err)
	}
	list := []stock.Wanted{{Part: id, N: 3, Cents: 1, Coming: 0}}
	order, err := s.PlaceOrder(t.Context(), okell, "", from, list, stock.Delivery{})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.PlaceOrder(t.Context(), ansty, "", from, list, stock.Delivery{}); err == nil ||
		!strings.Contains(err.Error(), "look again") {
		t.Errorf("ordered twice: %v", err)
	}
	next("Wait for Corvane far away")
	other := *s
	late := &other
	late.Clock = func() time.Time { return morning.AddDate(0, 0, 9) }
	if row := jobOfMachine(t, late, tagOf(t, s, key)); !strings.HasPrefix(row.Next, "Call Dunmoor Parts x 1") {
		t.Errorf("late: %s", row.Next)
	}
	o, err := s.Order(t.Context(), order)
	if err != nil || o.Expected != "2026-05-16" || len(o.Lines) != 1 || len(o.Lines[0].For) != 1 {
		t.Fatalf("%+v %v", o, err)
	}
	came := func(version, n, gone int) error {
		return s.Deliver(t.Context(), okell, "", order, version, []stock.Arrival{{Line: o.Lines[0].ID, N: n, Gone: gone}})
	}
	if err := came(1, 4, 0); err == nil {
		t.Error("more came than was ordered")
	}
	if err := came(1, 1, 0); err != nil {
		t.Fatal(err)
	}
	if err := came(1, 1, 0); !errors.Is(err, base.ErrChanged) {
		t.Errorf("the same delivery twice: %v", err)
	}
	next("Open it")
	if err := came(2, 1, 1); err != nil {
		t.Fatal(err)
	}
	if r := shelfOf(t, s, id); r.Shelf != 2 || r.Held != 1 || len(r.Coming) != 0 {
		t.Errorf("%+v", r.ShelfLine)
	}
	if o, err := s.Order(t.Context(), order); err != nil || !o.Closed {
		t.Errorf("%+v %v", o, err)
	}
	// What the shop pays is what its orders told: the newest that told a price, whatever a customer pays.
	for n, cents := range []int64{3990, 0} {
		more := []stock.Wanted{{Part: id, N: 1, Cents: cents, Coming: n}}
		if _, err := s.PlaceOrder(t.Context(), okell, "", from, more, stock.Delivery{}); err != nil {
			t.Fatal(err)
		}
	}
	if paid, err := s.PaidLast(t.Context()); err != nil || paid[id] != 3990 || shelfOf(t, s, id).Part.PriceCents == 3990 {
		t.Errorf("last paid %v, %v", paid, err)
	}
	if err := s.RetirePart(t.Context(), okell, "", id, 1, true); err == nil ||
		!strings.Contains(err.Error(), "has it chosen") {
		t.Errorf("a part that is chosen is retired: %v", err)
	}
	sumsUp(t, s)
}

// TestKeptForOthers: what is kept for one job is not in another's plan, nor can be taken away.
func TestKeptForOthers(t *testing.T) {
	s := workshop(t)
	id := enter(t, s, module("Corvane only one", 16, 1), 1)
	first, choose := choosing(t, s, 1, id)
	second, _ := choosing(t, s, 2, id)
	if err := choose(t.Context()); err != nil {
		t.Fatal(err)
	}
	held := func(key string) int {
		p, err := s.Plan(t.Context(), key, jobs.PlanQuery{})
		if err != nil {
			t.Fatal(err)
		}
		for i := range p.Parts.Parts {
			if p.Parts.Parts[i].ID == id {
				return p.Parts.Parts[i].InStock()
			}
		}
		return -1
	}
	if held(first) != 1 || held(second) != 0 {
		t.Errorf("%d for the one that has it, %d for the other", held(first), held(second))
	}
	err := s.MovePart(t.Context(), okell, "", stock.Moving{Part: id, Kind: stock.Scrapped, N: 1, Note: "bent"})
	if err == nil || !strings.Contains(err.Error(), "kept 1 for YB-") {
		t.Errorf("a kept piece is scrapped: %v", err)
	}
	drive := stock.PartLine{Part: hw.Part{Kind: hw.KindDrive, Name: "Bexmoor pulled", Source: hw.OriginPulled,
		Drive: &hw.Drive{Interface: "nvme", Key: hw.Known("M"), Length: hw.Known(80), Capacity: dec(500)}}}
	pulled := only2(s.AddPart(t.Context(), okell, "", drive, stock.Moving{}))
	for erased, want := range map[string]bool{"": false, "overwritten once": true} {
		err := s.MovePart(t.Context(), okell, "", stock.Moving{Part: pulled, Kind: stock.Pulled, N: 1, Machine: tagOf(t, s, first),
			Erased: erased})
		if (err == nil) != want {
			t.Errorf("a drive pulled, erased %q: %v", erased, err)
		}
	}
	// Counted, fewer lie there than are kept: the job is short again.
	if err := s.CountShelf(t.Context(), okell, "", []stock.CountLine{{Part: id, Seen: 1, Counts: 0}}, ""); err == nil {
		t.Error("a difference without a reason")
	}
	if err := s.CountShelf(t.Context(), okell, "", []stock.CountLine{{Part: id, Seen: 1, Counts: 0}}, "not there"); err != nil {
		t.Fatal(err)
	}
	if r := shelfOf(t, s, id); r.Shelf != 0 || len(r.Short) != 1 {
		t.Errorf("%+v", r.ShelfLine)
	}
	sumsUp(t, s)
}

func tagOf(t *testing.T, s *shop.Shop, key string) string {
	t.Helper()
	r, err := s.Machine(t.Context(), key)
	if err != nil {
		t.Fatal(err)
	}
	return r.Machine.ID
}

// TestLabelTeaches: a label that is typed for a known part leaves with it what it tells and nobody knew, the
// heights of its size code among it.
func TestLabelTeaches(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	id, err := s.EnterPart(ctx, okell, "", "Bexmoor 3 TB NVMe 2280 g4x4 79.00", "", 1)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.EnterPart(ctx, okell, "", "Bexmoor 3 TB NVMe 2280-D2-M g4x4 3pcs", id, 0); err != nil {
		t.Fatal(err)
	}
	p, err := s.Part(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	if d := p.Part.Drive; d.Top != hw.Known(hw.DecOf(135)/100) || d.Bottom != d.Top || p.Shelf != 4 || p.Part.PriceCents != 7900 {
		t.Errorf("its heights are %v above and %v below, %d lie there, at %d", d.Top, d.Bottom, p.Shelf, p.Part.PriceCents)
	}
}
