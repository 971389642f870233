// Package people is the pages of who works here: signing in, people and what they may, shared screens, the journal.
package people

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"yembo/web/kit"
)

// pages are the handlers of this area.
type pages struct{ *kit.Site }

// Routes hangs the pages of this area into a group.
func Routes(g *echo.Group, site *kit.Site) {
	s := &pages{site}
	g.GET("/signin", s.askSignIn)
	g.POST("/signin", s.signIn)
	g.POST("/signout", s.signOut)
	g.GET("/enrol", s.askEnrol)
	g.POST("/enrol", s.enrol)
	g.GET("/health", s.health)
	g.GET("/people", s.showPeople)
	g.GET("/people/new", s.newPerson)
	g.POST("/people", s.savePerson)
	g.GET("/people/:person", s.showPerson)
	g.POST("/people/:person", s.savePerson)
	g.POST("/people/:person/rights", s.allow)
	g.POST("/screens", s.newScreen)
	g.POST("/screens/:screen/strike", s.strike)
	g.POST("/sessions/:session/end", s.endSession)
	g.GET("/journal", s.showJournal)
	g.GET("/journal.csv", s.journalTable)
}

// health says whether the data can be read, for whatever watches the server; it tells nothing else.
func (s *pages) health(c *echo.Context) error {
	if _, err := s.Shop.Settings(c.Request().Context()); err != nil {
		return c.String(http.StatusServiceUnavailable, "the data cannot be read\n")
	}
	return c.String(http.StatusOK, "ok\n")
}
