// Package browser drives the real pages in headless Chromium: the main paths as a
// technician would take them, with the accessibility rules and the content
// security policy watched on every page.
package browser

import (
	"context"
	"crypto/tls"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"regexp"
	goruntime "runtime"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"
	"yembo/shop/base"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	cdplog "github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/labstack/echo/v5"

	"yembo/shop"
	"yembo/shop/demo"
	"yembo/store"
	"yembo/store/storetest"
	"yembo/web"
)

// at is when the demo's clock stands still.
var at = time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)

// application starts Yembo on a data folder of its own and returns its address.
func application(t *testing.T, seed bool) string {
	t.Helper()
	t.Parallel() // each journey has its own server and its own window
	name, fill := demo.Workshop, func(s *store.Store) error { return shop.New(s, clock).SeedDemo(t.Context()) }
	if !seed { // an empty shop asks for its name
		name, fill = web.NoName, func(*store.Store) error { return nil }
	}
	return serving(t, shop.New(storetest.Open(t, name, fill), clock), name)
}

func clock() time.Time { return at }

// configured is how the shop of a test is served.
func configured(t *testing.T, sh *shop.Shop, name string) web.Config {
	return web.Config{Shop: sh, Workshop: name, Actor: base.Actor{Name: demo.Technician}, MeterEvery: 20 * time.Millisecond,
		Log: slog.New(slog.NewTextHandler(testLog{t}, &slog.HandlerOptions{Level: slog.LevelError}))}
}

