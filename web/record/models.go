package record

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"sync"
	"yembo/shop/base"
	"yembo/shop/records"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

type modelRow struct {
	ID, Name, Code, Kind string
	Memory               string
	Limit                string
	Disputed, Machines   int
	Small                *draw.Small
}

type modelList struct {
	*form.Form
	kit.Listing
	Rows   []modelRow
	All    int
	Asked  bool   // something is looked for
	Search string // what is looked for, as in the address
}

var modelSorts = []hw.Term[string]{
	{Word: "", Says: "by name"},
	{Word: "code", Says: "by code"},
	{Word: "newest", Says: "newest first"},
}

func (s *pages) listModels(c *echo.Context) error {
	f := form.New(c.QueryParams())
	ctx := c.Request().Context()
	want := capabilityOf(f)
	view := modelList{Form: f, Listing: kit.ListingOf(c, nil, modelSorts), Search: f.Values.Encode()}
	view.Asked = view.Query != "" || want.Asked()
	var err error
	if view.All, err = s.Shop.ModelCount(ctx); err != nil {
		return err
	}
	found, n, err := s.Shop.ListModels(ctx, view.ListQuery(), want)
	if err != nil {
		return err
	}
	view.Found = n
	for _, m := range found {
		small, err := s.small(ctx, m.ID, m.Version)
		if err != nil {
			return err
		}
		view.Rows = append(view.Rows, modelRow{ID: m.ID, Name: m.Name, Code: m.Code, Kind: hw.Builds.Says(m.Kind), Machines: m.Machines,
			Memory: kit.MemorySummary(m), Limit: kit.GBWords(m.Limits.Maker), Disputed: m.Disputed, Small: small})
	}
	return s.Render(c, http.StatusOK, "models", "Models", "models", view)
}

// smalls keeps the small drawings of models, by the version that each was drawn of: a list shows fifty
// at once, and opens no record for one that it knows.
type smalls struct {
	mu   sync.Mutex
	made map[string]smallOf
}

type smallOf struct {
	version int
	drawing *draw.Small
}

// mostSmalls is how many small drawings are kept.
const mostSmalls = 4000

func (s *pages) small(ctx context.Context, id string, version int) (*draw.Small, error) {
	s.smalls.mu.Lock()
	known, ok := s.smalls.made[id]
	s.smalls.mu.Unlock()
	if ok && known.version == version {
		return known.drawing, nil
	}
	ch, err := s.Shop.Chassis(ctx, id)
	if err != nil {
		return nil, err
	}
	d := draw.SmallOf(ch)
	s.smalls.mu.Lock()
	defer s.smalls.mu.Unlock()
	if s.smalls.made == nil || len(s.smalls.made) >= mostSmalls {
		s.smalls.made = map[string]smallOf{}
	}
	s.smalls.made[id] = smallOf{version, d}
	return d, nil
}

func capabilityOf(f *form.Form) records.Capability {
	return records.Capability{ReachesGB: f.Dec("reaches"), SlotLength: f.Whole("length"), SlotGen: f.Whole("gen"),
		BatterySteps: f.Whole("deep")}
}

func (s *pages) showModel(c *echo.Context) error {
	return s.modelPage(c, http.StatusOK, "", form.New(url.Values{}))
}

func (s *pages) modelPage(c *echo.Context, status int, notice string, copied *form.Form) error {
	return s.modelPageWith(c, status, notice, copied, &kit.LineView{Focus: c.QueryParam("kept") != ""})
}

// modelPageWith shows the record with a line as it was typed.
func (s *pages) modelPageWith(c *echo.Context, status int, notice string, copied *form.Form, line *kit.LineView) error {
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	view := buildModelView(r.Chassis, s.Settings(c))
	if view.Learned, err = s.Shop.LearnedOf(c.Request().Context(), r.Chassis.ID); err != nil {
		return err
	}
	if view.Photos, err = s.photosOf(c, r.Chassis.ID); err != nil {
		return err
	}
	view.History, view.Version, view.Notice, view.Copy = r.History, r.Version, notice, copied
	if !copied.Values.Has("/maker") {
		copied.Values.Set("/maker", r.Chassis.Maker)
	}
	line.ID, line.Version, line.Action, line.Sources = r.Chassis.ID, r.Version, "/models/"+r.Chassis.ID+"/lines",
		hw.Sources.Words()
	line.Typed = records.LinesTyped(r.History)
	if c.QueryParam("kept") != "" && len(r.History) > 0 && r.History[0].Restorable {
		line.Kept = &r.History[0]
	}
	view.Line = line
	if line.Look != nil {
		view.Inside = line.Look.Inside
	}
	return s.Render(c, status, "model", view.Name, "models", view)
}

// restoreModel brings an earlier state back.
func (s *pages) restoreModel(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	err = s.Shop.Restore(c.Request().Context(), s.Acting(c), f.Text("token"), c.Param("id"), f.Whole("version").Or(-1),
		int64(f.Whole("change").Or(-1)))
	var faults hw.Faults
	switch {
	case err == nil:
		return kit.SeeOther(c, "/models/"+c.Param("id"))
	case errors.Is(err, base.ErrChanged):
		return s.modelPage(c, http.StatusConflict,
			"Someone else changed the record meanwhile. Nothing was restored; this is the record as it is now.",
			form.New(url.Values{}))
	case errors.As(err, &faults):
		return s.modelPage(c, http.StatusUnprocessableEntity,
			"The earlier state cannot be restored: "+faults[0].Error(), form.New(url.Values{}))
	}
	return err
}

// copyModel makes a new record out of this one.
func (s *pages) copyModel(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	general := hw.Chassis{ID: f.Slug("/id", ""), Maker: f.Text("/maker"), Model: f.Text("/model"),
		Code: f.Text("/code"), Year: f.Whole("/year")}
	if f.Count() == 0 {
		id, err := s.Shop.Copy(c.Request().Context(), s.Acting(c), f.Text("token"), c.Param("id"), general)
		if err == nil {
			return kit.SeeOther(c, "/models/"+id)
		}
		if !f.Take(err) {
			return err
		}
	}
	return s.modelPage(c, http.StatusUnprocessableEntity, "", f)
}
