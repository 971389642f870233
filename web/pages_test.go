package web

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/labstack/echo/v5"
)

// take sends an intake form and returns the address of the new machine's plan.
func take(t *testing.T, e *echo.Echo, form url.Values) string {
	t.Helper()
	form.Set("token", form.Encode())
	w := request(e, "POST", "/machines", form, sameOrigin)
	if w.Code != http.StatusSeeOther {
		t.Fatalf("%d %s", w.Code, w.Body)
	}
	return planOf(t, e, w.Header().Get("Location"))
}

// planOf is the address of the plan of a job's machine.
func planOf(t *testing.T, e *echo.Echo, job string) string {
	t.Helper()
	_, rest, ok := strings.Cut(page(e, job), `<a href="/machines/`)
	id, _, _ := strings.Cut(rest, `"`)
	if !ok || !strings.HasPrefix(job, "/jobs/") {
		t.Fatalf("%s is no job", job)
	}
	return "/machines/" + id
}

func page(e *echo.Echo, path string) string {
	return strings.NewReplacer("&#39;", "'", "&#34;", `"`).Replace(request(e, "GET", path, nil, nil).Body.String())
}

func intakeForm(changes ...string) url.Values {
	v := url.Values{"/chassis": {"quillon-aster-14"}, "/customer": {"R. Sill"}, "/fitted/memory/0/capacity_gb": {"8"}, "/fitted/memory/0/type": {"DDR4"}, "/fitted/memory/0/speed_mts": {"3200"},
		"/fitted/memory/0/ranks": {"1"}, "/goals/memory_gb": {"24"}, "/usage/memory_peak_gb": {"14"}}
	for i := 0; i+1 < len(changes); i += 2 {
		v.Set(changes[i], changes[i+1])
	}
	return v
}

// TestHonestPlans: what is said first on the plan of machines that differ in one
// thing.
func TestHonestPlans(t *testing.T) {
	for name, c := range map[string]struct {
		changes []string
		say     []string
		not     []string
	}{
		"worth doing":     {nil, []string{"Worth doing.", "It needs 14 ÷ 0.8 = 17.5 GB; the next total that can be reached is 24 GB.", "Choose this"}, []string{"Stop the job"}},
		"enough":          {[]string{"/goals/memory_gb", "16"}, []string{"Enough as it is.", "No option"}, []string{"Choose this"}},
		"not the cause":   {[]string{"/usage/memory_peak_gb", "9"}, []string{"below 0.8 of what is fitted: memory is not the complaint's cause"}, nil},
		"more than used":  {[]string{"/usage/memory_peak_gb", "5", "/goals/memory_gb", "40"}, []string{"more memory than the work uses makes nothing faster"}, nil},
		"not measured":    {[]string{"/usage/memory_peak_gb", ""}, []string{"the right size is not yet known"}, nil},
		"too dear":        {[]string{"/budget_cents", "10"}, []string{"Not possible as asked.", "above the budget", "€54.18"}, []string{"Choose this"}},
		"out of reach":    {[]string{"/goals/memory_gb", "40"}, []string{"It helps, but does not reach all that is wanted.", "Out of reach"}, nil},
		"above the limit": {[]string{"/fitted/memory/0/capacity_gb", "32"}, []string{"more than the 24 GB that the practice allows", "It may stay so"}, nil},
		"swollen":         {[]string{"/fitted/battery/option", "small", "/condition/swollen", "yes"}, []string{"Stop the job.", "The pack is swollen: stop. Do not charge, press or pry it"}, []string{"Choose this", "Plan so"}},
		"not told":        {[]string{"/fitted/memory/0/capacity_gb", ""}, []string{"Not yet known.", "so nothing can be called an upgrade"}, nil},
	} {
		e, _ := application(t)
		body := page(e, take(t, e, intakeForm(c.changes...)))
		for _, want := range c.say {
			if !strings.Contains(body, want) {
				t.Errorf("%s: it does not say %q", name, want)
			}
		}
		for _, bad := range c.not {
			if strings.Contains(body, bad) {
				t.Errorf("%s: it says %q", name, bad)
			}
		}
	}
}