// serving serves a shop until the test ends, and tells where.
func serving(t *testing.T, sh *shop.Shop, name string) string {
	t.Helper()
	e, err := web.New(configured(t, sh, name))
	if err != nil {
		t.Fatal(err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	served(t, e, l)
	return "http://" + l.Addr().String()
}

// overTLS serves a shop as one with tablets is, by TLS with a certificate of its own, and tells where; door is the
// customers' own.
func overTLS(t *testing.T) (at, door string) {
	t.Helper()
	t.Parallel()
	sh := shop.New(storetest.Open(t, demo.Workshop, func(s *store.Store) error {
		return shop.New(s,
			clock).SeedDemo(t.Context())
	}), clock)
	own, err := web.OwnCertificate(t.TempDir(), []string{"127.0.0.1"}, time.Now())
	if err != nil {
		t.Fatal(err)
	}
	cfg := configured(t, sh, demo.Workshop)
	cfg.Secure = true
	inside, err := web.New(cfg)
	if err != nil {
		t.Fatal(err)
	}
	outside, err := web.NewPublic(cfg)
	if err != nil {
		t.Fatal(err)
	}
	var addresses [2]string
	for i, e := range []*echo.Echo{inside, outside} {
		l, err := tls.Listen("tcp", "127.0.0.1:0", &tls.Config{Certificates: []tls.Certificate{own}})
		if err != nil {
			t.Fatal(err)
		}
		served(t, e, l)
		addresses[i] = "https://" + l.Addr().String()
	}
	return addresses[0], addresses[1]
}

// served serves pages until the test ends.
func served(t *testing.T, e *echo.Echo, l net.Listener) {
	t.Helper()
	ctx, stop := context.WithCancel(context.Background())
	done := make(chan error, 1)
	go func() { done <- web.Serve(ctx, e, l) }()
	t.Cleanup(func() {
		stop()
		if err := <-done; err != nil {
			t.Error(err)
		}
	})
}

// answers are the statuses of pages that ask somebody for something: faults, a change meanwhile, who comes, who may.
var answers = regexp.MustCompile(`status of (422|409|401|403) `)

type testLog struct{ t *testing.T }

func (l testLog) Write(p []byte) (int, error) {
	l.t.Log(string(p))
	return len(p), nil
}

// tab is one page of the browser, with what it complained about.
type tab struct {
	t    *testing.T
	ctx  context.Context
	base string

	mu         sync.Mutex
	complaints []string
	wasCut     bool // its network was taken away: that it could not reach the server is no complaint
	strokes    int  // keys pressed so far
}

// chromium is the one browser of all journeys. Each has a window with cookies and storage of its own.
var chromium = sync.OnceValues(func() (context.Context, error) {
	path, err := exec.LookPath("chromium-headless-shell") // half the work of the whole browser
	if err != nil {
		path, err = exec.LookPath("chromium")
	}
	if err != nil {
		return nil, errors.New("chromium-headless-shell is not installed; make test installs it")
	}
	alloc, _ := chromedp.NewExecAllocator(context.Background(), append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(path), chromedp.NoSandbox, chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-component-update", true),
		chromedp.Flag("ignore-certificate-errors", true), // of a shop that made its own
	)...)
	ctx, stop := chromedp.NewContext(alloc)
	stopBrowser = stop
	return ctx, chromedp.Do(ctx)
})

var stopBrowser = func() {}

func TestMain(m *testing.M) {
	flag.Parse()
	// Most of a journey is waiting for the page, so that a processor can have several.
	if err := flag.Set("test.parallel", strconv.Itoa(2*goruntime.GOMAXPROCS(0))); err != nil {
		panic(err)
	}
	code := m.Run()
	stopBrowser()
	os.Exit(code)
}

// open opens a window with one page.
func open(t *testing.T, base string) *tab {
	t.Helper()
	browser, err := chromium()
	if err != nil {
		t.Fatal(err)
	}
	ctx, stopTab := chromedp.NewContext(browser, chromedp.WithNewBrowserContext(), chromedp.WithNewWindow(true))
	ctx, stopClock := context.WithTimeout(ctx, 6*time.Minute)
	t.Cleanup(func() { stopClock(); stopTab() })
	b := &tab{t: t, ctx: ctx, base: base}
	b.do(chromedp.EmulateViewport(1280, 800))
	listen(b, runtime.ConsoleAPICalled, func(e runtime.EventConsoleAPICalled) string {
		if e.Type != runtime.ConsoleAPICalledTypeError && e.Type != runtime.ConsoleAPICalledTypeWarning {
			return ""
		}
		text := "console:"
		for _, a := range e.Args {
			text += fmt.Sprintf(" %s %s", a.Value, a.Description)
		}
		return text
	})
	listen(b, runtime.ExceptionThrown,
		func(e runtime.EventExceptionThrown) string { return "exception: " + e.ExceptionDetails.Text })
	listen(b, cdplog.EntryAdded, func(e cdplog.EventEntryAdded) string {
		// A form that comes back with faults has the status 422 or 409; the browser
		// reports that as if something had failed to load.
		if e.Entry.Level != "error" || answers.MatchString(e.Entry.Text) {
			return ""
		}
		return "log: " + e.Entry.Text + " " + e.Entry.URL
	})
	if _, err := chromedp.Call(ctx, cdplog.Enable, cdp.Empty{}); err != nil {
		t.Fatal(err)
	}
	return b
}

// listen collects complaints from one kind of event until the browser ends.
func listen[E any](b *tab, ev cdp.Event[E], say func(E) string) {
	events := chromedp.Events(b.ctx, ev)
	go func() {
		for e, err := range events {
			if err != nil {
				return
			}
			if text := say(e); text != "" {
				b.mu.Lock()
				b.complaints = append(b.complaints, text)
				b.mu.Unlock()
			}
		}
	}()
}

func (b *tab) do(actions ...chromedp.Action[chromedp.Void]) {
	b.t.Helper()
	if err := chromedp.Do(b.ctx, actions...); err != nil {
		b.t.Fatal(err)
	}
}

// visit goes to a page.
func (b *tab) visit(path string) {
	b.t.Helper()
	b.do(chromedp.Navigate(b.base + path))
	b.settled()
}

// settled waits until the page is loaded and its components run.
func (b *tab) settled() {
	b.t.Helper()
	b.until(`document.readyState === 'complete' && !!window.Alpine && !!document.querySelector('main')`)
}

// until waits for a condition in the page.
func (b *tab) until(condition string) {
	b.t.Helper()
	for range 800 { // a busy machine takes its time
		ok, err := chromedp.Run(b.ctx, chromedp.Evaluate[bool](condition))
		if err == nil && ok {
			return
		}
		time.Sleep(25 * time.Millisecond)
	}
	where, _ := chromedp.Run(b.ctx,
		chromedp.Evaluate[string](`location.pathname + ': ' + document.body.innerText.slice(0, 1500)`))
	b.t.Fatalf("waited in vain for %s at %s", condition, where)
}

func eval[T any](b *tab, expression string) T {
	b.t.Helper()
	v, err := chromedp.Run(b.ctx, chromedp.Evaluate[T](expression))
	if err != nil {
		b.t.Fatalf("%s: %v", expression, err)
	}
	return v
}

// text is what a reader sees of the page.
func (b *tab) text() string {
	b.t.Helper()
	return eval[string](b, `document.querySelector('main').innerText`)
}

// keys types on the keyboard, wherever the focus is.
func (b *tab) keys(keys string) {
	b.t.Helper()
	b.strokes += len([]rune(keys))
	b.do(chromedp.KeyEvent(keys))
}

// Modifiers of keys, as the debugging protocol numbers them.
const (
	alt   = 1
	ctrl  = 2
	shift = 8
)

// arrow presses a key by its name, with a modifier.
func (b *tab) arrow(key string, modifier int64) {
	b.t.Helper()
	b.strokes++
	for _, kind := range []input.DispatchKeyEventType{input.DispatchKeyEventTypeRawKeyDown,
		input.DispatchKeyEventTypeKeyUp} {
		if _, err := chromedp.Call(b.ctx, input.DispatchKeyEvent,
			input.DispatchKeyEventParams{Type: kind, Key: key, Code: key, Modifiers: modifier}); err != nil {
			b.t.Fatal(err)
		}
	}
}

// drag presses the mouse at one point of the window, moves it and lets go at another.
func (b *tab) drag(x1, y1, x2, y2 float64) {
	b.t.Helper()
	send := func(kind input.DispatchMouseEventType, x, y float64) {
		if _, err := chromedp.Call(b.ctx, input.DispatchMouseEvent,
			input.DispatchMouseEventParams{Type: kind, X: x, Y: y, Button: input.MouseButtonLeft,
				ClickCount: 1}); err != nil {
			b.t.Fatal(err)
		}
	}
	send(input.DispatchMouseEventTypeMousePressed, x1, y1)
	send(input.DispatchMouseEventTypeMouseMoved, (x1+x2)/2, (y1+y2)/2)
	send(input.DispatchMouseEventTypeMouseMoved, x2, y2)
	send(input.DispatchMouseEventTypeMouseReleased, x2, y2)
}

// tabTo presses Tab until the focus is on an element, as a keyboard user would. It
// fails when it cannot be reached.
func (b *tab) tabTo(selector string) {
	b.t.Helper()
	quoted, _ := json.Marshal(selector)
	for range 250 {
		if eval[bool](b, fmt.Sprintf(`!!document.activeElement && document.activeElement.matches(%s)`, quoted)) {
			return
		}
		b.keys("\t")
	}
	b.t.Fatalf("%s cannot be reached with Tab", selector)
}

// field is the selector of a form field by its name.
func field(name string) string { return fmt.Sprintf(`[name="%s"]`, name) }

// fill tabs to a field and types into it.
func (b *tab) fill(name, text string) {
	b.t.Helper()
	b.tabTo(field(name))
	b.keys(text)
}

// follow presses Enter on what has the focus and waits for the page it leads to.
func (b *tab) follow(condition string) {
	b.t.Helper()
	b.do(chromedp.Evaluate[chromedp.Void](`window.leaving = true`))
	b.keys("\r")
	b.until(`!window.leaving && document.readyState === 'complete' && !!window.Alpine`)
	b.until(condition)
}

// followCtrl is follow with Ctrl held: Enter among several lines only begins another.
func (b *tab) followCtrl(condition string) {
	b.t.Helper()
	b.do(chromedp.Evaluate[chromedp.Void](`window.leaving = true`))
	b.arrow("Enter", ctrl)
	b.until(`!window.leaving && document.readyState === 'complete' && !!window.Alpine`)
	b.until(condition)
}

func (b *tab) scheme(name string) {
	b.t.Helper()
	_, err := chromedp.Call(b.ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
		Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: name}}})
	if err != nil {
		b.t.Fatal(err)
	}
}

