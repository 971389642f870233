package people_test

import (
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/shop/base"
	"yembo/shop/people"
	"yembo/web"
	"yembo/web/kit"
	"yembo/web/webtest"
)

const secret, pinOkell, pinAnsty, pinWray = "ferry boat lantern", "4711", "2580", "1357"

// secured is the demo's application with an owner who has a password, a technician and somebody at the counter, by their numbers.
func secured(t *testing.T) (e *echo.Echo, s *kit.Config) {
	t.Helper()
	e, _, sh := webtest.Started(t)
	for i, x := range []people.Entry{{Role: base.Owner, Password: secret, PIN: pinOkell}, {Role: base.Technician, PIN: pinAnsty},
		{Role: base.Counter, PIN: pinWray}} {
		m, err := sh.Person(t.Context(), int64(i+1))
		if err != nil {
			t.Fatal(err)
		}
		x.ID, x.Version, x.Name = m.ID, m.Version, m.Name
		if err := sh.SavePerson(t.Context(), base.Actor{Name: "test"}, "", x); err != nil {
			t.Fatal(err)
		}
	}
	return e, &kit.Config{Shop: sh}
}

// browser keeps cookies, as one does.
type browser struct {
	t   *testing.T
	e   *echo.Echo
	jar map[string]string

	last *httptest.ResponseRecorder
}

func (b *browser) do(method, path string, form url.Values) *httptest.ResponseRecorder {
	b.t.Helper()
	if form != nil {
		form.Set("csrf", b.jar["yembo_csrf"])
	}
	w := webtest.Request(b.e, method, path, form, func(r *http.Request) {
		webtest.SameOrigin(r)
		for name, value := range b.jar {
			r.AddCookie(&http.Cookie{Name: name, Value: value})
		}
	})
	b.last = w
	for _, c := range w.Result().Cookies() {
		b.jar[c.Name] = c.Value
	}
	return w
}

func newBrowser(t *testing.T, e *echo.Echo) *browser {
	b := &browser{t: t, e: e, jar: map[string]string{}}
	b.do("GET", "/signin", nil)
	return b
}

// TestRights: each route names its right, each right belongs to a route, and each role is let in where the table says so.
func TestRights(t *testing.T) {
	e, cfg := secured(t)
	named := map[people.Right]bool{people.None: true, people.Open: true}
	seen := 0
	roles := map[string]people.Member{}
	for _, id := range []int64{1, 2, 3} {
		m, err := cfg.Shop.Person(t.Context(), id)
		if err != nil {
			t.Fatal(err)
		}
		roles[m.Role] = m
	}
	as := map[string]*browser{}
	code, err := cfg.Shop.NewCode(t.Context(), base.Actor{Name: "test"}, "Bench 1", 1, 2)
	if err != nil {
		t.Fatal(err)
	}
	at := newBrowser(t, e) // a bench on which work goes on opens there
	if w := at.do("POST", "/enrol", url.Values{"code": {code.Shown()}}); w.Code != http.StatusSeeOther {
		t.Fatalf("the screen is not enrolled: %d", w.Code)
	}
	for role, pin := range map[string]string{base.Owner: pinOkell, base.Technician: pinAnsty, base.Counter: pinWray} {
		b := newBrowser(t, e)
		b.jar[kit.ScreenCookie] = at.jar[kit.ScreenCookie]
		face := url.Values{"~person": {fmt.Sprint(roles[role].ID)}, "~pin": {pin}}
		if w := b.do("POST", "/signin", face); w.Code != http.StatusSeeOther {
			t.Fatalf("%s is not let in: %d", role, w.Code)
		}
		if to := b.last.Header().Get("Location"); to != "/jobs/4/run" {
			t.Errorf("the screen of bench 1 opens on %s", to)
		}
		as[role] = b
	}
	parameter := regexp.MustCompile(`:[a-z]+`)
	for _, r := range e.Router().Routes() {
		right, ok := kit.RightOf(r.Method, r.Path, url.Values{})
		if !ok {
			if r.Method != "" && !strings.HasPrefix(r.Method, "echo_") {
				t.Errorf("%s %s names no right", r.Method, r.Path)
			}
			continue
		}
		seen++
		named[right] = true
		if right.Says() == "" && right != people.None && right != people.Open {
			t.Errorf("%s %s asks for %q, which is no row of the table", r.Method, r.Path, right)
		}
		if right == people.Open {
			continue
		}
		path := parameter.ReplaceAllString(strings.TrimSuffix(r.Path, "*"), "no-such")
		form := url.Values{}
		if r.Method == "GET" {
			form = nil
		}
		if w := newBrowser(t, e).do(r.Method, path, form); w.Code != http.StatusSeeOther && w.Code != http.StatusUnauthorized {
			t.Errorf("%s %s answers %d to somebody unknown", r.Method, r.Path, w.Code)
		}
		for role, b := range as {
			m := roles[role]
			grant := m.May(right)
			refused := grant == people.No || grant == people.Lend && r.Method == "POST"
			if w := b.do(r.Method, path, form); (w.Code == http.StatusForbidden) != refused {
				t.Errorf("%s %s, asked for by the %s: %d, and %s is %q", r.Method, r.Path, role, w.Code, right, grant)
			}
		}
	}
	for _, row := range people.Rights {
		if !named[row.Right] && row.Right != people.Sign && row.Right != people.TakeBack {
			t.Errorf("no route asks for the right %q", row.Right)
		}
	}
	if seen < 160 {
		t.Errorf("only %d routes were tried", seen)
	}
}

