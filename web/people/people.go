package people

import (
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/boombuler/barcode/qr"
	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/shop/base"
	"yembo/shop/people"
	"yembo/web/form"
	"yembo/web/kit"
)

type peopleView struct {
	*form.Form
	Secured  bool
	People   []people.Member
	Gone     []people.Member
	Rows     []rightRow
	Screens  []people.Screen
	Codes    []codeView
	EnrolAt  string
	SignedIn []kit.SignedIn
	Journal  []base.JournalLine
}

// rightRow is a right with what each person has of it. Group is "" where it is the one above.
type rightRow struct {
	Group, Says string
	Right       people.Right
	Cells       []cell
}

// cell is what somebody has of a right; Fixed says that it is not changed by a press.
type cell struct {
	Person         int64
	Name           string
	Grant          people.Grant
	Differs, Fixed bool
}

// Words are what somebody has of a right, read out.
func (c cell) Words() string {
	switch c.Grant {
	case people.May:
		return "may"
	case people.Lend:
		return "asks for the PIN of someone who may"
	case people.No:
	}
	return "no"
}

type codeView struct {
	people.Code
	Left int    // minutes
	QR   qrView // of where it is typed, with it
}

func (s *pages) showPeople(c *echo.Context) error {
	return s.peoplePage(c, http.StatusOK, form.New(url.Values{}))
}

func (s *pages) peoplePage(c *echo.Context, status int, f *form.Form) error {
	ctx := c.Request().Context()
	all, err := s.Shop.People.People(ctx)
	if err != nil {
		return err
	}
	v := peopleView{Form: f, EnrolAt: s.at(c) + "/enrol"}
	for i := range all {
		if all[i].Left == nil {
			v.People = append(v.People, all[i])
		} else {
			v.Gone = append(v.Gone, all[i])
		}
	}
	group := ""
	for _, r := range people.Rights {
		row := rightRow{Says: r.Says, Right: r.Right}
		if r.Group != group {
			row.Group, group = r.Group, r.Group
		}
		for i := range v.People {
			m := &v.People[i]
			grant := m.May(r.Right)
			row.Cells = append(row.Cells, cell{m.ID, m.Name, grant, m.Differs(r.Right), m.Role == base.Owner || grant == people.No})
		}
		v.Rows = append(v.Rows, row)
	}
	if v.Secured, err = s.Shop.Secured(ctx); err != nil {
		return err
	}
	if v.Screens, err = s.Shop.Screens(ctx); err != nil {
		return err
	}
	for _, code := range s.Shop.Codes() {
		x := codeView{Code: code, Left: int(time.Until(code.Until).Minutes()) + 1}
		if x.QR, err = qrOf(v.EnrolAt + "?code=" + code.Text); err != nil {
			return err
		}
		v.Codes = append(v.Codes, x)
	}
	if v.SignedIn, err = s.SignedIn(ctx); err != nil {
		return err
	}
	if v.Journal, err = s.Shop.Journal(ctx, "", 10); err != nil {
		return err
	}
	return s.Render(c, status, "people", "People and screens", "settings", v)
}

// at is where this server answers, as the page was asked for.
func (s *pages) at(c *echo.Context) string {
	if s.Secure {
		return "https://" + c.Request().Host
	}
	return "http://" + c.Request().Host
}

// qrView is a QR code to draw: its modules as squares of one, with a quiet margin of four about them.
type qrView struct {
	Size int
	Path string
}

// qrOf is an address as a picture that a tablet scans.
func qrOf(text string) (qrView, error) {
	code, err := qr.Encode(text, qr.M, qr.Auto)
	if err != nil {
		return qrView{}, err
	}
	const quiet = 4
	n := code.Bounds().Dx()
	var path strings.Builder
	for y := range n {
		for x := range n {
			if r, _, _, _ := code.At(x, y).RGBA(); r == 0 {
				fmt.Fprintf(&path, "M%d %dh1v1h-1z", x+quiet, y+quiet)
			}
		}
	}
	return qrView{n + 2*quiet, path.String()}, nil
}

// personView is somebody, or who is to be added.
type personView struct {
	*form.Form
	people.Member
	Roles []hw.Term[string]
}

var roles = []hw.Term[string]{{Word: base.Owner, Says: "owner"}, {Word: base.Technician, Says: "technician"},
	{Word: base.Counter, Says: "counter"}}

func (s *pages) newPerson(c *echo.Context) error {
	return s.personPage(c, http.StatusOK, form.New(url.Values{"/role": {base.Technician}}), people.Member{})
}

func (s *pages) showPerson(c *echo.Context) error {
	m, err := s.member(c)
	if err != nil {
		return err
	}
	values := url.Values{"/name": {m.Name}, "/initials": {m.Initials}, "/role": {m.Role}}
	if m.Left != nil {
		values.Set("/leaves", "yes")
	}
	return s.personPage(c, http.StatusOK, form.New(values), m)
}

