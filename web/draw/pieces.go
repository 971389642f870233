package draw

import (
	"fmt"
	"strings"

	"yembo/core/hw"
)

// PieceState is how a piece stands: the solidity of ink says how much of it is at hand.
type PieceState string

// The states, as classes of the drawing.
const (
	PieceFree     PieceState = "free"     // solid
	PieceHeld     PieceState = "held"     // hatched
	PieceTested   PieceState = "tested"   // hollow, with a tick: out of a machine
	PieceUntested PieceState = "untested" // hollow
	PieceComing   PieceState = "coming"   // dotted
	PieceMissing  PieceState = "missing"  // dashed
	PieceNew      PieceState = "new"      // being entered
)

// PieceGroup is pieces that stand alike, with a label behind them.
type PieceGroup struct {
	State PieceState
	N     int
	Label string
	Line  int // the reorder level stands behind these, with this number; 0 for none
}

// Pieces is a row of the shelf: every piece as a mark, its shape the kind of part.
type Pieces struct {
	W, H  float64
	Marks []PieceMark
	Texts []PieceText
	Lines []PieceLine
	Says  string // the same in words
}

// PieceMark is one piece.
type PieceMark struct {
	State PieceState
	X, Y  float64
	Path  string
	Tick  string // a path, "" for none
	Plus  string
}

// PieceText is a label behind pieces.
type PieceText struct {
	X    float64
	Text string
	Tiny bool
}

// PieceLine is a reorder level.
type PieceLine struct{ X float64 }

// pieceShape is the outline of a kind of part, in pixels, not to scale.
type pieceShape struct {
	w, h float64
	path string
}

var (
	shapeModule = pieceShape{30, 12, "M0 0h30v12h-12a3 3 0 0 0-6 0h-12z"}
	shapeKit    = pieceShape{30, 13, "M0 0h30v5.5h-30zM0 7.5h30v5.5h-30z"}
	shapeLong   = pieceShape{30, 9, "M0 0h30v2.5a2 2 0 0 0 0 4v2.5h-30z"}
	shapeShort  = pieceShape{15, 9, "M0 0h15v2.5a2 2 0 0 0 0 4v2.5h-15z"}
	shape25     = pieceShape{25, 18, "M0 0h25v18h-4v-3h-13v3h-8z"}
	shapePack   = pieceShape{30, 15, "M0 4h5v-4h7v4h18v11h-30z"}
	shapeCard   = pieceShape{15, 14, "M0 0h15v14h-15zM3 3h3v3h-3zM9 3h3v3h-3z"}
	shapeCable  = pieceShape{28, 9, "M0 0h8v3h12v-3h8v9h-8v-3h-12v3h-8z"}
	shapeTin    = pieceShape{16, 14, "M3 0h10v3h3v11h-16v-11h3z"}
	shapeDriver = pieceShape{28, 9, "M0 0h12v3h16v3h-16v3h-12z"}
)

func shapeOf(p *hw.Part) pieceShape {
	switch {
	case p.Memory != nil && p.Pieces() > 1:
		return shapeKit
	case p.Memory != nil:
		return shapeModule
	case p.Drive != nil && p.Drive.Form != "":
		return shape25
	case p.Drive != nil && p.Drive.Length.Or(80) < 60:
		return shapeShort
	case p.Drive != nil:
		return shapeLong
	case p.Battery != nil:
		return shapePack
	case p.Wireless != nil:
		return shapeCard
	case p.Kind == "consumable":
		return shapeTin
	case p.Kind == "tool":
		return shapeDriver
	}
	return shapeCable
}

const (
	pieceGap   = 4.0
	pieceRowH  = 24.0
	mostPieces = 10 // of a group that are drawn one by one
	monoWidth  = 7.2
)

// PiecesOf draws groups of a part's pieces, in their order.
func PiecesOf(p *hw.Part, groups []PieceGroup) *Pieces {
	shape := shapeOf(p)
	out := &Pieces{H: pieceRowH}
	x := 0.0
	var said []string
	for _, g := range groups {
		if g.N == 0 && g.Line == 0 {
			continue
		}
		if g.N > 0 {
			said = append(said, strings.TrimSpace(fmt.Sprintf("%d %s %s", g.N, saysPiece[g.State], g.Label)))
		}
		drawn := g.N
		if g.N > mostPieces {
			drawn = 1
		}
		for range drawn {
			m := PieceMark{State: g.State, X: x, Y: (pieceRowH - shape.h) / 2, Path: shape.path}
			switch g.State {
			case PieceTested:
				m.Tick = fmt.Sprintf("M%.1f %.1fl2.5 3l5-6", shape.w/2-4, shape.h/2)
			case PieceNew:
				m.Plus = fmt.Sprintf("M%.1f %.1fh7m-3.5-3.5v7", shape.w/2-3.5, shape.h/2)
			case PieceFree, PieceHeld, PieceUntested, PieceComing, PieceMissing: // they change nothing here
			}
			out.Marks = append(out.Marks, m)
			x += shape.w + pieceGap
		}
		if g.N > mostPieces {
			out.text(&x, fmt.Sprintf("× %d", g.N), false)
		}
		if g.Line > 0 {
			out.Lines = append(out.Lines, PieceLine{x - 1})
			x += 3
			said = append(said, fmt.Sprintf("at least %d wanted", g.Line))
			out.text(&x, fmt.Sprint(g.Line), true)
		}
		if g.Label != "" {
			out.text(&x, g.Label, false)
		}
		if g.State != PieceFree && g.State != PieceNew || g.Line > 0 {
			x += 6
		}
	}
	out.W = max(x, 1)
	out.Says = strings.Join(said, ", ")
	if out.Says == "" {
		out.Says = "none"
	}
	return out
}

func (p *Pieces) text(x *float64, text string, tiny bool) {
	p.Texts = append(p.Texts, PieceText{*x, text, tiny})
	*x += float64(len([]rune(text)))*monoWidth + pieceGap
}

var saysPiece = map[PieceState]string{PieceFree: "free", PieceHeld: "kept for", PieceTested: "pulled, tested",
	PieceUntested: "pulled, untested",
	PieceComing:   "on order", PieceMissing: "missing", PieceNew: "being entered"}

// PieceSample is one mark of a state, for a legend.
func PieceSample(state PieceState) *Pieces {
	return PiecesOf(&hw.Part{Memory: &hw.Module{}}, []PieceGroup{{State: state, N: 1}})
}
