package money

import (
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"yembo/shop/base"
	"yembo/shop/billing"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/quote"
	"yembo/web/form"
	"yembo/web/kit"
)

// billView is what a job costs: what would be charged, what was charged and paid.
type billView struct {
	*form.Form
	kit.Tabs
	Label     string
	Quote     string
	Lines     []kit.MoneyLine
	Sums      []kit.MoneyLine
	Total     string
	Against   string
	Can       bool
	Extras    []int
	Invoices  []invoiceRow
	Payments  []paymentRow
	Deposited string // on no invoice yet
	Hows      []hw.Term[string]
	Currency  string
	Owed      string
	Tax       string
	TaxIn     bool   // the prices have it in them
	InCash    string // what is to be paid where it is paid in cash, "" for the same
}

type invoiceRow struct {
	Number                                        int64
	JobID                                         int64
	Label, On, Customer, Job, Total, Paid, Stands string
	Open                                          bool // something is to be paid
}

type paymentRow struct {
	ID                                                 int64
	On, How, Amount, By, Note, Invoice, Struck, Rounds string
}

// mostExtras is how many changes the form of an invoice asks for.
const mostExtras = 4

func (s *pages) showBill(c *echo.Context) error {
	return s.billPage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) billPage(c *echo.Context, status int, f *form.Form) error {
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	b, err := s.Shop.Bill(c.Request().Context(), id)
	if err != nil {
		return err
	}
	cur := b.Settings.Currency
	v := billView{
		Form:     f,
		Tabs:     kit.TabsOf(&b.Job.MachineRecord, "job"),
		Label:    base.Label(id),
		Quote:    b.Quote,
		Against:  b.Against,
		Can:      b.Against == "",
		Hows:     billing.PaidHows.Terms(),
		Currency: cur,
		Tax:      b.Settings.TaxPercent.String(),
		TaxIn:    b.How.Inside,
	}
	for i := range mostExtras {
		v.Extras = append(v.Extras, i)
	}
	v.Lines, v.Sums, v.Total = moneyLines(b.Lines, &b.Sum, cur)
	paid := func(list []billing.PaymentRecord) {
		for _, p := range list {
			row := paymentRow{
				ID:      p.ID,
				On:      kit.Stamp(p.At),
				How:     billing.PaidHows.Says(p.How),
				Amount:  hw.Money(cur, p.Cents),
				By:      p.By,
				Note:    p.Note,
				Invoice: "deposit",
			}
			if p.Invoice != 0 {
				row.Invoice = quote.InvoiceLabel(p.Invoice)
			}
			if p.Struck != "" {
				row.Struck = "struck by " + p.StruckBy + ": " + p.Struck
			}
			if p.Rounding != 0 {
				row.Rounds = "cash rounding " + hw.Amount(cur, -p.Rounding)
			}
			v.Payments = append(v.Payments, row)
		}
	}
	owed := int64(0)
	for i := range b.Invoices {
		v.Invoices = append(v.Invoices, invoiceRowOf(&b.Invoices[i]))
		owed += b.Invoices[i].Owed()
		if in := b.Invoices[i].InCash(&b.Settings); in != b.Invoices[i].Owed() {
			v.InCash = hw.Money(cur, in)
		}
		paid(b.Invoices[i].Payments)
	}
	paid(b.Deposits)
	if deposits := b.Deposited(); deposits != 0 {
		v.Deposited = hw.Money(cur, deposits)
	}
	v.Owed = kit.AmountTyped(cur, max(owed, 0))
	if status == http.StatusOK && owed > 0 {
		f.Values.Set("/cents", v.Owed)
	}
	return s.Render(c, status, "bill", "Billing for "+v.Label, "machines", v)
}

// moneyLines puts lines and sums into words.
func moneyLines(lines []money.Line, sum *money.Sum, cur string) (rows, sums []kit.MoneyLine, total string) {
	for _, l := range lines {
		rows = append(rows, kit.MoneyLine{What: l.Text, Amount: hw.Amount(cur, l.Cents)})
	}
	sums = append(sums, kit.MoneyLine{What: "Net", Amount: hw.Amount(cur, sum.Net)})
	for _, t := range sum.Taxes {
		if t.Percent > 0 {
			sums = append(sums, kit.MoneyLine{What: fmt.Sprintf("Tax, %s %% of %s", t.Percent, hw.Amount(cur, t.Base)),
				Amount: hw.Amount(cur, t.Cents)})
		}
	}
	if sum.Rounding != 0 {
		sums = append(sums, kit.MoneyLine{What: "Rounding", Amount: hw.Amount(cur, sum.Rounding)})
	}
	return rows, sums, hw.Money(cur, sum.Total)
}

