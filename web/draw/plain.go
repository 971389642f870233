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
	Drop    float64 // its words lie lower by so much, beside a neighbour's
}

// NameY and MinutesY are the base lines of a place's words.
func (l PlumbLine) NameY() float64 { return l.Y + l.Drop + 18 }

// MinutesY is that of the second line.
func (l PlumbLine) MinutesY() float64 { return l.Y + l.Drop + 31 }

// PlumbMark is a letter at a step that breaks a seal, makes glue give way or takes the board out.
type PlumbMark struct {
	Y      float64
	Letter string
}

// The measures of the plumb lines, in pixels.
const (
	plumbStep   = 15.0
	plumbLeft   = 40.0 // the scale of the steps
	plumbPitch  = 44.0 // between places, where there is room
	plumbTop    = 14.0
	plumbWide   = 340.0
	plumbLetter = 6.6
	plumbWords  = 27.0 // of a name and its minutes
)

// PlumbScale is what several models have to have room for, so that all are drawn to one scale: the steps to the deepest
// place, and the most places.
type PlumbScale struct{ Steps, Places int }

// Fit makes room for a model.
func (s *PlumbScale) Fit(ch *hw.Chassis) {
	for _, t := range teardown.Targets(ch) {
		s.Steps = max(s.Steps, teardown.DepthOf(ch, t.Reach).Steps)
	}
	s.Places = max(s.Places, len(PlumbOf(ch, PlumbScale{}).Lines))
}

// lower lays the words of a place below those of its neighbour where the two would lie on each other.
func (d *Plumb) lower(pitch float64) {
	for i := 1; i < len(d.Lines); i++ {
		a, b := &d.Lines[i-1], &d.Lines[i]
		wide := plumbLetter * float64(len(a.Name)+len(b.Name)) / 2
		if wide > pitch && math.Abs(a.Y+a.Drop-b.Y) < plumbWords {
			b.Drop = a.Y + a.Drop + plumbWords - b.Y
		}
		d.H = math.Max(d.H, b.MinutesY()+4)
	}
}

// PlumbOf draws the depth of a model's places.
func PlumbOf(ch *hw.Chassis, scale PlumbScale) *Plumb {
	d := &Plumb{W: plumbWide, H: plumbTop + float64(scale.Steps+3)*plumbStep}
	for n := 1; n <= scale.Steps; n += 2 {
		d.Rows = append(d.Rows, PlumbRow{n, plumbTop + float64(n)*plumbStep})
	}
	x := plumbLeft + 28
	pitch := math.Min(plumbPitch, (plumbWide-x-28)/math.Max(1, float64(scale.Places-1)))
	add := func(id, reach, class string) {
		line := PlumbLine{X: x, Name: id, Class: class}
		x += pitch
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
		x += pitch
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
	d.lower(pitch)
	return d
}
