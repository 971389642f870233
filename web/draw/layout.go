package draw

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// Layout is where everything lies on the base, in millimetres: as recorded, else
// where such a thing usually lies, so that nothing must be placed by hand.
type Layout struct {
	At            map[string]Rect // by place id, packs as battery:ID
	Names         []string        // in the order of the chassis
	Proposed      []string
	unknownMemory Rect
	Width, Depth  float64 // of the outline
}

// Propose starts from the recorded places. What has none is set down in free
// spots: memory at the upper right, drives at the left, the pack along the front.
func Propose(ch *hw.Chassis, width, depth float64) *Layout {
	l := &Layout{At: map[string]Rect{}, Width: width, Depth: depth,
		unknownMemory: Rect{width * 0.6, depth * 0.12, 70, 32}}
	type wish struct {
		name   string
		at     *hw.At
		w, h   float64
		x0, y0 float64 // where to start looking
	}
	var wishes []wish
	mem := ch.Mem()
	for i := range mem.Soldered {
		wishes = append(wishes, wish{mem.Soldered[i].ID, mem.Soldered[i].At, 26, 34, width * 0.46, depth * 0.16})
	}
	for _, p := range ch.Places() {
		w := wish{name: p.Name, at: p.At}
		switch p.Kind {
		case hw.InSocket:
			w.w, w.h, w.x0, w.y0 = 70, 32, width-82, 16
		case hw.InSlot:
			w.w, w.h, w.x0, w.y0 = 22, slotLength(&ch.Slots[p.Index])+connectorMM, 12, 10
			if p.At != nil && p.At.Turn.Or(0)%180 == 0 {
				w.w, w.h = w.h, w.w
			}
			if p.Takes != hw.KindDrive {
				w.x0 = width * 0.62
			}
		case hw.InBay:
			w.w, w.h = ch.Bays[p.Index].Form.Size()
			w.x0, w.y0 = width-w.w-6, depth-w.h-16
		case hw.InPack:
			w.w, w.h, w.x0, w.y0 = width*0.58, depth*0.4, 10, depth*0.6-10
		}
		wishes = append(wishes, w)
	}
	for _, w := range wishes {
		l.Names = append(l.Names, w.name)
		if r, ok := RectOf(w.at, w.w, w.h); ok {
			l.At[w.name] = r
		}
	}
	for _, x := range ch.Open() { // what is suspected was seen somewhere: proposals keep away from it
		if r, ok := RectOf(x.At, 30, 20); ok {
			l.At["suspected:"+x.ID] = r
		}
	}
	if mem.Sockets == nil {
		l.unknownMemory = l.free(l.unknownMemory, width, depth)
		l.At[unknownMemory] = l.unknownMemory
		defer delete(l.At, unknownMemory)
	}
	// What is large is set down first: it has the fewest spots left.
	slices.SortStableFunc(wishes, func(a, b wish) int { return cmp.Compare(b.w*b.h, a.w*a.h) })
	for _, w := range wishes {
		if _, placed := l.At[w.name]; !placed {
			if other, ok := l.otherPack(ch, w.name); ok {
				l.At[w.name] = other
			} else {
				l.At[w.name] = l.free(Rect{w.x0, w.y0, w.w, w.h}, width, depth)
			}
			l.Proposed = append(l.Proposed, w.name)
		}
	}
	return l
}

// unknownMemory holds the room of memory that nobody has looked for yet.
const unknownMemory = "memory?"

// otherPack is where a pack lies that is fitted in place of the first: from the same
// corner, as much wider as it holds more, and into whatever it shuts out.
func (l *Layout) otherPack(ch *hw.Chassis, name string) (Rect, bool) {
	i := ch.BatteryByID(strings.TrimPrefix(name, "battery:"))
	if !strings.HasPrefix(name, "battery:") || i < 1 {
		return Rect{}, false
	}
	r := l.At["battery:"+ch.Batteries[0].ID]
	if first := ch.Batteries[0].DesignWh.Or(0); first > 0 {
		r.W *= float64(ch.Batteries[i].DesignWh.Or(first)) / float64(first)
	}
	for _, other := range l.Names {
		if o, placed := l.At[other]; placed && ch.Excluded(name, other) && o.X > r.X {
			r.W = max(r.W, o.X+o.W*0.35-r.X)
		}
	}
	r.W = min(r.W, l.Width-4-r.X)
	for _, other := range l.Names { // it does not grow over what can be used beside it
		o, placed := l.At[other]
		if over, hits := r.overlap(o); placed && hits && over.W > 0 && !strings.HasPrefix(other, "battery:") &&
			!ch.Excluded(name, other) {
			r.W = min(r.W, o.X-r.X)
		}
	}
	return r, r.W > 0 && r.H > 0
}

