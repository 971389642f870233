package billing

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/quote"
	"yembo/exchange"
	"yembo/shop/base"
	"yembo/store"
)

// InvoiceRecord is an invoice with what became of it.
type InvoiceRecord struct {
	Doc       *quote.Invoice
	JobID     int64
	At        time.Time
	By        string
	Cancelled int64 // the number of the one that cancels it, 0 for none
	Paid      int64 // of it, so far
	Rounded   int64 // what rounding what was paid in cash took off
	Payments  []PaymentRecord
}

// Owed is what is still to be paid; less than nothing is to be paid back.
func (v *InvoiceRecord) Owed() int64 {
	if v.Cancelled != 0 || v.Doc.Cancels != 0 {
		return -v.Paid
	}
	return v.Doc.Sum.Total - v.Paid - v.Rounded
}

// PaymentRecord is what was paid for a job.
type PaymentRecord struct {
	ID, Invoice, Cents int64 // Invoice 0 where there was none yet: a deposit
	Rounding           int64 // that paying in cash took off what was owed
	How, Note, By      string
	At                 time.Time
	Struck, StruckBy   string // why it does not count, and who said so; "" for one that counts
}

// invoicesOf lists the invoices of a job with their payments, and what was paid before there was one.
func (s *Billing) invoicesOf(tx store.Tx, job int64) ([]InvoiceRecord, []PaymentRecord, error) {
	rows, err := tx.Invoices(job, 0)
	if err != nil {
		return nil, nil, err
	}
	paid, err := tx.Payments(job)
	if err != nil {
		return nil, nil, err
	}
	return InvoiceRecords(rows, paid)
}

// InvoiceRecords reads invoices out of their rows, with what was paid on each; what is on none is the rest.
func InvoiceRecords(rows []store.Invoice, paid []store.Payment) ([]InvoiceRecord, []PaymentRecord, error) {
	out := make([]InvoiceRecord, len(rows))
	at := map[int64]int{}
	for i := range rows {
		out[i] = InvoiceRecord{Doc: &quote.Invoice{}, JobID: rows[i].JobID, At: rows[i].At, By: rows[i].By}
		if err := json.Unmarshal(rows[i].Doc, out[i].Doc); err != nil {
			return nil, nil, fmt.Errorf("the invoice %d: %w", rows[i].Number, err)
		}
		at[rows[i].Number] = i
	}
	for i := range rows {
		if c := rows[i].Cancels; c != nil {
			if k, ok := at[*c]; ok {
				out[k].Cancelled = rows[i].Number
			}
		}
	}
	var deposits []PaymentRecord
	for _, p := range paid {
		r := PaymentRecord{
			ID:       p.ID,
			Cents:    p.Cents,
			Rounding: p.Rounding,
			How:      p.How,
			Note:     p.Note,
			By:       p.By,
			At:       p.At,
			Struck:   p.StruckWhy,
			StruckBy: p.StruckBy,
		}
		if p.Invoice == nil {
			deposits = append(deposits, r)
			continue
		}
		r.Invoice = *p.Invoice
		if k, ok := at[*p.Invoice]; ok {
			out[k].Payments = append(out[k].Payments, r)
			if out[k].Paid += r.counts(); r.Struck == "" {
				out[k].Rounded += r.Rounding
			}
		}
	}
	return out, deposits, nil
}

