package kit

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"yembo/core/hw"
	"yembo/shop/people"
	"yembo/web/form"

	"github.com/labstack/echo/v5"
)

// WhoView is the page that asks who comes: by name and password, at a shared screen by face and PIN.
type WhoView struct {
	Screen   *people.Screen
	People   []people.Member // with a PIN
	Last     string          // who was here last
	Chosen   int64
	Name     string
	Fault    string
	Action   string // where what was typed goes on to
	Back     string
	Kept     []form.Field
	Files    bool // the form had files, which have to be chosen again
	Password bool // it is asked for, not a PIN
	Open     *OpenView
	Seen     string // when the screen was used last
}

// AskWho shows the page that asks who comes, with what was typed kept in it.
func (s *Site) AskWho(c *echo.Context, screen *people.Screen, last string, why error) error {
	r := c.Request()
	if strings.Contains(r.Header.Get("Accept"), "application/json") {
		return c.JSON(http.StatusUnauthorized, map[string]any{"title": "Who works here?",
			"text": "It is asked again who works at this screen. What was ticked stays in this browser: sign in, and it is sent."})
	}
	v := WhoView{Screen: screen, Last: last, Action: "/signin", Back: Within(r.URL.RequestURI())}
	status := http.StatusOK
	switch {
	case r.URL.Path == "/signin":
		v.Back = Within(r.FormValue("back"))
	case r.Method == http.MethodPost:
		v.Action, v.Back, v.Files = Within(r.URL.RequestURI()), "", r.MultipartForm != nil && len(r.MultipartForm.File) > 0
		v.Kept = keptOf(r)
	case r.Method == http.MethodGet && why == nil:
		return SeeOther(c, "/signin?back="+url.QueryEscape(v.Back))
	}
	if why != nil || r.Method == http.MethodPost {
		status = http.StatusUnauthorized
	}
	v.Name, v.Chosen = r.FormValue(FieldWho), whole(r.FormValue(FieldPerson))
	if v.Chosen == 0 {
		v.Chosen = whole(r.URL.Query().Get("person"))
	}
	if v.Fault = WhyNot(why); v.Fault == "" && why != nil {
		return why
	}
	if screen != nil {
		all, err := s.Shop.People.People(r.Context())
		if err != nil {
			return err
		}
		for i := range all {
			if all[i].Left == nil && all[i].HasPIN {
				v.People = append(v.People, all[i])
			}
		}
	}
	if screen != nil {
		var err error
		if v.Open, err = s.openOn(r.Context(), screen.Bench); err != nil {
			return err
		}
		if screen.Seen != nil {
			v.Seen = Stamp(*screen.Seen)
		}
	}
	v.Password = len(v.People) == 0 || r.URL.Query().Get("with") == "password" || r.PostForm.Has(FieldWho)
	return s.Render(c, status, "signin", "Who works here?", "", v)
}

// AskFor tells a page with ticks of a colleague that it is they who are asked for; the ticks stay in the browser until then.
func (s *Site) AskFor(c *echo.Context, name string) error {
	all, err := s.Shop.People.People(c.Request().Context())
	if err != nil {
		return err
	}
	told := map[string]any{"title": "Ticks of " + name + " wait",
		"text": "They stay in this browser until " + name + " gives the PIN here."}
	for i := range all {
		if all[i].Name == name {
			told["person"] = all[i].ID
		}
	}
	return c.JSON(http.StatusUnauthorized, told)
}

func whole(text string) int64 {
	n, err := strconv.ParseInt(text, 10, 64)
	if err != nil {
		return 0
	}
	return n
}

// WhyNot is why somebody was not let in, "" for what is no reason of that kind.
func WhyNot(err error) string {
	var wrong people.WrongError
	var wait people.WaitError
	var faults hw.Faults
	switch {
	case errors.As(err, &wrong):
		return Sentence(wrong.Error())
	case errors.As(err, &wait):
		return Sentence(wait.Error())
	case errors.As(err, &faults):
		return Sentence(faults[0].Text)
	}
	return ""
}

// keptOf is what a form held, without what lets in.
func keptOf(r *http.Request) []form.Field {
	var out []form.Field
	for _, name := range SortedKeys(r.PostForm) {
		if name == CSRFField || slices.Contains(letIn, name) {
			continue
		}
		for _, value := range r.PostForm[name] {
			out = append(out, form.Field{Name: name, Value: value})
		}
	}
	return out
}

// RefusedView is the page of who may not: who may, and what was typed.
type RefusedView struct {
	Says    string
	Who     []string        // may
	Lenders []people.Member // may, and have a PIN
	Fault   string
	Action  string
	Kept    []form.Field
	Chosen  int64
	Files   bool
}

// refuse shows who may what somebody may not. A colleague can lend a PIN for what is not the owner's alone.
func (s *Site) refuse(c *echo.Context, who *Visitor, right people.Right, why error) error {
	r := c.Request()
	fault := WhyNot(why)
	if why != nil && fault == "" {
		return why
	}
	all, err := s.Shop.People.People(r.Context())
	if err != nil {
		return err
	}
	v := RefusedView{Says: right.Says(), Fault: fault, Chosen: whole(r.FormValue(FieldLender))}
	for i := range all {
		if m := &all[i]; m.Left == nil && m.May(right) == people.May {
			v.Who = append(v.Who, m.Name)
			if m.HasPIN && m.ID != who.ID && right.Lendable() && r.Method == http.MethodPost {
				v.Lenders = append(v.Lenders, *m)
			}
		}
	}
	if r.Method == http.MethodPost {
		v.Action, v.Kept = Within(r.URL.RequestURI()), keptOf(r)
		v.Files = r.MultipartForm != nil && len(r.MultipartForm.File) > 0
	}
	if strings.Contains(r.Header.Get("Accept"), "application/json") {
		return c.JSON(http.StatusForbidden, map[string]any{"title": "Not yours to do",
			"text": fmt.Sprintf("%s: only %s may do this.", v.Says, strings.Join(v.Who, ", "))})
	}
	return s.Render(c, http.StatusForbidden, "refused", "Not yours to do", "", v)
}
