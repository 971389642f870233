package kit

import (
	"errors"
	"fmt"
	"net/http"
	"strings"
	"yembo/shop/base"
	"yembo/shop/care"
	"yembo/shop/work"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/teardown"
	"yembo/web/form"
)

// answer is what a page says of an error: the status, and what to do.
type answer struct {
	status      int
	title, text string
	faults      []string
	again       bool // the same form can be sent once more when that is mended
}

// ErrNoJob is what a bench page gets whose job is not there any more.
var ErrNoJob = errors.New("the job of this run is not there")

// answerTo is the one mapping from errors to answers. What a person did never ends as a
// fault of the application.
func answerTo(err error) answer {
	var coded echo.HTTPStatusCoder
	var tooLarge plan.TooLarge
	var faults hw.Faults
	var noText errNoText
	switch {
	case errors.As(err, &noText):
		a := answer{status: http.StatusUnprocessableEntity, title: "Unreadable characters",
			text: "The form contains characters that are not text, as from a damaged file. Nothing was " +
				"stored. They are removed below: check it and send again."}
		for _, f := range noText.fields {
			a.faults = append(a.faults, "in the field "+FieldName(f.Name))
		}
		return a
	case errors.Is(err, errCutOff):
		return answer{status: http.StatusBadRequest, title: "Cut off",
			text: "The form arrived incomplete. Nothing was saved. Go back and send it again."}
	case errors.As(err, &tooLarge):
		return answer{status: http.StatusUnprocessableEntity, title: "Too much to plan",
			text: "This cannot be planned whole, and a part of it would be a wrong plan: " + tooLarge.Error() + "."}
	case errors.Is(err, teardown.ErrTooHard):
		return answer{status: http.StatusUnprocessableEntity, title: "Too much to order",
			text: "The order of these steps was not found within the limit, and another order would be a guess. " +
				"Give the steps fewer needs that do not matter, or open for fewer places at once."}
	case errors.As(err, &faults):
		a := answer{status: http.StatusUnprocessableEntity, title: "Not possible",
			text: "Nothing was saved. because:"}
		for _, f := range faults {
			a.faults = append(a.faults, f.Text)
		}
		return a
	case errors.Is(err, work.ErrNoRun):
		return answer{status: http.StatusConflict, title: "No work was begun",
			text: "There is no run of this job: it was not begun here, or the data folder is another one. Nothing was saved."}
	case errors.Is(err, ErrNoJob):
		return answer{status: http.StatusNotFound, title: "The job is not there",
			text: "It was removed, or the data folder is another one. What was ticked is kept where it was ticked; " +
				"under “removed” the job can be brought back."}
	case errors.Is(err, base.ErrNotFound):
		return answer{status: http.StatusNotFound, title: "Not found",
			text: "No such page or record. Check the address."}
	case errors.Is(err, base.ErrChanged), errors.Is(err, base.ErrPlanChanged):
		return answer{status: http.StatusConflict, title: "Changed meanwhile",
			text: "Someone else changed this while you had it open. Nothing was saved and nothing lost: go back, " +
				"reload the page to see it as it is now, and do it again."}
	case errors.Is(err, base.ErrSentOther):
		return answer{status: http.StatusConflict, title: "This form was sent already",
			text: "It was stored as it was sent first, and it was sent again with other content. Nothing was saved " +
				"now: what you typed stands below. Open the form anew to store it too, or go to what was stored and " +
				"change it there."}
	case errors.Is(err, care.ErrNotScrubbed):
		return answer{status: http.StatusServiceUnavailable, again: true, title: "Removed, not yet written over",
			text: "The personal data is removed from every record. Its bytes are still in the file, because something " +
				"reads it all the time or the disk is full. Send this again in a moment."}
	case errors.Is(err, base.ErrDanger):
		return answer{status: http.StatusConflict, title: "Make it safe first",
			text: "This machine must be made safe first; see its job. " +
				"Nothing was saved."}
	case errors.Is(err, base.ErrBusy):
		return answer{status: http.StatusServiceUnavailable, again: true, title: "Busy",
			text: "Another change is still running. Nothing was saved: try again in a moment."}
	case errors.Is(err, base.ErrFull):
		return answer{status: http.StatusInsufficientStorage, again: true, title: "The disk is full",
			text: "Nothing was saved and nothing half-done. Make room on the disk that holds the data folder, then " +
				"send it again."}
	case errors.Is(err, base.ErrReadOnly):
		return answer{status: http.StatusServiceUnavailable, again: true, title: "The data file cannot be written",
			text: "Nothing was saved. Whoever runs Yembo has to be allowed to write in the data folder, and its disk " +
				"must not be read-only; then send it again."}
	case errors.Is(err, base.ErrMoved):
		return answer{status: http.StatusServiceUnavailable, again: true, title: "The data file is gone",
			text: "It was moved, removed or replaced while Yembo is running. Nothing was saved, so that nothing is " +
				"lost: " +
				"put it back where it was and send this again, or start Yembo anew on the right folder."}
	case errors.Is(err, base.ErrDamaged):
		return answer{status: http.StatusInternalServerError, title: "The data file is damaged",
			text: "It cannot be read whole. Stop here, keep the data folder as it is, and put back the last copy of it."}
	case errors.As(err, &coded):
		return ofStatus(coded.StatusCode())
	}
	return ofStatus(http.StatusInternalServerError)
}

