// Package grade says how easily a model is upgraded, as a sum that shows itself (docs/rules.md, How easily).
package grade

import (
	"fmt"
	"slices"

	"yembo/core/hw"
	"yembo/core/teardown"
)

// Kind is what is graded.
type Kind string

// The kinds, in the order of a grade.
const (
	Memory   Kind = "memory"
	Drives   Kind = "drives"
	Battery  Kind = "battery"
	Wireless Kind = "wireless"
	Cooling  Kind = "cooling"
)

// Kinds is the table of kinds.
var Kinds = hw.Vocabulary[Kind]{{Word: Memory, Says: "Memory"}, {Word: Drives, Says: "Drives"}, {Word: Battery, Says: "Battery"},
	{Word: Wireless, Says: "Wireless"}, {Word: Cooling, Says: "Cooling"}}

// Weights are how much each kind counts.
type Weights map[Kind]int

// Usual are the weights of a shop that set none.
var Usual = Weights{Memory: 3, Drives: 3, Battery: 2, Wireless: 1, Cooling: 1}

// MostWeight is the most that a kind counts.
const MostWeight = 20

// Of is the weight of a kind, the usual one where none is set.
func (w Weights) Of(k Kind) int {
	if n, set := w[k]; set {
		return n
	}
	return Usual[k]
}

// What a place loses of its ten points.
const (
	Full      = 10
	FreeSteps = 4 // lose nothing
	ForStep   = 1
	ForSeal   = 2
	ForGlue   = 2
	ForBoard  = 4
)

// Mark is why a point is lost: a step past the fourth, a seal, glue, the board.
type Mark string

// The marks.
const (
	Step  Mark = "v"
	Seal  Mark = "s"
	Glue  Mark = "g"
	Board Mark = "b"
)

// Row is one kind of a grade: its easiest place, with what it keeps and why it loses the rest.
type Row struct {
	Kind   Kind
	Place  string // "" where there is none
	Points int
	Lost   []Mark // one for each point lost, at most ten
	Weight int
	Fixed  bool // all of it is soldered, or comes with the board
	Known  bool // false: how to get there, or whether it is there, is not known, and it counts nothing
}

// Sum is the row's points times its weight.
func (r Row) Sum() int { return r.Points * r.Weight }

// Grade is how easily a model is upgraded.
type Grade struct {
	Rows    []Row
	Sum     int
	Of      int // what it could be at most
	Unknown int // of Of, what may be added once all kinds are known
}

// Make grades a model. A kind that the model has not at all is left out: a machine without a battery is not the worse
// for it.
func Make(ch *hw.Chassis, w Weights) Grade {
	var g Grade
	for _, t := range Kinds {
		row, has := rowOf(ch, t.Word)
		if !has {
			continue
		}
		row.Weight = w.Of(t.Word)
		g.Rows = append(g.Rows, row)
		g.Sum += row.Sum()
		g.Of += Full * row.Weight
		if !row.Known {
			g.Unknown += Full * row.Weight
		}
	}
	return g
}

// Percent is the grade out of a hundred, to the nearest, as far as it is known: what is not known counts nothing.
func (g Grade) Percent() int { return g.percent(g.Sum) }

// Most is what the grade may be at most: that with all that is not known as easy as can be.
func (g Grade) Most() int { return g.percent(g.Sum + g.Unknown) }

func (g Grade) percent(sum int) int {
	if g.Of == 0 {
		return 0
	}
	return (sum*200 + g.Of) / (2 * g.Of)
}

// Words is the grade in words: "83 of 100", or "57 to 67 of 100" where a kind is not known.
func (g Grade) Words() string {
	if g.Unknown == 0 {
		return fmt.Sprintf("%d of 100", g.Percent())
	}
	return fmt.Sprintf("%d to %d of 100", g.Percent(), g.Most())
}

// rowOf grades the easiest place of a kind; has is false where the record says that the model has none of it.
func rowOf(ch *hw.Chassis, k Kind) (row Row, has bool) {
	row.Kind = k
	type place struct{ id, reach string }
	var places []place
	told := true // the record says which places there are
	for _, p := range ch.Places() {
		if p.Kind != hw.InPack && kindOf(p.Takes) == k {
			places = append(places, place{p.ID, p.Reach})
		}
	}
	switch k {
	case Memory:
		told = ch.Mem().Sockets != nil
		if told && len(places) == 0 {
			row.Known, row.Fixed = true, true
			return row, true
		}
	case Drives:
		told = ch.Slots != nil && ch.Bays != nil
	case Wireless:
		told = ch.Slots != nil
	case Battery:
		told = ch.Batteries != nil
		if len(ch.Batteries) > 0 {
			places = []place{{hw.BatteryPlace, ch.BatteryReach}}
		}
	case Cooling:
		for i := range ch.Services {
			places = append(places, place{ch.Services[i].ID, ch.Services[i].Reach})
		}
		if len(places) == 0 {
			return row, false
		}
	}
	if told && len(places) == 0 {
		if k == Drives { // all there is comes with the board
			row.Known, row.Fixed = true, true
			return row, true
		}
		return row, false
	}
	for _, p := range places {
		depth := teardown.DepthOf(ch, p.reach)
		if !depth.Known {
			continue
		}
		points, lost := pointsOf(&depth)
		if !row.Known || points > row.Points {
			row.Known, row.Place, row.Points, row.Lost = true, p.id, points, lost
		}
	}
	return row, true
}

func kindOf(takes hw.PartKind) Kind {
	switch takes {
	case hw.KindMemory:
		return Memory
	case hw.KindDrive:
		return Drives
	case hw.KindBattery:
		return Battery
	case hw.KindWireless:
		return Wireless
	case hw.KindAccessory: // nothing is graded for it
	}
	return ""
}

// pointsOf is what a place keeps of ten, and why it loses each other point.
func pointsOf(d *teardown.Depth) (points int, lost []Mark) {
	lose := func(n int, m Mark) { lost = append(lost, slices.Repeat([]Mark{m}, n)...) }
	lose(ForStep*max(0, d.Steps-FreeSteps), Step)
	if d.Sealed {
		lose(ForSeal, Seal)
	}
	if d.Glued {
		lose(ForGlue, Glue)
	}
	if d.Board {
		lose(ForBoard, Board)
	}
	// The heavier reasons show where all ten are lost.
	if len(lost) > Full {
		lost = lost[len(lost)-Full:]
	}
	return Full - len(lost), lost
}
