package draw

import (
	"fmt"
	"math"

	"yembo/core/hw"
	"yembo/core/run"
)

// RunMap is the machine from below, drawn once for all steps of a run; each step is a window
// onto it. Measures are those of the drawing: mapScale px a mm.
type RunMap struct {
	W, H       float64
	Board      string
	Places     []MapPlace
	Hinges     []Box
	Unmeasured bool
	Says       string
	Screws     []ZoomScrew // all that are recorded where they sit
}

// MapPlace is something that lies in the machine.
type MapPlace struct {
	X, Y, W, H float64
	CX, CY     float64
	Name       string
	Class      string
	Rx         float64
}

// RunZoom is where a step is done: a window onto the map, with the screws that it turns.
type RunZoom struct {
	X, Y, W, H float64 // the window
	Whole      bool    // nothing tells where: all of the machine is shown
	Screws     []ZoomScrew
	Spot       *Box
	Unplaced   []string // letters of screws whose holes are not recorded
	Arrow      string   // a path: which way the part goes, "" for none
	Unit       float64  // a px on the screen, in the window's measure
}

// ZoomScrew is a screw in its hole.
type ZoomScrew struct {
	X, Y   float64
	TX     float64 // of its letter, px on the screen from the hole
	Letter string
	N      int // in the printed order, 0 for none
	Hidden bool
}

const (
	mapScale  = 2.0
	zoomRatio = 430.0 / 290.0
	zoomWide  = 430.0 // px on the screen
	leastZoom = 120.0 // mm across
)

// RunMapOf draws the machine for a run.
func RunMapOf(ch *hw.Chassis) *RunMap {
	width, depth := OutlineOf(ch)
	m := &RunMap{W: width * mapScale, H: depth * mapScale, Unmeasured: ch.Outline == nil, Says: describe(ch)}
	for _, p := range ch.Board {
		m.Board += fmt.Sprintf("%.1f,%.1f ", p[0].Float()*mapScale, p[1].Float()*mapScale)
	}
	if ch.Kind == hw.Notebook {
		for _, at := range []float64{0.11, 0.82} {
			m.Hinges = append(m.Hinges, Box{X: m.W * at, Y: -6, W: 44, H: 8})
		}
	}
	letters := Letters(ch)
	for i := range ch.Fasteners {
		for _, at := range ch.Fasteners[i].At {
			m.Screws = append(
				m.Screws,
				ZoomScrew{X: at.X.Float() * mapScale, Y: at.Y.Float() * mapScale, Letter: letters[ch.Fasteners[i].ID]},
			)
		}
	}
	l := Propose(ch, width, depth)
	for _, t := range Things(ch, l) {
		if t.Kind == "other" {
			continue
		}
		p := MapPlace{
			X:     t.R.X * mapScale,
			Y:     t.R.Y * mapScale,
			W:     t.R.W * mapScale,
			H:     t.R.H * mapScale,
			Name:  t.Name,
			Class: "there",
			Rx:    2,
		}
		p.CX, p.CY = p.X+p.W/2, p.Y+p.H/2+5
		switch {
		case t.Kind == "suspected":
			p.Class, p.Name = "unknown", "?"
		case t.Kind == "shape":
			p.Class, p.Name = "shape", t.What
			if t.What == "fan" {
				p.Rx = 10
			}
		case t.Kind == "chips":
			p.Class, p.Name = "solid", ""
		case t.Proposed:
			p.Class = "there proposed"
		}
		if 9*float64(len(p.Name)) > p.W || p.H < 16 {
			p.Name = ""
		}
		m.Places = append(m.Places, p)
	}
	return m
}

// Letters names the groups of screws as the mat does.
func Letters(ch *hw.Chassis) map[string]string {
	out := map[string]string{}
	for i := range ch.Fasteners {
		out[ch.Fasteners[i].ID] = matLetter(i)
	}
	return out
}

