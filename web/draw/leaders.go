package draw

import (
	"fmt"
	"math"
	"sort"
)

// Where the call-outs go. A call-out stands along the top or down the right side,
// never on a rule. Its leader leaves the place where nothing else lies in the way,
// runs straight to the edge of the machine, and turns at most once, in the gap
// outside it. Both rows are in the order in which the leaders reach the edge, so no
// two leaders cross. A call-out that finds no room goes into the list below.

// callOut is a fact standing beside the drawing, with its leader.
type callOut struct {
	X, Y     float64
	ID       string
	Kind     string
	Lines    []string
	Source   string
	Date     string
	Disputed bool
	Leader   string
	Top      bool
}

// LinesAt are the lines under the call-out's name, set so far apart.
func (c callOut) LinesAt(height float64) []boxLine {
	out := make([]boxLine, len(c.Lines))
	for i, text := range c.Lines {
		out[i] = boxLine{Y: height * float64(i+1), Text: text}
	}
	return out
}

// MarkAt is the line with the source.
func (c callOut) MarkAt(height float64) float64 { return height * float64(len(c.Lines)+1) }

// anchor is a place with the call-out that speaks of it.
type anchor struct {
	name string
	r    Rect // in mm
	call callOut
}

// led is an anchor with the way its leader takes.
type led struct {
	anchor
	at    float64 // where the leader reaches the edge, in mm along it
	clear []float64
}

// inTheWay reports whether a segment, given as a thin rectangle, meets one of them.
func inTheWay(segment Rect, others []Rect) bool {
	for _, o := range others {
		if _, over := segment.overlap(o); over {
			return true
		}
	}
	return false
}

// toRight is the straight leader from a place to the right edge.
func toRight(r Rect, at, width float64) Rect {
	return Rect{r.X + r.W, at - 0.75, width - r.X - r.W, 1.5}
}

// ways lists the points, at every millimetre of a side of the place, from which a
// straight leader reaches the edge and meets none of the others, best first.
func ways(r Rect, top bool, width float64, others []Rect) []float64 {
	from, size := r.Y, r.H
	if top {
		from, size = r.X, r.W
	}
	margin := math.Min(4, size/4)
	middle := from + size/2
	var out []float64
	for at := from + margin; at <= from+size-margin; at++ {
		segment := toRight(r, at, width)
		if top {
			segment = Rect{at - 0.75, 0, 1.5, r.Y}
		}
		if segment.W <= 0 || segment.H <= 0 || !inTheWay(segment, others) {
			out = append(out, at)
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return math.Abs(out[i]-middle) < math.Abs(out[j]-middle) })
	return out
}

// sides decides for each anchor where its call-out stands. places and shapes are what
// a leader should not cross; where that cannot be had, it crosses a shape, then a
// place, but never another leader: then the call-out is only listed. At most so many
// stand along the top.
func sides(anchors []anchor, width float64, places map[string]Rect, shapes []Rect, most float64) (top, right []led,
	listed []callOut) {
	var drawn []Rect // the leaders so far
	choose := func(a anchor, alongTop bool, others []Rect) (led, bool) {
		clear := ways(a.r, alongTop, width, others)
		if len(clear) == 0 {
			return led{}, false
		}
		return led{a, clear[0], clear}, true
	}
	ordered := append([]anchor(nil), anchors...)
	// From the top down, so that a leader along the top is there before one to the
	// right would cross it.
	sort.SliceStable(ordered, func(i, j int) bool { return ordered[i].r.Y < ordered[j].r.Y })
	for _, a := range ordered {
		var hard []Rect
		for name, r := range places {
			if name != a.name {
				hard = append(hard, r)
			}
		}
		all := append(append(append([]Rect(nil), hard...), shapes...), drawn...)
		hard = append(hard, drawn...)
		got, alongTop, ok := led{}, false, false
		for _, others := range [][]Rect{all, hard, drawn} {
			up, canUp := choose(a, true, others)
			out, canOut := choose(a, false, others)
			// The shorter way, while the row along the top has room.
			switch {
			case canUp && (!canOut || a.r.Y <= width-a.r.X-a.r.W) && float64(len(top)) < most:
				got, alongTop, ok = up, true, true
			case canOut:
				got, alongTop, ok = out, false, true
			}
			if ok {
				break
			}
		}
		if !ok {
			listed = append(listed, a.call)
			continue
		}
		if alongTop {
			top = append(top, got)
			drawn = append(drawn, Rect{got.at - 1, 0, 2, math.Max(a.r.Y, 0.1)})
			continue
		}
		right = append(right, got)
		drawn = append(drawn, Rect{a.r.X + a.r.W, got.at - 1, width - a.r.X - a.r.W, 2})
	}
	sort.SliceStable(top, func(i, j int) bool { return top[i].at < top[j].at })
	sort.SliceStable(right, func(i, j int) bool { return right[i].at < right[j].at })
	return top, right, listed
}

