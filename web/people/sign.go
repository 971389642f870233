package people

import (
	"fmt"
	"net/http"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/shop/jobs"
	"yembo/shop/people"
	"yembo/web/kit"
)

// askSignIn asks who comes; where nobody has to sign in there is nothing to ask.
func (s *pages) askSignIn(c *echo.Context) error {
	secured, err := s.Shop.Secured(c.Request().Context())
	if err != nil {
		return err
	}
	if !secured {
		return kit.SeeOther(c, "/")
	}
	screen, last, err := s.ScreenOf(c)
	if err != nil {
		return err
	}
	return s.AskWho(c, screen, last, nil)
}

// signIn leads on: whoever comes here was let in by the guard.
func (s *pages) signIn(c *echo.Context) error {
	v := kit.VisitorOf(c)
	if v == nil {
		return kit.SeeOther(c, "/signin")
	}
	if back := kit.Within(c.FormValue("back")); back != "/" || v.Screen == nil {
		return kit.SeeOther(c, back)
	}
	page, err := s.opensOn(c, v.Screen)
	if err != nil {
		return err
	}
	return kit.SeeOther(c, page)
}

// opensOn is the page that a shared screen opens on: intake at the counter, at a bench the work that goes on there, else the
// bench list.
func (s *pages) opensOn(c *echo.Context, x *people.Screen) (string, error) {
	if x.Bench == 0 {
		return "/machines/new", nil
	}
	rows, err := s.Shop.BenchList(c.Request().Context())
	if err != nil {
		return "", err
	}
	for i := range rows {
		if rows[i].Class == jobs.ClassRunning && rows[i].Bench == x.Bench {
			return fmt.Sprintf("/jobs/%d/run", rows[i].JobID), nil
		}
	}
	return "/", nil
}

func (s *pages) signOut(c *echo.Context) error {
	if err := s.SignOut(c); err != nil {
		return err
	}
	return kit.SeeOther(c, "/signin")
}

type enrolView struct{ Code, Fault string }

func (s *pages) askEnrol(c *echo.Context) error {
	return s.Render(c, http.StatusOK, "enrol", "Enrol this screen", "", enrolView{Code: c.QueryParam("code")})
}

// enrolled is how long the cookie of a shared screen is kept: until it is struck off.
const enrolled = 10 * 365 * 24 * time.Hour

func (s *pages) enrol(c *echo.Context) error {
	key, _, err := s.Shop.Enrol(c.Request().Context(), c.FormValue("code"), kit.Address(c))
	if err != nil {
		says := kit.WhyNot(err)
		if says == "" {
			return err
		}
		return s.Render(c, http.StatusUnprocessableEntity, "enrol", "Enrol this screen", "",
			enrolView{c.FormValue("code"), says})
	}
	c.SetCookie(&http.Cookie{Name: kit.ScreenCookie, Value: key, Path: "/", MaxAge: int(enrolled / time.Second), HttpOnly: true,
		Secure: s.Secure, SameSite: http.SameSiteLaxMode})
	return kit.SeeOther(c, "/signin")
}
