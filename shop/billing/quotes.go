package billing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/plan"
	"yembo/core/quote"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/store"
)

// Thinking is what a customer says who answers later.
const Thinking = "thinking"

// AnswerWays are how a quote is answered.
var AnswerWays = hw.Vocabulary[string]{
	{Word: "counter", Says: "here, signed on the page"},
	{Word: "paper", Says: "signed on paper"},
	{Word: "phone", Says: "phone, read out"},
	{Word: "link", Says: "by the link"},
}

// QuotePage is a quote with its job, the other versions, and what changed since it was made.
type QuotePage struct {
	jobs.QuoteRecord
	Job      jobs.JobRecord
	Versions []jobs.QuoteRecord
	Since    []string
}

// Quote returns one version of a quote.
func (s *Billing) Quote(ctx context.Context, id int64) (QuotePage, error) {
	var out QuotePage
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.quotePage(tx, id)
		return err
	})
	return out, err
}

func (s *Billing) quotePage(tx store.Tx, id int64) (QuotePage, error) {
	var out QuotePage
	row, err := tx.Quote(id)
	if err != nil {
		return out, err
	}
	if out.Job, err = s.JobIn(tx, row.JobID); err != nil {
		return out, err
	}
	if out.Versions, err = s.QuotesOf(tx, row.JobID); err != nil {
		return out, err
	}
	for _, q := range out.Versions {
		if q.ID == id {
			out.QuoteRecord = q
		}
	}
	out.Since, err = s.changedSince(tx, &out)
	return out, err
}

// changedSince says what a quote rests on that is another by now: prices, parts, the record of the model,
// the machine, the shop's rate. What is on the shelf is told too, as that moves the day.
func (s *Billing) changedSince(tx store.Tx, q *QuotePage) ([]string, error) {
	var out []string
	if q.Answer == jobs.Accepted || q.Answer == jobs.Declined {
		return nil, nil
	}
	how, err := base.SettingsIn(tx)
	if err != nil {
		return nil, err
	}
	model, err := tx.Model(q.Job.Chassis.ID)
	if err != nil {
		return nil, err
	}
	if model.Version != q.Rests.Model {
		out = append(out, "the record of the model")
	}
	if q.Job.MachineVer != q.Rests.Machine {
		out = append(out, "what is known of the machine")
	}
	if how.LabourRate != q.Rests.Rate {
		out = append(out, "what an hour costs")
	}
	if how.TaxPercent != q.Rests.Tax {
		out = append(out, "the tax")
	}
	seen := map[string]bool{}
	for _, a := range q.Doc.Alternatives {
		for _, b := range a.Option.Buy {
			if seen[b.Part] {
				continue
			}
			seen[b.Part] = true
			says, err := partSince(tx, b.Part, b.Quantity, b.Cents, how.Currency, q.Rests.Free[b.Part])
			if err != nil {
				return nil, err
			}
			out = append(out, says...)
		}
	}
	return out, nil
}

// changeQuote changes a quote in one transaction, where it is still the revision that was looked at.
func (s *Billing) changeQuote(ctx context.Context, token string, id int64, revision int,
	change func(tx store.Tx, row *store.Quote, q *QuotePage) (string, error)) (string, error) {
	return s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, err := tx.Quote(id)
		if err != nil {
			return "", err
		}
		if row.Revision != revision {
			return "", base.ErrChanged
		}
		q, err := s.quotePage(tx, id)
		if err != nil {
			return "", err
		}
		return change(tx, &row, &q)
	})
}

// noteQuote tells the job's history of a quote. What people said stands in their talks.
func (s *Billing) noteQuote(tx store.Tx, a base.Actor, q *jobs.QuoteRecord, machine, what string) error {
	return s.NoteEvent(
		tx,
		a,
		base.KindMachine,
		machine,
		base.Event{What: base.Label(q.JobID) + ": quote " + q.Label() + " " + what, Kind: base.EventWork, Job: q.JobID},
		nil,
	)
}

// QuoteEdit is how a quote is worded, and what of it the shop decides.
type QuoteEdit struct {
	Told, Found, Risk  string
	Left               []string
	Names, Data, Ready map[string]string // by letter
	ValidUntil         string
	Discount           int64
	DiscountPercent    hw.Dec // in place of an amount
	Reprice            bool   // today's prices are taken into the version
	DiscountText       string
	OldParts           quote.OldParts
}

