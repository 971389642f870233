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
	Papers   []hw.Term[string]
	SignedIn bool // then people are changed where they are
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
	return s.Render(c, status, "welcome", "Your workshop", "", welcomeView{f, kit.Papers, kit.VisitorOf(c) != nil})
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
	var faults hw.Faults
	next.Hours, next.Break = base.ParseHours("/hours", f.Values.Get("/hours"), &faults), ""
	for _, x := range faults {
		f.Fault(x.Pointer, x.Text)
	}
	next.Floor = base.Floor{Benches: f.Whole("/benches").Or(0)}
	if next.Hours.Lines() == how.Open().Lines() && next.Floor.Benches == how.FloorOf().Benches {
		next.Hours, next.Break, next.Floor = how.Hours, how.Break, how.Floor // as it was: nobody changed it
	}
}
