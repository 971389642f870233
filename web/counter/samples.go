package counter

import (
	"net/http"
	"net/url"

	"github.com/labstack/echo/v5"

	"yembo/shop/base"
	"yembo/web/form"
	"yembo/web/kit"
)

// changeFirstSteps leaves out one of the first steps of a new shop, or tells all of them again.
func (s *pages) changeFirstSteps(c *echo.Context) error {
	if err := s.Shop.SkipFirstStep(c.Request().Context(), c.FormValue("skip")); err != nil {
		return err
	}
	return kit.SeeOther(c, "/")
}

// changeSamples takes sample records in, or shows what became of removing them.
func (s *pages) changeSamples(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	switch f.Text("do") {
	case "take":
		if err := s.Shop.AddSamples(ctx, s.Acting(c), f.Text("token")); err != nil {
			return err
		}
		return kit.SeeOther(c, "/models")
	case "remove":
		kept, err := s.Shop.RemoveSamples(ctx, s.Acting(c), f.Text("token"))
		if err != nil {
			return err
		}
		if len(kept) == 0 {
			return kit.SeeOther(c, "/removed")
		}
		return s.samplesPage(c, kept)
	}
	return base.ErrNotFound
}

// samplesView is what removing the samples means, or why some of them stayed.
type samplesView struct {
	*form.Form
	Models, Parts int
	Machines      []string
	Kept          []string
}

func (s *pages) askSamples(c *echo.Context) error { return s.samplesPage(c, nil) }

func (s *pages) samplesPage(c *echo.Context, kept []string) error {
	all, err := s.Shop.Samples(c.Request().Context())
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "samples", "Sample records", "",
		samplesView{form.New(url.Values{}), all.Models, all.Parts, all.Machines, kept})
}
