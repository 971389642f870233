package draw

import (
	"fmt"
	"math"
	"slices"
	"time"
)

// TrailTime is what a trail is drawn from: a job's stretches, the times of its stations, and when
// the workshop is open.
type TrailTime struct {
	From, Until time.Time // what has passed
	End         time.Time // of what is drawn, where that lies ahead
	Promise     time.Time // zero for none
	Closed      bool
	Spans       []TrailSpan
	Stations    []time.Time // zero for those without a time
	Ahead       []bool      // of the stations: planned, not passed
	Opens       int         // in whole hours
	Closes      int
	OpenOn      func(time.Weekday) bool
}

// TrailSpan is a stretch of a job's life. Class is "bench" for hands on it.
type TrailSpan struct {
	Class    string
	From, To time.Time
	Says     string // drawn in it where there is room
}

// Trail is a job's life on a true time line: closed hours are cut out, and marked.
type Trail struct {
	W, H       float64
	Stretched  bool // stations that lay on one another were moved apart
	Days       []trailText
	Hours      []trailText
	Ticks      []float64
	Axes       []trailLine
	Cuts       []trailCut
	Bars       []trailBar
	Leaders    []trailLeader
	NowX       float64 // 0 where nothing goes on any more
	NowBoxX    float64 // of the middle of its box
	Now        string
	FlagX      float64
	Says       string
	AxisY, Top float64 // of the axis and of the bar
}

type trailText struct {
	X, Y float64
	Text string
}

type trailLine struct{ X1, X2 float64 }

// trailCut is where closed hours are cut out.
type trailCut struct {
	X    float64
	Text string // how much is cut out
}

type trailBar struct {
	X, W  float64
	Mid   float64
	Class string
	Text  string // "" where there is no room
	Title string
}

// trailLeader goes from a station's time to its column.
type trailLeader struct {
	Path  string
	Ahead bool
}

// The trail, in units of the drawing.
const (
	trailW      = 1206.0
	trailLeft   = 12.0
	trailAxisY  = 38.0
	trailBarY   = 66.0
	trailBarH   = 18.0
	trailJogY   = 90.0
	trailJog    = 5.0
	trailH      = 136.0
	trailCutW   = 20.0
	trailApart  = 10.0 // that stations lie apart at least
	mostCutless = 2 * time.Hour
)

// stretch is a piece of time that is drawn, and where.
type stretch struct {
	from, to time.Time
	x, w     float64
}

// Draw draws a trail.
func (in *TrailTime) Draw() *Trail {
	t := &Trail{W: trailW, H: trailH, AxisY: trailAxisY, Top: trailBarY}
	pieces := in.pieces()
	place(pieces)
	at := func(when time.Time) float64 { return xAt(pieces, when) }
	t.axis(pieces)
	for _, s := range in.Spans {
		t.bar(at(s.From), at(s.To), s.Class, s.Says, s.To.Sub(s.From))
	}
	if !in.Closed && in.End.After(in.Until) {
		t.bar(at(in.Until), at(in.End), "ahead", "", 0)
	}
	xs := make([]float64, len(in.Stations))
	last := math.Inf(-1)
	for i, when := range in.Stations {
		if when.IsZero() {
			continue
		}
		xs[i] = at(when)
		if xs[i] < last+trailApart && !in.Ahead[i] {
			xs[i], t.Stretched = last+trailApart, true
		}
		last = math.Max(last, xs[i])
	}
	t.leaders(xs, in)
	if !in.Closed {
		t.NowX, t.Now = at(in.Until), in.Until.Format("15:04")
		t.NowBoxX = math.Min(math.Max(t.NowX, 25), trailW-25)
		t.Hours = slices.DeleteFunc(t.Hours, func(h trailText) bool { return math.Abs(h.X-t.NowBoxX) < 36 })
	}
	if !in.Promise.IsZero() && !in.Promise.Before(in.From) && !in.Promise.After(pieces[len(pieces)-1].to) {
		t.FlagX = at(in.Promise)
	}
	return t
}

