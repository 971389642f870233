package browser

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// TestPlan goes through the plan by keyboard: another wish re-plans in place, the address
// holds it and is kept; figures open their arithmetic; a part is asked about, forbidden,
// and put in by hand.
func TestPlan(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/machines/tarn-vet-04")
	b.checked()
	has(t, b.text(), "the large pack takes the space of the drive bay", "Worth doing.", "Either way works",
		"A drive in the bay", "Gain against cost", "reached ÷ asked", "What a risk point is worth", "gives")

	// The wish is changed where it stands; the page is not left.
	b.do(chromedp.Evaluate[chromedp.Void](`window.stayed = true`))
	b.keys("w")
	b.until(`document.querySelector('[data-at=asked]').open`)
	b.tabTo(field("storage_gb"))
	b.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.select()`))
	b.keys("2000")
	b.until(`location.search.includes('storage_gb=2000') && document.querySelector('[data-at=keepbar]') !== null`)
	if !eval[bool](b, `window.stayed === true && document.activeElement.name === 'storage_gb'`) {
		t.Error("changing the wish leaves the page or the field")
	}
	b.checked()
	has(t, b.text(), "2000 GB storage", "which is not the request on the job")
	address := eval[string](b, `location.pathname + location.search`)
	b.visit(address)
	has(t, b.text(), "2000 GB storage, 6 h on the battery")
	b.tabTo(`[data-at=keepbar] button`)
	b.follow(`document.querySelector('[data-at=keepbar]') === null`)
	has(t, b.text(), "the request has changed")

	b.visit("/machines/tarn-vet-04?wish=1&storage_gb=1000&runtime_h=6&budget=320")
	b.tabTo(`[data-at=sums] summary`)
	b.keys(" ")
	has(t, b.text(), "8 onboard + 8 dimm1 = 16 GB")

	// A point of the plot is another column.
	b.tabTo(`.plot a`)
	at := eval[string](b, `document.activeElement.getAttribute('href')`)
	b.keys("\r")
	b.until(`location.search === '` + at + `'`)
	b.until(`document.activeElement.matches('a[data-swap]')`)

	b.tabTo(`[data-at=pins] a:last-child`)
	forbidden := eval[string](b, `document.activeElement.parentElement.previousElementSibling.innerText`)
	b.keys("\r")
	b.until(`document.querySelector('[data-at=pinned]') !== null`)
	name := strings.TrimSpace(strings.SplitN(forbidden, "×", 2)[1])
	name = name[:strings.LastIndex(name, " ")]
	if got := eval[string](b, `[...document.querySelectorAll('table.all tr')].map(r => r.innerText).join()`); strings.Contains(
		got,
		name,
	) {
		t.Errorf("%q is forbidden, and is offered in %s", name, got)
	}
	b.visit("/machines/e-gale-01")
	b.tabTo(`[name="ask"]`)
	b.keys("Bexmoor 500 GB SATA 2280")
	b.until(`document.querySelector('#answer table') !== null`)
	has(t, eval[string](b, `document.querySelector('#answer').innerText`), "slot m2a takes NVMe only",
		"wrong interface for the slot")
	b.checked()

	b.visit("/machines/tarn-vet-04")
	b.tabTo(`[data-at=ownform] summary`)
	b.keys(" ")
	b.tabTo(`select[name="own:bay25"]`)
	b.keys("Bexmoor 1")
	b.tabTo(`select[name="own:battery"]`)
	b.keys("Wexcell QB-7")
	b.until(`(document.querySelector('[data-at=against]')?.innerText ?? '').includes('bay25 cannot be used beside the large pack')`)
	has(t, b.text(), "Your own")
	b.checked()
	b.quiet()
}

// TestReckonerLive: a sum follows what is typed, and the address holds it.
func TestReckonerLive(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/reckoner")
	b.checked()
	b.tabTo(field("gb"))
	b.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.select()`))
	b.keys("1000")
	b.until(`document.querySelector('#out-gib').innerText.includes('931.3 GiB')`)
	b.until(`location.search === '?gb=1000'`)
	b.keys("x")
	b.until(`document.querySelector('#out-gib .fault') !== null`)
	b.visit("/settings")
	b.checked()
	b.quiet()
}
