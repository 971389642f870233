package draw

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"
)

// TestWeekDrawn: over random weeks, wide and narrow, nothing lies outside of the drawing, jobs of a lane stand in the order of
// time, no name lies on another or on a flag's pole, and each promise in the days has its flag.
func TestWeekDrawn(t *testing.T) {
	rnd := rand.New(rand.NewPCG(29, 1))
	for round := range 400 {
		in := WeekIn{Width: []float64{1206, 362}[round%2], Now: time.Date(2026, 5, 11+rnd.IntN(7), rnd.IntN(24), 0, 0, 0, time.UTC)}
		for i := range 1 + 4*((round+1)%2) {
			day := time.Date(2026, 5, 11+i, 9, 0, 0, 0, time.UTC)
			in.Days = append(in.Days, WeekDay{From: day, To: day.Add(9 * time.Hour)})
		}
		first, last := in.Days[0].From, in.Days[len(in.Days)-1].To
		moment := func() time.Time {
			d := in.Days[rnd.IntN(len(in.Days))]
			return d.From.Add(time.Duration(rnd.IntN(540)) * time.Minute)
		}
		want := 0
		for lane := range 1 + rnd.IntN(4) {
			in.Lanes = append(in.Lanes, WeekLane{Name: fmt.Sprintf("Bench %d", lane+1)})
			for job := range rnd.IntN(8) {
				from := moment()
				to := from.Add(time.Duration(1+rnd.IntN(200)) * time.Minute)
				id := int64(lane*10 + job)
				in.Dives = append(in.Dives, WeekDive{Job: id, Label: fmt.Sprintf("machine-%d", id), Lane: lane, Steps: rnd.IntN(14),
					Spans: []WeekSpan{{"work", from, to}, {"copy", to, to.Add(time.Hour)},
						{"proof", to.Add(time.Hour), to.Add(75 * time.Minute)}}})
				at := moment()
				in.Flags = append(in.Flags, WeekFlag{Job: id, Label: "m", Lane: lane, At: at, Kind: []string{"kept", "broken"}[rnd.IntN(2)],
					Ready: to.Add(75 * time.Minute), Late: "too late by 3 h"})
				want++
			}
		}
		in.Parcels = append(in.Parcels, WeekParcel{Order: 1, At: moment(), Label: "1", What: "a pack", Jobs: []int64{0, 10}})
		d := DrawWeek(&in)
		if len(d.Flags) != want {
			t.Fatalf("round %d: %d of %d flags, days %v to %v", round, len(d.Flags), want, first, last)
		}
		at := map[int64]float64{}
		for _, x := range d.Dives {
			if x.X < d.Left-1 || x.Hit.X+x.Hit.W > d.Width+12 || x.Hit.Y+x.Hit.H > d.Height {
				t.Fatalf("round %d: a job from %.0f, %.0f wide, in %.0f", round, x.X, x.Hit.W, d.Width)
			}
			at[x.Job] = x.X
		}
		for i, a := range in.Dives {
			for _, b := range in.Dives[:i] {
				if a.Spans[0].From.Before(b.Spans[0].From) && at[a.Job] > at[b.Job]+0.1 {
					t.Fatalf("round %d: %v stands after %v", round, a.Spans[0].From, b.Spans[0].From)
				}
			}
		}
		var names []box
		put := func(n weekName) {
			if n.Text == "" {
				return
			}
			b := box{n.X, n.Y - 9, n.X + float64(len([]rune(n.Text)))*weekLetter, n.Y + 1}
			if n.End {
				b.x0, b.x1 = n.X-(b.x1-b.x0), n.X
			}
			for _, o := range names {
				if b.x0 < o.x1 && o.x0 < b.x1 && b.y0 < o.y1 && o.y0 < b.y1 {
					t.Fatalf("round %d: %q lies on another name", round, n.Text)
				}
			}
			for _, f := range d.Flags {
				if y := d.Lanes[f.Lane].Y; f.X > b.x0 && f.X < b.x1 && f.Y < b.y1 && b.y0 < y {
					t.Fatalf("round %d: a pole runs through %q", round, n.Text)
				}
			}
			names = append(names, b)
		}
		for _, f := range d.Flags {
			put(f.Name)
		}
		for _, x := range d.Dives {
			put(x.Name)
		}
	}
}
