package care

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image/jpeg"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/plan"
	"yembo/core/quote"
	"yembo/core/reading"
	"yembo/core/run"
	"yembo/exchange"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/shop/stock"
	"yembo/shop/work"
	"yembo/store"
)

// mostFound is how many faults a check names.
const mostFound = 50

// errEnough ends a check that has found enough.
var errEnough = errors.New("that is enough")

// Check reads everything that is stored: each document against its schema and against what it
// refers to, each picture, and the shelf against its movements. It returns what is wrong, a line
// each, at most 50.
func (s *Care) Check(ctx context.Context) ([]string, error) {
	c := &checker{models: map[string]*hw.Chassis{}}
	err := s.Store.View(ctx, func(tx store.Tx) error {
		for _, table := range checkedTables {
			if table.check == nil {
				continue
			}
			if err := table.check(c, tx); err != nil {
				return err
			}
			if err := ctx.Err(); err != nil {
				return err
			}
		}
		return nil
	})
	if errors.Is(err, errEnough) {
		err = nil
	}
	return c.found, err
}

// checkedTable is a table of the data file and how what stands in it is read.
type checkedTable struct {
	name  string
	check func(c *checker, tx store.Tx) error // nil for one that holds plain values alone, or is read with another
}

// CheckedTables are the names of the tables that a check reads.
func CheckedTables() []string {
	out := make([]string, len(checkedTables))
	for i := range checkedTables {
		out[i] = checkedTables[i].name
	}
	return out
}

// checkedTables are all tables, models first: others refer to them. A test fails for a table that is not
// here, and for a document in one that is not read.
var checkedTables = []checkedTable{
	{"models", (*checker).checkModels}, {"machines", (*checker).checkMachines}, {"jobs", (*checker).checkJobs},
	{"readings", (*checker).checkReadings}, {"photos", (*checker).checkPhotos}, {"parts", (*checker).checkParts},
	{"movements", (*checker).checkShelf}, {"quotes", (*checker).checkQuotes}, {"invoices", (*checker).checkInvoices},
	{"runs", (*checker).checkRuns}, {"run_events", (*checker).checkRunEvents}, {"proofs", (*checker).checkProofs},
	{"histories", (*checker).checkHistories}, {"settings", (*checker).checkSettings}, {"model_briefs", (*checker).checkBriefs},
	{"sessions", nil}, // of browsers: whoever's is damaged signs in again
	{"journal", nil}, {"people", nil}, {"screens", nil},
	{"uploads", nil}, // a file that waits for an answer: it is whatever somebody sent
	{"contacts", nil}, {"counters", nil}, {"customers", nil}, {"finds", nil}, {"holds", nil}, {"machine_numbers", nil},
	{"machine_words", nil}, {"migrations", nil}, {"model_words", nil}, {"order_lines", nil}, {"orders", nil},
	{"payments", nil}, {"serials", nil}, {"stocks", nil}, {"submissions", nil}, {"suppliers", nil},
}

type checker struct {
	found  []string
	models map[string]*hw.Chassis
}

// tell notes what is wrong with a record, nothing for nil.
func (c *checker) tell(what string, err error) error {
	if err == nil {
		return nil
	}
	var faults hw.Faults
	if !errors.As(err, &faults) {
		faults = hw.Faults{{Text: err.Error()}}
	}
	for _, f := range faults {
		if len(c.found) == mostFound {
			return errEnough
		}
		c.found = append(c.found, what+": "+f.Error())
	}
	return nil
}

func (c *checker) checkModels(tx store.Tx) error {
	return store.Each(tx, func(row *store.Model) error {
		ch := &hw.Chassis{}
		err := json.Unmarshal(row.Doc, ch)
		if err == nil {
			c.models[row.ID] = ch
			err = exchange.CheckWhole(ch)
		}
		return c.tell("model "+row.ID, err)
	})
}

