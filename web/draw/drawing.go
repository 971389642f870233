// Package draw works out the drawings of a machine: its inside with places, leads and
// call-outs, memory channels and links as bars, what an option changes in it, and how deep
// each place lies. It knows the core alone and no server; templates put it on pages.
package draw

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// The inside drawing: the machine from below, to scale, with the hinge or rear edge
// up. The solidity of ink says how real a thing is: filled is fixed, outlined is
// there, dashed is empty, dotted is not yet known.

// Inside is the drawing ready for the template, in pixels.
type Inside struct {
	W, H         int
	X0, Y0       float64 // the outline's corner
	OutW, OutH   float64
	MM           int // width in mm, for the end of the rule
	Hinges       []Box
	RuleX, RuleY []Tick
	Board        string
	Shapes       []Box
	Slots        []slotMark
	Boxes        []Box // bays, packs, what is suspected
	Overlaps     []Box // of two that cannot be used together
	Sockets      []socketMark
	Chips        []chipMark
	Calls        []callOut
	Beside       []callOut // those that found no room in the drawing
	Unmeasured   bool      // no outline recorded: a usual size is drawn
	Proposed     []string  // places that nobody has recorded: drawn where they may lie
	Description  string
	Screws       []Point
	Fresh        []Box // what is being entered
	Planned      []Mark
	Class        string
	style        drawStyle
	px           func(Rect) Rect
	scale        float64
}

// drawStyle is how large the drawing and its words are.
type drawStyle struct {
	class string
	most  float64 // widest outline, px
	scale float64 // px a mm, where the outline is not wider than that
	call  float64 // width of a call-out
	line  float64 // height of its lines
	char  float64 // about the width of a letter
}

// Two sizes: for the desk, and one that is read at a metre.
var (
	Desk  = drawStyle{"", 628, 2, 168, 16, 7.4}
	Bench = drawStyle{"roomy", 850, 3, 226, 21, 9.6}
)

// Point is a place in a drawing, in pixels.
type Point struct{ X, Y float64 }

// Tick is a mark of a ruler.
type Tick struct {
	At    float64
	Long  bool
	Label string
}

// Box is a place or shape with up to four lines of its own.
type Box struct {
	X, Y, W, H float64
	Class      string
	Lines      []boxLine
	Round      bool
	CX, CY     float64
	R          float64 // of a fan
	Source     string  // how a pack's energy is known, with the date at MarkY
	Date       string
	MarkY      float64
}

type boxLine struct {
	Y     float64
	Text  string
	Class string
}

const (
	ruleGap   = 58.0 // left of the outline, for the rule
	noCallGap = 16.0 // above the outline, where no call-out stands there
	rightGap  = 26.0
)

// LineHeight is that of the call-outs.
func (d *Inside) LineHeight() float64 { return d.style.line }

// Rect is a place on the base in millimetres.
type Rect struct{ X, Y, W, H float64 }

func (r Rect) overlap(o Rect) (Rect, bool) {
	x, y := math.Max(r.X, o.X), math.Max(r.Y, o.Y)
	w, h := math.Min(r.X+r.W, o.X+o.W)-x, math.Min(r.Y+r.H, o.Y+o.H)-y
	return Rect{x, y, w, h}, w > 0 && h > 0
}

// RectOf is a recorded place in mm, with a usual size where it has none; false where none is
// recorded.
func RectOf(at *hw.At, w, h float64) (Rect, bool) {
	if at == nil {
		return Rect{}, false
	}
	r := Rect{at.X.Float(), at.Y.Float(), w, h}
	if v, ok := at.Width.Get(); ok {
		r.W = v.Float()
	}
	if v, ok := at.Height.Get(); ok {
		r.H = v.Float()
	}
	return r, true
}

