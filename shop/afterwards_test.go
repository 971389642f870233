package shop_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/stock"
	"yembo/shop/work"
	sim "yembo/standin/machine"
)

// proven proves a job whose run goes on, and hands it over.
func (b *bencher) proven() {
	b.t.Helper()
	b.finish()
	b.read(sim.Faults{}, nil)
	b.complete()
	if err := sign(b, "", ""); err != nil {
		b.t.Fatal(err)
	}
	if err := b.s.HandOver(b.t.Context(), okell, "", b.job, work.HandingOver{To: "J. Farrow"}); err != nil {
		b.t.Fatal(err)
	}
}

// TestComesBack: a machine that was proven here is told at the counter with its warranty, which is that
// of the day it was handed over; it comes back for the same only where it is a job of its own, and
// then needs no wish.
func TestComesBack(t *testing.T) {
	b := atBench(t, "wath-05")
	ctx := t.Context()
	key := mustJob(t, b.s, b.job).Key
	if list, err := b.s.EarlierOf(ctx, key, 0); err != nil || len(list) != 0 {
		t.Fatalf("before it was proven: %v %v", list, err)
	}
	if err := setSettings(ctx, b.s, func(how *base.Settings) { how.WarrantyMonths = 12 }); err != nil {
		t.Fatal(err)
	}
	b.proven()
	if err := setSettings(ctx, b.s, func(how *base.Settings) { how.WarrantyMonths = 1 }); err != nil {
		t.Fatal(err)
	}
	for day, within := range map[string]bool{"2026-05-15": true, "2027-05-14": true, "2027-05-15": false} {
		at, _ := time.Parse(time.DateOnly, day)
		b.now = at.Add(9 * time.Hour)
		list, err := b.s.EarlierOf(ctx, key, 0)
		if err != nil || len(list) != 1 || list[0].Job != b.job || list[0].Until != "2027-05-14" || list[0].Within != within {
			t.Errorf("%s: %+v %v", day, list, err)
		}
	}
	b.now = morning.AddDate(0, 1, 0)
	r, err := b.s.Machine(ctx, key)
	if err != nil {
		t.Fatal(err)
	}
	back := jobs.Intake{
		Known:    true,
		KnownVer: r.MachineVer,
		Machine:  r.Machine,
		Agreement: jobs.Agreement{Customer: r.Customer, Complaint: "slow again",
			Wish: &hw.Request{Format: hw.FormatRequest}},
	}
	for _, c := range []struct {
		to   int64
		says string
	}{{0, "at least one goal or service"}, {2, "no proven job of this machine"}, {b.job, ""}} {
		in := back
		in.Details.Returns = c.to
		id, err := b.s.TakeIn(ctx, okell, "", in)
		if c.says != "" {
			if err == nil || !strings.Contains(err.Error(), c.says) {
				t.Errorf("it comes back for %d: %v", c.to, err)
			}
			continue
		}
		if err != nil {
			t.Fatal(err)
		}
		j := mustJob(t, b.s, id)
		if j.Details.Returns != b.job || len(j.Earlier) != 1 || j.Earlier[0].Job != b.job || j.State.Proven != nil {
			t.Errorf("%+v %+v", j.Details, j.Earlier)
		}
	}
}

// TestLots: a piece whose serial was noted when it came is of that order; one without can be of each
// order before it went, and of none that came later.
func TestLots(t *testing.T) {
	for _, c := range []struct {
		serial string
		orders int // how many it can be of
		last   bool
	}{{"LOT-A", 1, false}, {"LOT-B", 1, true}, {"", 2, true}} {
		s := workshop(t)
		ctx := t.Context()
		part := jobOfMachine(t, s, "wath-05").Record.Choice.Option.Buy[0].Part
		from, err := s.SaveSupplier(ctx, okell, "", stock.Supplier{Name: "Dunmoor Parts"})
		if err != nil {
			t.Fatal(err)
		}
		var orders []int64
		for i, serial := range []string{"LOT-A", "LOT-B", "LOT-C"} {
			order, err := s.PlaceOrder(ctx, okell, fmt.Sprint("o", i), from, []stock.Wanted{{Part: part, N: 1, Cents: 1,
				Coming: i}}, stock.Delivery{})
			if err != nil {
				t.Fatal(err)
			}
			orders = append(orders, order)
			if i == 2 {
				break // the third is still under way
			}
			if err := s.MovePart(ctx, okell, fmt.Sprint("m", i), stock.Moving{Part: part, Kind: stock.Bought, N: 1, Cents: 1, Order: order,
				Serials: []string{serial}}); err != nil {
				t.Fatal(err)
			}
		}
		b := &bencher{t: t, s: s, job: jobOfMachine(t, s, "wath-05").Record.JobID, now: morning, serial: c.serial}
		s.Clock = func() time.Time { return b.now }
		b.begin()
		b.proven()
		if err := s.MovePart(ctx, okell, "late", stock.Moving{Part: part, Kind: stock.Bought, N: 1, Cents: 1,
			Order: orders[2]}); err != nil {
			t.Fatal(err)
		}
		out, err := s.PiecesOut(ctx, part)
		if err != nil || len(out) != 1 || len(out[0].Orders) != c.orders {
			t.Fatalf("%q went to %+v, %v", c.serial, out, err)
		}
		if got := out[0].Orders[len(out[0].Orders)-1]; got != orders[0] && !c.last || c.last && got != orders[1] {
			t.Errorf("%q is of order %d of %v", c.serial, got, orders)
		}
	}
}
