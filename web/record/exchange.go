package record

import (
	"context"
	"errors"
	"io"
	"net/http"
	"os"
	"strconv"
	"strings"
	"yembo/shop/base"
	"yembo/shop/records"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/exchange/bundle"
	"yembo/web/form"
	"yembo/web/kit"
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

// bundleView is the page of a zip with many records: which there are, what each would
// change, and which to take.
type bundleView struct {
	Upload  string
	Records []bundleRow
	Good    int
	Taken   []string // what was stored
	Failed  []string // what was not, and why
	Stopped bool     // before its end
}

type bundleRow struct {
	Name, ID, Model string
	New             bool
	Version, Photos int
	Changes         int
	Some            []string // the first changes in words
	Faults          []string
}

func (s *pages) exportModel(c *echo.Context) error {
	doc, err := s.Shop.Export(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="`+c.Param("id")+`.chassis.json"`)
	return c.Blob(http.StatusOK, "application/json", doc)
}

// exportModels sends the records that a search found, with their photos, as a zip.
func (s *pages) exportModels(c *echo.Context) error {
	f := form.New(c.QueryParams())
	found, err := s.Shop.CapableBriefs(c.Request().Context(), f.Text("q"), capabilityOf(f))
	if err != nil {
		return err
	}
	ids := make([]string, len(found))
	for i := range found {
		ids[i] = found[i].ID
	}
	if len(ids) == 0 {
		return base.ErrNotFound
	}
	return s.sendBundle(c, "models", ids)
}

func (s *pages) exportWithPhotos(c *echo.Context) error {
	return s.sendBundle(c, c.Param("id"), []string{c.Param("id")})
}

// sendBundle writes the zip whole before the first byte is sent, so that a fault
// becomes an error page and never half a file.
func (s *pages) sendBundle(c *echo.Context, name string, ids []string) error {
	out, err := os.CreateTemp("", "bundle-")
	if err != nil {
		return err
	}
	defer func() { out.Close(); os.Remove(out.Name()) }()
	if err := s.Shop.ExportBundle(c.Request().Context(), out, ids...); err != nil {
		return err
	}
	if _, err := out.Seek(0, io.SeekStart); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="`+name+`.zip"`)
	return c.Stream(http.StatusOK, "application/zip", out)
}

// lookAtBundle shows what each record of a zip would change.
func (s *pages) lookAtBundle(c *echo.Context, file []byte) error {
	looks, err := s.Shop.LookAtBundle(c.Request().Context(), file)
	var faults hw.Faults
	if errors.As(err, &faults) {
		return s.Render(c, http.StatusUnprocessableEntity, "import", "Take in records", "models",
			importView{Faults: kit.DocumentFaults(faults)})
	}
	if err != nil {
		return err
	}
	id, err := s.Shop.KeepUpload(c.Request().Context(), file)
	if err != nil {
		return err
	}
	v := bundleView{Upload: strconv.FormatInt(id, 10)}
	for _, l := range looks {
		row := bundleRow{Name: l.Name, Photos: l.Photos, ID: l.ID, Model: l.Model, New: l.New, Version: l.Version,
			Changes: l.Facts}
		if errors.As(l.Err, &faults) {
			row.Faults = kit.DocumentFaults(faults)
			v.Records = append(v.Records, row)
			continue
		}
		for _, x := range l.Some {
			if !l.New {
				row.Some = append(row.Some, changeOf(x).words())
			}
		}
		v.Good++
		v.Records = append(v.Records, row)
	}
	return s.Render(c, http.StatusOK, "bundle", "Take in records", "models", v)
}

// takeBundle stores the records that were ticked, aside.
func (s *pages) takeBundle(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	id, err := strconv.ParseInt(f.Text("upload"), 10, 64)
	if err != nil {
		return base.ErrNotFound
	}
	versions := map[string]int{}
	for _, model := range f.Values["take"] {
		versions[model] = f.Whole("version:" + model).Or(-1)
	}
	file, err := s.Shop.Upload(c.Request().Context(), id)
	if err != nil {
		return err
	}
	if len(versions) == 0 {
		return s.lookAtBundle(c, file)
	}
	token := f.Text("token")
	return s.Aside(c, token, "Records from a zip", func(ctx context.Context, step func(done, of int)) (kit.Shown, error) {
		taken, err := s.Shop.TakeBundle(ctx, s.Acting(c), token, file, versions, step)
		return func(c *echo.Context, stopped bool) error {
			v := takenView(taken)
			v.Stopped = stopped
			return s.Render(c, http.StatusOK, "bundle", "Taken in", "models", v)
		}, err
	})
}

// takenView says what became of the records of a zip.
func takenView(taken []records.Taken) bundleView {
	var v bundleView
	for _, t := range taken {
		var faults hw.Faults
		switch {
		case t.Err == nil:
			v.Taken = append(v.Taken, t.ID)
		case errors.As(t.Err, &faults):
			v.Failed = append(v.Failed, t.ID+": "+strings.Join(kit.DocumentFaults(faults), "; "))
		default:
			v.Failed = append(v.Failed, t.ID+": the record changed since you looked; look at the file again")
		}
	}
	return v
}

func changeOf(x records.FactChange) changeRow {
	row := changeRow{Name: kit.FactName(x.Path), Before: "not known", After: "not known"}
	if x.Before != nil {
		row.Before = hw.ValueWords(x.Path, x.Before)
	}
	if x.After != nil {
		row.After = hw.ValueWords(x.Path, x.After)
	}
	return row
}

func (r changeRow) words() string { return r.Name + ": " + r.Before + " becomes " + r.After }

func (s *pages) newImport(c *echo.Context) error {
	return s.Render(c, http.StatusOK, "import", "Import a record", "models", importView{})
}

// lookAtImport shows what a document would change; nothing is stored.
func (s *pages) lookAtImport(c *echo.Context) error {
	done, err := s.LooksAlone(c)
	if err != nil {
		return err
	}
	defer done()
	text := c.FormValue("text")
	if file, err := c.FormFile("file"); err == nil && file.Size > 0 {
		raw, err := kit.ReadUpload(file, kit.MaxUpload)
		if err != nil {
			return err
		}
		if bundle.IsZip(raw) {
			return s.lookAtBundle(c, raw)
		}
		text = string(raw)
	}
	return s.importPage(c, text, "")
}

func (s *pages) importPage(c *echo.Context, text, notice string) error {
	v := importView{Text: text, Notice: notice}
	status := http.StatusOK
	look, err := s.Shop.LookAtImport(c.Request().Context(), []byte(text))
	var faults hw.Faults
	switch {
	case errors.As(err, &faults):
		status = http.StatusUnprocessableEntity
		v.Faults = kit.DocumentFaults(faults)
	case err != nil:
		return err
	default:
		v.Looked, v.Name, v.ID, v.New, v.Version = true, look.Chassis.Name(), look.Chassis.ID, look.New, look.Version
		for _, ch := range look.Changes {
			v.Changes = append(v.Changes, changeOf(ch))
		}
	}
	if notice != "" {
		status = http.StatusConflict
	}
	return s.Render(c, status, "import", "Import a record", "models", v)
}

func (s *pages) takeImport(c *echo.Context) error {
	f := form.New(nil)
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	f.Values = c.Request().PostForm
	text := f.Value("text")
	id, err := s.Shop.TakeImport(c.Request().Context(), s.Acting(c), f.Text("token"), []byte(text),
		f.Whole("version").Or(-1))
	var faults hw.Faults
	switch {
	case err == nil:
		return kit.SeeOther(c, "/models/"+id)
	case errors.Is(err, base.ErrChanged):
		return s.importPage(c, text, "The record changed since you looked. Nothing was saved; this is what the "+
			"document would change now.")
	case errors.As(err, &faults):
		v := importView{Text: text, Faults: kit.DocumentFaults(faults)}
		return s.Render(c, http.StatusUnprocessableEntity, "import", "Import a record", "models", v)
	}
	return err
}
