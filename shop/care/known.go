package care

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"yembo/core/hw"
	"yembo/core/quote"
	"yembo/core/reading"
	"yembo/shop/base"
	"yembo/shop/billing"
	"yembo/shop/jobs"
	"yembo/shop/stock"
	"yembo/store"
)

// Known is everything that is held of one customer.
type Known struct {
	Name     string         `json:"name"`
	Contact  string         `json:"contact"`
	Since    time.Time      `json:"since"`
	Machines []KnownMachine `json:"machines"`
	Jobs     []KnownJob     `json:"jobs"`
	History  []KnownEntry   `json:"history"`
	// Texts are what else stands in the data file of them, as it stands there.
	Texts []store.HeldText `json:"texts,omitempty"`
}

// KnownMachine is a machine that is the customer's now.
type KnownMachine struct {
	Number   string         `json:"number"`
	Machine  *hw.Machine    `json:"machine"`
	Readings []KnownReading `json:"readings,omitempty"`
	Parts    []hw.Part      `json:"parts_brought,omitempty"`
	History  []KnownEntry   `json:"history"`
}

// KnownReading is what a machine told of itself.
type KnownReading struct {
	At       time.Time         `json:"at"`
	Files    []string          `json:"files,omitempty"`
	Observed *reading.Observed `json:"observed"`
}

// KnownJob is a job that the customer wanted.
type KnownJob struct {
	Label     string         `json:"label"`
	Machine   string         `json:"machine"`
	TakenIn   time.Time      `json:"taken_in"`
	Promised  *time.Time     `json:"promised,omitempty"`
	Closed    *time.Time     `json:"closed,omitempty"`
	Complaint string         `json:"complaint"`
	Wish      *hw.Request    `json:"wish"`
	Details   jobs.Details   `json:"details"`
	State     jobs.State     `json:"state"`
	Chosen    string         `json:"chosen,omitempty"`
	Talks     []jobs.Contact `json:"talks,omitempty"`
	Photos    []KnownPhoto   `json:"photos,omitempty"`
	Proof     *jobs.ProofDoc `json:"proof,omitempty"` // what was seen, measured and said at its end
	// What was offered, charged and paid, as documents.
	Quotes   []KnownQuote     `json:"quotes,omitempty"`
	Invoices []*quote.Invoice `json:"invoices,omitempty"`
	Payments []KnownEntry     `json:"payments,omitempty"`
}

// KnownQuote is a version of a quote with what was answered.
type KnownQuote struct {
	Quote  *quote.Quote     `json:"quote"`
	Answer jobs.QuoteAnswer `json:"answer"`
}

// KnownPhoto is a picture of a machine as it was handed in, as a JPEG file.
type KnownPhoto struct {
	ID      int64  `json:"id"`
	Caption string `json:"caption"`
	On      string `json:"on"`
	JPEG    []byte `json:"jpeg"`
}

// KnownEntry is a line of a history.
type KnownEntry struct {
	At   time.Time `json:"at"`
	By   string    `json:"by"`
	What string    `json:"what"`
}

// Known returns everything that is held of one customer. files says whether the pictures are
// wanted, which are large.
func (s *Care) Known(ctx context.Context, id int64, files bool) (Known, error) {
	var out Known
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.Customer(id)
		if err != nil {
			return err
		}
		out.Name, out.Contact, out.Since = row.Name, row.Contact, row.CreatedAt
		told, err := base.HistoryIn(tx, base.KindCustomer, fmt.Sprint(id))
		if err != nil {
			return err
		}
		out.History = entries(told)
		machines, err := tx.MachinesOf(id)
		if err != nil {
			return err
		}
		for i := range machines {
			m, err := knownMachine(tx, &machines[i])
			if err != nil {
				return err
			}
			out.Machines = append(out.Machines, m)
		}
		jobs, err := tx.JobsFor(id)
		if err != nil {
			return err
		}
		for i := range jobs {
			j, err := knownJob(tx, &jobs[i], files)
			if err != nil {
				return err
			}
			out.Jobs = append(out.Jobs, j)
		}
		out.Texts, err = tx.HeldTexts(id, false)
		return err
	})
	return out, err
}

func entries(told []base.Change) []KnownEntry {
	out := make([]KnownEntry, len(told))
	for i, c := range told {
		out[i] = KnownEntry{c.At, c.By, c.What}
	}
	return out
}

