package kit

import (
	"bytes"
	"crypto/rand"
	"fmt"
	"html/template"
	"io"
	"io/fs"
	"net/http"
	"path"
	"strings"
	"time"
	"unicode"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/web/ui"
)

// pages holds one parsed template a page, each with the layout and the partials.
type pages struct{ byName map[string]*template.Template }

func loadPages(a *assets) (*pages, error) {
	funcs := template.FuncMap{
		"asset": a.url, "day": hw.Day, "stamp": Stamp, "money": hw.Money, "source": sourceWords,
		"dict": dict, "join": strings.Join, "upper": hw.UpperFirst, "gb": GBWords, "sentence": Sentence, "ownfield": isOwnField,
		"caution": cautionWords, "measure": hw.FieldSays, "fieldname": FieldName,
		"add": func(a, b int) int { return a + b }, "count": hw.Count, "digits": func() []int {
			return []int{1, 2, 3, 4, 5, 6,
				7, 8, 9}
		},
		"clockfrom": ClockFrom,
		"add2":      func(a, b float64) float64 { return a + b },
		"mindLine":  func(i int) float64 { return 3.7 * float64(i) },
	}
	base, err := template.New("base").Funcs(funcs).ParseFS(ui.Templates, "templates/kit/layout.html",
		"templates/*/part_*.html")
	if err != nil {
		return nil, err
	}
	files, err := fs.Glob(ui.Templates, "templates/*/page_*.html")
	if err != nil {
		return nil, err
	}
	p := &pages{byName: map[string]*template.Template{}}
	for _, file := range files {
		t, err := base.Clone()
		if err != nil {
			return nil, err
		}
		if _, err := t.ParseFS(ui.Templates, file); err != nil {
			return nil, err
		}
		name := strings.TrimSuffix(strings.TrimPrefix(path.Base(file), "page_"), ".html")
		if p.byName[name] != nil {
			return nil, fmt.Errorf("there are two pages %q", name)
		}
		p.byName[name] = t
	}
	return p, nil
}

// frame is what the layout needs, with the page's own view in it.
type frame struct {
	Title    string
	Page     string // the name of its template
	Section  string // the entry of the head that is marked
	Workshop string
	Actor    string
	Address  []string // of the workshop, for prints
	Others   []string // who else works here
	Theme    string   // "", light or dark
	Path     string
	CSRF     string
	Token    string   // makes a form sent twice store one thing
	Bare     bool     // a print sheet: no head
	Public   bool     // shown to a customer, or to who is not known yet: nothing of the shop's own
	Found    string   // what the code was that led to the page
	Notices  []string // what everybody has to know of the data folder
	SignedIn bool     // somebody is
	Screen   string   // that is shared, "" for a browser of somebody's own
	View     any
}

// section is a part of the application, with the key that goes there after g.
type section struct{ ID, Name, Path, Key string }

// sections are the parts of the application in the order of the menu.
var sections = []section{{"bench", "Bench", "/", "b"}, {"machines", "Machines", "/machines", "a"},
	{"models", "Models", "/models", "m"}, {"customers", "Customers", "/customers", "c"}, {"parts", "Parts", "/parts", "p"},
	{"reckoner", "Reckoner", "/reckoner", "r"}, {"settings", "Settings", "/settings", "s"}}

// Sections are the parts of the application.
func (frame) Sections() []section { return sections }

// SectionName is what the menu calls the part that the page belongs to, "" for none.
func (f frame) SectionName() string {
	for _, x := range sections {
		if x.ID == f.Section {
			return x.Name
		}
	}
	return ""
}

// bare are the pages that are print sheets.
var bare = map[string]bool{
	"card":        true,
	"sheet":       true,
	"mat":         true,
	"label":       true,
	"intakesheet": true,
	"quote":       true,
	"link":        true,
	"invoice":     true,
	"report":      true,
}

const themeCookie = "yembo_theme"

