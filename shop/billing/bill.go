package billing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/plan"
	"yembo/core/quote"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/store"
)

// Extra is what was agreed beside the quote: every one with who agreed to it.
type Extra struct {
	Text   string
	Cents  int64
	Agreed string
}

// Bill is what would be charged for a job now.
type Bill struct {
	Job      jobs.JobRecord
	Quote    string // that it follows, "" for none
	quoteID  int64
	Lines    []money.Line
	Sum      money.Sum
	How      money.How // how it is added up
	Invoices []InvoiceRecord
	Deposits []PaymentRecord // paid, and on no invoice yet
	Against  string          // why nothing can be charged
	Settings base.Settings
}

// Bill tells what would be charged for a job now.
func (s *Billing) Bill(ctx context.Context, job int64) (Bill, error) {
	var out Bill
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.bill(tx, job)
		return err
	})
	return out, err
}

// DueIn says in words what is still to be charged or paid for a job.
func (s *Billing) DueIn(tx store.Tx, job int64) ([]string, error) {
	b, err := s.bill(tx, job)
	return b.Due(), err
}

func (s *Billing) bill(tx store.Tx, id int64) (Bill, error) {
	var out Bill
	var err error
	if out.Settings, err = base.SettingsIn(tx); err != nil {
		return out, err
	}
	if out.Job, err = s.JobIn(tx, id); err != nil {
		return out, err
	}
	if out.Invoices, out.Deposits, err = s.invoicesOf(tx, id); err != nil {
		return out, err
	}
	for i := range out.Invoices {
		if v := &out.Invoices[i]; v.Doc.Cancels == 0 && v.Cancelled == 0 {
			out.Against = quote.InvoiceLabel(v.Doc.Number) + " charges it already: cancel it first where it is wrong"
		}
	}
	out.How = money.How{Step: out.Settings.Pricing.TotalStep(), Inside: out.Settings.Pricing.TaxIn}
	if q := out.Job.Settled(); q != nil {
		// What was accepted is charged as it was, by the rounding that it was shown with.
		out.Quote, out.quoteID, out.How = q.Label(), q.ID, money.How{Step: q.Doc.RoundTo, Inside: q.Doc.TaxIn}
		if out.Lines = q.Doc.Declined; q.Answer == jobs.Accepted {
			old, err := oldDrives(tx, &out.Job, q.Given.OldParts)
			if err != nil {
				return out, err
			}
			charged, err := q.Doc.Charged(q.Given.Letter, old)
			if err != nil {
				return out, err
			}
			out.Lines = charged.Lines
		}
	}
	if out.Quote == "" && out.Job.Choice != nil {
		if out.Lines, err = s.linesChosen(tx, &out); err != nil {
			return out, err
		}
	}
	if len(out.Lines) == 0 && out.Against == "" {
		out.Against = "nothing to charge yet: no quote accepted and no option chosen"
	}
	out.Sum = money.AddUp(out.Lines, out.How)
	return out, nil
}

// linesChosen are the lines of the option that was chosen without a quote.
func (s *Billing) linesChosen(tx store.Tx, b *Bill) ([]money.Line, error) {
	parts, err := s.PartsFor(tx, b.Job.Key, b.Job.Machine.ID, b.Job.JobID)
	if err != nil {
		return nil, err
	}
	old, err := oldDrives(tx, &b.Job, quote.Ask)
	if err != nil {
		return nil, err
	}
	return quote.LinesOf(
		&quote.Input{Plan: plan.Input{Chassis: b.Job.Chassis, Machine: b.Job.Machine, Parts: parts, Request: b.Job.Wish},
			Options: []plan.Option{b.Job.Choice.Option}, Terms: b.Settings.Terms()},
		old,
	)
}

// oldDrives is what becomes of the drives that come out: what was said, else what the proof tells.
func oldDrives(tx store.Tx, j *jobs.JobRecord, said quote.OldParts) (quote.OldParts, error) {
	if said != "" && said != quote.Ask {
		return said, nil
	}
	row, err := tx.ProofOf(j.JobID)
	if errors.Is(err, store.ErrNotFound) {
		return quote.Ask, nil
	}
	if err != nil {
		return "", err
	}
	var doc jobs.ProofDoc
	if err := json.Unmarshal(row.Doc, &doc); err != nil {
		return "", fmt.Errorf("the proof of %s: %w", base.Label(j.JobID), err)
	}
	out := quote.Ask
	for place, old := range doc.Old {
		if p, ok := j.Chassis.PlaceNamed(place); !ok || p.Takes != hw.KindDrive {
			continue
		}
		if old.Goes != jobs.GoesBack && old.Goes != jobs.GoesEnclosure {
			return quote.Kept, nil
		}
		out = quote.Back
	}
	return out, nil
}
