package browser

import (
	"testing"

	"github.com/chromedp/chromedp"
)

// begin begins the work on a job from its page of what has to lie ready.
func (b *tab) begin(run string) {
	b.t.Helper()
	b.visit(run)
	b.press(`[data-allhere]`)
	b.tabTo(`button[name="/bench"][value="2"]`)
	b.follow(`!!document.querySelector('[data-run] [data-step]')`)
	b.shown("down:power-off")
	b.sent()
}

// TestRunStoppedAndLate: a stop has one truth on the run and the job; what a tablet without the
// network ticked belongs to the run it was ticked in; what the server does not take is told.
func TestRunStoppedAndLate(t *testing.T) {
	base := application(t, true)
	b := open(t, base)
	b.begin("/jobs/6/run")
	second := open(t, base)
	second.visit("/jobs/6/run")
	second.shown("down:power-off")

	// Stopped at the bench: nothing is left but what makes it safe, on every tablet.
	b.press(`[data-step="look"] [data-at=stopit]`)
	b.until(`!!document.querySelector('[data-at=runstopped]') && !document.querySelector('.bigtick')`)
	second.until(`!!document.querySelector('[data-at=runstopped]') && !document.querySelector('.bigtick')`)
	b.settled()
	b.checked()
	has(t, b.text(), "Hands off the pack", "Do not charge it")
	b.visit("/jobs/6#safe")
	b.fill("/for", "the pack is in the fire box")
	b.press(`#safe button`)
	b.until(`!document.querySelector('#safe') && document.readyState === 'complete'`)
	b.visit("/jobs/6/run")
	b.shown("down:power-off")
	second.until(`!document.querySelector('[data-at=runstopped]') && !!document.querySelector('.bigtick')`)
	second.settled()

	// Cut off, one tablet ticks on; the run is ended elsewhere and another begun.
	second.cut(true)
	second.keys(" ")
	second.shown("down:cover-screws")
	second.keys(" ")
	second.shown("down:cover")
	second.keys(" ")
	second.shown("look")
	second.keys(" ")
	second.until(`document.querySelector('[data-net]').textContent.includes('4 waiting')`)
	b.visit("/jobs/6/run")
	b.do(
		chromedp.Evaluate[chromedp.Void](
			`(() => { const f = document.querySelector('[data-alldone] form'); f.elements.why.value = 'called away'; f.requestSubmit() })()`,
		),
	)
	b.until(`!!document.querySelector('[data-ended]')`)
	b.begin("/jobs/6/run?again=1")
	second.cut(false)
	second.until(
		`document.querySelector('[data-refused]:not([hidden])')?.innerText.includes('4 times: it came after its run had ended')`,
	)
	second.sent()
	second.shown("down:power-off")
	b.shown("down:power-off")
	if n := eval[int](b, `document.querySelectorAll('.dive.is-done').length`); n != 0 {
		t.Errorf("%d steps of the new run are done", n)
	}

	// The job is not there any more (here: its number leads nowhere): the tablet says so, and keeps
	// what was ticked.
	second.do(
		chromedp.Evaluate[chromedp.Void](
			`(() => { const real = window.fetch; window.fetch = (url, o) => real(String(url).replace('/jobs/6/', '/jobs/99/'), o) })()`,
		),
	)
	second.wasCut = true // that it is not found is what is tried
	second.press(`[data-step]:not([hidden]) [data-tick]`)
	second.until(`document.querySelector('[data-stuck]:not([hidden])')?.innerText.includes('removed')`)
	// Whether the tick or the question for news is refused first is chance.
	second.until(`document.querySelector('[data-net]').textContent.includes('Not taken by the server: 1 waiting')`)
}
