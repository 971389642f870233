package browser

import (
	"bytes"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// sheets finds the pages of a PDF.
var sheets = regexp.MustCompile(`/Type\s*/Page\b[^s]`)

// TestFirstJourney is the whole slice by keyboard alone: look at a model, record
// one, take in a machine, plan it, change the practice, choose, print.
func TestFirstJourney(t *testing.T) {
	b := open(t, application(t, true))

	b.visit("/machines")
	b.checked()
	b.keys("gm")
	b.until(`location.pathname === '/models'`)
	b.settled()
	b.checked()
	b.tabTo(`a[href="/models/quillon-aster-14"]`)
	b.follow(`location.pathname === '/models/quillon-aster-14'`)
	b.checked()
	has(t, b.text(), "onboard soldered", "dimm1 SO-DIMM socket", "24 GB", "40 GB", "64 GB",
		"taken for soldered until it was lifted", "2 Mar 26")

	b.visit("/models")
	b.keys("n")
	b.until(`location.pathname === '/models/new'`)
	b.settled()
	b.fill("/maker", "Sundrel")
	b.fill("/model", "Cairn 13")
	b.fill("/code", "SC13")
	b.fill("/memory/type", "DDR4")
	b.fill("/memory/max_speed_mts", "3200")
	b.fill("/memory/channels", "2")
	b.fill("/memory/soldered/0/capacity_gb", "-4")
	b.fill("/memory/soldered/0/channel", "A")
	b.fill("/memory/soldered/0/speed_mts", "3200")
	b.fill("/memory/sockets/0/form", "SO-DIMM")
	b.fill("/memory/sockets/0/channel", "C")
	b.fill("/memory/limits/maker_gb", "20")
	b.follow(`document.title.startsWith('Not saved')`)
	b.checked()
	has(t, b.text(), "2 fields need correcting", "-4 is out of range", "the machine has 2, A to B")
	if eval[string](b, `document.querySelector('[name="/code"]').value`) != "SC13" {
		t.Error("what was typed is gone after a fault")
	}
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[name="/memory/soldered/0/capacity_gb"]').select()`))
	b.fill("/memory/soldered/0/capacity_gb", "4")
	b.tabTo(field("/memory/sockets/0/channel"))
	b.keys("B")
	b.follow(`location.pathname === '/models/sundrel-cairn-13'`)
	b.checked()
	has(t, b.text(), "largest module", "not yet known", "20 GB", "recorded")

	b.visit("/machines/new?model=sundrel-cairn-13")
	b.checked()
	b.fill("/customer", "R. Sill")
	b.fill("/serial", "SC13-1")
	b.fill("/complaint", "Slow.")
	b.fill("/goals/memory_gb", "12")
	b.fill("/budget_cents", "90,50")
	b.tabTo(`details:last-of-type summary`)
	b.keys(" ")
	b.fill("/usage/memory_peak_gb", "7,2")
	b.fill("/fitted/memory/0/capacity_gb", "4")
	b.follow(`location.pathname.startsWith('/jobs/')`)
	b.checked()
	b.tabTo(`a[href="/machines/15"].button`)
	b.follow(`location.pathname === '/machines/15'`)
	b.checked()
	has(t, b.text(), "Worth doing.", "7.2 ÷ 0.8 = 9 GB", "the next total that can be reached is 12 GB", "€90.50",
		"past the limit", "the maker's limit is 20 GB")

	// Another practice, other options: what was proven lets the 32 GB module in.
	b.visit("/machines/tarn-vet-03")
	has(t, b.text(), "limit 24 GB", "8 GB soldered + 32 GB = 40 GB; the maker's limit is 24 GB")
	b.keys("w")
	b.until(`document.querySelector('[data-at=asked]').open`)
	b.tabTo(`select[name="limit"]`)
	b.keys("prov")
	b.until(`location.search.includes('limit=proven') && document.querySelector('#planned').innerText.includes('limit 40 GB')`)
	has(t, b.text(), "limit 40 GB", "Corvane 32 GB", "3 memory above the maker's limit", "above the maker's limit")
	b.checked()

	b.visit("/machines/15")
	b.tabTo(`form[action$="/choice"] button`)
	b.follow(`location.pathname.endsWith('/card')`)
	b.checked()
	has(t, b.text(), "Work card", "SC13-1", "dimm1", "Look at the pack before it is unplugged",
		"Technician, work done and checked")

	for paper, box := range map[string]string{"": "594.95", "?paper=letter": "612"} {
		b.visit("/machines/15/card" + paper)
		pdf := b.pdf()
		if n := len(sheets.FindAll(pdf, -1)); n != 1 {
			t.Errorf("the card %s takes %d sheets", paper, n)
		}
		if !bytes.Contains(pdf, []byte("/MediaBox [0 0 "+box)) {
			t.Errorf("the card %s is not on its paper: %s", paper, regexp.MustCompile(`/MediaBox[^\]]*\]`).Find(pdf))
		}
	}
}

// TestSettling settles a dispute by keyboard: without a reason it is refused at the
// field, with one the finding stays to be read and counts no more.
func TestSettling(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/models/pellam-drover-15")
	has(t, b.text(), "2 disputed", "dimm1, largest module", "8 GB")
	b.tabTo(`a[href="/models/pellam-drover-15/findings"]`)
	b.follow(`location.pathname.endsWith('/findings')`)
	b.checked()
	b.do(
		chromedp.Evaluate[chromedp.Void](
			`[...document.querySelectorAll('main summary')].filter((s) => s.innerText === 'Set aside')[1].focus()`,
		),
	)
	b.keys("\r")
	b.until(`document.activeElement.parentElement.open`)
	b.keys("\t")
	b.keys("\t")
	b.follow(`document.querySelector('.fault') !== null`)
	has(t, b.text(), "the reason is missing")
	b.checked()
	b.tabTo(`details[open] [name="reason"]`)
	b.keys("the sheet is of the first board")
	b.follow(`document.querySelector('main').innerText.includes('Set aside 14 May 26')`)
	has(t, b.text(), "1 disputed", "R. Okell: the sheet is of the first board")
	b.visit("/models/pellam-drover-15")
	has(t, b.text(), "1 disputed", "changed: dimm1 (largest module)")
}

func has(t *testing.T, text string, want ...string) {
	t.Helper()
	for _, w := range want {
		if !strings.Contains(text, w) {
			t.Errorf("the page does not say %q", w)
		}
	}
	if t.Failed() {
		t.Log(text)
	}
}

// pages are the main views, for checks and pictures.
var pages = []string{"/", "/machines", "/machines/import", "/machines/wath-07/readings", "/machines/wath-07/draw",
	"/machines/wath-11/history", "/jobs/3", "/jobs/9", "/jobs/9/label", "/jobs/6/sheet", "/jobs/4/run", "/jobs/6/run",
	"/jobs/6/proof", "/jobs/4/proof", "/jobs/6/report", "/jobs/8/bill", "/jobs", "/invoices", "/customers", "/customers/2",
	"/models", "/models/quillon-aster-14", "/models/pellam-drover-15", "/models/quillon-block-2",
	"/models/quillon-aster-14/edit", "/models/quillon-block-2/suspected/third-slot",
	"/models/pellam-drover-15/findings", "/models/new", "/guide/plan", "/guide?q=pack",
	"/models/marrowby-osier-14", "/models/marrowby-osier-14/arrange", "/models/marrowby-osier-14/photos",
	"/models/marrowby-osier-14/sheet", "/models/marrowby-osier-14/bench",
	"/models/quillon-aster-14/parts/slots/m2a", "/models/quillon-aster-14/parts/steps/new",
	"/models/quillon-aster-14/parts/record/all", "/models/import", "/machines/new",
	"/machines/new?model=quillon-aster-14",
	"/machines/tarn-vet-03", "/machines/tarn-vet-04?own:bay25=bx-s-1000&own:battery=wx-qb-760", "/machines/wath-07",
	"/reckoner", "/settings", "/parts", "/parts/cv-d4-8", "/parts/new?kind=drive", "/parts/count", "/parts/movements",
	"/parts/import", "/orders", "/orders/new", "/orders/1", "/suppliers", "/customers/2/known"}

// TestNarrow holds the pages at a phone's width and at 200 % zoom.
func TestNarrow(t *testing.T) {
	b := open(t, application(t, true))
	wide := map[string][]string{}
	for _, p := range pages {
		b.visit(p)
		wide[p] = b.controls()
	}
	for _, size := range []struct {
		w, h  int64
		scale float64
	}{{390, 844, 1}, {640, 400, 2}} {
		b.do(chromedp.EmulateViewport(size.w, size.h, chromedp.EmulateScale(size.scale)))
		for _, p := range pages {
			b.visit(p)
			b.noOverflow()
			// What a narrow page folds away is one tap away.
			b.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll('details[data-fold]').forEach((d) => { d.open = true })`))
			here := b.controls()
			for _, control := range wide[p] {
				if !slices.Contains(here, control) {
					t.Errorf("%s at %d px does not show %s, which it shows at 1280", p, size.w, control)
				}
			}
		}
	}
	b.quiet()
}

// TestLongerWords holds the pages where each word is longer by 40 % and accented, as in another language.
func TestLongerWords(t *testing.T) {
	longer, err := os.ReadFile("testdata/longer.js")
	if err != nil {
		t.Fatal(err)
	}
	b := open(t, application(t, true))
	for _, width := range []int64{1280, 390} {
		b.do(chromedp.EmulateViewport(width, 844))
		for _, p := range pages {
			b.visit(p)
			for _, what := range eval[[]string](b, string(longer)) {
				t.Errorf("%s at %d px: %s", p, width, what)
			}
		}
	}
}

// controls are the headings, fields and buttons of a page that can be seen, but those that only a wide page wants.
func (b *tab) controls() []string {
	b.t.Helper()
	return eval[[]string](
		b,
		`[...document.querySelectorAll('main :is(h1, h2, h3, button, a.button, input, select, textarea)')].filter(
		e => e.getClientRects().length > 0 && !e.closest('.onlywide')).map(e => e.localName + ' ' + (e.name || e.innerText.trim()))`,
	)
}

// TestEveryPage runs the accessibility rules over the pages that no journey visits.
func TestEveryPage(t *testing.T) {
	b := open(t, application(t, true))
	for _, p := range []string{"/models/quillon-aster-14/parts/slots/m2a", "/models/quillon-aster-14/parts/steps/new",
		"/models/quillon-aster-14/parts/record/all", "/models/import", "/machines/import", "/machines/wath-11/history",
		"/jobs/3", "/jobs/9", "/jobs/9/label", "/jobs/6/sheet", "/customers", "/customers/2", "/parts",
		"/machines/nobody-01"} {
		b.visit(p)
		if p == "/machines/nobody-01" {
			// The browser says of itself that the page was not found.
			b.mu.Lock()
			b.complaints = nil
			b.mu.Unlock()
		}
		b.checked()
	}
}

// TestEmptyShop says what to do first where nothing is recorded.
func TestEmptyShop(t *testing.T) {
	b := open(t, application(t, false))
	b.visit("/")
	b.tabTo(`button[value="later"]`)
	b.follow(`location.pathname === '/'`)
	for path, first := range map[string]string{"/": "Record a model, take in a machine", "/customers": "No customers yet",
		"/machines": "Record a model", "/models": "Open a machine, then record what you see",
		"/machines/new": "Record the model first", "/parts": "No parts yet"} {
		b.visit(path)
		has(t, b.text(), first)
		b.checked()
	}
}
