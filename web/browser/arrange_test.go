package browser

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// TestArranging moves and turns things by keys and by mouse, undoes, is told what
// lies on what, and finds everything where it was put.
func TestArranging(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/models/marrowby-osier-14/arrange")
	b.checked()
	value := func(name string) string { return eval[string](b, `document.querySelector('[name="`+name+`"]').value`) }
	b.tabTo(`[data-thing="slots/m2a"]`)
	b.arrow("ArrowRight", 0)
	b.arrow("ArrowDown", shift)
	if x, y := value("/slots/m2a/at/x_mm"), value("/slots/m2a/at/y_mm"); x != "13" || y != "20" {
		t.Errorf("moved to %s, %s", x, y)
	}
	b.keys("r")
	if w, turn := value("/slots/m2a/at/w_mm"), value("/slots/m2a/at/turn_deg"); w != "84" || turn != "180" {
		t.Errorf("turned to %s mm wide, %s°", w, turn)
	}
	b.arrow("z", ctrl)
	b.arrow("z", ctrl)
	b.arrow("y", ctrl)
	if x, turn := value("/slots/m2a/at/x_mm"), value("/slots/m2a/at/turn_deg"); x != "13" || turn != "90" {
		t.Errorf("after undo, undo, redo: %s, %s°", x, turn)
	}
	// dimm2 is dragged down onto m2b; its left edge snaps to dimm1's.
	middle := eval[[]float64](
		b,
		`(() => { const r = document.querySelector('[data-thing="memory/sockets/dimm2"] rect').getBoundingClientRect()
		return [r.x + r.width / 2, r.y + r.height / 2] })()`,
	)
	b.drag(middle[0], middle[1], middle[0]+1, middle[1]+50)
	b.until(`document.querySelector('[data-told]').innerText.includes('dimm2 and m2b overlap by')`)
	if x := value("/memory/sockets/dimm2/at/x_mm"); x != "232" {
		t.Errorf("dragged without snapping: %s", x)
	}
	b.checked()
	b.tabTo(`form[data-arrange] .button.action`)
	b.follow(`location.pathname === '/models/marrowby-osier-14'`)
	has(t, b.text(), "dimm2 and m2b overlap by", "arranged: dimm2, m2a")
	b.visit("/models/marrowby-osier-14/arrange")
	if x, y := value("/slots/m2a/at/x_mm"), value("/slots/m2a/at/y_mm"); x != "13" || y != "20" {
		t.Errorf("kept at %s, %s", x, y)
	}
	if strings.Contains(b.text(), "proposed") {
		t.Error("a recorded place is called proposed")
	}
	b.do(chromedp.EmulateViewport(390, 844))
	b.visit("/models/pellam-drover-15/arrange")
	b.noOverflow()
	b.quiet()
}

// TestScrews puts screws down by keys and by mouse, mirrors them, fills an edge and undoes; they are
// where they were put when the page is opened again.
func TestScrews(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/models/pellam-drover-15/arrange")
	group := eval[string](
		b,
		`[...document.querySelectorAll('[data-screws]')].find(
		(row) => Number(row.dataset.count) >= 5 && row.dataset.count < 60).dataset.screws`,
	)
	field := `[name="/fasteners/` + group + `/at"]`
	places := func() int {
		return eval[int](b, `document.querySelector('`+field+`').value.split(',').filter((text) => text.trim() !== '').length`)
	}
	b.do(
		chromedp.Evaluate[chromedp.Void](
			`(() => { const f = document.querySelector('` + field +
				`'); f.value = ''; f.dispatchEvent(new Event('input', {bubbles: true})) })()`,
		),
	)
	b.tabTo(`[name="screws"]`)
	for eval[string](b, `document.activeElement.value`) != group {
		b.arrow("ArrowDown", 0)
	}
	b.keys(" ")
	b.tabTo(`[data-next]`)
	b.keys("\r")
	b.arrow("ArrowDown", shift) // the screw has the focus
	if got := eval[string](b, `document.querySelector('`+field+`').value`); got != "8 18" {
		t.Fatalf("put down at %q", got)
	}
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-mirror]').click()`))
	if places() != 2 {
		t.Errorf("%d after mirroring one", places())
	}
	b.do(chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-fill]').click()`))
	count := eval[int](b, `Number(document.querySelector('[data-screws="`+group+`"]').dataset.count)`)
	if places() != count {
		t.Errorf("%d of %d after filling the edge", places(), count)
	}
	b.arrow("z", ctrl)
	if places() != 2 {
		t.Errorf("%d after undo", places())
	}
	at := eval[[]float64](
		b,
		`(() => { const r = document.querySelector('[data-screwlayer] circle').getBoundingClientRect()
		return [r.x + r.width / 2, r.y + r.height / 2] })()`,
	)
	b.drag(at[0], at[1], at[0]+60, at[1])
	b.checked()
	was := eval[string](b, `document.querySelector('`+field+`').value`)
	b.tabTo(`form[data-arrange] .button.action`)
	b.follow(`location.pathname === '/models/pellam-drover-15'`)
	b.visit("/models/pellam-drover-15/arrange")
	if got := eval[string](b, `document.querySelector('`+field+`').value`); got != was || strings.HasPrefix(got, "8 ") {
		t.Errorf("kept as %q, it was %q", got, was)
	}
	b.quiet()
}

// TestRecordSheet: every demo record prints on two sheets of either paper, and its
// summary on one, whatever the theme.
func TestRecordSheet(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/models/marrowby-osier-14/sheet")
	b.checked()
	has(t, b.text(), "What can be replaced", "6 steps, 9.5 min", "Fixed: only with the board",
		"8 GB of memory, soldered", "m2b, room below", "M2 × 6 mm", "the link ran at gen 3")
	b.scheme("dark")
	for _, model := range []string{"marrowby-osier-14", "marrowby-reedmace-13", "pellam-carter-12", "pellam-drover-15",
		"pellam-hurdle-16", "quillon-aster-14", "quillon-aster-16", "quillon-block-2", "sundrel-fennel-15"} {
		for query, want := range map[string]int{"": 2, "?paper=letter": 2, "?part=summary": 1} {
			b.visit("/models/" + model + "/sheet" + query)
			if n := len(sheets.FindAll(b.pdf(), -1)); n != want {
				t.Errorf("%s%s takes %d sheets", model, query, n)
			}
		}
	}
	b.scheme("light")
	b.visit("/models/marrowby-osier-14/bench")
	b.checked()
	has(t, b.text(), "DDR4 SO-DIMM up to 16 GB", "To find out while it is open")
	if small := eval[int](b, `[...document.querySelectorAll('.bench .button, [data-at=places48] a')].filter(
		e => e.closest('.actions') && e.getBoundingClientRect().height < 48).length`); small > 0 {
		t.Errorf("%d buttons of the bench view are lower than 48 px", small)
	}
}
