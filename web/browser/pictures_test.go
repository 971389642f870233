package browser

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"yembo/shop"
	"yembo/shop/demo"
	"yembo/shop/past"
	"yembo/store"
	"yembo/store/storetest"
	"yembo/web"
)

// TestPictures writes the pictures of docs/screenshots when YEMBO_SCREENSHOTS names
// the folder (make screenshots); otherwise there is nothing to do.
func TestPictures(t *testing.T) {
	dir := os.Getenv("YEMBO_SCREENSHOTS")
	if dir == "" {
		t.Skip("make screenshots sets YEMBO_SCREENSHOTS")
	}
	b := open(t, serving(t, withPast(t), demo.Workshop))
	take := func(name string) {
		t.Helper()
		b.picture(filepath.Join(dir, name+".png"))
	}
	shot := func(path, name string, w, h int64) {
		t.Helper()
		b.do(chromedp.EmulateViewport(w, h))
		b.visit(path)
		b.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
		take(name)
	}
	job := func(machine string) string {
		b.visit("/")
		return eval[string](b, `[...document.querySelectorAll('.mach a')].find(a => a.innerText === '`+machine+`').pathname`)
	}
	shot("/", "bench", 1280, 1100)
	shot(job("tarn-vet-04"), "job", 1280, 1000)
	b.do(chromedp.EmulateViewport(1280, 1300))
	for {
		b.visit("/parts")
		if !strings.Contains(b.text(), "Working out fit and benefit") {
			break
		}
	}
	b.tabTo("[data-line-text]")
	b.keys("16GB 2Rx8 PC4-3200AA-SE1-11")
	b.until(`document.querySelector('[data-look] svg') !== null`)
	take("shelf")
	b.do(chromedp.EmulateViewport(1280, 1190))
	b.visit("/models/marrowby-osier-14")
	b.arrow("l", 0)
	b.keys("m2b 2280* 2242 g3x2 nvme sata pda")
	b.until(`document.querySelector('[data-look] .fault') !== null`)
	take("model")
	shot("/models/marrowby-osier-14/sheet", "sheet", 900, 1250)
	shot("/models/marrowby-osier-14/steps", "steps", 1280, 1000)
	shot("/models/marrowby-osier-14/mat", "mat", 1280, 960)
	ferry, deck := job("wath-05"), job("wath-08")
	b.visit(ferry + "/run")
	b.press(`[data-allhere]`)
	b.press(`button[name="/bench"][value="2"]`)
	b.until(`!!document.querySelector('[data-run] [data-step]:not([hidden])')`)
	b.throughRun()
	b.visit(ferry + "/proof")
	for _, m := range [][2]string{{"94 96 95", "52 53 51"}} {
		b.fill("/before", m[0])
		b.fill("/after", m[1])
		b.tabTo(`[data-at=wanted] button`)
		b.follow(`!!document.querySelector('[data-at=measure]')`)
	}
	b.enter("Read the simulated machine", "")
	b.press(`input[name=fault][value=unseated]`)
	b.enter("Read it", `document.body.innerText.includes('a module is not seen')`)
	shot(ferry+"/proof", "proof", 1280, 1300)
	b.visit(ferry)
	b.enter("Take off the bench", `!document.body.innerText.includes('Take off the bench')`)
	b.visit("/machines/wath-08")
	b.tabTo(`form[action$="/choice"] button`)
	b.follow(`location.pathname.endsWith('/card')`)
	b.visit(deck + "/run")
	b.press(`[data-allhere]`)
	b.fill("/why", "the customer said yes at the counter")
	b.press(`button[name="/bench"][value="2"]`)
	b.until(`document.querySelector('[data-step]:not([hidden])')?.dataset.n === '1'`)
	for n := 2; n <= 13; n++ {
		b.do(
			chromedp.Evaluate[chromedp.Void](
				`document.querySelector('[data-step]:not([hidden]) [data-need]')?.click(); document.activeElement.blur()`,
			),
		)
		b.keys(" ")
		if n == 13 { // a serial that is not scanned is asked for once
			b.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
			b.keys(" ")
		}
		b.until(fmt.Sprintf(`document.querySelector('[data-step]:not([hidden])').dataset.n === '%d'`, n))
	}
	b.sent()
	b.do(chromedp.EmulateViewport(1024, 768), chromedp.Sleep(time.Second), chromedp.Evaluate[chromedp.Void](`window.scrollTo(0, 0)`))
	take("run")
	shot("/models/compare?m=Marrowby+Osier+14&m=Sundrel+Fennel+15&m=Marrowby+Reedmace+13&memory_gb=32&storage_gb=1000", "compare",
		1280, 1500)
	shot("/machines/new?model=pellam-drover-15", "intake", 1280, 1000)
	shot("/machines/tarn-vet-04", "plan", 1280, 1300)
	shot("/machines/tarn-vet-03", "plan-narrow", 390, 844)
	shot("/reckoner", "reckoner", 1280, 1300)
	b.do(chromedp.EmulateViewport(1280, 900))
	b.visit("/machines/wath-07/readings")
	for _, fault := range []string{"unseated", "worn_battery", "lying_firmware"} {
		b.tabTo(`[name="fault"][value="` + fault + `"]`)
		b.keys(" ")
	}
	b.tabTo(`button[value="simulate"]`)
	b.follow(`location.pathname.includes('/readings/')`)
	b.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	take("reading")
	b.visit("/machines/tarn-vet-04/draw")
	b.tabTo(`[data-at=meter] button`)
	b.keys(" ")
	b.until(`Number(document.querySelector('[data-at=readout] div:last-child span').innerText) >= 120`)
	b.keys(" ")
	b.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	take("draw")
	b.visit("/machines/tarn-vet-04")
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelectorAll('[form="quoteform"]:not(:checked)')[0].click()`))
	b.tabTo(`#quoteform button`)
	b.follow(`location.pathname.startsWith('/quotes/')`)
	shot(eval[string](b, `location.pathname`), "quote", 1280, 1330)
	// A promise that was given against what stands against it.
	wanted := job("corrie-02")
	b.visit(wanted + "/when")
	b.fill("/wish", "today 11:30")
	b.enter("Look at it", `location.search.includes('wish')`)
	b.fill("/decided", "R. Okell")
	b.enter("Promise Thu 14 May 11:30 anyway", `location.pathname === '`+wanted+`'`)
	shot("/week?job="+strings.TrimPrefix(job("p-lathom-01"), "/jobs/"), "week", 1280, 1250)
	b.scheme("dark")
	shot("/models/pellam-hurdle-16", "model-dark", 1280, 1000)
	b.scheme("light")
	b.do(chromedp.EmulateViewport(1000, 1100))
	b.visit("/machines/wath-07")
	b.tabTo(`form[action$="/choice"] button`)
	b.follow(`location.pathname.endsWith('/card')`)
	b.do(chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	take("card")

	// What is in the guide alone lies beside its chapters.
	dir = filepath.Join(dir, "..", "guide")
	b.do(chromedp.EmulateViewport(1280, 620))
	b.visit("/settings")
	b.do(chromedp.Evaluate[chromedp.Void](
		`[...document.querySelectorAll('h2')].find(h => h.innerText === 'Backups').scrollIntoView()`))
	take("settings")
	shot(job("p-lathom-01"), "danger", 1280, 700)
	b.secure()
	shot("/people", "people", 1280, 800)
	b.fill("/name", "Bench 1")
	b.fill("/bench", "1")
	b.enter("Enrol a screen", `document.body.innerText.includes('Type it on the new screen')`)
	b.visit("/enrol?code=" + eval[string](b, `document.body.innerText.match(/[A-Z0-9]{4}-[A-Z0-9]{4}/)[0]`))
	b.enter("Enrol", `location.pathname === '/signin'`)
	shot("/signin", "pin", 1024, 768)
	b = open(t, serving(t, shop.New(storetest.Open(t, web.NoName, func(*store.Store) error { return nil }), clock), web.NoName))
	b.visit("/")
	b.keys("Gaunt and Daughter\tA. Gaunt")
	b.arrow("Enter", ctrl)
	b.until(`!!document.querySelector('[data-at=firststeps]')`)
	shot("/", "getting-started", 1280, 640)
}

// withPast is the demo's shop with the ten weeks behind it.
func withPast(t *testing.T) *shop.Shop {
	t.Helper()
	folder := t.TempDir()
	if err := past.Unpack(folder); err != nil {
		t.Fatal(err)
	}
	s, err := store.Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	sh := shop.New(s, clock)
	if err := errors.Join(past.Move(t.Context(), s, at), sh.SeedToday(t.Context()), past.Today(t.Context(), sh)); err != nil {
		t.Fatal(err)
	}
	return sh
}

// picture writes what the window shows into a file.
func (b *tab) picture(file string) {
	b.t.Helper()
	png, err := chromedp.Run(b.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		b.t.Fatal(err)
	}
	if err := os.WriteFile(file, png, 0o644); err != nil {
		b.t.Fatal(err)
	}
}