func (c *checker) checkMachines(tx store.Tx) error {
	return store.Each(tx, func(row *store.Machine) error {
		_, err := exchange.ReadMachine(row.Doc, c.models[row.ModelID])
		return c.tell("machine "+row.ID, err)
	})
}

func (c *checker) checkJobs(tx store.Tx) error {
	return store.Each(tx, func(row *store.Job) error {
		wish, choice := &hw.Request{}, &base.Choice{}
		err := errors.Join(json.Unmarshal(row.Wish, wish), json.Unmarshal(row.Details, &jobs.Details{}),
			json.Unmarshal(row.State, &jobs.State{}))
		if err == nil && row.Choice != nil {
			err = json.Unmarshal(row.Choice, choice)
		}
		if err == nil && wish.Asks() {
			err = hw.ValidateRequest(wish, nil).Err()
		}
		if err == nil && row.Choice != nil {
			err = checkOption(&choice.Option)
		}
		return c.tell("job "+base.Label(row.ID), err)
	})
}

// checkOption looks at a chosen option as it would stand in its plan.
func checkOption(o *plan.Option) error {
	if o.TotalCents < 0 || o.PartsCents < 0 || o.LabourCents < 0 {
		return errors.New("its option costs less than nothing")
	}
	for _, b := range o.Buy {
		if b.Part == "" || b.Quantity < 1 {
			return fmt.Errorf("its option takes %d × %q", b.Quantity, b.Part)
		}
	}
	return nil
}

func (c *checker) checkReadings(tx store.Tx) error {
	return store.Each(tx, func(row *store.Reading) error {
		var o reading.Observed
		return c.tell(fmt.Sprint("reading ", row.ID), exchange.Read("observed", row.Doc, &o))
	})
}

func (c *checker) checkPhotos(tx store.Tx) error {
	return store.Each(tx, func(row *store.Photo) error {
		_, errF := jpeg.Decode(bytes.NewReader(row.Full))
		_, errT := jpeg.Decode(bytes.NewReader(row.Thumb))
		err := errors.Join(errF, errT)
		if err == nil && records.SumOf(row.Full) != row.Sum {
			err = errors.New("it is not the picture that was stored")
		}
		return c.tell(fmt.Sprint("photo ", row.ID), err)
	})
}

// checkQuotes reads what was offered and what was answered, and that it adds up.
func (c *checker) checkQuotes(tx store.Tx) error {
	return store.Each(tx, func(row *store.Quote) error {
		q := &quote.Quote{}
		err := errors.Join(strict(row.Doc, q), strict(row.Rests, &jobs.QuoteRests{}), strict(row.AnswerDoc, &jobs.QuoteAnswer{}))
		if err == nil && (q.Number != row.Number || q.Version != row.Version) {
			err = fmt.Errorf("it says that it is %s", jobs.QuoteLabel(q.Number, q.Version))
		}
		for i := range q.Alternatives {
			a := &q.Alternatives[i]
			if sum := money.AddUp(a.Lines, money.How{Step: q.RoundTo, Inside: q.TaxIn}); err == nil && sum.Total != a.Sum.Total {
				err = fmt.Errorf("its lines of %s come to %d, and it says %d", a.Letter, sum.Total, a.Sum.Total)
			}
		}
		return c.tell("quote "+jobs.QuoteLabel(row.Number, row.Version), err)
	})
}

// checkInvoices reads what was charged, that it adds up, and that the numbers have no gap.
func (c *checker) checkInvoices(tx store.Tx) error {
	next := int64(1)
	return store.Each(tx, func(row *store.Invoice) error {
		v := &quote.Invoice{}
		err := strict(row.Doc, v)
		sum := money.AddUp(v.Lines, money.How{Step: v.RoundTo, Inside: v.TaxIn})
		switch {
		case err != nil:
		case v.Number != row.Number || row.Number != next:
			err = fmt.Errorf("it says that it is %s, and %s was the next", quote.InvoiceLabel(v.Number), quote.InvoiceLabel(next))
		case sum.Total != v.Sum.Total || row.Cents != v.Sum.Total:
			err = fmt.Errorf("its lines come to %d, and it says %d", sum.Total, v.Sum.Total)
		}
		next = row.Number + 1
		return c.tell("invoice "+quote.InvoiceLabel(row.Number), err)
	})
}

