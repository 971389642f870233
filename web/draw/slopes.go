package draw

import (
	"math"

	"yembo/core/hw"
	"yembo/core/proof"
)

// Slope is a measure before and after on one scale from nought: dots are medians, short strokes the
// runs. What is not comparable is cut off and never joined; what waits is dashed to nothing.
type Slope struct {
	W, H              float64
	BeforeX, AfterX   float64
	Top, Ground       float64
	BeforeY, AfterY   float64
	Before, After     string
	HasBefore         bool
	HasAfter          bool
	Joined            bool
	RunsBefore        []float64
	RunsAfter         []float64
	BeforeLY, AfterLY float64
	Says              string
}

// SlopeOf draws a measure.
func SlopeOf(m *proof.Measure, j proof.Judgement) *Slope {
	d := &Slope{W: 220, H: 120, BeforeX: 74, AfterX: 152, Top: 10, Ground: 100}
	most := 0.0
	for _, side := range [][]hw.Dec{m.Before.Runs, m.After.Runs} {
		for _, r := range side {
			most = math.Max(most, r.Float())
		}
	}
	if most == 0 {
		most = 1
	}
	y := func(v hw.Dec) float64 { return math.Round((d.Ground-(d.Ground-d.Top-6)*v.Float()/most)*10) / 10 }
	for _, r := range m.Before.Runs {
		d.RunsBefore = append(d.RunsBefore, y(r))
	}
	for _, r := range m.After.Runs {
		d.RunsAfter = append(d.RunsAfter, y(r))
	}
	if v, ok := j.Before.Get(); ok {
		d.Before, d.BeforeY, d.HasBefore = v.String(), y(v), true
	}
	if v, ok := j.After.Get(); ok {
		d.After, d.AfterY, d.HasAfter = v.String(), y(v), true
	}
	d.BeforeLY, d.AfterLY = d.BeforeY+5, d.AfterY+5
	d.Joined = d.HasBefore && d.HasAfter && j.Judged != proof.Other
	d.Says = m.Name + ": before " + d.Before + ", after " + d.After + " " + m.Unit
	return d
}