const maxQuoteText = 1200

// EditQuote words a quote otherwise. One that was shown stays as it is: the change is its next version,
// whose id is returned. The error is hw.Faults where something cannot be.
func (s *Billing) EditQuote(ctx context.Context, a base.Actor, token string, id int64, revision int, e QuoteEdit) (int64, error) {
	result, err := s.changeQuote(ctx, token, id, revision, func(tx store.Tx, row *store.Quote, q *QuotePage) (string, error) {
		if q.Answer == jobs.Accepted || q.Answer == jobs.Declined {
			return "", hw.Faults{{Text: "it is answered: what is agreed otherwise is a new quote"}}
		}
		how, err := base.SettingsIn(tx)
		if err != nil {
			return "", err
		}
		next := *q.Doc
		next.Alternatives = slices.Clone(q.Doc.Alternatives)
		rests := q.Rests
		if e.Reprice {
			if err := s.reprice(tx, q, &next, &how, &rests); err != nil {
				return "", err
			}
		}
		next.LeastCents = how.Pricing.LeastCents
		if err := e.into(&next, how.TaxPercent, s.Now()); err != nil {
			return "", err
		}
		if row.Rests, err = json.Marshal(rests); err != nil {
			return "", err
		}
		return s.storeQuote(tx, a, row, q, &next)
	})
	return idIn(result), err
}

// reprice takes what parts and an hour cost now into a quote that is made anew, with the shop's own
// lines as they are now. What is done stays what was offered.
func (s *Billing) reprice(tx store.Tx, q *QuotePage, next *quote.Quote, how *base.Settings, rests *jobs.QuoteRests) error {
	parts, err := s.PartsFor(tx, q.Job.Key, q.Job.Machine.ID, q.JobID)
	if err != nil {
		return err
	}
	terms := how.Terms()
	next.RoundTo, next.TaxIn = terms.RoundTo, terms.TaxIn
	for i := range next.Alternatives {
		alt := &next.Alternatives[i]
		o := alt.Option
		o.Buy = slices.Clone(o.Buy)
		o.PartsCents = 0
		for k := range o.Buy {
			b := &o.Buy[k]
			if p := slices.IndexFunc(parts.Parts, func(p hw.Part) bool { return p.ID == b.Part }); p >= 0 {
				b.Cents = parts.Parts[p].PriceCents * int64(b.Quantity)
			}
			o.PartsCents += b.Cents
		}
		o.LabourCents = quote.Relabour(&o, q.Rests.Rate, how.LabourRate)
		o.TotalCents = o.PartsCents + o.LabourCents + o.ServicesCents.Or(0)
		alt.Option, alt.Spared = o, nil
		alt.Lines, err = quote.LinesOf(
			&quote.Input{Plan: plan.Input{Chassis: q.Job.Chassis, Machine: q.Job.Machine, Parts: parts, Request: q.Job.Wish},
				Options: []plan.Option{o}, Terms: terms},
			quote.Ask,
		)
		if err != nil {
			return err
		}
	}
	rests.Rate, rests.Tax = how.LabourRate, how.TaxPercent
	return nil
}

