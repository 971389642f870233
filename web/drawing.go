package web

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

// inside is the drawing ready for the template, in pixels.
type inside struct {
	W, H         int
	X0, Y0       float64 // the outline's corner
	OutW, OutH   float64
	MM           int // width in mm, for the end of the rule
	Hinges       []box
	RuleX, RuleY []tick
	Board        string
	Shapes       []box
	Slots        []slotMark
	Boxes        []box // bays, packs, what is suspected
	Overlaps     []box // of two that cannot be used together
	Sockets      []socketMark
	Chips        []chipMark
	Calls        []callOut
	Beside       []callOut // those that found no room in the drawing
	Unmeasured   bool      // no outline recorded: a usual size is drawn
	Proposed     []string  // places that nobody has recorded: drawn where they may lie
	Description  string
	px           func(rect) rect
	scale        float64
}

type tick struct {
	At    float64
	Long  bool
	Label string
}

// box is a place or shape with up to four lines of its own.
type box struct {
	X, Y, W, H float64
	Class      string
	Lines      []boxLine
	Round      bool
	CX, CY     float64
}

type boxLine struct {
	Y     float64
	Text  string
	Class string
}

const (
	ruleGap   = 58.0  // left of the outline, for the rule
	topGap    = 108.0 // above the outline, for the call-outs there
	noCallGap = 16.0  // the same, where there are none
	rightGap  = 26.0
	callWidth = 168.0
	lineH     = 16.0
)

// rect is a place on the base in millimetres.
type rect struct{ x, y, w, h float64 }

func (r rect) overlap(o rect) (rect, bool) {
	x, y := math.Max(r.x, o.x), math.Max(r.y, o.y)
	w, h := math.Min(r.x+r.w, o.x+o.w)-x, math.Min(r.y+r.h, o.y+o.h)-y
	return rect{x, y, w, h}, w > 0 && h > 0
}

func rectOf(at *hw.At, w, h float64) (rect, bool) {
	if at == nil {
		return rect{}, false
	}
	r := rect{at.X.Float(), at.Y.Float(), w, h}
	if v, ok := at.Width.Get(); ok {
		r.w = v.Float()
	}
	if v, ok := at.Height.Get(); ok {
		r.h = v.Float()
	}
	return r, true
}

// drawInside lays the drawing out. Where the record has no outline or no place for
// a thing, a usual one is proposed and the drawing says so.
func drawInside(ch *hw.Chassis) *inside {
	width, depth := 314.0, 221.0
	d := &inside{Unmeasured: ch.Outline == nil}
	if ch.Outline != nil {
		width, depth = ch.Outline.Width.Float(), ch.Outline.Depth.Float()
	}
	d.scale = 2
	switch {
	case width > 330:
		d.scale = 628 / width
	case width < 200:
		d.scale = 3
	}
	l := proposeLayout(ch, width, depth)
	d.Proposed = l.proposed
	anchors := l.anchors(ch)
	d.X0, d.Y0 = ruleGap, noCallGap
	for _, a := range anchors {
		if onTop(a.r, width) {
			d.Y0 = topGap
		}
	}
	d.OutW, d.OutH = width*d.scale, depth*d.scale
	d.MM = int(math.Round(width))
	d.W = int(ruleGap + d.OutW + rightGap + callWidth)
	d.H = int(d.Y0 + d.OutH + 46)
	d.RuleX, d.RuleY = ruler(width, d.scale, false), ruler(depth, d.scale, true)
	d.px = func(r rect) rect { return rect{d.X0 + r.x*d.scale, d.Y0 + r.y*d.scale, r.w * d.scale, r.h * d.scale} }
	if ch.Kind == "notebook" {
		for _, at := range []float64{0.11, 0.82} {
			d.Hinges = append(d.Hinges, box{X: d.X0 + d.OutW*at, Y: d.Y0 - 6, W: 44, H: 12})
		}
	}
	for _, p := range ch.Board {
		d.Board += fmt.Sprintf("%.1f,%.1f ", d.X0+p[0].Float()*d.scale, d.Y0+p[1].Float()*d.scale)
	}
	d.drawPlaces(ch, l)
	d.placeCalls(anchors, width)
	d.Description = describe(ch)
	return d
}

