package counter

import (
	"net/http"
	"slices"
	"strings"
	"yembo/shop/base"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/form"
	"yembo/web/kit"
)

// setWho keeps who works at this screen, and goes back to the page.
func (s *pages) setWho(c *echo.Context) error {
	name := c.FormValue("name")
	if !slices.Contains(s.Settings(c).Technicians, name) {
		return base.ErrNotFound
	}
	kit.KeepWho(c, name)
	return kit.SeeOther(c, c.FormValue("back"))
}

// welcomeView asks what a new shop is called, who works there, and what an hour costs.
type welcomeView struct {
	*form.Form
	Days     []dayChoice
	Papers   []hw.Term[string]
	SignedIn bool // then people are changed where they are
}

// dayChoice is a day of the week on a form.
type dayChoice struct{ Name, Label string }

// weekDays are the days as a form asks for them, from Monday.
func weekDays() []dayChoice {
	var out []dayChoice
	for i := range 7 {
		day := (i + 1) % 7
		out = append(
			out,
			dayChoice{"/days/" + form.Weekdays[day][:3], strings.ToUpper(form.Weekdays[day][:1]) + form.Weekdays[day][1:3]},
		)
	}
	return out
}

// isNew reports whether nobody has told this shop anything yet.
func (s *pages) isNew(c *echo.Context) (bool, error) {
	if s.Workshop != kit.NoName {
		return false, nil // it was told at the start
	}
	return s.Shop.Untouched(c.Request().Context())
}

func (s *pages) showWelcome(c *echo.Context) error {
	how := s.Settings(c)
	return s.welcomePage(c, http.StatusOK, form.New(kit.SettingsTyped(how)))
}

func (s *pages) welcomePage(c *echo.Context, status int, f *form.Form) error {
	return s.Render(c, status, "welcome", "Your workshop", "", welcomeView{f, weekDays(), kit.Papers, kit.VisitorOf(c) != nil})
}

// welcome keeps what was told of a new shop; where it is left for later, nothing but that.
func (s *pages) welcome(c *echo.Context) error {
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
		readWorkshop(f, &how, &next, kit.VisitorOf(c) != nil)
		if next.Workshop == "" {
			f.Fault("/workshop", "a name is missing: it stands in the head of pages and on prints")
		}
		if len(next.Technicians) == 0 {
			f.Fault("/technicians", "at least one name is missing: the history tells who did what")
		}
	}
	if f.Count() == 0 {
		err := s.Shop.SetUp(ctx, s.Acting(c), how, next)
		switch {
		case err == nil:
			if len(next.Technicians) > 0 {
				kit.KeepWho(c, next.Technicians[0])
			}
			return kit.SeeOther(c, "/")
		case !f.Take(err):
			return err
		}
	}
	return s.welcomePage(c, http.StatusUnprocessableEntity, f)
}

// readWorkshop reads what a form tells of the workshop and its money; who works there only while nobody has to sign in.
func readWorkshop(f *form.Form, how, next *base.Settings, signedIn bool) {
	next.Workshop = f.Text("/workshop")
	if !signedIn {
		next.Technicians = base.NamesIn(f.Values.Get("/technicians"))
	}
	next.Address = f.Text("/address")
	f.Currency = strings.ToUpper(f.Text("/currency"))
	next.Currency, next.LabourRate, next.TaxPercent = strings.ToUpper(
		f.Text("/currency"),
	), f.Cents("/labour").
		Or(0),
		f.Dec("/tax").
			Or(0)
	next.Paper = f.Choice("/paper", []string{"a4", "letter"}).Or("a4")
	next.Floor = base.Floor{Benches: f.Whole("/benches").Or(0), Opens: f.Whole("/opens").Or(0), Closes: f.Whole("/closes").Or(0)}
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