// Model lays the drawing out. Where the record has no outline or no place for
// a thing, a usual one is proposed and the drawing says so.
func Model(ch *hw.Chassis, style drawStyle) *Inside {
	width, depth := OutlineOf(ch)
	d := &Inside{Unmeasured: ch.Outline == nil, style: style, Class: style.class, scale: style.scale}
	switch {
	case width*d.scale > style.most:
		d.scale = style.most / width
	case width < 200:
		d.scale = math.Min(style.scale*1.5, style.most/width)
	}
	l := Propose(ch, width, depth)
	for _, name := range l.Proposed {
		d.Proposed = append(d.Proposed, hw.PlaceSays(name))
	}
	top, right, listed := sides(l.anchors(ch), width, l.At, shapeRects(ch),
		math.Floor((width*d.scale+rightGap+style.call)/style.call))
	d.Beside = listed
	d.X0, d.Y0 = ruleGap, noCallGap
	for _, a := range top {
		d.Y0 = math.Max(d.Y0, style.line*float64(3+len(a.call.Lines))+28)
	}
	d.OutW, d.OutH = width*d.scale, depth*d.scale
	d.MM = int(math.Round(width))
	d.W = int(ruleGap + d.OutW + rightGap + style.call)
	d.H = int(d.Y0 + d.OutH + 46)
	d.RuleX, d.RuleY = Ruler(width, d.scale, false), Ruler(depth, d.scale, true)
	d.px = func(r Rect) Rect { return Rect{d.X0 + r.X*d.scale, d.Y0 + r.Y*d.scale, r.W * d.scale, r.H * d.scale} }
	if ch.Kind == "notebook" {
		for _, at := range []float64{0.11, 0.82} {
			d.Hinges = append(d.Hinges, Box{X: d.X0 + d.OutW*at, Y: d.Y0 - 6, W: 44, H: 12})
		}
	}
	for _, p := range ch.Board {
		d.Board += fmt.Sprintf("%.1f,%.1f ", d.X0+p[0].Float()*d.scale, d.Y0+p[1].Float()*d.scale)
	}
	for i := range ch.Fasteners {
		for _, at := range ch.Fasteners[i].At {
			d.Screws = append(d.Screws, Point{d.X0 + at.X.Float()*d.scale, d.Y0 + at.Y.Float()*d.scale})
		}
	}
	d.drawPlaces(ch, l)
	d.placeCalls(top, right)
	d.Description = describe(ch)
	return d
}

// MarkFresh marks the places that are being entered.
func (d *Inside) MarkFresh(ch *hw.Chassis, touched map[string]bool) {
	width, depth := OutlineOf(ch)
	l := Propose(ch, width, depth)
	for _, name := range l.Names {
		if touched[strings.TrimPrefix(name, "battery:")] {
			d.Fresh = append(d.Fresh, d.box(l.At[name], "freshmark"))
		}
	}
}

// OutlineOf is the base's size in mm: a usual notebook's where it is not measured.
func OutlineOf(ch *hw.Chassis) (width, depth float64) {
	if ch.Outline == nil {
		return 314, 221
	}
	return ch.Outline.Width.Float(), ch.Outline.Depth.Float()
}

func shapeRects(ch *hw.Chassis) []Rect {
	var out []Rect
	for i := range ch.Shapes {
		if r, ok := RectOf(ch.Shapes[i].At, 20, 20); ok {
			out = append(out, r)
		}
	}
	return out
}

// Ruler is the marks of a rule over so many mm, at a scale in pixels a mm.
func Ruler(mm, scale float64, vertical bool) []Tick {
	var out []Tick
	for at := 0.0; at <= mm; at += 10 {
		t := Tick{At: at * scale}
		if math.Mod(at, 50) == 0 {
			t.Long = true
			// The rule's end carries the full size; a label too near it is left out.
			if vertical || (mm-at)*scale > 60 {
				t.Label = strconv.Itoa(int(at))
			}
		}
		out = append(out, t)
	}
	return out
}

// drawPlaces draws everything that lies in the machine.
func (d *Inside) drawPlaces(ch *hw.Chassis, l *Layout) {
	for i := range ch.Shapes {
		if r, ok := RectOf(ch.Shapes[i].At, 20, 20); ok {
			b := d.box(r, "shape", ch.Shapes[i].What)
			b.Round = ch.Shapes[i].What == "fan"
			b.R = math.Min(b.W, b.H)/2 - 5
			d.Shapes = append(d.Shapes, b)
		}
	}
	mem := ch.Mem()
	for i := range mem.Soldered {
		d.Chips = append(d.Chips, chips(d.px(l.At[mem.Soldered[i].ID])))
	}
	if mem.Sockets == nil {
		r := d.px(l.unknownMemory)
		d.Sockets = append(d.Sockets, socketMark{X: r.X, Y: r.Y, W: r.W, H: r.H, Unknown: true, MidX: r.X + r.W/2,
			MidY: r.Y + r.H/2 + 10})
	}
	for _, p := range ch.Places() {
		d.place(ch, l, &p)
	}
	for _, x := range ch.Open() {
		if r, ok := l.At["suspected:"+x.ID]; ok {
			b := d.box(r, "unknown")
			b.Lines = []boxLine{{b.CY + 10, "?", "query"}}
			d.Boxes = append(d.Boxes, b)
		}
	}
	d.drawOverlaps(ch, l)
}

// drawOverlaps hatches where two that cannot be used together lie on each other.
func (d *Inside) drawOverlaps(ch *hw.Chassis, l *Layout) {
	for i, a := range l.Names {
		for _, b := range l.Names[:i] {
			if !ch.Excluded(a, b) {
				continue
			}
			if over, ok := l.At[a].overlap(l.At[b]); ok {
				box := d.box(over, "hatched")
				box.Lines = []boxLine{{box.CY - 4, "one or", "small"},
					{box.CY + d.style.line - 4, "the other", "small"}}
				if box.H < 48 || box.W < 9*d.style.char {
					box.Lines = nil
				}
				d.Overlaps = append(d.Overlaps, box)
			}
		}
	}
}

