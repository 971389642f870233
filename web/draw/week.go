package draw

import (
	"fmt"
	"math"
	"strings"
	"time"
)

// WeekIn is some days on the benches, as they are drawn.
type WeekIn struct {
	Now     time.Time
	Width   float64 // of the drawing: a page's, or a telephone's
	Days    []WeekDay
	Lanes   []WeekLane
	Dives   []WeekDive
	Flags   []WeekFlag
	Parcels []WeekParcel
	// Proposed are places that the chosen job could have.
	Proposed []WeekProposed
}

// WeekDay is a day from its first hour to its last.
type WeekDay struct {
	From, To time.Time
	Taken    string // how much of it is taken
	Shut     string // why it is closed, "" for open
}

// WeekLane is a bench.
type WeekLane struct {
	Name, Sub string
	Away      []WeekAway
}

// WeekAway is when nobody is there.
type WeekAway struct {
	From, To time.Time
	Words    string
}

// WeekDive is a job at a bench.
type WeekDive struct {
	Job                     int64
	Label, Title            string
	Lane, Steps             int
	Spans                   []WeekSpan
	Running, Pinned, Chosen bool
	Broken, Movable         bool
	Seen                    int64 // the last move of it
}

// WeekSpan is a part of it. Kind is work, copy, proof, or aside for what runs off the bench.
type WeekSpan struct {
	Kind     string
	From, To time.Time
}

// WeekFlag is a promise on the lane of its job: broken ones have when the job is ready, and in words by how much that is late;
// honest ones are what could be promised instead.
type WeekFlag struct {
	Job   int64
	Label string
	Lane  int
	At    time.Time
	Kind  string // kept, at_risk, broken, honest, proposed
	Ready time.Time
	Late  string
}

// WeekProposed is a place that a job could have, with what could be promised of it there.
type WeekProposed struct {
	Label       string
	Lane, Steps int
	From, To    time.Time
	Promise     time.Time
}

// WeekParcel is an order that comes, with the dives that begin with it.
type WeekParcel struct {
	Order       int64
	At          time.Time
	Label, What string
	Link        string
	Jobs        []int64
}

// Week is the drawing. Coordinates are units of its view box.
type Week struct {
	Width, Height, Left, Right float64
	Narrow                     bool
	HeadY, FootY               float64
	Days                       []weekDay
	Lanes                      []weekLane
	Dives                      []weekDive
	Proposed                   []weekProposed
	Flags                      []weekFlag
	Late                       []weekLate
	Parcels                    []weekParcel
	PartsY                     float64 // 0 where no parcel comes
	NowX                       float64 // 0 where now is none of the days
	Now                        string
}

type weekDay struct {
	X, EndX     float64
	Name        string
	Hours       []weekHour
	Taken, Shut string
	From        string // for the script: the instant at X, and how many minutes a unit is
	MinutesPer  float64
}

type weekHour struct {
	X    float64
	Text string
}

type weekLane struct {
	N         int
	Y         float64
	Name, Sub string
	Path      string // the surface of each day, with a tick an hour
	Away      []weekAway
}

type weekAway struct {
	X, Y, W float64
	Words   string
}

// weekProposed is a place that a job could have: a dive in dashes.
type weekProposed struct {
	Label, Path string
	X, Y        float64 // its lowest point
	Name        weekName
}

// weekName is a text beside something.
type weekName struct {
	Text string
	X, Y float64
	End  bool // the text ends there
}

type weekDive struct {
	WeekDive
	Path, Copy, Aside, Proof string
	X                        float64 // where it begins
	Name                     weekName
	Hit                      struct{ X, Y, W, H float64 }
	Lane                     int
}

type weekFlag struct {
	WeekFlag
	Pole, Path string
	X, Y       float64 // of the head
	Name       weekName
}

type weekLate struct {
	Path  string
	Tips  string
	X, Y  float64
	Words string
}

type weekParcel struct {
	WeekParcel
	Whole  string // all that comes, for who cannot see the drawing
	X, Y   float64
	Leader string
	Name   weekName
}

// Measures of the drawing.
const (
	weekGap    = 14.0 // between two days
	weekUp     = 84.0 // above a lane: flags in two heights and a dimension line
	weekDown   = 96.0 // below it: dives, and names in three heights
	weekDepth  = 54.0
	weekHead   = 42.0
	weekParts  = 64.0
	weekFoot   = 30.0
	diveSide   = 0.38 // of a dive, down and again up
	weekLetter = 7.3  // a letter's width in the small face
)

