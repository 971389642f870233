package web

import (
	"bytes"
	"fmt"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/proof"
	"yembo/exchange"
	"yembo/shop"
)

// reportView is what a customer gets, as a page that prints.
type reportView struct {
	tabs
	*proof.Report
	Paper    string
	Address  []string
	HandedAt string
	Sign     *shop.Signature
}

func (s *server) reportOf(c *echo.Context) (reportView, error) {
	var v reportView
	id, err := jobID(c)
	if err != nil {
		return v, err
	}
	if v.Report, err = s.Shop.Report(c.Request().Context(), id); err != nil {
		return v, err
	}
	p, err := s.Shop.Proof(c.Request().Context(), id)
	if err != nil {
		return v, err
	}
	v.tabs = tabsOf(&p.Job.MachineRecord, "proof")
	if v.Paper, err = s.paperOf(c); err != nil {
		return v, err
	}
	v.Address = strings.FieldsFunc(v.Shop.Address, func(r rune) bool { return r == '\n' })
	if p.Doc.Hand != nil {
		v.HandedAt, v.Sign = stamp(p.Doc.Hand.At), p.Doc.Hand.Signature
	}
	return v, nil
}

// showReport is the report as a page that prints.
func (s *server) showReport(c *echo.Context) error {
	v, err := s.reportOf(c)
	if err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "report", v.Job+" report", "machines", &v)
}

// reportDocument is the report as yembo.report/1.
func (s *server) reportDocument(c *echo.Context) error {
	id, err := jobID(c)
	if err != nil {
		return err
	}
	r, err := s.Shop.Report(c.Request().Context(), id)
	if err != nil {
		return err
	}
	out, err := exchange.Write(r)
	if err != nil {
		return err
	}
	return sendFile(c, fmt.Sprintf("report-%s.json", strings.ToLower(r.Job)), "application/json", out)
}

// reportFile is the report as one file that needs nothing else.
func (s *server) reportFile(c *echo.Context) error {
	v, err := s.reportOf(c)
	if err != nil {
		return err
	}
	var out bytes.Buffer
	if err := s.pages.byName["report"].ExecuteTemplate(&out, "reportfile", &v); err != nil {
		return err
	}
	return sendFile(c, fmt.Sprintf("report-%s.html", strings.ToLower(v.Job)), "text/html; charset=utf-8", out.Bytes())
}