// member is whom the address names, nobody where it names nobody.
func (s *pages) member(c *echo.Context) (people.Member, error) {
	if c.Param("person") == "" {
		return people.Member{}, nil
	}
	id, err := strconv.ParseInt(c.Param("person"), 10, 64)
	if err != nil {
		return people.Member{}, base.ErrNotFound
	}
	return s.Shop.Person(c.Request().Context(), id)
}

func (s *pages) personPage(c *echo.Context, status int, f *form.Form, m people.Member) error {
	title := m.Name
	if m.ID == 0 {
		title = "Add a person"
	}
	return s.Render(c, status, "person", title, "settings", personView{f, m, roles})
}

func (s *pages) savePerson(c *echo.Context) error {
	m, err := s.member(c)
	if err != nil {
		return err
	}
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	err = s.Shop.SavePerson(c.Request().Context(), s.Acting(c), f.Text("token"), people.Entry{ID: m.ID,
		Version: f.Whole("version").Or(-1), Name: f.Text("/name"), Initials: f.Text("/initials"), Role: f.Text("/role"),
		Password: f.Values.Get("/password"), PIN: f.Text("/pin"), DropPassword: f.Is("/nopassword", "yes"),
		DropPIN: f.Is("/nopin", "yes"),
		Leaves:  f.Is("/leaves", "yes")})
	switch {
	case err == nil:
		return kit.SeeOther(c, "/people")
	case !f.Take(err):
		return err
	}
	return s.personPage(c, http.StatusUnprocessableEntity, f, m)
}

func (s *pages) allow(c *echo.Context) error {
	m, err := s.member(c)
	if err != nil {
		return err
	}
	f := form.New(url.Values{})
	err = s.Shop.Allow(c.Request().Context(), s.Acting(c), m.ID, people.Right(c.FormValue("right")))
	switch {
	case err == nil:
		return kit.SeeOther(c, "/people")
	case !f.Take(err):
		return err
	}
	return s.peoplePage(c, http.StatusUnprocessableEntity, f)
}

func (s *pages) newScreen(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	how := s.Settings(c)
	_, err = s.Shop.NewCode(c.Request().Context(), s.Acting(c), f.Text("/name"), f.Whole("/bench").Or(0), how.FloorOf().Benches)
	switch {
	case err == nil && f.Count() == 0:
		return kit.SeeOther(c, "/people#screens")
	case err != nil && !f.Take(err):
		return err
	}
	return s.peoplePage(c, http.StatusUnprocessableEntity, f)
}

func (s *pages) strike(c *echo.Context) error {
	id, err := strconv.ParseInt(c.Param("screen"), 10, 64)
	if err != nil {
		return base.ErrNotFound
	}
	if err := s.Shop.Strike(c.Request().Context(), s.Acting(c), id); err != nil {
		return err
	}
	return kit.SeeOther(c, "/people#screens")
}

func (s *pages) endSession(c *echo.Context) error {
	ctx := c.Request().Context()
	if err := s.EndSession(ctx, c.Param("session")); err != nil {
		return err
	}
	if err := s.Shop.TellJournal(ctx, s.Acting(c), base.JournalSign, "a session ended from the list"); err != nil {
		return err
	}
	return kit.SeeOther(c, "/people")
}

const shownLines = 200

type journalView struct {
	Find  string
	Lines []base.JournalLine
	More  bool
}

func (s *pages) showJournal(c *echo.Context) error {
	v := journalView{Find: c.QueryParam("q")}
	var err error
	if v.Lines, err = s.Shop.Journal(c.Request().Context(), v.Find, shownLines+1); err != nil {
		return err
	}
	if v.More = len(v.Lines) > shownLines; v.More {
		v.Lines = v.Lines[:shownLines]
	}
	return s.Render(c, http.StatusOK, "journal", "Journal", "settings", v)
}

// mostLines is how many lines the journal's table has at most, some years of a shop.
const mostLines = 200_000

func (s *pages) journalTable(c *echo.Context) error {
	lines, err := s.Shop.Journal(c.Request().Context(), c.QueryParam("q"), mostLines)
	if err != nil {
		return err
	}
	rows := make([][]string, len(lines))
	for i, l := range lines {
		rows[i] = []string{l.At.Format(time.RFC3339), l.By, l.Screen, l.Kind, l.What}
	}
	table, err := exchange.WriteTable([]string{"at", "by", "screen", "kind", "what"}, rows)
	if err != nil {
		return err
	}
	return kit.SendFile(c, "journal.csv", "text/csv; charset=utf-8", table)
}