// placeCalls sets the call-outs and draws their leaders.
func (d *Inside) placeCalls(top, right []led) {
	next := d.X0
	for i, a := range top {
		c := a.call
		at := d.X0 + a.at*d.scale
		c.X, c.Y, c.Top = math.Max(next, at), d.style.line-4, true
		if c.X+d.style.call > float64(d.W) {
			d.Beside = append(d.Beside, c)
			continue
		}
		next = c.X + d.style.call
		// Later leaders turn lower, so that none crosses an earlier one.
		jog := d.Y0 - 30 + math.Min(float64(i)*4, 18)
		c.Leader = fmt.Sprintf("M%.1f,4 V%.1f H%.1f V%.1f", c.X, jog, at, d.Y0+a.r.Y*d.scale)
		d.Calls = append(d.Calls, c)
	}
	var verticals []Rect
	for _, a := range top {
		verticals = append(verticals, Rect{a.at - 1, 0, 2, a.r.Y})
	}
	d.placeRight(right, verticals)
}

// placeRight sets the call-outs down the right side, each as near to its leader as
// those above it leave room; where the last runs out of the drawing, the column
// moves up.
func (d *Inside) placeRight(right []led, verticals []Rect) {
	height := func(c callOut) float64 { return d.style.line * float64(2+len(c.Lines)) }
	first := d.Y0 + d.style.line - 4
	floor := float64(d.H) - 4
	for len(right) > 0 {
		total := 0.0
		for _, a := range right {
			total += height(a.call) + 6
		}
		if first+total <= floor+d.style.line {
			break
		}
		last := right[len(right)-1]
		right = right[:len(right)-1]
		d.Beside = append(d.Beside, last.call)
	}
	ys := make([]float64, len(right))
	y := first
	for i, a := range right {
		ys[i] = math.Max(y, d.Y0+a.at*d.scale+4)
		y = ys[i] + height(a.call) + 6
	}
	for i := len(right) - 1; i >= 0; i-- {
		ys[i] = math.Min(ys[i], floor-height(right[i].call)+d.style.line)
		floor = ys[i] - d.style.line - 6
	}
	x, edge := d.X0+d.OutW+rightGap, d.X0+d.OutW
	for i, a := range right {
		c := a.call
		c.X, c.Y = x, ys[i]
		// Straight where the place can be left at the call-out's own height.
		at := a.at
		for _, free := range a.clear {
			if math.Abs(d.Y0+free*d.scale-(c.Y-4)) <= d.scale/2 && !between(right, i, free) &&
				!inTheWay(toRight(a.r, free, d.OutW/d.scale), verticals) {
				at = free
			}
		}
		y := d.Y0 + at*d.scale
		if math.Abs(y-(c.Y-4)) <= d.scale/2 {
			c.Y = y + 4
		}
		// A place that leaves the outline has its leader from the edge.
		from := math.Min(d.X0+(a.r.X+a.r.W)*d.scale, edge)
		right[i].at = at
		c.Leader = fmt.Sprintf("M%.1f,%.1f H%.1f L%.1f,%.1f", from, y, edge+4, x-6, c.Y-4)
		d.Calls = append(d.Calls, c)
	}
}

// between reports whether moving one leader to another height would change the
// order in which the leaders reach the edge.
func between(right []led, i int, at float64) bool {
	return i > 0 && at <= right[i-1].at+1 || i+1 < len(right) && at >= right[i+1].at-1
}
