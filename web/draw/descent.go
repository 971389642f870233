package draw

import (
	"fmt"
	"math"
	"strconv"

	"yembo/core/hw"
	"yembo/core/run"
)

// Descent is a run as a dive: depth in steps over minutes, down through what comes out, along
// the bottom where the work is, and up again. It is the run's navigation.
type Descent struct {
	W, H     float64
	Surface  float64
	Left     float64
	Right    float64
	Ticks    []Tick // minutes along the surface
	Depths   []Tick // steps down the side
	Segments []DescentSegment
	Nodes    []DescentNode
	Marks    []DescentMark
	Floors   []DescentFloor
	Unplug   *DescentLevel
	Total    string
	Says     string

	Ahead          string // dots where nobody has been yet, "" for none
	AheadX, AheadY float64
}

// DescentSegment is the stretch of one step.
type DescentSegment struct {
	Key, Path string
	Danger    bool
}

// DescentNode is where a step ends: its number, and where the float stands while it is next.
type DescentNode struct {
	Key    string
	N      int
	X, Y   float64
	LX, LY float64 // of its number
	Label  string  // its number, "" where there is no room for it
	Anchor string
	FX, FY float64 // where it begins: the float's place
	Float  string  // what the float says
	Says   string
	ColX   float64 // of the column that is pressed
	ColW   float64
	OnWay  bool // a dot on the way; at the bottom the stretches part without one
}

// DescentMark is what happens at the beginning of a step: a bit changed, the machine turned,
// a danger looked at.
type DescentMark struct {
	Kind  string // bit, turn, gate
	X, Y  float64
	Label string
	Stem  float64 // how far it hangs below reorder level, 0 on it
}

// DescentFloor is the name of what is done at the bottom.
type DescentFloor struct {
	X, Y float64
	Name string
	Key  string
}

// DescentLevel is the depth at which the battery is unplugged.
type DescentLevel struct{ X1, X2, Y, TX float64 }

const (
	descentW    = 990.0
	descentLeft = 52.0
	descentTop  = 38.0
	leastStep   = 15.0 // px that a step takes at the least
	mostRow     = 22.0 // px a step of depth
	deepest     = 132.0
)

// DescentOf draws a run.
func DescentOf(p *run.Plan) *Descent { return descentIn(p, descentW-descentLeft-56) }

// descentIn draws a run over so much room, or more where its steps need it.
func descentIn(p *run.Plan, room float64) *Descent {
	d := &Descent{W: descentW, Left: descentLeft, Surface: descentTop, Total: p.Minutes.Shown().String() + " min"}
	n := len(p.Steps)
	if n == 0 {
		return d
	}
	if need := leastStep * float64(n); need > room {
		room = need
		d.W = math.Max(d.W, room+descentLeft+56)
	}
	d.Right = descentLeft + room
	wide := stepWidths(p, room)
	deep := 1
	for i := range p.Steps {
		deep = max(deep, p.Steps[i].Depth)
	}
	row := math.Min(mostRow, deepest/float64(deep))
	d.H = descentTop + row*float64(deep) + 34
	y := func(depth int) float64 { return descentTop + row*float64(depth) }
	d.depthMarks(deep, y)
	x, before := descentLeft, 0
	numbersEvery := 1 + n/26
	for i := range p.Steps {
		s := &p.Steps[i]
		end := x + wide[i]
		d.Segments = append(
			d.Segments,
			DescentSegment{
				s.Key,
				fmt.Sprintf("M%.1f %.1fL%.1f %.1f", x, y(before), end, y(s.Depth)),
				len(s.Danger) > 0 || s.Kind == run.Look,
			},
		)
		node := DescentNode{
			Key:   s.Key,
			N:     i + 1,
			X:     end,
			Y:     y(s.Depth),
			FX:    x,
			FY:    y(before),
			Says:  fmt.Sprintf("Step %d: %s", i+1, s.Does),
			Float: fmt.Sprintf("step %d, %s min", i+1, s.Begins.Shown()),
			ColX:  x,
			ColW:  wide[i],
			OnWay: s.Depth != before || s.Kind == run.Look || s.Kind == run.Hold || s.Kind == run.Trial || s.Kind == run.Detour ||
				s.Kind == run.Return,
		}
		up := s.Depth < before
		node.LX, node.LY, node.Anchor = end+7, node.Y-7, ""
		if up {
			node.LX, node.LY = end+7, node.Y+16
		}
		if i+1 < n && (len(p.Steps[i+1].Danger) > 0 || p.Steps[i+1].Kind == run.Look) {
			node.LX, node.Anchor = end-7, "end" // the gate stands at its right
		}
		if node.OnWay && (i+1)%numbersEvery == 0 {
			node.Label = strconv.Itoa(i + 1)
		}
		d.Nodes = append(d.Nodes, node)
		d.marks(s, x, y(before))
		if !node.OnWay {
			d.floor(s, x, end, y(s.Depth))
		}
		x, before = end, s.Depth
	}
	d.level(p, y)
	d.minutes(p, wide)
	d.Says = fmt.Sprintf("%d steps, %s: down %d deep and up again", n, d.Total, deep)
	return d
}

