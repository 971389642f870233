package shop_test

import (
	"errors"
	"strings"
	"sync"
	"testing"
	"time"

	"yembo/shop"

	"yembo/core/hw"
	"yembo/core/quote"
	"yembo/shop/base"
	"yembo/shop/billing"
	"yembo/shop/jobs"
	"yembo/store"
)

// offered makes a quote of the first options of a machine's plan, in a shop that charges for looking.
func offered(t *testing.T, s *shop.Shop, machine string, n int) billing.QuotePage {
	t.Helper()
	ctx := t.Context()
	was, err := s.Settings(ctx)
	if err != nil {
		t.Fatal(err)
	}
	next := was
	next.TaxPercent = hw.DecOf(20)
	next.Pricing = base.Pricing{DeclinedCents: 1200, Fixed: []quote.FixedLine{{Text: "Intake and test", Cents: 1200,
		When: quote.Always}}}
	if err := s.SaveSettings(ctx, okell, was, next); err != nil {
		t.Fatal(err)
	}
	p, err := s.Plan(ctx, machine, jobs.PlanQuery{})
	if err != nil {
		t.Fatal(err)
	}
	var prints []string
	for i := range p.Plan.Options {
		if len(p.Plan.Options[i].Missing) == 0 && len(prints) < n {
			prints = append(prints, jobs.Fingerprint(p.Plan.Options[i]))
		}
	}
	id, err := s.Offer(ctx, okell, "offer", machine, prints, jobs.PlanQuery{})
	if err != nil {
		t.Fatal(err)
	}
	return quoteOf(t, s, id)
}

func quoteOf(t *testing.T, s *shop.Shop, id int64) billing.QuotePage {
	t.Helper()
	q, err := s.Quote(t.Context(), id)
	if err != nil {
		t.Fatal(err)
	}
	return q
}

func editOf(q *billing.QuotePage) billing.QuoteEdit {
	e := billing.QuoteEdit{
		Told:       q.Doc.Told,
		Found:      q.Doc.Found,
		Risk:       q.Doc.Risk,
		Left:       q.Doc.Left,
		ValidUntil: q.Doc.ValidUntil,
		OldParts:   q.Doc.OldParts,
		Names:      map[string]string{},
		Data:       map[string]string{},
		Ready:      map[string]string{},
	}
	for _, a := range q.Doc.Alternatives {
		e.Names[a.Letter], e.Data[a.Letter], e.Ready[a.Letter] = a.Name, a.Data, a.Ready
	}
	return e
}

// yes accepts alternative A with every consent that it asks for.
func yes(q *billing.QuotePage) jobs.QuoteAnswer {
	return jobs.QuoteAnswer{
		Verdict:  jobs.Accepted,
		Letter:   "A",
		How:      "phone",
		Who:      "J. Farrow",
		Consents: q.Doc.Alternatives[0].Option.Consents,
	}
}

