package browser

import (
	"bytes"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// scanned types into the element with the focus as a scanner does, or as slowly as a
// person, by the milliseconds between two keys.
const scanned = `((text, pause) => new Promise((done) => {
	const keys = [...text, 'Enter']
	const next = () => {
		const key = keys.shift()
		if (!key) { done(true); return }
		const at = document.activeElement
		const wanted = at.dispatchEvent(new KeyboardEvent('keydown', {key, bubbles: true, cancelable: true}))
		if (wanted && key.length === 1 && 'value' in at) { at.value += key; at.dispatchEvent(new Event('input', {bubbles: true})) }
		if (pause) setTimeout(next, pause); else next()
	}
	next()
}))`

// TestIntake goes from the scanned base label to a planned job by keyboard: at most 25
// keys beyond what is free text.
func TestIntake(t *testing.T) {
	b := open(t, application(t, true))
	keys := 0
	press := func(key string) {
		t.Helper()
		b.keys(key)
		keys++
	}
	b.visit("/")
	b.checked()
	has(t, b.text(), "Stop: move it to the fire box, then call the customer", "Continue", "Open it:", "Ask again",
		"Wait until Thu 21 May", "Choose an option")
	press("n")
	b.until(`location.pathname === '/machines/new'`)
	b.settled()
	b.checked()
	b.keys("PD15") // the scanner reads the base label
	press("\r")
	b.until(`location.search === '?model=pellam-drover-15'`)
	b.settled()
	b.checked()
	b.keys("Wath River Ferries")
	press("\t")
	b.keys("PD15-30077")
	press("\t")
	b.keys("Runs out of memory.")
	press("\t")
	b.keys("fri 12:00")
	press("\t")
	press(" ") // looked over
	for range 9 {
		press("\t")
	}
	b.keys("16")
	if got := eval[string](b, `document.activeElement.name`); got != "/goals/memory_gb" {
		t.Fatalf("what is wanted went into %s", got)
	}
	b.do(chromedp.Evaluate[chromedp.Void](`window.leaving = true`))
	b.arrow("Enter", ctrl)
	keys += 2
	b.until(`!window.leaving && location.pathname.startsWith('/jobs/')`)
	b.settled()
	b.checked()
	has(t, b.text(), "YB-0015", "wath-river-ferries-01", "15 May 26, 12:00", "dry, undamaged, flat", "Choose an option")
	t.Logf("taken in with %d keys beyond free text", keys)
	if keys > 25 {
		t.Errorf("%d keys; at most 25", keys)
	}

	job := eval[string](b, `location.pathname`)
	for path, box := range map[string]string{"/label": "175.9", "/sheet": "594.95", "/sheet?paper=letter": "612"} {
		b.visit(job + path)
		if pdf := b.pdf(); len(sheets.FindAll(pdf, -1)) != 1 || !bytes.Contains(pdf, []byte("/MediaBox [0 0 "+box)) {
			t.Errorf("%s takes %d sheets, %s", path, len(sheets.FindAll(pdf, -1)),
				regexp.MustCompile(`/MediaBox[^\]]*\]`).Find(pdf))
		}
	}
	b.visit(job)

	// Its own system tells what is in it.
	b.tabTo(`.moves a[href$="/readings"]`)
	b.follow(`location.pathname.endsWith('/readings')`)
	b.checked()
	b.tabTo(field("pasted"))
	b.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.value = 'hello'`))
	b.tabTo(`button[value="read"]`)
	b.follow(`document.querySelector('.fault') !== null`)
	has(t, b.text(), "pasted: not a supported report")
	if eval[string](b, `document.querySelector('[name=pasted]').value`) != "hello" {
		t.Error("what was pasted is gone")
	}
	b.do(
		chromedp.Evaluate[chromedp.Void](
			`document.querySelector('[name=pasted]').value = '# dmidecode 3.4\n\n' +
				'Handle 0x0001, DMI type 16, 23 bytes\nPhysical Memory Array\n\tUse: System Memory\n\tMaximum Capacity: 64 GB\n\n' +
				'Handle 0x0002, DMI type 17, 40 bytes\nMemory Device\n\tSize: 8 GB\n' +
				'\tForm Factor: SODIMM\n\tType: DDR4\n\tSpeed: 2667 MT/s\n\tRank: 1\n\tLocator: DIMM 1\n\n' +
				'Handle 0x0003, DMI type 17, 40 bytes\nMemory Device\n\tSize: No Module Installed\n\tLocator: DIMM 2\n'`,
		),
	)
	b.tabTo(`button[value="read"]`)
	b.follow(`location.pathname.includes('/readings/')`)
	b.checked()
	has(t, b.text(), "In dimm1", "8 GB DDR4-2666", "what is fitted was not known",
		"a reading never overrides the bench")
	b.tabTo(`form[action*="/readings/"] button.action`)
	b.follow(`document.querySelector('[role=status]') !== null`)
	has(t, b.text(), "Accepted: In dimm1 8 GB")

	b.tabTo(`nav[data-at=tabs] a[href="/machines/15"]`)
	b.follow(`location.pathname === '/machines/15'`)
	b.tabTo(`form[action$="/choice"] button`)
	b.follow(`location.pathname.endsWith('/card')`)
	b.visit("/jobs/15")
	has(t, b.text(), "Open it:", "All parts here")
	b.quiet()
}

// TestScan: a label that a scanner types opens its job from any page; the field that had
// the focus keeps its text, and what was typed in the form is there on the way back.
// Typed by a person it is text like any other.
func TestScan(t *testing.T) {
	b := open(t, application(t, true))
	slow := func(text string, pause string) {
		t.Helper()
		if _, err := chromedp.Run(b.ctx,
			chromedp.Evaluate[bool](scanned+`('`+text+`', `+pause+`)`, chromedp.EvalAwaitPromise)); err != nil &&
			pause != "0" {
			t.Fatal(err)
		}
	}
	b.visit("/machines/new?model=pellam-drover-15")
	b.fill("/complaint", "Slow.")
	slow("YB-0003", "80")
	if got := eval[string](b, `location.pathname + document.activeElement.value`); got != "/machines/newSlow.YB-0003" {
		t.Fatalf("typed slowly it leads to %s", got)
	}
	slow("YB-0003", "0")
	b.until(`location.pathname === '/jobs/3'`)
	b.settled()
	has(t, b.text(), "YB-0003", "wath-11")
	b.visit("/machines/new?model=pellam-drover-15")
	if got := eval[string](b, `document.querySelector('[name="/complaint"]').value`); got != "Slow.YB-0003" {
		t.Errorf("the field holds %q on the way back", got)
	}
	has(t, b.text(), "Your unsaved entry was restored")
	b.checked()
}

// TestMeter: the trace runs, its mean becomes what the machine draws, under its profile.
func TestMeter(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/machines/wath-07/draw")
	b.tabTo(`[data-at=meter] button`)
	b.keys(" ")
	b.until(`Number(document.querySelector('[data-at=readout] div:last-child span').innerText) >= 40`)
	b.keys(" ")
	b.until(`document.querySelector('[data-at=meter] button').innerText === 'Start measuring'`)
	b.checked()
	// Fifty readings a second come here, some of them while the page stops: the figures may differ a little.
	mean := eval[float64](b, `Number(document.querySelectorAll('[data-at=readout] span')[1].innerText)`)
	b.tabTo(field("/profile"))
	b.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.select()`))
	b.keys("ticket program, full brightness")
	b.follow(`location.pathname.endsWith('/draw')`)
	has(t, b.text(), " W (ticket program, full brightness, simulated)", "Wh when full ÷")
	if taken := eval[float64](b, `parseFloat(document.querySelector('.head strong').innerText)`); mean == 0 ||
		taken-mean > 0.5 || mean-taken > 0.5 {
		t.Errorf("%v W shown, %v W taken", mean, taken)
	}
}

