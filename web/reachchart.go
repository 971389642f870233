package web

import (
	"math"
	"strings"

	"yembo/core/hw"
	"yembo/core/teardown"
)

// The reach chart is a section through the ground: rows are steps deep, a step that
// several places share is one floor under all of them, walls part where ways part, and
// the isolating floor is thick. Names hang under their floor.

// reachView is the chart ready for the template, in pixels.
type reachView struct {
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
	Words, Minutes  string
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
	reachLeast = 112.0 // width of a column
	reachWidth = 1200.0
	reachChar  = 6.5
)

// drawReach lays the chart out; nil where no reach is recorded.
func drawReach(ch *hw.Chassis) *reachView {
	targets := teardown.Targets(ch)
	if len(targets) == 0 {
		return nil
	}
	floors, places := teardown.Chart(ch, targets)
	column := math.Max(reachLeast, (reachWidth-reachLeft)/float64(len(places)))
	v := &reachView{W: reachLeft + column*float64(len(places)) + 2}
	deepest := 0
	for _, f := range floors {
		deepest = max(deepest, f.Depth)
		st := &ch.Steps[f.Step]
		w := column * float64(f.To-f.From)
		x := reachLeft + column*float64(f.From)
		y := reachRowH * float64(f.Depth-1)
		r := reachFloor{X: x, Y: y, W: w, H: reachRowH, TextX: x + 8, TextY: y + 18, MinutesX: x + w - 8, Isolates: st.IsolatesPwr.Or(false)}
		room := w - 14
		if minutes := teardown.StepMinutes(st).Shown().String() + " min"; w > 170 {
			r.Minutes = minutes
			room -= 62
		}
		r.Words = cutTo(reachStep(ch, st), int(room/reachChar))
		v.Floors = append(v.Floors, r)
	}
	unknown := map[string]bool{}
	for i := range ch.Suspected {
		unknown[ch.Suspected[i].ID] = true
	}
	for _, p := range places {
		words := itoa(p.Depth) + " steps, " + p.Minutes.Shown().String() + " min"
		if p.Depth == 1 {
			words = "1 step, " + p.Minutes.Shown().String() + " min"
		}
		v.Places = append(v.Places, reachPlace{X: reachLeft + column*float64(p.Column) + 8, Y: reachRowH * float64(p.Depth), Name: cutTo(p.Name, int((column-22)/8.4)), Words: words, Unknown: unknown[p.Name]})
	}
	for n := 1; n <= deepest; n++ {
		v.Rows = append(v.Rows, reachRow{itoa(n), reachRowH*float64(n) - 9, reachRowH * float64(n)})
	}
	v.H = reachRowH*float64(deepest) + 42
	return v
}

// reachStep says a step in a few words.
func reachStep(ch *hw.Chassis, st *hw.Step) string {
	if st.Verb == "power_down" {
		return "power off"
	}
	words := []rune(stepWords(ch, st))
	return strings.ToLower(string(words[:1])) + string(words[1:])
}

func cutTo(text string, letters int) string {
	r := []rune(text)
	if len(r) <= letters {
		return text
	}
	return string(r[:max(letters-1, 0)]) + "…"
}
