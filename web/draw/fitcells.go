package draw

import (
	"yembo/core/card"
	"yembo/core/hw"
)

// FitCell is one move of the hands at a place, as a section through it: slot, pad and post
// never change place from cell to cell, and what the hand does now stands out.
type FitCell struct {
	N     int
	Title string
	Kind  card.MoveKind
	Long  bool // a module in a slot, drawn along its length; else from above
	From  float64
	To    float64 // where the post stands and is to stand, px
	End   float64 // where the module ends, px
	Wide  float64 // how long it is drawn
	FromL string
	ToL   string
	Pad   bool // a pad lies under the module
	Leads []FitLead
}

// FitLead is an antenna lead on its post.
type FitLead struct {
	X     float64
	White bool
	Name  string
}

const (
	cellSlot = 24.0 // where the socket ends
	cellMM   = 1.55 // px a mm
)

// FitCellsOf draws the moves at a place. What comes out stands beside the cells and has none.
func FitCellsOf(ch *hw.Chassis, f *card.Fit) []FitCell {
	var out []FitCell
	length, pad := 0, false
	if i := ch.SlotByID(f.ID); i >= 0 {
		cool := ch.Slots[i].Cooling.Or("")
		pad = cool != "" && cool != hw.NoCooling
	}
	if f.In != nil {
		switch {
		case f.In.Drive != nil:
			length = f.In.Drive.Length.Or(0)
		case f.In.Wireless != nil:
			length = f.In.Wireless.Length.Or(0)
		}
	}
	long := ch.SlotByID(f.ID) >= 0
	if length == 0 {
		length = 80
	}
	at := func(mm int) float64 { return cellSlot + cellMM*float64(mm) }
	for _, m := range f.Moves {
		if m.Kind == card.MoveOut {
			continue
		}
		c := FitCell{N: len(out) + 1, Title: m.Title, Kind: m.Kind, Long: long, End: at(length), Wide: at(length) - 20, Pad: pad}
		if m.Kind == card.MovePost {
			if m.To > 0 {
				c.To, c.ToL = at(m.To), MM(float64(m.To))
			}
			if m.From > 0 && m.From != m.To {
				c.From, c.FromL = at(m.From), MM(float64(m.From))
			}
		}
		for i, colour := range m.Leads {
			c.Leads = append(c.Leads, FitLead{X: 70 + 34*float64(i), White: colour == "white" || colour == "grey", Name: colour})
		}
		out = append(out, c)
	}
	return out
}
