package browser

import (
	"image"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/cdproto/dom"
	"github.com/chromedp/chromedp"
)

// entry is one form of a record: where it stands, and what is typed into it.
type entry struct {
	form   string
	fields []string // name, text, name, text
}

// TestWholeMachine records a whole machine by its forms, by keyboard alone, as it is
// opened: the model, screws and steps down to each place, every place, services and
// what is still suspected; then a photo; then it is planned with.
func TestWholeMachine(t *testing.T) {
	b := open(t, application(t, true))
	b.visit("/models/new")
	for _, f := range [][2]string{{"/maker", "Sundrel"}, {"/model", "Thrift 14"}, {"/code", "ST14"}, {"/year", "2022"},
		{"/outline/width_mm", "320"}, {"/outline/depth_mm", "224"},
		{"/memory/type", "DDR4"}, {"/memory/max_speed_mts", "3200"}, {"/memory/channels", "2"},
		{"/memory/soldered/0/capacity_gb", "8"}, {"/memory/soldered/0/channel", "A"},
		{"/memory/soldered/0/speed_mts", "3200"}, {"/memory/soldered/0/ranks", "1"},
		{"/memory/sockets/0/form", "SO-DIMM"}, {"/memory/sockets/0/channel", "b"},
		{"/memory/sockets/0/max_module_gb", "16"}, {"/memory/limits/maker_gb", "24"},
		{"/memory/limits/controller_gb", "64"}} {
		b.fill(f[0], f[1])
	}
	b.follow(`location.pathname === '/models/sundrel-thrift-14'`)
	const model = "/models/sundrel-thrift-14"
	has(t, b.text(), "way in", "not yet known")
	for _, e := range []entry{
		{"fasteners/new", []string{"/id", "cover-long", "/count", "8", "/bit", "PH0", "/length_mm", "6", "/thread",
			"M2", "/head", "flat", "/captive", "no", "/at",
			"10 8, 160 8, 310 8, 10 112, 310 112, 10 214, 160 214, 310 214"}},
		{"fasteners/new", []string{"/id", "pack-screw", "/count", "4", "/bit", "PH0", "/length_mm", "3", "/thread",
			"M2", "/order", "1, 4, 2, 3"}},
		{"steps/new", []string{"/id", "power-off", "/verb", "power down", "/part", "machine", "/needs", "none", "/side",
			"top", "/minutes", "1"}},
		{"steps/new", []string{"/id", "cover-screws", "/verb", "unscrew", "/part", "base cover", "/needs", "power-off",
			"/side", "bottom", "/fasteners", "cover-long 8"}},
		{"steps/new", []string{"/id", "cover", "/verb", "unclip", "/part", "base cover", "/needs", "cover-screws",
			"/side", "bottom", "/tool", "plastic pick", "/start_at", "hinge side", "/close_hint", "front edge first"}},
		{"steps/new", []string{"/id", "battery-plug", "/verb", "unplug", "/part", "battery plug", "/needs", "cover",
			"/side", "bottom", "/connector", "lift it straight", "/isolates_power", "yes"}},
		{"steps/new", []string{"/id", "shield", "/verb", "lift", "/part", "memory shield", "/needs", "battery-plug",
			"/side", "bottom", "/cautions", "do not force"}},
		{"slots/new", []string{"/id", "m2a", "/purpose", "for a drive", "/key", "M", "/pcie_gen", "4", "/lanes", "4",
			"/protocols", "nvme", "/lengths/30", "movable", "/lengths/80", "fitted", "/max_top_mm", "1,5",
			"/max_bottom_mm", "0",
			"/cooling", "pad", "/refuses", "x2", "/excludes", "none", "/carry_over", "mounting screw, pad", "/reach",
			"Unplug"}},
		{"slots/new", []string{"/id", "wlan", "/purpose", "for a wireless", "/key", "E", "/pcie_gen", "3", "/lanes",
			"1", "/protocols", "pcie, usb", "/lengths/30", "fitted", "/antennas", "black, white", "/reach",
			"Unplug", "how:", "label"}},
		{"bays/new", []string{"/id", "bay25", "/form", "2.5", "/height_mm", "7", "/interface", "sata", "/connector",
			"needs:cable-st14", "/caddy", "fitted", "/excludes", "none", "/reach", "Unplug"}},
		{"batteries/new", []string{"/id", "small", "/design_wh", "50", "/nominal_v", "11.4", "/series", "3",
			"/part_numbers", "SB-500", "/excludes", "none", "how:", "label"}},
		{"batteries/new", []string{"/id", "large", "/design_wh", "73", "/nominal_v", "15.2", "/series", "4",
			"/part_numbers", "SB-730", "/excludes", "bay25", "how:", "label"}},
		{"services/new", []string{"/id", "repaste", "/name", "Renew thermal paste", "/reach", "Unplug",
			"/minutes", "12", "/consumables", "paste, swabs"}},
		{"shapes/new", []string{"/id", "blower", "/what", "fan", "/at/x_mm", "60", "/at/y_mm", "20", "/at/w_mm", "50",
			"/at/h_mm", "50"}},
		{"suspected/new", []string{"/id", "second", "/text", "a second socket under the shield?", "/step", "Lift"}},
		{"sockets/dimm1", []string{"/reach", "Lift"}},
		{"record/all", []string{"/battery_reach", "Unplug", "/fixed", "processor, graphics", "/quirks",
			"charger_to_wake", "/covers", "ST14-B", "/board", "8 6, 312 6, 312 112, 8 112"}},
	} {
		b.visit(model + "/parts/" + e.form)
		for i := 0; i < len(e.fields); i += 2 {
			b.fill(e.fields[i], e.fields[i+1])
		}
		b.tabTo(`.actions .button.action`)
		b.follow(`location.pathname === '` + model + `'`)
	}
	b.checked()
	has(t, b.text(), "DDR4 SO-DIMM up to 16 GB", "5 steps, 8 min",
		"NVMe, gen 4 ×4, 30 mm (post moves), 80 mm, refuses two-lane drives",
		"2.5-inch SATA, 7 mm high, needs cable-st14", "50 Wh, SB-500",
		"a second socket under the shield?", "exposed by the step shield", "Also holds for ST14-B", "proposed")
	if eval[int](b, `document.querySelectorAll('.drawing [data-at=screw]').length`) != 8 {
		t.Error("the drawing lacks the screws")
	}
	// The shield is lifted: what was suspected is not there, and the finding says so.
	b.visit(model + "/parts/suspected/second")
	b.tabTo(`button[value="remove"]`)
	b.follow(`location.pathname === '` + model + `'`)
	b.visit(model + "/photos?fact=/memory/sockets/dimm1")
	b.checked()
	b.choose("#photo", picture(t))
	b.fill("caption", "Shield lifted: one socket.")
	b.follow(`location.pathname.endsWith('/photos') && document.querySelectorAll('[data-at=photos] img').length === 1`)
	b.until(`[...document.images].every(i => i.complete && i.naturalWidth > 0)`)
	has(t, b.text(), "Shield lifted: one socket.", "dimm1")
	b.quiet()

	b.visit("/machines/new?model=sundrel-thrift-14")
	b.fill("/customer", "E. Marrable")
	b.fill("/goals/memory_gb", "16")
	b.tabTo(`details:last-of-type summary`)
	b.keys(" ")
	b.fill("/usage/memory_peak_gb", "12")
	b.tabTo(field("/fitted/memory/0/is"))
	b.keys("e") // empty
	b.tabTo(`button[data-enter]`)
	b.follow(`location.pathname.startsWith('/jobs/')`)
	b.visit("/machines/e-marrable-01")
	has(t, b.text(), "dimm1", "Corvane 16 GB")
	b.quiet()
}

// picture writes a small picture into a file and returns its path.
func picture(t *testing.T) string {
	file := filepath.Join(t.TempDir(), "shield.png")
	f, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	if err := png.Encode(f, image.NewGray(image.Rect(0, 0, 320, 200))); err != nil {
		t.Fatal(err)
	}
	return file
}

// choose gives a file to a file field, as the browser's own dialog would.
func (b *tab) choose(selector, file string) {
	b.t.Helper()
	root, err := chromedp.Call(b.ctx, dom.GetDocument, dom.GetDocumentParams{})
	if err != nil {
		b.t.Fatal(err)
	}
	node, err := chromedp.Call(b.ctx, dom.QuerySelector,
		dom.QuerySelectorParams{NodeID: root.Root.NodeID, Selector: selector})
	if err != nil {
		b.t.Fatal(err)
	}
	if _, err := chromedp.Call(b.ctx, dom.SetFileInputFiles,
		dom.SetFileInputFilesParams{Files: []string{file}, NodeID: node.NodeID}); err != nil {
		b.t.Fatal(err)
	}
}
