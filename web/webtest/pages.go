package webtest

import (
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/labstack/echo/v5"
)

// Take sends an intake form and returns the address of the new machine's plan.
func Take(t *testing.T, e *echo.Echo, form url.Values) string {
	t.Helper()
	form.Set("token", form.Encode())
	w := Request(e, "POST", "/machines", form, SameOrigin)
	if w.Code != http.StatusSeeOther {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	return PlanOf(t, e, w.Header().Get("Location"))
}

var planLink = regexp.MustCompile(`href="(/machines/[0-9]+)"`)

// PlanOf is the address of the plan of a job's machine.
func PlanOf(t *testing.T, e *echo.Echo, job string) string {
	t.Helper()
	plan := planLink.FindStringSubmatch(Page(e, job))
	if plan == nil || !strings.HasPrefix(job, "/jobs/") {
		t.Fatalf("%s is no job", job)
	}
	return plan[1]
}

func Page(e *echo.Echo, path string) string {
	return strings.NewReplacer("&#39;", "'", "&#34;", `"`).Replace(Request(e, "GET", path, nil, nil).Body.String())
}

// Quoted makes a quote of the first option of the plan of machine 8, and returns the address of its link.
func Quoted(t *testing.T, e http.Handler) string {
	t.Helper()
	option := regexp.MustCompile(`form="quoteform" name="option" value="([^"]+)"`).
		FindStringSubmatch(Request(e, "GET", "/machines/8", nil, nil).Body.String())
	if option == nil {
		t.Fatal("nothing can be quoted")
	}
	if w := Request(e, "POST", "/machines/8/quote", url.Values{"token": {"q"}, "option": {option[1]}}, SameOrigin); w.Header().
		Get("Location") !=
		"/quotes/1" {
		t.Fatalf("%d %s", w.Code, w.Header().Get("Location"))
	}
	body := Request(e, "POST", "/quotes/1/show", url.Values{"do": {"link"}, "revision": {"1"}}, SameOrigin).Body.String()
	link := regexp.MustCompile(`/q/[A-Z0-9]{26}`).FindString(body)
	if link == "" {
		t.Fatal("no link is told")
	}
	return link
}
