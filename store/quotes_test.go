package store

import (
	"errors"
	"strings"
	"testing"
	"time"
)

// TestNeverChanged: the data file itself refuses that a quote that was shown, an invoice or a payment says
// something else, or is gone, and an invoice that leaves a number out.
func TestNeverChanged(t *testing.T) {
	s := open(t, t.TempDir())
	now := time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)
	err := s.Update(t.Context(), func(tx Tx) error {
		customer := Customer{Name: "C"}
		model := Model{ID: "m", Maker: "Quillon", Model: "Aster", Doc: []byte(`{}`)}
		if err := errors.Join(tx.Create(&customer), tx.CreateModel(&model)); err != nil {
			return err
		}
		m := Machine{Tag: "c-1", CustomerID: customer.ID, ModelID: "m", Doc: []byte(`{}`)}
		if err := tx.CreateMachine(&m); err != nil {
			return err
		}
		j := Job{MachineID: m.ID, CustomerID: customer.ID, Wish: []byte(`{}`), Details: []byte(`{}`), State: []byte(`{}`)}
		if err := tx.CreateJob(&j); err != nil {
			return err
		}
		q := Quote{JobID: j.ID, Doc: []byte(`{"customer":{"name":"C"}}`), Rests: []byte(`{}`), AnswerDoc: []byte(`{}`), At: now}
		if err := tx.CreateQuote(&q); err != nil {
			return err
		}
		q.Doc = []byte(`{"customer":{"name":"C"},"told":"x"}`)
		if err := tx.SaveQuote(&q, q.Revision); err != nil {
			t.Errorf("before it is shown it can be changed: %v", err)
		}
		q.ShownAt = &now
		next := Quote{Number: q.Number, JobID: j.ID, Doc: []byte(`{}`), Rests: []byte(`{}`), AnswerDoc: []byte(`{}`), At: now}
		return errors.Join(
			tx.MarkQuote(&q, q.Revision),
			tx.CreateQuote(&next),
			tx.CreateInvoice(&Invoice{JobID: j.ID, Doc: []byte(`{}`), Cents: 100, Currency: "EUR", At: now}),
			tx.Create(&Payment{JobID: j.ID, Cents: 100, How: "cash", At: now}),
			func() error {
				if next.Version != 2 {
					t.Errorf("the next version is %d", next.Version)
				}
				return nil
			}())
	})
	if err != nil {
		t.Fatal(err)
	}
	// The demo's dates are moved in all of it, and what is guarded is guarded afterwards.
	moves := func(text string) string { return strings.ReplaceAll(text, `"told":"x"`, `"told":"y"`) }
	if err := s.Rewrite(t.Context(), moves); err != nil {
		t.Fatal(err)
	}
	err = s.View(t.Context(), func(tx Tx) error {
		q, err := tx.Quote(1)
		if !strings.Contains(string(q.Doc), `"told":"y"`) {
			t.Errorf("rewritten, the quote says %s", q.Doc)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	for what, sql := range map[string]string{"a quote is reworded": "UPDATE quotes SET doc = '{}' WHERE version = 1",
		"an invoice is changed": "UPDATE invoices SET cents = 0",
		"an invoice is deleted": "DELETE FROM invoices", "a payment is changed": "UPDATE payments SET cents = 1",
		"a payment is deleted": "DELETE FROM payments",
		"a number is left out": "INSERT INTO invoices (number, job_id, doc, cents, currency, at, by) SELECT 3, job_id, " +
			"doc, cents, currency, at, by FROM invoices"} {
		if err := s.Update(t.Context(), func(tx Tx) error { return tx.db.Exec(sql).Error }); err == nil {
			t.Errorf("%s", what)
		}
	}
	// Forgetting a customer empties what was offered, and leaves what was charged.
	err = s.Update(t.Context(), func(tx Tx) error {
		if err := tx.ForgetTexts(1, "nobody"); err != nil {
			return err
		}
		if err := tx.ForgetQuote(1, []byte("{}")); err != nil {
			return err
		}
		q, err := tx.Quote(1)
		if err != nil || string(q.Doc) == `{"customer":{"name":"C"},"told":"x"}` || string(q.AnswerDoc) != "{}" {
			t.Errorf("the quote still says %s, %s: %v", q.Doc, q.AnswerDoc, err)
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
