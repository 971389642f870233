package web

import (
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/labstack/echo/v5"
)

// fieldsOf are the fields of the form on a page that is sent to an address, as a browser
// would send them.
func fieldsOf(t *testing.T, body, action string) url.Values {
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
	for _, box := range regexp.MustCompile(`(?s)<textarea [^>]*name="([^"]+)"[^>]*>(.*?)</textarea>`).FindAllStringSubmatch(form, -1) {
		out.Set(box[1], strings.ReplaceAll(unescape(box[2]), "\n", "\r\n")) // as browsers send lines
	}
	return out
}

func sendForm(e *echo.Echo, path string, form url.Values) (int, string) {
	w := request(e, "POST", path, form, sameOrigin)
	return w.Code, w.Body.String()
}

// TestTwoTabs: whoever saves a shared thing second is shown what the other made of it. What
// only the other changed is taken over, what both changed is chosen; nothing vanishes.
func TestTwoTabs(t *testing.T) {
	for name, c := range map[string]struct {
		page, action       string
		field, mine, other string // a field both change
		theirs, changed    string // one that only the other changes
		says               string // where it shows afterwards
	}{
		"settings": {"/settings", "/settings", "/labour", "50.00", "55.00", "/tax", "19", "/settings"},
		"customer": {"/customers/1", "/customers/1", "/customer", "My name", "Their name", "/contact", "015 999",
			"/customers/1"},
		"a job":     {"/jobs/2/correct", "/jobs/2/correct", "/complaint", "slow", "loud", "/account", "bench", "/jobs/2/correct"},
		"a machine": {"/machines/7/correct", "/machines/7/correct", "/serial", "S1", "S2", "/fitted/drives/0/maker", "Bexmoor", "/machines/7/correct"},
		"a known machine": {"/machines/new?model=quillon-aster-14&machine=tarn-vet-03", "/machines",
			"/usage/memory_peak_gb", "10", "12",
			"/fitted/memory/0/capacity_gb", "16", "/machines/new?model=quillon-aster-14&machine=tarn-vet-03"},
	} {
		t.Run(name, func(t *testing.T) {
			e, _ := application(t)
			opened := page(e, c.page)
			first, second := fieldsOf(t, opened, c.action), fieldsOf(t, opened, c.action)
			first.Set("token", "first")
			second.Set("token", "second")
			for _, form := range []url.Values{first, second} {
				if form.Has("known") {
					form.Set("/complaint", "slow")
					form.Set("/goals/memory_gb", "24")
					form.Set("/another", "yes")
				}
			}
			first.Set(c.field, c.other)
			first.Set(c.theirs, c.changed)
			second.Set(c.field, c.mine)
			if code, body := sendForm(e, c.action, first); code != http.StatusSeeOther {
				t.Fatalf("the first is not stored: %d %s", code, body)
			}
			code, body := sendForm(e, c.action, second)
			if code != http.StatusConflict || !strings.Contains(body, "Both changed it") ||
				!strings.Contains(body, "Taken over") {
				t.Fatalf("the second is not told: %d", code)
			}
			again := fieldsOf(t, body, c.action)
			again.Set("token", "again")
			if got := again.Get(c.theirs); got != c.changed {
				t.Errorf("%s is %q on the page, not %q", c.theirs, got, c.changed)
			}
			if code, _ := sendForm(e, c.action, again); code != http.StatusUnprocessableEntity {
				t.Errorf("without a choice: %d", code)
			}
			again.Set("pick:"+c.field, "mine")
			if code, body := sendForm(e, c.action, again); code != http.StatusSeeOther {
				t.Fatalf("chosen, it is not stored: %d %s", code, body)
			}
			now := fieldsOf(t, page(e, c.says), c.action)
			if now.Get(c.field) != c.mine || now.Get(c.theirs) != c.changed {
				t.Errorf("it is %q and %q", now.Get(c.field), now.Get(c.theirs))
			}
		})
	}
}

// TestTwoWishes: a wish kept second does not take the place of one that was not seen.
func TestTwoWishes(t *testing.T) {
	e, _ := application(t)
	key := regexp.MustCompile(`action="(/machines/[0-9]+)/wish"`)
	open := page(e, "/machines/tarn-vet-03?wish=1&memory_gb=24")
	where := key.FindStringSubmatch(open)
	if where == nil {
		t.Fatal("no wish can be kept")
	}
	first, second := fieldsOf(t, open, where[1]+"/wish"), fieldsOf(t, open, where[1]+"/wish")
	first.Set("token", "one")
	first.Set("memory_gb", "40")
	second.Set("token", "two")
	if code, body := sendForm(e, where[1]+"/wish", first); code != http.StatusSeeOther {
		t.Fatalf("the first: %d %s", code, body)
	}
	code, body := sendForm(e, where[1]+"/wish", second)
	if code != http.StatusConflict || !strings.Contains(body, "changed on the job") ||
		!strings.Contains(body, "40 GB memory") || !strings.Contains(body, "24 GB memory") {
		t.Fatalf("the second is not told: %d", code)
	}
	again := fieldsOf(t, body, where[1]+"/wish")
	again.Set("token", "three")
	if code, _ := sendForm(e, where[1]+"/wish", again); code != http.StatusSeeOther ||
		!strings.Contains(page(e, where[1]+"?wish=1&memory_gb=16"), "24 GB memory") {
		t.Errorf("chosen, it is not kept: %d", code)
	}
}

// TestCorrectNothing: the form of every demo machine and job, sent as it came, changes nothing.
func TestCorrectNothing(t *testing.T) {
	e, _ := application(t)
	for i := range 14 {
		for _, page := range []string{"/machines/%d/correct", "/jobs/%d/correct"} {
			path := fmt.Sprintf(page, i+1)
			w := request(e, "GET", path, nil, nil)
			if code, body := sendForm(e, path, fieldsOf(t, w.Body.String(), path)); code != http.StatusSeeOther {
				t.Errorf("%s as it came: %d %.200s", path, code, body)
			}
		}
		if body := request(e, "GET", fmt.Sprintf("/machines/%d/history", i+1), nil, nil).Body.String(); strings.Contains(body, "corrected: ") {
			_, what, _ := strings.Cut(body, "corrected: ")
			t.Errorf("machine %d: corrected: %.40s", i+1, what)
		}
	}
}