// stepWidths shares the room out: by the minutes, but for each step the least.
func stepWidths(p *run.Plan, room float64) []float64 {
	out := make([]float64, len(p.Steps))
	lo, hi := 0.0, room
	sum := func(scale float64) float64 {
		total := 0.0
		for i := range p.Steps {
			out[i] = math.Max(leastStep, scale*p.Steps[i].Lasts.Exact().Float())
			total += out[i]
		}
		return total
	}
	for range 40 {
		if mid := (lo + hi) / 2; sum(mid) > room {
			hi = mid
		} else {
			lo = mid
		}
	}
	sum(lo)
	return out
}

func (d *Descent) depthMarks(deep int, y func(int) float64) {
	every := 2
	if deep > 12 {
		every = 5
	}
	for k := every; k <= deep; k += every {
		d.Depths = append(d.Depths, Tick{At: y(k), Label: strconv.Itoa(k)})
	}
}

// marks puts what happens at the beginning of a step onto the line; of two at one place the
// second hangs below it.
func (d *Descent) marks(s *run.Step, x, y float64) {
	stem := 0.0
	add := func(kind, label string) {
		d.Marks = append(d.Marks, DescentMark{Kind: kind, X: x + 1, Y: y, Label: label, Stem: stem})
		stem += 26
	}
	if len(s.Danger) > 0 || s.Kind == run.Look {
		d.Marks = append(d.Marks, DescentMark{Kind: "gate", X: x + 13, Y: y})
	}
	if s.Turns {
		add("turn", "")
	}
	if s.Bit != "" {
		if stem == 0 {
			stem = 24
		}
		add("bit", s.Bit)
	}
}

// floor names what is done at the bottom, where there is room for its name.
func (d *Descent) floor(s *run.Step, from, to, y float64) {
	name := s.ID
	if s.Kind == run.Service {
		name = hw.LowerFirst(s.Does)
	}
	if room := to - from - 6; textWidth(name)*0.9 > room {
		if room < 30 {
			return
		}
		name = CutTo(name, int(room/7.4))
	}
	d.Floors = append(d.Floors, DescentFloor{(from + to) / 2, y + 18, name, s.Key})
}

// level draws the depth below which the battery is unplugged.
func (d *Descent) level(p *run.Plan, y func(int) float64) {
	l := DescentLevel{}
	for i := range p.Steps {
		st := p.Chassis.StepByID(p.Steps[i].ID)
		if st < 0 || !p.Chassis.Steps[st].IsolatesPwr.Or(false) {
			continue
		}
		switch p.Steps[i].Kind {
		case run.Down:
			l.X1, l.Y = d.Nodes[i].X, d.Nodes[i].Y
		case run.Up:
			l.X2 = d.Nodes[i].FX
		case run.Hold, run.Look, run.Fit, run.Service, run.Trial, run.Detour, run.Return: // they change nothing here
		}
	}
	if l.X1 > 0 && l.X2 > l.X1+170 {
		l.TX = (l.X1 + l.X2) / 2
		d.Unplug = &l
	}
}

// minutes marks the minutes along the surface: the steps' least widths bend the scale, so that
// each mark stands where that minute is.
func (d *Descent) minutes(p *run.Plan, wide []float64) {
	total := p.Minutes.Exact().Float()
	every := 5.0
	for _, e := range []float64{5, 10, 15, 30, 60} {
		if every = e; total/e*44 < d.Right-d.Left-80 {
			break
		}
	}
	x, at, next := descentLeft, 0.0, 0.0
	for i := range p.Steps {
		lasts := p.Steps[i].Lasts.Exact().Float()
		for next <= at+lasts && next <= total {
			px := x
			if lasts > 0 {
				px = x + wide[i]*(next-at)/lasts
			}
			t := Tick{At: px, Long: true, Label: strconv.Itoa(int(next))}
			if px > d.Right-64 {
				t.Label = ""
			}
			d.Ticks = append(d.Ticks, t)
			next += every
		}
		at += lasts
		x += wide[i]
	}
}

// FirstDescentOf draws a first opening as far as it is: the way in, 72 px a minute until it is 12 of
// them long, and dots where nobody has been.
func FirstDescentOf(p *run.Plan) *Descent {
	so := &run.Plan{Chassis: p.Chassis}
	var at hw.Minutes
	for _, s := range p.Steps {
		if s.Kind == run.Down {
			s.Danger = nil // what a way in is to be minded for is known when it is whole
			s.Begins = at
			at += s.Lasts
			so.Steps = append(so.Steps, s)
		}
	}
	so.Minutes = at
	const perMinute, whole = 72.0, 12 * 72.0
	room := math.Min(perMinute*at.Exact().Float(), whole) + leastStep
	d := &Descent{
		W:       descentW,
		H:       descentTop + 4*mostRow,
		Left:    descentLeft,
		Right:   descentW - 30,
		Surface: descentTop,
		Says:    fmt.Sprintf("%d steps so far", len(so.Steps)),
	}
	x, y := descentLeft, descentTop
	if len(so.Steps) > 0 {
		d = descentIn(so, room)
		n := d.Nodes[len(d.Nodes)-1]
		x, y = n.X, n.Y
		d.W, d.Right, d.Total = descentW, descentW-30, ""
		d.H = math.Max(d.H-16, descentTop+4*mostRow)
		d.Unplug = nil
	}
	end := y + 34
	d.Ahead = fmt.Sprintf("M%.1f %.1fC%.1f %.1f %.1f %.1f %.1f %.1fH%.0f", x, y, x+60, y+20, x+100, end, x+170, end, d.Right)
	d.AheadX, d.AheadY = math.Min(x+200, d.Right-460), end-10
	d.H = math.Max(d.H, end+24)
	return d
}