func ruler(mm, scale float64, vertical bool) []tick {
	var out []tick
	for at := 0.0; at <= mm; at += 10 {
		t := tick{At: at * scale}
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
func (d *inside) drawPlaces(ch *hw.Chassis, l *layout) {
	for i := range ch.Shapes {
		if r, ok := rectOf(ch.Shapes[i].At, 20, 20); ok {
			b := d.box(r, "shape", ch.Shapes[i].What)
			b.Round = ch.Shapes[i].What == "fan"
			d.Shapes = append(d.Shapes, b)
		}
	}
	mem := ch.Mem()
	for i := range mem.Soldered {
		d.Chips = append(d.Chips, chips(d.px(l.at[mem.Soldered[i].ID])))
	}
	for i := range mem.Sockets {
		d.Sockets = append(d.Sockets, bracket(d.px(l.at[mem.Sockets[i].ID]), mem.Sockets[i].ID))
	}
	if mem.Sockets == nil {
		r := d.px(l.unknownMemory)
		d.Sockets = append(d.Sockets, socketMark{X: r.x, Y: r.y, W: r.w, H: r.h, Unknown: true, MidX: r.x + r.w/2, MidY: r.y + r.h/2 + 10})
	}
	for i := range ch.Slots {
		d.Slots = append(d.Slots, d.slot(&ch.Slots[i], l.at[ch.Slots[i].ID]))
	}
	for i := range ch.Bays {
		b := &ch.Bays[i]
		d.Boxes = append(d.Boxes, d.box(l.at[b.ID], "empty", b.ID, "2.5 in drive", bayWords(b)))
	}
	for i := range ch.Batteries {
		b := &ch.Batteries[i]
		r, class := l.at["battery:"+b.ID], "place"
		if i > 0 {
			// The other packs are drawn around the usual one, so that both show.
			r, class = rect{r.x - 3, r.y - 3, r.w + 6, r.h + 6}, "other-pack"
			d.Boxes = append(d.Boxes, d.box(r, class))
			continue
		}
		d.Boxes = append(d.Boxes, d.box(r, class, strings.TrimPrefix(b.ID+" pack", "pack "), energyWords(b), strings.Join(b.PartNumbers, ", ")))
	}
	for i := range ch.Suspected {
		if r, ok := rectOf(ch.Suspected[i].At, 30, 20); ok {
			b := d.box(r, "unknown")
			b.Lines = []boxLine{{b.CY + 10, "?", "query"}}
			d.Boxes = append(d.Boxes, b)
		}
	}
	d.drawOverlaps(ch, l)
}

// drawOverlaps hatches where two that cannot be used together lie on each other.
func (d *inside) drawOverlaps(ch *hw.Chassis, l *layout) {
	for i, a := range l.names {
		for _, b := range l.names[:i] {
			if !ch.Excluded(a, b) {
				continue
			}
			if over, ok := l.at[a].overlap(l.at[b]); ok {
				box := d.box(over, "hatched")
				box.Lines = []boxLine{{box.CY - 4, "one or", "small"}, {box.CY + 11, "the other", "small"}}
				if box.H < 44 || box.W < 64 {
					box.Lines = nil
				}
				d.Overlaps = append(d.Overlaps, box)
			}
		}
	}
}

func (d *inside) box(r rect, class string, lines ...string) box {
	p := d.px(r)
	b := box{X: p.x, Y: p.y, W: p.w, H: p.h, Class: class, CX: p.x + p.w/2, CY: p.y + p.h/2}
	y := b.CY + 5 - lineH/2*float64(len(lines)-1)
	for i, text := range lines {
		// A line that is wider than its place is left to the call-out.
		if text == "" || 7.4*float64(len(text)) > b.W || lineH*float64(len(lines)) > b.H {
			continue
		}
		c := "small"
		if i > 0 {
			c = "small mono"
		}
		b.Lines = append(b.Lines, boxLine{y, text, c})
		y += lineH
	}
	return b
}

func bayWords(b *hw.Bay) string {
	if mm, ok := b.Height.Get(); ok {
		return mm.String() + " mm high"
	}
	return "height not yet known"
}

func energyWords(b *hw.Battery) string {
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
	for i := range mem.Sockets {
		s := &mem.Sockets[i]
		words = append(words, fmt.Sprintf("socket %s, %s, %s", s.ID, s.Form, channelWords(s.Channel, s.Channels)))
	}
	if mem.Sockets == nil {
		words = append(words, "sockets not yet known")
	}
	for i := range ch.Slots {
		words = append(words, "slot "+ch.Slots[i].ID+" for "+ch.Slots[i].Purpose+", "+lengthWords(&ch.Slots[i]))
	}
	for i := range ch.Bays {
		words = append(words, "bay "+ch.Bays[i].ID+", "+bayWords(&ch.Bays[i]))
	}
	for i := range ch.Batteries {
		words = append(words, "pack "+ch.Batteries[i].ID+", "+energyWords(&ch.Batteries[i]))
	}
	return "The inside of the " + ch.Name() + " from below: " + strings.Join(words, "; ") + "."
}
