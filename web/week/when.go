package week

import (
	"fmt"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/web/form"
	"yembo/web/kit"
)

// whenView answers "when can I have it?": a time, a sentence, the reckoning, what else could be, what it rests on. A customer may
// read it: it names no other job, no price and nobody.
type whenView struct {
	*form.Form
	Job             int64
	Machine         string
	Customer        string
	Honest, Short   string
	Typed, Seen     string
	Sentence        string
	Rows            []kit.ReasonRow
	From            time.Time
	Offers          []offerView
	Without         string // what could be had earlier without what is waited for
	Rests           []string
	Why             string // nothing can be promised
	Promised        string // what is promised already
	Kept            bool   // and can be kept
	Against         string // what stands against a wish
	Wish, WishTyped string
	CanPromise      bool
}

func (s *pages) showWhen(c *echo.Context) error {
	return s.whenPage(c, http.StatusOK, form.New(c.QueryParams()))
}

func (s *pages) whenPage(c *echo.Context, status int, f *form.Form) error {
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	w, err := s.Shop.WhenOf(c.Request().Context(), id, false)
	if err != nil {
		return err
	}
	r := &w.Row.Record
	v := whenView{Form: f, Job: id, Machine: r.Machine.ID, Customer: r.Customer, From: w.Now, Rests: w.Rests, Why: w.Why,
		Seen: seenPromise(r), CanPromise: w.Plan != nil}
	if !r.Promised.IsZero() {
		v.Promised, v.Kept = base.TimeWords(r.Promised), w.Plan != nil && !w.Honest.After(r.Promised)
	}
	if w.Plan == nil {
		return s.Render(c, status, "when", "When can I have it?", "bench", v)
	}
	v.Honest, v.Short, v.Typed = w.Honest.Format("Mon 2 January, 15:04"), base.TimeWords(w.Honest), w.Honest.Format(time.RFC3339)
	v.Rows = atCounter(kit.ReasonRows(w.Plan, w.Stretches, func(string) string { return "another job" }, ""))
	v.Sentence = sentence(&w, v.Kept)
	if v.Kept {
		v.Honest = r.Promised.Format("Mon 2 January, 15:04")
	}
	for _, o := range w.Offers[1:] {
		v.Offers = append(v.Offers, offerView{Bench: o.Bench, Promise: base.TimeWords(o.Honest), Typed: o.Honest.Format(time.RFC3339),
			Says: fmt.Sprintf("on bench %d from %s", o.Bench, base.TimeWords(o.Start))})
	}
	if !w.Without.Honest.IsZero() && w.Without.Honest.Before(w.Honest) {
		v.Without = base.TimeWords(w.Without.Honest)
	}
	v.wish(f, &w)
	return s.Render(c, status, "when", "When can I have it?", "bench", v)
}

// atCounter are the rows of a reckoning as one reads them at the counter: work with work, waits with waits, six at most.
func atCounter(rows []kit.ReasonRow) []kit.ReasonRow {
	var out []kit.ReasonRow
	for _, r := range rows {
		if r.Code == week.WhyNow {
			continue
		}
		if n := len(out); n > 0 && (out[n-1].Code == week.WhyHands || out[n-1].Code == week.WhyWait) &&
			(r.Code == week.WhyHands || r.Code == week.WhyWait) {
			out[n-1].Says += "; " + hw.LowerFirst(r.Says)
			out[n-1].At = r.At
			continue
		}
		out = append(out, r)
	}
	for len(out) > 6 { // the first of what has to be waited for say the least
		out = out[1:]
	}
	return out
}

// sentence says it in one.
func sentence(w *jobs.When, kept bool) string {
	var comes, waits string
	for _, r := range w.Plan.Why {
		at, err := time.Parse(time.RFC3339, r.At)
		if err != nil {
			continue
		}
		if r.Code == week.WhyArrival {
			comes = "the parts are expected " + base.TimeWords(at.Local()) + "; "
		}
		if r.Code == week.WhyBench || r.Code == week.WhyPerson {
			waits = "other work comes before yours; "
		}
	}
	first := comes + waits
	ready := w.Offers[0].Ready
	if kept {
		return fmt.Sprintf("%sit is ready about %s, in time for what was promised.", first, base.TimeWords(ready))
	}
	return fmt.Sprintf("%sit is ready about %s. We say %s, with time to spare, so that it holds.", first, base.TimeWords(ready),
		kit.ClockFrom(w.Honest, ready))
}

// wish says what stands against an earlier time that the customer asks for.
func (v *whenView) wish(f *form.Form, w *jobs.When) {
	text := f.Text("/wish")
	if text == "" {
		return
	}
	at, err := form.Promise(text, w.Now)
	if err != nil {
		f.Fault("/wish", err.Error())
		return
	}
	if doubt := w.How.Doubt(at, w.Now); doubt != "" {
		f.Fault("/wish", doubt)
		return
	}
	v.Wish, v.WishTyped = base.TimeWords(at), at.Format(time.RFC3339)
	switch {
	case !at.Before(w.Honest):
		v.Against = ""
	case !at.Before(w.Offers[0].Ready):
		v.Against = fmt.Sprintf("it would be ready %s; less than the shop's margin would be left", base.TimeWords(w.Offers[0].Ready))
	default:
		for _, r := range v.Rows {
			if r.At.After(at) {
				v.Against = hw.LowerFirst(r.Says) + ": until " + base.TimeWords(r.At)
				return
			}
		}
	}
}

// promise promises a time: as it was offered, or another one that somebody decides.
func (s *pages) promise(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	f.Values.Set("/how", "counter")
	if f.Is("do", "despite") && f.Text("/decided") == "" {
		f.Fault("/decided", "say who decides it")
		return s.whenPage(c, http.StatusUnprocessableEntity, f)
	}
	if who := f.Text("/decided"); who != "" {
		f.Values.Set("/said", "decided by "+who)
	}
	err = s.promiseAnew(c, f, id, f.Text("/promise"))
	switch {
	case err == nil && f.Count() == 0:
		return kit.SeeOther(c, fmt.Sprintf("/jobs/%d", id))
	case err != nil && !f.Take(err):
		return err
	}
	return s.whenPage(c, http.StatusUnprocessableEntity, f)
}
