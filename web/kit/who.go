package kit

import (
	"context"
	"errors"
	"maps"
	"net"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/people"
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
		if s.Outside {
			return next(c) // nobody signs in at the customers' door
		}
		r := c.Request()
		right, named := RightOf(r.Method, c.Path(), r.Form)
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
			return s.told(c, right, next)
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
		// An empty name asks for the page with a password, with what was typed.
		if r.Method == http.MethodPost && r.PostForm.Has(FieldWho) && r.PostForm.Get(FieldWho) == "" {
			return s.AskWho(c, screen, last, nil)
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
		return s.told(c, right, next)
	}
}

// told goes on, and tells the journal what was taken out of the shop, removed or brought back.
func (s *Site) told(c *echo.Context, right people.Right, next echo.HandlerFunc) error {
	says := "exported: "
	switch {
	case right == people.Export:
	case right == people.Remove && c.Request().Method == http.MethodPost:
		says = "removed, restored or forgotten: "
	default:
		return next(c)
	}
	if err := next(c); err != nil {
		return err
	}
	if r, err := echo.UnwrapResponse(c.Response()); err != nil || r.Status >= http.StatusBadRequest {
		return err
	}
	return s.Shop.TellJournal(c.Request().Context(), s.Acting(c), base.JournalData, says+c.Request().URL.Path)
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
	case m.Left != nil, s.sessions.GetString(ctx, "stamp") != m.Stamp():
		return nil, last, nil // they have left, or the password or PIN that they came in with is another by now
	}
	touched := time.Unix(s.sessions.GetInt64(ctx, "touched"), 0)
	if screen != nil && time.Since(touched) > s.Settings(c).PINAfter() {
		return nil, m.Name, nil
	}
	if asksByItself(c.Path()) {
		return &Visitor{m, screen}, last, nil // nobody touched it
	}
	if time.Since(touched) > touchEvery || time.Until(touched) > touchEvery {
		s.sessions.Put(ctx, "touched", time.Now().Unix())
		err = s.keepSession(c)
	}
	return &Visitor{m, screen}, last, err
}

// asksByItself reports whether a page asks for a route without anybody doing something.
func asksByItself(route string) bool {
	return strings.HasSuffix(route, "/news") || strings.HasSuffix(route, "/events")
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
	if err := s.startSession(c, &m, screen); err != nil {
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
func (s *Site) startSession(c *echo.Context, m *people.Member, screen *people.Screen) error {
	ctx := c.Request().Context()
	if err := s.sessions.RenewToken(ctx); err != nil {
		return err
	}
	now := time.Now().Unix()
	s.sessions.Put(ctx, "person", m.ID)
	s.sessions.Put(ctx, "stamp", m.Stamp())
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
	screens, err := s.Shop.Screens(ctx)
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
			if stamp, _ := values["stamp"].(string); who[i].ID == number("person") && stamp == who[i].Stamp() && who[i].Left == nil {
				x.Name = who[i].Name
			}
		}
		for i := range screens {
			if screens[i].ID == number("screen") {
				x.Screen = screens[i].Name
			}
		}
		if x.Name == "" || x.Screen == "" && number("screen") != 0 {
			continue // it opens nothing any more
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
