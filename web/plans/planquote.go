package plans

import (
	"errors"
	"fmt"
	"net/http"
	"yembo/shop/base"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/quote"
	"yembo/web/kit"
)

// makeQuote makes a quote of the options that are ticked on a plan.
func (s *pages) makeQuote(c *echo.Context) error {
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	id, ctx := c.Param("id"), c.Request().Context()
	st := readState(c, c.Request().PostForm)
	st.query.Practice = st.practice(s.Settings(c).Practice)
	picked := kit.AtMost(quote.MostAlternatives+1, c.Request().PostForm["option"])
	made, err := s.Shop.Offer(ctx, s.Acting(c), c.FormValue("token"), id, picked, st.query)
	var faults hw.Faults
	switch {
	case err == nil:
		return kit.SeeOther(c, fmt.Sprintf("/quotes/%d", made))
	case len(picked) == 0:
		return s.planPage(
			c,
			id,
			http.StatusUnprocessableEntity,
			"Nothing is quoted yet: tick one, two or three of the options.",
			st.values,
		)
	case errors.Is(err, base.ErrDanger):
		return s.planPage(c, id, http.StatusConflict, "Not saved: make the machine safe first.", st.values)
	case errors.Is(err, base.ErrPlanChanged):
		return s.planPage(
			c,
			id,
			http.StatusConflict,
			"The plan changed since this page was shown. Nothing was saved; this is the current plan.",
			st.values,
		)
	case errors.As(err, &faults):
		return s.planPage(c, id, http.StatusUnprocessableEntity, "Nothing was saved: "+faults[0].Text+".", st.values)
	}
	return err
}
