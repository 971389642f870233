package billing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/quote"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/stock"
	"yembo/store"
)

// Offer makes a quote of one to three options of a machine's plan, by their fingerprints: the next version
// of the one that is not answered yet, else a new one. It is planned aside, as a choice is. The error is
// ErrPlanChanged where an option is no longer among the plan's.
func (s *Billing) Offer(
	ctx context.Context,
	a base.Actor,
	token, machineID string,
	fingerprints []string,
	query jobs.PlanQuery,
) (int64, error) {
	for range jobs.MostReplans {
		p, err := s.Plan(ctx, machineID, query)
		if err != nil {
			return 0, err
		}
		var options []plan.Option
		for _, f := range fingerprints {
			o := p.OptionOf(f)
			if o == nil {
				return 0, base.ErrPlanChanged
			}
			options = append(options, *o)
		}
		rows, c, err := s.BenchAnd(ctx)
		if err != nil {
			return 0, err
		}
		var promises []string
		for i := range options {
			o := &options[i]
			offered, err := jobs.PlaceFor(rows, &c, &p.Record, o, o.ReadyInDays)
			if err != nil {
				return 0, err
			}
			words := offered.Words(p.Record.Promised)
			if words != "" {
				words += ", if you accept on " + s.Now().Format("2 January")
			}
			promises = append(promises, words)
		}
		doc, err := quote.Make(
			quote.Input{Plan: p.Input(), Today: p.Today, Options: options, Terms: p.Settings.Terms(), Complaint: p.Record.Complaint,
				Promises: promises},
		)
		if err != nil {
			return 0, err
		}
		still := true
		result, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
			now, err := s.Gather(tx, machineID, query)
			switch {
			case err != nil:
				return "", err
			case now.Record.State.Danger != "":
				return "", base.ErrDanger
			case now.Record.JobID == 0 || !now.Record.Closed.IsZero():
				return "", hw.Faults{{Text: "there is no open job to make a quote for"}}
			}
			for i := range options {
				if !now.RestsOn(&p, &options[i]) {
					still = false
					return "", base.ErrPlanChanged
				}
			}
			return s.storeOffer(tx, a, &p, doc)
		})
		if still {
			return idIn(result), err
		}
	}
	return 0, base.ErrPlanChanged
}

// storeOffer stores a new quote, or the next version of the one that waits for an answer.
func (s *Billing) storeOffer(tx store.Tx, a base.Actor, p *jobs.Planned, doc *quote.Quote) (string, error) {
	job, err := s.JobIn(tx, p.Record.JobID)
	if err != nil {
		return "", err
	}
	before, err := s.QuotesOf(tx, job.JobID)
	if err != nil {
		return "", err
	}
	row := store.Quote{JobID: job.JobID, AnswerDoc: []byte("{}"), At: s.Now(), By: a.Name}
	// What is agreed otherwise later is the next version of what was accepted, and answered as such.
	if agreed := jobs.AgreedQuote(before); agreed != nil {
		row.Number = agreed.Number
	} else if len(before) > 0 && before[0].Answer != jobs.Declined {
		row.Number = before[0].Number
	}
	free := map[string]int{}
	for _, alt := range doc.Alternatives {
		for _, b := range alt.Option.Buy {
			stock, err := tx.Stock(b.Part)
			if err != nil {
				return "", err
			}
			free[b.Part] = stock.Shelf - stock.Held
		}
	}
	if row.Rests, err = json.Marshal(jobs.QuoteRests{Model: p.Model.Version, Machine: p.Record.MachineVer,
		Rate: p.Settings.LabourRate,
		Tax:  p.Settings.TaxPercent, Free: free}); err != nil {
		return "", err
	}
	doc.On = s.Now().Format(time.DateOnly)
	doc.ValidUntil = s.Now().AddDate(0, 0, p.Settings.Pricing.Days()).Format(time.DateOnly)
	doc.Shop = quote.Party{Name: base.OrWord(p.Settings.Workshop, s.Called), Address: linesOf(p.Settings.Address)}
	doc.Customer = quote.Party{Name: job.Customer, Contact: job.Contact}
	doc.Machine = quote.Machine{ID: job.Machine.ID, Model: job.Chassis.Name(), Serial: job.Machine.Serial}
	row.ValidUntil = doc.ValidUntil
	row.Doc = []byte("{}")
	if err := tx.CreateQuote(&row); err != nil {
		return "", err
	}
	doc.Number, doc.Version = row.Number, row.Version
	if row.Doc, err = json.Marshal(doc); err != nil {
		return "", err
	}
	if err := tx.SaveQuote(&row, row.Revision); err != nil {
		return "", err
	}
	return fmt.Sprint(
			row.ID,
		), s.noteQuote(
			tx,
			a,
			&jobs.QuoteRecord{Number: row.Number, Version: row.Version, JobID: row.JobID},
			job.Key,
			"made",
		)
}

