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
	middle := eval[[]float64](b, `(() => { const r = document.querySelector('[data-thing="memory/sockets/dimm2"] rect').getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })()`)
	b.drag(middle[0], middle[1], middle[0]+1, middle[1]+50)
	b.until(`document.querySelector('[data-told]').innerText.includes('dimm2 and m2b lie on each other')`)
	if x := value("/memory/sockets/dimm2/at/x_mm"); x != "232" {
		t.Errorf("dragged without snapping: %s", x)
	}
	b.checked()
	b.tabTo(`form.arrange .button.action`)
	b.follow(`location.pathname === '/models/marrowby-osier-14'`)
	has(t, b.text(), "dimm2 and m2b lie on each other", "arranged: dimm2, m2a")
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
