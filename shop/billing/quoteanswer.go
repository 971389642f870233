package billing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/quote"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/store"
)

// Acceptance is what accepting one alternative does, told before it is done.
type Acceptance struct {
	Letter  string
	Does    []string
	Against []string  // what stands against it now
	Promise time.Time // that is made with it
}

// LookAtAcceptance tells what accepting each alternative of a quote does.
func (s *Billing) LookAtAcceptance(ctx context.Context, id int64) ([]Acceptance, error) {
	var out []Acceptance
	err := s.Store.View(ctx, func(tx store.Tx) error {
		q, err := s.quotePage(tx, id)
		if err != nil {
			return err
		}
		for i := range q.Doc.Alternatives {
			a, err := s.acceptance(tx, &q, &q.Doc.Alternatives[i])
			if err != nil {
				return err
			}
			out = append(out, a)
		}
		return nil
	})
	return out, err
}

func (s *Billing) acceptance(tx store.Tx, q *QuotePage, a *quote.Alternative) (Acceptance, error) {
	out := Acceptance{Letter: a.Letter, Against: answerable(q)}
	out.Does = append(out.Does, fmt.Sprintf("freezes version %d with its prices", q.Version))
	holds, err := tx.HoldsOf(q.JobID)
	if err != nil {
		return out, err
	}
	lacks := 0
	for _, b := range a.Option.Buy {
		row, err := tx.Part(b.Part)
		if errors.Is(err, store.ErrNotFound) || err == nil && row.RetiredAt != nil {
			out.Against = append(out.Against, b.Part+" is no longer kept: make the next version")
			continue
		}
		if err != nil {
			return out, err
		}
		stock, err := tx.Stock(b.Part)
		if err != nil {
			return out, err
		}
		free := max(stock.Shelf-stock.Held, 0)
		for _, h := range holds {
			if h.PartID == b.Part {
				free += h.N // kept for this job already
			}
		}
		if row.Uncounted || row.MachineID != nil {
			free = b.Quantity
		}
		switch {
		case free >= b.Quantity:
			out.Does = append(out.Does, fmt.Sprintf("reserves %d × %s: %d free now", b.Quantity, row.Name, free))
		default:
			lacks++
			words := fmt.Sprintf("puts %d × %s on the order list", b.Quantity-free, row.Name)
			if free > 0 {
				words = fmt.Sprintf("reserves %d × %s and %s", free, row.Name, words)
			}
			out.Does = append(out.Does, words)
		}
	}
	to := "ready to go on"
	if lacks > 0 {
		to = "waiting for parts"
	}
	rows, err := s.BenchRows(tx)
	if err != nil {
		return out, err
	}
	c, err := s.CalendarIn(tx)
	if err != nil {
		return out, err
	}
	offered, err := jobs.PlaceFor(rows, &c, &q.Job.MachineRecord, &a.Option, a.Option.ReadyInDays)
	if err != nil {
		return out, err
	}
	moves := fmt.Sprintf("moves %s to %s", base.Label(q.JobID), to)
	switch {
	case !q.Job.Promised.IsZero():
		out.Promise = q.Job.Promised
		moves += fmt.Sprintf("; promised for %s, as before", base.TimeWords(out.Promise))
		if offered.Honest.After(out.Promise) {
			moves += fmt.Sprintf(", which cannot be kept: %s could be", base.TimeWords(offered.Honest))
		}
	case offered.Why == "":
		out.Promise = offered.Honest
		moves += ", promised for " + base.TimeWords(out.Promise)
	default:
		moves += "; nothing is promised: " + offered.Why
	}
	out.Does = append(out.Does, moves)
	return out, nil
}

// answerable lists why a quote cannot be answered for good.
func answerable(q *QuotePage) []string {
	var out []string
	switch {
	case q.Answer == jobs.Accepted || q.Answer == jobs.Declined:
		out = append(out, "it is answered: "+q.Answer)
	case !q.Newest:
		out = append(out, "there is a newer version of it")
	case q.Over:
		out = append(out, "it was valid until "+hw.Day(q.Doc.ValidUntil)+": make the next version")
	}
	if !q.Job.Closed.IsZero() {
		out = append(out, "its job is closed")
	}
	if q.Job.State.Danger != "" {
		out = append(out, "the machine is to be made safe first: "+q.Job.State.Danger)
	}
	return out
}

