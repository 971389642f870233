package money

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"yembo/shop/base"
	"yembo/shop/billing"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/quote"
	"yembo/web/form"
	"yembo/web/kit"
)

// quoteView is a quote as it is on paper, with the answer to it beside.
type quoteView struct {
	*form.Form
	kit.Tabs
	Sheet    *quoteSheet
	ID       int64
	Revision int
	Label    string
	JobLabel string
	Will     []willView
	Ways     []hw.Term[string]
	Consents []kit.ConsentRow
	Open     bool // it can be answered
	Against  []string
	Untold   []string // what the settings do not tell, and the sheet therefore does not say
	Shown    string   // when and how, "" while nobody saw it
	Answer   string
	Since    []string
	Versions []kit.VersionRow
	LinkKey  string // of a link that was made just now
	LinkAt   string // the address for customers before it, "" where none is set
	Linked   bool
	Newest   bool
	Invoice  bool // there is something to charge
	Accepted bool
	Sign     *jobs.Signature // that stands under it
}

// willView is what accepting one alternative does.
type willView struct {
	Letter, Name, Total string
	Does, Against       []string
}

func (s *pages) showQuote(c *echo.Context) error {
	return s.quotePage(c, http.StatusOK, form.New(url.Values{}), "")
}

func (s *pages) quotePage(c *echo.Context, status int, f *form.Form, key string) error {
	id, err := kit.Number(c, "quote")
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	q, err := s.Shop.Quote(ctx, id)
	if err != nil {
		return err
	}
	paper, err := s.PaperOf(c)
	if err != nil {
		return err
	}
	v := quoteView{
		Form:     f,
		Tabs:     kit.TabsOf(&q.Job.MachineRecord, "job"),
		ID:       id,
		Revision: q.Revision,
		Label:    q.Label(),
		JobLabel: base.Label(q.JobID),
		Ways:     billing.AnswerWays[:3].Terms(),
		Since:    q.Since,
		LinkKey:  key,
		LinkAt:   s.Settings(c).PublicAddress,
		Linked:   q.Linked,
		Newest:   q.Newest,
	}
	if v.Sheet, err = sheetOf(q.Doc, q.Label(), paper); err != nil {
		return err
	}
	will, err := s.Shop.LookAtAcceptance(ctx, id)
	if err != nil {
		return err
	}
	for i, w := range will {
		v.Will = append(v.Will, willView{w.Letter, q.Doc.Alternatives[i].Name, v.Sheet.Letters[i].Total, w.Does, w.Against})
	}
	for _, asked := range q.Doc.Consents {
		for _, row := range kit.ConsentRows(q.Job.Details.Consents) {
			if row.Code == string(asked.Code) {
				row.Means = v.Sheet.ConsentLetters(asked)
				v.Consents = append(v.Consents, row)
			}
		}
	}
	v.Open = q.Newest && q.Answer != jobs.Accepted && q.Answer != jobs.Declined && !q.Over && q.Job.Closed.IsZero() &&
		q.Job.State.Danger == ""
	if v.Open {
		v.Untold = untold(s.Settings(c))
	}
	if !v.Open && len(will) > 0 {
		v.Against = will[0].Against
	}
	if !q.Shown.IsZero() {
		v.Shown = kit.Stamp(q.Shown) + ", " + q.ShownHow
	}
	switch q.Answer {
	case jobs.Accepted:
		v.Accepted, v.Sign = true, q.Job.SignatureUnder(&q.QuoteRecord)
		v.Answer = fmt.Sprintf(
			"Accepted %s: %s, %s, %s",
			kit.Stamp(q.Answered),
			q.Given.Letter,
			q.Given.Who,
			hw.LowerFirst(billing.AnswerWays.Says(q.Given.How)),
		)
		if old := q.Given.OldParts; old != "" && old != quote.Ask {
			v.Answer += "; old parts: " + hw.LowerFirst(quote.OldPartsWays.Says(old))
		}
		v.Invoice = true
	case jobs.Declined:
		v.Answer = fmt.Sprintf("Declined %s by %s", kit.Stamp(q.Answered), q.Given.Who)
		v.Invoice = q.Doc.DeclinedSum.Total > 0
	case billing.Thinking:
		v.Answer = fmt.Sprintf("%s thinks it over; asked again on %s", q.Given.Who, hw.Day(q.AskOn))
	}
	v.Versions = kit.VersionRows(q.Versions, id)
	return s.Render(c, status, "quote", "Quote "+v.Label, "machines", v)
}

// untold lists what of a shop's money and address the settings do not tell.
func untold(how *base.Settings) []string {
	var out []string
	if how.LabourRate == 0 {
		out = append(out, "what an hour costs")
	}
	if how.TaxPercent == 0 {
		out = append(out, "a tax")
	}
	if len(how.Address) == 0 {
		out = append(out, "the workshop's address")
	}
	return out
}