// signs draws a signature in two strokes on a job's page.
func (b *tab) signs(name string) {
	b.t.Helper()
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('details:has([data-at=signpad]) summary').click()`))
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-at=signpad]').scrollIntoView({block: 'center'})`))
	x := eval[float64](b, `document.querySelector('[data-at=signpad]').getBoundingClientRect().left`)
	y := eval[float64](b, `document.querySelector('[data-at=signpad]').getBoundingClientRect().top`)
	b.drag(x+20, y+20, x+200, y+90)
	b.drag(x+220, y+90, x+330, y+30)
	b.tabTo(field("/signer"))
	b.keys(name)
	b.follow(`document.querySelector('svg.signature') !== null`)
}

// TestSignature: what is drawn with the pointer is kept as strokes, and stands on the job
// and on its sheet; a file that is dropped on the readings is read.
func TestSignature(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/jobs/2")
	b.signs("J. Farrow")
	b.checked()
	path := eval[string](b, `document.querySelector('svg.signature path').getAttribute('d')`)
	if n := strings.Count(path, "M"); n != 2 {
		t.Errorf("%d strokes are kept of two: %s", n, path)
	}
	has(t, b.text(), "J. Farrow, 14 May 26", "signed 14 May 26")
	b.visit("/jobs/2/sheet")
	if got := eval[string](b, `document.querySelector('.signature path').getAttribute('d')`); got != path {
		t.Errorf("on the sheet it is %s", got)
	}

	b.visit("/machines/wath-07/readings")
	b.do(chromedp.Evaluate[chromedp.Void](`(() => {
		const files = new DataTransfer()
		files.items.add(new File(['Device: /org/freedesktop/UPower/devices/battery_BAT0\n' +
			'  power supply: yes\n  battery\n    present: yes\n    energy-full: 20 Wh\n' +
			'    energy-full-design: 45 Wh\n    charge-cycles: 900\n'], 'power.txt'))
		const form = document.querySelector('form[x-data=drop]')
		form.dispatchEvent(new DragEvent('drop', {dataTransfer: files, bubbles: true, cancelable: true}))
	})()`))
	b.until(`document.querySelector('#report').files.length === 1`)
	b.tabTo(`button[value="read"]`)
	b.follow(`location.pathname.includes('/readings/')`)
	has(t, b.text(), "20 Wh when full, 900 cycles", "the newer figure of the pack's own meter holds")
	b.quiet()
}