// pieces are the stretches of time that are drawn: open hours, and closed ones in which something
// happened or somebody worked.
func (in *TrailTime) pieces() []stretch {
	end := in.Until
	if in.End.After(end) && !in.Closed {
		end = in.End
	}
	var out []stretch
	add := func(from, to time.Time) {
		if !to.After(from) {
			return
		}
		if n := len(out); n > 0 && from.Sub(out[n-1].to) <= mostCutless {
			if to.After(out[n-1].to) {
				out[n-1].to = to
			}
			return
		}
		out = append(out, stretch{from: from, to: to})
	}
	var marked []time.Time // what has to be drawn though it lies in closed hours
	marked = append(marked, in.From, end)
	for _, s := range in.Spans {
		marked = append(marked, s.From, s.To)
	}
	for _, when := range in.Stations {
		if !when.IsZero() {
			marked = append(marked, when)
		}
	}
	midnight := func(day time.Time) time.Time {
		return time.Date(day.Year(), day.Month(), day.Day(), 0, 0, 0, 0, day.Location())
	}
	for day := midnight(in.From); !day.After(end); day = midnight(day.Add(36 * time.Hour)) {
		next := midnight(day.Add(36 * time.Hour))
		from, to := time.Time{}, time.Time{} // what is drawn of this day
		if in.OpenOn(day.Weekday()) {
			from, to = day.Add(time.Duration(in.Opens)*time.Hour), day.Add(time.Duration(in.Closes)*time.Hour)
		}
		for _, when := range marked {
			if when.Before(day) || !when.Before(next) {
				continue
			}
			a, b := when.Add(-20*time.Minute), when.Add(20*time.Minute)
			if from.IsZero() || a.Before(from) && when.Before(from) {
				from = maxTime(a, day)
			}
			if to.IsZero() || b.After(to) && when.After(to) {
				to = minTime(b, next)
			}
		}
		add(from, to)
	}
	return out
}

