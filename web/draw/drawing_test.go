package draw

import (
	"fmt"
	"math"
	"math/rand"
	"strconv"
	"strings"
	"testing"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/shop/demo"
)

// drawings are what the drawing tests hold the rule against: the demo's models, and
// machines with places anywhere, on each other too.
func drawings(t *testing.T) []*hw.Chassis {
	data, err := demo.Load(0)
	if err != nil {
		t.Fatal(err)
	}
	out := data.Models
	r := rand.New(rand.NewSource(4))
	for n := range 300 {
		ch := &hw.Chassis{ID: fmt.Sprint("c", n), Kind: "notebook", Memory: &hw.Memory{Sockets: []hw.Socket{}}}
		at := func() *hw.At {
			if r.Intn(4) == 0 {
				return nil
			}
			return &hw.At{X: hw.DecOf(r.Intn(280)), Y: hw.DecOf(r.Intn(190))}
		}
		for i := range r.Intn(6) {
			ch.Memory.Sockets = append(ch.Memory.Sockets,
				hw.Socket{ID: "d" + strconv.Itoa(i), Form: "SO-DIMM", At: at()})
		}
		for i := range r.Intn(5) {
			ch.Slots = append(ch.Slots, hw.Slot{ID: "m" + strconv.Itoa(i), Purpose: "storage", At: at()})
		}
		for i := range r.Intn(3) {
			ch.Batteries = append(ch.Batteries, hw.Battery{ID: "b" + strconv.Itoa(i), At: at()})
		}
		for i := range r.Intn(3) {
			ch.Suspected = append(ch.Suspected,
				hw.Suspected{ID: "s" + strconv.Itoa(i), Text: strings.Repeat("long words ", 9), At: at()})
		}
		out = append(out, ch)
	}
	return out
}

// TestCallOuts: whatever lies where, in both sizes, every place has its call-out in
// the drawing or in the list, call-outs neither overlap nor leave the drawing, and
// no two leaders cross.
func TestCallOuts(t *testing.T) {
	for _, ch := range drawings(t) {
		for _, style := range []drawStyle{Desk, Bench} {
			d := Model(ch, style)
			width, depth := OutlineOf(ch)
			if got, want := len(d.Calls)+len(d.Beside), len(Propose(ch, width, depth).anchors(ch)); got != want {
				t.Errorf("%s: %d of %d call-outs", ch.ID, got, want)
			}
			for i, a := range d.Calls {
				bottom := a.Y + a.MarkAt(style.line)
				if a.X < 0 || a.X+style.call > float64(d.W)+1 || a.Y < style.line-5 || bottom > float64(d.H) ||
					(a.Top && bottom > d.Y0) {
					t.Errorf("%s: call-out %s leaves its room (%v, %v)", ch.ID, a.ID, a.X, a.Y)
				}
				for _, b := range d.Calls[:i] {
					if overlaps(a.X, b.X, style.call) && a.Y-style.line < b.Y+b.MarkAt(style.line) &&
						b.Y-style.line < a.Y+a.MarkAt(style.line) {
						t.Errorf("%s: call-outs %s and %s overlap", ch.ID, a.ID, b.ID)
					}
					if crossed(leaderPoints(t, a.Leader), leaderPoints(t, b.Leader)) {
						t.Errorf("%s: the leaders of %s and %s cross: %s and %s", ch.ID, a.ID, b.ID, a.Leader, b.Leader)
					}
				}
			}
		}
	}
	if d := Model(&hw.Chassis{ID: "c", Kind: "notebook"}, Desk); len(d.Sockets) != 1 || !d.Sockets[0].Unknown ||
		!d.Unmeasured {
		t.Error("sockets that nobody knows are not drawn as not yet known")
	}
}

func overlaps(a, b, size float64) bool { return a < b+size && b < a+size }

// leaderPoints reads the corners of a leader.
func leaderPoints(t *testing.T, path string) [][2]float64 {
	var x, y float64
	var out [][2]float64
	for _, word := range strings.Fields(path) {
		rest := word[1:]
		var err error
		switch word[0] {
		case 'M', 'L':
			_, err = fmt.Sscanf(rest, "%f,%f", &x, &y)
		case 'H':
			_, err = fmt.Sscanf(rest, "%f", &x)
		case 'V':
			_, err = fmt.Sscanf(rest, "%f", &y)
		}
		if err != nil {
			t.Fatalf("leader %q: %v", path, err)
		}
		out = append(out, [2]float64{x, y})
	}
	return out
}

// crossed reports whether two lines cross properly (touching ends do not count).
func crossed(a, b [][2]float64) bool {
	side := func(p, q, r [2]float64) float64 {
		return math.Round(((q[0]-p[0])*(r[1]-p[1]) - (q[1]-p[1])*(r[0]-p[0])) * 10)
	}
	for i := 1; i < len(a); i++ {
		for k := 1; k < len(b); k++ {
			if side(a[i-1], a[i], b[k-1])*side(a[i-1], a[i], b[k]) < 0 && side(b[k-1], b[k], a[i-1])*side(b[k-1], b[k],
				a[i]) < 0 {
				return true
			}
		}
	}
	return false
}

// TestSettledSuspicion: what was looked at is drawn no more, and nobody is sent to look again.
func TestSettledSuspicion(t *testing.T) {
	ch := &hw.Chassis{ID: "tern", Suspected: []hw.Suspected{{ID: "third", Text: "a third socket?", At: &hw.At{}}}}
	count := func() int {
		n := 0
		for _, b := range Model(ch, Desk).Boxes {
			if b.Class == "unknown" {
				n++
			}
		}
		return n + len(evidence.ToFindOut(ch))
	}
	open := count()
	ch.Suspected[0].Settled = &hw.Settled{As: "nothing", On: "2026-05-14"}
	if settled := count(); open-settled != 2 {
		t.Errorf("%d marks before it was settled, %d after", open, settled)
	}
}
