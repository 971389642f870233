// Package week is the pages of the week on the benches: who does what, where and when, what cannot be kept, and the calendars
// that people read it in.
package week

import (
	"github.com/labstack/echo/v5"

	"yembo/web/kit"
)

// pages are the handlers of this area.
type pages struct{ *kit.Site }

// Routes hangs the pages of this area into a group.
func Routes(g *echo.Group, site *kit.Site) {
	s := &pages{site}
	g.GET("/week", s.showWeek)
	g.GET("/week/events", kit.OwnPages(s.follow))
	g.GET("/week/try", kit.OwnPages(s.tryMove))
	g.POST("/week/move", s.move)
	g.POST("/week/undo", s.undo)
	g.POST("/week/show", s.show)
	g.POST("/week/ring", s.ring)
	g.GET("/week/feed", s.askFeed)
	g.POST("/week/feed", s.newFeed)
	g.GET("/feed/:key", s.feed)
	g.GET("/jobs/:job/when", s.showWhen)
	g.POST("/jobs/:job/when", s.promise)
}
