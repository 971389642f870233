package draw

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"yembo/core/hw"
)

// TestProposals: whatever a model has and wherever some of it was seen, what is proposed lies within
// the base and on nothing else, but for packs and what cannot be used together.
func TestProposals(t *testing.T) {
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 1))
		ch := &hw.Chassis{
			Memory:  &hw.Memory{},
			Outline: &hw.Outline{Width: hw.DecOf(180 + r.IntN(220)), Depth: hw.DecOf(120 + r.IntN(150))},
		}
		at := func() *hw.At {
			if r.IntN(3) > 0 {
				return nil
			}
			return &hw.At{X: hw.DecOf(r.IntN(120)), Y: hw.DecOf(r.IntN(80))}
		}
		if r.IntN(4) > 0 {
			for i := range r.IntN(5) {
				ch.Memory.Sockets = append(ch.Memory.Sockets, hw.Socket{ID: fmt.Sprint("dimm", i), At: at()})
			}
		}
		for i := range r.IntN(3) {
			ch.Memory.Soldered = append(ch.Memory.Soldered, hw.Soldered{ID: fmt.Sprint("sold", i), At: at()})
		}
		for i := range r.IntN(5) {
			ch.Slots = append(ch.Slots, hw.Slot{ID: fmt.Sprint("m2", i), Purpose: hw.ForStorage, At: at()})
		}
		for i := range r.IntN(3) {
			ch.Bays = append(ch.Bays, hw.Bay{ID: fmt.Sprint("bay", i), Form: "2.5in", At: at()})
		}
		for i := range r.IntN(3) {
			ch.Batteries = append(ch.Batteries, hw.Battery{ID: fmt.Sprint("pack", i), DesignWh: hw.Known(hw.DecOf(30 + r.IntN(60)))})
		}
		w, d := OutlineOf(ch)
		l := Propose(ch, w, d)
		for _, name := range l.Proposed {
			p := l.At[name]
			if p.X < 0 || p.Y < 0 || p.X+p.W > w+0.01 || p.Y+p.H > d+0.01 || p.W <= 0 || p.H <= 0 {
				t.Errorf("seed %d: %s at %v leaves the base of %v × %v", seed, name, p, w, d)
			}
			for _, other := range l.Names {
				if other == name || len(name) > 8 && name[:8] == "battery:" && len(other) > 8 && other[:8] == "battery:" {
					continue
				}
				if over, hits := p.overlap(l.At[other]); hits && over.W > 0.01 && over.H > 0.01 {
					t.Errorf("seed %d: %s at %v lies on %s at %v", seed, name, p, other, l.At[other])
				}
			}
		}
	}
}