// checkRuns reads what runs were made from, and that a run can be made of it.
func (c *checker) checkRuns(tx store.Tx) error {
	return store.Each(tx, func(row *store.Run) error {
		d := &work.RunDoc{}
		err := strict(row.Doc, d)
		if err == nil && (d.Chassis == nil || d.Machine == nil || d.Chassis.ID == "") {
			err = errors.New("it has no machine or no model")
		}
		if err == nil && row.EndedAt != nil && len(row.Timings) > 0 {
			err = json.Unmarshal(row.Timings, &[]any{})
		}
		return c.tell(fmt.Sprint("run ", row.ID, " of ", base.Label(row.JobID)), err)
	})
}

func (c *checker) checkRunEvents(tx store.Tx) error {
	return store.Each(tx, func(row *store.RunEvent) error {
		return c.tell(fmt.Sprint("event ", row.ID, " of run ", row.RunID), strict(row.Data, &run.Data{}))
	})
}

func (c *checker) checkProofs(tx store.Tx) error {
	return store.Each(tx, func(row *store.Proof) error {
		return c.tell("proof of "+base.Label(row.JobID), strict(row.Doc, &jobs.ProofDoc{}))
	})
}

// checkHistories reads what the history keeps of a record before it was changed: a document, or none.
func (c *checker) checkHistories(tx store.Tx) error {
	return store.Each(tx, func(row *store.History) error {
		if len(row.Before) > 0 && !json.Valid(row.Before) {
			return c.tell(fmt.Sprint("history ", row.ID, ", ", row.Kind, " ", row.Record), errors.New("what it was before is no document"))
		}
		return nil
	})
}

func (c *checker) checkSettings(tx store.Tx) error {
	_, err := base.SettingsIn(tx)
	return c.tell("settings", err)
}

func (c *checker) checkBriefs(tx store.Tx) error {
	return tx.EachBrief(func(model string, brief []byte) error {
		if len(brief) > 0 && !json.Valid(brief) {
			return c.tell("list entry of model "+model, errors.New("it is no document"))
		}
		return nil
	})
}

// strict reads a document of a type; a field that the type has not is wrong.
func strict(raw []byte, into any) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return err
	}
	if d.More() {
		return errors.New("something stands behind the document")
	}
	return nil
}

func (c *checker) checkParts(tx store.Tx) error {
	return store.Each(tx, func(row *store.Part) error {
		p, err := stock.ReadPart(row)
		if err == nil {
			l := stock.LineOf(row, p)
			err = l.Check().Err()
		}
		return c.tell("part "+row.ID, err)
	})
}

// checkShelf holds the shelf against its movements.
func (c *checker) checkShelf(tx store.Tx) error {
	sums := map[string]store.Stock{}
	err := store.Each(tx, func(m *store.Movement) error {
		x := sums[m.PartID]
		sums[m.PartID] = store.Stock{PartID: m.PartID, Shelf: x.Shelf + m.Shelf, Held: x.Held + m.Held,
			Tested: x.Tested + m.Tested}
		return nil
	})
	if err != nil {
		return err
	}
	stocks, err := tx.Stocks()
	if err != nil {
		return err
	}
	for id, x := range stocks {
		if x != sums[id] {
			err := c.tell("part "+id, fmt.Errorf("%d lie on the shelf and %d are kept; its movements come to %d and %d",
				x.Shelf, x.Held, sums[id].Shelf, sums[id].Held))
			if err != nil {
				return err
			}
		}
	}
	return nil
}
