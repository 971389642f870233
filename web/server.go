// Package web is the pages: routes, handlers and view models over the shop's use
// cases. It works without script; scripts only make it quicker.
package web

import (
	"context"
	"errors"
	"log/slog"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
	"golang.org/x/net/netutil"

	"yembo/shop"
	"yembo/web/form"
)

// Config is what a server needs to know.
type Config struct {
	Shop     *shop.Shop
	Workshop string     // the name in the head of each page
	Actor    shop.Actor // who acts, until there are accounts
	Log      *slog.Logger
	// MeterEvery is how often the power meter is read; 0 is once a second.
	MeterEvery time.Duration
}

// policy is the content security policy of every page: everything comes from this
// server, nothing inline, nothing evaluated.
const policy = "default-src 'self'; img-src 'self' blob:; form-action 'self'; base-uri 'none'; object-src 'none'; " +
	"frame-ancestors 'none'"

// NoName stands for the name of a workshop that was not told.
const NoName = "Workshop"

// maxBody is the largest request that is read. Forms are far smaller.
const maxBody = 1 << 20

// maxUpload is the same for forms that bring files.
const maxUpload = 64 << 20

// How often a link is asked for from one place: so many a second, so many at once.
const (
	linkRate  = 1
	linkBurst = 30
)

// isUpload reports whether a request may bring files.
func isUpload(c *echo.Context) bool {
	path := c.Request().URL.Path
	brings := path == "/models/import" || path == "/machines/import" || path == "/parts/import" ||
		strings.HasSuffix(path, "/photos") ||
		strings.Contains(path, "/suspected/") || strings.HasSuffix(path, "/readings")
	return c.Request().Method == http.MethodPost && brings
}

type server struct {
	Config
	assets *assets
	pages  *pages
	traces traces
	// looking lets one file that came in be looked at at a time.
	looking chan struct{}
	smalls  smalls
}

// New returns the application, ready to serve.
func New(cfg Config) (*echo.Echo, error) {
	s := &server{Config: cfg, looking: make(chan struct{}, 1)}
	if cfg.Workshop != NoName {
		cfg.Shop.Called = cfg.Workshop
	}
	var err error
	if s.assets, err = loadAssets(); err != nil {
		return nil, err
	}
	if s.pages, err = loadPages(s.assets); err != nil {
		return nil, err
	}
	e := echo.New()
	e.Logger = cfg.Log
	e.HTTPErrorHandler = s.handleError
	e.Pre(asked)
	e.Use(
		middleware.RequestID(),
		s.logRequests(),
		middleware.SecureWithConfig(middleware.SecureConfig{ContentSecurityPolicy: policy,
			ContentTypeNosniff: "nosniff",
			XFrameOptions:      "DENY", ReferrerPolicy: "same-origin"}),
		middleware.GzipWithConfig(middleware.GzipConfig{MinLength: 512,
			Skipper: func(c *echo.Context) bool { return strings.HasSuffix(c.Request().URL.Path, "/events") }}),
		middleware.RecoverWithConfig(middleware.RecoverConfig{DisableStackAll: true}),
		checkHost,
		middleware.BodyLimitWithConfig(middleware.BodyLimitConfig{LimitBytes: maxBody, Skipper: isUpload}),
		middleware.BodyLimitWithConfig(middleware.BodyLimitConfig{LimitBytes: maxUpload,
			Skipper: func(c *echo.Context) bool { return !isUpload(c) }}),
		readForm,
		middleware.CSRFWithConfig(middleware.CSRFConfig{TokenLookup: "form:" + csrfField + ",header:" + echo.HeaderXCSRFToken,
			CookieName: "yembo_csrf", CookiePath: "/", CookieHTTPOnly: true, CookieSameSite: http.SameSiteStrictMode}),
		withContent,
		func(next echo.HandlerFunc) echo.HandlerFunc {
			return func(c *echo.Context) error {
				c.Set(form.NowKey, s.Shop.Now())
				c.Set(form.CurrencyKey, func() string { return s.settings(c).Currency })
				return next(c)
			}
		},
	)
	s.routes(e)
	return e, nil
}

