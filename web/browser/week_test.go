package browser

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// TestWeek is the week at the desk and at the counter, by keyboard: a job is moved over the drawing, others see it when it is
// shown, it is taken back; a customer asks when, wants it earlier than the parts come, is promised that anyway, and is rung with
// the honest time; a calendar is fetched; on a telephone a job is moved by the form, a day at a time.
func TestWeek(t *testing.T) {
	at := application(t, true)
	b, other := open(t, at), open(t, at)
	b.visit("/week")
	b.checked()
	has(t, b.text(), "Week of 11 May", "Without a date", "Arrivals")
	other.visit("/")
	held := func() string { return eval[string](b, `document.activeElement.dataset?.seen ?? ''`) }
	for range 20 {
		if b.keys("j"); held() != "" {
			break
		}
	}
	job := eval[string](b, `document.activeElement.dataset.job`)
	row := func(o *tab) string {
		return eval[string](o, `document.querySelector('.benchlist a[href="/jobs/`+job+`"]').closest('tr')
			.querySelector('.waits').innerText`)
	}
	was := row(other)
	b.keys("\r")
	for range 3 {
		b.arrow("ArrowRight", 8)
	}
	b.until(`document.querySelector('[aria-live=assertive]').textContent.startsWith('On bench')`)
	b.follow(`location.search.includes('job=` + job + `')`)
	has(t, b.text(), "Kept there", "R. Okell")
	if other.visit("/"); row(other) != was {
		t.Errorf("before it is shown the other tablet sees %q", row(other))
	}
	b.enter("Show this week to all", `document.body.innerText.includes('Shown to all')`)
	if other.visit("/"); row(other) == was {
		t.Errorf("when it is shown the other tablet still sees %q", was)
	}
	b.keys("u")
	b.until(`!document.body.innerText.includes('Kept there') && document.body.innerText.includes('1 change is')`)
	b.checked()

	// At the counter: it is wanted before there are hands for it.
	b.visit("/find?code=corrie-02")
	b.until(`location.pathname.startsWith('/jobs/')`)
	late := eval[string](b, `location.pathname`)
	b.visit(late + "/when")
	b.checked()
	has(t, b.text(), "When can I have it?", "ready about", "Work, 7 min; proof, 15 min")
	b.fill("/wish", "today 11:30")
	b.enter("Look at it", `location.search.includes('wish')`)
	has(t, b.text(), "until Thu 14 May 1")
	b.enter("Promise Thu 14 May 11:30 anyway", `document.body.innerText.includes('say who decides it')`)
	b.fill("/decided", "R. Okell")
	b.enter("Promise Thu 14 May 11:30 anyway", `location.pathname === '`+late+`'`)
	has(t, b.text(), "decided by R. Okell")
	other.visit("/")
	has(t, other.text(), "Ring: Thu 14 May 11:30 cannot be kept")
	b.visit("/week")
	b.checked()
	has(t, b.text(), "corrie-02: Thu 14 May 11:30 cannot be kept", "too late by")
	rung := `[...document.querySelectorAll('main button')].find((e) => e.innerText.startsWith('Rung, agreed')).innerText`
	agreed := eval[string](b, rung)
	b.enter(agreed, `!document.body.innerText.includes('cannot be kept')`)
	b.visit(late)
	has(t, b.text(), "ready "+strings.TrimPrefix(agreed, "Rung, agreed: "))

	// A module turns out bad: another comes on Monday at ten, later than was promised.
	b.visit("/find?code=p-lathom-01")
	b.until(`location.pathname.startsWith('/jobs/')`)
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll('details').forEach((d) => { d.open = true })`))
	b.fill("/for", "another module")
	b.fill("/due", "mon 10:00")
	b.enter("Parts", `document.body.innerText.includes('parts, due Mon 18 May 10:00')`)
	b.visit("/week")
	b.checked()
	has(t, b.text(), "p-lathom-01: Fri 15 May 12:00 cannot be kept", "Another module: expected", "Mon 18 May 10:00")
	agreed = eval[string](b, rung)
	b.enter(agreed, `!document.body.innerText.includes('cannot be kept')`)
	b.visit("/week?at=2026-05-18") // where it stands now
	has(t, b.text(), "Week of 18 May")

	b.visit("/week/feed")
	b.enter("Make an address", `!!document.querySelector('[data-address]')`)
	has(t, b.text(), "It has not been read yet")
	b.checked()
	b.do(chromedp.Evaluate[chromedp.Void](`fetch(new URL(document.querySelector('[data-address]').innerText).pathname)
		.then((r) => r.text()).then((text) => { window.read = text })`))
	b.until(`!!window.read`)
	read := eval[string](b, `window.read`)
	if !strings.HasPrefix(read, "BEGIN:VCALENDAR") || strings.Contains(read, "Tarn Veterinary") {
		t.Errorf("the calendar is %.200s", read)
	}

	b.do(chromedp.EmulateViewport(390, 844))
	b.visit("/week?at=2026-05-14&day=2026-05-14&job=" + job)
	b.checked()
	b.noOverflow()
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[name="/start"]:not([type=hidden])').value = ''`))
	b.fill("/start", "sun 10:00")
	b.enter("Put it there", `document.body.innerText.includes('does not fit there')`)
	b.noOverflow()
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[name="/start"]:not([type=hidden])').value = ''`))
	other.visit("/week") // which follows what is done elsewhere
	b.fill("/start", "fri 15 may 15:00")
	b.enter("Put it there", `document.body.innerText.includes('Kept there')`)
	has(t, b.text(), "Fri 15 May 15:00")
	other.until(`document.body.innerText.includes("The plan has changed")`)
	has(t, other.text(), "Fri 15 May 15:00")
	other.checked()
	b.quiet()
}
