package draw

import "yembo/core/hw"

// Small is the inside of a model as lists show it: the base with what lies in it, without words, in a
// box of 96 by 68.
type Small struct {
	X, Y, W, H float64 // the base
	Marks      []SmallMark
	Unmeasured bool
}

// SmallMark is a thing in a small drawing. Class is solid for what is soldered, place for a place, pack
// for a pack.
type SmallMark struct {
	Rect
	Class string
}

// The size of a small drawing.
const (
	smallWidth = 96.0
	smallDepth = 68.0
)

// SmallOf draws the inside of a model small.
func SmallOf(ch *hw.Chassis) *Small {
	width, depth := OutlineOf(ch)
	scale := min((smallWidth-2)/width, (smallDepth-2)/depth)
	d := &Small{W: tenths(width * scale), H: tenths(depth * scale), Unmeasured: ch.Outline == nil}
	d.X, d.Y = tenths((smallWidth-d.W)/2), tenths((smallDepth-d.H)/2)
	l := Propose(ch, width, depth)
	add := func(name, class string) {
		if r, ok := l.At[name]; ok {
			d.Marks = append(
				d.Marks,
				SmallMark{Rect{tenths(d.X + r.X*scale), tenths(d.Y + r.Y*scale), tenths(r.W * scale), tenths(r.H * scale)}, class},
			)
		}
	}
	packs := false
	for _, p := range ch.Places() {
		switch {
		case p.Kind != hw.InPack:
			add(p.Name, "place")
		case !packs:
			add(p.Name, "pack")
			packs = true
		}
	}
	for i := range ch.Mem().Soldered {
		add(ch.Memory.Soldered[i].ID, "solid")
	}
	return d
}

func tenths(v float64) float64 { return float64(int(v*10+0.5)) / 10 }
