package kit

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"net"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/people"
	"yembo/web/form"
)

// Visitor is who a request comes from, where people have to sign in.
type Visitor struct {
	people.Member
	Screen *people.Screen // that is shared; nil for a browser of their own
}

// Limits of sessions.
const (
	sessionHolds = 7 * 24 * time.Hour
	sessionIdle  = 12 * time.Hour
	touchEvery   = 30 * time.Second // how often it is noted that a session goes on
)

// ScreenCookie keeps the key of a shared screen.
const ScreenCookie = "yembo_screen"

// The fields by which somebody is let in on any form that was sent: what it held goes on as it was. Their names begin with
// what no other field's does.
const (
	FieldWho      = "~name"
	FieldPassword = "~password"
	FieldPerson   = "~person"
	FieldPIN      = "~pin"
	FieldLender   = "~lender"
)

var letIn = []string{FieldWho, FieldPassword, FieldPerson, FieldPIN, FieldLender}

const visitorKey = "visitor"

// newSessions is the session manager over the data file.
func newSessions(kept scs.Store, secure bool) *scs.SessionManager {
	m := scs.New()
	m.Store = kept
	m.HashTokenInStore = true
	m.Lifetime, m.IdleTimeout = sessionHolds, sessionIdle
	m.Cookie.Name, m.Cookie.HttpOnly, m.Cookie.SameSite, m.Cookie.Secure = "yembo_session", true, http.SameSiteLaxMode, secure
	m.Cookie.Persist = true
	return m
}

// VisitorOf is who a request comes from, nil where nobody has to sign in.
func VisitorOf(c *echo.Context) *Visitor {
	v, _ := c.Get(visitorKey).(*Visitor)
	return v
}

// Guard asks who comes, where people have to sign in, and whether they may what they ask for. Who signs in, gives a PIN or is
// lent one does so on the very form that they sent: nothing that was typed is lost.
func (s *Site) Guard(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		right, named := RightOf(r.Method, c.Path(), r.PostForm)
		switch {
		case named:
		case c.Path() == "":
			right = people.None // there is no such page, whoever asks
		default:
			right = people.Manage
		}
		secured, err := s.Shop.Secured(r.Context())
		if err != nil || !secured {
			if err != nil {
				return err
			}
			return next(c)
		}
		if right == people.Open && !strings.HasPrefix(c.Path(), "/signin") {
			return next(c)
		}
		screen, err := s.screen(c)
		if err != nil {
			return err
		}
		who, last, err := s.comes(c, screen)
		if err != nil {
			return err
		}
		if r.Method == http.MethodPost && (r.PostForm.Has(FieldPerson) || r.PostForm.Has(FieldWho)) {
			if who, err = s.signsIn(c, screen); err != nil {
				return s.AskWho(c, screen, last, err)
			}
		}
		if right == people.Open {
			c.Set(visitorKey, who)
			return next(c)
		}
		if who == nil {
			return s.AskWho(c, screen, last, nil)
		}
		c.Set(visitorKey, who)
		grant := who.May(right)
		if grant == people.Lend && r.Method != http.MethodPost {
			grant = people.May // the form can be looked at: sending it asks for a PIN
		}
		if grant != people.May {
			lent, err := s.lent(c, who, right)
			if err != nil || !lent {
				return s.refuse(c, who, right, err)
			}
		}
		for _, name := range letIn {
			r.PostForm.Del(name)
			r.Form.Del(name)
		}
		return next(c)
	}
}

// screen is the shared screen that a request comes from, nil for none.
func (s *Site) screen(c *echo.Context) (*people.Screen, error) {
	cookie, err := c.Cookie(ScreenCookie)
	if err != nil {
		return nil, nil // it has none
	}
	return s.Shop.ScreenOf(c.Request().Context(), cookie.Value)
}

// ScreenOf is the shared screen that a request comes from, nil for none, and who was last at it.
func (s *Site) ScreenOf(c *echo.Context) (screen *people.Screen, last string, err error) {
	if screen, err = s.screen(c); screen != nil {
		last = screen.LastBy
	}
	return screen, last, err
}