// checked runs the accessibility rules over the page in both themes, and fails on
// whatever the page has complained about so far. The rules are injected through
// the debugging protocol, so the page's own policy stays in force.
func (b *tab) checked() {
	b.t.Helper()
	axe, err := os.ReadFile("../../node_modules/axe-core/axe.min.js")
	if err != nil {
		b.t.Fatal(err)
	}
	b.do(chromedp.Evaluate[chromedp.Void](string(axe)))
	// What the other theme changes is colours alone.
	for theme, rules := range map[string]string{"light": `{}`, "dark": `{runOnly: ['color-contrast']}`} {
		b.scheme(theme)
		found, err := chromedp.Run(
			b.ctx,
			chromedp.Evaluate[string](`axe.run(document, {resultTypes: ['violations'], ...`+rules+`}).then(
			r => r.violations.map(v => v.id + ': ' + v.nodes.map(
				n => n.target.join(' ') + ' ' + (n.any[0]?.message ?? '')).slice(0, 3).join('; ')).join('\n'))`,
				chromedp.EvalAwaitPromise),
		)
		if err != nil {
			b.t.Fatal(err)
		}
		if found != "" {
			b.t.Errorf("%s, %s theme:\n%s", eval[string](b, `location.pathname`), theme, found)
		}
	}
	b.scheme("light")
	b.quiet()
}

// quiet fails on what the browser complained about.
func (b *tab) quiet() {
	b.t.Helper()
	b.mu.Lock()
	defer b.mu.Unlock()
	for _, c := range b.complaints {
		if !b.wasCut || !strings.Contains(c, "ERR_INTERNET_DISCONNECTED") {
			b.t.Error(c)
		}
	}
	b.complaints = nil
}

// noOverflow fails when the page is wider than the window.
func (b *tab) noOverflow() {
	b.t.Helper()
	if over := eval[int](b, `document.documentElement.scrollWidth - document.documentElement.clientWidth`); over > 0 {
		b.t.Errorf("%s is %d px wider than the window", eval[string](b, `location.pathname`), over)
	}
}

// pdf prints the page.
func (b *tab) pdf() []byte {
	b.t.Helper()
	res, err := chromedp.Call(b.ctx, page.PrintToPDF, page.PrintToPDFParams{PreferCSSPageSize: new(true)})
	if err != nil {
		b.t.Fatal(err)
	}
	return res.Data
}
