package web

import (
	"errors"
	"net/http"
	"net/url"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/shop"
	"yembo/web/form"
)

// byNumber leads an address with a machine's tag to the one with its number, which says
// nothing about its owner.
func (s *server) byNumber(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		ref := c.Param("id")
		if !strings.ContainsFunc(ref, func(r rune) bool { return r < '0' || r > '9' }) {
			return next(c)
		}
		r, err := s.Shop.Machine(c.Request().Context(), ref)
		if err != nil {
			return err
		}
		to := *c.Request().URL
		to.Path = strings.Replace(to.Path, "/machines/"+ref, "/machines/"+r.Key, 1)
		to.RawPath = ""
		return c.Redirect(http.StatusFound, to.RequestURI())
	}
}

// changeTag gives a machine another tag.
func (s *server) changeTag(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	id := c.Param("id")
	err = s.Shop.ChangeTag(c.Request().Context(), s.actor(c), f.Text("token"), id, f.Text("was"), f.Text("/tag"))
	switch {
	case err == nil:
		return seeOther(c, "/machines/"+url.PathEscape(id)+"/history")
	case errors.Is(err, shop.ErrChanged):
		f.Fault("/tag", "somebody gave it another tag meanwhile: it stands above")
		return s.historyPage(c, http.StatusConflict, f)
	case !f.Take(err):
		return err
	}
	return s.historyPage(c, http.StatusUnprocessableEntity, f)
}
