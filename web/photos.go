package web

import (
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/exchange/photo"
	"yembo/shop"
	"yembo/web/form"
)

// maxPhotoFiles is how many pictures one form may bring.
const maxPhotoFiles = 8

// photoView is one picture as pages show it.
type photoView struct {
	ID, Fact, Caption, By, Date string
	About                       string // the fact or place in words
	Width, Height               int
	Src, Thumb                  string
	Removed                     bool
}

// photosView is the page of a model's photos, with the form that adds some.
type photosView struct {
	*form.Form
	ID, Name string
	Photos   []photoView
	Removed  []photoView
	About    []factChoice
	Refused  []string // files that were not taken, with the reason
	Taken    int
	Today    string
	Most     int
	MostMB   int
}

type factChoice struct{ Path, Words string }

func photoViews(model string, list []shop.Photo) (shown, removed []photoView) {
	return photoViewsAt("/models/"+model+"/photos/", list)
}

// photoViewsAt are the photos whose files lie under an address.
func photoViewsAt(base string, list []shop.Photo) (shown, removed []photoView) {
	for _, p := range list {
		id := strconv.FormatInt(p.ID, 10)
		v := photoView{ID: id, Fact: p.Fact, Caption: p.Caption, By: p.By, Date: hw.Day(p.On), Width: p.Width,
			Height: p.Height,
			Src:    base + id + ".jpg", Removed: p.Removed}
		v.Thumb = strings.TrimSuffix(v.Src, ".jpg") + "/thumb.jpg"
		if p.Fact != "" {
			v.About = photoFactWords(p.Fact)
		}
		if p.Removed {
			removed = append(removed, v)
			continue
		}
		shown = append(shown, v)
	}
	return shown, removed
}

// photoFactWords names a fact, or a place as a whole.
func photoFactWords(path string) string {
	words := strings.Split(strings.Trim(path, "/"), "/")
	if words[0] == "memory" && len(words) == 3 && words[1] != "limits" || words[0] != "memory" && len(words) == 2 {
		return words[len(words)-1]
	}
	return factName(path)
}

// about are the photos that show a fact: those of the fact itself, and of its place.
func about(list []photoView, path string) []photoView {
	var out []photoView
	for _, p := range list {
		if p.Fact != "" && (p.Fact == path || strings.HasPrefix(path, p.Fact+"/")) {
			out = append(out, p)
		}
	}
	return out
}

// photosOf are the photos on a model's record.
func (s *server) photosOf(c *echo.Context, model string) ([]photoView, error) {
	list, err := s.Shop.Photos(c.Request().Context(), model)
	shown, _ := photoViews(model, list)
	return shown, err
}

func (s *server) showPhotos(c *echo.Context) error {
	return s.photosPage(c, http.StatusOK, photosView{Form: form.New(url.Values{"fact": {c.QueryParam("fact")}})})
}

func (s *server) photosPage(c *echo.Context, status int, v photosView) error {
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
	v.Most, v.MostMB = maxPhotoFiles, photo.MaxBytes>>20
	v.Photos, v.Removed = photoViews(v.ID, list)
	for _, path := range shop.PhotoFacts(r.Chassis) {
		v.About = append(v.About, factChoice{path, photoFactWords(path)})
	}
	return s.render(c, status, "photos", "Photos of "+v.Name, "models", v)
}

// addPhotos takes each picture of the form by itself: the good ones are kept, the
// others named with the reason.
func (s *server) addPhotos(c *echo.Context) error {
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
	case len(files) > maxPhotoFiles:
		f.Fault("photo", fmt.Sprintf("%d pictures at once; at most %d are taken", len(files), maxPhotoFiles))
	}
	if f.Count() > 0 {
		return s.photosPage(c, http.StatusUnprocessableEntity, v)
	}
	for i, file := range files {
		raw, err := readUpload(file, photo.MaxBytes)
		if err != nil {
			return err
		}
		_, err = s.Shop.AddPhoto(c.Request().Context(), s.actor(c), f.Text("token")+"-"+strconv.Itoa(i), c.Param("id"),
			shop.PhotoEntry{File: raw, Fact: f.Text("fact"), Caption: f.Text("caption"), On: f.Date("on")})
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
	return seeOther(c, "/models/"+c.Param("id")+"/photos")
}

// readUpload reads a sent file, one byte past what is taken so that more is noticed.
func readUpload(file *multipart.FileHeader, most int64) ([]byte, error) {
	in, err := file.Open()
	if err != nil {
		return nil, err
	}
	defer in.Close()
	out := make([]byte, min(file.Size, most+1)) // whole at once: growing would take twice as much
	_, err = io.ReadFull(in, out)
	return out, err
}

func (s *server) photoFile(c *echo.Context) error {
	return s.sendPhoto(c, false, func(id int64, thumb bool) ([]byte, error) {
		return s.Shop.PhotoFile(c.Request().Context(), c.Param("id"), id, thumb)
	})
}

func (s *server) jobPhotoFile(c *echo.Context) error {
	return s.sendPhoto(c, true, func(id int64, thumb bool) ([]byte, error) {
		job, err := jobID(c)
		if err != nil {
			return nil, err
		}
		return s.Shop.JobPhotoFile(c.Request().Context(), job, id, thumb)
	})
}

func (s *server) sendPhoto(c *echo.Context, personal bool, get func(id int64, thumb bool) ([]byte, error)) error {
	name, thumb := c.Param("photo"), false
	if c.Param("size") != "" {
		name, thumb = name+".jpg", c.Param("size") == "thumb.jpg"
		if !thumb {
			return shop.ErrNotFound
		}
	}
	text, ok := strings.CutSuffix(name, ".jpg")
	id, err := strconv.ParseInt(text, 10, 64)
	if !ok || err != nil {
		return shop.ErrNotFound
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

func (s *server) removePhoto(c *echo.Context) error {
	id, err := strconv.ParseInt(c.Param("photo"), 10, 64)
	if err != nil {
		return shop.ErrNotFound
	}
	if err := s.Shop.RemovePhoto(c.Request().Context(), s.actor(c), c.Param("id"), id,
		c.FormValue("do") != "restore"); err != nil {
		return err
	}
	return seeOther(c, "/models/"+c.Param("id")+"/photos")
}
