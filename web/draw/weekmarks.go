package draw

import (
	"fmt"
	"strings"
	"time"
)

// name puts a dive's name below it, in three heights, beginning or ending at it.
func (l *weekLayout) name(v *weekDive) {
	y := v.Hit.Y + v.Hit.H - 4
	v.Name = l.text(v.Label, []weekName{{"", v.Hit.X + 8, y + 14, false}, {"", v.Hit.X + v.Hit.W - 6, y + 14, true},
		{"", v.Hit.X + 8, y + 27, false}, {"", v.Hit.X + v.Hit.W - 6, y + 27, true}, {"", v.Hit.X + 8, y + 40, false},
		{"", v.Hit.X + v.Hit.W - 6, y + 40, true}, {"", v.Hit.X + 4, y + 2, true}, {"", v.Hit.X + v.Hit.W - 2, y + 2, false},
		{"", v.Hit.X + 4, y + 15, true}, {"", v.Hit.X + v.Hit.W, y + 15, false}, {"", v.Hit.X + 4, y + 28, true}})
}

// text is a text at the first of some places that is free; none where no place is.
func (l *weekLayout) text(text string, places []weekName) weekName {
	long := float64(len([]rune(text)))*weekLetter + 4
	for _, at := range places {
		b := box{at.X, at.Y - 10, at.X + long, at.Y + 2}
		if at.End {
			b.x0, b.x1 = at.X-long, at.X
		}
		if l.free(b) {
			at.Text = text
			return at
		}
	}
	return weekName{}
}

// flag plants a promise, and for a broken one the line from it to when the job is ready.
func (l *weekLayout) flag(in *WeekFlag) {
	x, ok := l.x(in.At)
	if in.Lane >= len(l.Lanes) || !ok && in.Kind != "broken" || !l.shown(in.At, maxTime(in.At.Add(time.Minute), in.Ready)) {
		return
	}
	y := l.Lanes[in.Lane].Y
	v := weekFlag{WeekFlag: *in, X: x}
	pole := 20.0
	if in.Kind == "broken" {
		pole = 36
	}
	for _, up := range []float64{pole, 36, 20, 52} { // flags of one time stand above each other
		v.Y = y - up
		if l.free(box{x - 2, v.Y - 6, x + 11, v.Y + 6}) {
			break
		}
	}
	v.Pole = fmt.Sprintf("M%.1f %.1fV%.1f", x, y, v.Y-4)
	v.Path = fmt.Sprintf("M%.1f %.1fh10l-3 4 3 4h-10z", x, v.Y-4)
	l.taken = append(l.taken, box{x - 1, v.Y, x + 1, y})
	l.Flags = append(l.Flags, v)
	if in.Kind != "broken" {
		return
	}
	end, _ := l.x(in.Ready)
	if end = max(end, x+2); end-x < 1 {
		return
	}
	at := y - 66
	d := weekLate{Words: in.Late, X: (x + end) / 2, Y: at,
		Path: fmt.Sprintf("M%.1f %.1fV%.1fM%.1f %.1fV%.1fM%.1f %.1fH%.1f", x, v.Y-6, at-5, end, y-4, at-5, x, at, end)}
	if end-x > 24 {
		d.Tips = fmt.Sprintf("M%.1f %.1fl8 -3.5v7zM%.1f %.1fl-8 -3.5v7z", x, at, end, at)
	}
	long := float64(len([]rune(in.Late))) * weekLetter
	if d.X-long/2 < l.Left {
		d.X = l.Left + long/2
	}
	if d.X+long/2 > l.Right {
		d.X = l.Right - long/2
	}
	l.taken = append(l.taken, box{d.X - long/2, at - 12, d.X + long/2, at + 4})
	l.Late = append(l.Late, d)
}

// proposed draws a place that a job could have, with a flag for what could be promised there.
func (l *weekLayout) proposed(in *WeekProposed) {
	if in.Lane < 0 || in.Lane >= len(l.Lanes) || !l.shown(in.From, in.To) {
		return
	}
	x0, _ := l.x(in.From)
	x1, _ := l.x(in.To)
	x1 = max(x1, x0+8)
	y, depth := l.Lanes[in.Lane].Y, diveDepth(in.Steps)
	l.Proposed = append(l.Proposed, weekProposed{Label: in.Label, Path: DivePath(x0, x1, y, depth, in.Steps), X: (x0 + x1) / 2,
		Y: y + depth})
	l.taken = append(l.taken, box{x0 - 1, y - 3, x1 + 1, y + depth})
	l.flag(&WeekFlag{Label: in.Label + ": " + in.Promise.Format("15:04"), Lane: in.Lane, At: in.Promise, Kind: "proposed"})
}

// flagName puts a flag's name beside its head, at the right or the left of it, or above.
func (l *weekLayout) flagName(v *weekFlag) {
	label := v.Label
	if v.Kind == "honest" {
		label = "honest " + v.At.Format("15:04")
	}
	x := v.X
	v.Name = l.text(label, []weekName{{"", x + 14, v.Y + 4, false}, {"", x - 5, v.Y + 4, true}, {"", x + 14, v.Y - 9, false},
		{"", x - 5, v.Y - 9, true}, {"", x + 14, v.Y - 22, false}})
}

// parcel is what comes, with a line to each job that begins with it: through the gap between two days where it has to pass a
// lane.
func (l *weekLayout) parcel(in *WeekParcel, starts map[int64]*weekDive) {
	x, ok := l.x(in.At)
	if !ok {
		return
	}
	v := weekParcel{WeekParcel: *in, Whole: in.What, X: x, Y: l.PartsY}
	v.Name = l.text(in.Label, []weekName{{"", x + 11, l.PartsY - 2, false}, {"", x - 11, l.PartsY - 2, true}})
	if v.Name.Text != "" && in.What != "" {
		what := []rune(in.What)
		if len(what) > 18 {
			what = append(what[:17], '…')
		}
		v.What = string(what)
	} else {
		v.What = ""
	}
	var p strings.Builder
	for _, job := range in.Jobs {
		d := starts[job]
		if d == nil {
			continue
		}
		turn, lane := l.PartsY+26, l.Lanes[d.Lane-1].Y
		if d.Lane == 1 {
			fmt.Fprintf(&p, "M%.1f %.1fV%.1fH%.1fV%.1f", x, l.PartsY+8, turn, d.X, lane-2)
			continue
		}
		gap := l.Left - 6
		for _, day := range l.Days {
			if day.X <= d.X+0.5 && day.X > l.Left {
				gap = day.X - weekGap/2
			}
		}
		fmt.Fprintf(&p, "M%.1f %.1fV%.1fH%.1fV%.1fH%.1fV%.1f", x, l.PartsY+8, turn, gap, lane-14, d.X, lane-2)
	}
	v.Leader = p.String()
	l.Parcels = append(l.Parcels, v)
}
