package draw

import (
	"strconv"
	"strings"

	"yembo/core/hw"
	"yembo/core/teardown"
)

// The reach chart is a section through the ground: rows are steps deep, a step that
// several places share is one floor under all of them, walls part where ways part, and
// the isolating floor is thick. Names hang under their floor.

// Reach is the chart ready for the template, in pixels.
type Reach struct {
	W, H   float64
	Rows   []reachRow
	Floors []reachFloor
	Places []reachPlace
}

type reachRow struct {
	Number string
	Y      float64 // of its middle
	Floor  float64
}

type reachFloor struct {
	X, Y, W, H      float64
	Words, Whole    string // as the room allows, and in full
	Minutes         string
	TextX, MinutesX float64
	TextY           float64
	Isolates        bool
}

type reachPlace struct {
	X, Y    float64
	Name    string
	Words   string
	Unknown bool
}

const (
	reachLeft  = 52.0
	reachRowH  = 27.0
	reachLeast = 104.0 // width of a column
	reachMost  = 150.0 // width that a long step may ask for
	reachWidth = 1200.0
	reachPad   = 14.0 // left and right of a step's words
	reachChar  = 6.5
)

// ReachOf lays the chart out; nil where no reach is recorded.
func ReachOf(ch *hw.Chassis) *Reach {
	targets := teardown.Targets(ch)
	if len(targets) == 0 {
		return nil
	}
	floors, places := teardown.Chart(ch, targets)
	walls := reachWalls(ch, floors, len(places))
	v := &Reach{W: walls[len(places)] + 2}
	deepest := 0
	for _, f := range floors {
		deepest = max(deepest, f.Depth)
		st := &ch.Steps[f.Step]
		x := walls[f.From]
		w := walls[f.To] - x
		y := reachRowH * float64(f.Depth-1)
		r := reachFloor{X: x, Y: y, W: w, H: reachRowH, TextX: x + 8, TextY: y + 18, MinutesX: x + w - 8,
			Isolates: st.IsolatesPwr.Or(false)}
		room := w - reachPad
		if minutes := teardown.StepMinutes(st).Shown().String() + " min"; w > 170 {
			r.Minutes = minutes
			room -= 62
		}
		r.Words, r.Whole = reachStep(ch, st, room), hw.LowerFirst(StepWords(ch, st))
		v.Floors = append(v.Floors, r)
	}
	unknown := map[string]bool{}
	for i := range ch.Suspected {
		unknown[ch.Suspected[i].ID] = true
	}
	for _, p := range places {
		words := strconv.Itoa(p.Depth) + " steps, " + p.Minutes.Shown().String() + " min"
		if p.Depth == 1 {
			words = "1 step, " + p.Minutes.Shown().String() + " min"
		}
		v.Places = append(v.Places, reachPlace{X: walls[p.Column] + 8, Y: reachRowH * float64(p.Depth),
			Name: CutTo(p.Name, int((walls[p.Column+1]-walls[p.Column]-22)/8.4)), Words: words,
			Unknown: unknown[p.Name]})
	}
	for n := 1; n <= deepest; n++ {
		v.Rows = append(v.Rows, reachRow{strconv.Itoa(n), reachRowH*float64(n) - 9, reachRowH * float64(n)})
	}
	v.H = reachRowH*float64(deepest) + 42
	return v
}

// reachWalls places the walls between the columns: one that holds a step of its own gets
// the room its words need, and what is left is shared evenly.
func reachWalls(ch *hw.Chassis, floors []teardown.Floor, columns int) []float64 {
	need := make([]float64, columns)
	left := reachWidth - reachLeft
	for i := range need {
		need[i] = reachLeast
	}
	for _, f := range floors {
		if f.To-f.From == 1 {
			need[f.From] = max(need[f.From], min(reachMost, textWidth(BareStep(ch, &ch.Steps[f.Step]))+reachPad))
		}
	}
	for _, w := range need {
		left -= w
	}
	walls := []float64{reachLeft}
	for _, w := range need {
		walls = append(walls, walls[len(walls)-1]+w+max(0, left/float64(columns)))
	}
	return walls
}

// BareStep is what is done to which part, without more.
func BareStep(ch *hw.Chassis, st *hw.Step) string {
	bare, _, _ := strings.Cut(StepWords(ch, st), ", ")
	bare, _, _ = strings.Cut(bare, ": ")
	return strings.Replace(bare, " the ", " ", 1)
}

// reachStep says a step in as many words as the room, in pixels, allows: whole, without
// what can be read on the step list, or cut.
func reachStep(ch *hw.Chassis, st *hw.Step, room float64) string {
	if st.Verb == "power_down" {
		return "power off"
	}
	whole := StepWords(ch, st)
	plain, _, _ := strings.Cut(whole, ": ")
	_, more, _ := strings.Cut(plain, ", ")
	bare := BareStep(ch, st)
	first, _, _ := strings.Cut(more, ", ")
	for _, words := range []string{whole, plain, bare + ", " + more, bare + ", " + first,
		bare + ", " + strings.Replace(first, " screws", "", 1), bare} {
		if textWidth(words) <= room && !strings.HasSuffix(words, ", ") {
			return hw.LowerFirst(words)
		}
	}
	return hw.LowerFirst(CutTo(bare, int(room/reachChar)))
}

// textWidth estimates how wide a text at 12 px is; the narrow and the wide letters make
// the difference between a word that fits and one that is cut.
func textWidth(text string) float64 {
	w := 0.0
	for _, r := range text {
		switch {
		case strings.ContainsRune("iljtfr.,:;' ", r):
			w += 3.9
		case strings.ContainsRune("mwMW", r):
			w += 9.6
		default:
			w += 6.4
		}
	}
	return w
}

// CutTo cuts a text to so many letters.
func CutTo(text string, letters int) string {
	r := []rune(text)
	if len(r) <= letters {
		return text
	}
	return string(r[:max(letters-1, 0)]) + "…"
}
