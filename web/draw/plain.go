package draw

import (
	"math"

	"yembo/core/hw"
	"yembo/core/teardown"
)

// Plain is the inside of a model at one pixel a millimetre, with the ids of its places and nothing else: so that
// models compare by size.
type Plain struct {
	W, H       float64
	Marks      []PlainMark
	Unmeasured bool
}

// PlainMark is a thing in a plain drawing; Class is solid for what is soldered, place, pack, or what for a shape.
type PlainMark struct {
	Rect
	Class, Label string
}

// MidX and MidY are the middle of a mark.
func (m PlainMark) MidX() float64 { return m.X + m.W/2 }

// MidY is its height.
func (m PlainMark) MidY() float64 { return m.Y + m.H/2 + 4 }

// PlainOf draws a model plainly.
func PlainOf(ch *hw.Chassis) *Plain {
	width, depth := OutlineOf(ch)
	d := &Plain{W: math.Round(width), H: math.Round(depth), Unmeasured: ch.Outline == nil}
	l := Propose(ch, width, depth)
	for _, r := range shapeRects(ch) {
		d.Marks = append(d.Marks, PlainMark{r, "what", ""})
	}
	packs := false
	for _, p := range ch.Places() {
		r, ok := l.At[p.Name]
		switch {
		case !ok:
		case p.Kind != hw.InPack:
			d.Marks = append(d.Marks, PlainMark{r, "place", p.ID})
		case !packs:
			d.Marks = append(d.Marks, PlainMark{r, "pack", hw.BatteryPlace})
			packs = true
		}
	}
	for i := range ch.Mem().Soldered {
		if r, ok := l.At[ch.Memory.Soldered[i].ID]; ok {
			d.Marks = append(d.Marks, PlainMark{r, "solid", ""})
		}
	}
	return d
}

// Plumb is how deep the places of a model lie: a line each, from the closed machine down.
type Plumb struct {
	W, H   float64
	Rows   []PlumbRow
	Lines  []PlumbLine
	PowerY float64 // the step from which on it is without power, 0 for none
}

// PlumbRow is a step's depth.
type PlumbRow struct {
	N int
	Y float64
}

// PlumbLine is one place: how deep, what gives way on the way, and how long it takes to get there.
type PlumbLine struct {
	X, Y    float64
	Name    string
	Minutes string
	Class   string
	Unknown bool
	Marks   []PlumbMark
}

// PlumbMark is a letter at a step that breaks a seal, makes glue give way or takes the board out.
type PlumbMark struct {
	Y      float64
	Letter string
}

// The measures of the plumb lines, in pixels.
const (
	plumbStep  = 15.0
	plumbLeft  = 40.0
	plumbPitch = 44.0
	plumbTop   = 14.0
)

// DeepestOf is the number of steps to the deepest place of a model, so that several are drawn to one scale.
func DeepestOf(ch *hw.Chassis) int {
	deepest := 0
	for _, t := range teardown.Targets(ch) {
		deepest = max(deepest, teardown.DepthOf(ch, t.Reach).Steps)
	}
	return deepest
}

// PlumbOf draws the depth of a model's places on a scale of some steps.
func PlumbOf(ch *hw.Chassis, steps int) *Plumb {
	d := &Plumb{H: plumbTop + float64(steps+3)*plumbStep}
	for n := 1; n <= steps; n += 2 {
		d.Rows = append(d.Rows, PlumbRow{n, plumbTop + float64(n)*plumbStep})
	}
	x := plumbLeft + 14
	add := func(id, reach, class string) {
		line := PlumbLine{X: x, Name: id, Class: class}
		x += plumbPitch
		depth := teardown.DepthOf(ch, reach)
		if !depth.Known {
			line.Unknown, line.Y = true, plumbTop+2*plumbStep
			d.Lines = append(d.Lines, line)
			return
		}
		line.Y, line.Minutes = plumbTop+float64(depth.Steps)*plumbStep, depth.Minutes.Shown().String()
		n := 0
		for i, done := range teardown.Down(ch, []string{reach}) {
			if !done {
				continue
			}
			n++
			st := &ch.Steps[i]
			y := plumbTop + float64(n)*plumbStep
			if st.IsolatesPwr.Or(false) {
				d.PowerY = math.Max(d.PowerY, y)
			}
			switch {
			case teardown.BoardOut(st):
				line.Marks = append(line.Marks, PlumbMark{y, "b"})
			case teardown.Glued(st):
				line.Marks = append(line.Marks, PlumbMark{y, "g"})
			case teardown.Sealed(st):
				line.Marks = append(line.Marks, PlumbMark{y, "s"})
			}
		}
		d.Lines = append(d.Lines, line)
	}
	for i := range ch.Mem().Soldered {
		d.Lines = append(d.Lines, PlumbLine{X: x, Y: plumbTop, Name: ch.Memory.Soldered[i].ID, Class: "solid"})
		x += plumbPitch
	}
	pack := false
	for _, p := range ch.Places() {
		switch {
		case p.Kind != hw.InPack:
			add(p.ID, p.Reach, "place")
		case !pack:
			add(hw.BatteryPlace, p.Reach, "pack")
			pack = true
		}
	}
	for _, s := range ch.Open() {
		add(s.ID, s.Step, "unknown")
	}
	d.W = x
	return d
}
