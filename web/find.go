package web

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"yembo/shop/base"
	"yembo/shop/billing"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/exchange/photo"
	"yembo/web/kit"
)

// scanView is the page for a code, with one that was not found, or why a picture told none.
type scanView struct{ Code, Fault string }

// readCode opens what the code is that a picture shows.
func (s *pages) readCode(c *echo.Context) error {
	plain := strings.Contains(c.Request().Header.Get("Accept"), "application/json") // a page wants it for one of its fields
	again := func(says string) error {
		if plain {
			return c.JSON(http.StatusUnprocessableEntity, map[string]string{"text": says})
		}
		return s.Render(c, http.StatusUnprocessableEntity, "scan", "Scan", "", scanView{Fault: says})
	}
	file, err := c.FormFile("photo")
	if err != nil {
		return again("No picture was sent: take one of the code, or choose one.")
	}
	raw, err := kit.ReadUpload(file, photo.MaxBytes)
	if err != nil {
		return err
	}
	code, err := photo.Code(c.Request().Context(), raw)
	var refused photo.Refused
	switch {
	case errors.As(err, &refused):
		return again(kit.Sentence(refused.Error()))
	case err != nil:
		return err
	case code == "" || len(code) > 200 || !kit.IsText(code):
		return again("No code was found in the picture: closer, straight, without a shadow; or type what stands below it.")
	}
	if plain {
		return c.JSON(http.StatusOK, map[string]string{"code": code})
	}
	return kit.SeeOther(c, "/find?code="+url.QueryEscape(code))
}

// find opens what a code is that was scanned or typed: the number of a quote or an invoice, a job's label, a
// machine's tag or serial, a
// piece's serial, a part's label or number. Anything else is searched.
func (s *pages) find(c *echo.Context) error {
	code := strings.TrimSpace(c.QueryParam("code"))
	if code == "" {
		return s.Render(c, http.StatusOK, "scan", "Scan", "", scanView{})
	}
	to := func(page, what string) error {
		return kit.SeeOther(c, page+"?"+url.Values{"found": {what}, "code": {code}}.Encode())
	}
	ctx := c.Request().Context()
	if id, ok, err := s.Shop.QuoteOfLabel(ctx, code); err != nil {
		return err
	} else if ok {
		return to(fmt.Sprintf("/quotes/%d", id), "quote")
	}
	if n, ok := billing.InvoiceOfLabel(code); ok {
		_, err := s.Shop.Invoice(ctx, n)
		switch {
		case err == nil:
			return to(fmt.Sprintf("/invoices/%d", n), "invoice")
		case !errors.Is(err, base.ErrNotFound):
			return err
		}
	}
	if id, ok := base.JobOfLabel(code); ok {
		_, err := s.Shop.Job(ctx, id)
		switch {
		case err == nil:
			return to(fmt.Sprintf("/jobs/%d", id), "label")
		case !errors.Is(err, base.ErrNotFound):
			return err
		}
	}
	found, err := s.Shop.Machines(ctx, code)
	if err != nil {
		return err
	}
	var same []jobs.MachineRow
	what := "serial"
	for _, m := range found.Machines {
		if strings.EqualFold(m.Serial, code) || strings.EqualFold(m.ID, code) {
			same = append(same, m)
			if strings.EqualFold(m.ID, code) {
				what = "machine"
			}
		}
	}
	if len(same) == 1 {
		if m := &same[0]; m.JobID != 0 && m.Closed.IsZero() {
			return to(fmt.Sprintf("/jobs/%d", m.JobID), what)
		}
		return to("/machines/"+same[0].Key+"/history", what)
	}
	if len(found.Machines) > 0 {
		return kit.SeeOther(c, "/machines?q="+url.QueryEscape(code))
	}
	look, err := s.Shop.LookAtPart(ctx, code)
	switch {
	case err != nil:
		return err
	case len(look.Serials) > 0:
		return to("/parts/"+url.PathEscape(look.Serials[0].Part), "piece")
	case look.Same != nil && len(look.Like) == 0:
		return to("/parts/"+url.PathEscape(look.Same.ID), "part")
	case look.Same != nil || len(look.Like) > 0:
		return kit.SeeOther(c, "/parts?q="+url.QueryEscape(code))
	}
	jobs, err := s.Shop.ListJobs(ctx, base.ListQuery{Words: code})
	if err != nil {
		return err
	}
	if jobs.Found > 0 {
		return kit.SeeOther(c, "/jobs?q="+url.QueryEscape(code))
	}
	return s.Render(c, http.StatusNotFound, "scan", "Not found", "", scanView{Code: code})
}
