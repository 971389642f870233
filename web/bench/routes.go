// Package bench is the pages that a machine is worked on with: the run, the first opening, the proof and
// the report.
package bench

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
	g.GET("/jobs/:job/run", s.showRun)
	g.POST("/jobs/:job/run", s.beginRun)
	g.POST("/jobs/:job/run/event", s.runEvent)
	g.POST("/jobs/:job/run/sync", s.syncRun, kit.OwnPages)
	g.GET("/jobs/:job/run/news", s.runNews, kit.OwnPages)
	g.POST("/jobs/:job/run/photos", s.runPhoto)
	g.POST("/jobs/:job/run/line", s.recordStep)
	g.POST("/jobs/:job/run/back", s.turnBack)
	g.GET("/jobs/:job/proof", s.showProof)
	g.POST("/jobs/:job/proof", s.changeProof)
	g.GET("/jobs/:job/report", s.showReport)
	g.GET("/jobs/:job/report/document", s.reportDocument)
	g.GET("/jobs/:job/report/file", s.reportFile)
}
