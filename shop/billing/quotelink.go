package billing

import (
	"context"
	"crypto/rand"
	"fmt"

	"yembo/core/hw"
	"yembo/core/quote"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/store"
)

// A link shows one quote to whoever has it, without an account: its key is 128 bits of chance, written
// with 26 letters, and kept as its hash alone. It ends with the quote's time, with its answer, and when it
// is taken back.

// LinkQuote makes a link to a quote in place of one that there was, and returns its key: it is told this
// once. The quote is frozen, as it can be seen from now on.
func (s *Billing) LinkQuote(ctx context.Context, a base.Actor, id int64, revision int) (string, error) {
	key := rand.Text()
	_, err := s.changeQuote(ctx, "", id, revision, func(tx store.Tx, row *store.Quote, q *QuotePage) (string, error) {
		if why := answerable(q); len(why) > 0 {
			return "", hw.Faults{{Text: "it gets no link: " + why[0]}}
		}
		if err := s.freeze(tx, a, row, q, "link"); err != nil {
			return "", err
		}
		row.KeyHash = base.KeyHash(key)
		return "", tx.MarkQuote(row, row.Revision)
	})
	return key, err
}

// UnlinkQuote takes the link of a quote back.
func (s *Billing) UnlinkQuote(ctx context.Context, a base.Actor, token string, id int64, revision int) error {
	_, err := s.changeQuote(ctx, token, id, revision, func(tx store.Tx, row *store.Quote, q *QuotePage) (string, error) {
		row.KeyHash = ""
		if err := tx.MarkQuote(row, row.Revision); err != nil {
			return "", err
		}
		return fmt.Sprint(id), s.noteQuote(tx, a, &q.QuoteRecord, q.Job.Key, "has no link any more")
	})
	return err
}

// LinkedQuote is what a link shows: the quote alone, and nothing else of the shop's.
type LinkedQuote struct {
	ID       int64
	Revision int
	Doc      *quote.Quote
	Label    string
	Over     bool // its time is over, or there is a newer version: it can be read, not answered
}

// QuoteByLink returns the quote that a link leads to. ErrNotFound for a key that is none, was taken back
// or was answered with.
func (s *Billing) QuoteByLink(ctx context.Context, key string) (LinkedQuote, error) {
	var out LinkedQuote
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.QuoteByKey(base.KeyHash(key))
		if err != nil {
			return err
		}
		q, err := s.quotePage(tx, row.ID)
		if err != nil {
			return err
		}
		if q.Over {
			return store.ErrNotFound // it ends with the quote
		}
		out = LinkedQuote{q.ID, q.Revision, q.Doc, q.Label(), len(answerable(&q)) > 0}
		return nil
	})
	return out, err
}

// IsLink reports whether a key is that of a link.
func (s *Billing) IsLink(ctx context.Context, key string) bool {
	return s.Store.View(ctx, func(tx store.Tx) error {
		_, err := tx.QuoteByKey(base.KeyHash(key))
		return err
	}) == nil
}

// AnswerByLink notes what a customer answered by a link.
func (s *Billing) AnswerByLink(ctx context.Context, token, key string, ans jobs.QuoteAnswer) error {
	q, err := s.QuoteByLink(ctx, key)
	if err != nil {
		return err
	}
	ans.How = "link"
	return s.AnswerQuote(ctx, base.Actor{Name: "the customer, by link"}, token, q.ID, q.Revision, ans)
}