// ofStatus is the answer of a status alone.
func ofStatus(status int) answer {
	title, text := errorWords(status)
	return answer{status: status, title: title, text: text}
}

func errorWords(status int) (title, text string) {
	switch status {
	case http.StatusNotFound:
		return "Not found", "No such page or record. Check the address."
	case http.StatusForbidden, http.StatusBadRequest:
		return "Not accepted", "The form did not come from a page of this application, or is too old. Nothing was " +
			"stored. Go back, reload the page and send it again."
	case http.StatusRequestEntityTooLarge:
		return "Too large", fmt.Sprintf("The form is larger than is taken here: %d MB, %d MB with photos. Nothing "+
			"was stored.", MaxBody>>20, MaxUpload>>20)
	case http.StatusMethodNotAllowed:
		return "Not possible here", "This address does not take that kind of request."
	case http.StatusMisdirectedRequest:
		return "Not served here", "Yembo answers only for this machine's own name."
	}
	return "Something went wrong",
		"This is an error in Yembo, not yours. Nothing was half-done: a change is stored whole " +
			"or not at all."
}

// HandleError shows a page with what happened and an id that stands in the log too.
func (s *Site) HandleError(c *echo.Context, err error) {
	if r, unwrapErr := echo.UnwrapResponse(c.Response()); unwrapErr == nil && r.Committed {
		return
	}
	if c.Request().Context().Err() != nil && !errors.Is(err, errCutOff) {
		return // whoever asked has gone, such as a line that was typed on: whatever broke off then is no fault
	}
	a := answerTo(err)
	if a.status >= 500 {
		s.Log.Error("failed", "error", err.Error(), "path", logged(c.Request().URL.Path), "id", requestID(c))
	}
	view := errorView{Status: a.status, ID: requestID(c), Title: a.title, Text: a.text, Faults: a.faults}
	var noText errNoText
	if a.status == http.StatusConflict || a.status >= 500 || errors.As(err, &noText) {
		view.Typed = typedIn(c.Request())
	}
	if a.again || errors.As(err, &noText) {
		view.again(c.Request())
	}
	if strings.Contains(c.Request().Header.Get("Accept"), "application/json") {
		// A script that sends what happened tells the person why it was not taken.
		if jsonErr := c.JSON(a.status, map[string]any{"title": a.title, "text": a.text, "faults": a.faults}); jsonErr != nil {
			s.Log.Error("error answer", "error", jsonErr.Error(), "id", requestID(c))
		}
		return
	}
	if renderErr := s.Render(c, a.status, "error", view.Title, "", view); renderErr != nil {
		s.Log.Error("error page", "error", renderErr.Error(), "id", requestID(c))
		http.Error(c.Response(), view.Title, a.status)
	}
}

type errorView struct {
	Status int
	Title  string
	Text   string
	ID     string
	Faults []string
	Typed  []form.Field // what was sent, so that it is not lost
	Again  []form.Field // all of the form, where sending it once more is what to do
	Action string       // where to
}

// again offers to send a form once more, as it is, where it held no files.
func (v *errorView) again(r *http.Request) {
	if r.Method != http.MethodPost || r.MultipartForm != nil {
		return
	}
	v.Action = Within(r.URL.RequestURI())
	for _, name := range SortedKeys(r.PostForm) {
		for _, value := range r.PostForm[name] {
			if name != "csrf" {
				v.Again = append(v.Again, form.Field{Name: name, Value: value})
			}
		}
	}
}