func (s *server) routes(e *echo.Echo) {
	e.GET("/", s.showBenchList)
	e.GET("/find", s.find)
	e.GET("/static/*", s.assets.serve)
	e.GET("/favicon.ico", func(c *echo.Context) error {
		url, err := s.assets.url("favicon.svg")
		if err != nil {
			return err
		}
		return c.Redirect(http.StatusMovedPermanently, url)
	})
	e.POST("/theme", s.setTheme)
	e.POST("/who", s.setWho)
	e.GET("/welcome", s.showWelcome)
	e.POST("/welcome", s.welcome)

	e.GET("/models", s.listModels)
	e.GET("/models/new", s.newModel)
	e.POST("/models", s.createModel)
	e.GET("/models/import", s.newImport)
	e.POST("/models/import", s.lookAtImport)
	e.POST("/models/import/take", s.takeImport)
	e.POST("/models/import/take-records", s.takeBundle)
	e.GET("/models/export", s.exportModels)
	e.GET("/models/:id/export-with-photos", s.exportWithPhotos)
	e.GET("/models/:id/export", s.exportModel)
	e.GET("/models/:id", s.showModel)
	e.GET("/models/:id/edit", s.editModel)
	e.POST("/models/:id", s.changeModel)
	e.GET("/models/:id/parts/:list/:item", s.editItem)
	e.POST("/models/:id/parts/:list/:item", s.saveItem)
	e.GET("/models/:id/suspected/:item", s.showSettle)
	e.POST("/models/:id/suspected/:item", s.settle)
	e.POST("/models/lines", s.typeLines)
	e.POST("/models/:id/lines", s.typeLines)
	e.POST("/models/:id/usual-steps", s.usualSteps)
	e.GET("/shorthand", s.showHelp)
	e.GET("/models/:id/bench", s.showBench)
	e.GET("/models/:id/sheet", s.showSheet)
	e.GET("/models/:id/steps", s.showSteps)
	e.POST("/models/:id/steps", s.saveSteps)
	e.POST("/models/:id/loosen", s.setLoosen)
	e.GET("/models/:id/mat", s.showMat)
	e.GET("/models/:id/mat.svg", s.matFile)
	e.GET("/models/:id/arrange", s.showArrange)
	e.POST("/models/:id/arrange", s.saveArrange)
	e.POST("/models/:id/restore", s.restoreModel)
	e.POST("/models/:id/copy", s.copyModel)
	e.GET("/models/:id/findings", s.showFindings)
	e.POST("/models/:id/findings", s.setAside)
	e.POST("/models/:id/findings/add", s.addFinding)
	e.POST("/models/:id/findings/seen", s.allSeen)

	e.GET("/models/:id/photos", s.showPhotos)
	e.POST("/models/:id/photos", s.addPhotos)
	e.GET("/models/:id/photos/:photo", s.photoFile)
	e.GET("/models/:id/photos/:photo/:size", s.photoFile)
	e.POST("/models/:id/photos/:photo", s.removePhoto)

	e.GET("/machines", s.listMachines)
	e.GET("/machines/new", s.newMachine)
	e.POST("/machines", s.takeIn)
	e.GET("/machines/import", s.newList)
	e.POST("/machines/import", s.lookAtList)
	e.POST("/machines/import/take", s.takeList)
	e.GET("/machines/export", s.exportMachines)
	e.GET("/machines/:id", s.byNumber(s.showPlan))
	e.POST("/machines/:id/choice", s.choose)
	e.POST("/machines/:id/wish", s.keepWish)
	e.GET("/machines/:id/card", s.byNumber(s.showCard))
	e.GET("/machines/:id/export", s.byNumber(s.exportMachine))
	e.GET("/machines/:id/history", s.byNumber(s.showHistory))
	e.GET("/machines/:id/readings", s.byNumber(s.showReadings))
	e.POST("/machines/:id/readings", s.addReading)
	e.GET("/machines/:id/readings/:reading", s.byNumber(s.showReading))
	e.POST("/machines/:id/readings/:reading", s.acceptReading)
	e.GET("/machines/:id/draw", s.byNumber(s.showDraw))
	e.GET("/machines/:id/draw/events", ownPages(s.byNumber(s.drawEvents)))
	e.POST("/machines/:id/draw", s.takeDraw)
	e.POST("/machines/:id/tag", s.changeTag)
	e.GET("/machines/:id/correct", s.byNumber(s.editMachine))
	e.POST("/machines/:id/correct", s.correctMachine)
	e.POST("/machines/:id/putback", s.putMachineBack)

	e.GET("/jobs", s.listJobs)
	e.GET("/jobs/:job", s.showJob)
	e.GET("/jobs/:job/correct", s.editJob)
	e.POST("/jobs/:job/correct", s.correctJob)
	e.POST("/jobs/:job/putback", s.putJobBack)
	e.POST("/jobs/:job/move", s.moveJob)
	e.POST("/jobs/:job/fit", s.fitPart)
	e.POST("/jobs/:job/contacts", s.addContact)
	e.POST("/jobs/:job/talk", s.addTalk)
	e.POST("/jobs/:job/signature", s.signJob)
	e.POST("/jobs/:job/photos", s.addJobPhotos)
	e.GET("/jobs/:job/photos/:photo", s.jobPhotoFile)
	e.GET("/jobs/:job/photos/:photo/:size", s.jobPhotoFile)
	e.GET("/jobs/:job/run", s.showRun)
	e.POST("/jobs/:job/run", s.beginRun)
	e.POST("/jobs/:job/run/event", s.runEvent)
	e.POST("/jobs/:job/run/sync", s.syncRun, ownPages)
	e.GET("/jobs/:job/run/news", s.runNews, ownPages)
	e.POST("/jobs/:job/run/photos", s.runPhoto)
	e.POST("/jobs/:job/run/line", s.recordStep)
	e.POST("/jobs/:job/run/back", s.turnBack)
	e.GET("/jobs/:job/proof", s.showProof)
	e.POST("/jobs/:job/proof", s.changeProof)
	e.GET("/jobs/:job/report", s.showReport)
	e.GET("/jobs/:job/report/document", s.reportDocument)
	e.GET("/jobs/:job/report/file", s.reportFile)
	e.GET("/jobs/:job/label", s.showLabel)
	e.GET("/jobs/:job/sheet", s.showIntakeSheet)

	e.GET("/remove/:kind/:record", s.askRemove)
	e.POST("/remove/:kind/:record", s.remove)
	e.GET("/removed", s.listRemoved)
	e.POST("/removed/:kind/:record/back", s.bringBack)

	e.POST("/machines/:id/quote", s.makeQuote)
	e.GET("/quotes/:quote", s.showQuote)
	e.GET("/quotes/:quote/edit", s.editQuote)
	e.POST("/quotes/:quote", s.saveQuote)
	e.POST("/quotes/:quote/show", s.freezeQuote)
	e.POST("/quotes/:quote/answer", s.answerQuote)
	e.GET("/quotes/:quote/document", s.quoteDocument)
	e.GET("/jobs/:job/bill", s.showBill)
	e.POST("/jobs/:job/invoice", s.makeInvoice)
	e.POST("/jobs/:job/pay", s.payJob)
	e.POST("/jobs/:job/pay/strike", s.strikePayment)
	e.GET("/invoices", s.listInvoices)
	e.GET("/invoices/table.csv", s.invoiceTable)
	e.GET("/invoices/:invoice", s.showInvoice)
	e.GET("/invoices/:invoice/document", s.invoiceDocument)
	e.POST("/invoices/:invoice/cancel", s.cancelInvoice)
	// What a customer sees by a link: asked no faster than somebody reads, so that keys are not tried.
	// Wrong keys are counted by the address they come from, a right one by itself: whoever tries keys locks
	// nobody out.
	linked := e.Group("/q", middleware.RateLimiterWithConfig(middleware.RateLimiterConfig{IdentifierExtractor: s.linkAsker,
		Store: middleware.NewRateLimiterMemoryStoreWithConfig(
			middleware.RateLimiterMemoryStoreConfig{Rate: linkRate, Burst: linkBurst, ExpiresIn: time.Hour})}))
	linked.GET("/:key", s.showLink)
	linked.POST("/:key", s.answerLink)

	e.GET("/customers", s.listCustomers)
	e.GET("/customers/:customer", s.showCustomer)
	e.POST("/customers/:customer", s.changeCustomer)
	e.GET("/customers/:customer/known", s.showKnown)
	e.GET("/customers/:customer/known.json", s.exportKnown)

	e.GET("/underway/:id", s.showWork)
	e.POST("/underway/:id/stop", s.stopWork)

	e.GET("/reckoner", s.showReckoner)
	e.GET("/settings", s.showSettings)
	e.POST("/settings", s.saveSettings)

	e.GET("/parts", s.listParts)
	e.POST("/parts/line", s.enterPart)
	e.GET("/parts/new", s.newPart)
	e.POST("/parts", s.createPart)
	e.GET("/parts/count", s.showCount)
	e.POST("/parts/count", s.bookCount)
	e.GET("/parts/movements", s.showMoves)
	e.GET("/parts/movements.csv", s.exportMoves)
	e.GET("/parts/export", s.exportParts)
	e.GET("/parts/export.csv", s.exportPartTable)
	e.POST("/parts/finds/:find", s.findDone)
	e.POST("/machines/:id/find", s.findIt)
	e.POST("/machines/:id/brings", s.bringPart)
	e.GET("/parts/import", s.newPrices)
	e.POST("/parts/import", s.lookAtPrices)
	e.POST("/parts/import/take", s.takePrices)
	e.GET("/parts/:id", s.showPart)
	e.GET("/orders", s.listOrders)
	e.POST("/orders", s.placeOrder)
	e.GET("/orders/new", s.newOrder)
	e.GET("/orders/:order", s.showOrder)
	e.POST("/orders/:order", s.changeOrder)
	e.GET("/orders/:order/table.csv", s.exportOrder)
	e.GET("/suppliers", s.listSuppliers)
	e.POST("/suppliers", s.saveSupplier)
	e.POST("/suppliers/:supplier", s.saveSupplier)
	e.POST("/parts/:id", s.changePart)
}

