package browser

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
)

// cut takes the network away from the browser, or gives it back.
func (b *tab) cut(off bool) {
	b.t.Helper()
	rule := &network.Conditions{URLPattern: "", Latency: 0, DownloadThroughput: -1, UploadThroughput: -1, Offline: off}
	if _, err := chromedp.Call(b.ctx, network.EmulateNetworkConditionsByRule, network.EmulateNetworkConditionsByRuleParams{
		MatchedNetworkConditions: []*network.Conditions{rule}}); err != nil {
		b.t.Fatal(err)
	}
	b.wasCut = true
}

// shown waits until a step of the run is shown.
func (b *tab) shown(key string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`document.querySelector('[data-step]:not([hidden])')?.dataset.step === %q`, key))
}

// press clicks what a selector finds.
func (b *tab) press(selector string) {
	b.t.Helper()
	b.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`document.querySelector(%q).click()`, selector)))
}

// settle waits until all that happened was sent.
func (b *tab) sent() {
	b.t.Helper()
	b.until(`document.querySelector('[data-net]').textContent === 'All saved'`)
}

// TestRun is a whole run by the keyboard: what is missing stops it, the pack is looked at, the
// network is cut in the middle, a second tablet ticks and follows, a fact is found, something has to
// come out first, a count does not come out, and at the end the record is asked to take the detour.
func TestRun(t *testing.T) {
	base := application(t, true)
	b := open(t, base)
	b.visit("/jobs/6")
	b.checked()
	b.keys("b")
	b.until(`location.pathname === '/jobs/6/run'`)
	b.settled()
	b.checked()
	has(t, b.text(), "Before you start", "Parts", "plastic pick")
	b.tabTo(`button[name="/bench"][value="2"]`)
	b.follow(`!!document.querySelector('.faults')`)
	has(t, b.text(), "say why work starts without")
	b.tabTo(`[data-allhere]`)
	b.keys("\r")
	b.tabTo(`button[name="/bench"][value="2"]`)
	b.follow(`!!document.querySelector('[data-run]')`)
	b.shown("down:power-off")
	b.sent()
	b.checked()

	// Space ticks, and a second tablet sees it without being asked.
	second := open(t, base)
	second.visit("/jobs/6/run")
	second.shown("down:power-off")
	b.keys(" ")
	b.shown("down:cover-screws")
	second.shown("down:cover-screws")
	// The other one ticks; both tick the same step once, and it is done once.
	second.keys(" ")
	b.shown("down:cover")
	has(t, b.text(), "On the mat, 10 screws")

	// Without the network nothing is lost, and what is done is told as waiting.
	b.cut(true)
	b.keys(" ")
	b.shown("look")
	b.keys(" ")
	b.shown("down:battery-plug")
	b.until(`document.querySelector('[data-net]').textContent.includes('2 waiting to be sent')`)
	second.shown("down:cover")
	if n := eval[int](second, `document.querySelectorAll('.dive.is-done').length`); n != 2 {
		t.Errorf("the other tablet shows %d steps done", n)
	}
	b.cut(false)
	b.sent()
	second.shown("down:battery-plug")

	// Something else must come out first: it is put in before this step, and undone on the way back.
	b.press(`[data-open="otherwise"]`)
	b.do(chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll('.what summary')].at(-1).click()`))
	b.tabTo(`[name=part]`)
	b.keys("speaker cable")
	b.do(chromedp.Evaluate[chromedp.Void](`window.leaving = true`))
	b.keys("\r")
	b.until(`!window.leaving && document.querySelector('[data-step]:not([hidden])')?.dataset.kind === 'detour'`)
	b.settled()
	has(t, b.text(), "Remove the speaker cable")
	b.keys(" ")
	b.shown("down:battery-plug")
	b.keys(" ")
	b.shown("fit:dimm2")

	// What is bare is asked; a tap settles it, as seen at the bench.
	has(t, b.text(), "To find out now", "M2a, lanes")
	b.press(`[data-ask="/slots/m2a/lanes"] button[value="4"]`)
	b.until(`document.querySelector('[data-asks]').hidden`)
	b.sent()
	b.checked()
	// A serial is asked for once.
	b.keys(" ")
	b.until(`document.querySelector('[data-step="fit:dimm2"] [data-ticknote]').textContent.includes('press again')`)
	b.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	b.keys(" ")
	b.shown("up:battery-plug")
	b.keys(" ")
	b.until(`document.querySelector('[data-step]:not([hidden])').dataset.kind === 'return'`)
	b.keys(" ")
	b.shown("up:cover")
	b.keys(" ")
	b.shown("up:cover-screws")

	// Nine of ten: it is not ticked before somebody says what became of the tenth.
	b.keys(" ")
	b.until(`document.querySelector('[data-step="up:cover-screws"] [data-ticknote]').textContent.includes('0 of 10')`)
	b.do(chromedp.Evaluate[chromedp.Void](`const f = document.querySelector('[data-step="up:cover-screws"] form');
		f.querySelector('input[type=number]').value = 9; f.elements.rest.value = 'missing'; f.elements.why.value = 'one sheared, a new one goes in'; document.activeElement.blur()`))
	b.keys(" ")
	b.shown("up:power-off")
	b.sent()
	has(t, b.text(), "On the mat, 0 screws")
	b.keys(" ")
	b.until(`!document.querySelector('[data-alldone]').hidden`)
	b.sent()
	b.do(chromedp.Evaluate[chromedp.Void](`window.leaving = true`))
	b.keys(" ")
	b.until(`!window.leaving && !!document.querySelector('[data-ended]')`)
	b.settled()
	b.checked()
	has(t, b.text(), "The work is done", "Remove the speaker cable is not in the record")

	// What it taught is in the model's record.
	b.visit("/models/pellam-drover-15/findings")
	if text := b.text(); !strings.Contains(text, "bench") && !strings.Contains(text, "Bench") {
		t.Error("what was found is not in the record")
	}
	b.visit("/jobs/6")
	b.visit(eval[string](b, `document.querySelector('[data-at=tabs] a[href$="/history"]').getAttribute('href')`))
	has(t, b.text(), "the work at the bench is done")
	second.quiet()
}

// line types a line of a first opening and keeps it.
func (b *tab) line(text string) {
	b.t.Helper()
	b.until(`document.activeElement.matches('[data-line-text]')`)
	b.keys(text)
	b.until(`document.querySelector('[data-clear]') !== null`)
	b.follow(`!!document.querySelector('[data-first]')`)
	if eval[bool](b, `!!document.querySelector('.faults')`) {
		b.t.Errorf("%s: %s", text, eval[string](b, `document.querySelector('.faults').innerText`))
	}
}

// TestFirstOpening is a model that nobody has opened: the way in is recorded by going it, with nothing
// but the run; at the end the record has steps with their times, screws in their holes, and ways to
// what was seen, and the way back is worked off.
func TestFirstOpening(t *testing.T) {
	b := open(t, application(t, false))
	b.visit("/models/new")
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-line-text]').focus()`))
	b.keys(`model Sundrel "Teasel 14" ST14 notebook`)
	b.until(`document.querySelector('[data-clear]') !== null`)
	b.follow(`location.pathname === '/models/sundrel-teasel-14'`)
	b.visit("/machines/new?model=sundrel-teasel-14")
	b.until(`document.activeElement.name === '/customer'`)
	b.keys("Ling Foot Bakery")
	b.tabTo(field("/condition/looked"))
	b.keys(" ")
	b.fill("/goals/memory_gb", "16")
	b.arrow("Enter", ctrl)
	b.until(`location.pathname === '/jobs/1' && document.readyState === 'complete' && !!window.Alpine`)
	b.visit("/jobs/1/run")
	has(t, b.text(), "No disassembly steps recorded for this model")
	b.checked()
	b.tabTo(`button[name="/bench"][value="1"]`)
	b.follow(`!!document.querySelector('[data-first]')`)
	has(t, b.text(), "The machine is shut", "No steps yet", "Still to find out")
	b.checked()

	b.line("power-down")
	b.line("model 314x221")
	b.keys("unscrew cover 3xPH0x5 1xPH0x8")
	for _, hole := range [][2]float64{{.1, .1}, {.9, .1}, {.1, .9}, {.9, .9}} {
		b.do(
			chromedp.Evaluate[chromedp.Void](
				fmt.Sprintf(`(() => { const m = document.querySelector('[data-tapmap]'), box = m.getBoundingClientRect()
			m.dispatchEvent(new MouseEvent('click', { clientX: box.left + box.width * %v, clientY: box.top + box.height * %v, bubbles: true })) })()`, hole[0], hole[1]),
			),
		)
	}
	b.until(`document.querySelector('[data-tapped]').textContent === '4 of 4 tapped.'`)
	b.until(`document.querySelector('[data-clear]') !== null`)
	b.follow(`document.querySelector('.steptitle').innerText.includes('Unscrew the cover')`)
	b.checked()
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('button.open').focus()`))
	b.follow(`document.querySelector('.steptitle').innerText.includes('Lift the cover')`)
	b.tabTo(`form:has(input[value="look"]) button`)
	b.follow(`document.querySelector('main').innerText.includes('The pack was looked at')`)
	b.line("m2a 2280* nvme keyM")
	b.line("bat 52.5wh")
	b.line("unplug battery iso")
	b.line("unplug display cable")
	b.do(
		chromedp.Evaluate[chromedp.Void](
			`[...document.querySelectorAll('button')].find(x => x.innerText.startsWith('Undo step 5')).focus()`,
		),
	)
	b.follow(`!document.querySelector('main').innerText.includes('Unplug the display cable')`)
	b.do(
		chromedp.Evaluate[chromedp.Void](
			`[...document.querySelectorAll('button')].find(x => x.innerText.startsWith('Done: start')).focus()`,
		),
	)
	b.follow(`!!document.querySelector('[data-run]')`)
	b.shown("up:battery-plug")
	b.sent()
	b.checked()
	has(t, b.text(), "On the mat, 4 screws", "Unplugged: battery")
	b.keys(" ")
	b.until(
		`document.querySelector('[data-step]:not([hidden])').dataset.kind !== 'up' || document.querySelector('[data-step]:not([hidden])').dataset.step !== 'up:battery-plug'`,
	)
	if eval[string](b, `document.querySelector('[data-step]:not([hidden])').dataset.step`) == "trial" {
		b.keys(" ")
	}
	b.shown("up:cover")
	b.keys(" ")
	b.shown("up:cover-screws")
	for range 2 { // a lot is counted back with one tap
		b.do(
			chromedp.Evaluate[chromedp.Void](
				`document.querySelector('[data-step="up:cover-screws"] [data-back]:not(:checked)').click(); document.activeElement.blur()`,
			),
		)
	}
	b.keys(" ")
	b.shown("up:power-off")
	b.keys(" ")
	b.until(`!document.querySelector('[data-alldone]').hidden`)
	b.sent()

	record := eval[string](
		b,
		`(() => { const x = new XMLHttpRequest(); x.open('GET', '/models/sundrel-teasel-14/export', false); x.send(); return x.responseText })()`,
	)
	for _, want := range []string{`"id": "cover-screws"`, `"length_mm": 8`, `"reach": "cover"`, `"battery_reach": "cover"`,
		`"isolates_power": true`, `"x_mm"`} {
		if !strings.Contains(strings.ReplaceAll(record, `":"`, `": "`), want) &&
			!strings.Contains(record, strings.ReplaceAll(want, ": ", ":")) {
			t.Errorf("the record has no %s:\n%s", want, record)
		}
	}
	if strings.Contains(strings.ReplaceAll(record, " ", ""), `"id":"display`) {
		t.Error("what was taken back is in the record still")
	}
	b.quiet()
}
