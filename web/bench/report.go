package bench

import (
	"bytes"
	"fmt"
	"net/http"
	"strings"
	"yembo/shop/jobs"

	"github.com/labstack/echo/v5"

	"yembo/core/proof"
	"yembo/exchange"
	"yembo/web/kit"
)

// reportView is what a customer gets, as a page that prints.
type reportView struct {
	kit.Tabs
	*proof.Report
	Paper    string
	Address  []string
	HandedAt string
	Sign     *jobs.Signature
}

func (s *pages) reportOf(c *echo.Context) (reportView, error) {
	var v reportView
	id, err := kit.Number(c, "job")
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
	v.Tabs = kit.TabsOf(&p.Job.MachineRecord, "proof")
	if v.Paper, err = s.PaperOf(c); err != nil {
		return v, err
	}
	v.Address = strings.FieldsFunc(v.Shop.Address, func(r rune) bool { return r == '\n' })
	if p.Doc.Hand != nil {
		v.HandedAt, v.Sign = kit.Stamp(p.Doc.Hand.At), p.Doc.Hand.Signature
	}
	return v, nil
}

// showReport is the report as a page that prints.
func (s *pages) showReport(c *echo.Context) error {
	v, err := s.reportOf(c)
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "report", v.Job+" report", "machines", &v)
}

// reportDocument is the report as yembo.report/1.
func (s *pages) reportDocument(c *echo.Context) error {
	id, err := kit.Number(c, "job")
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
	return kit.SendFile(c, fmt.Sprintf("report-%s.json", strings.ToLower(r.Job)), "application/json", out)
}

// reportFile is the report as one file that needs nothing else.
func (s *pages) reportFile(c *echo.Context) error {
	v, err := s.reportOf(c)
	if err != nil {
		return err
	}
	var out bytes.Buffer
	if err := s.WritePart(&out, "report", "reportfile", &v); err != nil {
		return err
	}
	return kit.SendFile(c, fmt.Sprintf("report-%s.html", strings.ToLower(v.Job)), "text/html; charset=utf-8", out.Bytes())
}
