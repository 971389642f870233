package draw

import (
	"fmt"
	"math"
	"strings"
	"yembo/core/hw"
	"yembo/core/teardown"
)

// Mat is the sheet that screws are laid on: the base's own outline, printed at a known
// scale, on which each screw is laid where it came from. Heads lie on their holes; shanks are
// drawn at their true length whatever the scale, so that a screw can be laid against its mark.
// All measures here are millimetres of paper.
type Mat struct {
	ID, Name, Code string
	Paper          string // a4 or letter
	Scale          string // "3 : 4"
	True           bool   // printed at 1 : 1
	FitsTrue       bool   // one sheet holds it at 1 : 1
	Tiles          int    // sheets at 1 : 1
	Job            []string
	Query          string // of the job, for the links
	Sheets         []MatSheet
	Screws         int
	NoPlaces       []ScrewGroup // whose places are not recorded
	Unmeasured     bool
}

// MatSheet is one sheet of paper.
type MatSheet struct {
	W, H           float64 // of the paper
	Number, Of     int
	Title, Sub     string
	Clip           Box // the window on the outline
	OffX, OffY     float64
	Scale          float64
	OutW, OutH     float64
	Places         []matPlace
	Screws         []matScrew
	Crosses        []Point // registration marks, where sheets meet
	Legend         []matGroup
	Mind           []string
	Boxes          []matBoxes
	Loose, Captive int
	Note           string
	Notebook       bool
	LegendX        float64
	MindY, BoxesY  float64
	FootY          float64
	RuleTo         float64
}

type matPlace struct {
	X, Y, W, H float64
	CX, CY     float64
	Name       string
}

type matScrew struct {
	X, Y    float64
	Letter  string
	Shank   float64 // true length
	Up      bool    // the shank points up, where the edge is near
	Captive bool
	Hidden  bool
	Odd     string // words on its pennant
	OddLeft bool
	ShankY  float64
}

type matGroup struct {
	Y            float64
	Letter       string
	Shank        float64
	Captive      bool
	Count, Words string
}

type matBoxes struct {
	Y      float64
	Letter string
	Boxes  []float64
}

// Papers lie on their long side.
var papers = map[string][2]float64{"a4": {297, 210}, "letter": {279.4, 215.9}}

const (
	matMargin = 8.0
	matHead   = 12.0
	matFoot   = 12.0
	matLegend = 41.0
	matLap    = 10.0 // what two sheets share
)

// matScales are the scales that are stated, largest first.
var matScales = []struct {
	factor float64
	words  string
}{{1, "1 : 1"}, {0.9, "9 : 10"}, {0.8, "4 : 5"}, {0.75, "3 : 4"}, {2.0 / 3, "2 : 3"}, {0.6, "3 : 5"}, {0.5, "1 : 2"},
	{0.4, "2 : 5"}, {0.25, "1 : 4"}, {0.1, "1 : 10"}}

// jobGroups are the groups that the way to some places turns; nil for no places: all.
func jobGroups(ch *hw.Chassis, job []string) map[string]bool {
	if len(job) == 0 {
		return nil
	}
	var reaches []string
	for _, t := range job {
		reach, _ := ch.ReachOf(t)
		reaches = append(reaches, reach)
	}
	out := map[string]bool{}
	for i, done := range teardown.Down(ch, reaches) {
		if done {
			for _, f := range ch.Steps[i].Fasteners {
				out[f.Group] = true
			}
		}
	}
	return out
}

// MatOf lays the mat out on a paper: at the largest scale that one sheet holds, or at
// 1 : 1 on as many as that takes.
func MatOf(ch *hw.Chassis, paper string, atTrue bool, job []string, workshop string) Mat {
	var known []string
	for _, t := range job {
		if _, ok := ch.ReachOf(t); ok {
			known = append(known, t)
		}
	}
	width, depth := OutlineOf(ch)
	size := papers[paper]
	v := Mat{ID: ch.ID, Name: ch.Name(), Code: ch.Code, Paper: paper, Job: known, Unmeasured: ch.Outline == nil}
	for _, t := range known {
		v.Query += "&t=" + t
	}
	roomW, roomH := size[0]-2*matMargin-matLegend, size[1]-2*matMargin-matHead-matFoot
	fit := matScales[len(matScales)-1]
	for _, x := range matScales {
		if width*x.factor <= roomW && depth*x.factor <= roomH {
			fit = x
			break
		}
	}
	v.FitsTrue = fit.factor == 1
	tileW, tileH := size[0]-2*matMargin, size[1]-2*matMargin-matHead-matFoot
	columns := int(math.Max(1, math.Ceil((width-matLap)/(tileW-matLap))))
	rows := int(math.Max(1, math.Ceil((depth-matLap)/(tileH-matLap))))
	v.Tiles = columns*rows + 1
	v.True, v.Scale = atTrue || v.FitsTrue, fit.words
	if v.True {
		v.Scale = "1 : 1"
	}
	base := MatSheet{W: size[0], H: size[1], Scale: fit.factor, OutW: width * fit.factor, OutH: depth * fit.factor,
		Title: ch.Name(), Notebook: ch.Kind == "notebook", FootY: size[1] - matMargin - 3, RuleTo: size[0] - matMargin}
	if atTrue && !v.FitsTrue {
		base.Scale, base.OutW, base.OutH = 1, width, depth
	}
	base.Sub = strings.TrimPrefix(ch.Code+", screw mat", ", ")
	v.fillScrews(ch, &base, jobGroups(ch, known))
	if !atTrue || v.FitsTrue {
		base.OffX, base.OffY = matMargin, matMargin+matHead
		base.Clip = Box{X: matMargin - 2, Y: matMargin + matHead - 4, W: base.OutW + 4, H: base.OutH + 8}
		base.LegendX = size[0] - matMargin - matLegend + 5
		base.Note = fmt.Sprintf("Outline %s, screws 1 : 1. %s. Sheet 1 of 1", v.Scale, workshop)
		base.Number, base.Of = 1, 1
		v.Sheets = []MatSheet{base}
		return v
	}
	for row := range rows {
		for column := range columns {
			sheet := base
			sheet.Legend, sheet.Mind, sheet.Boxes = nil, nil, nil
			sheet.Clip = Box{X: matMargin, Y: matMargin + matHead, W: tileW, H: tileH}
			sheet.OffX = matMargin - float64(column)*(tileW-matLap)
			sheet.OffY = matMargin + matHead - float64(row)*(tileH-matLap)
			for _, x := range []float64{matMargin + matLap/2, matMargin + tileW - matLap/2} {
				for _, y := range []float64{matMargin + matHead + matLap/2, matMargin + matHead + tileH - matLap/2} {
					sheet.Crosses = append(sheet.Crosses, Point{X: x, Y: y})
				}
			}
			sheet.Number, sheet.Of = len(v.Sheets)+1, v.Tiles
			sheet.Note = fmt.Sprintf("1 : 1, lay cross on cross. Row %d, column %d. Sheet %d of %d", row+1, column+1,
				sheet.Number, sheet.Of)
			v.Sheets = append(v.Sheets, sheet)
		}
	}
	legend := base
	legend.Screws, legend.Places, legend.OutW = nil, nil, 0
	legend.LegendX = matMargin
	legend.Number, legend.Of = v.Tiles, v.Tiles
	legend.Note = fmt.Sprintf("%s. Sheet %d of %d", workshop, v.Tiles, v.Tiles)
	v.Sheets = append(v.Sheets, legend)
	return v
}