// Told says which things lie on each other although they can be used together, and
// which leave the outline. Both are allowed: boards have two sides, and outlines are
// measured by hand.
func (l *Layout) Told(ch *hw.Chassis) []string {
	var out []string
	bare := func(name string) string { return strings.TrimPrefix(name, "battery:") }
	for i, a := range l.Names {
		for _, b := range l.Names[:i] {
			packs := strings.HasPrefix(a, "battery:") && strings.HasPrefix(b, "battery:")
			over, ok := l.At[a].overlap(l.At[b])
			if !ok || packs || over.W < 0.5 || over.H < 0.5 || ch.Excluded(a, b) {
				continue
			}
			out = append(out, fmt.Sprintf("%s and %s overlap by %s × %s mm", bare(b), bare(a), MM(over.W),
				MM(over.H)))
		}
	}
	for _, name := range l.Names {
		r := l.At[name]
		for _, side := range []struct {
			by   float64
			name string
		}{{-r.X, "left"}, {-r.Y, "top"}, {r.X + r.W - l.Width, "right"}, {r.Y + r.H - l.Depth, "bottom"}} {
			if side.by >= 0.5 {
				out = append(out, fmt.Sprintf("%s leaves the outline at the %s by %s mm", bare(name), side.name,
					MM(side.by)))
			}
		}
	}
	return out
}

// uncovered is the widest part of a place beside what shares its room but cannot be
// used together with it: there is room for words.
func (l *Layout) uncovered(ch *hw.Chassis, name string) Rect {
	r := l.At[name]
	for _, other := range l.Names {
		if other == name || !ch.Excluded(name, other) {
			continue
		}
		over, ok := r.overlap(l.At[other])
		if !ok || over.W >= r.W {
			continue
		}
		left, right := over.X-r.X, r.X+r.W-over.X-over.W
		if right >= left {
			r = Rect{over.X + over.W, r.Y, right, r.H}
			continue
		}
		r.W = left
	}
	return r
}

// free is the spot nearest to a wished one where a rectangle lies on nothing and within the base. Where
// the base is too full for it, it is drawn smaller: a proposal shows that there is such a thing, and
// never lies on another.
func (l *Layout) free(want Rect, width, depth float64) Rect {
	const margin, grid, least = 4, 4, 4
	for scale := 1.0; want.W*scale >= least && want.H*scale >= least; scale *= 0.85 {
		w, h := math.Min(want.W*scale, width-2*margin), math.Min(want.H*scale, depth-2*margin)
		best, found := Rect{}, math.Inf(1)
		try := func(x, y float64) {
			r := Rect{math.Max(margin, math.Min(x, width-margin-w)), math.Max(margin, math.Min(y, depth-margin-h)), w, h}
			if off := math.Hypot(r.X-want.X, r.Y-want.Y); off < found && !l.taken(r) {
				best, found = r, off
			}
		}
		try(want.X, want.Y)
		if !math.IsInf(found, 1) {
			return best
		}
		for x := float64(margin); x+w <= width-margin+0.01; x += grid {
			for y := float64(margin); y+h <= depth-margin+0.01; y += grid {
				try(x, y)
			}
		}
		if !math.IsInf(found, 1) {
			return best
		}
	}
	return Rect{margin, margin, least, least}
}

// taken reports whether something lies there already.
func (l *Layout) taken(r Rect) bool {
	for _, other := range l.At {
		if _, over := r.overlap(other); over {
			return true
		}
	}
	return false
}

// slotLength is the longest module that a slot is recorded for; 80 mm where nobody
// knows.
func slotLength(s *hw.Slot) float64 {
	longest := 0
	for text := range s.Lengths {
		if mm, err := strconv.Atoi(text); err == nil {
			longest = max(longest, mm)
		}
	}
	if longest == 0 && s.Purpose == "storage" {
		return 80
	}
	return float64(max(longest, 30))
}
