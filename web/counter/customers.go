package counter

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"

	"yembo/shop/base"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/form"
	"yembo/web/kit"
)

type customersView struct {
	kit.Listing
	Rows []customerRow
	All  int
}

type customerRow struct {
	jobs.Customer
	Last string // the label of their newest job
}

var (
	customerWheres = []hw.Term[string]{{Word: "open", Says: "with an open job"}, {Word: "none", Says: "without a machine"}}
	customerSorts  = []hw.Term[string]{{Word: "", Says: "by name"}, {Word: "newest", Says: "most recent visit first"},
		{Word: "machines", Says: "most machines first"}}
)

type customerView struct {
	*form.Form
	jobs.Customer
	Rows    []machineRow
	Others  []jobs.Customer
	History []base.Change
	Gone    bool // the personal data were removed
	// CopiesIn is the folder of the daily copies of the data, "" for none.
	CopiesIn string
	// Copies are the files that hold what they held when they were made.
	Copies []string
}

func (s *pages) listCustomers(c *echo.Context) error {
	v := customersView{Listing: kit.ListingOf(c, customerWheres, customerSorts)}
	all, err := s.Shop.Customers(c.Request().Context(), v.Query)
	if err != nil {
		return err
	}
	v.All = len(all)
	switch v.Where {
	case "open":
		all = slices.DeleteFunc(all, func(x jobs.Customer) bool { return x.OpenJobs == 0 })
	case "none":
		all = slices.DeleteFunc(all, func(x jobs.Customer) bool { return x.Machines > 0 })
	}
	switch v.Sort {
	case "newest":
		slices.SortStableFunc(all, func(a, b jobs.Customer) int { return cmp.Compare(b.LastJob, a.LastJob) })
	case "machines":
		slices.SortStableFunc(all, func(a, b jobs.Customer) int { return cmp.Compare(b.Machines, a.Machines) })
	}
	v.Found = len(all)
	for _, x := range all[min(v.From()-1, v.Found):v.To()] {
		row := customerRow{Customer: x}
		if x.LastJob != 0 {
			row.Last = base.Label(x.LastJob)
		}
		v.Rows = append(v.Rows, row)
	}
	return s.Render(c, http.StatusOK, "customers", "Customers", "customers", v)
}

func (s *pages) showCustomer(c *echo.Context) error {
	return s.customerPage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) customerPage(c *echo.Context, status int, f *form.Form) error {
	id, err := kit.Number(c, "customer")
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	r, err := s.Shop.Customer(ctx, id)
	if err != nil {
		return err
	}
	v := customerView{Form: f, CopiesIn: s.Shop.Copies().Folder, Copies: s.Shop.KeptCopies(), Customer: r.Customer,
		Rows: machineRows(r.List.Machines, s.Shop.Now()), History: r.History}
	all, err := s.Shop.CustomerNames(ctx)
	if err != nil {
		return err
	}
	for _, x := range all {
		if x.ID != id && len(v.Others) < kit.MaxProposed {
			v.Others = append(v.Others, x)
		}
	}
	if status == http.StatusOK {
		f.Values = customerTyped(&r.Customer)
		f.Opens()
	}
	return s.Render(c, status, "customer", r.Name, "customers", v)
}

// customerTyped is a customer as the form has them.
func customerTyped(c *jobs.Customer) url.Values {
	return url.Values{"/customer": {c.Name}, "/contact": {c.Contact}}
}

// changeCustomer saves, merges or forgets, as the button says.
func (s *pages) changeCustomer(c *echo.Context) error {
	id, err := kit.Number(c, "customer")
	if err != nil {
		return err
	}
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	to := id
	switch f.Text("do") {
	case "merge":
		into, findErr := s.Shop.CustomerNamed(ctx, f.Text("/into"))
		if errors.Is(findErr, base.ErrNotFound) {
			f.Fault("/into", "name the customer that stays, as it is written in the list of customers")
			break
		}
		if findErr != nil {
			return findErr
		}
		to = into.ID
		err = s.Shop.MergeCustomers(ctx, s.Acting(c), id, to)
	case "forget":
		if !f.Is("/sure", "yes") {
			f.Fault("/sure", "tick that it is wanted: it cannot be undone")
			break
		}
		err = s.Shop.ForgetCustomer(ctx, s.Acting(c), id, f.Is("/serials", "yes"))
	default:
		r, findErr := s.Shop.Customer(ctx, id)
		if findErr != nil {
			return findErr
		}
		f.Pick()
		if f.CatchUp(customerTyped(&r.Customer)) {
			return s.customerPage(c, http.StatusConflict, f)
		}
		if f.Count() == 0 {
			err = s.Shop.SaveCustomer(ctx, s.Acting(c), r.Customer, f.Text("/customer"), f.Text("/contact"))
		}
	}
	switch {
	case err == nil && f.Count() == 0:
		return kit.SeeOther(c, fmt.Sprintf("/customers/%d", to))
	case err != nil && !f.Take(err):
		return err
	}
	return s.customerPage(c, http.StatusUnprocessableEntity, f)
}