// Render writes a page. It is rendered whole before the first byte is sent, so that
// a fault in a template becomes an error page and never half a page.
func (s *Site) Render(c *echo.Context, status int, page, title, section string, view any) error {
	t, ok := s.pages.byName[page]
	if !ok {
		return fmt.Errorf("there is no page %q", page)
	}
	how := s.Settings(c)
	f := frame{
		Title:    title,
		Page:     page,
		Section:  section,
		Workshop: s.WorkshopName(how),
		Actor:    s.ActingIn(c, how).Name,
		Others:   s.others(c, how),
		Address:  strings.FieldsFunc(how.Address, func(r rune) bool { return r == '\n' }),
		View:     view,
		Path:     c.Request().URL.RequestURI(),
		Token:    rand.Text(),
		Bare:     bare[page],
		Found:    foundBy(c),
		Public:   page == "link" || page == "signin" || page == "enrol" || s.Outside,
		Notices:  s.Shop.Notices(),
	}
	if c.Request().Method != http.MethodGet {
		f.Path = "/"
	}
	if v := VisitorOf(c); v != nil {
		f.SignedIn = true
		if v.Screen != nil {
			f.Screen = v.Screen.Name
		}
	}
	if token, ok := c.Get("csrf").(string); ok {
		f.CSRF = token
	}
	if cookie, err := c.Cookie(themeCookie); err == nil && (cookie.Value == "light" || cookie.Value == "dark") {
		f.Theme = cookie.Value
	}
	var out bytes.Buffer
	if err := t.ExecuteTemplate(&out, "layout", f); err != nil {
		return err
	}
	shown := out.Bytes()
	if v := VisitorOf(c); v != nil && v.Role != base.Owner {
		shown = withoutWhatMayNot(shown, v)
	}
	return c.HTMLBlob(status, shown)
}

// RenderPart writes one part of a page, for a script that puts it in its place.
func (s *Site) RenderPart(c *echo.Context, status int, page, part string, view any) error {
	var out bytes.Buffer
	if err := s.WritePart(&out, page, part, view); err != nil {
		return err
	}
	return c.HTMLBlob(status, out.Bytes())
}

// WritePart makes one part of a page, for what goes out as a file.
func (s *Site) WritePart(out io.Writer, page, part string, view any) error {
	t, ok := s.pages.byName[page]
	if !ok {
		return fmt.Errorf("there is no page %q", page)
	}
	return t.ExecuteTemplate(out, part, view)
}

// cautionWords puts the code of a caution into words.
func cautionWords(code hw.CautionCode) string { return hw.Cautions.Says(code) }

// setTheme keeps the choice of theme in a cookie and goes back to the page.
func (s *Site) setTheme(c *echo.Context) error {
	theme := c.FormValue("theme")
	if theme != "light" && theme != "dark" {
		theme = ""
	}
	c.SetCookie(&http.Cookie{Name: themeCookie, Value: theme, Path: "/", MaxAge: 365 * 24 * 3600, HttpOnly: true,
		SameSite: http.SameSiteStrictMode})
	back := c.FormValue("back")
	return SeeOther(c, back)
}

func Stamp(t time.Time) string { return t.Format("2 Jan 06, 15:04") }

func GBWords(m hw.Maybe[hw.Dec]) string {
	if v, ok := m.Get(); ok {
		return v.String() + " GB"
	}
	return "not yet known"
}

// sourceWords says how a fact is known; its mark stands without any source too.
func sourceWords(source any) string { return hw.Sources.Says(hw.Source(fmt.Sprint(source))) }

// Sentence gives a text a capital letter and a full stop.
func Sentence(text string) string {
	r := []rune(text)
	if len(r) == 0 {
		return ""
	}
	// A name with a digit, such as m2b, stays as the record has it.
	if first, _, _ := strings.Cut(text, " "); !strings.ContainsAny(first, "0123456789") {
		r[0] = unicode.ToUpper(r[0])
	}
	if end := r[len(r)-1]; end == '.' || end == '?' {
		return string(r)
	}
	return string(r) + "."
}

// dict hands several values to a partial.
func dict(pairs ...any) (map[string]any, error) {
	if len(pairs)%2 != 0 {
		return nil, fmt.Errorf("dict: a name without a value")
	}
	out := map[string]any{}
	for i := 0; i < len(pairs); i += 2 {
		name, ok := pairs[i].(string)
		if !ok {
			return nil, fmt.Errorf("dict: %v is no name", pairs[i])
		}
		out[name] = pairs[i+1]
	}
	return out, nil
}

// FieldName is a form's field in words: its last part, as pages call it.
func FieldName(name string) string { return hw.FieldSays(name[strings.LastIndexAny(name, "/:")+1:]) }
