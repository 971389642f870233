package web

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// layout is where everything lies on the base, in millimetres: as recorded, else
// where such a thing usually lies, so that nothing must be placed by hand.
type layout struct {
	at            map[string]rect // by place id, packs as battery:ID
	names         []string        // in the order of the chassis
	proposed      []string
	unknownMemory rect
	width, depth  float64 // of the outline
}

// proposeLayout starts from the recorded places. What has none is set down in free
// spots: memory at the upper right, drives at the left, the pack along the front.
func proposeLayout(ch *hw.Chassis, width, depth float64) *layout {
	l := &layout{at: map[string]rect{}, width: width, depth: depth, unknownMemory: rect{width * 0.6, depth * 0.12, 70, 32}}
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
		l.names = append(l.names, w.name)
		if r, ok := rectOf(w.at, w.w, w.h); ok {
			l.at[w.name] = r
		}
	}
	// What is large is set down first: it has the fewest spots left.
	slices.SortStableFunc(wishes, func(a, b wish) int { return cmp.Compare(b.w*b.h, a.w*a.h) })
	for _, w := range wishes {
		if _, placed := l.at[w.name]; !placed {
			if other, ok := l.otherPack(ch, w.name); ok {
				l.at[w.name] = other
			} else {
				l.at[w.name] = l.free(rect{w.x0, w.y0, w.w, w.h}, width, depth)
			}
			l.proposed = append(l.proposed, w.name)
		}
	}
	for _, x := range ch.Open() {
		if r, ok := rectOf(x.At, 30, 20); ok {
			l.at["suspected:"+x.ID] = r
		}
	}
	return l
}

// otherPack is where a pack lies that is fitted in place of the first: from the same
// corner, as much wider as it holds more, and into whatever it shuts out.
func (l *layout) otherPack(ch *hw.Chassis, name string) (rect, bool) {
	i := ch.BatteryByID(strings.TrimPrefix(name, "battery:"))
	if !strings.HasPrefix(name, "battery:") || i < 1 {
		return rect{}, false
	}
	r := l.at["battery:"+ch.Batteries[0].ID]
	if first := ch.Batteries[0].DesignWh.Or(0); first > 0 {
		r.w *= float64(ch.Batteries[i].DesignWh.Or(first)) / float64(first)
	}
	for _, other := range l.names {
		if o, placed := l.at[other]; placed && ch.Excluded(name, other) && o.x > r.x {
			r.w = max(r.w, o.x+o.w*0.35-r.x)
		}
	}
	r.w = min(r.w, l.width-4-r.x)
	return r, true
}

// told says which things lie on each other although they can be used together, and
// which leave the outline. Both are allowed: boards have two sides, and outlines are
// measured by hand.
func (l *layout) told(ch *hw.Chassis) []string {
	var out []string
	bare := func(name string) string { return strings.TrimPrefix(name, "battery:") }
	for i, a := range l.names {
		for _, b := range l.names[:i] {
			packs := strings.HasPrefix(a, "battery:") && strings.HasPrefix(b, "battery:")
			over, ok := l.at[a].overlap(l.at[b])
			if !ok || packs || over.w < 0.5 || over.h < 0.5 || ch.Excluded(a, b) {
				continue
			}
			out = append(out, fmt.Sprintf("%s and %s lie on each other, %s × %s mm", bare(b), bare(a), mm(over.w), mm(over.h)))
		}
	}
	for _, name := range l.names {
		r := l.at[name]
		for _, side := range []struct {
			by   float64
			name string
		}{{-r.x, "left"}, {-r.y, "top"}, {r.x + r.w - l.width, "right"}, {r.y + r.h - l.depth, "bottom"}} {
			if side.by >= 0.5 {
				out = append(out, fmt.Sprintf("%s leaves the outline at the %s by %s mm", bare(name), side.name, mm(side.by)))
			}
		}
	}
	return out
}

// uncovered is the widest part of a place beside what shares its room but cannot be
// used together with it: there is room for words.
func (l *layout) uncovered(ch *hw.Chassis, name string) rect {
	r := l.at[name]
	for _, other := range l.names {
		if other == name || !ch.Excluded(name, other) {
			continue
		}
		over, ok := r.overlap(l.at[other])
		if !ok || over.w >= r.w {
			continue
		}
		left, right := over.x-r.x, r.x+r.w-over.x-over.w
		if right >= left {
			r = rect{over.x + over.w, r.y, right, r.h}
			continue
		}
		r.w = left
	}
	return r
}

// free moves a rectangle down, then across, until it lies on nothing; where there is
// no room it stays where it was.
func (l *layout) free(want rect, width, depth float64) rect {
	for _, dx := range []float64{0, 26, 52, 78, -80, -110, -140, -170} {
		for y := want.y; y+want.h <= depth-4; y += 4 {
			r := rect{want.x + dx, y, want.w, want.h}
			if r.x < 4 || r.x+r.w > width-4 {
				break
			}
			taken := false
			for _, other := range l.at {
				if _, over := r.overlap(other); over {
					taken = true
					break
				}
			}
			if !taken {
				return r
			}
		}
	}
	return want
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
