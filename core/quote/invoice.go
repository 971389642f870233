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
	Law      string       `json:"law,omitempty"`
}

// Add adds the lines up and checks them.
func (v *Invoice) Add() error {
	if len(v.Lines) == 0 {
		return hw.Faults{{Pointer: "/lines", Text: "there is nothing to charge"}}
	}
	if err := money.Check(v.Lines, MostLines).Err(); err != nil {
		return err
	}
	v.Sum = money.AddUp(v.Lines, v.RoundTo)
	return nil
}

// Contra is the invoice that cancels one.
func (v *Invoice) Contra(why string) *Invoice {
	out := *v
	out.Cancels, out.Why, out.Lines = v.Number, why, money.Contra(v.Lines)
	out.Sum = money.AddUp(out.Lines, v.RoundTo)
	return &out
}

// InvoiceLabel is an invoice's number as it stands on paper: "I-0001".
func InvoiceLabel(number int64) string { return fmt.Sprintf("I-%04d", number) }

// LinesOf are the lines of one option, as a quote would have them.
func LinesOf(in *Input) []money.Line { return lines(in, &in.Options[0]) }
