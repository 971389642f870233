// Package web is the pages: it puts the areas together, which have their routes, handlers and view models
// each, over the shop's use cases. It works without script; scripts only make it quicker.
package web

import (
	"context"
	"errors"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
	"golang.org/x/net/netutil"

	"yembo/web/bench"
	"yembo/web/counter"
	"yembo/web/form"
	"yembo/web/guide"
	"yembo/web/kit"
	"yembo/web/money"
	"yembo/web/people"
	"yembo/web/plans"
	"yembo/web/record"
	"yembo/web/shelf"
	"yembo/web/week"
)

// policy is the content security policy of every page: everything comes from this
// server, nothing inline, nothing evaluated.
const policy = "default-src 'self'; img-src 'self' blob:; form-action 'self'; base-uri 'none'; object-src 'none'; " +
	"frame-ancestors 'none'"

// Config is what a server needs to know.
type Config = kit.Config

// NoName stands for the name of a workshop that was not told.
const NoName = kit.NoName

// Loopback reports whether a host name or address is this machine itself.
func Loopback(host string) bool { return kit.Loopback(host) }

// New returns the application, ready to serve.
func New(cfg Config) (*echo.Echo, error) {
	site, err := kit.NewSite(cfg)
	if err != nil {
		return nil, err
	}
	e := outside(cfg, site, kit.ShopLimits)
	e.Use(site.CheckHost)
	inside(e, cfg, site)
	e.GET("/find", (&pages{site}).find)
	e.POST("/find", (&pages{site}).readCode)
	for _, area := range []func(*echo.Group, *kit.Site){kit.Routes, record.Routes, plans.Routes, counter.Routes,
		shelf.Routes, money.Routes, bench.Routes, guide.Routes, people.Routes, week.Routes} {
		area(e.Group(""), site)
	}
	return e, nil
}

// outside is a server with what every request goes through before anything is looked at.
func outside(cfg Config, site *kit.Site, limits kit.Limits) *echo.Echo {
	e := echo.New()
	e.Logger = cfg.Log
	e.HTTPErrorHandler = site.HandleError
	e.Pre(kit.Asked, site.Forwarded)
	e.Use(
		middleware.RequestID(),
		site.LogRequests(),
		middleware.SecureWithConfig(middleware.SecureConfig{ContentSecurityPolicy: policy,
			ContentTypeNosniff: "nosniff",
			XFrameOptions:      "DENY", ReferrerPolicy: "same-origin"}),
		site.OverTLS,
		kit.Limit(limits),
		middleware.GzipWithConfig(middleware.GzipConfig{MinLength: 512,
			Skipper: func(c *echo.Context) bool { return strings.HasSuffix(c.Request().URL.Path, "/events") }}),
		middleware.RecoverWithConfig(middleware.RecoverConfig{DisableStackAll: true}),
	)
	return e
}

// inside adds what looks at what comes in: its size, its form, who sent it.
func inside(e *echo.Echo, cfg Config, site *kit.Site) {
	e.Use(
		middleware.BodyLimitWithConfig(middleware.BodyLimitConfig{LimitBytes: kit.MaxBody, Skipper: kit.IsUpload}),
		middleware.BodyLimitWithConfig(middleware.BodyLimitConfig{LimitBytes: kit.MaxUpload,
			Skipper: func(c *echo.Context) bool { return !kit.IsUpload(c) }}),
		kit.ReadForm,
		middleware.CSRFWithConfig(middleware.CSRFConfig{TokenLookup: "form:" + kit.CSRFField + ",header:" + echo.HeaderXCSRFToken,
			CookieName: "yembo_csrf", CookiePath: "/", CookieHTTPOnly: true, CookieSecure: cfg.Secure,
			CookieSameSite: http.SameSiteStrictMode}),
		site.Guard,
		kit.WithContent,
		func(next echo.HandlerFunc) echo.HandlerFunc {
			return func(c *echo.Context) error {
				c.Set(form.NowKey, site.Shop.Now())
				c.Set(form.CurrencyKey, func() string { return site.Settings(c).Currency })
				return next(c)
			}
		},
	)
}

// NewPublic returns the customers' door: the pages that links of quotes lead to, with what they are drawn with, and nothing
// else of the shop.
func NewPublic(cfg Config) (*echo.Echo, error) {
	site, err := kit.NewSite(cfg)
	if err != nil {
		return nil, err
	}
	site.Outside = true
	e := outside(cfg, site, kit.CustomersLimits)
	inside(e, cfg, site)
	kit.StaticRoutes(e.Group(""), site)
	money.LinkRoutes(e.Group("/q"), site)
	return e, nil
}

// pages are the handlers that lead into every area.
type pages struct{ *kit.Site }

// maxConnections is how many connections are open at once; more wait until one is closed. A shop has some
// dozens of screens, each with a few.
const maxConnections = 512

// maxHeader is how many bytes of headers a request may have; a browser sends two or three thousand.
const maxHeader = 32 << 10

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
				return context.WithValue(context.Background(), kit.StoppingKey{}, ctx.Done())
			}
			h.MaxHeaderBytes = maxHeader
			h.ReadHeaderTimeout, h.WriteTimeout, h.IdleTimeout = 10*time.Second, kit.AnswerTime, 2*time.Minute
			return nil
		}}
	err := sc.Start(ctx, e)
	if errors.Is(err, http.ErrServerClosed) {
		return nil
	}
	return err
}
