package web

import (
	"errors"
	"io"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/labstack/echo/v5"

	"yembo/web/form"
)

// What comes in is looked at here, once, before any handler sees it.

// errNoText is the error of a form that holds what is no text.
type errNoText struct{ fields []form.Field }

func (e errNoText) Error() string { return "the form holds signs that are no text" }

// errCutOff is the error of a form that ended on its way.
var errCutOff = errors.New("the form was cut off on its way")

// csrfField is the field of every form that says that it comes from a page of this application.
const csrfField = "csrf"

// noStore is what every answer says unless it says otherwise: what stands on a page of a shop is
// kept in no browser, for a person may ask to be forgotten.
const noStore = "no-store"

// answerTime is how long an answer may take from when all of its request is here.
const answerTime = time.Minute

// asked prepares a request: its number in the log is our own, its answer is kept nowhere, and a HEAD
// is answered as a GET whose body is not sent.
func asked(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		r.Header.Del(echo.HeaderXRequestID)
		c.Response().Header().Set(echo.HeaderCacheControl, noStore)
		if r.Method == http.MethodHead {
			get := r.WithContext(r.Context()) // the server goes on by its own request and leaves the body out
			get.Method = http.MethodGet
			c.SetRequest(get)
		}
		return next(c)
	}
}

// checkHost answers only for this machine's own names: a page elsewhere that lets
// its name point here gets a bare page with nothing on it.
func checkHost(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		host := c.Request().Host
		if name, _, err := net.SplitHostPort(host); err == nil {
			host = name
		}
		if !Loopback(host) {
			return c.HTML(http.StatusMisdirectedRequest,
				"<!doctype html><html lang=\"en\"><title>Not served here</title>"+
					"<p>Yembo answers only for this machine's own name.</p></html>")
		}
		return next(c)
	}
}

// readForm reads a form that was sent, whole. One that is too large, or was cut off, or holds
// what is no text, goes no further.
func readForm(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		if r.Method != http.MethodPost {
			return next(c)
		}
		parse := r.ParseForm
		if strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/form-data") {
			parse = func() error { return r.ParseMultipartForm(maxInMemory) }
		}
		switch err := parse(); {
		case errors.Is(err, echo.ErrStatusRequestEntityTooLarge):
			return echo.ErrStatusRequestEntityTooLarge
		case errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, io.EOF):
			return errCutOff
		case err != nil:
			return echo.ErrBadRequest.Wrap(err)
		}
		if isUpload(c) {
			// A file may take long on a slow line; the time for the answer begins when it is here.
			_ = http.NewResponseController(c.Response()).SetWriteDeadline(time.Now().Add(answerTime))
		}
		// What lets a form in is a field of it: in an address it would stand in logs and histories.
		delete(r.Form, csrfField)
		if sent, ok := r.PostForm[csrfField]; ok {
			r.Form[csrfField] = sent
		}
		var wrong []form.Field
		for _, name := range sortedKeys(r.PostForm) {
			for i, value := range r.PostForm[name] {
				if isText(name) && isText(value) {
					continue
				}
				wrong = append(wrong, form.Field{Name: textOf(name), Value: textOf(value)})
				r.PostForm[name][i] = textOf(value)
			}
		}
		if len(wrong) > 0 {
			return errNoText{wrong}
		}
		return next(c)
	}
}

// isText reports whether a text is UTF-8 without control characters, line ends and tabs apart.
func isText(text string) bool {
	return utf8.ValidString(text) && !strings.ContainsFunc(text, noText)
}

func noText(r rune) bool { return unicode.IsControl(r) && r != '\n' && r != '\r' && r != '\t' }

// textOf is a text without what is none.
func textOf(text string) string {
	return strings.Map(func(r rune) rune {
		if noText(r) {
			return -1
		}
		return r
	}, strings.ToValidUTF8(text, ""))
}

// seeOther leads to another page of the application: the target is taken apart and written
// anew, and one that leads elsewhere leads to the bench list.
func seeOther(c *echo.Context, target string) error {
	return c.Redirect(http.StatusSeeOther, within(target))
}

// within is an address of the application, "/" for any other.
func within(target string) string {
	u, err := url.Parse(target)
	if err != nil || u.IsAbs() || u.Host != "" || u.User != nil || !strings.HasPrefix(u.Path, "/") ||
		strings.HasPrefix(u.Path, "//") || strings.Contains(u.Path, `\`) {
		return "/"
	}
	return (&url.URL{Path: u.Path, RawQuery: u.RawQuery, Fragment: u.Fragment}).String()
}

// ownPages refuses what another site's page asks for.
func ownPages(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		from := c.Request().Header.Get("Sec-Fetch-Site")
		origin, err := url.Parse(c.Request().Header.Get("Origin"))
		if from != "" && from != "same-origin" && from != "none" || err != nil ||
			origin.Host != "" && origin.Host != c.Request().Host {
			return echo.ErrForbidden
		}
		return next(c)
	}
}