// MakeInvoice charges a job: what was accepted, and what was agreed beside it. What was paid before is
// paid on it. It returns the invoice's number; the error is hw.Faults where nothing can be charged.
func (s *Billing) MakeInvoice(ctx context.Context, a base.Actor, token string, job int64, extras []Extra) (int64, error) {
	result, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		b, err := s.bill(tx, job)
		if err != nil {
			return "", err
		}
		if b.Against != "" {
			return "", hw.Faults{{Pointer: "/invoice", Text: b.Against}}
		}
		doc := &quote.Invoice{Format: quote.InvoiceFormat, Currency: b.Settings.Currency, On: s.Now().Format(time.DateOnly),
			Shop:     quote.Party{Name: base.OrWord(b.Settings.Workshop, s.Called), Address: linesOf(b.Settings.Address)},
			Customer: quote.Party{Name: b.Job.Customer, Contact: b.Job.Contact},
			Machine:  quote.Machine{ID: b.Job.Machine.ID, Model: b.Job.Chassis.Name(), Serial: b.Job.Machine.Serial},
			Job:      base.Label(job), Quote: b.Quote, RoundTo: b.How.Step, TaxIn: b.How.Inside, Law: b.Settings.Pricing.Law,
			Lines: append([]money.Line{}, b.Lines...)}
		var faults hw.Faults
		for i, x := range extras {
			at := fmt.Sprintf("/extra/%d", i)
			if strings.TrimSpace(x.Text) == "" {
				faults.Add(at+"/text", hw.FaultMissing, "", "what it is for")
			}
			if x.Cents == 0 { // not told is no price of nothing
				faults.Add(at+"/cents", hw.FaultMissing, "", "how much it is")
			}
			if strings.TrimSpace(x.Agreed) == "" {
				faults.Add(at+"/agreed", hw.FaultMissing, "", "who agreed to it")
			}
			if utf8.RuneCountInString(x.Text+x.Agreed) > base.MaxName*2 {
				faults.Add(at+"/text", hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxName*2))
			}
			doc.Lines = append(
				doc.Lines,
				money.Line{Kind: money.Change, Text: strings.TrimSpace(x.Text) + ", agreed with " + strings.TrimSpace(x.Agreed),
					Cents: x.Cents, Tax: b.Settings.TaxPercent},
			)
		}
		if err := faults.Err(); err != nil {
			return "", err
		}
		row := store.Invoice{JobID: job}
		if b.quoteID != 0 {
			row.QuoteID = &b.quoteID
		}
		if err := s.StoreInvoice(tx, a, &row, doc, b.Job.Key); err != nil {
			return "", err
		}
		return strconv.FormatInt(row.Number, 10), tx.AssignPayments(job, row.Number)
	})
	return idIn(result), err
}

// StoreInvoice gives an invoice the next number, and stores it.
func (s *Billing) StoreInvoice(tx store.Tx, a base.Actor, row *store.Invoice, doc *quote.Invoice, machine string) error {
	var err error
	if doc.Number, err = tx.NextInvoice(); err != nil {
		return err
	}
	// No invoice is dated before its forerunner, whatever the clock says: numbers and dates stay in order.
	if doc.Number > 1 {
		last, err := tx.Invoice(doc.Number - 1)
		if err != nil {
			return err
		}
		if before := last.At.Format(time.DateOnly); doc.On < before {
			doc.On = before
		}
	}
	if err := doc.Add(); err != nil {
		return err
	}
	if row.Doc, err = json.Marshal(doc); err != nil {
		return err
	}
	row.Cents, row.Currency, row.At, row.By = doc.Sum.Total, doc.Currency, s.Now(), a.Name
	if day := row.At.Format(time.DateOnly); day < doc.On {
		if row.At, err = time.ParseInLocation(time.DateOnly, doc.On, row.At.Location()); err != nil {
			return err
		}
	}
	if err := tx.CreateInvoice(row); err != nil {
		return err
	}
	what := "charged " + hw.Money(doc.Currency, doc.Sum.Total) + ", invoice " + quote.InvoiceLabel(row.Number)
	if doc.Cancels != 0 {
		what = "invoice " + quote.InvoiceLabel(doc.Cancels) + " cancelled by " + quote.InvoiceLabel(row.Number)
	}
	return s.NoteEvent(
		tx,
		a,
		base.KindMachine,
		machine,
		base.Event{What: base.Label(row.JobID) + ": " + what, Kind: base.EventWork, Job: row.JobID},
		nil,
	)
}

// CancelInvoice cancels an invoice by another with the same lines and the other sign. It returns the
// number of that.
func (s *Billing) CancelInvoice(ctx context.Context, a base.Actor, token string, number int64, why string) (int64, error) {
	result, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Invoice(number)
		if err != nil {
			return "", err
		}
		_, cancelled, err := tx.InvoiceCancelling(number)
		switch {
		case err != nil:
			return "", err
		case cancelled:
			return "", hw.Faults{{Pointer: "/why", Text: "it is cancelled already"}}
		case row.Cancels != nil:
			return "", hw.Faults{{Pointer: "/why", Text: "it cancels another: make a new invoice instead"}}
		case strings.TrimSpace(why) == "":
			return "", hw.Faults{{Pointer: "/why", Text: "the reason is missing"}}
		case utf8.RuneCountInString(why) > base.MaxName:
			return "", hw.Faults{
				{Pointer: "/why", Text: hw.Word(hw.FaultRange, "the reason", fmt.Sprintf("at most %d characters", base.MaxName))},
			}
		}
		var doc quote.Invoice
		if err := json.Unmarshal(row.Doc, &doc); err != nil {
			return "", err
		}
		job, err := tx.Job(row.JobID)
		if err != nil {
			return "", err
		}
		contra := doc.Contra(strings.TrimSpace(why))
		contra.On = s.Now().Format(time.DateOnly)
		next := store.Invoice{JobID: row.JobID, QuoteID: row.QuoteID, Cancels: &number}
		if err := s.StoreInvoice(tx, a, &next, contra, job.MachineID); err != nil {
			return "", err
		}
		return strconv.FormatInt(next.Number, 10), nil
	})
	return idIn(result), err
}

