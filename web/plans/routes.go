// Package plans is the pages of what can be done to a machine: its plan with the wish, the card, and the
// reckoner.
package plans

import (
	"github.com/labstack/echo/v5"

	"yembo/web/kit"
)

// pages are the handlers of this area.
type pages struct {
	*kit.Site
}

// Routes hangs the pages of this area into a group.
func Routes(g *echo.Group, site *kit.Site) {
	s := &pages{Site: site}
	g.GET("/machines/:id", s.ByNumber(s.showPlan))
	g.POST("/machines/:id/choice", s.choose)
	g.POST("/machines/:id/wish", s.keepWish)
	g.GET("/machines/:id/card", s.ByNumber(s.showCard))
	g.POST("/machines/:id/quote", s.makeQuote)
	g.GET("/reckoner", s.showReckoner)
	g.POST("/machines/:id/brings", s.bringPart)
}
