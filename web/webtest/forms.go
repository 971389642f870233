package webtest

import (
	"bytes"
	"html"
	"image"
	"image/png"
	"mime/multipart"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/labstack/echo/v5"
)

func WithToken(form url.Values, token string) url.Values {
	form.Set("token", token)
	return form
}

var (
	inputs  = regexp.MustCompile(`<input([^>]*)>`)
	selects = regexp.MustCompile(`(?s)<select[^>]*name="([^"]*)"[^>]*>(.*?)</select>`)
	chosen  = regexp.MustCompile(`<option value="([^"]*)" selected>`)
	first   = regexp.MustCompile(`<option value="([^"]*)"`)
	name    = regexp.MustCompile(` name="([^"]*)"`)
	value   = regexp.MustCompile(` value="([^"]*)"`)
	kind    = regexp.MustCompile(` type="(checkbox|radio)"`)
)

// FormValues reads what a browser would send of a page's fields.
func FormValues(page string) url.Values {
	out := url.Values{}
	for _, m := range inputs.FindAllStringSubmatch(page, -1) {
		n := name.FindStringSubmatch(m[1])
		v := value.FindStringSubmatch(m[1])
		if n == nil || (kind.MatchString(m[1]) && !regexp.MustCompile(` checked`).MatchString(m[1])) {
			continue
		}
		text := ""
		if v != nil {
			text = html.UnescapeString(v[1])
		}
		out.Set(html.UnescapeString(n[1]), text)
	}
	for _, m := range selects.FindAllStringSubmatch(page, -1) {
		pick := chosen.FindStringSubmatch(m[2])
		if pick == nil {
			pick = first.FindStringSubmatch(m[2])
		}
		if pick != nil {
			out.Set(html.UnescapeString(m[1]), html.UnescapeString(pick[1]))
		}
	}
	return out
}

// Sent posts a form with files, as a browser would.
func Sent(t *testing.T, e *echo.Echo, path string, fields url.Values, files map[string][]byte,
	field string) *httptest.ResponseRecorder {
	t.Helper()
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	for name, list := range fields {
		for _, value := range list {
			if err := w.WriteField(name, value); err != nil {
				t.Fatal(err)
			}
		}
	}
	for name, data := range files {
		part, err := w.CreateFormFile(field, name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := part.Write(data); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	r := fromHere("POST", "http://localhost"+path, &body)
	r.Header.Set("Content-Type", w.FormDataContentType())
	SameOrigin(r)
	out := httptest.NewRecorder()
	e.ServeHTTP(out, r)
	return asRead(out)
}

func Report(t *testing.T, name string) []byte {
	t.Helper()
	raw, err := os.ReadFile(filepath.Join("../../core/reading/testdata/in", name))
	if err != nil {
		t.Fatal(err)
	}
	return raw
}

// FieldsOf are the fields of the form on a page that is sent to an address, as a browser
// would send them.
func FieldsOf(t *testing.T, body, action string) url.Values {
	t.Helper()
	_, form, found := strings.Cut(body, `method="post" action="`+action+`"`)
	if !found {
		t.Fatalf("no form for %s", action)
	}
	form, _, _ = strings.Cut(form, "</form>")
	out := url.Values{}
	unescape := strings.NewReplacer("&#43;", "+", "&amp;", "&", "&#39;", "'", "&#34;", `"`).Replace
	value := regexp.MustCompile(` value="([^"]*)"`)
	for _, tag := range regexp.MustCompile(`<input [^>]*>`).FindAllString(form, -1) {
		name := regexp.MustCompile(` name="([^"]+)"`).FindStringSubmatch(tag)
		if name == nil || regexp.MustCompile(`type="(checkbox|radio)"`).MatchString(tag) &&
			!strings.Contains(tag, " checked") {
			continue
		}
		text := ""
		if v := value.FindStringSubmatch(tag); v != nil {
			text = unescape(v[1])
		}
		out.Add(name[1], text)
	}
	for _, list := range regexp.MustCompile(`(?s)<select [^>]*name="([^"]+)".*?</select>`).FindAllStringSubmatch(form,
		-1) {
		chosen := regexp.MustCompile(`value="([^"]*)" selected`).FindStringSubmatch(list[0])
		if chosen != nil {
			out.Set(list[1], chosen[1])
		} else if v := value.FindStringSubmatch(list[0]); v != nil {
			out.Set(list[1], v[1])
		}
	}
	boxes := regexp.MustCompile(`(?s)<textarea [^>]*name="([^"]+)"[^>]*>(.*?)</textarea>`)
	for _, box := range boxes.FindAllStringSubmatch(form, -1) {
		out.Set(box[1], strings.ReplaceAll(unescape(box[2]), "\n", "\r\n")) // as browsers send lines
	}
	return out
}

func SendForm(e *echo.Echo, path string, form url.Values) (int, string) {
	w := Request(e, "POST", path, form, SameOrigin)
	return w.Code, w.Body.String()
}

// IntakeForm is the form of a machine that is taken in, with changes as names and values in turn.
func IntakeForm(changes ...string) url.Values {
	v := url.Values{
		"/chassis":                     {"quillon-aster-14"},
		"/customer":                    {"R. Sill"},
		"/fitted/memory/0/capacity_gb": {"8"},
		"/fitted/memory/0/type":        {"DDR4"},
		"/fitted/memory/0/speed_mts":   {"3200"},
		"/fitted/memory/0/ranks":       {"1"},
		"/goals/memory_gb":             {"24"},
		"/usage/memory_peak_gb":        {"14"},
	}
	for i := 0; i+1 < len(changes); i += 2 {
		v.Set(changes[i], changes[i+1])
	}
	return v
}

// Upload sends a form with files as a browser does.
func Upload(t *testing.T, e *echo.Echo, path string, fields map[string]string,
	files map[string][]byte) *httptest.ResponseRecorder {
	t.Helper()
	var body bytes.Buffer
	form := multipart.NewWriter(&body)
	for name, value := range fields {
		if err := form.WriteField(name, value); err != nil {
			t.Fatal(err)
		}
	}
	field := "photo"
	if strings.HasSuffix(path, "import") {
		field = "file"
	}
	for name, content := range files {
		w, err := form.CreateFormFile(field, name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write(content); err != nil {
			t.Fatal(err)
		}
	}
	form.Close()
	r := fromHere("POST", "http://localhost"+path, &body)
	r.Header.Set("Content-Type", form.FormDataContentType())
	SameOrigin(r)
	w := httptest.NewRecorder()
	e.ServeHTTP(w, r)
	return asRead(w)
}

func PNGOf(t *testing.T, w, h int) []byte {
	var buf bytes.Buffer
	if err := png.Encode(&buf, image.NewGray(image.Rect(0, 0, w, h))); err != nil {
		t.Fatal(err)
	}
	return buf.Bytes()
}

// With changes fields of a form: names and values by turns.
func With(form url.Values, change ...string) url.Values {
	for i := 0; i+1 < len(change); i += 2 {
		form.Set(change[i], change[i+1])
	}
	return form
}