// ZoomOf is the window of a step.
func ZoomOf(ch *hw.Chassis, s *run.Step) *RunZoom {
	width, depth := OutlineOf(ch)
	z := &RunZoom{}
	x0, y0, x1, y1 := math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	cover := func(r Rect) {
		x0, y0, x1, y1 = math.Min(x0, r.X), math.Min(y0, r.Y), math.Max(x1, r.X+r.W), math.Max(y1, r.Y+r.H)
	}
	letters := Letters(ch)
	lots := s.Lays
	if s.Kind == run.Up {
		lots = s.Takes
	}
	for _, lot := range lots {
		i := ch.FastenerByID(lot.Group)
		if i < 0 {
			continue
		}
		f := &ch.Fasteners[i]
		turn := map[int]int{}
		for k, n := range f.Order {
			turn[n] = k + 1
		}
		for k := range f.At {
			at := f.At[k]
			z.Screws = append(z.Screws, ZoomScrew{X: at.X.Float() * mapScale, Y: at.Y.Float() * mapScale, Letter: letters[f.ID],
				N: turn[k+1], Hidden: f.Hidden != ""})
			cover(Rect{at.X.Float(), at.Y.Float(), 0, 0})
		}
		if len(f.At) == 0 {
			z.Unplaced = append(z.Unplaced, letters[f.ID])
		}
	}
	l := Propose(ch, width, depth)
	if r, ok := spotOf(ch, l, s); ok {
		z.Spot = &Box{X: r.X*mapScale - 4, Y: r.Y*mapScale - 4, W: r.W*mapScale + 8, H: r.H*mapScale + 8}
		cover(r)
	}
	if math.IsInf(x0, 1) {
		x0, y0, x1, y1, z.Whole = 0, 0, width, depth, true
	}
	z.window(x0, y0, x1, y1, width, depth)
	z.arrow(ch, s)
	return z
}

// arrow draws which way a part is pushed, pulled or slid: from where the step is done, the other way on the way back.
func (z *RunZoom) arrow(ch *hw.Chassis, s *run.Step) {
	i := ch.StepByID(s.ID)
	if i < 0 || s.Kind != run.Down && s.Kind != run.Up {
		return
	}
	dx, dy := 0.0, 0.0
	switch ch.Steps[i].Toward {
	case hw.TowardHinge:
		dy = -1
	case hw.TowardFront:
		dy = 1
	case hw.TowardLeft:
		dx = -1
	case hw.TowardRight:
		dx = 1
	case hw.TowardUp, "":
		return // straight up is not in the plane of the drawing: the words say it
	}
	if s.Kind == run.Up && ch.Steps[i].BackBefore == "" {
		dx, dy = -dx, -dy
	}
	x, y := z.X+z.W/2, z.Y+z.H/2
	if z.Spot != nil {
		x, y = z.Spot.X+z.Spot.W/2, z.Spot.Y+z.Spot.H/2
	}
	long, head := 46*z.Unit, 12*z.Unit
	tx, ty := x+dx*long, y+dy*long
	z.Arrow = fmt.Sprintf("M%.1f %.1fL%.1f %.1fM%.1f %.1fL%.1f %.1fL%.1f %.1f", x, y, tx, ty,
		tx-dx*head-dy*head, ty-dy*head-dx*head, tx, ty, tx-dx*head+dy*head, ty-dy*head+dx*head)
}

// spotOf is where a step is done, in mm: at its own place, or that of the part it serves.
func spotOf(ch *hw.Chassis, l *Layout, s *run.Step) (Rect, bool) {
	if r, ok := RectOf(s.At, 20, 12); ok {
		return r, true
	}
	name := s.ID
	switch s.Kind {
	case run.Fit, run.Look:
		if s.ID == hw.BatteryPlace {
			if len(ch.Batteries) == 0 {
				return Rect{}, false
			}
			name = "battery:" + ch.Batteries[0].ID
		}
	case run.Down, run.Up:
		i := ch.StepByID(s.ID)
		if i < 0 || ch.Steps[i].Place == "" {
			return Rect{}, false
		}
		name = ch.Steps[i].Place
	case run.Hold, run.Service, run.Trial, run.Detour, run.Return:
		return Rect{}, false
	}
	r, ok := l.At[name]
	return r, ok
}

// window fits the window round what it is to show: no smaller than a hand, of one shape, within the
// machine and a margin of it.
func (z *RunZoom) window(x0, y0, x1, y1, width, depth float64) {
	const margin = 18.0
	w := math.Max(x1-x0+2*margin, leastZoom)
	h := math.Max(y1-y0+2*margin, leastZoom/zoomRatio)
	if w/h < zoomRatio {
		w = h * zoomRatio
	} else {
		h = w / zoomRatio
	}
	full := math.Max(width+2*8, (depth+2*8)*zoomRatio)
	if w > full {
		w, h = full, full/zoomRatio
	}
	keep := func(at, size, all float64) float64 {
		if size >= all+16 {
			return (all - size) / 2
		}
		return math.Min(math.Max(at, -8), all+8-size)
	}
	x, y := keep((x0+x1)/2-w/2, w, width), keep((y0+y1)/2-h/2, h, depth)
	z.X, z.Y, z.W, z.H = tenths(x*mapScale), tenths(y*mapScale), tenths(w*mapScale), tenths(h*mapScale)
	z.Unit = math.Round(z.W/zoomWide*1000) / 1000
	for i := range z.Screws {
		sc := &z.Screws[i]
		if sc.TX = 20; sc.X+40*z.Unit > z.X+z.W {
			sc.TX = -32
		}
	}
}
