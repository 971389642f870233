package record

import (
	"errors"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"yembo/shop/base"
	"yembo/shop/records"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// arrangeView is the page on which things are moved and turned. The number fields are
// the truth: without any script they can be typed; the drawing moves them by mouse,
// touch and keys.
type arrangeView struct {
	*form.Form
	ID, Name      string
	Version       int
	Changed       []base.Change
	Things        []draw.Thing
	Screws        []placedScrews
	Told          []string
	W, H          float64 // of the drawing, px
	X0, Y0        float64
	OutW, OutH    float64 // of the outline, px
	Scale         float64 // px a mm
	Width, Depth  float64 // of the outline, mm
	Board         string
	Grid          []gridLine
	RuleX, RuleY  []draw.Tick
	Unmeasured    bool
	CountProposed int
}

type gridLine struct{ X1, Y1, X2, Y2 float64 }

// Measures are the number fields of a place; Turns the ways it may be turned.
func (arrangeView) Measures() []string { return []string{"x_mm", "y_mm", "w_mm", "h_mm"} }

func (arrangeView) Turns() []string { return form.Turns }

// arrangeWidth is the widest drawing, px.
const arrangeWidth = 728.0

func (v *arrangeView) fill(ch *hw.Chassis) {
	width, depth := draw.OutlineOf(ch)
	l := draw.Propose(ch, width, depth)
	v.Things, v.Told, v.Screws = draw.Things(ch, l), l.Told(ch), placedScrewsOf(ch)
	v.Width, v.Depth, v.Unmeasured = width, depth, ch.Outline == nil
	v.Scale = math.Min(arrangeWidth/width, 620/depth)
	v.X0, v.Y0 = 44, 12
	v.OutW, v.OutH = width*v.Scale, depth*v.Scale
	v.W, v.H = v.OutW+v.X0+14, v.OutH+v.Y0+40
	v.RuleX, v.RuleY = draw.Ruler(width, v.Scale, false), draw.Ruler(depth, v.Scale, true)
	for at := 10.0; at < width; at += 10 {
		v.Grid = append(v.Grid, gridLine{at * v.Scale, 0, at * v.Scale, v.OutH})
	}
	for at := 10.0; at < depth; at += 10 {
		v.Grid = append(v.Grid, gridLine{0, at * v.Scale, v.OutW, at * v.Scale})
	}
	for _, p := range ch.Board {
		v.Board += fmt.Sprintf("%.1f,%.1f ", p[0].Float()*v.Scale, p[1].Float()*v.Scale)
	}
	for _, t := range v.Things {
		if t.Proposed {
			v.CountProposed++
		}
	}
}

// arrangeValues are the fields as the page first shows them.
func arrangeValues(ch *hw.Chassis) url.Values {
	width, depth := draw.OutlineOf(ch)
	out := url.Values{}
	for _, t := range draw.Things(ch, draw.Propose(ch, width, depth)) {
		out.Set(t.Field("x_mm"), t.X())
		out.Set(t.Field("y_mm"), t.Y())
		out.Set(t.Field("w_mm"), t.Width())
		out.Set(t.Field("h_mm"), t.Height())
		out.Set(t.Field("turn_deg"), strconv.Itoa(t.Turn))
	}
	for i := range ch.Fasteners {
		out.Set(screwField(ch.Fasteners[i].ID), pointWords(ch.Fasteners[i].At))
	}
	return out
}

func (s *pages) showArrange(c *echo.Context) error {
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	v := arrangeView{Form: form.New(arrangeValues(r.Chassis)), ID: r.Chassis.ID, Name: r.Chassis.Name(),
		Version: r.Version}
	v.fill(r.Chassis)
	return s.Render(c, http.StatusOK, "arrange", "Arrange "+v.Name, "models", v)
}

// readArrange reads the places that differ from what the record shows; all of the
// proposed ones too where they are to be kept.
func readArrange(f *form.Form, ch *hw.Chassis) map[string]any {
	shown := arrangeValues(ch)
	width, depth := draw.OutlineOf(ch)
	out := map[string]any{}
	for _, t := range draw.Things(ch, draw.Propose(ch, width, depth)) {
		changed := false
		for _, name := range []string{"x_mm", "y_mm", "w_mm", "h_mm", "turn_deg"} {
			changed = changed || f.Values.Has(t.Field(name)) && f.Text(t.Field(name)) != shown.Get(t.Field(name))
		}
		if !changed && !(t.Proposed && f.Is("keep", "proposed")) {
			continue
		}
		x, y := f.MM(t.Field("x_mm"), -500), f.MM(t.Field("y_mm"), -500)
		at := hw.At{X: x.Or(0), Y: y.Or(0), Width: f.MM(t.Field("w_mm"), 1), Height: f.MM(t.Field("h_mm"), 1)}
		for name, known := range map[string]bool{"x_mm": x.IsKnown(), "y_mm": y.IsKnown(), "w_mm": at.Width.IsKnown(),
			"h_mm": at.Height.IsKnown()} {
			if !known && len(f.Errors(t.Field(name))) == 0 {
				f.Fault(t.Field(name), hw.Word(hw.FaultMissing, "", "the number"))
			}
		}
		if text, ok := f.Choice(t.Field("turn_deg"), form.Turns).Get(); ok && text != "0" {
			if n, err := strconv.Atoi(text); err == nil {
				at.Turn = hw.Known(n)
			}
		}
		if over := leavesBase(&at, width, depth); t.Kind == "pack" && over != "" {
			f.Fault(t.Field("x_mm"), "a pack cannot leave the base: "+over)
		}
		out[t.Key] = &at
	}
	for i := range ch.Fasteners {
		g := &ch.Fasteners[i]
		name := screwField(g.ID)
		if !f.Values.Has(name) || f.Text(name) == shown.Get(name) {
			continue
		}
		at := f.Points(name)
		if n := g.Count.Or(mostScrews); len(at) > n {
			f.Fault(name, fmt.Sprintf("%d places for %d screws", len(at), n))
		}
		out["fasteners/"+g.ID] = at
		if len(at) == 0 {
			out["fasteners/"+g.ID] = nil
		}
	}
	return out
}

// leavesBase says where a thing leaves the base, "" where it does not.
func leavesBase(at *hw.At, width, depth float64) string {
	r, ok := draw.RectOf(at, 0, 0)
	if !ok {
		return ""
	}
	for _, side := range []struct {
		by   float64
		name string
	}{{-r.X, "left"}, {-r.Y, "top"}, {r.X + r.W - width, "right"}, {r.Y + r.H - depth, "bottom"}} {
		if side.by >= 0.5 {
			return draw.MM(side.by) + " mm over at the " + side.name
		}
	}
	return ""
}

// placedScrews is a group of screws on the page: where they sit is one field, left and top of each.
type placedScrews struct {
	draw.ScrewGroup
	Field string
	Count int
}

// mostScrews is how many places a group of screws has at most that nobody counted.
const mostScrews = 64

func screwField(id string) string { return "/fasteners/" + id + "/at" }

func placedScrewsOf(ch *hw.Chassis) []placedScrews {
	var out []placedScrews
	for i := range ch.Fasteners {
		g := &ch.Fasteners[i]
		out = append(out, placedScrews{draw.ScrewGroupOf(ch, g), screwField(g.ID), g.Count.Or(mostScrews)})
	}
	return out
}

// pointWords are places as they are typed.
func pointWords(list []hw.At) string {
	words := make([]string, len(list))
	for i := range list {
		words[i] = list[i].X.String() + " " + list[i].Y.String()
	}
	return strings.Join(words, ", ")
}

func (s *pages) saveArrange(c *echo.Context) error {
	if err := c.Request().ParseForm(); err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	ctx := c.Request().Context()
	r, err := s.Shop.Model(ctx, c.Param("id"))
	if err != nil {
		return err
	}
	f := form.New(c.Request().PostForm)
	v := arrangeView{Form: f, ID: r.Chassis.ID, Name: r.Chassis.Name(), Version: r.Version}
	again := func(status int) error {
		v.fill(r.Chassis)
		v.show()
		return s.Render(c, status, "arrange", "Not saved", "models", v)
	}
	f.Pick()
	places := readArrange(f, r.Chassis)
	if f.Is("do", "look") {
		return s.tellArrange(c, f, r.Chassis, places)
	}
	if f.Count() > 0 {
		return again(http.StatusUnprocessableEntity)
	}
	version := f.Whole("version").Or(-1)
	err = s.Shop.Arrange(ctx, s.Acting(c), f.Text("token"), v.ID, version, places)
	switch {
	case err == nil:
		return kit.SeeOther(c, "/models/"+v.ID)
	case errors.Is(err, base.ErrChanged):
		then, changes, err := s.Shop.Since(ctx, v.ID, version)
		if err != nil {
			return err
		}
		v.Changed = changes
		f.Merge(arrangeValues(then), arrangeValues(r.Chassis))
		return again(http.StatusConflict)
	case f.Take(err):
		return again(http.StatusUnprocessableEntity)
	}
	return err
}

// show draws the things where the form says, as far as it can be read.
func (v *arrangeView) show() {
	for i := range v.Things {
		t := &v.Things[i]
		for name, into := range map[string]*float64{"x_mm": &t.R.X, "y_mm": &t.R.Y, "w_mm": &t.R.W, "h_mm": &t.R.H} {
			if n, err := strconv.ParseFloat(v.Value(t.Field(name)), 64); err == nil && n >= 0 && n < 1000 {
				*into = n
			}
		}
	}
}

// tellArrange answers the drawing's question what lies on what now.
func (s *pages) tellArrange(c *echo.Context, f *form.Form, ch *hw.Chassis, places map[string]any) error {
	if f.Count() > 0 {
		return s.RenderPart(c, http.StatusUnprocessableEntity, "arrange", "told", []string{"a number cannot be read"})
	}
	next, err := records.Arranged(ch, places)
	if err != nil {
		return err
	}
	width, depth := draw.OutlineOf(next)
	return s.RenderPart(c, http.StatusOK, "arrange", "told", draw.Propose(next, width, depth).Told(next))
}
