package web

import (
	"fmt"
	"math"
	"sort"
	"strconv"
	"strings"

	"yembo/core/evidence"
	"yembo/core/hw"
)

// The inside drawing: the machine from below, to scale, with the hinge or rear edge
// up. The solidity of ink says how real a thing is: filled is fixed, outlined is
// there, dashed is empty, dotted is not yet known.

// inside is the drawing ready for the template, in pixels.
type inside struct {
	W, H          int
	X0, Y0        float64 // the outline's corner
	OutW, OutH    float64
	MM            int // width in mm, for the end of the rule
	Hinge         bool
	RuleX, RuleY  []tick
	Board         string
	Boxes         []box
	Sockets       []socketMark
	Chips         []chipMark
	Calls         []callOut
	Unmeasured    bool // no outline recorded: a usual size is drawn
	Proposed      bool // some memory has no recorded place
	Description   string
	CallX, CallX2 float64
}

type tick struct {
	At    float64
	Long  bool
	Label string
}

// box is a place or shape that the drawing shows without detail.
type box struct {
	X, Y, W, H   float64
	Class        string
	Label, Sub   string
	Round        bool
	CX, CY       float64
	Vertical     bool
	LabelX, SubY float64
	LabelY       float64
}

// socketMark is a memory socket: a bracket open on one edge.
type socketMark struct {
	X, Y, W, H float64
	ID         string
	Bracket    string // path of the bracket
	MidX, MidY float64
	Unknown    bool
}

// chipMark is soldered memory: filled blocks, flush with the board.
type chipMark struct {
	X, Y, W, H float64
	Blocks     []box
}

// callOut is a fact standing beside the drawing, with its leader.
type callOut struct {
	X, Y   float64
	ID     string
	Kind   string
	Lines  []string
	Source string
	Date   string
	Leader string
	Top    bool
}

const (
	ruleGap   = 58.0  // left of the outline, for the rule
	topGap    = 108.0 // above the outline, for the call-outs there
	noCallGap = 16.0  // the same, where there are none
	rightGap  = 26.0
	callWidth = 168.0
	lineH     = 16.0
)

// leftPart is how much of the width has its call-outs along the top.
const leftPart = 0.6

func onTop(r rect, width float64) bool { return r.x+r.w/2 < width*leftPart }

// rect is a place on the base in millimetres.
type rect struct{ x, y, w, h float64 }

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
	d := &inside{Unmeasured: ch.Outline == nil, Hinge: ch.Kind == "notebook"}
	if ch.Outline != nil {
		width, depth = ch.Outline.Width.Float(), ch.Outline.Depth.Float()
	}
	scale := 2.0
	switch {
	case width > 330:
		scale = 628 / width
	case width < 200:
		scale = 3
	}
	d.X0, d.Y0 = ruleGap, noCallGap
	for i := range ch.Mem().Soldered {
		if r, _ := rectOf(ch.Mem().Soldered[i].At, 26, 34); onTop(r, width) {
			d.Y0 = topGap
		}
	}
	for i := range ch.Mem().Sockets {
		if r, placed := rectOf(ch.Mem().Sockets[i].At, 70, 32); placed && onTop(r, width) {
			d.Y0 = topGap
		}
	}
	d.OutW, d.OutH = width*scale, depth*scale
	d.MM = int(math.Round(width))
	d.W = int(ruleGap + d.OutW + rightGap + callWidth)
	d.H = int(d.Y0 + d.OutH + 46)
	d.RuleX, d.RuleY = ruler(width, scale, false), ruler(depth, scale, true)
	px := func(r rect) rect { return rect{d.X0 + r.x*scale, d.Y0 + r.y*scale, r.w * scale, r.h * scale} }
	for _, p := range ch.Board {
		d.Board += fmt.Sprintf("%.1f,%.1f ", d.X0+p[0].Float()*scale, d.Y0+p[1].Float()*scale)
	}
	d.plainBoxes(ch, px)
	var anchors []anchor
	mem := ch.Mem()
	for i := range mem.Soldered {
		r, placed := rectOf(mem.Soldered[i].At, 26, 34)
		if !placed {
			r = rect{width*0.42 + float64(i)*34, 30, 26, 34}
			d.Proposed = true
		}
		r = px(r)
		d.Chips = append(d.Chips, chips(r))
		anchors = append(anchors, anchor{r, solderedCall(ch, i)})
	}
	for i := range mem.Sockets {
		r, placed := rectOf(mem.Sockets[i].At, 70, 32)
		if !placed {
			r = rect{max(width-82, 4), 16 + float64(i)*40, 70, 32}
			d.Proposed = true
		}
		r = px(r)
		d.Sockets = append(d.Sockets, bracket(r, mem.Sockets[i].ID))
		anchors = append(anchors, anchor{r, socketCall(ch, i)})
	}
	if mem.Sockets == nil {
		r := px(rect{width * 0.6, depth * 0.12, 70, 32})
		d.Sockets = append(d.Sockets, socketMark{X: r.x, Y: r.y, W: r.w, H: r.h, Unknown: true, MidX: r.x + r.w/2, MidY: r.y + r.h/2 + 10})
	}
	d.placeCalls(anchors)
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

