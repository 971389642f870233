package quote

import (
	"fmt"

	"yembo/core/hw"
	"yembo/core/money"
)

// InvoiceFormat is the format of an invoice's document.
const InvoiceFormat = "yembo.invoice/1"

// Invoice is what was charged. It is never changed: what was wrong is cancelled by another, which has the
// same lines with the other sign.
type Invoice struct {
	Format   string       `json:"format"`
	Number   int64        `json:"number"`
	Currency string       `json:"currency"`
	On       string       `json:"on"`
	Shop     Party        `json:"shop"`
	Customer Party        `json:"customer"`
	Machine  Machine      `json:"machine"`
	Job      string       `json:"job"`
	Quote    string       `json:"quote,omitempty"`
	Cancels  int64        `json:"cancels,omitempty"`
	Why      string       `json:"why,omitempty"`
	Lines    []money.Line `json:"lines"`
	Sum      money.Sum    `json:"sum"`
	RoundTo  int64        `json:"round_to_cents,omitempty"`
	TaxIn    bool         `json:"prices_with_tax,omitempty"`
	Law      string       `json:"law,omitempty"`
}

// Add adds the lines up and checks them.
func (v *Invoice) Add() error {
	if len(v.Lines) == 0 {
		return hw.Faults{{Pointer: "/lines", Text: "there is nothing to charge"}}
	}
	// What cancels another has its lines with the other sign: they are checked as they were charged.
	charged := v.Lines
	if v.Cancels != 0 {
		charged = money.Contra(v.Lines)
	}
	if err := money.Check(charged, MostLines).Err(); err != nil {
		return err
	}
	v.Sum = money.AddUp(v.Lines, v.how())
	return nil
}

func (v *Invoice) how() money.How { return money.How{Step: v.RoundTo, Inside: v.TaxIn} }

// Contra is the invoice that cancels one.
func (v *Invoice) Contra(why string) *Invoice {
	out := *v
	out.Cancels, out.Why, out.Lines = v.Number, why, money.Contra(v.Lines)
	out.Sum = money.AddUp(out.Lines, v.how())
	return &out
}

// InvoiceLabel is an invoice's number as it stands on paper: "I-0001".
func InvoiceLabel(number int64) string { return fmt.Sprintf("I-%04d", number) }

// LinesOf are the lines of one option, as a quote would have them where the old parts go there.
func LinesOf(in *Input, old OldParts) ([]money.Line, error) {
	q := Quote{
		OldParts:     old,
		LeastCents:   in.Terms.LeastCents,
		TaxPercent:   in.Terms.TaxPercent,
		Alternatives: []Alternative{{Lines: lines(in, &in.Options[0])}},
	}
	err := q.Settle()
	return q.Alternatives[0].Lines, err
}
