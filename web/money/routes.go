// Package money is the pages of quotes, what a customer sees by a link, and invoices.
package money

import (
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"yembo/web/kit"
)

// How often a link is asked for from one place: so many a second, so many at once.
const (
	linkRate  = 1
	linkBurst = 30
)

// pages are the handlers of this area.
type pages struct {
	*kit.Site
}

// Routes hangs the pages of this area into a group.
func Routes(g *echo.Group, site *kit.Site) {
	s := &pages{Site: site}
	g.GET("/quotes/:quote", s.showQuote)
	g.GET("/quotes/:quote/edit", s.editQuote)
	g.POST("/quotes/:quote", s.saveQuote)
	g.POST("/quotes/:quote/show", s.freezeQuote)
	g.POST("/quotes/:quote/answer", s.answerQuote)
	g.GET("/quotes/:quote/document", s.quoteDocument)
	g.GET("/jobs/:job/bill", s.showBill)
	g.POST("/jobs/:job/invoice", s.makeInvoice)
	g.POST("/jobs/:job/pay", s.payJob)
	g.POST("/jobs/:job/pay/strike", s.strikePayment)
	g.GET("/invoices", s.listInvoices)
	g.GET("/invoices/table.csv", s.invoiceTable)
	g.GET("/invoices/:invoice", s.showInvoice)
	g.GET("/invoices/:invoice/document", s.invoiceDocument)
	g.POST("/invoices/:invoice/cancel", s.cancelInvoice)
	LinkRoutes(g.Group("/q"), site)
}

// LinkRoutes hangs what a customer sees by a link into a group.
func LinkRoutes(linked *echo.Group, site *kit.Site) {
	s := &pages{Site: site}
	// What a customer sees by a link: asked no faster than somebody reads, so that keys are not tried.
	// Wrong keys are counted by the address they come from, a right one by itself: whoever tries keys locks
	// nobody out.
	linked.Use(middleware.RateLimiterWithConfig(middleware.RateLimiterConfig{IdentifierExtractor: s.linkAsker,
		Store: middleware.NewRateLimiterMemoryStoreWithConfig(
			middleware.RateLimiterMemoryStoreConfig{Rate: linkRate, Burst: linkBurst, ExpiresIn: time.Hour})}))
	linked.GET("/:key", s.showLink)
	linked.POST("/:key", s.answerLink)
}
