package record

import (
	"errors"
	"net/http"
	"net/url"
	"yembo/shop/base"
	"yembo/shop/records"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/web/form"
	"yembo/web/kit"
)

// typeLines answers what is typed: with what it means, or by keeping it.
func (s *pages) typeLines(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	id := c.Param("id")
	text, source := f.Values.Get("text"), hw.Source(f.Text("source"))
	if hw.Sources.Index(source) < 0 {
		source = hw.Bench
	}
	ch, version := &hw.Chassis{Kind: "notebook"}, 0
	if id != "" {
		r, err := s.Shop.Model(c.Request().Context(), id)
		if err != nil {
			return err
		}
		ch, version = r.Chassis, r.Version
	}
	if f.Is("do", "look") {
		look, err := s.LookAt(c.Request().Context(), s.Acting(c), ch, text, source, f.Whole("cursor").Or(len([]rune(text))))
		if err != nil {
			return err
		}
		return s.RenderPart(c, http.StatusOK, "model", "lookline", look)
	}
	kept, err := s.Shop.RecordLines(c.Request().Context(), s.Acting(c), f.Text("token"), id, f.Whole("version").Or(-1),
		text, shorthand.Source{Name: source})
	var faults hw.Faults
	switch {
	case err == nil:
		return kit.SeeOther(c, "/models/"+kept+"?kept=line")
	case !errors.Is(err, base.ErrChanged) && !errors.As(err, &faults):
		return err
	}
	look, lookErr := s.LookAt(c.Request().Context(), s.Acting(c), ch, text, source, 0)
	if lookErr != nil {
		return lookErr
	}
	status, notice := http.StatusUnprocessableEntity, ""
	if errors.Is(err, base.ErrChanged) {
		status, notice = http.StatusConflict,
			"Someone else changed the record meanwhile. Nothing was saved: look at what your line means now, and "+
				"keep it again."
	} else if len(look.Faults) == 0 && len(look.Wrong) == 0 {
		look.Wrong = kit.FaultTexts(faults)
	}
	v := kit.LineView{ID: id, Version: version, Text: text, Source: string(source), Look: look, Focus: true}
	if id == "" {
		return s.newModelPage(c, status, v)
	}
	return s.modelPageWith(c, status, notice, form.New(url.Values{}), &v)
}

// usualSteps begins a record with the steps that nearly every machine has.
func (s *pages) usualSteps(c *echo.Context) error {
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	_, err = s.Shop.RecordLines(c.Request().Context(), s.Acting(c), c.FormValue("token"), r.Chassis.ID, r.Version,
		records.UsualSteps(r.Chassis), shorthand.Source{Name: "assumed"})
	if err != nil {
		return err
	}
	return kit.SeeOther(c, "/models/"+r.Chassis.ID+"/steps")
}

// showHelp explains the lines by example.
func (s *pages) showHelp(c *echo.Context) error {
	return s.Render(c, http.StatusOK, "shorthand", "Typing a record", "models", shorthand.Help())
}