// AnswerQuote notes what a customer said to a quote, and does what that means, all of it or nothing:
// accepted, the quote is frozen, the alternative chosen with its prices, its parts kept or on the order
// list, the consents given, the job moved and promised; declined, the parts are let go and the job
// closed; thought over, they are asked again on a day. The error is hw.Faults where it cannot be.
func (s *Billing) AnswerQuote(ctx context.Context, a base.Actor, token string, id int64, revision int,
	ans jobs.QuoteAnswer) error {
	_, err := s.changeQuote(ctx, token, id, revision, func(tx store.Tx, row *store.Quote, q *QuotePage) (string, error) {
		if err := checkAnswer(&ans, q, s.Now()); err != nil {
			return "", err
		}
		if err := s.freeze(tx, a, row, q, base.OrWord(ans.How, "counter")); err != nil {
			return "", err
		}
		now := s.Now()
		row.Answer, row.AskOn = ans.Verdict, ans.AskOn
		if ans.Verdict != Thinking {
			row.AnsweredAt, row.KeyHash = &now, "" // nobody can answer it again
		}
		var err error
		if row.AnswerDoc, err = json.Marshal(ans); err != nil {
			return "", err
		}
		if err := tx.MarkQuote(row, row.Revision); err != nil {
			return "", err
		}
		return fmt.Sprint(id), s.carryOut(tx, a, q, &ans)
	})
	return err
}

// checkAnswer lists what is wrong with an answer.
func checkAnswer(ans *jobs.QuoteAnswer, q *QuotePage, now time.Time) error {
	var faults hw.Faults
	for _, why := range answerable(q) {
		faults = append(faults, hw.Fault{Pointer: "/verdict", Text: why})
	}
	alt := q.Doc.Alternative(ans.Letter)
	switch ans.Verdict {
	case jobs.Accepted:
		if alt == nil {
			faults = append(faults, hw.Fault{Pointer: "/letter", Text: "say which one, or neither"})
			break
		}
		for _, code := range alt.Option.Consents {
			if !slices.Contains(ans.Consents, code) && !slices.Contains(q.Job.Details.Consents, code) {
				faults = append(faults, hw.Fault{Pointer: "/consents", Text: "not said yes to: " + code.Row().Says})
			}
		}
	case jobs.Declined:
	case Thinking:
		if ans.AskOn == "" || ans.AskOn < now.Format(time.DateOnly) {
			faults.Add("/ask_on", hw.FaultMissing, "", "the day on which they are asked again")
		}
	default:
		faults.Add("/verdict", hw.FaultChoice, strconv.Quote(ans.Verdict), "accepted, declined, thinking")
	}
	if strings.TrimSpace(ans.Who) == "" {
		faults.Add("/who", hw.FaultMissing, "", "who said it")
	}
	if AnswerWays.Index(ans.How) < 0 {
		faults.Add("/how", hw.FaultChoice, strconv.Quote(ans.How), strings.Join(AnswerWays.Words(), ", "))
	}
	if utf8.RuneCountInString(ans.Who+ans.Said) > base.MaxText {
		faults.Add("/said", hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))
	}
	if ans.OldParts != "" && quote.OldPartsWays.Index(ans.OldParts) < 0 {
		faults.Add("/old_parts", hw.FaultChoice, strconv.Quote(string(ans.OldParts)), strings.Join(quote.OldPartsWays.Words(), ", "))
	}
	for _, code := range ans.Consents {
		if !jobs.IsConsent(code) {
			faults.Add("/consents", hw.FaultChoice, strconv.Quote(string(code)), "a consent of the list")
		}
	}
	if ans.Signature != "" && (len(ans.Signature) > MaxSignature || !SignaturePath.MatchString(ans.Signature)) {
		faults.Add("/signature", hw.FaultType, "the signature", "what is drawn on the page")
	}
	return faults.Err()
}