// TestQuote: from options to an accepted quote; what was shown stays as it is, accepting does what it said
// it would, in one go and once.
func TestQuote(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	q := offered(t, s, "tarn-vet-04", 2)
	if len(q.Doc.Alternatives) != 2 || q.Label() != "Q-0001-1" || q.Doc.Customer.Name == "" || q.Doc.Alternatives[0].Sum.Total == 0 {
		t.Fatalf("%s: %+v", q.Label(), q.Doc)
	}
	e := editOf(&q)
	e.Told, e.Discount, e.DiscountText = "It is slow in the morning.", 500, "for waiting"
	id, err := s.EditQuote(ctx, okell, "e1", q.ID, q.Revision, e)
	if err != nil || id != q.ID {
		t.Fatalf("a quote that nobody saw is changed as %d, not %d: %v", id, q.ID, err)
	}
	before := q.Doc.Alternatives[0].Sum.Total
	q = quoteOf(t, s, id)
	if q.Doc.Told != e.Told || q.Doc.Alternatives[0].Sum.Total != before-600 {
		t.Errorf("told %q, %d after %d", q.Doc.Told, q.Doc.Alternatives[0].Sum.Total, before)
	}
	var faults hw.Faults
	e.Discount = 1 << 40
	if _, err := s.EditQuote(ctx, okell, "e2", q.ID, q.Revision, e); !errors.As(err, &faults) {
		t.Errorf("a discount above the sum: %v", err)
	}
	for range 2 {
		if err := s.ShowQuote(ctx, okell, "show", q.ID, q.Revision, "printed"); err != nil {
			t.Fatal(err)
		}
	}
	q = quoteOf(t, s, q.ID)
	if q.Shown.IsZero() || q.Job.State.Waits != jobs.WaitsCustomer || !strings.Contains(q.Job.State.For, "Q-0001-1") {
		t.Fatalf("shown %v, the job %+v", q.Shown, q.Job.State)
	}
	e.Discount, e.Told = 0, "It is slow."
	id, err = s.EditQuote(ctx, okell, "e3", q.ID, q.Revision, e)
	if err != nil || id == q.ID {
		t.Fatalf("a quote that was shown is changed: %d %v", id, err)
	}
	if old := quoteOf(t, s, q.ID); old.Doc.Told != "It is slow in the morning." || old.Newest {
		t.Errorf("the version that was shown says %q", old.Doc.Told)
	}
	if err := s.AnswerQuote(ctx, okell, "old", q.ID, quoteOf(t, s, q.ID).Revision, yes(&q)); !errors.As(err, &faults) ||
		!strings.Contains(err.Error(), "newer version") {
		t.Errorf("an old version is accepted: %v", err)
	}
	q = quoteOf(t, s, id)
	will, err := s.LookAtAcceptance(ctx, q.ID)
	if err != nil || len(will) != 2 || len(will[0].Against) > 0 ||
		!strings.Contains(strings.Join(will[0].Does, "; "), "freezes version 2") {
		t.Fatalf("%+v %v", will, err)
	}
	no := yes(&q)
	no.Who, no.Consents = "", nil
	if err := s.AnswerQuote(ctx, okell, "no", q.ID, q.Revision, no); !errors.As(err, &faults) {
		t.Errorf("nobody said it: %v", err)
	}
	// Two at two screens accept at once: one of them does, the other is told.
	var wg sync.WaitGroup
	errs := make([]error, 8)
	for i := range errs {
		wg.Add(1)
		go func() {
			defer wg.Done()
			errs[i] = s.AnswerQuote(ctx, okell, "yes"+string(rune('a'+i)), q.ID, q.Revision, yes(&q))
		}()
	}
	wg.Wait()
	done := 0
	for _, err := range errs {
		if err == nil {
			done++
		} else if !errors.Is(err, base.ErrChanged) && !errors.As(err, &faults) {
			t.Error(err)
		}
	}
	if done != 1 {
		t.Errorf("accepted %d times", done)
	}
	q = quoteOf(t, s, q.ID)
	j := q.Job
	if q.Answer != jobs.Accepted || j.Choice == nil ||
		jobs.Fingerprint(j.Choice.Option) != jobs.Fingerprint(q.Doc.Alternatives[0].Option) ||
		len(
			j.OpenConsents(),
		) > 0 || j.Promised.IsZero() || len(j.Contacts) == 0 || !strings.Contains(j.Contacts[0].Agreed, "Q-0001-2") {
		t.Errorf(
			"%s; choice %v, consents open %v, promised %v, talks %+v",
			q.Answer,
			j.Choice != nil,
			j.OpenConsents(),
			j.Promised,
			j.Contacts,
		)
	}
	agreed := false
	for _, st := range j.Trail.Stations {
		agreed = agreed || st.ID == jobs.StationAgreed && !st.At.IsZero()
	}
	if !agreed {
		t.Error("the trail does not pass the station of the agreement")
	}
}

