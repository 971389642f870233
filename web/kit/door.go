package kit

import (
	"errors"
	"io"
	"net"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"yembo/web/form"
)

// What comes in is looked at here, once, before any handler sees it.

// errNoText is the error of a form that holds what is no text.
type errNoText struct{ fields []form.Field }

func (e errNoText) Error() string { return "the form holds signs that are no text" }

// errCutOff is the error of a form that ended on its way.
var errCutOff = errors.New("the form was cut off on its way")

// CSRFField is the field of every form that says that it comes from a page of this application.
const CSRFField = "csrf"

// noStore is what every answer says unless it says otherwise: what stands on a page of a shop is
// kept in no browser, for a person may ask to be forgotten.
const noStore = "no-store"

// AnswerTime is how long an answer may take from when all of its request is here.
const AnswerTime = time.Minute

// Asked prepares a request: its number in the log is our own, its answer is kept nowhere, and a HEAD
// is answered as a GET whose body is not sent.
func Asked(next echo.HandlerFunc) echo.HandlerFunc {
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

// Forwarded takes a proxy's word for where a request comes from and by which name it was asked; anybody else's counts for
// nothing.
func (s *Site) Forwarded(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		from := net.ParseIP(Address(c))
		if from != nil && slices.ContainsFunc(s.Proxies, from.Equal) {
			// The last address is the one that the proxy itself saw; what stands before it, anybody may have written.
			chain := strings.Split(r.Header.Get("X-Forwarded-For"), ",")
			if ip := net.ParseIP(strings.TrimSpace(chain[len(chain)-1])); ip != nil {
				r.RemoteAddr = net.JoinHostPort(ip.String(), "0")
			}
			if host := r.Header.Get("X-Forwarded-Host"); host != "" {
				r.Host = host
			}
		}
		for _, name := range []string{"X-Forwarded-For", "X-Forwarded-Host", "X-Forwarded-Proto", "Forwarded", "X-Real-Ip"} {
			r.Header.Del(name)
		}
		return next(c)
	}
}

// OverTLS tells browsers to come by TLS alone, and that nothing of this is for other sites.
func (s *Site) OverTLS(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if s.Secure {
			h := c.Response().Header()
			h.Set("Strict-Transport-Security", "max-age=15552000")
			h.Set("Cross-Origin-Resource-Policy", "same-origin")
		}
		return next(c)
	}
}

// CheckHost answers only for this machine's own names and those that it was told: a page elsewhere that lets
// its name point here gets a bare page with nothing on it.
func (s *Site) CheckHost(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		host := c.Request().Host
		if name, _, err := net.SplitHostPort(host); err == nil {
			host = name
		}
		if !Loopback(host) && !slices.Contains(s.Hosts, strings.ToLower(trimBrackets(host))) {
			return c.HTML(http.StatusMisdirectedRequest,
				"<!doctype html><html lang=\"en\"><title>Not served here</title>"+
					"<p>Yembo answers only for this machine's own name.</p></html>")
		}
		return next(c)
	}
}

// ReadForm reads a form that was sent, whole. One that is too large, or was cut off, or holds
// what is no text, goes no further.
func ReadForm(next echo.HandlerFunc) echo.HandlerFunc {
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
		if IsUpload(c) {
			// A file may take long on a slow line; the time for the answer begins when it is here.
			_ = http.NewResponseController(c.Response()).SetWriteDeadline(time.Now().Add(AnswerTime))
		}
		// What lets a form in is a field of it: in an address it would stand in logs and histories.
		delete(r.Form, CSRFField)
		if sent, ok := r.PostForm[CSRFField]; ok {
			r.Form[CSRFField] = sent
		}
		var wrong []form.Field
		for _, name := range SortedKeys(r.PostForm) {
			for i, value := range r.PostForm[name] {
				if IsText(name) && IsText(value) {
					continue
				}
				wrong = append(wrong, form.Field{Name: TextOf(name), Value: TextOf(value)})
				r.PostForm[name][i] = TextOf(value)
			}
		}
		if len(wrong) > 0 {
			return errNoText{wrong}
		}
		return next(c)
	}
}

// IsText reports whether a text is UTF-8 without control characters, line ends and tabs apart.
func IsText(text string) bool {
	return utf8.ValidString(text) && !strings.ContainsFunc(text, noText)
}

func noText(r rune) bool { return unicode.IsControl(r) && r != '\n' && r != '\r' && r != '\t' }

// TextOf is a text without what is none.
func TextOf(text string) string {
	return strings.Map(func(r rune) rune {
		if noText(r) {
			return -1
		}
		return r
	}, strings.ToValidUTF8(text, ""))
}

// SeeOther leads to another page of the application: the target is taken apart and written
// anew, and one that leads elsewhere leads to the bench list.
func SeeOther(c *echo.Context, target string) error {
	return c.Redirect(http.StatusSeeOther, Within(target))
}

// Within is an address of the application, "/" for any other.
func Within(target string) string {
	u, err := url.Parse(target)
	if err != nil || u.IsAbs() || u.Host != "" || u.User != nil || !strings.HasPrefix(u.Path, "/") ||
		strings.HasPrefix(u.Path, "//") || strings.Contains(u.Path, `\`) {
		return "/"
	}
	return (&url.URL{Path: u.Path, RawQuery: u.RawQuery, Fragment: u.Fragment}).String()
}

// OwnPages refuses what another site's page asks for.
func OwnPages(next echo.HandlerFunc) echo.HandlerFunc {
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

// MaxBody is the largest request that is read. Forms are far smaller.
const MaxBody = 1 << 20

// MaxUpload is the same for forms that bring files.
const MaxUpload = 64 << 20

// IsUpload reports whether a request may bring files.
func IsUpload(c *echo.Context) bool {
	path := c.Request().URL.Path
	brings := path == "/models/import" || path == "/machines/import" || path == "/parts/import" ||
		path == "/find" ||
		strings.HasSuffix(path, "/photos") ||
		strings.Contains(path, "/suspected/") || strings.HasSuffix(path, "/readings")
	return c.Request().Method == http.MethodPost && brings
}

// Loopback reports whether a host name or address is this machine itself.
func Loopback(host string) bool {
	if host == "localhost" {
		return true
	}
	ip := net.ParseIP(trimBrackets(host))
	return ip != nil && ip.IsLoopback()
}

func trimBrackets(host string) string {
	if len(host) > 2 && host[0] == '[' && host[len(host)-1] == ']' {
		return host[1 : len(host)-1]
	}
	return host
}

// LogRequests writes one line a request: no query, no form, no cookie. The status is the one
// sent, for errors are answered before it is written.
func (s *Site) LogRequests() echo.MiddlewareFunc {
	return middleware.RequestLoggerWithConfig(middleware.RequestLoggerConfig{
		LogMethod: true, LogURIPath: true, LogStatus: true, LogLatency: true, LogRequestID: true, HandleError: true,
		LogValuesFunc: func(_ *echo.Context, v middleware.RequestLoggerValues) error {
			s.Log.Info("request", "method", v.Method, "path", logged(v.URIPath), "status", v.Status,
				"ms", v.Latency.Milliseconds(), "id", v.RequestID)
			return nil
		}})
}

// linkPath is where the links of quotes lead; what follows it is a key.
const linkPath = "/q/"

// logged is a path as the log has it: the key of a link stands in no log.
func logged(path string) string {
	if strings.HasPrefix(path, linkPath) {
		return linkPath + "…"
	}
	return path
}

func requestID(c *echo.Context) string { return c.Response().Header().Get(echo.HeaderXRequestID) }