func knownMachine(tx store.Tx, row *store.Machine) (KnownMachine, error) {
	out := KnownMachine{Number: row.ID, Machine: &hw.Machine{}}
	if err := json.Unmarshal(row.Doc, out.Machine); err != nil {
		return out, fmt.Errorf("machine %s: %w", row.ID, err)
	}
	told, err := jobs.MachineHistoryIn(tx, row, row.CustomerID)
	if err != nil {
		return out, err
	}
	out.History = entries(told)
	readings, err := jobs.ReadingsOf(tx, row, row.CustomerID)
	for _, r := range readings {
		out.Readings = append(out.Readings, KnownReading{r.At, r.Files, r.Observed})
	}
	if err != nil {
		return out, err
	}
	parts, err := tx.PartsFor(row.ID)
	for i := range parts {
		p, err := stock.ReadPart(&parts[i])
		if err != nil {
			return out, err
		}
		out.Parts = append(out.Parts, *p)
	}
	return out, err
}

func knownJob(tx store.Tx, row *store.Job, files bool) (KnownJob, error) {
	out := KnownJob{Label: base.Label(row.ID), Machine: row.MachineID, TakenIn: row.CreatedAt, Promised: row.PromisedAt,
		Closed: row.ClosedAt, Complaint: row.Complaint, Wish: &hw.Request{}}
	var choice base.Choice
	err := errors.Join(json.Unmarshal(row.Wish, out.Wish), json.Unmarshal(row.Details, &out.Details),
		json.Unmarshal(row.State, &out.State))
	if err == nil && row.Choice != nil {
		err = json.Unmarshal(row.Choice, &choice)
		out.Chosen = choice.Words
	}
	if err != nil {
		return out, fmt.Errorf("the job %s: %w", out.Label, err)
	}
	talks, err := tx.ContactsOf(row.ID)
	if err != nil {
		return out, err
	}
	for _, c := range talks {
		out.Talks = append(out.Talks, jobs.Contact{At: c.At, By: c.By, Who: c.Who, How: c.How, Said: c.Said, Agreed: c.Agreed})
	}
	switch proof, err := tx.ProofOf(row.ID); {
	case err == nil:
		out.Proof = &jobs.ProofDoc{}
		if err := json.Unmarshal(proof.Doc, out.Proof); err != nil {
			return out, fmt.Errorf("the proof of %s: %w", out.Label, err)
		}
	case !errors.Is(err, base.ErrNotFound):
		return out, err
	}
	if err := out.money(tx, row.ID); err != nil {
		return out, err
	}
	photos, err := tx.PhotosOf(base.KindJob, fmt.Sprint(row.ID))
	if err != nil {
		return out, err
	}
	for _, p := range photos {
		known := KnownPhoto{ID: p.ID, Caption: p.Caption, On: p.TakenOn}
		if files {
			whole, err := tx.Photo(base.KindJob, fmt.Sprint(row.ID), p.ID)
			if err != nil {
				return out, err
			}
			known.JPEG = whole.Full
		}
		out.Photos = append(out.Photos, known)
	}
	return out, nil
}

// money adds what was offered, charged and paid for a job.
func (k *KnownJob) money(tx store.Tx, job int64) error {
	quotes, err := tx.QuotesOf(job)
	if err != nil {
		return err
	}
	for i := range quotes {
		q := KnownQuote{Quote: &quote.Quote{}}
		if err := errors.Join(json.Unmarshal(quotes[i].Doc, q.Quote), json.Unmarshal(quotes[i].AnswerDoc, &q.Answer)); err != nil {
			return err
		}
		k.Quotes = append(k.Quotes, q)
	}
	rows, err := tx.Invoices(job, 0)
	if err != nil {
		return err
	}
	paid, err := tx.Payments(job)
	if err != nil {
		return err
	}
	list, _, err := billing.InvoiceRecords(rows, nil)
	for i := range list {
		k.Invoices = append(k.Invoices, list[i].Doc)
	}
	for _, p := range paid {
		k.Payments = append(k.Payments, KnownEntry{p.At, p.By, fmt.Sprintf("%d of the smallest unit, %s, %s", p.Cents, p.How, p.Note)})
	}
	return err
}
