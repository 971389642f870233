package browser

import (
	"bytes"
	"testing"

	"github.com/chromedp/chromedp"
)

// TestShelfFromNothing goes by keyboard, in a shop that has nothing, from the first part by its label over a
// price list and an order to a delivery by scan and a job that can go on.
func TestShelfFromNothing(t *testing.T) {
	b := open(t, application(t, false))
	b.visit("/")
	b.tabTo(`button[value="later"]`)
	b.follow(`location.pathname === '/'`)
	has(t, b.text(), "Getting started", "The first parts", "none yet")
	b.checked()
	b.visit("/parts")
	has(t, b.text(), "No parts yet")
	b.checked()
	// The line has the focus: nothing else is needed for the first part.
	b.keys("Corvane 8GB 1Rx8 PC4-3200AA-SE1-11 19.90 2pcs low3")
	b.until(`document.querySelector('[data-clear]') !== null && document.body.innerText.includes('a new part: Corvane 8 GB')`)
	has(t, b.text(), "1 rank", "DDR4-3200", "a new part: Corvane 8 GB DDR4-3200 SO-DIMM, memory module")
	b.follow(`location.search.startsWith('?kept=')`)
	has(t, b.text(), "On the shelf: Corvane 8 GB DDR4-3200 SO-DIMM, 2 free", "Below the reorder level", "2 free, reorder level 3")
	b.checked()
	// The same label a second time is known.
	b.keys("8GB PC4-3200AA-SE1-11")
	b.until(`document.querySelector('[data-clear]') !== null`)
	has(t, b.text(), "is Corvane 8 GB DDR4-3200 SO-DIMM, 2 free")
	b.keys("x9999 USD 3.50")
	b.until(`document.querySelector('[data-look] .fault') !== null`)
	b.checked()

	b.visit("/suppliers")
	b.checked()
	b.fill("/name", "Dunmoor Parts")
	b.fill("/contact", "015 550 800")
	b.fill("/days", "2")
	b.follow(`document.querySelector('td strong')?.innerText === 'Dunmoor Parts'`)
	b.visit("/parts/import")
	b.checked()
	b.tabTo(`#supplier`)
	b.keys("Dun")
	b.tabTo("#pasted")
	b.keys("part;price;days;article\nCorvane 16 GB DDR4-3200 SO-DIMM 2Rx8;38,90;3;D-16\nCorvane 8 GB DDR4-3200 " +
		"SO-DIMM;18,90;3;D-8\nBox;1;1;D-0")
	b.tabTo(`form button.action`)
	b.follow(`document.querySelector('main').innerText.includes('1 new, 1 changed')`)
	has(t, b.text(), "1 skipped", "it does not say what kind of part it is", "19.90", "18.90")
	b.checked()
	b.tabTo(`button[value="take"]`)
	b.follow(`document.querySelector('main').innerText.includes('1 new, 1 changed, 0 as they were, 1 skipped')`)
	b.checked()

	// A model, a machine, and a choice that the shelf does not cover.
	b.visit("/models/new")
	b.tabTo("[data-line-text]")
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-line-text]').value =
		'model Quillon "Tern 14" QT14 2024\nram 1x sodimm a + 1x sodimm b ddr4-3200 2ch max16\nlimit maker 32\nunscrew "bottom cover" 8xPH0\nlift cover'`))
	b.tabTo(`.lineside button`)
	b.follow(`location.pathname === '/models/quillon-tern-14'`)
	b.visit("/machines/new?model=quillon-tern-14")
	b.fill("/customer", "R. Sill")
	b.fill("/serial", "QT14-1")
	b.fill("/complaint", "Slow.")
	b.fill("/goals/memory_gb", "16")
	b.tabTo(`details:last-of-type summary`)
	b.keys(" ")
	b.fill("/fitted/memory/0/capacity_gb", "4")
	b.tabTo(field("/fitted/memory/1/is"))
	b.keys("e") // empty
	b.tabTo(`button[data-enter]`)
	b.follow(`location.pathname.startsWith('/jobs/')`)
	b.visit("/machines/1?pin=corvane-16-gb-ddr4-3200-so")
	has(t, b.text(), "Corvane 16 GB DDR4-3200 SO-DIMM 2Rx8")
	b.tabTo(`form[action$="/choice"] button`)
	b.follow(`location.pathname.endsWith('/card')`)
	b.visit("/")
	has(t, b.text(), "Order Corvane 16 GB DDR4-3200 SO-DIMM 2Rx8", "2 on the list", "1 taken in", "EUR, nothing an hour so far")

	b.visit("/orders/new")
	has(t, b.text(), "From Dunmoor Parts", "for YB-0001", "2 free, reorder level 3", "D-16", "what we pay; a customer pays €38.90")
	b.checked()
	b.fill("/price/corvane-16-gb-ddr4-3200-so", "28.90")
	b.tabTo(`form[action="/orders"] button.action`)
	b.follow(`location.pathname === '/orders/1'`)
	has(t, b.text(), "expected 16 May 26", "YB-0001", "Together", "€28.90, without what has no price", "not known")
	b.checked()
	if pdf := b.pdf(); len(sheets.FindAll(pdf, -1)) != 1 || !bytes.Contains(pdf, []byte("/MediaBox")) {
		t.Error("the order does not print on one sheet")
	}
	b.visit("/")
	has(t, b.text(), "Wait for Corvane 16 GB DDR4-3200 SO-DIMM 2Rx8")
	b.visit("/orders/1")
	b.keys("D-16") // the scanner; the field has the focus
	b.follow(`location.search.startsWith('?took=')`)
	has(t, b.text(), "1 × Corvane 16 GB DDR4-3200 SO-DIMM 2Rx8 is taken in")
	b.checked()
	b.visit("/")
	has(t, b.text(), "Open it")
	b.visit("/jobs/1")
	has(t, b.text(), "1 reserved")
	b.tabTo(`[data-at=jobparts] summary`)
	b.keys(" ")
	b.tabTo(`form[action$="/fit"] button`)
	b.follow(`document.querySelector('main').innerText.includes('1 fitted')`)
	b.checked()
	b.visit("/parts/count")
	b.checked()
	has(t, b.text(), "Corvane 8 GB DDR4-3200 SO-DIMM")
	b.visit("/parts/corvane-8-gb-ddr4-3200-so")
	b.checked()
}
