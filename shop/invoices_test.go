package shop_test

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"yembo/shop"

	"yembo/core/hw"
	"yembo/core/quote"
	"yembo/shop/base"
	"yembo/shop/billing"
	"yembo/store"
)

// accepted is a job of which a quote was accepted.
func accepted(t *testing.T, s *shop.Shop, machine string) billing.QuotePage {
	t.Helper()
	q := offered(t, s, machine, 1)
	if err := s.AnswerQuote(t.Context(), okell, "accept", q.ID, q.Revision, yes(&q)); err != nil {
		t.Fatal(err)
	}
	return quoteOf(t, s, q.ID)
}

// TestInvoice: what was accepted is charged once, with what was agreed beside it, paid in parts, a deposit
// among them, and cancelled by another; nothing of it is ever changed.
func TestInvoice(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	var faults hw.Faults
	if _, err := s.MakeInvoice(ctx, okell, "none", 1, nil); !errors.As(err, &faults) {
		t.Errorf("nothing was agreed, and it is charged: %v", err)
	}
	q := accepted(t, s, "tarn-vet-03")
	total := q.Doc.Alternatives[0].Sum.Total
	if err := s.Pay(ctx, okell, "deposit", q.JobID, 0, 2000, "cash", ""); err != nil {
		t.Fatal(err)
	}
	if _, err := s.MakeInvoice(ctx, okell, "who", q.JobID, []billing.Extra{{Text: "a screw", Cents: 50}}); !errors.As(err,
		&faults) ||
		faults[0].Pointer != "/extra/0/agreed" {
		t.Errorf("a change that nobody agreed to: %v", err)
	}
	for range 2 { // a double click
		if n, err := s.MakeInvoice(ctx, okell, "make", q.JobID, []billing.Extra{{Text: "a screw", Cents: 50,
			Agreed: "J. Farrow"}}); err != nil ||
			n != 1 {
			t.Fatalf("%d %v", n, err)
		}
	}
	if _, err := s.MakeInvoice(ctx, okell, "again", q.JobID, nil); !errors.As(err, &faults) ||
		!strings.Contains(err.Error(), "I-0001") {
		t.Errorf("charged twice: %v", err)
	}
	v, err := s.Invoice(ctx, 1)
	if err != nil || v.Doc.Sum.Total != total+60 || v.Paid != 2000 || v.Owed() != total+60-2000 {
		t.Fatalf("%+v, paid %d, owed %d: %v", v.Doc.Sum, v.Paid, v.Owed(), err)
	}
	if err := s.Pay(ctx, okell, "too much", q.JobID, 1, v.Owed()+1, "card", ""); !errors.As(err, &faults) {
		t.Errorf("more is paid than is owed: %v", err)
	}
	if err := s.Pay(ctx, okell, "rest", q.JobID, 1, v.Owed(), "card", ""); err != nil {
		t.Fatal(err)
	}
	if _, err := s.CancelInvoice(ctx, okell, "no why", 1, ""); !errors.As(err, &faults) {
		t.Errorf("cancelled without a reason: %v", err)
	}
	if n, err := s.CancelInvoice(ctx, okell, "cancel", 1, "the wrong customer"); err != nil || n != 2 {
		t.Fatalf("%d %v", n, err)
	}
	if _, err := s.CancelInvoice(ctx, okell, "twice", 1, "again"); !errors.As(err, &faults) {
		t.Errorf("cancelled twice: %v", err)
	}
	contra, err := s.Invoice(ctx, 2)
	if err != nil || contra.Doc.Sum.Total != -v.Doc.Sum.Total || contra.Doc.Cancels != 1 {
		t.Errorf("%+v %v", contra.Doc, err)
	}
	if v, err = s.Invoice(ctx, 1); err != nil || v.Cancelled != 2 || v.Owed() != -v.Paid {
		t.Errorf("cancelled by %d, owed %d: %v", v.Cancelled, v.Owed(), err)
	}
	if n, err := s.MakeInvoice(ctx, okell, "anew", q.JobID, nil); err != nil || n != 3 {
		t.Errorf("afterwards %d %v", n, err)
	}
	for n := range int64(3) {
		if _, err := s.InvoiceDocument(ctx, n+1); err != nil {
			t.Errorf("invoice %d against its schema: %v", n+1, err)
		}
	}
	if _, err := s.QuoteDocument(ctx, q.ID); err != nil {
		t.Errorf("the quote against its schema: %v", err)
	}
	table, err := s.InvoiceTable(ctx)
	if err != nil || strings.Count(string(table), "\n") != 1+3+2 ||
		!strings.Contains(string(table), "I-0002,2026-05-14,Tarn Veterinary Practice,YB-0001,I-0001") {
		t.Errorf("%s %v", table, err)
	}
	if look, err := s.LookAtRemoval(ctx, base.KindJob, fmt.Sprint(q.JobID)); err != nil || len(look.Against) == 0 {
		t.Errorf("a job with an invoice can be removed: %v", err)
	}
}