// Loopback reports whether a host name or address is this machine itself.
func Loopback(host string) bool {
	if host == "localhost" {
		return true
	}
	ip := net.ParseIP(trimBrackets(host))
	return ip != nil && ip.IsLoopback()
}

func trimBrackets(host string) string {
	if len(host) > 2 && host[0] == '[' && host[len(host)-1] == ']' {
		return host[1 : len(host)-1]
	}
	return host
}

// logRequests writes one line a request: no query, no form, no cookie. The status is the one
// sent, for errors are answered before it is written.
func (s *server) logRequests() echo.MiddlewareFunc {
	return middleware.RequestLoggerWithConfig(middleware.RequestLoggerConfig{
		LogMethod: true, LogURIPath: true, LogStatus: true, LogLatency: true, LogRequestID: true, HandleError: true,
		LogValuesFunc: func(_ *echo.Context, v middleware.RequestLoggerValues) error {
			s.Log.Info("request", "method", v.Method, "path", logged(v.URIPath), "status", v.Status,
				"ms", v.Latency.Milliseconds(), "id", v.RequestID)
			return nil
		}})
}

// linkPath is where the links of quotes lead; what follows it is a key.
const linkPath = "/q/"

// logged is a path as the log has it: the key of a link stands in no log.
func logged(path string) string {
	if strings.HasPrefix(path, linkPath) {
		return linkPath + "…"
	}
	return path
}

