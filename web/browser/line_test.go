package browser

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// machine is a whole notebook as it is typed with the cover off.
const machine = `ram 8 sold a + 1x so b ddr4-3200 2ch max32
sold 3200 1r
limit @maker maker24 @ctl ctl64
power-down
unscrew base cover 7xPH0x6 4xPH0x4 cap2
unclip base cover with:"plastic pick" from:"hinge side" close:"front first"
unplug battery lift-straight iso
lift memory shield mind:do_not_force
unscrew pack 4xPH1x5 after:battery-plug
unplug fan pull after:battery-plug
unscrew heat sink 4xPH0x3
dimm1 >m	
m2a 2280* 2230 keyM g4x4 nvme pad top1.5 bot0 no-x2 >bat	
m2b 2280* 2242 keyM g3x2 nvme sata bare >bat	
wlan 2230* keyE g3x1 pcie usb ant:black,white >bat	
@label
bat:small 52.5wh 11.4v 3s pn:QB-525 >pack-screws
bat:large 76wh 15.2v 4s pn:QB-760
bay25 7mm sata plug+bay-cable caddy xor:battery:large >bat	
@bench
service paste >heat-sink-screws 12min use:paste,swabs
suspect third socket? >m	
fixed processor graphics
quirk charger-to-wake`

// TestTypedMachine records a whole notebook by lines alone, without a pointer, within
// the keystrokes that are allowed, and undoes a line.
func TestTypedMachine(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/models/new")
	b.tabTo("[data-line-text]")
	typed := 0
	enter := func(line string) {
		t.Helper()
		typed += len(line) + 1
		for i, part := range strings.Split(line, "\t") {
			if i > 0 {
				b.until(`document.querySelector('[data-propose]') !== null`)
				b.keys("\t")
				b.until(`document.querySelector('[data-line-text]').value.endsWith(' ')`)
			}
			b.keys(part)
		}
		b.until(`document.querySelector('[data-clear]') !== null`)
		b.do(chromedp.Evaluate[chromedp.Void](`window.leaving = true`))
		b.keys("\r")
		b.until(
			`!window.leaving && document.readyState === 'complete' && !!window.Alpine && document.activeElement.matches('[data-line-text]')`,
		)
	}
	enter(`model Quillon "Tern 14" QT14 2024 314x221`)
	if path := eval[string](b, `location.pathname`); path != "/models/quillon-tern-14" {
		t.Fatal(path)
	}
	lines := strings.Split(machine, "\n")
	for _, line := range lines {
		if strings.HasPrefix(line, "@") {
			continue // the source is chosen by a key, below
		}
		if strings.HasPrefix(line, "bat:") {
			b.arrow("3", alt) // read from a label
			typed++
		}
		enter(line)
	}
	if len(lines)+1 > 30 || typed > 900 {
		t.Errorf("%d lines, %d keystrokes", len(lines)+1, typed)
	}
	t.Logf("%d lines, %d keystrokes", len(lines)+1, typed)
	b.checked()
	has(t, b.text(), "DDR4 SO-DIMM up to 32 GB", "4 steps, 7.8 min", "NVMe and SATA, gen 3 ×2", "52.5 Wh, QB-525",
		"third socket?", "Kept:", "bay25", "graphics")

	// A word that is not known stands at its column; Tab takes what is proposed.
	b.keys("m2b sprea")
	b.until(`document.querySelector('[data-propose]')?.textContent === 'spreader'`)
	b.keys("\t")
	b.until(
		`document.querySelector('[data-line-text]').value === 'm2b spreader ' && document.querySelector('[data-clear]') !== null && !document.querySelector('[data-look] .fault')`,
	)
	if n := eval[int](b, `document.querySelectorAll('.drawing [data-at=freshmark]').length`); n != 1 {
		t.Errorf("%d places are marked as being entered", n)
	}
	b.follow(`document.querySelector('[data-at=kept]') !== null`)
	b.visit("/models/quillon-tern-14/parts/slots/m2b")
	has(t, b.text(), "As a line", "m2b 2242 2280* g3 x2 nvme sata keyM")
	if eval[string](b, `document.querySelector('[name="/cooling"]').value`) != "spreader" {
		t.Error("the line was not kept")
	}
	b.visit("/models/quillon-tern-14?kept=line")
	b.do(chromedp.Evaluate[chromedp.Void](`window.leaving = true`))
	b.arrow("z", ctrl)
	b.until(`!window.leaving && document.readyState === 'complete' && !!window.Alpine && location.search === ''`)
	b.arrow("l", 0)
	b.keys("m2b g3x2 nvmee")
	b.until(`document.querySelector('[data-look] .fault')?.innerText.includes('nvmee')`)
	has(t, b.text(), "column 10: nvmee is not a word of slot; did you mean nvme?")
	b.keys("\r")
	if path := eval[string](b, `location.search`); path != "" {
		t.Error("a line with a fault was sent")
	}
	b.checked()
	b.visit("/shorthand")
	b.checked()
}
