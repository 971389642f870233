// Package counter is the pages of who comes in with what: the bench list, machines and jobs, readings,
// customers, what is removed, and the settings.
package counter

import (
	"github.com/labstack/echo/v5"

	"yembo/web/kit"
)

// pages are the handlers of this area.
type pages struct {
	*kit.Site
	traces traces
}

// Routes hangs the pages of this area into a group.
func Routes(g *echo.Group, site *kit.Site) {
	s := &pages{Site: site}
	g.GET("/", s.showBenchList)
	g.POST("/who", s.setWho)
	g.GET("/welcome", s.showWelcome)
	g.POST("/welcome", s.welcome)
	g.POST("/firststeps", s.changeFirstSteps)
	g.GET("/samples", s.askSamples)
	g.POST("/samples", s.changeSamples)
	g.GET("/machines", s.listMachines)
	g.GET("/machines/new", s.newMachine)
	g.POST("/machines", s.takeIn)
	g.GET("/machines/import", s.newList)
	g.POST("/machines/import", s.lookAtList)
	g.POST("/machines/import/take", s.takeList)
	g.GET("/machines/export", s.exportMachines)
	g.GET("/machines/:id/export", s.ByNumber(s.exportMachine))
	g.GET("/machines/:id/history", s.ByNumber(s.showHistory))
	g.GET("/machines/:id/readings", s.ByNumber(s.showReadings))
	g.POST("/machines/:id/readings", s.addReading)
	g.GET("/machines/:id/readings/:reading", s.ByNumber(s.showReading))
	g.POST("/machines/:id/readings/:reading", s.acceptReading)
	g.GET("/machines/:id/draw", s.ByNumber(s.showDraw))
	g.GET("/machines/:id/draw/events", kit.OwnPages(s.ByNumber(s.drawEvents)))
	g.POST("/machines/:id/draw", s.takeDraw)
	g.POST("/machines/:id/tag", s.changeTag)
	g.GET("/machines/:id/correct", s.ByNumber(s.editMachine))
	g.POST("/machines/:id/correct", s.correctMachine)
	g.POST("/machines/:id/putback", s.putMachineBack)
	g.GET("/jobs", s.listJobs)
	g.GET("/jobs/:job", s.showJob)
	g.GET("/jobs/:job/correct", s.editJob)
	g.POST("/jobs/:job/correct", s.correctJob)
	g.POST("/jobs/:job/putback", s.putJobBack)
	g.POST("/jobs/:job/move", s.moveJob)
	g.POST("/jobs/:job/fit", s.fitPart)
	g.POST("/jobs/:job/contacts", s.addContact)
	g.POST("/jobs/:job/talk", s.addTalk)
	g.POST("/jobs/:job/signature", s.signJob)
	g.POST("/jobs/:job/photos", s.addJobPhotos)
	g.GET("/jobs/:job/label", s.showLabel)
	g.GET("/jobs/:job/sheet", s.showIntakeSheet)
	g.GET("/remove/:kind/:record", s.askRemove)
	g.POST("/remove/:kind/:record", s.remove)
	g.GET("/removed", s.listRemoved)
	g.POST("/removed/:kind/:record/back", s.bringBack)
	g.GET("/customers", s.listCustomers)
	g.GET("/customers/:customer", s.showCustomer)
	g.POST("/customers/:customer", s.changeCustomer)
	g.GET("/customers/:customer/known", s.showKnown)
	g.GET("/customers/:customer/known.json", s.exportKnown)
	g.GET("/settings", s.showSettings)
	g.POST("/settings", s.saveSettings)
}