// TestCard: no card before a choice; the card of a choice; a note on the card, and no
// new choice, when the plan is another by then.
func TestCard(t *testing.T) {
	e, _ := application(t)
	at := take(t, e, intakeForm())
	if w := request(e, "GET", at+"/card", nil, nil); w.Code != http.StatusConflict || !strings.Contains(w.Body.String(), "No option is chosen yet") {
		t.Errorf("a card without a choice: %d", w.Code)
	}
	plan := page(e, at)
	_, rest, _ := strings.Cut(plan, `name="option" value="`)
	option, _, _ := strings.Cut(rest, `"`)
	if w := request(e, "POST", at+"/choice", url.Values{"option": {option}, "token": {"c"}}, sameOrigin); w.Code != http.StatusSeeOther {
		t.Fatalf("choosing: %d", w.Code)
	}
	card := page(e, at+"/card")
	for _, want := range []string{"Work card", "8 GB DDR4-3200", "Corvane 16 GB DDR4-3200 SO-DIMM", "19.1 min, €54.18 in all", "Shut down (not sleep), charger out",
		"Unscrew the bottom cover", "Plug the battery plug in: press straight down until it sits", "Swollen, dented, hot or leaking: stop", "Customer agrees"} {
		if !strings.Contains(card, want) {
			t.Errorf("the card does not say %q", want)
		}
	}
	if strings.Contains(card, "no longer among its options") || !strings.Contains(page(e, at), "chosen</span>") {
		t.Error("the choice does not stand on the plan")
	}
	if w := request(e, "POST", at+"/choice", url.Values{"option": {"0000"}, "token": {"d"}}, sameOrigin); w.Code != http.StatusConflict || !strings.Contains(w.Body.String(), "The plan changed since this page was shown") {
		t.Errorf("an option that is not there: %d", w.Code)
	}
}

// TestLists: what is searched for is found, and an empty find says so.
func TestLists(t *testing.T) {
	e, _ := application(t)
	for path, c := range map[string]struct{ say, not string }{
		"/machines?q=ferries":           {"wath-07", "tarn-vet-03"},
		"/machines?q=QA14-0093":         {"tarn-vet-03", "wath-07"},
		"/machines?q=zzz":               {"No machine is like that", "wath-07"},
		"/models?q=qa":                  {"Quillon Aster 14", "Drover"},
		"/models?q=PB-45":               {"Pellam Drover 15", "Aster"},
		"/models?length=30":             {"3 of 9", "Drover"},
		"/models?reaches=lots":          {"a number such as 8 or 14.6 is expected", ""},
		"/models?q=nothing+of+the+sort": {"No model is known to have that", "Drover"},
		"/parts":                        {"cannot be had", "NaN"},
		"/machines?where=danger":        {"stopped: pack swollen", "wath-07"},
		"/machines?where=customer":      {"waits for the customer since", "stopped:"},
		"/machines?page=7":              {"No machine is like that", "wath-07"},
		"/models?sort=newest":           {"<svg class=\"smalldraw\"", ""},
		"/customers?where=open":         {"Wath River Ferries", "No customer is like that"},
		"/customers?where=none":         {"No customer is like that", "Wath River Ferries"},
		"/jobs":                         {"YB-0001", "No job"},
		"/jobs?where=closed":            {"No job is like that", "go on since"},
		"/jobs?q=ferries+browser":       {"YB-0002", "YB-0001"},
		"/jobs?q=%25":                   {"No job is like that", "YB-0001"},
	} {
		body := page(e, path)
		if !strings.Contains(body, c.say) || (c.not != "" && strings.Contains(body, c.not)) {
			t.Errorf("%s does not say %q, or says %q", path, c.say, c.not)
		}
	}
}