func invoiceRowOf(v *billing.InvoiceRecord) invoiceRow {
	d := v.Doc
	row := invoiceRow{
		Number:   d.Number,
		JobID:    v.JobID,
		Label:    quote.InvoiceLabel(d.Number),
		On:       hw.Day(d.On),
		Customer: d.Customer.Name,
		Job:      d.Job,
		Total:    hw.Money(d.Currency, d.Sum.Total),
		Paid:     hw.Money(d.Currency, v.Paid),
	}
	owed := v.Owed()
	switch {
	case d.Cancels != 0:
		row.Stands = "cancels " + quote.InvoiceLabel(d.Cancels)
	case v.Cancelled != 0 && owed != 0:
		row.Stands = "cancelled by " + quote.InvoiceLabel(v.Cancelled) + "; " + hw.Money(d.Currency, -owed) + " to be paid back"
	case v.Cancelled != 0:
		row.Stands = "cancelled by " + quote.InvoiceLabel(v.Cancelled)
	case owed == 0:
		row.Stands = "paid"
	default:
		row.Stands, row.Open = hw.Money(d.Currency, owed)+" to be paid", true
	}
	return row
}

// makeInvoice charges a job.
func (s *pages) makeInvoice(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	var extras []billing.Extra
	for i := range mostExtras {
		at := fmt.Sprintf("/extra/%d", i)
		if f.Text(at+"/text") == "" && f.Text(at+"/cents") == "" {
			continue
		}
		f.Rows[fmt.Sprintf("/extra/%d", len(extras))] = at
		x := billing.Extra{Text: f.Text(at + "/text"), Cents: f.Cents(at + "/cents").Or(0), Agreed: f.Text(at + "/agreed")}
		if f.Is(at+"/less", "yes") {
			x.Cents = -x.Cents
		}
		extras = append(extras, x)
	}
	if f.Count() == 0 {
		number, err := s.Shop.MakeInvoice(c.Request().Context(), s.Acting(c), f.Text("token"), id, extras)
		if err == nil {
			return kit.SeeOther(c, fmt.Sprintf("/invoices/%d", number))
		}
		if !f.Take(err) {
			return err
		}
	}
	return s.billPage(c, http.StatusUnprocessableEntity, f)
}

// payJob notes a payment.
func (s *pages) payJob(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	cents := f.Cents("/cents").Or(0)
	if f.Is("/back", "yes") {
		cents = -cents
	}
	invoice, _ := strconv.ParseInt(f.Text("/invoice"), 10, 64) // "" is a deposit
	if f.Count() == 0 {
		err := s.Shop.Pay(c.Request().Context(), s.Acting(c), f.Text("token"), id, invoice, cents, f.Text("/how"), f.Text("/note"))
		if err == nil {
			return kit.SeeOther(c, fmt.Sprintf("/jobs/%d/bill", id))
		}
		if !f.Take(err) {
			return err
		}
	}
	return s.billPage(c, http.StatusUnprocessableEntity, f)
}

// strikePayment takes back a payment that was noted wrongly.
func (s *pages) strikePayment(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	payment, _ := strconv.ParseInt(f.Text("payment"), 10, 64) // none is found as 0
	err = s.Shop.StrikePayment(
		c.Request().Context(),
		s.Acting(c),
		f.Text("token"),
		id,
		payment,
		f.Text(fmt.Sprintf("/strike/%d", payment)),
	)
	if err == nil {
		return kit.SeeOther(c, fmt.Sprintf("/jobs/%d/bill", id))
	}
	if !f.Take(err) {
		return err
	}
	return s.billPage(c, http.StatusUnprocessableEntity, f)
}

// invoiceView is an invoice as it stands on paper.
type invoiceView struct {
	*form.Form
	*quote.Invoice
	Label, Paper, Date, CancelsLabel string
	JobID                            int64
	Rows, Sums                       []kit.MoneyLine
	Total                            string
	Payments                         []paymentRow
	Paid, Owed                       string
	Stands                           string
	Cancelled                        int64
	CancelledLabel                   string
	CanCancel                        bool
	NoAddress                        bool
	TaxTold                          bool
}

