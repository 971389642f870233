package record

import (
	"errors"
	"fmt"
	"mime/multipart"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"
	"yembo/shop/base"
	"yembo/shop/records"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/exchange/photo"
	"yembo/web/form"
	"yembo/web/kit"
)

// photosView is the page of a model's photos, with the form that adds some.
type photosView struct {
	*form.Form
	ID, Name string
	Photos   []kit.PhotoView
	Removed  []kit.PhotoView
	About    []factChoice
	Refused  []string // files that were not taken, with the reason
	Taken    int
	Today    string
	Most     int
	MostMB   int
}

type factChoice struct{ Path, Words string }

// about are the photos that show a fact: those of the fact itself, and of its place.
func about(list []kit.PhotoView, path string) []kit.PhotoView {
	var out []kit.PhotoView
	for _, p := range list {
		if p.Fact != "" && (p.Fact == path || strings.HasPrefix(path, p.Fact+"/")) {
			out = append(out, p)
		}
	}
	return out
}

// photosOf are the photos on a model's record.
func (s *pages) photosOf(c *echo.Context, model string) ([]kit.PhotoView, error) {
	list, err := s.Shop.Photos(c.Request().Context(), model)
	shown, _ := kit.PhotoViews(model, list)
	return shown, err
}

func (s *pages) showPhotos(c *echo.Context) error {
	return s.photosPage(c, http.StatusOK, photosView{Form: form.New(url.Values{"fact": {c.QueryParam("fact")}})})
}

func (s *pages) photosPage(c *echo.Context, status int, v photosView) error {
	ctx := c.Request().Context()
	r, err := s.Shop.Model(ctx, c.Param("id"))
	if err != nil {
		return err
	}
	list, err := s.Shop.Photos(ctx, r.Chassis.ID)
	if err != nil {
		return err
	}
	v.ID, v.Name, v.Today = r.Chassis.ID, r.Chassis.Name(), hw.Day(s.Shop.Now().Format(time.DateOnly))
	v.Most, v.MostMB = kit.MaxPhotoFiles, photo.MaxBytes>>20
	v.Photos, v.Removed = kit.PhotoViews(v.ID, list)
	for _, path := range records.PhotoFacts(r.Chassis) {
		v.About = append(v.About, factChoice{path, kit.PhotoFactWords(path)})
	}
	return s.Render(c, status, "photos", "Photos of "+v.Name, "models", v)
}

// addPhotos takes each picture of the form by itself: the good ones are kept, the
// others named with the reason.
func (s *pages) addPhotos(c *echo.Context) error {
	sent, err := c.MultipartForm()
	if err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	defer sent.RemoveAll()
	f := form.Of(c, sent.Value)
	v := photosView{Form: f}
	var files []*multipart.FileHeader
	for _, file := range sent.File["photo"] {
		if file.Size > 0 || file.Filename != "" {
			files = append(files, file)
		}
	}
	switch {
	case len(files) == 0:
		f.Fault("photo", "no picture is chosen")
	case len(files) > kit.MaxPhotoFiles:
		f.Fault("photo", fmt.Sprintf("%d pictures at once; at most %d are taken", len(files), kit.MaxPhotoFiles))
	}
	if f.Count() > 0 {
		return s.photosPage(c, http.StatusUnprocessableEntity, v)
	}
	for i, file := range files {
		raw, err := kit.ReadUpload(file, photo.MaxBytes)
		if err != nil {
			return err
		}
		_, err = s.Shop.AddPhoto(c.Request().Context(), s.Acting(c), f.Text("token")+"-"+strconv.Itoa(i), c.Param("id"),
			records.PhotoEntry{File: raw, Fact: f.Text("fact"), Caption: f.Text("caption"), On: f.Date("on")})
		var faults hw.Faults
		switch {
		case err == nil:
			v.Taken++
		case errors.As(err, &faults) && faults[0].Pointer == "/photo":
			v.Refused = append(v.Refused, file.Filename+": "+faults[0].Text)
		case errors.As(err, &faults):
			f.Fault(strings.TrimPrefix(faults[0].Pointer, "/"), faults[0].Text)
			return s.photosPage(c, http.StatusUnprocessableEntity, v)
		default:
			return err
		}
	}
	if len(v.Refused) > 0 {
		return s.photosPage(c, http.StatusUnprocessableEntity, v)
	}
	return kit.SeeOther(c, "/models/"+c.Param("id")+"/photos")
}

func (s *pages) photoFile(c *echo.Context) error {
	return s.sendPhoto(c, false, func(id int64, thumb bool) ([]byte, error) {
		return s.Shop.PhotoFile(c.Request().Context(), c.Param("id"), id, thumb)
	})
}

func (s *pages) jobPhotoFile(c *echo.Context) error {
	return s.sendPhoto(c, true, func(id int64, thumb bool) ([]byte, error) {
		job, err := kit.Number(c, "job")
		if err != nil {
			return nil, err
		}
		return s.Shop.JobPhotoFile(c.Request().Context(), job, id, thumb)
	})
}

func (s *pages) sendPhoto(c *echo.Context, personal bool, get func(id int64, thumb bool) ([]byte, error)) error {
	name, thumb := c.Param("photo"), false
	if c.Param("size") != "" {
		name, thumb = name+".jpg", c.Param("size") == "thumb.jpg"
		if !thumb {
			return base.ErrNotFound
		}
	}
	text, ok := strings.CutSuffix(name, ".jpg")
	id, err := strconv.ParseInt(text, 10, 64)
	if !ok || err != nil {
		return base.ErrNotFound
	}
	file, err := get(id, thumb)
	if err != nil {
		return err
	}
	// A model's photo never changes under its number; a picture of a customer's machine is kept
	// in no browser, for the customer may ask to be forgotten.
	if !personal {
		c.Response().Header().Set(echo.HeaderCacheControl, "private, max-age=31536000, immutable")
	}
	return c.Blob(http.StatusOK, "image/jpeg", file)
}

func (s *pages) removePhoto(c *echo.Context) error {
	id, err := kit.Number(c, "photo")
	if err != nil {
		return err
	}
	if err := s.Shop.RemovePhoto(c.Request().Context(), s.Acting(c), c.Param("id"), id,
		c.FormValue("do") != "restore"); err != nil {
		return err
	}
	return kit.SeeOther(c, "/models/"+c.Param("id")+"/photos")
}
