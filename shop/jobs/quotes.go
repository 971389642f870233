package jobs

import (
	"encoding/json"
	"fmt"
	"time"

	"yembo/core/hw"
	"yembo/core/quote"
	"yembo/store"
)

// Settled is the quote that a job is charged by: what was accepted, else the newest that was
// declined; nil where none was answered.
func (j *JobRecord) Settled() *QuoteRecord {
	if q := j.Agreed(); q != nil {
		return q
	}
	for i := range j.Quotes {
		if j.Quotes[i].Answer == Declined {
			return &j.Quotes[i]
		}
	}
	return nil
}

// QuoteRecord is one version of a quote, with what became of it.
type QuoteRecord struct {
	ID, Number, JobID int64
	Version, Revision int
	Doc               *quote.Quote
	At                time.Time
	By                string
	Shown             time.Time // zero while nobody saw it, and it can be changed
	ShownHow          string
	Answer            string // accepted, declined, thinking, "" for none yet
	Given             QuoteAnswer
	Answered          time.Time
	AskOn             string
	Linked            bool // a link leads to it
	Newest            bool // of its number
	Over              bool // its time is over
	Rests             QuoteRests
}

// QuoteRests is what a quote rests on.
type QuoteRests struct {
	Model   int    `json:"model"`
	Machine int    `json:"machine"`
	Rate    int64  `json:"rate"`
	Tax     hw.Dec `json:"tax"`
	// Free is how many of each part were free on the shelf.
	Free map[string]int `json:"free,omitempty"`
}

// What ends a quote. A customer may think it over before.
const (
	Accepted = "accepted"
	Declined = "declined"
)

// QuoteAnswer is what a customer said to a quote, and how.
type QuoteAnswer struct {
	Verdict   string       `json:"verdict"`
	Letter    string       `json:"letter,omitempty"`
	How       string       `json:"how"` // counter, paper, phone, link
	Who       string       `json:"who"`
	Said      string       `json:"said,omitempty"`
	Consents  []hw.Consent `json:"consents,omitempty"`
	AskOn     string       `json:"ask_on,omitempty"`
	Signature string       `json:"signature,omitempty"` // as strokes
	// What becomes of the parts that come out, where the quote asks it; Ask or "" for not said.
	OldParts quote.OldParts `json:"old_parts,omitempty"`
}

// QuoteLabel is a quote's number with its version as it stands on paper: "Q-0031-2".
func QuoteLabel(number int64, version int) string { return fmt.Sprintf("Q-%04d-%d", number, version) }

// Label is the quote's number with its version.
func (q *QuoteRecord) Label() string { return QuoteLabel(q.Number, q.Version) }

func (s *Jobs) quoteRecord(row *store.Quote, newest int) (QuoteRecord, error) {
	out := QuoteRecord{
		ID:       row.ID,
		Number:   row.Number,
		JobID:    row.JobID,
		Version:  row.Version,
		Revision: row.Revision,
		At:       row.At,
		By:       row.By,
		ShownHow: row.ShownHow,
		Answer:   row.Answer,
		AskOn:    row.AskOn,
		Linked:   row.KeyHash != "",
		Newest:   row.Version == newest,
		Doc:      &quote.Quote{},
	}
	if row.ShownAt != nil {
		out.Shown = *row.ShownAt
	}
	if row.AnsweredAt != nil {
		out.Answered = *row.AnsweredAt
	}
	out.Over = row.ValidUntil < s.Now().Format(time.DateOnly)
	for _, x := range []struct {
		raw  []byte
		into any
	}{{row.Doc, out.Doc}, {row.Rests, &out.Rests}, {row.AnswerDoc, &out.Given}} {
		if err := json.Unmarshal(x.raw, x.into); err != nil {
			return out, fmt.Errorf("the quote %s: %w", out.Label(), err)
		}
	}
	return out, nil
}

// QuotesOf lists the quotes of a job, the newest first.
func (s *Jobs) QuotesOf(tx store.Tx, job int64) ([]QuoteRecord, error) {
	rows, err := tx.QuotesOf(job)
	if err != nil {
		return nil, err
	}
	newest := map[int64]int{}
	for i := range rows {
		newest[rows[i].Number] = max(newest[rows[i].Number], rows[i].Version)
	}
	out := make([]QuoteRecord, len(rows))
	for i := range rows {
		if out[i], err = s.quoteRecord(&rows[i], newest[rows[i].Number]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// AgreedQuote is the quote that a job's work and bill follow: the newest version that was accepted,
// whatever was offered after it; nil where none was.
func AgreedQuote(quotes []QuoteRecord) *QuoteRecord {
	for i := range quotes { // the newest stands first
		if q := &quotes[i]; q.Answer == Accepted && q.Doc.Alternative(q.Given.Letter) != nil {
			return q
		}
	}
	return nil
}

// Agreed is the quote that the job's work and bill follow, nil where none was accepted.
func (j *JobRecord) Agreed() *QuoteRecord { return AgreedQuote(j.Quotes) }

// SignatureUnder is the signature that stands under a version of a quote, nil for none.
func (j *JobRecord) SignatureUnder(q *QuoteRecord) *Signature {
	return j.Details.SignatureUnder(q)
}

// SignatureUnder is what JobRecord.SignatureUnder says, of a job's details.
func (d *Details) SignatureUnder(q *QuoteRecord) *Signature {
	for i := range d.Resigned {
		if d.Resigned[i].Of == q.Label() {
			return &d.Resigned[i]
		}
	}
	if q.Given.Signature == "" {
		return nil
	}
	for i := range d.Struck {
		if d.Struck[i].Of == q.Label() && d.Struck[i].Path == q.Given.Signature {
			return nil
		}
	}
	return &Signature{Path: q.Given.Signature, Name: q.Given.Who, At: q.Answered, Of: q.Label()}
}