func (s *pages) showInvoice(c *echo.Context) error {
	return s.invoicePage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) invoicePage(c *echo.Context, status int, f *form.Form) error {
	n, err := kit.Number(c, "invoice")
	if err != nil {
		return err
	}
	r, err := s.Shop.Invoice(c.Request().Context(), n)
	if err != nil {
		return err
	}
	paper, err := s.PaperOf(c)
	if err != nil {
		return err
	}
	d := r.Doc
	row := invoiceRowOf(&r)
	v := invoiceView{
		Form:      f,
		Invoice:   d,
		Label:     row.Label,
		Paper:     paper,
		Date:      row.On,
		JobID:     r.JobID,
		Stands:    row.Stands,
		Cancelled: r.Cancelled,
		CancelledLabel: quote.InvoiceLabel(
			r.Cancelled,
		),
		CanCancel: r.Cancelled == 0 && d.Cancels == 0,
		NoAddress: len(d.Shop.Address) == 0 || d.Customer.Contact == "",
	}
	if d.Cancels != 0 {
		v.CancelsLabel = quote.InvoiceLabel(d.Cancels)
	}
	v.Rows, v.Sums, v.Total = moneyLines(d.Lines, &d.Sum, d.Currency)
	for _, t := range d.Sum.Taxes {
		v.TaxTold = v.TaxTold || t.Percent > 0
	}
	for _, p := range r.Payments {
		if p.Struck != "" {
			continue // it does not count, and is no business of the paper
		}
		v.Payments = append(
			v.Payments,
			paymentRow{
				On:     kit.Stamp(p.At),
				How:    billing.PaidHows.Says(p.How),
				Amount: hw.Amount(d.Currency, p.Cents),
				By:     p.By,
				Note:   p.Note,
			},
		)
	}
	if r.Paid != 0 {
		v.Paid, v.Owed = hw.Amount(d.Currency, r.Paid), hw.Money(d.Currency, r.Owed())
	}
	return s.Render(c, status, "invoice", "Invoice "+v.Label, "machines", v)
}

// cancelInvoice cancels an invoice by another.
func (s *pages) cancelInvoice(c *echo.Context) error {
	n, err := kit.Number(c, "invoice")
	if err != nil {
		return err
	}
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	to, err := s.Shop.CancelInvoice(c.Request().Context(), s.Acting(c), f.Text("token"), n, f.Text("/why"))
	if err == nil {
		return kit.SeeOther(c, fmt.Sprintf("/invoices/%d", to))
	}
	if !f.Take(err) {
		return err
	}
	return s.invoicePage(c, http.StatusUnprocessableEntity, f)
}

func (s *pages) invoiceDocument(c *echo.Context) error {
	n, err := kit.Number(c, "invoice")
	if err != nil {
		return err
	}
	out, err := s.Shop.InvoiceDocument(c.Request().Context(), n)
	if err != nil {
		return err
	}
	return kit.SendFile(c, quote.InvoiceLabel(n)+".json", "application/json", out)
}

func (s *pages) quoteDocument(c *echo.Context) error {
	id, err := kit.Number(c, "quote")
	if err != nil {
		return err
	}
	out, err := s.Shop.QuoteDocument(c.Request().Context(), id)
	if err != nil {
		return err
	}
	return kit.SendFile(c, fmt.Sprintf("quote-%d.json", id), "application/json", out)
}

func (s *pages) invoiceTable(c *echo.Context) error {
	out, err := s.Shop.InvoiceTable(c.Request().Context())
	if err != nil {
		return err
	}
	return kit.SendFile(c, "invoices.csv", "text/csv; charset=utf-8", out)
}

// invoiceListView is the list of invoices.
type invoiceListView struct {
	Rows []invoiceRow
	Open bool // those alone on which something is to be paid
	More bool
}

// maxInvoices is how many invoices the list shows; the table has all of them.
const maxInvoices = 300

func (s *pages) listInvoices(c *echo.Context) error {
	list, err := s.Shop.Invoices(c.Request().Context(), maxInvoices+1)
	if err != nil {
		return err
	}
	v := invoiceListView{Open: c.QueryParam("where") == "open", More: len(list) > maxInvoices}
	for i := range list[:min(len(list), maxInvoices)] {
		if row := invoiceRowOf(&list[i]); !v.Open || row.Open {
			v.Rows = append(v.Rows, row)
		}
	}
	return s.Render(c, http.StatusOK, "invoices", "Invoices", "bench", v)
}
