package web

import (
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/shop"
	"yembo/web/form"
)

// whoCookie keeps who works at a screen. It tells the history whom to name; it lets nobody in.
const whoCookie = "yembo_who"

// settings are the shop's; where they cannot be read the page itself says what is wrong with the data.
func (s *server) settings(c *echo.Context) *shop.Settings {
	how, err := s.Shop.Settings(c.Request().Context())
	if err != nil {
		return &shop.Settings{}
	}
	return &how
}

// workshop is the shop's name: as the settings have it, else as it was started.
func (s *server) workshop(how *shop.Settings) string {
	if how.Workshop == "" {
		return s.Workshop
	}
	return how.Workshop
}

// actor is who works at the screen that a request comes from.
func (s *server) actor(c *echo.Context) shop.Actor { return s.actorIn(c, s.settings(c)) }

func (s *server) actorIn(c *echo.Context, how *shop.Settings) shop.Actor {
	if len(how.Technicians) == 0 {
		return s.Actor
	}
	if cookie, err := c.Cookie(whoCookie); err == nil {
		if name, err := url.QueryUnescape(cookie.Value); err == nil && slices.Contains(how.Technicians, name) {
			return shop.Actor{Name: name}
		}
	}
	return shop.Actor{Name: how.Technicians[0]}
}

// others are those who work here beside the one at this screen.
func (s *server) others(c *echo.Context, how *shop.Settings) []string {
	me := s.actorIn(c, how).Name
	return slices.DeleteFunc(slices.Clone(how.Technicians), func(name string) bool { return name == me })
}

// setWho keeps who works at this screen, and goes back to the page.
func (s *server) setWho(c *echo.Context) error {
	name := c.FormValue("name")
	if !slices.Contains(s.settings(c).Technicians, name) {
		return shop.ErrNotFound
	}
	keepWho(c, name)
	return seeOther(c, c.FormValue("back"))
}

func keepWho(c *echo.Context, name string) {
	c.SetCookie(&http.Cookie{Name: whoCookie, Value: url.QueryEscape(name), Path: "/", MaxAge: 365 * 24 * 3600, HttpOnly: true,
		SameSite: http.SameSiteStrictMode})
}

// welcomeView asks what a new shop is called, who works there, and what an hour costs.
type welcomeView struct {
	*form.Form
	Days   []dayChoice
	Papers []hw.Term[string]
}

// dayChoice is a day of the week on a form.
type dayChoice struct{ Name, Label string }

// weekDays are the days as a form asks for them, from Monday.
func weekDays() []dayChoice {
	var out []dayChoice
	for i := range 7 {
		day := (i + 1) % 7
		out = append(out, dayChoice{"/days/" + form.Weekdays[day][:3], strings.ToUpper(form.Weekdays[day][:1]) + form.Weekdays[day][1:3]})
	}
	return out
}

// isNew reports whether nobody has told this shop anything yet.
func (s *server) isNew(c *echo.Context) (bool, error) {
	if s.Workshop != NoName {
		return false, nil // it was told at the start
	}
	return s.Shop.Untouched(c.Request().Context())
}

func (s *server) showWelcome(c *echo.Context) error {
	how := s.settings(c)
	return s.welcomePage(c, http.StatusOK, form.New(settingsTyped(how)))
}

func (s *server) welcomePage(c *echo.Context, status int, f *form.Form) error {
	return s.render(c, status, "welcome", "Your workshop", "", welcomeView{f, weekDays(), papers})
}

// welcome keeps what was told of a new shop; where it is left for later, nothing but that.
func (s *server) welcome(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	how, err := s.Shop.Settings(ctx)
	if err != nil {
		return err
	}
	next := how
	if !f.Is("do", "later") {
		readWorkshop(f, &how, &next)
		if next.Workshop == "" {
			f.Fault("/workshop", "a name is missing: it stands in the head of pages and on prints")
		}
		if len(next.Technicians) == 0 {
			f.Fault("/technicians", "at least one name is missing: the history tells who did what")
		}
	}
	if f.Count() == 0 {
		err := s.Shop.SetUp(ctx, s.actor(c), how, next)
		switch {
		case err == nil:
			if len(next.Technicians) > 0 {
				keepWho(c, next.Technicians[0])
			}
			return seeOther(c, "/")
		case !f.Take(err):
			return err
		}
	}
	return s.welcomePage(c, http.StatusUnprocessableEntity, f)
}

// readWorkshop reads what a form tells of the workshop and its money.
func readWorkshop(f *form.Form, how, next *shop.Settings) {
	next.Workshop, next.Technicians = f.Text("/workshop"), shop.NamesIn(f.Values.Get("/technicians"))
	next.Address = f.Text("/address")
	f.Currency = strings.ToUpper(f.Text("/currency"))
	next.Currency, next.LabourRate, next.TaxPercent = strings.ToUpper(f.Text("/currency")), f.Cents("/labour").Or(0), f.Dec("/tax").Or(0)
	next.Paper = f.Choice("/paper", []string{"a4", "letter"}).Or("a4")
	next.Floor = shop.Floor{Benches: f.Whole("/benches").Or(0), Opens: f.Whole("/opens").Or(0), Closes: f.Whole("/closes").Or(0)}
	for i, name := range form.Weekdays {
		if f.Is("/days/"+name[:3], "yes") {
			next.Floor.Days |= 1 << i
		}
	}
	if next.Floor.Days == 0 {
		f.Fault("/days", "tick at least one day on which it is open")
	}
	if next.Floor == how.FloorOf() {
		next.Floor = how.Floor
	}
}
