package record

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/web/draw"
)

func (s *pages) showMat(c *echo.Context) error {
	v, err := s.mat(c)
	if err != nil {
		return err
	}
	return s.Render(c, http.StatusOK, "mat", "Screw mat of "+v.Name, "models", v)
}

// matFile sends the first sheet as an SVG file, in true millimetres.
func (s *pages) matFile(c *echo.Context) error {
	v, err := s.mat(c)
	if err != nil {
		return err
	}
	var out strings.Builder
	out.WriteString(`<?xml version="1.0" encoding="UTF-8"?>` + "\n")
	if err := s.WritePart(&out, "mat", "matsheet", v.Sheets[0]); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="`+v.ID+`-mat.svg"`)
	return c.Blob(http.StatusOK, "image/svg+xml", []byte(out.String()))
}

func (s *pages) mat(c *echo.Context) (draw.Mat, error) {
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return draw.Mat{}, err
	}
	paper, err := s.PaperOf(c)
	if err != nil {
		return draw.Mat{}, err
	}
	return draw.MatOf(r.Chassis, paper, c.QueryParam("scale") == "1", c.QueryParams()["t"], s.WorkshopName(s.Settings(c))), nil
}