// answerQuotePage is what came of a change of a quote: its page again, or the faults at their fields.
func (s *pages) answerQuotePage(c *echo.Context, f *form.Form, id int64, err error) error {
	switch {
	case err == nil:
		return kit.SeeOther(c, fmt.Sprintf("/quotes/%d", id))
	case errors.Is(err, base.ErrChanged):
		f.Fault("/verdict", "someone changed it meanwhile. Nothing was saved; look, and say it again")
		return s.quotePage(c, http.StatusConflict, f, "")
	case f.Take(err):
		return s.quotePage(c, http.StatusUnprocessableEntity, f, "")
	}
	return err
}

func quoteForm(c *echo.Context) (int64, *form.Form, error) {
	id, err := kit.Number(c, "quote")
	if err != nil {
		return 0, nil, err
	}
	f, err := form.Sent(c)
	return id, f, err
}

// freezeQuote marks a quote as shown, makes a link to it, or takes that back.
func (s *pages) freezeQuote(c *echo.Context) error {
	id, f, err := quoteForm(c)
	if err != nil {
		return err
	}
	ctx, revision := c.Request().Context(), f.Whole("revision").Or(-1)
	switch f.Text("do") {
	case "link":
		key, err := s.Shop.LinkQuote(ctx, s.Acting(c), id, revision)
		if err != nil {
			return s.answerQuotePage(c, f, id, err)
		}
		if err := s.Shop.TellJournal(ctx, s.Acting(c), base.JournalData, fmt.Sprintf("link to quote %d made", id)); err != nil {
			return err
		}
		return s.quotePage(c, http.StatusOK, form.New(url.Values{}), key)
	case "unlink":
		return s.answerQuotePage(c, f, id, s.Shop.UnlinkQuote(ctx, s.Acting(c), f.Text("token"), id, revision))
	}
	return s.answerQuotePage(
		c,
		f,
		id,
		s.Shop.ShowQuote(ctx, s.Acting(c), f.Text("token"), id, revision, kit.OrDash(f.Text("how"), "shown")),
	)
}

// readAnswer reads what was said to a quote.
func readAnswer(f *form.Form, now func(name string) string) jobs.QuoteAnswer {
	ans := jobs.QuoteAnswer{
		Verdict:   jobs.Accepted,
		Letter:    f.Text("/letter"),
		How:       f.Text("/how"),
		Who:       f.Text("/who"),
		Said:      f.Text("/said"),
		Consents:  kit.ConsentsOf(f),
		Signature: f.Text("/signature"),
		OldParts:  quote.OldParts(f.Text("/old_parts")),
	}
	switch {
	case f.Is("do", "think"):
		ans.Verdict, ans.Letter, ans.AskOn = billing.Thinking, "", now("/ask_on")
	case ans.Letter == "neither":
		ans.Verdict, ans.Letter = jobs.Declined, ""
	}
	return ans
}

func (s *pages) answerQuote(c *echo.Context) error {
	id, f, err := quoteForm(c)
	if err != nil {
		return err
	}
	ans := readAnswer(f, func(name string) string { return f.DayAhead(name, s.Shop.Now()) })
	if f.Count() > 0 {
		return s.quotePage(c, http.StatusUnprocessableEntity, f, "")
	}
	return s.answerQuotePage(
		c,
		f,
		id,
		s.Shop.AnswerQuote(c.Request().Context(), s.Acting(c), f.Text("token"), id, f.Whole("revision").Or(-1), ans),
	)
}

// quoteEditView is the form in which a quote is worded otherwise.
type quoteEditView struct {
	*form.Form
	ID, JobID    int64
	Revision     int
	Label        string
	Alternatives []quote.Alternative
	Ways         []hw.Term[string]
	Frozen       bool
	Currency     string
	Since        []string // what is another by now than what it rests on
}

func (s *pages) editQuote(c *echo.Context) error {
	return s.quoteEditPage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) quoteEditPage(c *echo.Context, status int, f *form.Form) error {
	id, err := kit.Number(c, "quote")
	if err != nil {
		return err
	}
	q, err := s.Shop.Quote(c.Request().Context(), id)
	if err != nil {
		return err
	}
	if status == http.StatusOK {
		if f.Values = quoteTyped(q.Doc); len(q.Since) > 0 {
			f.Values.Set("/reprice", "yes")
		}
	}
	return s.Render(c, status, "quoteedit", "Word "+q.Label(), "machines", quoteEditView{f, id, q.JobID, q.Revision, q.Label(),
		q.Doc.Alternatives, quote.OldPartsWays.Terms(), !q.Shown.IsZero(), q.Doc.Currency, q.Since})
}

// quoteTyped is how a quote is worded, as the form has it.
func quoteTyped(q *quote.Quote) url.Values {
	v := url.Values{"/told": {q.Told}, "/found": {q.Found}, "/risk": {q.Risk}, "/left": {strings.Join(q.Left, "\n")},
		"/valid_until": {hw.Day(q.ValidUntil)}, "/old_parts": {string(q.OldParts)}}
	for _, a := range q.Alternatives {
		v.Set("/"+a.Letter+"/name", a.Name)
		v.Set("/"+a.Letter+"/data", a.Data)
		v.Set("/"+a.Letter+"/ready", a.Ready)
		for _, l := range a.Lines {
			if l.Kind == money.Discount {
				v.Set("/discount", kit.AmountTyped(q.Currency, -l.Cents))
				v.Set("/discount_text", l.Text)
			}
		}
	}
	if q.Off != nil && q.Off.Percent > 0 {
		v.Del("/discount")
		v.Set("/discount_percent", q.Off.Percent.String())
	}
	return v
}

