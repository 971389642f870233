package record

import (
	"errors"
	"net/http"
	"net/url"
	"strconv"
	"time"
	"yembo/shop/base"
	"yembo/shop/records"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/exchange/photo"
	"yembo/web/form"
	"yembo/web/kit"
)

// settleView is the page where something suspected is settled once it was looked at.
type settleView struct {
	*form.Form
	Model, Name string
	ID, Text    string
	Step        string
	Settled     *hw.Settled // as it stands, nil where it is open
	Places      []hw.Term[string]
	Version     int
	Today, By   string
	MostMB      int
	Changed     []base.Change // what someone else did meanwhile
}

func (s *pages) settleView(c *echo.Context, f *form.Form) (settleView, error) {
	r, what, err := s.Shop.Suspicion(c.Request().Context(), c.Param("id"), c.Param("item"))
	if err != nil {
		return settleView{}, err
	}
	v := settleView{Form: f, Model: r.Chassis.ID, Name: r.Chassis.Name(), ID: what.ID, Text: what.Text, Step: what.Step,
		Settled: what.Settled,
		Version: r.Version, Today: hw.Day(s.Shop.Now().Format(time.DateOnly)), By: s.Actor.Name, MostMB: photo.MaxBytes >> 20}
	if v.Text == "" {
		v.Text = what.ID
	}
	v.Places = []hw.Term[string]{{Word: hw.SettledNothing, Says: "nothing: there is none"},
		{Word: records.SettledNew, Says: "something not on record yet, said below"}}
	for _, p := range r.Chassis.Places() {
		v.Places = append(v.Places, hw.Term[string]{Word: p.ID, Says: p.Kind.Says() + " " + p.ID})
	}
	for _, so := range r.Chassis.Mem().Soldered {
		v.Places = append(v.Places, hw.Term[string]{Word: so.ID, Says: "soldered memory " + so.ID})
	}
	return v, nil
}

func (s *pages) showSettle(c *echo.Context) error {
	f := form.New(url.Values{})
	v, err := s.settleView(c, f)
	if err != nil {
		return err
	}
	if v.Settled != nil {
		f.Values.Set("/as", v.Settled.As)
		f.Values.Set("/on", v.Settled.On)
	}
	return s.Render(c, http.StatusOK, "settle", "Settle what is suspected of "+v.Name, "models", v)
}

// settle stores what it was, with the place and the picture.
func (s *pages) settle(c *echo.Context) error {
	sent, err := c.MultipartForm()
	if err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	defer sent.RemoveAll()
	f := form.Of(c, sent.Value)
	f.Values.Set("/photo", "") // a fault of the picture stands at its field
	v, err := s.settleView(c, f)
	if err != nil {
		return err
	}
	in := records.Settlement{Model: v.Model, Version: f.Whole("version").Or(-1), ID: v.ID, As: f.Text("/as"),
		Line: f.Text("/line"), On: f.Date("/on")}
	for _, file := range sent.File["photo"] {
		if file.Size == 0 {
			continue
		}
		if in.Photo, err = kit.ReadUpload(file, photo.MaxBytes); err != nil {
			return err
		}
	}
	if f.Count() == 0 {
		switch err := s.Shop.Settle(c.Request().Context(), s.Acting(c), f.Text("token"), in); {
		case err == nil:
			return kit.SeeOther(c, "/models/"+v.Model)
		case errors.Is(err, base.ErrChanged):
			if _, v.Changed, err = s.Shop.Since(c.Request().Context(), v.Model, in.Version); err != nil {
				return err
			}
			f.Values.Set("version", strconv.Itoa(v.Version))
			return s.Render(c, http.StatusConflict, "settle", "Not saved", "models", v)
		case !f.Take(err):
			return err
		}
	}
	return s.Render(c, http.StatusUnprocessableEntity, "settle", "Not saved", "models", v)
}