// into words a quote.
func (e *QuoteEdit) into(q *quote.Quote, tax hw.Dec, now time.Time) error {
	var faults hw.Faults
	text := func(at, words string) string {
		words = strings.TrimSpace(words)
		if n := utf8.RuneCountInString(words); n > maxQuoteText {
			faults.Add(at, hw.FaultRange, fmt.Sprintf("a text of %d characters", n), fmt.Sprintf("at most %d", maxQuoteText))
		}
		return words
	}
	q.Told, q.Found, q.Risk = text("/told", e.Told), text("/found", e.Found), text("/risk", e.Risk)
	q.Left = []string{}
	for _, l := range e.Left {
		if l = text("/left", l); l != "" {
			q.Left = append(q.Left, l)
		}
	}
	for i := range q.Alternatives {
		alt := &q.Alternatives[i]
		at := "/" + alt.Letter
		alt.Name, alt.Data, alt.Ready = text(
			at+"/name",
			e.Names[alt.Letter],
		), text(
			at+"/data",
			e.Data[alt.Letter],
		), text(
			at+"/ready",
			e.Ready[alt.Letter],
		)
		if alt.Name == "" {
			faults.Add(at+"/name", hw.FaultMissing, "", "what it is called")
		}
	}
	day, err := time.Parse(time.DateOnly, e.ValidUntil)
	switch {
	case err != nil:
		faults.Add("/valid_until", hw.FaultMissing, "", "until when it is valid")
	case e.ValidUntil < now.Format(time.DateOnly) || day.After(now.AddDate(1, 0, 1)):
		faults.Add("/valid_until", hw.FaultRange, hw.Day(e.ValidUntil), "a day to come, within a year")
	}
	q.ValidUntil = e.ValidUntil
	if quote.OldPartsWays.Index(e.OldParts) < 0 {
		faults.Add("/old_parts", hw.FaultChoice, string(e.OldParts), strings.Join(quote.OldPartsWays.Words(), ", "))
	}
	q.OldParts = e.OldParts
	if e.DiscountPercent < 0 || e.DiscountPercent > hw.DecOf(100) {
		faults.Add("/discount_percent", hw.FaultRange, e.DiscountPercent.String(), "0 to 100 per cent")
	}
	if e.DiscountPercent > 0 && e.Discount > 0 {
		faults.Add("/discount_percent", hw.FaultConflict, "a discount in per cent and an amount", "one of them")
	}
	if e.Discount < 0 || e.Discount > money.Most {
		faults.Add("/discount", hw.FaultRange, hw.Amount(q.Currency, e.Discount), "a smaller amount")
	}
	if err := faults.Err(); err != nil {
		return err
	}
	q.TaxPercent, q.Off = tax, nil
	if e.Discount > 0 || e.DiscountPercent > 0 {
		q.Off = &quote.Off{
			Text:    base.OrWord(text("/discount_text", e.DiscountText), "Discount"),
			Cents:   e.Discount,
			Percent: e.DiscountPercent,
		}
		if e.DiscountPercent > 0 && strings.TrimSpace(e.DiscountText) == "" {
			q.Off.Text = "Discount, " + e.DiscountPercent.String() + " %"
		}
	}
	return q.Settle()
}

// storeQuote stores what a quote says now: in place while nobody saw it, else as the next version. It
// returns the id of the one that says it.
func (s *Billing) storeQuote(tx store.Tx, a base.Actor, row *store.Quote, q *QuotePage, next *quote.Quote) (string, error) {
	into := *row
	if row.ShownAt != nil {
		into = store.Quote{Number: row.Number, JobID: row.JobID, Rests: row.Rests, AnswerDoc: []byte("{}"), At: s.Now(), By: a.Name}
		for _, v := range q.Versions {
			if v.Number == row.Number {
				next.Version = max(next.Version, v.Version+1)
			}
		}
		next.On = s.Now().Format(time.DateOnly)
	}
	var err error
	if into.Doc, err = json.Marshal(next); err != nil {
		return "", err
	}
	into.ValidUntil = next.ValidUntil
	if row.ShownAt == nil {
		into.Revision++
		return fmt.Sprint(row.ID), tx.SaveQuote(&into, into.Revision-1)
	}
	if err := tx.CreateQuote(&into); err != nil {
		return "", err
	}
	return fmt.Sprint(
			into.ID,
		), s.noteQuote(
			tx,
			a,
			&jobs.QuoteRecord{Number: into.Number, Version: into.Version, JobID: row.JobID},
			q.Job.Key,
			"made",
		)
}

func idIn(text string) int64 {
	var id int64
	_, _ = fmt.Sscan(text, &id) // "" is none
	return id
}

var quoteLabelText = regexp.MustCompile(`^Q-0*([1-9][0-9]{0,9})(?:-([1-9][0-9]{0,4}))?$`)

// QuoteOfLabel finds the version of a quote whose label was typed or scanned; the newest where the label
// names none.
func (s *Billing) QuoteOfLabel(ctx context.Context, text string) (id int64, ok bool, err error) {
	m := quoteLabelText.FindStringSubmatch(strings.ToUpper(strings.TrimSpace(text)))
	if m == nil {
		return 0, false, nil
	}
	err = s.Store.View(ctx, func(tx store.Tx) error {
		id, err = tx.QuoteNumbered(m[1], m[2])
		return err
	})
	if errors.Is(err, store.ErrNotFound) {
		return 0, false, nil
	}
	return id, err == nil, err
}
