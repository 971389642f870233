package draw

import (
	"strings"
	"testing"

	"yembo/core/hw"
)

// TestPieces: every piece is one mark of its state, in the order of the groups and none over another; more
// than ten of a state are one mark with their number; the row says the same in words.
func TestPieces(t *testing.T) {
	module := &hw.Part{Kind: hw.KindMemory, Memory: &hw.Module{}}
	row := PiecesOf(module, []PieceGroup{{State: PieceFree, N: 2}, {State: PieceMissing, N: 1, Line: 3},
		{State: PieceHeld, N: 2, Label: "YB-0004"},
		{State: PieceTested, N: 1}, {State: PieceComing, N: 14, Label: "21 May 26"}, {State: PieceNew, N: 1},
		{State: PieceUntested}})
	var states []string
	x := -1.0
	for _, m := range row.Marks {
		states = append(states, string(m.State))
		if m.X <= x || m.Path == "" {
			t.Errorf("the mark at %.0f lies over the one at %.0f", m.X, x)
		}
		x = m.X + shapeModule.w
		if (m.Tick != "") != (m.State == PieceTested) || (m.Plus != "") != (m.State == PieceNew) {
			t.Errorf("%+v", m)
		}
	}
	if got, want := strings.Join(states, " "), "free free missing held held tested coming new"; got != want {
		t.Errorf("%s, not %s", got, want)
	}
	if len(row.Lines) != 1 || row.Lines[0].X < row.Marks[2].X || row.Lines[0].X > row.Marks[3].X {
		t.Errorf("the reorder level stands at %+v", row.Lines)
	}
	if want := "2 free, 1 missing, at least 3 wanted, 2 kept for YB-0004, 1 pulled, tested, 14 on order 21 May 26, " +
		"1 being entered"; row.Says != want {
		t.Errorf("%q, not %q", row.Says, want)
	}
	for _, text := range row.Texts {
		if text.X > row.W {
			t.Errorf("%q is cut off", text.Text)
		}
	}
	if none := PiecesOf(module, nil); none.Says != "none" || none.Marks != nil {
		t.Errorf("%+v", none)
	}
	shapes := map[string]bool{}
	for _, p := range []hw.Part{*module, {Memory: &hw.Module{}, Count: hw.Known(2)},
		{Drive: &hw.Drive{Form: hw.Form25}}, {Drive: &hw.Drive{Length: hw.Known(30)}},
		{Drive: &hw.Drive{Length: hw.Known(80)}}, {Battery: &hw.Pack{}}, {Wireless: &hw.Card{}}, {Kind: "consumable"},
		{Kind: "tool"}, {Kind: hw.KindAccessory}} {
		shapes[PiecesOf(&p, []PieceGroup{{State: PieceFree, N: 1}}).Marks[0].Path] = true
	}
	if len(shapes) != 10 {
		t.Errorf("only %d kinds of part look different", len(shapes))
	}
}