// DrawWeek lays it out: the days side by side, true to time, the lanes one below the other. Names that find no room are left
// to the list beside the drawing; flags never are.
func DrawWeek(in *WeekIn) *Week {
	w := &Week{Width: in.Width, Left: 96, Right: in.Width - 4, Narrow: in.Width < 600}
	if w.Narrow {
		w.Left = 10
	}
	l := &weekLayout{Week: w, in: in}
	l.days()
	y := weekHead
	w.HeadY = y
	if len(in.Parcels) > 0 {
		w.PartsY = y + 24
		y += weekParts
	}
	for i, lane := range in.Lanes {
		y += weekUp
		if w.Narrow {
			y += 14 // its name stands above
		}
		w.Lanes = append(w.Lanes, l.lane(i, lane, y))
		y += weekDown
	}
	w.FootY = y + 4
	w.Height = y + weekFoot
	if x, ok := l.x(in.Now); ok {
		w.NowX, w.Now = x, in.Now.Format("15:04")
		l.taken = append(l.taken, box{x - 3, 0, x + 3, w.Height})
	}
	starts := map[int64]*weekDive{}
	for i := range in.Dives {
		l.dive(&in.Dives[i])
	}
	for i := range w.Dives {
		if starts[w.Dives[i].Job] == nil {
			starts[w.Dives[i].Job] = &w.Dives[i]
		}
	}
	for i := range in.Flags {
		l.flag(&in.Flags[i])
	}
	for i := range in.Proposed {
		l.proposed(&in.Proposed[i])
	}
	// Names come when all lines stand, so that none runs through them.
	for i := range w.Flags {
		l.flagName(&w.Flags[i])
	}
	for i := range w.Dives {
		l.name(&w.Dives[i])
	}
	for i := range w.Proposed {
		p := &w.Proposed[i]
		p.Name = l.text(p.Label, []weekName{{"", p.X + 8, p.Y + 14, false}, {"", p.X - 2, p.Y + 14, true},
			{"", p.X + 8, p.Y + 27, false}})
	}
	for i := range in.Parcels {
		l.parcel(&in.Parcels[i], starts)
	}
	return w
}

// weekLayout is a drawing while it is laid out.
type weekLayout struct {
	*Week
	in    *WeekIn
	unit  float64 // of the drawing, a minute
	at    []float64
	taken []box
}

// box is what a thing covers.
type box struct{ x0, y0, x1, y1 float64 }

// free takes room for a box where nothing stands.
func (l *weekLayout) free(b box) bool {
	if b.x0 < l.Left-2 && !l.Narrow || b.x0 < 0 || b.x1 > l.Width {
		return false
	}
	for _, o := range l.taken {
		if b.x0 < o.x1 && o.x0 < b.x1 && b.y0 < o.y1 && o.y0 < b.y1 {
			return false
		}
	}
	l.taken = append(l.taken, b)
	return true
}

// days lays the days side by side.
func (l *weekLayout) days() {
	minutes := 0.0
	for _, d := range l.in.Days {
		minutes += d.To.Sub(d.From).Minutes()
	}
	l.unit = (l.Right - l.Left - weekGap*float64(len(l.in.Days)-1)) / max(minutes, 1)
	x := l.Left
	for _, d := range l.in.Days {
		long := d.To.Sub(d.From).Minutes() * l.unit
		day := weekDay{X: x, EndX: x + long, Name: d.From.Format("Mon 2 Jan"), Taken: d.Taken,
			Shut: d.Shut, From: d.From.Format(time.RFC3339),
			MinutesPer: 1 / l.unit}
		every := 3
		if l.unit*60 < 14 {
			every = 6
		}
		for h := d.From.Truncate(time.Hour); !h.After(d.To); h = h.Add(time.Hour) {
			hx := x + h.Sub(d.From).Minutes()*l.unit
			if h.Before(d.From) {
				continue
			}
			text := ""
			// The line of now has the time it is beside it.
			now, ok := 0.0, false
			if l.in.Now.After(d.From) && l.in.Now.Before(d.To) {
				now, ok = x+l.in.Now.Sub(d.From).Minutes()*l.unit, true
			}
			if h.Hour()%every == 0 && hx < x+long-12 && (!ok || math.Abs(now-hx) > 36) {
				text = h.Format("15")
			}
			day.Hours = append(day.Hours, weekHour{hx, text})
		}
		l.Days, l.at = append(l.Days, day), append(l.at, x)
		x += long + weekGap
	}
}

// x is where a time stands; what lies between two days stands at the first moment after it, what lies before or after them all
// at the edge. ok is false for that.
func (l *weekLayout) x(t time.Time) (x float64, ok bool) {
	for i, d := range l.in.Days {
		switch {
		case t.Before(d.From):
			return l.at[i], false
		case !t.After(d.To):
			return l.at[i] + t.Sub(d.From).Minutes()*l.unit, true
		}
	}
	return l.Right, false
}