var invoiceLabelText = regexp.MustCompile(`^I-0*([1-9][0-9]{0,9})$`)

// InvoiceOfLabel is the number of an invoice whose label was typed or scanned.
func InvoiceOfLabel(text string) (int64, bool) { return base.NumberOn(invoiceLabelText, text) }

// Invoice returns one invoice.
func (s *Billing) Invoice(ctx context.Context, number int64) (InvoiceRecord, error) {
	var out InvoiceRecord
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.Invoice(number)
		if err != nil {
			return err
		}
		list, _, err := s.invoicesOf(tx, row.JobID)
		for i := range list {
			if list[i].Doc.Number == number {
				out = list[i]
			}
		}
		return err
	})
	return out, err
}

// Invoices lists the invoices, the newest first.
func (s *Billing) Invoices(ctx context.Context, most int) ([]InvoiceRecord, error) {
	var out []InvoiceRecord
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.Invoices(0, most)
		if err != nil {
			return err
		}
		paid, err := tx.Payments(0)
		if err != nil {
			return err
		}
		out, _, err = InvoiceRecords(rows, paid)
		return err
	})
	return out, err
}

// InvoiceDocument is an invoice as yembo.invoice, checked against its schema.
func (s *Billing) InvoiceDocument(ctx context.Context, number int64) ([]byte, error) {
	v, err := s.Invoice(ctx, number)
	if err != nil {
		return nil, err
	}
	return exchange.WriteChecked("invoice", v.Doc)
}

// QuoteDocument is a version of a quote as yembo.quote, checked against its schema.
func (s *Billing) QuoteDocument(ctx context.Context, id int64) ([]byte, error) {
	q, err := s.Quote(ctx, id)
	if err != nil {
		return nil, err
	}
	return exchange.WriteChecked("quote", q.Doc)
}

// InvoiceTable is all invoices and payments as a table for the bookkeeper: a row a rate of tax, and a row
// a payment.
func (s *Billing) InvoiceTable(ctx context.Context) ([]byte, error) {
	list, err := s.Invoices(ctx, 0)
	if err != nil {
		return nil, err
	}
	var rows [][]string
	for i := len(list) - 1; i >= 0; i-- {
		v := &list[i]
		d := v.Doc
		cancels := ""
		if d.Cancels != 0 {
			cancels = quote.InvoiceLabel(d.Cancels)
		}
		plain := func(cents int64) string { return strings.ReplaceAll(hw.Amount(d.Currency, cents), "−", "-") }
		for k, t := range d.Sum.Taxes {
			total, rounding := "", ""
			if k == 0 { // once an invoice, so that the column adds up
				total, rounding = plain(d.Sum.Total), plain(d.Sum.Rounding)
			}
			rows = append(
				rows,
				[]string{"invoice", quote.InvoiceLabel(d.Number), d.On, d.Customer.Name, d.Job, cancels, d.Currency, t.Percent.String(),
					plain(t.Base), plain(t.Cents), rounding, total, ""},
			)
		}
		for _, p := range v.Payments {
			if p.Struck != "" {
				continue
			}
			rounding := ""
			if p.Rounding != 0 {
				rounding = plain(-p.Rounding)
			}
			rows = append(
				rows,
				[]string{
					"payment",
					quote.InvoiceLabel(d.Number),
					p.At.Format(time.DateOnly),
					d.Customer.Name,
					d.Job,
					"",
					d.Currency,
					"",
					"",
					"",
					rounding,
					plain(p.Cents),
					p.How,
				},
			)
		}
	}
	return exchange.WriteTable(
		[]string{"what", "invoice", "date", "customer", "job", "cancels", "currency", "tax_percent", "net", "tax", "rounding",
			"total", "paid_how"},
		rows,
	)
}
