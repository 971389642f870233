package browser

import (
	"bytes"
	"testing"

	"github.com/chromedp/chromedp"
)

// TestFirstPlan is the way of somebody who starts with nothing: by keyboard alone, from the first page
// to a printed work card. The strokes are counted; at four a second, with a look at each page, it takes
// less than ten minutes.
func TestFirstPlan(t *testing.T) {
	b := open(t, application(t, false))
	b.visit("/")
	has(t, b.text(), "Your workshop")
	b.checked()
	b.until(`document.activeElement.name === '/workshop'`)
	b.keys("Gaunt and Daughter")
	b.keys("\t")
	b.keys("A. Gaunt, B. Gaunt")
	b.tabTo(field("/labour"))
	b.arrow("a", ctrl)
	b.keys("48")
	b.arrow("Enter", ctrl)
	b.until(`location.pathname === '/' && document.readyState === 'complete' && !!window.Alpine`)
	has(t, b.text(), "Getting started", "The first model", "none yet")
	b.checked()

	b.tabTo(`[data-at=firststeps] a[href="/models/new"]`)
	b.follow(`location.pathname === '/models/new'`)
	b.checked()
	b.tabTo(`a[href="/models/new?like=usual"]`)
	b.follow(`location.search === '?like=usual' && document.activeElement.matches('[data-line-text]')`)
	b.keys(`Quillon "Tern 14" QT14`)
	b.until(`document.querySelector('[data-clear]') !== null`)
	b.followCtrl(`location.pathname === '/models/quillon-tern-14'`)
	b.keys("limit maker32")
	b.until(`document.querySelector('[data-clear]') !== null`)
	b.follow(`location.search === '?kept=line'`)
	has(t, b.text(), "dimm1", "assumed")

	b.visit("/")
	b.tabTo(`[data-at=firststeps] a[href="/parts"]`)
	b.follow(`location.pathname === '/parts'`)
	b.keys("Corvane 16GB 2Rx8 PC4-3200AA-SE1-11 38.90 2pcs")
	b.until(`document.querySelector('[data-clear]') !== null`)
	b.follow(`location.search.startsWith('?kept=')`)

	b.visit("/")
	b.tabTo(`[data-at=firststeps] a[href="/machines/new"]`)
	b.follow(`location.pathname === '/machines/new'`)
	b.until(`document.activeElement.matches('#q')`)
	b.keys("QT14")
	b.follow(`location.search.includes('model=quillon-tern-14')`)
	b.checked()
	b.until(`document.activeElement.name === '/customer'`)
	b.keys("R. Fell")
	b.keys("\t")
	b.keys("QT14-0042")
	b.keys("\t")
	b.keys("Runs out of memory.")
	b.tabTo(field("/condition/looked"))
	b.keys(" ")
	b.fill("/goals/memory_gb", "32")
	b.tabTo(`details:last-of-type summary`)
	b.keys("\r")
	b.tabTo(field("/fitted/memory/0/is"))
	b.keys("e") // empty
	b.tabTo(field("/fitted/memory/1/is"))
	b.keys("e")
	b.arrow("Enter", ctrl)
	b.until(`location.pathname.startsWith('/jobs/') && document.readyState === 'complete' && !!window.Alpine`)
	has(t, b.text(), "YB-0001", "r-fell-01", "Choose an option")
	b.checked()
	b.keys("p")
	b.until(`location.pathname.startsWith('/machines/') && document.readyState === 'complete' && !!window.Alpine`)
	has(t, b.text(), "2 × Corvane 16 GB")
	b.tabTo(`form[action$="/choice"] button`)
	b.follow(`location.pathname.endsWith('/card')`)
	has(t, b.text(), "Work card", "dimm1", "dimm2")
	if pdf := b.pdf(); len(sheets.FindAll(pdf, -1)) != 1 || !bytes.HasPrefix(pdf, []byte("%PDF")) {
		t.Error("the card does not print on one sheet")
	}
	b.visit("/")
	if !eval[bool](b, `document.querySelector('[data-at=firststeps]') === null`) {
		t.Error("the first steps are still told")
	}
	b.quiet()
	t.Logf("%d keystrokes from nothing to a printed card", b.strokes)
	if b.strokes > 450 {
		t.Errorf("%d keystrokes; at most 450", b.strokes)
	}

	// From there to money, still with nothing told but what an hour costs.
	b.visit("/machines/1")
	b.tabTo(`#quoteform button`)
	b.follow(`location.pathname === '/quotes/1'`)
	has(t, b.text(), "Quote Q-0001-1", "R. Fell", "so not printed: a tax, the workshop's address",
		"2 × Corvane 16 GB", "77.80", "reserves 2 ×")
	b.checked()
	b.tabTo(`[name="/letter"]`)
	b.keys(" ")
	b.fill("/who", "R. Fell")
	b.tabTo(`button[value="answer"]`)
	b.follow(`document.querySelector('main').innerText.includes('Accepted ')`)
	b.do(chromedp.EmulateViewport(390, 844))
	b.visit("/jobs/1/bill")
	has(t, b.text(), "No tax is set in Settings: none is added.", "77.80")
	b.tabTo(`form[action="/jobs/1/invoice"] .button.action`)
	b.follow(`location.pathname === '/invoices/1'`)
	has(t, b.text(), "Invoice I-0001", "The workshop's address is not set")
	b.noOverflow()
	b.checked()

	// And to the hand-over, on the same phone.
	b.visit("/jobs/1/run")
	b.tabTo(`[data-allhere]`)
	b.keys("\r")
	b.tabTo(`button[name="/bench"][value="1"]`)
	b.follow(`!!document.querySelector('[data-run]')`)
	b.throughRun()
	b.provenByHand("R. Fell")
	has(t, b.text(), "Your machine is ready: its memory was changed.", "one pass")
	b.noOverflow()
	b.quiet()
}