func linesOf(text string) []string {
	return strings.FieldsFunc(text, func(r rune) bool { return r == '\n' || r == '\r' })
}

// partSince says what of a part is another than when it was offered.
func partSince(tx store.Tx, id string, n int, cents int64, currency string, then int) ([]string, error) {
	row, err := tx.Part(id)
	if errors.Is(err, store.ErrNotFound) {
		return []string{"a part that is no longer there"}, nil
	}
	if err != nil {
		return nil, err
	}
	p, err := stock.ReadPart(&row)
	if err != nil {
		return nil, err
	}
	var out []string
	if row.RetiredAt != nil {
		out = append(out, p.Name+" is no longer kept")
	}
	if now := p.PriceCents * int64(n); now != cents && !p.Brought() {
		out = append(out, fmt.Sprintf("%d × %s costs %s now, not %s", n, p.Name, hw.Money(currency, now), hw.Money(currency, cents)))
	}
	stock, err := tx.Stock(id)
	if err != nil {
		return nil, err
	}
	if free := stock.Shelf - stock.Held; free < n && free < then && !row.Uncounted && !p.Brought() {
		out = append(out, fmt.Sprintf("%d of %d × %s free on the shelf", max(free, 0), n, p.Name))
	}
	return out, nil
}

// ShowQuote freezes a quote, as it was shown or sent, and lets its job wait for the answer.
func (s *Billing) ShowQuote(ctx context.Context, a base.Actor, token string, id int64, revision int, how string) error {
	_, err := s.changeQuote(ctx, token, id, revision, func(tx store.Tx, row *store.Quote, q *QuotePage) (string, error) {
		if err := s.freeze(tx, a, row, q, how); err != nil {
			return "", err
		}
		return fmt.Sprint(id), tx.MarkQuote(row, row.Revision)
	})
	return err
}

// freeze marks a quote as shown, and its job as waiting for the answer. The row is stored by the caller.
func (s *Billing) freeze(tx store.Tx, a base.Actor, row *store.Quote, q *QuotePage, how string) error {
	if row.ShownAt != nil {
		return nil
	}
	switch {
	case !q.Newest:
		return hw.Faults{{Text: "there is a newer version of it"}}
	case !q.Job.Closed.IsZero():
		return hw.Faults{{Text: "its job is closed; open it again first"}}
	}
	now := s.Now()
	row.ShownAt, row.ShownHow = &now, how
	job, err := tx.Job(row.JobID)
	if err != nil {
		return err
	}
	// Work that was agreed goes on while another version of it waits for an answer.
	if st := q.Job.State; st.Danger == "" && st.Running == nil && q.Job.Agreed() == nil {
		st.Become(jobs.State{Waits: jobs.WaitsCustomer, For: "the answer to quote " + q.Label(), Quote: row.ID, Since: now})
		if job.State, err = json.Marshal(st); err != nil {
			return err
		}
		job.UpdatedAt = now
		job.Version++
		if err := tx.SaveJob(&job, job.Version-1); err != nil {
			return err
		}
	}
	return s.NoteEvent(
		tx,
		a,
		base.KindMachine,
		q.Job.Key,
		base.Event{What: base.Label(row.JobID) + ": quote " + q.Label() + " shown", Kind: base.EventWork,
			Data: jobs.Course{To: jobs.WaitsCustomer}.Data(), Job: row.JobID},
		nil,
	)
}
