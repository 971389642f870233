package web

import (
	"fmt"
	"math"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/teardown"
	"yembo/web/draw"
)

// The screw mat is a sheet in the base's own outline, printed at a known scale, on which
// each screw is laid where it came from. Heads lie on their holes; shanks are drawn at
// their true length whatever the scale, so that a screw can be laid against its mark. All
// measures here are millimetres of paper.

// matView is the page with its sheets.
type matView struct {
	ID, Name, Code string
	Paper          string // a4 or letter
	Scale          string // "3 : 4"
	True           bool   // printed at 1 : 1
	FitsTrue       bool   // one sheet holds it at 1 : 1
	Tiles          int    // sheets at 1 : 1
	Job            []string
	Query          string // of the job, for the links
	Sheets         []matSheet
	Screws         int
	NoPlaces       []string // groups whose places are not recorded
	Unmeasured     bool
}

// matSheet is one sheet of paper.
type matSheet struct {
	W, H           float64 // of the paper
	Number, Of     int
	Title, Sub     string
	Clip           draw.Box // the window on the outline
	OffX, OffY     float64
	Scale          float64
	OutW, OutH     float64
	Places         []matPlace
	Screws         []matScrew
	Crosses        []draw.Point // registration marks, where sheets meet
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
}{{1, "1 : 1"}, {0.9, "9 : 10"}, {0.8, "4 : 5"}, {0.75, "3 : 4"}, {2.0 / 3, "2 : 3"}, {0.6, "3 : 5"}, {0.5, "1 : 2"}, {0.4, "2 : 5"}, {0.25, "1 : 4"}, {0.1, "1 : 10"}}

func (s *server) showMat(c *echo.Context) error {
	v, err := s.mat(c)
	if err != nil {
		return err
	}
	return s.render(c, http.StatusOK, "mat", "Screw mat of "+v.Name, "models", v)
}

