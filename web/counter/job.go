package counter

import (
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"

	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/shop/stock"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/exchange/photo"
	"yembo/web/form"
	"yembo/web/kit"
)

// fitPart notes that a part of the job's option was fitted, or lies on the shelf again.
func (s *pages) fitPart(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	kind := stock.Fitted
	if f.Is("do", "back") {
		kind = stock.Unfitted
	}
	err = s.Shop.MovePart(c.Request().Context(), s.Acting(c), f.Text("token"),
		stock.Moving{Part: f.Text("part"), Kind: kind, N: f.Whole("n").Or(1),
			Job: id, Serials: kit.SerialsOf(f.Text("serials"))})
	if err == nil {
		return kit.SeeOther(c, fmt.Sprintf("/jobs/%d#parts", id))
	}
	if !f.Take(err) {
		return err
	}
	return s.jobPage(c, http.StatusUnprocessableEntity, jobView{Form: f})
}

func (s *pages) showJob(c *echo.Context) error {
	return s.jobPage(c, http.StatusOK, jobView{Form: form.New(url.Values{})})
}

// moveJob changes where a job stands.
func (s *pages) moveJob(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	m := jobs.Move{To: f.Text("/to"), For: f.Text("/for"), Due: kit.DueOf(f, "/due", s.Shop.Now()), Bench: f.Whole("/bench").Or(0),
		Out: f.Is("/out", "yes"), Why: f.Text("/why"), Seen: f.Text("seen")}
	return s.answerJob(c, f, id, s.Shop.MoveJob(c.Request().Context(), s.Acting(c), f.Text("token"), id, m))
}

// answerJob goes back to the job, or shows it with the faults at their fields.
func (s *pages) answerJob(c *echo.Context, f *form.Form, id int64, err error) error {
	switch {
	case err == nil && f.Count() == 0:
		return kit.SeeOther(c, fmt.Sprintf("/jobs/%d", id))
	case err != nil && !f.Take(err):
		return err
	}
	return s.jobPage(c, http.StatusUnprocessableEntity, jobView{Form: f})
}

func (s *pages) addContact(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	contact := jobs.Contact{Who: f.Text("/who"), How: f.Text("/how"), Said: f.Text("/said"), Agreed: f.Text("/agreed")}
	return s.answerJob(c, f, id, s.Shop.AddContact(c.Request().Context(), s.Acting(c), f.Text("token"), id, contact,
		kit.ConsentsOf(f)))
}

// addTalk notes a talk that was typed in one line.
func (s *pages) addTalk(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	talk, err := jobs.ParseTalk(f.Values.Get("/talk"))
	if err == nil {
		err = s.Shop.AddContact(c.Request().Context(), s.Acting(c), f.Text("token"), id, talk.Contact, talk.Consents)
	}
	return s.answerJob(c, f, id, err)
}

func (s *pages) signJob(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	of := f.Text("of")
	if f.Is("do", "strike") {
		err = s.Shop.StrikeSignature(c.Request().Context(), s.Acting(c), f.Text("token"), id, of, f.Text("/strike"))
	} else {
		err = s.Shop.Sign(c.Request().Context(), s.Acting(c), f.Text("token"), id, of, f.Text("/signature"), f.Text("/signer"))
	}
	if quote, convErr := strconv.ParseInt(f.Text("quote"), 10, 64); convErr == nil && err == nil {
		return kit.SeeOther(c, fmt.Sprintf("/quotes/%d", quote))
	}
	return s.answerJob(c, f, id, err)
}

// addJobPhotos takes photos of the machine as it came, each by itself.
func (s *pages) addJobPhotos(c *echo.Context) error {
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	sent, err := c.MultipartForm()
	if err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	defer sent.RemoveAll()
	f := form.Of(c, sent.Value)
	v := jobView{Form: f}
	taken := 0
	for i, file := range sent.File["photo"] {
		if file.Size == 0 && file.Filename == "" {
			continue
		}
		if i >= kit.MaxPhotoFiles {
			v.Refused = append(v.Refused, file.Filename+": more than are taken at once")
			continue
		}
		raw, err := kit.ReadUpload(file, photo.MaxBytes)
		if err != nil {
			return err
		}
		err = s.Shop.AddJobPhoto(c.Request().Context(), s.Acting(c), f.Text("token")+"-"+strconv.Itoa(i), id,
			records.PhotoEntry{File: raw, Caption: f.Text("caption")})
		var faults hw.Faults
		switch {
		case err == nil:
			taken++
		case errors.As(err, &faults):
			v.Refused = append(v.Refused, file.Filename+": "+faults[0].Text)
		default:
			return err
		}
	}
	if taken == 0 && len(v.Refused) == 0 {
		v.Refused = append(v.Refused, "no picture is chosen")
	}
	if len(v.Refused) > 0 {
		return s.jobPage(c, http.StatusUnprocessableEntity, v)
	}
	return kit.SeeOther(c, fmt.Sprintf("/jobs/%d#photos", id))
}
