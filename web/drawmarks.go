package web

import (
	"fmt"
	"math"
	"sort"
	"strconv"

	"yembo/core/hw"
)

// socketMark is a memory socket: a bracket open on one edge.
type socketMark struct {
	X, Y, W, H float64
	ID         string
	Bracket    string // path of the bracket
	MidX, MidY float64
	Unknown    bool
}

// chipMark is soldered memory: filled blocks, flush with the board.
type chipMark struct {
	X, Y, W, H float64
	Blocks     []box
}

// slotMark is an M.2 slot: the connector, the room of the longest module at its true
// size, and a post at each length.
type slotMark struct {
	X, Y, W, H float64
	Plug       box // the connector's edge
	ID         string
	MidX, MidY float64
	Turned     bool // the label runs along the slot
	Posts      []post
	Leads      []lead
	Unknown    bool // its lengths are not yet known
	Optional   bool // only on some configurations
}

// post is what holds a module of one length.
type post struct {
	X, Y           float64
	LabelX, LabelY float64
	Anchor         string // of the label: start or middle
	Label          string
	How            string // fitted, movable, needs, none
	X1, Y1, X2, Y2 float64
}

// lead is an antenna lead from a wireless slot to the hinge.
type lead struct {
	Path  string
	White bool
}

func chips(r rect) chipMark {
	c := chipMark{X: r.x, Y: r.y, W: r.w, H: r.h}
	const pad, gap = 4.0, 4.0
	w, h := (r.w-2*pad-gap)/2, (r.h-2*pad-gap)/2
	for row := range 2 {
		for col := range 2 {
			c.Blocks = append(c.Blocks, box{X: r.x + pad + float64(col)*(w+gap), Y: r.y + pad + float64(row)*(h+gap), W: w, H: h})
		}
	}
	return c
}

func bracket(r rect, id string) socketMark {
	m := socketMark{X: r.x, Y: r.y, W: r.w, H: r.h, ID: id, MidX: r.x + r.w/2, MidY: r.y + r.h/2 + 4}
	m.Bracket = fmt.Sprintf("M%.1f,%.1f V%.1f H%.1f V%.1f", r.x, r.y+r.h, r.y, r.x+r.w, r.y+r.h)
	return m
}

// connectorMM is how much of a slot's length the connector takes.
const connectorMM = 4.0

// slot draws an M.2 slot. The connector lies at the left, turned by turn_deg.
func (d *inside) slot(s *hw.Slot, r rect) slotMark {
	p := d.px(r)
	m := slotMark{X: p.x, Y: p.y, W: p.w, H: p.h, ID: s.ID, MidX: p.x + p.w/2, MidY: p.y + p.h/2 + 4, Unknown: s.Lengths == nil, Optional: s.OnlyOn != ""}
	turn := 0
	if s.At != nil {
		turn = s.At.Turn.Or(0)
	}
	if s.At == nil || p.h > p.w {
		if turn%180 == 0 && p.h > p.w {
			turn = 90
		}
	}
	plug := connectorMM * d.scale
	// along gives the point at a distance from the connector, in the middle of the slot.
	var along func(mm float64) (x, y float64)
	switch turn {
	case 90:
		m.Plug = box{X: p.x, Y: p.y, W: p.w, H: plug}
		along = func(mm float64) (float64, float64) { return p.x + p.w/2, p.y + plug + mm*d.scale - 2 }
	case 180:
		m.Plug = box{X: p.x + p.w - plug, Y: p.y, W: plug, H: p.h}
		along = func(mm float64) (float64, float64) { return p.x + p.w - plug - mm*d.scale + 2, p.y + p.h/2 }
	case 270:
		m.Plug = box{X: p.x, Y: p.y + p.h - plug, W: p.w, H: plug}
		along = func(mm float64) (float64, float64) { return p.x + p.w/2, p.y + p.h - plug - mm*d.scale + 2 }
	default:
		m.Plug = box{X: p.x, Y: p.y, W: plug, H: p.h}
		along = func(mm float64) (float64, float64) { return p.x + plug + mm*d.scale - 2, p.y + p.h/2 }
	}
	upright := turn == 90 || turn == 270
	// The name stands near the connector, where no post is.
	m.MidX, m.MidY = along(14)
	m.MidY += 4
	m.posts(s, along, upright)
	if s.Purpose == "wireless" {
		for i, colour := range s.Antennas {
			x := p.x + p.w*float64(i+1)/float64(len(s.Antennas)+1)
			up := d.Y0 + 4 + float64(i)*7
			m.Leads = append(m.Leads, lead{Path: fmt.Sprintf("M%.1f,%.1f V%.1f H%.1f V%.1f", x, p.y+plug, up+4, d.X0+d.OutW*0.84+float64(i)*8, d.Y0), White: colour == "white"})
		}
	}
	return m
}

func (m *slotMark) posts(s *hw.Slot, along func(float64) (float64, float64), upright bool) {
	var lengths []int
	for text := range s.Lengths {
		if mm, err := strconv.Atoi(text); err == nil {
			lengths = append(lengths, mm)
		}
	}
	sort.Ints(lengths)
	for _, mm := range lengths {
		how := s.Lengths[strconv.Itoa(mm)]
		if _, needed := hw.Needs(how); needed {
			how = "needs"
		}
		if s.Purpose != "storage" && len(lengths) == 1 {
			continue // a card's one post needs no number
		}
		x, y := along(float64(mm))
		p := post{X: x, Y: y, Label: strconv.Itoa(mm), How: how}
		// The number stands inside the slot, beside the post or above it.
		if upright {
			p.X -= m.W * 0.14
			p.LabelX, p.LabelY, p.Anchor = p.X+8, math.Max(m.Y+12, math.Min(y+4, m.Y+m.H-4)), "start"
			p.X1, p.Y1, p.X2, p.Y2 = p.X, y-9, p.X, y+9
		} else {
			p.Y += m.H * 0.14
			p.LabelX, p.LabelY, p.Anchor = math.Max(m.X+10, math.Min(x, m.X+m.W-10)), p.Y-8, "mid"
			p.X1, p.Y1, p.X2, p.Y2 = x-9, p.Y, x+9, p.Y
		}
		m.Posts = append(m.Posts, p)
	}
}