// matFile sends the first sheet as an SVG file, in true millimetres.
func (s *server) matFile(c *echo.Context) error {
	v, err := s.mat(c)
	if err != nil {
		return err
	}
	var out strings.Builder
	out.WriteString(`<?xml version="1.0" encoding="UTF-8"?>` + "\n")
	if err := s.pages.byName["mat"].ExecuteTemplate(&out, "matsheet", v.Sheets[0]); err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="`+v.ID+`-mat.svg"`)
	return c.Blob(http.StatusOK, "image/svg+xml", []byte(out.String()))
}

func (s *server) mat(c *echo.Context) (matView, error) {
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return matView{}, err
	}
	paper, err := s.paperOf(c)
	if err != nil {
		return matView{}, err
	}
	return buildMat(r.Chassis, paper, c.QueryParam("scale") == "1", c.QueryParams()["t"], s.Workshop), nil
}

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

// buildMat lays the mat out on a paper: at the largest scale that one sheet holds, or at
// 1 : 1 on as many as that takes.
func buildMat(ch *hw.Chassis, paper string, atTrue bool, job []string, workshop string) matView {
	var known []string
	for _, t := range job {
		if _, ok := ch.ReachOf(t); ok {
			known = append(known, t)
		}
	}
	width, depth := draw.OutlineOf(ch)
	size := papers[paper]
	v := matView{ID: ch.ID, Name: ch.Name(), Code: ch.Code, Paper: paper, Job: known, Unmeasured: ch.Outline == nil}
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
	base := matSheet{W: size[0], H: size[1], Scale: fit.factor, OutW: width * fit.factor, OutH: depth * fit.factor, Title: ch.Name(), Notebook: ch.Kind == "notebook", FootY: size[1] - matMargin - 3, RuleTo: size[0] - matMargin}
	if atTrue && !v.FitsTrue {
		base.Scale, base.OutW, base.OutH = 1, width, depth
	}
	base.Sub = strings.TrimPrefix(ch.Code+", screw mat", ", ")
	v.fillScrews(ch, &base, jobGroups(ch, known))
	if !atTrue || v.FitsTrue {
		base.OffX, base.OffY = matMargin, matMargin+matHead
		base.Clip = draw.Box{X: matMargin - 2, Y: matMargin + matHead - 4, W: base.OutW + 4, H: base.OutH + 8}
		base.LegendX = size[0] - matMargin - matLegend + 5
		base.Note = fmt.Sprintf("Outline %s, screws 1 : 1. %s. Sheet 1 of 1", v.Scale, workshop)
		base.Number, base.Of = 1, 1
		v.Sheets = []matSheet{base}
		return v
	}
	for row := range rows {
		for column := range columns {
			sheet := base
			sheet.Legend, sheet.Mind, sheet.Boxes = nil, nil, nil
			sheet.Clip = draw.Box{X: matMargin, Y: matMargin + matHead, W: tileW, H: tileH}
			sheet.OffX = matMargin - float64(column)*(tileW-matLap)
			sheet.OffY = matMargin + matHead - float64(row)*(tileH-matLap)
			for _, x := range []float64{matMargin + matLap/2, matMargin + tileW - matLap/2} {
				for _, y := range []float64{matMargin + matHead + matLap/2, matMargin + matHead + tileH - matLap/2} {
					sheet.Crosses = append(sheet.Crosses, draw.Point{X: x, Y: y})
				}
			}
			sheet.Number, sheet.Of = len(v.Sheets)+1, v.Tiles
			sheet.Note = fmt.Sprintf("1 : 1, lay cross on cross. Row %d, column %d. Sheet %d of %d", row+1, column+1, sheet.Number, sheet.Of)
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

// fillScrews draws the screws of the wanted groups, lists them, and says what to mind.
func (v *matView) fillScrews(ch *hw.Chassis, sheet *matSheet, wanted map[string]bool) {
	letters := map[string]string{}
	y := matMargin + matHead + 4
	for i := range ch.Fasteners {
		f := &ch.Fasteners[i]
		if wanted != nil && !wanted[f.ID] {
			continue
		}
		letter := matLetter(len(letters))
		letters[f.ID] = letter
		captive := f.Captive.Or(false)
		shank := f.Length.Or(hw.DecOf(4)).Float()
		count := f.Count.Or(len(f.At))
		v.Screws += count
		if captive {
			sheet.Captive += count
		} else {
			sheet.Loose += count
		}
		if len(f.At) == 0 {
			v.NoPlaces = append(v.NoPlaces, f.ID)
		}
		words := []string{strings.TrimSpace(f.Thread + " × " + lengthOr(f))}
		if captive {
			words = []string{"captive"}
		}
		sheet.Legend = append(sheet.Legend, matGroup{y, letter, shank, captive, fmt.Sprintf("%d of %s", count, f.Bit.Or("?")), draw.CutTo(strings.Join(append(words, strings.TrimSuffix(f.ID, "-screw")), ", "), 19)})
		y += 9.5
		for k := range f.At {
			at := &f.At[k]
			m := matScrew{X: at.X.Float() * sheet.Scale, Y: at.Y.Float() * sheet.Scale, Letter: letter, Shank: shank, Captive: captive, Hidden: f.Hidden != ""}
			m.Up = m.Y+shank+4 > sheet.OutH
			m.ShankY = m.Y + 2.2
			if m.Up {
				m.ShankY = m.Y - 2.2 - shank
			}
			if count == 1 && !captive && len(ch.Fasteners) > 1 {
				m.Odd = "odd one, " + lengthOr(f)
				m.OddLeft = m.X > sheet.OutW-34
			}
			sheet.Screws = append(sheet.Screws, m)
		}
	}
	sheet.MindY = y + 11
	sheet.Mind = mindLines(ch, letters)
	y = sheet.MindY
	if len(sheet.Mind) > 0 {
		y += 10 + 3.7*float64(len(sheet.Mind)) + 4
	}
	sheet.BoxesY = y
	y += 6
	// Counted back in the reverse of the order in which they come out.
	out := refitOrder(ch, letters)
	for _, id := range out {
		f := &ch.Fasteners[ch.FastenerByID(id)]
		if f.Captive.Or(false) {
			continue
		}
		line := matBoxes{Y: y, Letter: letters[id]}
		for n := range min(f.Count.Or(len(f.At)), 60) {
			if n > 0 && n%8 == 0 {
				sheet.Boxes = append(sheet.Boxes, line)
				y += 4.4
				line = matBoxes{Y: y}
			}
			line.Boxes = append(line.Boxes, 5+float64(n%8)*4.2)
		}
		sheet.Boxes = append(sheet.Boxes, line)
		y += 4.9
	}
	sheet.placesOf(ch)
}

// mindLines says which screws must not go into which holes.
func mindLines(ch *hw.Chassis, letters map[string]string) []string {
	shorter := map[string][]string{}
	for _, m := range teardown.MixUps(ch) {
		if letters[m.Long] != "" && letters[m.Short] != "" {
			shorter[letters[m.Long]] = append(shorter[letters[m.Long]], letters[m.Short])
		}
	}
	var out []string
	for i := range ch.Fasteners {
		long := letters[ch.Fasteners[i].ID]
		if names := shorter[long]; len(names) > 0 && len(out) < 15 {
			out = append(out, draw.CutTo(long+" in a hole of "+strings.Join(names, ", ")+":", 26), "too long, can press through.", "Theirs may not hold in "+long+"'s.")
		}
	}
	return out
}

// refitOrder lists groups in the order in which they go back in.
func refitOrder(ch *hw.Chassis, letters map[string]string) []string {
	var taken []string
	seen := map[string]bool{}
	add := func(id string) {
		if letters[id] != "" && !seen[id] {
			seen[id] = true
			taken = append(taken, id)
		}
	}
	for i := range ch.Steps {
		for _, f := range ch.Steps[i].Fasteners {
			add(f.Group)
		}
	}
	for i := range ch.Fasteners {
		add(ch.Fasteners[i].ID)
	}
	for i, k := 0, len(taken)-1; i < k; i, k = i+1, k-1 {
		taken[i], taken[k] = taken[k], taken[i]
	}
	return taken
}

// matLetter is A to Z, then AA and so on.
func matLetter(n int) string {
	if n < 26 {
		return string(rune('A' + n))
	}
	return matLetter(n/26-1) + string(rune('A'+n%26))
}

func lengthOr(f *hw.Fastener) string {
	if mm, ok := f.Length.Get(); ok {
		return mm.String() + " mm"
	}
	return "? mm"
}

// placesOf draws what lies in the machine in thin lines, to find one's way.
func (sheet *matSheet) placesOf(ch *hw.Chassis) {
	width, depth := draw.OutlineOf(ch)
	l := draw.Propose(ch, width, depth)
	for _, t := range thingsOf(ch, l) {
		if t.Kind == "other" || t.Kind == "suspected" || t.Proposed {
			continue
		}
		k := sheet.Scale
		name := t.Name
		if t.Kind == "shape" {
			name = t.What
		}
		if 2*float64(len(name)) > t.R.W*k {
			name = ""
		}
		sheet.Places = append(sheet.Places, matPlace{t.R.X * k, t.R.Y * k, t.R.W * k, t.R.H * k, (t.R.X + t.R.W/2) * k, (t.R.Y + t.R.H/2) * k, name})
	}
}
