// Package shelf is the pages of parts, orders, suppliers and price lists.
package shelf

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
	g.GET("/parts", s.listParts)
	g.POST("/parts/line", s.enterPart)
	g.GET("/parts/new", s.newPart)
	g.POST("/parts", s.createPart)
	g.GET("/parts/count", s.showCount)
	g.POST("/parts/count", s.bookCount)
	g.GET("/parts/movements", s.showMoves)
	g.GET("/parts/movements.csv", s.exportMoves)
	g.GET("/parts/export", s.exportParts)
	g.GET("/parts/export.csv", s.exportPartTable)
	g.POST("/parts/finds/:find", s.findDone)
	g.POST("/machines/:id/find", s.findIt)
	g.GET("/parts/import", s.newPrices)
	g.POST("/parts/import", s.lookAtPrices)
	g.POST("/parts/import/take", s.takePrices)
	g.GET("/parts/:id", s.showPart)
	g.GET("/orders", s.listOrders)
	g.POST("/orders", s.placeOrder)
	g.GET("/orders/new", s.newOrder)
	g.GET("/orders/:order", s.showOrder)
	g.POST("/orders/:order", s.changeOrder)
	g.GET("/orders/:order/table.csv", s.exportOrder)
	g.GET("/suppliers", s.listSuppliers)
	g.POST("/suppliers", s.saveSupplier)
	g.POST("/suppliers/:supplier", s.saveSupplier)
	g.POST("/parts/:id", s.changePart)
}