// TestMoneyMended: a discount is cancelled with its invoice, payments are struck and paid back no further
// than they were paid, cash alone is rounded, and what is open before the hand-over is told.
func TestMoneyMended(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	var faults hw.Faults
	q := offered(t, s, "tarn-vet-03", 1)
	if err := setSettings(ctx, s, func(x *base.Settings) { x.Pricing.RoundTo, x.Pricing.RoundCash = 5, true }); err != nil {
		t.Fatal(err)
	}
	e := editOf(&q)
	e.DiscountPercent = hw.DecOf(7)
	if _, err := s.EditQuote(ctx, okell, "", q.ID, q.Revision, e); err != nil {
		t.Fatal(err)
	}
	q = quoteOf(t, s, q.ID)
	if err := s.AnswerQuote(ctx, okell, "", q.ID, q.Revision, yes(&q)); err != nil {
		t.Fatal(err)
	}
	q = quoteOf(t, s, q.ID)
	total := q.Doc.Alternatives[0].Sum.Total
	due := func() string {
		t.Helper()
		b, err := s.Bill(ctx, q.JobID)
		if err != nil {
			t.Fatal(err)
		}
		return strings.Join(b.Due(), "; ")
	}
	if says := due(); !strings.Contains(says, "not charged yet") {
		t.Errorf("before the invoice: %q", says)
	}
	n, err := s.MakeInvoice(ctx, okell, "", q.JobID, nil)
	if err != nil {
		t.Fatal(err)
	}
	if says := due(); !strings.Contains(says, hw.Money("EUR", total)+" is charged and not paid") {
		t.Errorf("before it is paid: %q", says)
	}
	if err := s.Pay(ctx, okell, "", q.JobID, 0, -100, "cash", ""); !errors.As(err, &faults) {
		t.Errorf("more is paid back than was paid without an invoice: %v", err)
	}
	if err := s.Pay(ctx, okell, "", q.JobID, n, 700, "card", "typed wrongly"); err != nil {
		t.Fatal(err)
	}
	v, _ := s.Invoice(ctx, n)
	payment := v.Payments[0].ID
	if err := s.StrikePayment(ctx, okell, "", q.JobID, payment, ""); !errors.As(err, &faults) {
		t.Errorf("struck without a reason: %v", err)
	}
	if err := s.Pay(ctx, okell, "", q.JobID, n, -700, "card", ""); err != nil {
		t.Fatal(err)
	}
	if err := s.StrikePayment(ctx, okell, "", q.JobID, payment, "typed wrongly"); !errors.As(err, &faults) {
		t.Errorf("what was paid back rests on it, and it is struck: %v", err)
	}
	v, _ = s.Invoice(ctx, n)
	for _, p := range []int64{v.Payments[1].ID, payment} {
		if err := s.StrikePayment(ctx, okell, "", q.JobID, p, "typed wrongly"); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.StrikePayment(ctx, okell, "", q.JobID, payment, "once more"); !errors.As(err, &faults) {
		t.Errorf("struck twice: %v", err)
	}
	if v, _ = s.Invoice(ctx, n); v.Paid != 0 || v.Owed() != total || len(v.Payments) != 2 {
		t.Errorf("struck, and paid %d, owed %d of %d", v.Paid, v.Owed(), total)
	}
	b, _ := s.Bill(ctx, q.JobID)
	cash := v.InCash(&b.Settings)
	if total%5 == 0 || cash%5 != 0 || cash == total {
		t.Fatalf("the case shows nothing: %d, %d in cash", total, cash)
	}
	if err := s.Pay(ctx, okell, "", q.JobID, n, cash, "cash", ""); err != nil {
		t.Fatal(err)
	}
	if v, _ = s.Invoice(ctx, n); v.Owed() != 0 || due() != "" {
		t.Errorf("paid in cash, and owed %d: %s", v.Owed(), due())
	}
	contra, err := s.CancelInvoice(ctx, okell, "", n, "another machine")
	if err != nil {
		t.Fatalf("an invoice with a discount cannot be cancelled: %v", err)
	}
	if c, _ := s.Invoice(ctx, contra); c.Doc.Sum.Total != -total {
		t.Errorf("%d cancels %d", c.Doc.Sum.Total, total)
	}
	// The clock is set back by a day: numbers and dates stay in order, and every page says so.
	real := s.Clock
	s.Clock = func() time.Time { return real().AddDate(0, 0, -1) }
	again, err := s.MakeInvoice(ctx, okell, "", q.JobID, nil)
	if err != nil {
		t.Fatal(err)
	}
	before, _ := s.Invoice(ctx, contra)
	if after, _ := s.Invoice(ctx, again); after.Doc.Number != contra+1 || after.Doc.On < before.Doc.On ||
		after.At.Before(before.At.Truncate(24*time.Hour)) {
		t.Errorf("invoice %d of %s comes after that of %s", again, after.Doc.On, before.Doc.On)
	}
	if says := strings.Join(s.Notices(), " "); !strings.Contains(says, "set the clock right") {
		t.Errorf("the clock was set back, and the pages say %q", says)
	}
	s.Clock = real
	table, err := s.InvoiceTable(ctx)
	if err != nil || !strings.Contains(string(table), ",-"+plainAmount(total)+",") || strings.Contains(string(table), "'-") {
		t.Errorf("negative amounts are no numbers, %v:\n%s", err, table)
	}
}

func plainAmount(cents int64) string { return fmt.Sprintf("%d.%02d", cents/100, cents%100) }

// TestReprice: a price that was corrected after the quote was shown is in its next version where that is
// asked for, and in no other.
func TestReprice(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	q := offered(t, s, "tarn-vet-03", 1)
	if err := s.ShowQuote(ctx, okell, "", q.ID, q.Revision, "printed"); err != nil {
		t.Fatal(err)
	}
	buy := q.Doc.Alternatives[0].Option.Buy[0]
	r, err := s.Part(ctx, buy.Part)
	if err != nil {
		t.Fatal(err)
	}
	p := r.PartLine
	p.Part.PriceCents += 1000
	if err := s.ChangePart(ctx, okell, "", buy.Part, r.Version, p); err != nil {
		t.Fatal(err)
	}
	if err := setSettings(ctx, s, func(x *base.Settings) { x.LabourRate = 6000 }); err != nil {
		t.Fatal(err)
	}
	q = quoteOf(t, s, q.ID)
	was := q.Doc.Alternatives[0].Option
	for _, reprice := range []bool{false, true} {
		e := editOf(&q)
		e.Reprice = reprice
		id, err := s.EditQuote(ctx, okell, "", q.ID, q.Revision, e)
		if err != nil {
			t.Fatal(err)
		}
		next := quoteOf(t, s, id)
		o := next.Doc.Alternatives[0].Option
		if reprice != (o.Buy[0].Cents == buy.Cents+1000*int64(buy.Quantity)) || reprice != (o.LabourCents > was.LabourCents) ||
			reprice != (len(next.Since) == 0) {
			t.Errorf(
				"repriced %v: %d after %d, labour %d after %d, since then %v",
				reprice,
				o.Buy[0].Cents,
				buy.Cents,
				o.LabourCents,
				was.LabourCents,
				next.Since,
			)
		}
	}
}

// TestInvoiceNumbers: many who charge at once have numbers without a gap, and none twice.
func TestInvoiceNumbers(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	q := accepted(t, s, "tarn-vet-03")
	const clients, each = 20, 10
	var mu sync.Mutex
	seen := map[int64]int{}
	var wg sync.WaitGroup
	for c := range clients {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for i := range each {
				token := fmt.Sprint("c", c, "-", i)
				err := s.Store.Update(ctx, func(tx store.Tx) error {
					row := store.Invoice{JobID: q.JobID}
					doc := quote.Invoice{Format: quote.InvoiceFormat, Currency: "EUR", Lines: q.Doc.Alternatives[0].Lines, Job: token}
					if err := s.StoreInvoice(tx, okell, &row, &doc, q.Job.Key); err != nil {
						return err
					}
					if i%5 == 4 {
						return errors.New("it fails after its number was taken")
					}
					mu.Lock()
					seen[row.Number]++
					mu.Unlock()
					return nil
				})
				if (err != nil) != (i%5 == 4) {
					t.Error(err)
				}
			}
		}()
	}
	wg.Wait()
	const want = clients * each * 4 / 5
	if len(seen) != want {
		t.Errorf("%d numbers for %d invoices", len(seen), want)
	}
	for n := int64(1); n <= want; n++ {
		if seen[n] != 1 {
			t.Errorf("number %d is given %d times", n, seen[n])
		}
	}
}
