package draw

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
	Blocks     []Box
}

// slotMark is an M.2 slot: the connector, the room of the longest module at its true
// size, and a post at each length.
type slotMark struct {
	X, Y, W, H float64
	Plug       Box // the connector's edge
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

func chips(r Rect) chipMark {
	c := chipMark{X: r.X, Y: r.Y, W: r.W, H: r.H}
	const pad, gap = 4.0, 4.0
	w, h := (r.W-2*pad-gap)/2, (r.H-2*pad-gap)/2
	for row := range 2 {
		for col := range 2 {
			c.Blocks = append(c.Blocks, Box{X: r.X + pad + float64(col)*(w+gap), Y: r.Y + pad + float64(row)*(h+gap),
				W: w, H: h})
		}
	}
	return c
}

func bracket(r Rect, id string) socketMark {
	m := socketMark{X: r.X, Y: r.Y, W: r.W, H: r.H, ID: id, MidX: r.X + r.W/2, MidY: r.Y + r.H/2 + 4}
	m.Bracket = fmt.Sprintf("M%.1f,%.1f V%.1f H%.1f V%.1f", r.X, r.Y+r.H, r.Y, r.X+r.W, r.Y+r.H)
	return m
}

// connectorMM is how much of a slot's length the connector takes.
const connectorMM = 4.0

// slot draws an M.2 slot. The connector lies at the left, turned by turn_deg.
func (d *Inside) slot(s *hw.Slot, r Rect) slotMark {
	p := d.px(r)
	m := slotMark{X: p.X, Y: p.Y, W: p.W, H: p.H, ID: s.ID, MidX: p.X + p.W/2, MidY: p.Y + p.H/2 + 4,
		Unknown: s.Lengths == nil, Optional: s.OnlyOn != ""}
	turn := 0
	if s.At != nil {
		turn = s.At.Turn.Or(0)
	}
	if s.At == nil || p.H > p.W {
		if turn%180 == 0 && p.H > p.W {
			turn = 90
		}
	}
	plug := connectorMM * d.scale
	// along gives the point at a distance from the connector, in the middle of the slot.
	var along func(mm float64) (x, y float64)
	switch turn {
	case 90:
		m.Plug = Box{X: p.X, Y: p.Y, W: p.W, H: plug}
		along = func(mm float64) (float64, float64) { return p.X + p.W/2, p.Y + plug + mm*d.scale - 2 }
	case 180:
		m.Plug = Box{X: p.X + p.W - plug, Y: p.Y, W: plug, H: p.H}
		along = func(mm float64) (float64, float64) { return p.X + p.W - plug - mm*d.scale + 2, p.Y + p.H/2 }
	case 270:
		m.Plug = Box{X: p.X, Y: p.Y + p.H - plug, W: p.W, H: plug}
		along = func(mm float64) (float64, float64) { return p.X + p.W/2, p.Y + p.H - plug - mm*d.scale + 2 }
	default:
		m.Plug = Box{X: p.X, Y: p.Y, W: plug, H: p.H}
		along = func(mm float64) (float64, float64) { return p.X + plug + mm*d.scale - 2, p.Y + p.H/2 }
	}
	upright := turn == 90 || turn == 270
	// The name stands near the connector, where no post is.
	m.MidX, m.MidY = along(14)
	m.MidY += 4
	m.posts(s, along, upright)
	if s.Purpose == "wireless" {
		for i, colour := range s.Antennas {
			x := p.X + p.W*float64(i+1)/float64(len(s.Antennas)+1)
			up := d.Y0 + 4 + float64(i)*7
			m.Leads = append(m.Leads, lead{Path: fmt.Sprintf("M%.1f,%.1f V%.1f H%.1f V%.1f", x, p.Y+plug, up+4,
				d.X0+d.OutW*0.84+float64(i)*8, d.Y0), White: colour == "white"})
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
