// Package kit is what the pages of every area use: rendering, the door, who acts, errors, lists, what comes
// and goes as a file, long work, and what things are called.
package kit

import (
	"log/slog"
	"net"
	"net/http"
	"strings"
	"time"
	"yembo/shop/base"

	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"

	"yembo/shop"
)

// Config is what a server needs to know.
type Config struct {
	Shop     *shop.Shop
	Workshop string     // the name in the head of each page
	Actor    base.Actor // who acts, until there are accounts
	Log      *slog.Logger
	// Secure says that pages go over TLS alone; Hosts are the names that are answered to beside this machine's own.
	Secure bool
	Hosts  []string
	// Proxies are those whose word is taken for where a request comes from, and by which name.
	Proxies []net.IP
	// MeterEvery is how often the power meter is read; 0 is once a second.
	MeterEvery time.Duration
}

// NoName stands for the name of a workshop that was not told.
const NoName = "Workshop"

// Site is what the pages of every area stand on: the shop, the templates, what ships with them.
type Site struct {
	Config
	assets   *assets
	pages    *pages
	sessions *scs.SessionManager
	// Outside says that customers alone are answered: a page says nothing of the shop's inside.
	Outside bool
	// looking lets one file that came in be looked at at a time.
	looking chan struct{}
}

// NewSite reads the templates and what ships with them.
func NewSite(cfg Config) (*Site, error) {
	s := &Site{Config: cfg, looking: make(chan struct{}, 1)}
	if cfg.Workshop != NoName {
		cfg.Shop.Called = cfg.Workshop
	}
	var err error
	s.sessions = newSessions(cfg.Shop.SessionStore(), cfg.Secure)
	if s.assets, err = loadAssets(); err != nil {
		return nil, err
	}
	s.pages, err = loadPages(s.assets)
	return s, err
}

// ByNumber leads an address with a machine's tag to the one with its number, which says
// nothing about its owner.
func (s *Site) ByNumber(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		ref := c.Param("id")
		if !strings.ContainsFunc(ref, func(r rune) bool { return r < '0' || r > '9' }) {
			return next(c)
		}
		r, err := s.Shop.Machine(c.Request().Context(), ref)
		if err != nil {
			return err
		}
		to := *c.Request().URL
		to.Path = strings.Replace(to.Path, "/machines/"+ref, "/machines/"+r.Key, 1)
		to.RawPath = ""
		return c.Redirect(http.StatusFound, to.RequestURI())
	}
}

// StaticRoutes hangs what pages are drawn with into a group.
func StaticRoutes(g *echo.Group, s *Site) { g.GET("/static/*", s.assets.serve) }

// Routes hangs what ships with the pages, the theme and long work into a group.
func Routes(g *echo.Group, s *Site) {
	StaticRoutes(g, s)
	g.GET("/favicon.ico", func(c *echo.Context) error {
		url, err := s.assets.url("favicon.svg")
		if err != nil {
			return err
		}
		return c.Redirect(http.StatusMovedPermanently, url)
	})
	g.POST("/theme", s.setTheme)
	g.GET("/underway/:id", s.showWork)
	g.POST("/underway/:id/stop", s.stopWork)
}
