package week

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/web/form"
)

// jobOf is the job that a form is about; 0 for what is none.
func jobOf(f *form.Form) int64 {
	id, err := strconv.ParseInt(f.Text("job"), 10, 64)
	if err != nil {
		return 0
	}
	return id
}

// move puts a job on a bench at a time, or lets it go.
func (s *pages) move(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	job := jobOf(f)
	seen, err := strconv.ParseInt(f.Text("seen"), 10, 64)
	if err != nil || job == 0 {
		return echo.ErrBadRequest
	}
	var to *jobs.Pin
	if !f.Is("do", "free") {
		at, err := form.Promise(f.Text("/start"), s.Shop.Now())
		if err != nil {
			f.Fault("/start", err.Error())
			return s.answered(c, f, nil)
		}
		to = &jobs.Pin{Bench: f.Whole("/bench").Or(0), Person: f.Text("/person"), Start: at}
	}
	return s.answered(c, f, s.Shop.MoveTo(c.Request().Context(), s.Acting(c), f.Text("token"), job, seen, to))
}

// undo takes the last move back, or does it again.
func (s *pages) undo(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	err = s.Shop.UndoMove(c.Request().Context(), s.Acting(c), f.Text("token"), f.Is("do", "again"))
	var faults hw.Faults
	if errors.As(err, &faults) { // no field of the page is meant: it is told above the drawing
		f.Fault("/undo", hw.UpperFirst(faults[0].Text))
		err = nil
	}
	return s.answered(c, f, err)
}

// show shows the week to all.
func (s *pages) show(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	return s.answered(c, f, s.Shop.ShowWeek(c.Request().Context(), s.Acting(c), f.Text("token")))
}

// ring writes down that the customer was told, and promises what could be agreed.
func (s *pages) ring(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	return s.answered(c, f, s.promiseAnew(c, f, jobOf(f), f.Text("/promise")))
}

// promiseAnew promises a time, as it is typed or as the form has it; what is no time is a fault at its field.
func (s *pages) promiseAnew(c *echo.Context, f *form.Form, job int64, text string) error {
	at, err := time.Parse(time.RFC3339, text)
	if err != nil {
		if at, err = form.Promise(text, s.Shop.Now()); err != nil {
			f.Fault("/promise", err.Error())
			return nil
		}
	}
	var seen time.Time
	if was := f.Text("seen"); was != "" {
		if seen, err = time.Parse(time.RFC3339, was); err != nil {
			return echo.ErrBadRequest
		}
	}
	said := jobs.Contact{Who: f.Text("/who"), How: base.OrWord(f.Text("/how"), "phone"), Said: f.Text("/said")}
	return s.Shop.PromiseAnew(c.Request().Context(), s.Acting(c), f.Text("token"), job, seen, at.Local(), said)
}

// tried is what a place would do, for the script that moves a job over the drawing.
type tried struct {
	Says   string   `json:"says"`   // where it would be, and what that breaks
	Stands bool     `json:"stands"` // it can stand there
	Breaks []int64  `json:"breaks"` // jobs whose promise would be broken
	Late   []string `json:"late"`   // by how much, for each
}

// tryMove says what would be if a job were put elsewhere. Nothing is kept.
func (s *pages) tryMove(c *echo.Context) error {
	job, errJob := strconv.ParseInt(c.QueryParam("job"), 10, 64)
	bench, errBench := strconv.Atoi(c.QueryParam("bench"))
	at, errAt := time.Parse(time.RFC3339, c.QueryParam("start"))
	if errJob != nil || errBench != nil || errAt != nil {
		return echo.ErrBadRequest
	}
	pin := jobs.Pin{Bench: bench, Start: at.Local()}
	w, err := s.Shop.TryMove(c.Request().Context(), job, pin)
	if err != nil {
		return err
	}
	out := tried{Stands: true, Says: pin.Words(), Breaks: []int64{}, Late: []string{}}
	if code, refused := w.Refused[job]; refused {
		out.Stands = false
		out.Says += ": " + week.PinCodes.Says(code)
		return c.JSON(http.StatusOK, out)
	}
	for i := range w.Rows {
		if r := &w.Rows[i]; r.Stands == week.Broken && r.Plan != nil && r.Plan.Late != nil {
			out.Breaks, out.Late = append(out.Breaks, r.JobID), append(out.Late, lateWords(*r.Plan.Late))
			out.Says += fmt.Sprintf(", %s late by %s", r.Record.Machine.ID, lateWords(*r.Plan.Late))
		}
	}
	return c.JSON(http.StatusOK, out)
}
