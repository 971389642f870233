package bench

import (
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"
	"yembo/shop/base"
	"yembo/shop/records"
	"yembo/shop/work"

	"github.com/labstack/echo/v5"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/run"
	"yembo/exchange/photo"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// runPhoto keeps a photo that was taken at the bench. It says what it refuses as JSON where a script
// asks, and leads back to the run else.
func (s *pages) runPhoto(c *echo.Context) error {
	id, err := kit.Number(c, "job")
	if err != nil {
		return err
	}
	sent, err := c.MultipartForm()
	if err != nil {
		return echo.ErrBadRequest.Wrap(err)
	}
	defer sent.RemoveAll()
	f := form.Of(c, sent.Value)
	scripted := strings.Contains(c.Request().Header.Get("Accept"), "application/json")
	client := f.Text("client")
	err = hw.Faults{{Pointer: "photo", Text: "no picture is chosen"}}
	if files := sent.File["photo"]; len(files) > 0 && files[0].Size > 0 {
		raw, readErr := kit.ReadUpload(files[0], photo.MaxBytes)
		if readErr != nil {
			return readErr
		}
		err = s.Shop.AddJobPhoto(
			c.Request().Context(),
			s.Acting(c),
			"run-"+client,
			id,
			records.PhotoEntry{File: raw, Caption: f.Text("text")},
		)
	}
	var faults hw.Faults
	if err != nil && !errors.As(err, &faults) {
		return err
	}
	refused := kit.FaultTexts(faults)
	if len(refused) == 0 {
		ago, _ := strconv.ParseInt(f.Text("ago"), 10, 64)
		not, err := s.Shop.RunEvents(
			c.Request().Context(),
			s.Acting(c),
			id,
			[]work.SentEvent{{Client: client, Run: int64(f.Whole("run").Or(0)), Kind: run.Photo, Step: f.Text("step"),
				Ago: time.Duration(max(ago, 0)) * time.Millisecond, Data: run.Data{Text: f.Text("text")}}},
		)
		if err != nil {
			return err
		}
		for _, x := range not {
			refused = append(refused, x.Says...)
		}
	}
	switch {
	case scripted && len(refused) > 0:
		return c.JSON(http.StatusUnprocessableEntity, map[string]any{"refused": map[string][]string{client: refused}})
	case scripted:
		return c.JSON(http.StatusOK, map[string]any{})
	case len(refused) > 0:
		return s.refusedRun(c, id, refused)
	}
	return kit.SeeOther(c, runAt(id))
}

// firstView is the page on which the way into a model is recorded as it is gone.
type firstView struct {
	kit.Tabs
	Label, Model, ModelID, Customer string
	Actor, Client                   string
	Descent                         *draw.Descent
	Map                             *draw.RunMap
	N                               int
	Title, Took                     string
	Lots                            []runLot
	Asks                            []firstAsk
	Refused                         []string
	Text                            string
	Look                            *kit.LookView
	Line                            kit.LineView
	Proposed                        []string // lines that may come next
	Rows                            []firstRow
	Shape                           string
	Last                            int64
	Wide, Deep                      float64 // of the outline in mm, 0 where it is not told
	LookedAt                        string  // when the pack was looked at, "" for not yet
	Stopped                         string
	Cautions                        []string
	BackSteps                       int
	LastAt                          int64 // ms since the last step, for the page's clock
}

type firstAsk struct {
	Says, Under, Line string
	Known             bool
}

type firstRow struct {
	N              int
	Says, Took, At string
	Screws         string
}

func (s *pages) firstPage(c *echo.Context, status int, r *work.Run, refused []string) error {
	p, st := r.State.Plan, r.State
	ch := p.Chassis
	v := firstView{
		Tabs:     kit.TabsOf(&r.Record, "run"),
		Label:    base.Label(r.Record.JobID),
		Model:    ch.Name(),
		ModelID:  ch.ID,
		Customer: r.Record.Customer,
		Actor:    s.Acting(c).Name,
		Client:   rand.Text(),
		Map:      draw.RunMapOf(ch),
		Refused:  refused,
		Shape:    shapeOf(r),
		Last:     r.Last,
	}
	v.Descent = draw.FirstDescentOf(p)
	if ch.Outline != nil {
		v.Wide, v.Deep = ch.Outline.Width.Float(), ch.Outline.Depth.Float()
	}
	letters := draw.Letters(ch)
	for i := range p.Steps {
		x := &p.Steps[i]
		if x.Kind == run.Up {
			v.BackSteps++
		}
		if x.Kind == run.Look {
			if tick, done := st.Done[x.Key]; done {
				v.LookedAt = tick.At.Format("15:04")
			}
		}
		if x.Kind != run.Down {
			continue
		}
		v.N++
		row := firstRow{N: v.N, Says: x.Does, Took: x.Lasts.Shown().String() + " min"}
		v.Lots = nil
		for _, l := range x.Lays {
			lot := lotView(ch, l, l.Count, letters)
			v.Lots = append(v.Lots, lot)
			row.Screws += fmt.Sprintf("%d × %s ", lot.Count, lot.Letter)
		}
		if tick, done := st.Done[x.Key]; done {
			row.At = tick.At.Format("15:04")
		}
		v.Title, v.Took = x.Does, row.Took
		v.Rows = append(v.Rows, row)
	}
	last := r.Began
	for i := range r.Events {
		if r.Events[i].Kind == run.Ticked {
			last = r.Events[i].At
		}
	}
	v.LastAt = s.Shop.Now().Sub(last).Milliseconds()
	if st.Stopped != "" {
		v.Stopped = st.Stopped
		v.Cautions = kit.DangerCautions(&r.Record)
	}
	v.Asks = firstAsks(ch)
	v.Proposed = proposedLines(ch)
	v.Line = kit.LineView{
		ID:      ch.ID,
		Action:  runAt(r.Record.JobID) + "/line",
		Source:  string(hw.Bench),
		Sources: []string{string(hw.Bench)},
		Focus:   true,
	}
	if f, err := form.Sent(c); err == nil && len(refused) > 0 {
		v.Line.Text = f.Values.Get("text")
	}
	return s.Render(c, status, "runfirst", v.Label+", its first opening", "machines", v)
}

// firstAsks are the questions of a first opening, each with a line that answers it.
func firstAsks(ch *hw.Chassis) []firstAsk {
	known := map[string]bool{}
	open := map[string]bool{}
	for _, o := range evidence.ToFindOut(ch) {
		first, _, _ := strings.Cut(strings.TrimPrefix(o.Path, "/"), "/")
		open[first] = true
	}
	mem := ch.Mem()
	known["memory"] = mem.Soldered != nil && mem.Sockets != nil
	known["slots"], known["bays"], known["batteries"] = ch.Slots != nil, ch.Bays != nil, ch.Batteries != nil
	return []firstAsk{
		{"The outline", "width and depth, measured", "model 314x221", ch.Outline != nil},
		{"What is soldered?", "memory, chips on the board", "ram 8 sold a + 1x sodimm b ddr4", known["memory"]},
		{"Which slots?", "lengths, posts, what is in", "m2a 2280* 2230 keyM", known["slots"]},
		{"Is there a bay?", "a cable or a header, or none", "none bays", known["bays"]},
		{"The pack", "label, plug, screws", "bat 52.5wh 11.4v 3s", known["batteries"]},
		{"What blocks what?", "cables, shields, frames", "suspect under the shield?", len(ch.Suspected) > 0},
	}
}

// proposedLines are lines that may come next: the first step of a usual machine of the kind that is
// not recorded yet, and those after it.
func proposedLines(ch *hw.Chassis) []string {
	var out []string
	usual := records.UsualSteps(&hw.Chassis{Kind: ch.Kind})
	for i, line := range strings.Split(usual, "\n") {
		if i >= len(ch.Steps) && len(out) < 6 {
			line, _, _ = strings.Cut(line, " after:")
			out = append(out, line)
		}
	}
	return out
}

// recordStep takes a line of a first opening, or says what it means so far.
func (s *pages) recordStep(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	text := f.Values.Get("text")
	if f.Is("do", "look") {
		r, err := s.Shop.Run(ctx, id)
		if err != nil {
			return err
		}
		look, err := s.LookAt(
			c.Request().Context(),
			s.Acting(c),
			r.State.Plan.Chassis,
			text,
			hw.Bench,
			f.Whole("cursor").Or(len([]rune(text))),
		)
		if err != nil {
			return err
		}
		return s.RenderPart(c, http.StatusOK, "model", "lookline", look)
	}
	if f.Is("do", "undo") {
		err = s.Shop.UndoOpened(ctx, s.Acting(c), id, f.Text("client"))
	} else {
		in := work.Opened{Client: f.Text("client"), Line: text, Took: time.Duration(f.Whole("ms").Or(0)) * time.Millisecond}
		if f.Is("do", "open") {
			in.Line = f.Text("line")
		}
		var taps []struct {
			X, Y  hw.Dec
			Group int
		}
		if raw := f.Text("taps"); raw != "" && json.Unmarshal([]byte(raw), &taps) == nil {
			for _, t := range taps {
				in.Taps = append(in.Taps, work.Tap{X: t.X, Y: t.Y, Group: t.Group})
			}
		}
		err = s.Shop.RecordOpened(ctx, s.Acting(c), id, in)
	}
	if err == nil {
		return kit.SeeOther(c, runAt(id))
	}
	var faults hw.Faults
	if !errors.As(err, &faults) {
		return err
	}
	return s.refusedRun(c, id, kit.FaultTexts(faults))
}

// turnBack ends the recording of a first opening: the way back comes.
func (s *pages) turnBack(c *echo.Context) error {
	id, f, err := kit.JobForm(c)
	if err != nil {
		return err
	}
	err = s.Shop.TurnBack(c.Request().Context(), s.Acting(c), f.Text("token"), id)
	var faults hw.Faults
	if errors.As(err, &faults) {
		return s.refusedRun(c, id, kit.FaultTexts(faults))
	}
	if err != nil {
		return err
	}
	return kit.SeeOther(c, runAt(id))
}
