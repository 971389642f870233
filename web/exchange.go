package web

import (
	"errors"
	"io"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/shop"
)

// importView is the page that takes a record in: a file or pasted text, then what it
// would change, then the question whether to take it.
type importView struct {
	Text    string
	Faults  []string
	Looked  bool
	Name    string
	ID      string
	New     bool
	Version int
	Changes []changeRow
	Notice  string
}

type changeRow struct{ Name, Before, After string }

func (s *server) exportModel(c *echo.Context) error {
	doc, err := s.Shop.Export(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="`+c.Param("id")+`.chassis.json"`)
	return c.Blob(http.StatusOK, "application/json", doc)
}

func (s *server) newImport(c *echo.Context) error {
	return s.render(c, http.StatusOK, "import", "Take in a record", "models", importView{})
}

// lookAtImport shows what a document would change; nothing is stored.
func (s *server) lookAtImport(c *echo.Context) error {
	text := c.FormValue("text")
	if file, err := c.FormFile("file"); err == nil && file.Size > 0 {
		f, err := file.Open()
		if err != nil {
			return err
		}
		defer f.Close()
		raw, err := io.ReadAll(io.LimitReader(f, maxBody))
		if err != nil {
			return err
		}
		text = string(raw)
	}
	return s.importPage(c, text, "")
}

func (s *server) importPage(c *echo.Context, text, notice string) error {
	v := importView{Text: text, Notice: notice}
	status := http.StatusOK
	look, err := s.Shop.LookAtImport(c.Request().Context(), []byte(text))
	var faults hw.Faults
	switch {
	case errors.As(err, &faults):
		status = http.StatusUnprocessableEntity
		for _, f := range faults {
			v.Faults = append(v.Faults, f.Error())
		}
	case err != nil:
		return err
	default:
		v.Looked, v.Name, v.ID, v.New, v.Version = true, look.Chassis.Name(), look.Chassis.ID, look.New, look.Version
		for _, ch := range look.Changes {
			row := changeRow{Name: factName(ch.Path), Before: "not known", After: "not known"}
			if ch.Before != nil {
				row.Before = valueWords(ch.Path, ch.Before)
			}
			if ch.After != nil {
				row.After = valueWords(ch.Path, ch.After)
			}
			v.Changes = append(v.Changes, row)
		}
	}
	if notice != "" {
		status = http.StatusConflict
	}
	return s.render(c, status, "import", "Take in a record", "models", v)
}

func (s *server) takeImport(c *echo.Context) error {
	f := newForm(nil)
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	f.values = c.Request().PostForm
	text := f.Value("text")
	id, err := s.Shop.TakeImport(c.Request().Context(), s.Actor, f.text("token"), []byte(text), f.whole("version").Or(-1))
	var faults hw.Faults
	switch {
	case err == nil:
		return c.Redirect(http.StatusSeeOther, "/models/"+id)
	case errors.Is(err, shop.ErrChanged):
		return s.importPage(c, text, "The record changed since you looked. Nothing was stored; this is what the document would change now.")
	case errors.As(err, &faults):
		v := importView{Text: text}
		for _, x := range faults {
			v.Faults = append(v.Faults, strings.TrimPrefix(x.Error(), ": "))
		}
		return s.render(c, http.StatusUnprocessableEntity, "import", "Take in a record", "models", v)
	}
	return err
}