// plainBoxes draws what is not memory, so that one finds one's way.
func (d *inside) plainBoxes(ch *hw.Chassis, px func(rect) rect) {
	add := func(at *hw.At, class, label, sub string, round bool) {
		r, ok := rectOf(at, 20, 20)
		if !ok {
			return
		}
		r = px(r)
		b := box{X: r.x, Y: r.y, W: r.w, H: r.h, Class: class, Label: label, Sub: sub, Round: round,
			CX: r.x + r.w/2, CY: r.y + r.h/2, Vertical: r.h > 1.8*r.w}
		b.LabelX, b.LabelY, b.SubY = b.CX, b.CY+4, b.CY+20
		if b.W < 8*float64(len(label)) && !b.Vertical {
			b.Label = ""
		}
		d.Boxes = append(d.Boxes, b)
	}
	for i := range ch.Shapes {
		add(ch.Shapes[i].At, "shape", ch.Shapes[i].What, "", ch.Shapes[i].What == "fan")
	}
	for i := range ch.Slots {
		add(ch.Slots[i].At, "place", ch.Slots[i].ID, "", false)
	}
	for i := range ch.Bays {
		add(ch.Bays[i].At, "empty", ch.Bays[i].ID, "2.5 in drive", false)
	}
	for i := range ch.Batteries {
		b := &ch.Batteries[i]
		sub := ""
		if wh, ok := b.DesignWh.Get(); ok {
			sub = wh.String() + " Wh"
		}
		class := "place"
		if i > 0 {
			class = "other-pack"
		}
		add(b.At, class, b.ID+" pack", sub, false)
	}
	for i := range ch.Suspected {
		add(ch.Suspected[i].At, "unknown", "?", "", false)
	}
}

func chips(r rect) chipMark {
	c := chipMark{X: r.x, Y: r.y, W: r.w, H: r.h}
	const pad, gap = 4.0, 4.0
	w, h := (r.w-2*pad-gap)/2, (r.h-2*pad-gap)/2
	for row := range 2 {
		for col := range 2 {
			c.Blocks = append(c.Blocks, box{X: r.x + pad + float64(col)*(w+gap), Y: r.y + pad + float64(row)*(h+gap), W: w, H: h})
		}
	}
	return c
}

func bracket(r rect, id string) socketMark {
	m := socketMark{X: r.x, Y: r.y, W: r.w, H: r.h, ID: id, MidX: r.x + r.w/2, MidY: r.y + r.h/2 + 4}
	m.Bracket = fmt.Sprintf("M%.1f,%.1f V%.1f H%.1f V%.1f", r.x, r.y+r.h, r.y, r.x+r.w, r.y+r.h)
	return m
}

