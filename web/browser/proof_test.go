package browser

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// throughRun ticks the steps of a run by the keyboard until all are done: what lay on the mat is
// counted back whole, and a serial that is asked for is noted.
func (b *tab) throughRun() {
	b.t.Helper()
	for range 80 {
		at := eval[string](b, `(() => {
			const s = document.querySelector('[data-step]:not([hidden])')
			if (!document.querySelector('[data-alldone]').hidden || !s) return ''
			for (const box of s.querySelectorAll('[data-back]:not(:checked)')) box.click()
			for (const i of s.querySelectorAll('input[name=in]')) i.value = 'SN-' + s.dataset.step.replace(':', '-')
			document.activeElement.blur()
			return s.dataset.step
		})()`)
		if at == "" {
			b.sent()
			b.keys(" ")
			b.until(`document.readyState === 'complete' && !!document.querySelector('[data-ended]')`)
			b.settled()
			return
		}
		b.keys(" ")
		b.until(
			fmt.Sprintf(
				`document.querySelector('[data-step]:not([hidden])')?.dataset.step !== %q ||
					!document.querySelector('[data-alldone]').hidden`,
				at,
			),
		)
	}
	b.t.Fatal("the run does not end")
}

// enter follows a button that is found by its words.
func (b *tab) enter(words, condition string) {
	b.t.Helper()
	found := eval[bool](b, fmt.Sprintf(`(() => {
		const e = [...document.querySelectorAll('main button, main a.button, main summary')].find((e) =>
			e.getClientRects().length > 0 && e.innerText.trim() === %q)
		e?.focus()
		return e === document.activeElement
	})()`, words))
	if !found {
		b.t.Fatalf("%q is not on the page: %s", words, b.text())
	}
	if condition == "" {
		b.keys("\r")
		return
	}
	b.follow(condition)
}

// provenByHand goes from the end of a run to the report, with nothing but what somebody sees and ticks.
func (b *tab) provenByHand(to string) {
	b.t.Helper()
	b.enter("Check and sign off", `location.pathname.endsWith('/proof')`)
	b.checked()
	b.enter("Check by hand in firmware setup", "")
	b.enter("I checked the rest: all as planned", `document.body.innerText.includes('Everything is as planned')`)
	for eval[bool](b, `[...document.querySelectorAll('#first ~ [data-at=firstlist] button')].some((e) => e.innerText === 'Done')`) {
		b.enter("Done", `true`)
	}
	b.enter("Add a memory test", "")
	b.fill("/tool", "the firmware's own")
	b.fill("/passes", "1")
	b.fill("/errors", "0")
	if eval[bool](b, `document.querySelector('[name="/total_gb"]').value === ''`) {
		b.fill("/total_gb", "32") // nobody told what is soldered: the tester says the total
	}
	b.follow(`document.body.innerText.includes('no error')`)
	for eval[bool](b, `!!document.querySelector('[data-at=oldpart] details[open] button')`) {
		b.tabTo(`[data-at=oldpart] details[open] button`)
		b.follow(`true`)
	}
	for _, edge := range []string{"front", "right", "hinge", "left", "middle"} {
		b.tabTo(`input[name=edge][value=` + edge + `]`)
		b.keys(" ")
	}
	b.tabTo(`#seam button`)
	b.follow(`true`)
	b.enter("Sign off", `document.body.innerText.includes('Written back')`)
	b.checked()
	b.fill("/to", to)
	b.enter("Hand over and close the job", `location.pathname.endsWith('/report')`)
}