// comes is who the session of a request belongs to, nil for nobody; last is who worked at a shared screen before it was left
// alone for long.
func (s *Site) comes(c *echo.Context, screen *people.Screen) (who *Visitor, last string, err error) {
	token := ""
	if cookie, err := c.Cookie(s.sessions.Cookie.Name); err == nil {
		token = cookie.Value
	}
	ctx, err := s.sessions.Load(c.Request().Context(), token)
	if err != nil {
		return nil, "", err
	}
	c.SetRequest(c.Request().WithContext(ctx))
	id := s.sessions.GetInt64(ctx, "person")
	if screen != nil {
		last = screen.LastBy
	}
	at := s.sessions.GetInt64(ctx, "screen")
	if id == 0 || (screen == nil) != (at == 0) || screen != nil && at != screen.ID {
		return nil, last, nil // a session of a screen that was struck off is none
	}
	m, err := s.Shop.Person(ctx, id)
	switch {
	case errors.Is(err, base.ErrNotFound):
		return nil, last, nil
	case err != nil:
		return nil, last, err
	case m.Left != nil:
		return nil, last, nil
	}
	touched := time.Unix(s.sessions.GetInt64(ctx, "touched"), 0)
	if screen != nil && time.Since(touched) > s.Settings(c).PINAfter() {
		return nil, m.Name, nil
	}
	if time.Since(touched) > touchEvery || time.Until(touched) > touchEvery {
		s.sessions.Put(ctx, "touched", time.Now().Unix())
		err = s.keepSession(c)
	}
	return &Visitor{m, screen}, last, err
}

// keepSession stores the session of a request, and sends its cookie.
func (s *Site) keepSession(c *echo.Context) error {
	ctx := c.Request().Context()
	token, expiry, err := s.sessions.Commit(ctx)
	if err != nil {
		return err
	}
	s.sessions.WriteSessionCookie(ctx, c.Response(), token, expiry)
	return nil
}

// Address is where a request comes from, without its port.
func Address(c *echo.Context) string {
	host, _, err := net.SplitHostPort(c.Request().RemoteAddr)
	if err != nil {
		return c.Request().RemoteAddr
	}
	return host
}

// signsIn lets in who gives a name and a password, or at a shared screen a face and a PIN, in a session anew.
func (s *Site) signsIn(c *echo.Context, screen *people.Screen) (*Visitor, error) {
	f, ctx := c.Request().PostForm, c.Request().Context()
	var m people.Member
	var err error
	how := "password"
	at := base.Actor{}
	if screen != nil {
		at.Screen = screen.Name
	}
	if f.Get(FieldPIN) != "" && screen != nil {
		how = "PIN"
		id, _ := strconv.ParseInt(f.Get(FieldPerson), 10, 64) // no number is nobody
		m, err = s.Shop.ByPIN(ctx, id, f.Get(FieldPIN), at, Address(c))
	} else {
		m, err = s.Shop.SignIn(ctx, f.Get(FieldWho), f.Get(FieldPassword), Address(c))
	}
	if err != nil {
		return nil, err
	}
	if err := s.startSession(c, m.ID, screen); err != nil {
		return nil, err
	}
	at.Name = m.Name
	if screen != nil {
		if err := s.Shop.SeenAt(ctx, screen.ID, m.Name); err != nil {
			return nil, err
		}
	}
	return &Visitor{m, screen}, s.Shop.TellJournal(ctx, at, base.JournalSign, how)
}

// startSession begins a session for a person: its token is a new one.
func (s *Site) startSession(c *echo.Context, person int64, screen *people.Screen) error {
	ctx := c.Request().Context()
	if err := s.sessions.RenewToken(ctx); err != nil {
		return err
	}
	now := time.Now().Unix()
	s.sessions.Put(ctx, "person", person)
	s.sessions.Put(ctx, "since", now)
	s.sessions.Put(ctx, "touched", now)
	s.sessions.Put(ctx, "from", Address(c))
	s.sessions.Put(ctx, "screen", int64(0))
	if screen != nil {
		s.sessions.Put(ctx, "screen", screen.ID)
	}
	return s.keepSession(c)
}