// TestAgreedHolds: once a quote is accepted, work and bill follow it, whatever is pressed, offered or
// declined after it, until another version is accepted.
func TestAgreedHolds(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	q := offered(t, s, "tarn-vet-04", 2)
	if err := s.AnswerQuote(ctx, okell, "", q.ID, q.Revision, yes(&q)); err != nil {
		t.Fatal(err)
	}
	accepted, other := q.Doc.Alternatives[0], jobs.Fingerprint(q.Doc.Alternatives[1].Option)
	holds := func(when string, want quote.Alternative) {
		t.Helper()
		b, err := s.Bill(ctx, q.JobID)
		if err != nil {
			t.Fatal(err)
		}
		if b.Sum.Total != want.Sum.Total || b.Job.Choice == nil ||
			jobs.Fingerprint(b.Job.Choice.Option) != jobs.Fingerprint(want.Option) ||
			b.Job.State.Waits == jobs.WaitsCustomer || !b.Job.Closed.IsZero() {
			t.Errorf(
				"%s: the bill is %d, not %d; the job %+v, chosen %v",
				when,
				b.Sum.Total,
				want.Sum.Total,
				b.Job.State,
				b.Job.Choice != nil,
			)
		}
	}
	holds("accepted", accepted)
	// The signature under a quote is the quote's, and no other text's; it is struck and given anew.
	if j := mustJob(t, s, q.JobID); j.Details.Signature != nil {
		t.Error("accepting the quote signed the intake sheet")
	}
	label := q.Label()
	if err := s.Sign(ctx, okell, "", q.JobID, label, "M1 1 L2 2", "J. Farrow"); err != nil {
		t.Fatal(err)
	}
	if err := s.StrikeSignature(ctx, okell, "", q.JobID, label, "the neighbour's"); err != nil {
		t.Fatal(err)
	}
	if err := s.Sign(ctx, okell, "", q.JobID, label, "M3 3 L2 2", "J. Farrow"); err != nil {
		t.Fatal(err)
	}
	if q = quoteOf(t, s, q.ID); q.Job.SignatureUnder(&q.QuoteRecord).Path != "M3 3 L2 2" || len(q.Job.Details.Struck) != 1 {
		t.Errorf("under the quote stands %+v", q.Job.SignatureUnder(&q.QuoteRecord))
	}
	var agreed jobs.Agreed
	if _, err := s.Choose(ctx, okell, "", "tarn-vet-04", other, "", jobs.PlanQuery{}); !errors.As(err, &agreed) ||
		agreed.Quote.ID != q.ID {
		t.Fatalf("another option is chosen beside the accepted one: %v", err)
	}
	if err := setSettings(ctx, s, func(x *base.Settings) { x.Pricing.RoundTo = 500 }); err != nil {
		t.Fatal(err)
	}
	holds("chosen otherwise, and cash rounded since", accepted)
	for round, verdict := range []string{billing.Thinking, jobs.Declined, jobs.Accepted} {
		id, err := s.Offer(ctx, okell, "", "tarn-vet-04", []string{other}, jobs.PlanQuery{})
		if err != nil {
			t.Fatal(err)
		}
		next := quoteOf(t, s, id)
		if next.Number != q.Number {
			t.Errorf("round %d: it is quote %s, no version of what was accepted", round, next.Label())
		}
		if err := s.ShowQuote(ctx, okell, "", id, next.Revision, "printed"); err != nil {
			t.Fatal(err)
		}
		holds("version "+next.Label()+" shown", accepted)
		next = quoteOf(t, s, id)
		ans := yes(&next)
		ans.Verdict, ans.AskOn = verdict, "2026-05-20"
		if err := s.AnswerQuote(ctx, okell, "", id, next.Revision, ans); err != nil {
			t.Fatal(err)
		}
		want := accepted
		if verdict == jobs.Accepted {
			want = next.Doc.Alternatives[0]
		}
		holds(verdict, want)
	}
}

// TestOvertakenChoice: a choice that was pressed on a page older than another choice is told of it.
func TestOvertakenChoice(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	p, err := s.Plan(ctx, "tarn-vet-04", jobs.PlanQuery{})
	if err != nil {
		t.Fatal(err)
	}
	seen := p.Record.ChoiceMark()
	if _, err := s.Choose(ctx, okell, "", "tarn-vet-04", jobs.Fingerprint(p.Plan.Options[0]), seen, jobs.PlanQuery{}); err != nil {
		t.Fatal(err)
	}
	var overtaken jobs.Overtaken
	if _, err := s.Choose(ctx, ansty, "", "tarn-vet-04", jobs.Fingerprint(p.Plan.Options[1]), seen, jobs.PlanQuery{}); !errors.As(
		err,
		&overtaken,
	) ||
		overtaken.By != okell.Name {
		t.Errorf("the second choice of one page: %v", err)
	}
}