// TestProving goes from the last step of a run to the printed report: a module that is not seated is
// found, mended and proved; what was measured is judged; signing writes back; the machine is handed
// over with what came with it.
func TestProving(t *testing.T) {
	base := application(t, true)
	b := open(t, base)
	b.visit("/settings")
	b.fill("/warranty", "24")
	b.follow(`location.search.includes('saved')`)
	b.visit("/jobs/6/run")
	b.tabTo(`[data-allhere]`)
	b.keys("\r")
	b.tabTo(`button[name="/bench"][value="2"]`)
	b.follow(`!!document.querySelector('[data-run]')`)
	b.throughRun()
	b.enter("Check and sign off", `location.pathname === '/jobs/6/proof'`)
	b.checked()
	has(t, b.text(), "not checked", "Not yet.")

	// The simulated machine shows a module that is not seated; two tablets look at it.
	b.enter("Read the simulated machine", "")
	b.tabTo(`input[name=fault][value=unseated]`)
	b.keys(" ")
	b.enter("Read it", `document.body.innerText.includes('a module is not seen')`)
	b.checked()
	has(t, b.text(), "One difference is open: dimm2", "likeliest first", "until both arms click", "follows")
	second := open(t, base)
	second.visit("/jobs/6/proof")
	b.fill("said", "in again, it clicked")
	b.follow(`document.body.innerText.includes('in again, it clicked')`)
	second.enter("Read the simulated machine", "")
	second.enter("Read it", `document.body.innerText.includes('values are as planned')`)
	b.visit("/jobs/6/proof")
	if text := b.text(); strings.Contains(text, "is open") {
		t.Errorf("it is mended, and still open: %s", text[:300])
	}
	for eval[bool](b, `[...document.querySelectorAll('#first ~ [data-at=firstlist] button')].some((e) => e.innerText === 'Done')`) {
		b.enter("Done", `true`)
	}
	// Two runs are no judgement, a third one is.
	for i, says := range []string{"Fewer than three runs a side", "Better: −50 %"} {
		b.visit("/jobs/6/proof")
		if eval[bool](b, `!!document.querySelector('[data-at=measure]')`) {
			b.enter("Remove", `!document.querySelector('[data-at=measure]')`)
		}
		b.fill("/before", "90 92 94")
		b.fill("/after", strings.Join([]string{"45", "46", "47"}[:i+2], " "))
		b.tabTo(`[data-at=wanted] button`)
		b.follow(fmt.Sprintf(`document.querySelector('[data-at=measure]').innerText.includes(%q)`, says))
	}
	b.enter("Add a memory test", "")
	b.fill("/tool", "the firmware's own")
	b.fill("/passes", "3")
	b.fill("/errors", "0")
	b.follow(`document.body.innerText.includes('no error')`)
	for _, edge := range []string{"front", "right", "hinge", "left", "middle"} {
		b.tabTo(`input[name=edge][value=` + edge + `]`)
		b.keys(" ")
	}
	b.tabTo(`#seam button`)
	b.follow(`document.body.innerText.includes('Nothing open.')`)
	b.checked()
	b.enter("Sign off", `document.body.innerText.includes('Written back')`)
	has(t, b.text(), "Signed", "taken off the shelf")
	// The other tablet still shows the button; pressing it signs nothing twice.
	second.visit("/jobs/6")
	has(t, second.text(), "Hand it over")
	second.visit("/machines/6")
	has(t, second.text(), "Done and proven 14 May", "What was chosen was done: dimm2")

	b.fill("/to", "J. Farrow")
	b.enter("Hand over and close the job", `location.pathname === '/jobs/6/report'`)
	b.checked()
	sheet := b.text()
	has(
		t,
		sheet,
		"it has 16 GB of memory, it had 8",
		"SN-fit-dimm2",
		"Memory in use at the peak",
		"until 14 May 28",
		"Handed over to J. Farrow",
		"Looking after it",
	)
	for paper, box := range map[string]string{"": "594.95", "?paper=letter": "612"} {
		b.visit("/jobs/6/report" + paper)
		pdf := b.pdf()
		if n := len(sheets.FindAll(pdf, -1)); n != 1 {
			t.Errorf("the report %s takes %d sheets", paper, n)
		}
		if !strings.Contains(string(pdf), "/MediaBox [0 0 "+box) {
			t.Errorf("the report %s is not on its paper", paper)
		}
		has(t, printedText(t, pdf)[0], "YB-0006", "wath-05", "PD15-22058", "SN-fit-dimm2", "46")
	}
	cut := eval[string](
		b,
		`[...document.querySelectorAll('[data-at=reportsheet] *')].filter((e) => e.scrollWidth > e.clientWidth + 1 &&
			e.clientWidth > 0 && !e.closest('svg, .sr')).map((e) => e.className + ': ' + e.innerText.slice(0, 40)).join('; ')`,
	)
	if cut != "" {
		t.Errorf("cut on the sheet: %s", cut)
	}
	b.visit("/models/pellam-drover-15")
	has(t, b.text(), "Learned from jobs")

	// It comes back within the warranty, and the counter knows.
	b.visit("/machines/new?machine=6")
	has(t, b.text(), "It was here before", "within the warranty")
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[name="/returns"]').value = '6'`))
	b.fill("/complaint", "starts slowly again")
	b.tabTo(`form.entry button.action`)
	b.follow(`location.pathname.startsWith('/jobs/')`)
	has(t, b.text(), "Back for the same fault:")
	b.checked()
	second.quiet()
}

// TestWholeJobs takes a notebook and a mini PC from the counter to the hand-over in one sitting each,
// without the mouse.
func TestWholeJobs(t *testing.T) {
	b := open(t, application(t, true))
	for _, job := range []struct{ model, customer, in, goal, says string }{
		{"pellam-drover-15", "Wath River Ferries", "8", "16", "it has 16 GB of memory, it had 8"},
		{"quillon-block-2", "Corrie School Robotics Club", "16", "32", "it has 32 GB of memory, it had 16"},
	} {
		b.strokes = 0
		b.visit("/machines/new?model=" + job.model)
		b.fill("/customer", job.customer)
		b.fill("/complaint", "Slow with many windows.")
		b.tabTo(`[name="/condition/looked"]`)
		b.keys(" ")
		b.fill("/goals/memory_gb", job.goal)
		b.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll('form.entry details').forEach((d) => d.open = true)`))
		b.fill("/fitted/memory/0/capacity_gb", job.in)
		b.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll('[name$="/is"]').forEach((s) => {
			if (s.name.startsWith('/fitted/memory/') && s.name !== '/fitted/memory/0/is') s.value = 'empty' })`))
		b.follow(`location.pathname.startsWith('/jobs/')`)
		at := eval[string](b, `location.pathname`)
		b.tabTo(`.moves a.main`)
		b.follow(`location.pathname.startsWith('/machines/')`)
		b.tabTo(`form[action$="/choice"] button`)
		b.follow(`location.pathname.endsWith('/card')`)
		b.visit(at)
		if eval[bool](b, `document.querySelector('.jobbox').innerText.includes("Get the customer's consent")`) {
			t.Fatalf("%s asks for a consent", job.model)
		}
		b.visit(at + "/run")
		b.tabTo(`[data-allhere]`)
		b.keys("\r")
		b.tabTo(`button[name="/bench"][value="2"]`)
		b.follow(`!!document.querySelector('[data-run]')`)
		b.throughRun()
		b.provenByHand("the owner")
		has(t, b.text(), job.says, "Handed over to the owner")
		b.visit(at)
		has(t, b.text(), "Proven and handed over")
		t.Logf("%s: %d keystrokes from the counter to the hand-over", job.model, b.strokes)
	}
	b.quiet()
}
