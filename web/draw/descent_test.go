package draw

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"yembo/core/card"
	"yembo/core/hw"
	"yembo/core/run"
)

// dive is a model whose way in is so many steps, each behind the one before, with random minutes.
func dive(t *testing.T, steps int, r *rand.Rand) *run.Plan {
	t.Helper()
	ch := &hw.Chassis{Kind: hw.Notebook, Batteries: []hw.Battery{{ID: "pack"}}}
	for i := range steps {
		st := hw.Step{ID: fmt.Sprintf("s%d", i), Verb: hw.Lift, Part: "part", Minutes: hw.Known(hw.Dec(r.IntN(8_000_000)))}
		if i > 0 {
			st.Needs = []string{fmt.Sprintf("s%d", i-1)}
		}
		if i == steps/3 {
			st.Verb, st.IsolatesPwr = hw.Unplug, hw.Known(true)
		}
		ch.Steps = append(ch.Steps, st)
	}
	p, err := run.Make(t.Context(), run.Input{Chassis: ch, Machine: &hw.Machine{}, Parts: &hw.Parts{}})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// TestDescent: however many steps a run has, each is wide enough to be seen, in its order, as deep as
// it is, and no number stands in another one.
func TestDescent(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for _, steps := range []int{1, 2, 5, 13, 20, 40} {
		p := dive(t, steps, r)
		d := DescentOf(p)
		x, deepest := d.Left, 0.0
		type spot struct{ x, y float64 }
		var labels []spot
		for i, n := range d.Nodes {
			if n.X < x+leastStep-.01 || n.ColX != x {
				t.Fatalf("%d steps: step %d reaches from %.1f to %.1f", steps, i+1, x, n.X)
			}
			x = n.X
			deepest = math.Max(deepest, n.Y)
			if n.Label == "" {
				continue
			}
			for _, l := range labels {
				if math.Abs(l.x-n.LX) < 12 && math.Abs(l.y-n.LY) < 9 {
					t.Errorf("%d steps: the number %s stands in another", steps, n.Label)
				}
			}
			labels = append(labels, spot{n.LX, n.LY})
		}
		if math.Abs(x-d.Right) > .5 || d.Nodes[len(d.Nodes)-1].Y != d.Surface || deepest > d.H-20 {
			t.Errorf("%d steps: it ends at %.1f of %.1f, %.1f deep in %.1f", steps, x, d.Right, deepest, d.H)
		}
		if last := d.Ticks[len(d.Ticks)-1]; last.At > d.Right+.5 || len(labels) < len(d.Nodes)/4 {
			t.Errorf("%d steps: the last minute stands at %.1f, %d numbers of %d", steps, last.At, len(labels), len(d.Nodes))
		}
		first := FirstDescentOf(p)
		if n := len(first.Nodes); n != steps || first.Ahead == "" {
			t.Errorf("a first opening of %d steps draws %d", steps, n)
		}
	}
}

// TestZoom: the window of a step holds all its screws and its place, and lies within the machine.
func TestZoom(t *testing.T) {
	ch := &hw.Chassis{Kind: hw.Notebook, Outline: &hw.Outline{Width: hw.DecOf(300), Depth: hw.DecOf(200)},
		Slots: []hw.Slot{
			{
				ID: "m2a",
				At: &hw.At{X: hw.DecOf(250), Y: hw.DecOf(20), Width: hw.Known(hw.DecOf(22)), Height: hw.Known(hw.DecOf(80))},
			},
		},
		Fasteners: []hw.Fastener{
			{ID: "far", Order: []int{2, 1}, At: []hw.At{{X: hw.DecOf(5), Y: hw.DecOf(5)}, {X: hw.DecOf(295), Y: hw.DecOf(195)}}},
			{ID: "none"},
		}}
	far := ZoomOf(ch, &run.Step{Kind: run.Down, Lays: []run.Lot{{Group: "far"}, {Group: "none"}}})
	for _, s := range far.Screws {
		if s.X < far.X || s.X > far.X+far.W || s.Y < far.Y || s.Y > far.Y+far.H {
			t.Errorf("the screw at %v lies outside of %+v", s, far)
		}
	}
	if far.Whole || len(far.Unplaced) != 1 || far.Screws[0].N != 2 {
		t.Errorf("%+v", far)
	}
	slot := ZoomOf(ch, &run.Step{Kind: run.Fit, ID: "m2a"})
	if slot.W >= far.W || slot.Spot == nil || slot.X+slot.W > 300*mapScale+17 || slot.X > 250*mapScale {
		t.Errorf("the window on a slot at the edge: %+v", slot)
	}
	if z := ZoomOf(ch, &run.Step{Kind: run.Down, ID: "unknown"}); !z.Whole || z.Spot != nil {
		t.Errorf("a step that nobody placed: %+v", z)
	}
	// A cover is pushed towards the hinge, which is up in the drawing, and comes back down.
	ch.Steps = []hw.Step{{ID: "cover", Verb: hw.Slide, Toward: hw.TowardHinge, At: &hw.At{X: hw.DecOf(100), Y: hw.DecOf(90)}},
		{ID: "lift", Verb: hw.Lift, Toward: hw.TowardUp}}
	ends := func(kind run.Kind) (from, to float64) {
		var x float64
		z := ZoomOf(ch, &run.Step{Kind: kind, ID: "cover", At: ch.Steps[0].At})
		if _, err := fmt.Sscanf(z.Arrow, "M%f %fL%f %f", &x, &from, &x, &to); err != nil {
			t.Fatalf("%q: %v", z.Arrow, err)
		}
		return from, to
	}
	if from, to := ends(run.Down); to >= from {
		t.Errorf("the arrow goes from %v to %v", from, to)
	}
	if from, to := ends(run.Up); to <= from {
		t.Errorf("on the way back it goes from %v to %v", from, to)
	}
	if z := ZoomOf(ch, &run.Step{Kind: run.Down, ID: "lift"}); z.Arrow != "" {
		t.Errorf("straight up is drawn as %q", z.Arrow)
	}
	cells := FitCellsOf(
		ch,
		&card.Fit{
			ID:    "m2a",
			In:    &hw.Part{Drive: &hw.Drive{Length: hw.Known(42)}},
			Moves: []card.Move{{Kind: card.MoveOut}, {Kind: card.MovePost, From: 80, To: 42}, {Kind: card.MoveSeat}},
		},
	)
	if len(cells) != 2 || cells[0].From <= cells[0].To || cells[0].ToL != "42" || !cells[1].Long ||
		cells[1].End != cells[0].To {
		t.Errorf("%+v", cells)
	}
}
