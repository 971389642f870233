package counter

import (
	"errors"
	"net/http"
	"net/url"

	"yembo/shop/base"

	"github.com/labstack/echo/v5"

	"yembo/web/form"
	"yembo/web/kit"
)

// changeTag gives a machine another tag.
func (s *pages) changeTag(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	id := c.Param("id")
	err = s.Shop.ChangeTag(c.Request().Context(), s.Acting(c), f.Text("token"), id, f.Text("was"), f.Text("/tag"))
	switch {
	case err == nil:
		return kit.SeeOther(c, "/machines/"+url.PathEscape(id)+"/history")
	case errors.Is(err, base.ErrChanged):
		f.Fault("/tag", "someone gave it another tag meanwhile: it stands above")
		return s.historyPage(c, http.StatusConflict, f)
	case !f.Take(err):
		return err
	}
	return s.historyPage(c, http.StatusUnprocessableEntity, f)
}