// TestSigningIn: who is unknown keeps what they typed and goes on with it; wrong tries wait; a right is lent for once; who has
// left, or whose screen was struck off, is out at once; the journal tells of all of it and names no secret.
func TestSigningIn(t *testing.T) {
	e, cfg := secured(t)
	ctx := t.Context()
	b := newBrowser(t, e)
	talk := url.Values{"token": {"t1"}, "/who": {"J. Farrow"}, "/how": {"phone"}, "/said": {"rings back"}, "/agreed": {"waits"}}
	if w := b.do("POST", "/jobs/8/contacts", talk); w.Code != http.StatusUnauthorized || !strings.Contains(w.Body.String(),
		"rings back") {
		t.Fatalf("what was typed is not kept: %d", w.Code)
	}
	talk.Set("~name", "r.  okell")
	talk.Set("~password", "something else")
	if w := b.do("POST", "/jobs/8/contacts", talk); w.Code != http.StatusUnauthorized || strings.Contains(w.Body.String(),
		"something else") ||
		!strings.Contains(w.Body.String(), "next try counts after 2 s") {
		t.Errorf("a wrong password: %d", w.Code)
	}
	talk.Set("~password", secret)
	if w := b.do("POST", "/jobs/8/contacts", talk); !strings.Contains(w.Body.String(), "before the next try") {
		t.Errorf("a try made at once: %d", w.Code)
	}
	time.Sleep(2100 * time.Millisecond)
	if w := b.do("POST", "/jobs/8/contacts", talk); w.Code != http.StatusSeeOther {
		t.Fatalf("the form does not go on: %d %.300s", w.Code, w.Body)
	}
	if body := b.do("GET", "/jobs/8", nil).Body.String(); !strings.Contains(body, "rings back") || !strings.Contains(body,
		"Sign out") {
		t.Error("what was typed before signing in is not on the job")
	}

	// What a colleague ticked on this screen waits for them; the browser is told whose PIN is asked for.
	ticks := httptest.NewRequest("POST", "http://localhost/jobs/4/run/sync",
		strings.NewReader(`{"events": [{"client": "c1", "by": "T. Ansty", "fields": {"kind": "note", "text": "x"}}]}`))
	ticks.Header.Set("Content-Type", "application/json")
	ticks.Header.Set("Accept", "application/json")
	ticks.Header.Set("X-CSRF-Token", b.jar["yembo_csrf"])
	webtest.SameOrigin(ticks)
	for name, value := range b.jar {
		ticks.AddCookie(&http.Cookie{Name: name, Value: value})
	}
	told := httptest.NewRecorder()
	if e.ServeHTTP(told, ticks); told.Code != http.StatusUnauthorized || !strings.Contains(told.Body.String(), `"person":2`) {
		t.Errorf("ticks of a colleague go in as another's: %d %s", told.Code, told.Body)
	}

	code, err := cfg.Shop.NewCode(ctx, base.Actor{Name: "R. Okell"}, "Counter", 0, 2)
	if err != nil {
		t.Fatal(err)
	}
	tablet := newBrowser(t, e)
	if w := tablet.do("POST", "/enrol", url.Values{"code": {strings.ToLower(code.Text)}}); w.Code != http.StatusSeeOther {
		t.Fatalf("enrolling: %d", w.Code)
	}
	if w := newBrowser(t, e).do("POST", "/enrol", url.Values{"code": {code.Text}}); w.Code != http.StatusUnprocessableEntity {
		t.Errorf("a code is taken twice: %d", w.Code)
	}
	if w := tablet.do("POST", "/signin", url.Values{"~person": {"3"}, "~pin": {pinWray},
		"back": {"https://evil.example/"}}); w.Code !=
		http.StatusSeeOther || w.Header().Get("Location") != "/machines/new" {
		t.Errorf("at the counter's screen: %d %s", w.Code, w.Header().Get("Location"))
	}
	wish := url.Values{"token": {"w1"}, "seen": {""}, "memory_gb": {"48"}}
	w := tablet.do("POST", "/machines/8/wish", wish)
	if w.Code != http.StatusForbidden || !strings.Contains(w.Body.String(), `value="48"`) ||
		!strings.Contains(w.Body.String(), "R. Okell") {
		t.Errorf("the counter plans: %d", w.Code)
	}
	wish.Set("~lender", "2")
	wish.Set("~pin", pinAnsty)
	if w := tablet.do("POST", "/machines/8/wish", wish); w.Code == http.StatusForbidden {
		t.Errorf("a PIN that was lent counts for nothing: %d", w.Code)
	}
	if w := tablet.do("POST", "/machines/8/wish", url.Values{"token": {"w2"}, "memory_gb": {"48"}}); w.Code != http.StatusForbidden {
		t.Errorf("a PIN was lent for more than once: %d", w.Code)
	}
	if body := tablet.do("GET", "/settings", nil).Body.String(); !strings.Contains(body, `href="/people" hidden`) {
		t.Error("the way to people is shown to the counter")
	}
	screens, err := cfg.Shop.Screens(ctx)
	if err != nil || len(screens) != 1 || screens[0].LastBy != "C. Wray" {
		t.Fatalf("%+v, %v", screens, err)
	}
	if err := cfg.Shop.Strike(ctx, base.Actor{Name: "R. Okell"}, screens[0].ID); err != nil {
		t.Fatal(err)
	}
	if w := tablet.do("GET", "/jobs", nil); w.Code != http.StatusSeeOther || !strings.HasPrefix(w.Header().Get("Location"),
		"/signin") {
		t.Errorf("a screen that was struck off goes on: %d", w.Code)
	}

	lines, err := cfg.Shop.Journal(ctx, "", 100)
	if err != nil {
		t.Fatal(err)
	}
	var journal strings.Builder
	for _, l := range lines {
		fmt.Fprintf(&journal, "%s at %s: %s\n", l.By, l.Screen, l.What)
	}
	for _, want := range []string{"wrong password of R. Okell", "R. Okell at : password", "C. Wray at Counter: PIN",
		"T. Ansty at Counter: PIN lent to C. Wray, once: plan upgrades", "screen Counter struck off"} {
		if !strings.Contains(journal.String(), want) {
			t.Errorf("the journal does not tell %q:\n%s", want, journal.String())
		}
	}
	for _, no := range []string{secret, pinWray, pinAnsty, "something else", "Farrow"} {
		if strings.Contains(journal.String(), no) {
			t.Errorf("the journal tells %q", no)
		}
	}
	stale := url.Values{"token": {"p1"}, "version": {"1"}, "/name": {"T. Ansty"}, "/role": {"technician"},
		"/password": {"a new long one"}}
	if w := b.do("POST", "/people/2", stale); w.Code != http.StatusConflict || strings.Contains(w.Body.String(), "a new long one") {
		t.Errorf("a person changed meanwhile: %d, or the password is shown", w.Code)
	}
	export := b.do("GET", "/parts/export.csv", nil)
	if told, err := cfg.Shop.Journal(ctx, "exported: /parts/export.csv", 5); err != nil || export.Code != http.StatusOK ||
		len(told) != 1 {
		t.Errorf("an export, %d: %v, %v", export.Code, told, err)
	}
	// Who works here is not changed by the settings any more: a right to set prices lets nobody in.
	how, err := cfg.Shop.Settings(ctx)
	if err != nil {
		t.Fatal(err)
	}
	next := how
	next.Technicians = []string{"E. Vil"}
	if err := cfg.Shop.SaveSettings(ctx, base.Actor{Name: "C. Wray"}, how, next); err != nil {
		t.Fatal(err)
	}
	how, err = cfg.Shop.Settings(ctx)
	if err != nil {
		t.Fatal(err)
	}
	if next = how; how.ServeAt != "" {
		t.Fatal("it answers others before it was told to")
	}
	for address, ok := range map[string]bool{"0.0.0.0": false, "0.0.0.0:99999": false, "0.0.0.0:8423": true} {
		next.ServeAt = address
		if err := cfg.Shop.SaveSettings(ctx, base.Actor{Name: "R. Okell"}, how, next); (err == nil) != ok {
			t.Errorf("other machines are answered at %q: %v", address, err)
		}
	}
	if all, err := cfg.Shop.People.People(ctx); err != nil || len(all) != 3 || all[1].Left != nil {
		t.Errorf("the settings let people in: %+v, %v", all, err)
	}
	other := newBrowser(t, e)
	if w := other.do("POST", "/signin", url.Values{"~name": {"R. Okell"}, "~password": {secret}}); w.Code != http.StatusSeeOther {
		t.Fatalf("a second browser: %d", w.Code)
	}
	me, err := cfg.Shop.Person(ctx, 1)
	if err != nil {
		t.Fatal(err)
	}
	if err := cfg.Shop.SavePerson(ctx, base.Actor{Name: "command line"}, "", people.Entry{ID: 1, Version: me.Version, Name: me.Name,
		Role: me.Role, Password: "another lantern"}); err != nil {
		t.Fatal(err)
	}
	if w := other.do("GET", "/jobs", nil); w.Code != http.StatusSeeOther {
		t.Errorf("a session outlives the password that began it: %d", w.Code)
	}
	again := url.Values{"~name": {"R. Okell"}, "~password": {"another lantern"}}
	if w := b.do("POST", "/signin", again); w.Code != http.StatusSeeOther {
		t.Fatalf("the new password: %d", w.Code)
	}
	if w := b.do("POST", "/signout", url.Values{}); w.Code != http.StatusSeeOther {
		t.Errorf("signing out: %d", w.Code)
	}
	if w := b.do("GET", "/jobs", nil); w.Code != http.StatusSeeOther {
		t.Errorf("signed out, and in: %d", w.Code)
	}
}