// carryOut does what an answer means for the job.
func (s *Billing) carryOut(tx store.Tx, a base.Actor, q *QuotePage, ans *jobs.QuoteAnswer) error {
	job, err := tx.Job(q.JobID)
	if err != nil {
		return err
	}
	var d jobs.Details
	var st jobs.State
	if err := errors.Join(json.Unmarshal(job.Details, &d), json.Unmarshal(job.State, &st)); err != nil {
		return err
	}
	if st.Proven != nil && ans.Verdict == jobs.Accepted {
		return hw.Faults{{Pointer: "/verdict", Text: jobs.AlreadyProven}}
	}
	now := s.Now()
	talk := store.Contact{JobID: job.ID, At: now, By: a.Name, Who: ans.Who, How: contactWay(ans.How), Said: ans.Said}
	told := base.Event{Kind: base.EventTalk}
	switch ans.Verdict {
	case jobs.Accepted:
		course, err := s.accept(tx, a, q, ans, &job, &d, &st)
		if err != nil {
			return err
		}
		alt, err := q.Doc.Charged(ans.Letter, ans.OldParts)
		if err != nil {
			return err
		}
		talk.Agreed = fmt.Sprintf("quote %s, %s: %s, %s", q.Label(), alt.Letter, alt.Name, hw.Money(q.Doc.Currency, alt.Sum.Total))
		if ans.OldParts != "" && ans.OldParts != quote.Ask {
			talk.Agreed += "; old parts: " + hw.LowerFirst(quote.OldPartsWays.Says(ans.OldParts))
		}
		told.What, told.Data = "quote "+q.Label()+" accepted: "+alt.Letter+", "+hw.Money(q.Doc.Currency, alt.Sum.Total), course.Data()
	case jobs.Declined:
		talk.Said = strings.TrimSpace("quote " + q.Label() + " declined. " + ans.Said)
		told.What = "quote " + q.Label() + " declined"
		if agreed := q.Job.Agreed(); agreed != nil {
			told.What += "; " + agreed.Label() + " stays as it was accepted"
			break
		}
		if err := s.LetGo(tx, a, job.ID); err != nil {
			return err
		}
		// The machine is still here: the job is closed when it is handed back.
		job.Choice, job.ChosenAt, job.ChosenBy = nil, nil, ""
		st.Become(jobs.State{Declined: &now})
		told.Data = jobs.Course{To: jobs.MoveReady}.Data()
	case Thinking:
		talk.Said = strings.TrimSpace("think quote " + q.Label() + " over. " + ans.Said)
		told.What = "quote " + q.Label() + " is thought over"
		if agreed := q.Job.Agreed(); agreed != nil {
			told.What += "; " + agreed.Label() + " stays as it was accepted"
			break
		}
		st.Become(
			jobs.State{
				Waits: jobs.WaitsCustomer,
				For:   "the answer to quote " + q.Label() + ", asked again on " + hw.Day(ans.AskOn),
				Due:   base.Due(ans.AskOn),
				Quote: q.ID,
				Since: now,
			},
		)
		told.Data = jobs.Course{To: jobs.WaitsCustomer}.Data()
	}
	if err := tx.Create(&talk); err != nil {
		return err
	}
	var errD, errS error
	job.Details, errD = json.Marshal(d)
	job.State, errS = json.Marshal(st)
	if err := errors.Join(errD, errS); err != nil {
		return err
	}
	job.UpdatedAt = now
	job.Version++
	if err := tx.SaveJob(&job, job.Version-1); err != nil {
		return err
	}
	told.What, told.Job = base.Label(job.ID)+": "+told.What, job.ID
	return s.NoteEvent(tx, a, base.KindMachine, job.MachineID, told, nil)
}

// contactWay is how a talk was held that brought an answer.
func contactWay(how string) string {
	switch how {
	case "phone":
		return "phone"
	case "link":
		return "message"
	}
	return "counter"
}

// accept chooses what was accepted, with the prices of the quote.
func (s *Billing) accept(
	tx store.Tx,
	a base.Actor,
	q *QuotePage,
	ans *jobs.QuoteAnswer,
	job *store.Job,
	d *jobs.Details,
	st *jobs.State,
) (jobs.Course, error) {
	told := jobs.Course{Agreed: true}
	alt := q.Doc.Alternative(ans.Letter)
	will, err := s.acceptance(tx, q, alt)
	if err != nil {
		return told, err
	}
	// The quote is frozen by now, which stands against nothing; a part that is gone does.
	for _, why := range will.Against {
		return told, hw.Faults{{Pointer: "/letter", Text: why}}
	}
	how, err := base.SettingsIn(tx)
	if err != nil {
		return told, err
	}
	parts, err := s.PartsFor(tx, q.Job.Key, q.Job.Machine.ID, job.ID)
	if err != nil {
		return told, err
	}
	if job.Choice, err = json.Marshal(base.Choice{Option: alt.Option, Practice: how.Practice, Currency: q.Doc.Currency,
		Words: alt.Option.Words(q.Job.Chassis, parts.Names())}); err != nil {
		return told, err
	}
	now := s.Now()
	job.ChosenAt, job.ChosenBy = &now, a.Name
	for _, code := range ans.Consents {
		if slices.Contains(alt.Option.Consents, code) && !slices.Contains(d.Consents, code) {
			d.Consents = append(d.Consents, code)
			told.Consents = append(told.Consents, code)
		}
	}
	if job.PromisedAt == nil && !will.Promise.IsZero() {
		job.PromisedAt = &will.Promise
	}
	if err := s.Reserve(tx, a, job.ID, alt.Option.Buy); err != nil {
		return told, err
	}
	missing, err := missingOf(tx, job.ID, alt.Option.Buy)
	if err != nil {
		return told, err
	}
	told.To = jobs.MoveReady
	st.Become(jobs.State{Since: now})
	if len(missing) > 0 {
		told.To = jobs.WaitsParts
		st.Become(jobs.State{Waits: jobs.WaitsParts, For: strings.Join(missing, ", "), Since: now})
	}
	return told, nil
}

// missingOf names what of a purchase is not kept for a job.
func missingOf(tx store.Tx, job int64, buy []plan.Buy) ([]string, error) {
	holds, err := tx.HoldsOf(job)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, b := range buy {
		row, err := tx.Part(b.Part)
		if err != nil {
			return nil, err
		}
		kept := 0
		for _, h := range holds {
			if h.PartID == b.Part {
				kept = h.N + h.Fitted
			}
		}
		if kept < b.Quantity && !row.Uncounted && row.MachineID == nil {
			out = append(out, fmt.Sprintf("%d × %s", b.Quantity-kept, row.Name))
		}
	}
	return out, nil
}