// TestCorrecting: what was taken in wrongly is corrected on its page and put back by one press; a
// machine that was made by mistake is removed and brought back.
func TestCorrecting(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/jobs/2")
	b.keys("e")
	b.until(`location.pathname === '/jobs/2/correct' && document.readyState === 'complete' && !!window.Alpine`)
	b.checked()
	b.tabTo(field("/complaint"))
	b.arrow("a", ctrl)
	b.keys("It hums.")
	b.tabTo(field("/consents/data"))
	b.keys(" ")
	b.arrow("Enter", ctrl)
	b.until(`location.pathname === '/jobs/2' && document.readyState === 'complete' && !!window.Alpine`)
	has(t, b.text(), "It hums.")
	b.tabTo(`[data-at=foot] details summary`)
	for eval[string](b, `document.activeElement.tagName + document.activeElement.innerText`) != "SUMMARYHistory" {
		b.keys("\t")
	}
	b.keys("\r")
	b.tabTo(`form[action="/jobs/2/putback"] button`)
	b.follow(`location.pathname === '/jobs/2'`)
	has(t, b.text(), "Ticket program and browser")

	b.visit("/machines/2/correct")
	b.checked()
	b.tabTo(field("/fitted/drives/0/maker"))
	b.keys("Bexmoor")
	b.arrow("Enter", ctrl)
	b.until(`location.pathname === '/machines/2/history' && document.readyState === 'complete' && !!window.Alpine`)
	has(t, b.text(), "corrected: drives")
	b.checked()
	b.tabTo(`form[action="/machines/2/putback"] button`)
	b.follow(`document.querySelector('main').innerText.includes('put back: drives')`)

	b.do(chromedp.EmulateViewport(390, 844))
	b.visit("/machines/2/correct")
	b.noOverflow()
	b.visit("/machines/2/history")
	b.tabTo(`a[href="/remove/machine/2"]`)
	b.follow(`location.pathname === '/remove/machine/2'`)
	has(t, b.text(), "Removed with it", "1 job")
	b.noOverflow()
	b.checked()
	b.tabTo(`form .button.action`)
	b.follow(`location.pathname === '/removed'`)
	has(t, b.text(), "wath-07", "is removed")
	b.checked()
	b.noOverflow()
	b.tabTo(`form[action="/removed/machine/2/back"] button`)
	b.follow(`location.pathname === '/machines/2/history'`)
	has(t, b.text(), "brought back", "YB-0002")
	b.quiet()
}