func requestID(c *echo.Context) string { return c.Response().Header().Get(echo.HeaderXRequestID) }

// handleError shows a page with what happened and an id that stands in the log too.
func (s *server) handleError(c *echo.Context, err error) {
	if r, unwrapErr := echo.UnwrapResponse(c.Response()); unwrapErr == nil && r.Committed {
		return
	}
	if c.Request().Context().Err() != nil && !errors.Is(err, errCutOff) {
		return // whoever asked has gone, such as a line that was typed on: whatever broke off then is no fault
	}
	a := answerTo(err)
	if a.status >= 500 {
		s.Log.Error("failed", "error", err.Error(), "path", logged(c.Request().URL.Path), "id", requestID(c))
	}
	view := errorView{Status: a.status, ID: requestID(c), Title: a.title, Text: a.text, Faults: a.faults}
	var noText errNoText
	if a.status == http.StatusConflict || a.status >= 500 || errors.As(err, &noText) {
		view.Typed = typedIn(c.Request())
	}
	if a.again || errors.As(err, &noText) {
		view.again(c.Request())
	}
	if strings.Contains(c.Request().Header.Get("Accept"), "application/json") {
		// A script that sends what happened tells the person why it was not taken.
		if jsonErr := c.JSON(a.status, map[string]any{"title": a.title, "text": a.text, "faults": a.faults}); jsonErr != nil {
			s.Log.Error("error answer", "error", jsonErr.Error(), "id", requestID(c))
		}
		return
	}
	if renderErr := s.render(c, a.status, "error", view.Title, "", view); renderErr != nil {
		s.Log.Error("error page", "error", renderErr.Error(), "id", requestID(c))
		http.Error(c.Response(), view.Title, a.status)
	}
}

type errorView struct {
	Status int
	Title  string
	Text   string
	ID     string
	Faults []string
	Typed  []form.Field // what was sent, so that it is not lost
	Again  []form.Field // all of the form, where sending it once more is what to do
	Action string       // where to
}

// again offers to send a form once more, as it is, where it held no files.
func (v *errorView) again(r *http.Request) {
	if r.Method != http.MethodPost || r.MultipartForm != nil {
		return
	}
	v.Action = within(r.URL.RequestURI())
	for _, name := range sortedKeys(r.PostForm) {
		for _, value := range r.PostForm[name] {
			if name != "csrf" {
				v.Again = append(v.Again, form.Field{Name: name, Value: value})
			}
		}
	}
}

// maxConnections is how many connections are open at once; more wait until one is closed. A shop has some
// dozens of screens, each with a few.
const maxConnections = 512

// Serve runs the application on a listener until the context ends, then lets the
// requests under way finish.
func Serve(ctx context.Context, e *echo.Echo, l net.Listener) error {
	sc := echo.StartConfig{
		Listener:        netutil.LimitListener(l, maxConnections),
		HideBanner:      true,
		HidePort:        true,
		GracefulTimeout: 3 * time.Second,
		BeforeServeFunc: func(h *http.Server) error {
			h.BaseContext = func(net.Listener) context.Context {
				return context.WithValue(context.Background(), stoppingKey{}, ctx.Done())
			}
			h.ReadHeaderTimeout, h.WriteTimeout, h.IdleTimeout = 10*time.Second, answerTime, 2*time.Minute
			return nil
		}}
	err := sc.Start(ctx, e)
	if errors.Is(err, http.ErrServerClosed) {
		return nil
	}
	return err
}
