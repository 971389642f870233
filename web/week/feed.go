package week

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/shop/jobs"
	"yembo/web/form"
	"yembo/web/kit"
)

// feedView is the page of somebody's calendar address.
type feedView struct {
	Has      jobs.Feed
	Made     string
	Read     string
	Address  string // shown once, just after it was made
	MaySee   bool   // they may have machines and work in it
	ShownNot bool   // nothing was shown to all yet, so it is empty
}

func (s *pages) askFeed(c *echo.Context) error { return s.feedPage(c, "") }

func (s *pages) feedPage(c *echo.Context, key string) error {
	ctx := c.Request().Context()
	w, err := s.Shop.Week(ctx)
	if err != nil {
		return err
	}
	me := s.Acting(c).Name
	v := feedView{MaySee: mayWork(&w, me), ShownNot: w.Arr.Shown == nil && len(w.How.AtBench) > 1}
	if v.Has, err = s.Shop.FeedOf(ctx, me); err != nil {
		return err
	}
	if v.Made = kit.Stamp(v.Has.Made); !v.Has.Read.IsZero() {
		v.Read = kit.Stamp(v.Has.Read)
	}
	if key != "" {
		// It is read where the pages are: the customers' door has links of quotes alone.
		v.Address = c.Scheme() + "://" + c.Request().Host + "/feed/" + key + ".ics"
	}
	return s.Render(c, http.StatusOK, "weekfeed", "Calendar feed", "bench", v)
}

func mayWork(w *jobs.WeekPlan, name string) bool {
	if len(w.How.AtBench) == 0 {
		return true
	}
	for _, x := range w.How.AtBench {
		if x == name {
			return true
		}
	}
	return false
}

// newFeed makes an address, in place of the one before it.
func (s *pages) newFeed(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	key, err := s.Shop.NewFeed(c.Request().Context(), s.Acting(c), f.Is("/full", "yes"))
	if err != nil {
		return err
	}
	return s.feedPage(c, key)
}

// feed is a calendar, for whoever has its address.
func (s *pages) feed(c *echo.Context) error {
	cal, err := s.Shop.ReadFeed(c.Request().Context(), strings.TrimSuffix(c.Param("key"), ".ics"))
	if err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "private, no-store")
	return c.Blob(http.StatusOK, "text/calendar; charset=utf-8", cal)
}
