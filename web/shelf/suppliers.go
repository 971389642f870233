package shelf

import (
	"fmt"
	"net/http"
	"net/url"
	"strconv"

	"yembo/shop/base"
	"yembo/shop/stock"

	"github.com/labstack/echo/v5"

	"yembo/web/form"
	"yembo/web/kit"
)

// suppliersView is the list of suppliers, each with its form.
type suppliersView struct {
	*form.Form
	All    []stock.Supplier
	Opened int64  // whose form is open, 0 for a new one
	Back   string // where it leads when one was entered, "/" for this page
}

func (s *pages) listSuppliers(c *echo.Context) error {
	f := form.New(url.Values{})
	id, err := strconv.ParseInt(c.QueryParam("edit"), 10, 64)
	if err != nil {
		id = 0
	}
	return s.suppliersPage(c, http.StatusOK, f, id)
}

func (s *pages) suppliersPage(c *echo.Context, status int, f *form.Form, opened int64) error {
	all, err := s.Shop.Suppliers(c.Request().Context())
	if err != nil {
		return err
	}
	if status == http.StatusOK {
		for i := range all {
			if all[i].ID == opened {
				f.Values = supplierTyped(&all[i])
				f.Opens()
			}
		}
	}
	return s.Render(
		c,
		status,
		"suppliers",
		"Suppliers",
		"parts",
		suppliersView{f, all, opened, kit.Within(kit.OrNothing(f.Text("back"), c.QueryParam("back")))},
	)
}

func supplierTyped(x *stock.Supplier) url.Values {
	out := url.Values{"/name": {x.Name}, "/contact": {x.Contact}, "/closes": {x.Closes}, "/note": {x.Note},
		"/days": {""}, "/retired": {""}}
	if days, ok := x.Days.Get(); ok {
		out.Set("/days", fmt.Sprint(days))
	}
	if x.Retired {
		out.Set("/retired", "yes")
	}
	return out
}

// saveSupplier stores a supplier, a new one where the address names none.
func (s *pages) saveSupplier(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	in := stock.Supplier{Name: f.Text("/name"), Contact: f.Text("/contact"), Days: f.Whole("/days"),
		Closes: f.Text("/closes"), Note: f.Text("/note"),
		Retired: f.Is("/retired", "yes")}
	if text := c.Param("supplier"); text != "" {
		if in.ID, err = strconv.ParseInt(text, 10, 64); err != nil {
			return base.ErrNotFound
		}
		all, err := s.Shop.Suppliers(ctx)
		if err != nil {
			return err
		}
		f.Pick()
		for i := range all {
			if all[i].ID == in.ID {
				if in.Version = all[i].Version; f.CatchUp(supplierTyped(&all[i])) {
					return s.suppliersPage(c, http.StatusConflict, f, in.ID)
				}
			}
		}
		in.Name, in.Contact, in.Days, in.Closes, in.Note = f.Text("/name"), f.Text("/contact"), f.Whole("/days"),
			f.Text("/closes"), f.Text("/note")
	}
	if f.Count() == 0 {
		_, err := s.Shop.SaveSupplier(ctx, s.Acting(c), f.Text("token"), in)
		switch {
		case err == nil:
			return kit.SeeOther(c, kit.OrNothing(f.Text("back"), "/suppliers"))
		case !f.Take(err):
			return err
		}
	}
	return s.suppliersPage(c, http.StatusUnprocessableEntity, f, in.ID)
}
