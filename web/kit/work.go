package kit

import (
	"context"
	"errors"
	"net/http"
	"time"
	"yembo/shop/base"

	"github.com/labstack/echo/v5"
)

// workView is something long that is done aside, while it goes on.
type workView struct {
	base.Work
	Since string
	Other bool // it is not what was asked for: that has to wait
}

// Shown writes the page of what came of something long; stopped is whether somebody ended it before its end.
type Shown func(c *echo.Context, stopped bool) error

// asideWait is how long a page waits for the end of something before it shows how far it is.
const asideWait = 800 * time.Millisecond

// Aside begins something long and leads to its page; where something else is under way to that one's.
func (s *Site) Aside(c *echo.Context, token, what string,
	do func(ctx context.Context, step func(done, of int)) (Shown, error)) error {
	id, ok := s.Shop.Begin(s.Acting(c), token, what, func(ctx context.Context, step func(done, of int)) (any, error) {
		return do(ctx, step)
	})
	if !ok {
		return s.workPage(c, id, http.StatusConflict)
	}
	if _, err := s.Shop.Work(c.Request().Context(), id, asideWait); err != nil {
		return err
	}
	return SeeOther(c, "/underway/"+id)
}

// LooksAlone lets one file that came in be looked at at a time, each may need much memory; whoever
// called it calls done at the end.
func (s *Site) LooksAlone(c *echo.Context) (done func(), err error) {
	select {
	case s.looking <- struct{}{}:
		return func() { <-s.looking }, nil
	case <-c.Request().Context().Done():
		return nil, c.Request().Context().Err()
	}
}

func (s *Site) showWork(c *echo.Context) error { return s.workPage(c, c.Param("id"), http.StatusOK) }

func (s *Site) workPage(c *echo.Context, id string, status int) error {
	w, err := s.Shop.Work(c.Request().Context(), id, 0)
	if err != nil {
		return err
	}
	if !w.Ended || status != http.StatusOK {
		if status == http.StatusOK {
			c.Response().Header().Set("Refresh", "1")
		}
		return s.Render(c, status, "work", w.What, "",
			workView{Work: w, Since: Stamp(w.Began), Other: status != http.StatusOK})
	}
	if w.Err != nil && !errors.Is(w.Err, context.Canceled) {
		return w.Err
	}
	if result, ok := w.Result.(Shown); ok {
		return result(c, w.Stopped)
	}
	return base.ErrNotFound
}

func (s *Site) stopWork(c *echo.Context) error {
	if err := s.Shop.StopWork(c.Param("id")); err != nil {
		return err
	}
	if _, err := s.Shop.Work(c.Request().Context(), c.Param("id"), asideWait); err != nil {
		return err
	}
	return SeeOther(c, "/underway/"+c.Param("id"))
}
