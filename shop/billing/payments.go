package billing

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/shop/base"
	"yembo/store"
)

// PaidHows are how something is paid.
var PaidHows = hw.Vocabulary[string]{
	{Word: paidCash, Says: "cash"},
	{Word: "card", Says: "card"},
	{Word: "transfer", Says: "bank transfer"},
	{Word: "other", Says: "otherwise"},
}

const paidCash = "cash"

// InCash is what is still to be paid where it is paid in cash: to the step that cash goes to.
func (v *InvoiceRecord) InCash(how *base.Settings) int64 {
	if step := how.Pricing.CashStep(); step > 1 {
		return money.Nearest(v.Owed(), step)
	}
	return v.Owed()
}

// Pay notes what was paid for a job: for one of its invoices, or before there was one. Less than nothing
// was paid back; no more than was paid. Where cash alone is rounded, what is paid in cash settles the
// invoice when it is the rounded sum; the difference is kept beside it.
func (s *Billing) Pay(ctx context.Context, a base.Actor, token string, job, invoice, cents int64, how, note string) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		b, err := s.bill(tx, job)
		if err != nil {
			return "", err
		}
		var faults hw.Faults
		if cents == 0 || cents > money.Most || cents < -money.Most {
			faults.Add("/cents", hw.FaultMissing, "", "how much was paid")
		}
		if PaidHows.Index(how) < 0 {
			faults.Add("/how", hw.FaultChoice, strconv.Quote(how), strings.Join(PaidHows.Words(), ", "))
		}
		if utf8.RuneCountInString(note) > base.MaxName {
			faults.Add("/note", hw.FaultRange, "the note", fmt.Sprintf("at most %d characters", base.MaxName))
		}
		row := store.Payment{JobID: job, Cents: cents, How: how, Note: strings.TrimSpace(note), At: s.Now(), By: a.Name}
		cur := b.Settings.Currency
		if invoice == 0 {
			if paid := b.Deposited(); cents < 0 && -cents > paid {
				faults.Add(
					"/cents",
					hw.FaultRange,
					hw.Money(cur, -cents)+" paid back",
					"at most the "+hw.Money(cur, paid)+" that was paid without an invoice",
				)
			}
		} else {
			v := b.invoice(invoice)
			if v == nil {
				return "", store.ErrNotFound
			}
			owed := v.Owed()
			if how == paidCash && cents > 0 && cents == v.InCash(&b.Settings) {
				row.Rounding = owed - cents
				owed = cents
			}
			switch {
			case cents > 0 && cents > owed:
				faults.Add("/cents", hw.FaultRange, hw.Money(v.Doc.Currency, cents),
					hw.Money(v.Doc.Currency, max(owed, 0))+" is still to be paid")
			case cents < 0 && -cents > v.Paid:
				faults.Add("/cents", hw.FaultRange, hw.Money(cur, -cents)+" paid back",
					"at most the "+hw.Money(cur, v.Paid)+" that was paid on it")
			}
			row.Invoice = &invoice
		}
		if err := faults.Err(); err != nil {
			return "", err
		}
		if err := tx.Create(&row); err != nil {
			return "", err
		}
		return fmt.Sprint(row.ID), s.NoteEvent(tx, a, base.KindMachine, b.Job.Key, base.Event{What: base.Label(job) + ": paid " +
			hw.Money(cur, cents) + ", " + PaidHows.Says(how), Kind: base.EventWork, Job: job}, nil)
	})
	return err
}

// Deposited is what was paid and stands on no invoice yet.
func (b *Bill) Deposited() int64 {
	sum := int64(0)
	for i := range b.Deposits {
		sum += b.Deposits[i].counts()
	}
	return sum
}

func (b *Bill) invoice(number int64) *InvoiceRecord {
	for i := range b.Invoices {
		if b.Invoices[i].Doc.Number == number {
			return &b.Invoices[i]
		}
	}
	return nil
}

// counts is what a payment counts: nothing where it was struck.
func (p *PaymentRecord) counts() int64 {
	if p.Struck != "" {
		return 0
	}
	return p.Cents
}

// StrikePayment takes back a payment that was noted wrongly: it stays on the list with the reason, and
// counts no more.
func (s *Billing) StrikePayment(ctx context.Context, a base.Actor, token string, job, payment int64, why string) error {
	why = strings.TrimSpace(why)
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		b, err := s.bill(tx, job)
		if err != nil {
			return "", err
		}
		at := fmt.Sprintf("/strike/%d", payment)
		list := b.Deposits
		for i := range b.Invoices {
			list = append(list, b.Invoices[i].Payments...)
		}
		for i := range list {
			p := &list[i]
			if p.ID != payment {
				continue
			}
			switch {
			case p.Struck != "":
				return "", hw.Faults{{Pointer: "/payment", Text: "it is struck already"}} // by another page: there is no field for it
			case why == "":
				return "", hw.Faults{{Pointer: at, Text: hw.Word(hw.FaultMissing, "", "why it does not count")}}
			case utf8.RuneCountInString(why) > base.MaxName:
				return "", hw.Faults{{Pointer: at, Text: hw.Word(hw.FaultRange, "the reason", fmt.Sprintf("at most %d characters",
					base.MaxName))}}
			}
			// What was paid back afterwards rests on what was paid.
			if left := b.Deposited() - p.Cents; p.Invoice == 0 && left < 0 {
				return "", hw.Faults{{Pointer: at, Text: "more was paid back than would be left: strike that first"}}
			}
			if v := b.invoice(p.Invoice); v != nil && v.Paid-p.Cents < 0 {
				return "", hw.Faults{{Pointer: at, Text: "more was paid back than would be left: strike that first"}}
			}
			if err := tx.StrikePayment(payment, s.Now(), a.Name, why); err != nil {
				return "", err
			}
			return "struck", s.NoteEvent(tx, a, base.KindMachine, b.Job.Key,
				base.Event{What: fmt.Sprintf("%s: the payment of %s is struck: %s",
					base.Label(job), hw.Money(b.Settings.Currency, p.Cents), why), Kind: base.EventMoved, Job: job}, nil)
		}
		return "", store.ErrNotFound
	})
	return err
}

// Due tells in words what of a job is to be charged or paid before the machine goes, nothing for
// nothing.
func (b *Bill) Due() []string {
	var out []string
	cur := b.Settings.Currency
	if b.Against == "" && b.Sum.Total > 0 {
		words := hw.Money(cur, b.Sum.Total) + " is not charged yet"
		if paid := b.Deposited(); paid > 0 {
			words += ", " + hw.Money(cur, paid) + " of it paid"
		}
		out = append(out, words)
	}
	owed := int64(0)
	for i := range b.Invoices {
		owed += b.Invoices[i].Owed()
	}
	switch {
	case owed > 0:
		out = append(out, hw.Money(cur, owed)+" is charged and not paid")
	case owed < 0:
		out = append(out, hw.Money(cur, -owed)+" is to be paid back")
	}
	return out
}