// pack draws the usual pack with its facts inside.
func (d *Inside) pack(ch *hw.Chassis, b *hw.Battery, r Rect) {
	out := d.box(r, "place")
	lines := []boxLine{{0, strings.TrimPrefix(b.ID+" pack", "pack "), "strong"}, {0, EnergyWords(b), "mono figure"}}
	volts := ""
	if v, ok := b.NominalV.Get(); ok {
		volts = v.String() + " V"
	}
	if n, ok := b.Series.Get(); ok {
		volts += ", " + strconv.Itoa(n) + " in series"
	}
	for _, text := range []string{strings.TrimPrefix(volts, ", "), strings.Join(b.PartNumbers, ", ")} {
		if text != "" && d.style.char*float64(len(text)) < out.W {
			lines = append(lines, boxLine{0, text, "small mono"})
		}
	}
	var how callOut
	how.mark(ch, "/batteries/"+b.ID, "design_wh")
	out.Source, out.Date = how.Source, how.Date
	gap := d.style.line + 3
	y := out.CY - gap*float64(len(lines))/2 + d.style.line/2 - 4
	for i := range lines {
		lines[i].Y = y
		y += gap
	}
	out.Lines, out.MarkY = lines, y
	if gap*float64(len(lines)+1) > out.H {
		out.Lines, out.Source = lines[:2], ""
		out.Lines[0].Y, out.Lines[1].Y = out.CY-4, out.CY+d.style.line
	}
	d.Boxes = append(d.Boxes, out)
}

func (d *Inside) box(r Rect, class string, lines ...string) Box {
	p := d.px(r)
	b := Box{X: p.X, Y: p.Y, W: p.W, H: p.H, Class: class, CX: p.X + p.W/2, CY: p.Y + p.H/2}
	y := b.CY + 5 - d.style.line/2*float64(len(lines)-1)
	for i, text := range lines {
		// A line that is wider than its place is left to the call-out.
		if text == "" || d.style.char*float64(len(text)) > b.W || d.style.line*float64(len(lines)) > b.H {
			continue
		}
		c := "small"
		if i > 0 {
			c = "small mono"
		}
		b.Lines = append(b.Lines, boxLine{y, text, c})
		y += d.style.line
	}
	return b
}

// EnergyWords is what a pack holds when new, in words.
func EnergyWords(b *hw.Battery) string {
	if wh, ok := b.DesignWh.Get(); ok {
		return wh.String() + " Wh"
	}
	return "energy not yet known"
}

// describe puts the drawing into words for those who do not see it.
func describe(ch *hw.Chassis) string {
	mem := ch.Mem()
	var words []string
	for i := range mem.Soldered {
		s := &mem.Soldered[i]
		words = append(words, fmt.Sprintf("%s GB soldered, %s", s.Capacity, channelWords(s.Channel, s.Channels)))
	}
	if mem.Sockets == nil {
		words = append(words, "sockets not yet known")
	}
	for _, p := range ch.Places() {
		switch p.Kind {
		case hw.InSocket:
			s := &mem.Sockets[p.Index]
			words = append(words, fmt.Sprintf("socket %s, %s, %s", s.ID, s.Form, channelWords(s.Channel, s.Channels)))
		case hw.InSlot:
			s := &ch.Slots[p.Index]
			words = append(words, "slot "+s.ID+" "+hw.Purposes.Says(s.Purpose)+", "+lengthWords(s))
		case hw.InBay:
			b := &ch.Bays[p.Index]
			words = append(words, "bay "+b.ID+" for a "+b.Form.Says()+", "+b.Words()[0])
		case hw.InPack:
			b := &ch.Batteries[p.Index]
			words = append(words, "pack "+b.ID+", "+EnergyWords(b))
		}
	}
	return "The inside of the " + ch.Name() + " from below: " + strings.Join(words, "; ") + "."
}

// place draws one place where it lies.
func (d *Inside) place(ch *hw.Chassis, l *Layout, p *hw.Place) {
	r := l.At[p.Name]
	switch p.Kind {
	case hw.InSocket:
		d.Sockets = append(d.Sockets, bracket(d.px(r), p.ID))
	case hw.InSlot:
		d.Slots = append(d.Slots, d.slot(&ch.Slots[p.Index], r))
	case hw.InBay:
		b := &ch.Bays[p.Index]
		free := l.uncovered(ch, b.ID)
		outline := d.box(r, "empty")
		outline.Lines = d.box(free, "", b.ID, b.Form.Says(), b.Words()[0]).Lines
		outline.CX = d.px(free).X + d.px(free).W/2
		d.Boxes = append(d.Boxes, outline)
	case hw.InPack:
		if p.Index > 0 {
			// The other packs are drawn around the usual one, so that both show.
			d.Boxes = append(d.Boxes, d.box(Rect{r.X - 1.5, r.Y - 1.5, r.W + 3, r.H + 3}, "other-pack"))
			return
		}
		d.pack(ch, &ch.Batteries[p.Index], r)
	}
}