// lent reports whether a colleague who may lends their PIN for this once; the journal tells of it.
func (s *Site) lent(c *echo.Context, who *Visitor, right people.Right) (bool, error) {
	f := c.Request().PostForm
	if !f.Has(FieldLender) || !right.Lendable() {
		return false, nil
	}
	ctx, me := c.Request().Context(), who.actor()
	id, _ := strconv.ParseInt(f.Get(FieldLender), 10, 64) // no number is nobody
	lender, err := s.Shop.ByPIN(ctx, id, f.Get(FieldPIN), me, Address(c))
	if err != nil {
		return false, err
	}
	if lender.May(right) != people.May {
		return false, hw.Faults{{Pointer: "/pin", Text: lender.Name + " may not do this either"}}
	}
	by := base.Actor{Name: lender.Name, Screen: me.Screen}
	return true, s.Shop.TellJournal(ctx, by, base.JournalRights, "PIN lent to "+me.Name+", once: "+hw.LowerFirst(right.Says()))
}

func (v *Visitor) actor() base.Actor {
	a := base.Actor{Name: v.Name}
	if v.Screen != nil {
		a.Screen = v.Screen.Name
	}
	return a
}

// SignedIn is a session in which somebody is signed in.
type SignedIn struct {
	ID, Name, Screen, From string
	Since, Seen            time.Time
}

// SignedIn lists the sessions of browsers, the newest first.
func (s *Site) SignedIn(ctx context.Context) ([]SignedIn, error) {
	all, err := s.Shop.SessionStore().AllCtx(ctx)
	if err != nil {
		return nil, err
	}
	who, err := s.Shop.People.People(ctx)
	if err != nil {
		return nil, err
	}
	var out []SignedIn
	for _, token := range slices.Sorted(maps.Keys(all)) {
		_, values, err := s.sessions.Codec.Decode(all[token])
		if err != nil {
			continue // of an earlier version: it opens nothing
		}
		number := func(name string) int64 { n, _ := values[name].(int64); return n }
		from, _ := values["from"].(string)
		x := SignedIn{ID: token, From: from, Since: time.Unix(number("since"), 0), Seen: time.Unix(number("touched"), 0)}
		for i := range who {
			if who[i].ID == number("person") {
				x.Name = who[i].Name
			}
		}
		if x.Name == "" {
			continue
		}
		if number("screen") != 0 {
			x.Screen = "shared screen"
		}
		out = append(out, x)
	}
	slices.SortStableFunc(out, func(a, b SignedIn) int { return b.Since.Compare(a.Since) })
	return out, nil
}

// EndSession ends a session by what the list names it.
func (s *Site) EndSession(ctx context.Context, id string) error {
	return s.Shop.SessionStore().DeleteCtx(ctx, id)
}

// SignOut ends the session of a request.
func (s *Site) SignOut(c *echo.Context) error {
	token := ""
	if cookie, err := c.Cookie(s.sessions.Cookie.Name); err == nil {
		token = cookie.Value
	}
	ctx, err := s.sessions.Load(c.Request().Context(), token)
	if err != nil {
		return err
	}
	c.SetRequest(c.Request().WithContext(ctx))
	if err := s.sessions.Destroy(ctx); err != nil {
		return err
	}
	s.sessions.WriteSessionCookie(ctx, c.Response(), "", time.Time{})
	return nil
}

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
	v.Password = len(v.People) == 0 || r.URL.Query().Get("with") == "password" || r.PostForm.Has(FieldWho)
	return s.Render(c, status, "signin", "Who works here?", "", v)
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
			"text": fmt.Sprintf("%s: that may %s.", v.Says, strings.Join(v.Who, ", "))})
	}
	return s.Render(c, http.StatusForbidden, "refused", "Not yours to do", "", v)
}