// TestQuoteOtherwise: declined, thought over, too late, and with a part gone.
func TestQuoteOtherwise(t *testing.T) {
	ctx := t.Context()
	var faults hw.Faults
	t.Run("declined", func(t *testing.T) {
		s := workshop(t)
		q := offered(t, s, "tarn-vet-03", 1)
		ans := jobs.QuoteAnswer{Verdict: jobs.Declined, How: "counter", Who: "J. Farrow"}
		if err := s.AnswerQuote(ctx, okell, "1", q.ID, q.Revision, ans); err != nil {
			t.Fatal(err)
		}
		if q = quoteOf(t, s, q.ID); q.Answer != jobs.Declined || !q.Job.Closed.IsZero() || q.Job.Choice != nil ||
			q.Doc.DeclinedSum.Total != 1440 {
			t.Errorf("%s, closed %v, %+v", q.Answer, q.Job.Closed, q.Doc.DeclinedSum)
		}
		if row := jobOfMachine(t, s, "tarn-vet-03"); row.Class != jobs.ClassDone || !strings.HasPrefix(row.Next, "Hand it back") {
			t.Errorf("the machine is still here, and its job says %q", row.Next)
		}
	})
	t.Run("thought over", func(t *testing.T) {
		s := workshop(t)
		q := offered(t, s, "tarn-vet-03", 1)
		ans := jobs.QuoteAnswer{Verdict: billing.Thinking, How: "phone", Who: "J. Farrow"}
		if err := s.AnswerQuote(ctx, okell, "1", q.ID, q.Revision, ans); !errors.As(err, &faults) || faults[0].Pointer != "/ask_on" {
			t.Errorf("without a day: %v", err)
		}
		ans.AskOn = "2026-05-18"
		if err := s.AnswerQuote(ctx, okell, "2", q.ID, q.Revision, ans); err != nil {
			t.Fatal(err)
		}
		q = quoteOf(t, s, q.ID)
		if q.Answer != billing.Thinking || q.Job.State.Waits != jobs.WaitsCustomer || q.Job.State.Due != "2026-05-18" {
			t.Errorf("%s, %+v", q.Answer, q.Job.State)
		}
		if err := s.AnswerQuote(ctx, okell, "3", q.ID, q.Revision, yes(&q)); err != nil {
			t.Errorf("afterwards it is accepted: %v", err)
		}
	})
	t.Run("too late", func(t *testing.T) {
		s := workshop(t)
		q := offered(t, s, "tarn-vet-03", 1)
		s.Clock = func() time.Time { return morning.AddDate(0, 0, 15) }
		if err := s.AnswerQuote(ctx, okell, "1", q.ID, q.Revision, yes(&q)); !errors.As(err, &faults) ||
			!strings.Contains(err.Error(), "valid until") {
			t.Errorf("%v", err)
		}
	})
	t.Run("a part gone", func(t *testing.T) {
		s := workshop(t)
		q := offered(t, s, "tarn-vet-03", 1)
		part := q.Doc.Alternatives[0].Option.Buy[0].Part
		err := s.Store.Update(ctx, func(tx store.Tx) error {
			row, err := tx.Part(part)
			if err != nil {
				return err
			}
			row.RetiredAt = &morning
			row.Version++
			return tx.SavePart(&row, row.Version-1)
		})
		if err != nil {
			t.Fatal(err)
		}
		q = quoteOf(t, s, q.ID)
		if !strings.Contains(strings.Join(q.Since, "; "), "is no longer kept") {
			t.Errorf("since then: %v", q.Since)
		}
		if err := s.AnswerQuote(ctx, okell, "1", q.ID, q.Revision, yes(&q)); !errors.As(err, &faults) ||
			faults[0].Pointer != "/letter" {
			t.Errorf("%v", err)
		}
		if q = quoteOf(t, s, q.ID); q.Answer != "" || !q.Shown.IsZero() || q.Job.Choice != nil {
			t.Errorf("half of it is done: %s %v", q.Answer, q.Shown)
		}
	})
}

// TestQuoteLink: a link leads to its quote alone, until it is taken back, answered or over; its key stands
// nowhere.
func TestQuoteLink(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	q := offered(t, s, "tarn-vet-03", 1)
	key, err := s.LinkQuote(ctx, okell, q.ID, q.Revision)
	if err != nil || len(key) < 26 {
		t.Fatalf("%q %v", key, err)
	}
	if _, err := s.QuoteByLink(ctx, key[:len(key)-1]+"A"); !errors.Is(err, base.ErrNotFound) && key[len(key)-1] != 'A' {
		t.Errorf("another key: %v", err)
	}
	if _, err := s.QuoteByLink(ctx, ""); !errors.Is(err, base.ErrNotFound) {
		t.Errorf("no key: %v", err)
	}
	got, err := s.QuoteByLink(ctx, key)
	if err != nil || got.Label != "Q-0001-1" || got.Over {
		t.Fatalf("%+v %v", got, err)
	}
	q = quoteOf(t, s, q.ID)
	if err := s.UnlinkQuote(ctx, okell, "u", q.ID, q.Revision); err != nil {
		t.Fatal(err)
	}
	if _, err := s.QuoteByLink(ctx, key); !errors.Is(err, base.ErrNotFound) {
		t.Errorf("taken back: %v", err)
	}
	q = quoteOf(t, s, q.ID)
	if key, err = s.LinkQuote(ctx, okell, q.ID, q.Revision); err != nil {
		t.Fatal(err)
	}
	if err := s.AnswerByLink(ctx, "a", key, yes(&q)); err != nil {
		t.Fatal(err)
	}
	if q = quoteOf(t, s, q.ID); q.Answer != jobs.Accepted || q.Given.How != "link" || q.Linked {
		t.Errorf("%s by %s, linked %v", q.Answer, q.Given.How, q.Linked)
	}
	if err := s.AnswerByLink(ctx, "b", key, yes(&q)); !errors.Is(err, base.ErrNotFound) {
		t.Errorf("answered twice: %v", err)
	}
}
