package store

import (
	"errors"
	"time"

	"gorm.io/gorm"
)

// Quote is one version of what was offered for a job. Doc is yembo.quote; Rests is what it rests on. Once
// it was shown it is frozen: the data file refuses a change of what it says.
type Quote struct {
	ID         int64 `gorm:"primaryKey"`
	Number     int64
	Version    int
	JobID      int64
	Doc, Rests []byte
	ValidUntil string
	ShownAt    *time.Time
	ShownHow   string
	Answer     string // accepted, declined, thinking, "" for none yet
	AnswerDoc  []byte
	AnsweredAt *time.Time
	AskOn      string // the day on which they are asked again
	KeyHash    string // of the link, "" where there is none
	At         time.Time
	By         string
	Revision   int // counts the changes of the row
}

// Invoice is what was charged. It is never changed: another one cancels it.
type Invoice struct {
	Number   int64 `gorm:"primaryKey"`
	JobID    int64
	QuoteID  *int64
	Cancels  *int64
	Doc      []byte
	Cents    int64
	Currency string
	At       time.Time
	By       string
}

// Payment is what was paid for a job: for an invoice, or before there was one. Less than nothing was
// paid back.
type Payment struct {
	ID      int64 `gorm:"primaryKey"`
	JobID   int64
	Invoice *int64
	Cents   int64
	How     string
	Note    string
	At      time.Time
	By      string
	// Rounding is what paying in cash took off what was owed.
	Rounding  int64
	StruckAt  *time.Time
	StruckBy  string
	StruckWhy string
}

// Quote returns one version of a quote.
func (t Tx) Quote(id int64) (Quote, error) { return first[Quote](t.db, "id = ?", id) }

// QuoteByKey returns the quote that a link leads to.
func (t Tx) QuoteByKey(hash string) (Quote, error) {
	return first[Quote](t.db, "key_hash = ? AND key_hash <> ''", hash)
}

// QuotesOf lists the quotes of a job, the newest first.
func (t Tx) QuotesOf(job int64) ([]Quote, error) {
	var out []Quote
	return out, t.db.Order("number DESC, version DESC").Find(&out, "job_id = ?", job).Error
}

// OpenQuotes lists the quotes that were shown and are not answered for good, of open jobs.
func (t Tx) OpenQuotes() ([]Quote, error) {
	var out []Quote
	return out, t.db.Omit("doc", "rests").Where("shown_at IS NOT NULL AND answer IN ('', 'thinking')").
		Where("job_id IN (SELECT id FROM jobs WHERE closed_at IS NULL AND removed_at IS NULL)").Order("id").Find(&out).Error
}

// CreateQuote stores a quote as the next version of its number; a number of 0 is the next free one.
func (t Tx) CreateQuote(q *Quote) error {
	ask := t.db.Raw("SELECT COALESCE(MAX(number), 0) + 1 FROM quotes")
	into := any(&q.Number)
	if q.Number != 0 {
		ask, into = t.db.Raw("SELECT COALESCE(MAX(version), 0) + 1 FROM quotes WHERE number = ?", q.Number), &q.Version
	} else {
		q.Version = 1
	}
	if err := ask.Scan(into).Error; err != nil {
		return err
	}
	q.Revision = 1
	return t.db.Create(q).Error
}

// SaveQuote stores a changed quote. revision is the one that was read.
func (t Tx) SaveQuote(q *Quote, revision int) error {
	done := t.db.Model(q).Where("id = ? AND revision = ?", q.ID, revision).Select("*").Updates(q)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrChanged
	}
	return done.Error
}

// MarkQuote stores what happened to a quote, and leaves alone what it says.
func (t Tx) MarkQuote(q *Quote, revision int) error {
	q.Revision = revision + 1
	done := t.db.Model(q).Where("id = ? AND revision = ?", q.ID, revision).
		Select("shown_at", "shown_how", "answer", "answer_doc", "answered_at", "ask_on", "key_hash", "revision").Updates(q)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrChanged
	}
	return done.Error
}

// CreateInvoice stores an invoice under the next number, without a gap: there is one writer at a time,
// and the data file refuses another number.
func (t Tx) CreateInvoice(v *Invoice) error {
	if err := t.db.Raw("SELECT COALESCE(MAX(number), 0) + 1 FROM invoices").Scan(&v.Number).Error; err != nil {
		return err
	}
	return t.db.Create(v).Error
}

// NextInvoice is the number that the next invoice has.
func (t Tx) NextInvoice() (int64, error) {
	var n int64
	return n, t.db.Raw("SELECT COALESCE(MAX(number), 0) + 1 FROM invoices").Scan(&n).Error
}

// Invoice returns one invoice.
func (t Tx) Invoice(number int64) (Invoice, error) { return first[Invoice](t.db, "number = ?", number) }

// InvoiceCancelling returns the counter-invoice of an invoice; ok is false where there is none.
func (t Tx) InvoiceCancelling(number int64) (v Invoice, ok bool, err error) {
	v, err = first[Invoice](t.db, "cancels = ?", number)
	if errors.Is(err, ErrNotFound) {
		return v, false, nil
	}
	return v, err == nil, err
}

// Invoices lists the invoices, the newest first; of one job, or of all for 0.
func (t Tx) Invoices(job int64, most int) ([]Invoice, error) {
	var out []Invoice
	q := t.db.Order("number DESC")
	if job != 0 {
		q = q.Where("job_id = ?", job)
	}
	if most > 0 {
		q = q.Limit(most)
	}
	return out, q.Find(&out).Error
}

// Payments lists the payments of a job, the first first; of all for 0.
func (t Tx) Payments(job int64) ([]Payment, error) {
	var out []Payment
	q := t.db.Order("id")
	if job != 0 {
		q = q.Where("job_id = ?", job)
	}
	return out, q.Find(&out).Error
}

// StrikePayment marks a payment as one that does not count.
func (t Tx) StrikePayment(id int64, at time.Time, by, why string) error {
	return t.db.Model(&Payment{}).
		Where("id = ?", id).
		Updates(map[string]any{"struck_at": at, "struck_by": by, "struck_why": why}).
		Error
}

// AssignPayments gives the payments of a job that belong to no invoice to one.
func (t Tx) AssignPayments(job, invoice int64) error {
	return t.db.Model(&Payment{}).Where("job_id = ? AND invoice IS NULL", job).Update("invoice", gorm.Expr("?", invoice)).Error
}

// HoldsMoney counts what of a job has to be kept: quotes that were shown, invoices, payments.
func (t Tx) HoldsMoney(job int64) (int, error) {
	var n int
	return n, t.db.Raw(`SELECT (SELECT count(*) FROM quotes WHERE job_id = @job
		AND shown_at IS NOT NULL) + (SELECT count(*) FROM invoices
		WHERE job_id = @job) + (SELECT count(*) FROM payments WHERE job_id = @job)`, map[string]any{"job": job}).Scan(&n).Error
}

// QuoteNumbered is the id of a version of a quote, of the newest for "".
func (t Tx) QuoteNumbered(number, version string) (int64, error) {
	q, err := first[Quote](t.db.Select("id").Order("version DESC"), "number = @n AND (@v = '' OR version = @v)",
		map[string]any{"n": number, "v": version})
	return q.ID, err
}
