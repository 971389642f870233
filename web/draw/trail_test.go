package draw

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"
)

// TestTrailDrawn: over random lives of jobs, time runs from left to right and inside the drawing,
// no leader crosses another, closed hours in which something happened are not cut out, and no label
// lies on a cut.
func TestTrailDrawn(t *testing.T) {
	rnd := rand.New(rand.NewPCG(7, 7))
	for round := range 3000 {
		from := time.Date(2026, 5, 11+rnd.IntN(7), rnd.IntN(24), rnd.IntN(60), 0, 0, time.UTC)
		in := TrailTime{From: from, Opens: 9, Closes: 18, Stations: make([]time.Time, 8), Ahead: make([]bool, 8),
			OpenOn: func(d time.Weekday) bool { return d != time.Saturday && d != time.Sunday }}
		at := from
		for i := range 1 + rnd.IntN(8) {
			next := at.Add(time.Duration(1+rnd.IntN(1+rnd.IntN(6000))) * time.Minute)
			in.Spans = append(in.Spans, TrailSpan{[]string{"bench", "shop", "parts"}[i%3], at, next, "waits for us"})
			if rnd.IntN(4) > 0 {
				in.Stations[i] = at
			}
			at = next
		}
		in.Until, in.End, in.Closed = at, at.Add(time.Duration(rnd.IntN(9000))*time.Minute), rnd.IntN(4) == 0
		if in.End.After(at) && !in.Closed {
			in.Stations[7], in.Ahead[7], in.Promise = in.End, true, in.End
		}
		d := in.Draw()
		last := 0.0
		for _, b := range d.Bars {
			if b.X < last-0.01 || b.X < trailLeft-0.01 || b.X+b.W > trailW-trailLeft+1.6 {
				t.Fatalf("round %d: a stretch from %v, %v wide, after %v", round, b.X, b.W, last)
			}
			last = b.X
			for _, cut := range d.Cuts {
				if half := float64(len([]rune(b.Text))) * 3.2; b.Text != "" && cut.X > b.Mid-half && cut.X < b.Mid+half {
					t.Fatalf("round %d: %q lies on the cut at %v", round, b.Text, cut.X)
				}
			}
		}
		pieces := in.pieces()
		for _, when := range in.Stations {
			inside := when.IsZero()
			for _, p := range pieces {
				inside = inside || !when.Before(p.from) && !when.After(p.to)
			}
			if !inside {
				t.Fatalf("round %d: %v is cut out", round, when)
			}
		}
		checkLeaders(t, d)
	}
	if got := DurationWords(28*time.Hour + 15*time.Minute); got != "28 h 15 min" {
		t.Errorf("%q", got)
	}
}

// checkLeaders holds that no two leaders cross.
func checkLeaders(t *testing.T, d *Trail) {
	t.Helper()
	type leader struct{ x, top, y, column, foot float64 }
	var all []leader
	for _, l := range d.Leaders {
		var x leader
		if _, err := fmt.Sscanf(l.Path, "M%f %fV%fH%fV%f", &x.x, &x.top, &x.y, &x.column, &x.foot); err != nil {
			t.Fatal(err)
		}
		if x.y < x.top || x.y > x.foot {
			t.Fatalf("a leader turns at %v", x.y)
		}
		all = append(all, x)
	}
	for i := range all {
		for j := range all {
			a, b := all[i], all[j]
			between := func(v, p, q float64) bool { return v > min(p, q)+0.05 && v < max(p, q)-0.05 }
			if i != j && between(a.x, b.x, b.column) && between(b.y, a.top, a.y) ||
				i != j && between(a.column, b.x, b.column) && between(b.y, a.y, a.foot) {
				t.Fatalf("%+v crosses %+v", a, b)
			}
		}
	}
}
