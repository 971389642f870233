package counter

import (
	"net/http"
	"net/url"

	"yembo/shop/care"

	"github.com/labstack/echo/v5"

	"yembo/web/form"
	"yembo/web/kit"
)

// pageOf is the page of a record of a kind.
func pageOf(kind, id string) string {
	if kind == "machine" {
		return "/machines/" + url.PathEscape(id) + "/history"
	}
	return "/" + kind + "s/" + url.PathEscape(id)
}

type removeView struct {
	*form.Form
	care.Removal
	What, Page string
}

func (s *pages) askRemove(c *echo.Context) error {
	return s.removePage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) removePage(c *echo.Context, status int, f *form.Form) error {
	kind, id := c.Param("kind"), c.Param("record")
	look, err := s.Shop.LookAtRemoval(c.Request().Context(), kind, id)
	if err != nil {
		return err
	}
	v := removeView{Form: f, Removal: look, What: care.KindSays(kind), Page: pageOf(kind, look.ID)}
	return s.Render(c, status, "remove", "Remove "+look.Name, sectionOf(kind), v)
}

// sectionOf is the section of the application that a kind of record belongs to.
func sectionOf(kind string) string {
	if kind == "job" {
		return "machines"
	}
	return kind + "s"
}

func (s *pages) remove(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	kind := c.Param("kind")
	if err = s.Shop.Remove(c.Request().Context(), s.Acting(c), f.Text("token"), kind, c.Param("record")); err == nil {
		return kit.SeeOther(c, "/removed?done="+url.QueryEscape(kind+" "+c.Param("record")))
	}
	if !f.Take(err) {
		return err
	}
	return s.removePage(c, http.StatusConflict, f)
}

type removedView struct {
	*form.Form
	Rows []removedRow
	Just *removedRow // what was removed just now
}

type removedRow struct {
	care.RemovedRecord
	What string
	Days int // that it is kept yet
}

func (s *pages) listRemoved(c *echo.Context) error {
	return s.removedPage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) removedPage(c *echo.Context, status int, f *form.Form) error {
	list, err := s.Shop.Removed(c.Request().Context())
	if err != nil {
		return err
	}
	v := removedView{Form: f}
	for _, r := range list {
		row := removedRow{r, care.KindSays(r.Kind), int(r.Until.Sub(s.Shop.Now()).Hours() / 24)}
		v.Rows = append(v.Rows, row)
		if c.QueryParam("done") == r.Kind+" "+r.ID {
			v.Just = &row
		}
	}
	return s.Render(c, status, "removed", "Removed", "", v)
}

func (s *pages) bringBack(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	kind, id := c.Param("kind"), c.Param("record")
	if err = s.Shop.BringBack(c.Request().Context(), s.Acting(c), f.Text("token"), kind, id); err == nil {
		return kit.SeeOther(c, pageOf(kind, id))
	}
	if !f.Take(err) {
		return err
	}
	return s.removedPage(c, http.StatusConflict, f)
}