// shown reports whether a span of time lies in the days at all.
func (l *weekLayout) shown(from, to time.Time) bool {
	n := len(l.in.Days)
	return n > 0 && to.After(l.in.Days[0].From) && from.Before(l.in.Days[n-1].To)
}

// lane is a bench's surface, with a tick an hour.
func (l *weekLayout) lane(n int, in WeekLane, y float64) weekLane {
	out := weekLane{N: n + 1, Y: y, Name: in.Name, Sub: in.Sub}
	var p strings.Builder
	for _, d := range l.Days {
		if d.Shut != "" {
			out.Away = append(out.Away, weekAway{d.X, y - 13, d.EndX - d.X, d.Shut})
			l.taken = append(l.taken, box{d.X, y - 13, d.EndX, y + 13})
			continue
		}
		fmt.Fprintf(&p, "M%.1f %.1fH%.1f", d.X, y, d.EndX)
		for _, h := range d.Hours {
			fmt.Fprintf(&p, "M%.1f %.1fv-5", h.X, y)
		}
	}
	for _, a := range in.Away {
		if !l.shown(a.From, a.To) {
			continue
		}
		x0, _ := l.x(a.From)
		x1, _ := l.x(a.To)
		if x1-x0 > 4 {
			out.Away = append(out.Away, weekAway{x0, y - 13, x1 - x0, a.Words})
		}
	}
	out.Path = p.String()
	return out
}

// dive draws a job: down through its steps and up again where hands are on it, thick on the surface for the proof, dashed for a
// copy.
func (l *weekLayout) dive(in *WeekDive) {
	if in.Lane >= len(l.Lanes) || len(in.Spans) == 0 || !l.shown(in.Spans[0].From, in.Spans[len(in.Spans)-1].To) {
		return
	}
	v := weekDive{WeekDive: *in, Lane: in.Lane + 1}
	y := l.Lanes[in.Lane].Y
	depth := diveDepth(in.Steps)
	var path, copies, aside, proof strings.Builder
	first, last := math.Inf(1), 0.0
	for _, s := range in.Spans {
		if !l.shown(s.From, s.To) {
			continue
		}
		x0, _ := l.x(s.From)
		x1, _ := l.x(s.To)
		first, last = min(first, x0), max(last, x1)
		switch s.Kind {
		case "work":
			path.WriteString(DivePath(x0, max(x1, x0+6), y, depth, in.Steps))
			last = max(last, x0+6)
		case "aside":
			fmt.Fprintf(&aside, "M%.1f %.1fH%.1f", x0, y-7, max(x1, x0+3))
		case "copy":
			fmt.Fprintf(&copies, "M%.1f %.1fH%.1f", x0, y, max(x1, x0+3))
		default:
			fmt.Fprintf(&proof, "M%.1f %.1fH%.1f", x0, y, max(x1, x0+4))
		}
	}
	v.Path, v.Copy, v.Aside, v.Proof, v.X = path.String(), copies.String(), aside.String(), proof.String(), first
	v.Hit.X, v.Hit.Y, v.Hit.W, v.Hit.H = first-9, y-10, max(last-first+18, 24), depth+14
	l.taken = append(l.taken, box{first - 1, y - 3, last + 1, y + depth})
	l.Dives = append(l.Dives, v)
}

// diveDepth is how deep a dive of so many steps is drawn.
func diveDepth(steps int) float64 { return min(float64(max(steps, 1))*5+10, weekDepth) }

// DivePath goes down from a surface with a notch a step, along the bottom, and up again.
func DivePath(x0, x1, y, depth float64, steps int) string {
	var p strings.Builder
	side := (x1 - x0) * diveSide
	n := min(max(steps, 1), 8)
	fmt.Fprintf(&p, "M%.1f %.1f", x0, y)
	for k := 1; k <= n; k++ {
		fmt.Fprintf(&p, "L%.1f %.1fL%.1f %.1f", x0+side*(float64(k)-0.5)/float64(n), y+depth*float64(k-1)/float64(n),
			x0+side*float64(k)/float64(n), y+depth*float64(k)/float64(n))
	}
	for k := n; k >= 1; k-- {
		fmt.Fprintf(&p, "L%.1f %.1fL%.1f %.1f", x1-side*float64(k)/float64(n), y+depth*float64(k)/float64(n),
			x1-side*(float64(k)-0.5)/float64(n), y+depth*float64(k-1)/float64(n))
	}
	fmt.Fprintf(&p, "L%.1f %.1f", x1, y)
	return p.String()
}