// TestPublic: the customers' door answers links and what they are drawn with; every other route of the shop is not there.
func TestPublic(t *testing.T) {
	e, cfg := secured(t)
	door, err := web.NewPublic(kit.Config{Shop: cfg.Shop, Workshop: "Harrow Fell Upgrades", Log: slog.New(slog.DiscardHandler)})
	if err != nil {
		t.Fatal(err)
	}
	parameter := regexp.MustCompile(`:[a-z]+`)
	for _, r := range e.Router().Routes() {
		path := parameter.ReplaceAllString(strings.TrimSuffix(r.Path, "*"), "8")
		if strings.HasPrefix(path, "/q/") || strings.HasPrefix(path, "/static/") || r.Method == "" ||
			strings.HasPrefix(r.Method, "echo_") {
			continue
		}
		w := webtest.Request(door, r.Method, path, nil, webtest.SameOrigin)
		body := w.Body.String()
		if w.Code != http.StatusNotFound && w.Code != http.StatusBadRequest && w.Code != http.StatusForbidden ||
			strings.Contains(body, "<nav") || strings.Contains(body, "R. Okell") {
			t.Errorf("%s %s answers at the customers' door: %d %.80s", r.Method, path, w.Code, body)
		}
	}
	w := webtest.Request(door, "GET", "/q/no-such-key", nil, webtest.SameOrigin)
	if w.Code != http.StatusNotFound || w.Header().Get("Referrer-Policy") != "no-referrer" ||
		!strings.Contains(w.Body.String(), "/static/") {
		t.Errorf("a key that is none: %d %v", w.Code, w.Header())
	}
}