func maxTime(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

func minTime(a, b time.Time) time.Time {
	if a.Before(b) {
		return a
	}
	return b
}

// place lays pieces side by side, an hour as wide in each.
func place(pieces []stretch) {
	hours := 0.0
	for _, p := range pieces {
		hours += p.to.Sub(p.from).Hours()
	}
	cut := math.Min(trailCutW, 0.3*(trailW-2*trailLeft)/float64(len(pieces)))
	scale := (trailW - 2*trailLeft - cut*float64(len(pieces)-1)) / hours
	x := trailLeft
	for i := range pieces {
		p := &pieces[i]
		p.x, p.w = x, p.to.Sub(p.from).Hours()*scale
		x += p.w + cut
	}
}

// xAt is where a time lies; one that is cut out lies at the cut.
func xAt(pieces []stretch, when time.Time) float64 {
	for i := range pieces {
		p := &pieces[i]
		switch {
		case when.Before(p.from):
			return p.x
		case !when.After(p.to):
			return p.x + p.w*when.Sub(p.from).Hours()/p.to.Sub(p.from).Hours()
		}
	}
	last := &pieces[len(pieces)-1]
	return last.x + last.w
}

// axis draws the days and hours, and what is cut out between them.
func (t *Trail) axis(pieces []stretch) {
	dayFrom, hourFrom := math.Inf(-1), math.Inf(-1)
	for i := range pieces {
		p := &pieces[i]
		t.Axes = append(t.Axes, trailLine{p.x, p.x + p.w})
		if p.x > dayFrom {
			t.Days = append(t.Days, trailText{X: p.x, Y: 12, Text: p.from.Format("Mon 2 Jan")})
			dayFrom = p.x + 84
		}
		step := 1
		for perHour := p.w / p.to.Sub(p.from).Hours(); step < 12 && perHour*float64(step) < 40; {
			step += 1 + step/2
		}
		for when := p.from.Truncate(time.Hour); !when.After(p.to); when = when.Add(time.Hour) {
			if when.Before(p.from) {
				continue
			}
			x := xAt(pieces, when)
			if p.w > 30 {
				t.Ticks = append(t.Ticks, x)
			}
			if when.Hour()%step == 0 && x > hourFrom && x < p.x+p.w-8 {
				t.Hours = append(t.Hours, trailText{X: x, Y: 28, Text: when.Format("15")})
				hourFrom = x + 26
			}
		}
		if i > 0 {
			before := &pieces[i-1]
			out := p.from.Sub(before.to)
			text := fmt.Sprintf("%.0f h", out.Hours())
			if p.x-before.x-before.w < 12 {
				text = ""
			}
			t.Cuts = append(t.Cuts, trailCut{(before.x + before.w + p.x) / 2, text})
		}
	}
}

func (t *Trail) bar(from, to float64, class, says string, lasts time.Duration) {
	b := trailBar{X: from, W: math.Max(to-from, 1.5), Mid: (from + to) / 2, Class: class, Title: says}
	if says != "" && lasts > 0 {
		b.Title = says + ", " + DurationWords(lasts)
		for _, text := range []string{b.Title, says} {
			if class == "bench" {
				break
			}
			if mid, room := t.free(from, to); float64(len([]rune(text)))*6.4+10 < room {
				b.Text, b.Mid = text, mid
				break
			}
		}
	}
	t.Bars = append(t.Bars, b)
}

// free is the middle of the widest part of a stretch that no cut crosses, and how wide it is.
func (t *Trail) free(from, to float64) (mid, room float64) {
	const cut = 9 // half the width of its mark
	at := from
	for i := 0; i <= len(t.Cuts); i++ {
		end, next := to, to
		if i < len(t.Cuts) && t.Cuts[i].X > from && t.Cuts[i].X < to {
			end, next = t.Cuts[i].X-cut, t.Cuts[i].X+cut
		} else if i < len(t.Cuts) {
			continue
		}
		if end-at > room {
			mid, room = (at+end)/2, end-at
		}
		at = next
	}
	return mid, room
}

// leaders go from the stations' times to their columns, none across another: of those that go right
// the later one turns higher, of those that go left the later one turns lower.
func (t *Trail) leaders(xs []float64, in *TrailTime) {
	column := func(i int) float64 { return TrailColumn(i, len(xs)) }
	right, left := 0, 0
	for i := range xs {
		if !in.Stations[i].IsZero() && column(i) >= xs[i] {
			right++
		}
	}
	for i, x := range xs {
		if in.Stations[i].IsZero() {
			continue
		}
		y := trailJogY
		if column(i) >= x {
			right--
			y += trailJog * float64(right)
		} else {
			y += trailJog * float64(left)
			left++
		}
		t.Leaders = append(t.Leaders, trailLeader{Ahead: in.Ahead[i],
			Path: fmt.Sprintf("M%.1f %.1fV%.1fH%.1fV%.1f", x, trailBarY+trailBarH, y, column(i), trailH)})
	}
}

// TrailColumn is where the mark of a station stands.
func TrailColumn(i, n int) float64 { return trailW*float64(i)/float64(n) + 10 }

// DurationWords is how long something lasts, as people say it.
func DurationWords(d time.Duration) string {
	minutes := int(d.Round(time.Minute).Minutes())
	switch {
	case minutes < 60:
		return fmt.Sprintf("%d min", minutes)
	case minutes < 48*60 && minutes%60 == 0:
		return fmt.Sprintf("%d h", minutes/60)
	case minutes < 48*60:
		return fmt.Sprintf("%d h %d min", minutes/60, minutes%60)
	case minutes/60%24 == 0:
		return fmt.Sprintf("%d days", minutes/60/24)
	}
	return fmt.Sprintf("%d days %d h", minutes/60/24, minutes/60%24)
}