func (s *pages) saveQuote(c *echo.Context) error {
	id, f, err := quoteForm(c)
	if err != nil {
		return err
	}
	e := billing.QuoteEdit{
		Told:         f.Text("/told"),
		Found:        f.Text("/found"),
		Risk:         f.Text("/risk"),
		Left:         strings.Split(f.Value("/left"), "\n"),
		Names:        map[string]string{},
		Data:         map[string]string{},
		Ready:        map[string]string{},
		ValidUntil:   f.DayAhead("/valid_until", s.Shop.Now()),
		Discount:     f.Cents("/discount").Or(0),
		DiscountText: f.Text("/discount_text"),
		DiscountPercent: f.Dec("/discount_percent").
			Or(0),
		Reprice:  f.Is("/reprice", "yes"),
		OldParts: quote.OldParts(f.Text("/old_parts")),
	}
	for _, letter := range []string{"A", "B", "C"} {
		e.Names[letter], e.Data[letter], e.Ready[letter] = f.Text(
			"/"+letter+"/name",
		), f.Text(
			"/"+letter+"/data",
		), f.Text(
			"/"+letter+"/ready",
		)
	}
	if f.Count() == 0 {
		to, err := s.Shop.EditQuote(c.Request().Context(), s.Acting(c), f.Text("token"), id, f.Whole("revision").Or(-1), e)
		switch {
		case err == nil:
			return kit.SeeOther(c, fmt.Sprintf("/quotes/%d", to))
		case errors.Is(err, base.ErrChanged):
			f.Fault("/told", "someone changed it meanwhile: what you typed is still here; keep it again to have it so")
			return s.quoteEditPage(c, http.StatusConflict, f)
		case !f.Take(err):
			return err
		}
	}
	return s.quoteEditPage(c, http.StatusUnprocessableEntity, f)
}

// linkAsker is whom a look at a link is counted for.
func (s *pages) linkAsker(c *echo.Context) (string, error) {
	key := c.Param("key")
	if s.Shop.IsLink(c.Request().Context(), key) {
		return "link " + key + " " + c.RealIP(), nil
	}
	return c.RealIP(), nil
}

// linkView is what a link shows: one quote, and nothing else.
type linkView struct {
	*form.Form
	Sheet    *quoteSheet
	Key      string
	Revision int
	Over     bool
	Done     string
	Consents []kit.ConsentRow
}

func (s *pages) showLink(c *echo.Context) error {
	if c.QueryParam("done") != "" {
		return s.renderLink(
			c,
			http.StatusOK,
			linkView{Form: form.New(url.Values{}), Done: "Thank you. Your answer is with the workshop."},
		)
	}
	return s.linkPage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) linkPage(c *echo.Context, status int, f *form.Form) error {
	key := c.Param("key")
	q, err := s.Shop.QuoteByLink(c.Request().Context(), key)
	if errors.Is(err, base.ErrNotFound) {
		return s.renderLink(
			c,
			http.StatusNotFound,
			linkView{
				Form: f,
				Done: "This link no longer works: the quote was answered, has expired or was withdrawn. Please contact the workshop.",
			},
		)
	}
	if err != nil {
		return err
	}
	v := linkView{Form: f, Key: key, Revision: q.Revision, Over: q.Over}
	if v.Sheet, err = sheetOf(q.Doc, q.Label, "a4"); err != nil {
		return err
	}
	for _, asked := range q.Doc.Consents {
		for _, row := range kit.ConsentRows(nil) {
			if row.Code == string(asked.Code) {
				row.Means = strings.TrimSpace(row.Means + " " + v.Sheet.ConsentLetters(asked))
				v.Consents = append(v.Consents, row)
			}
		}
	}
	return s.renderLink(c, status, v)
}

func (s *pages) renderLink(c *echo.Context, status int, v linkView) error {
	h := c.Response().Header()
	h.Set("X-Robots-Tag", "noindex, nofollow")
	h.Set("Cache-Control", "no-store")
	h.Set("Referrer-Policy", "no-referrer")
	return s.Render(c, status, "link", "Your quote", "", v)
}

func (s *pages) answerLink(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	ans := readAnswer(f, func(string) string { return "" })
	err = s.Shop.AnswerByLink(c.Request().Context(), f.Text("token"), c.Param("key"), ans)
	switch {
	case err == nil:
		return kit.SeeOther(c, "/q/"+url.PathEscape(c.Param("key"))+"?done=yes")
	case errors.Is(err, base.ErrNotFound):
		return s.linkPage(c, http.StatusNotFound, f)
	case errors.Is(err, base.ErrChanged):
		f.Fault("/verdict", "the workshop changed it meanwhile: look, and answer again")
		return s.linkPage(c, http.StatusConflict, f)
	case f.Take(err):
		return s.linkPage(c, http.StatusUnprocessableEntity, f)
	}
	return err
}