// anchor is a place with the call-out that speaks of it.
type anchor struct {
	r    rect
	call callOut
}

// placeCalls sets the call-outs: those of the left part of the machine along the
// top, in the order of their places, the rest down the right side. Neither order
// ever lets two leaders cross; those that find no room are left to the list beside
// the drawing, which has every fact.
func (d *inside) placeCalls(anchors []anchor) {
	var top, right []anchor
	for _, a := range anchors {
		if a.r.x+a.r.w/2 < d.X0+d.OutW*leftPart {
			top = append(top, a)
		} else {
			right = append(right, a)
		}
	}
	sort.SliceStable(top, func(i, j int) bool { return top[i].r.x < top[j].r.x })
	sort.SliceStable(right, func(i, j int) bool { return right[i].r.y < right[j].r.y })
	next := d.X0
	for i, a := range top {
		c := a.call
		at := a.r.x + a.r.w/2
		c.X, c.Y, c.Top = max(next, at), 12, true
		if c.X+callWidth > float64(d.W) {
			continue
		}
		next = c.X + callWidth
		jog := topGap - 22 + math.Min(float64(i)*4, 16)
		c.Leader = fmt.Sprintf("M%.1f,4 V%.1f H%.1f V%.1f", c.X, jog, at, a.r.y)
		d.Calls = append(d.Calls, c)
	}
	x := d.X0 + d.OutW + rightGap
	y := d.Y0
	for _, a := range right {
		c := a.call
		mid := a.r.y + a.r.h/2
		height := lineH * float64(2+len(c.Lines))
		c.X, c.Y = x, max(y, a.r.y+12)
		if c.Y+height > float64(d.H) {
			continue
		}
		y = c.Y + height + 6
		c.Leader = fmt.Sprintf("M%.1f,%.1f L%.1f,%.1f", a.r.x+a.r.w, mid, x-6, c.Y-4)
		d.Calls = append(d.Calls, c)
	}
}

func solderedCall(ch *hw.Chassis, i int) callOut {
	s := &ch.Mem().Soldered[i]
	c := callOut{ID: s.ID, Kind: "soldered"}
	line := s.Capacity.String() + " GB, " + channelWords(s.Channel, s.Channels)
	c.Lines = append(c.Lines, line, speedWords(ch.Memory.Type, s.Speed, s.Ranks))
	c.mark(ch, "/memory/soldered/"+s.ID+"/capacity_gb")
	return c
}

func socketCall(ch *hw.Chassis, i int) callOut {
	s := &ch.Mem().Sockets[i]
	c := callOut{ID: s.ID, Kind: s.Form}
	c.Lines = append(c.Lines, channelWords(s.Channel, s.Channels))
	if gb, ok := s.MaxModule.Get(); ok {
		c.Lines = append(c.Lines, gb.String()+" GB at most")
	} else {
		c.Lines = append(c.Lines, "largest not yet known")
	}
	c.mark(ch, "/memory/sockets/"+s.ID+"/form")
	return c
}

func (c *callOut) mark(ch *hw.Chassis, path string) {
	if f := evidence.Of(ch.Findings, path).InForce; f != nil {
		c.Source, c.Date = f.Source, day(f.On)
	} else {
		c.Source, c.Date = "unknown", "no source"
	}
}

func channelWords(one string, several []string) string {
	switch letters := hw.OnChannels(one, several); len(letters) {
	case 0:
		return "channel not yet known"
	case 1:
		return "channel " + letters[0]
	default:
		return "channels " + strings.Join(letters, ", ")
	}
}

func speedWords(kind hw.Maybe[string], speed, ranks hw.Maybe[int]) string {
	words := kind.Or("type not yet known")
	if mts, ok := speed.Get(); ok {
		words += fmt.Sprintf("-%d", mts)
	}
	if r, ok := ranks.Get(); ok {
		words += fmt.Sprintf(", %dR", r)
	}
	return words
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
	return "The inside of the " + ch.Name() + " from below. Memory: " + strings.Join(words, "; ") + "."
}
