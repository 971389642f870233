package web

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/shop"
	"yembo/web/draw"
	"yembo/web/form"
)

// lineView is the line that a record is typed into, with what it means so far.
type lineView struct {
	ID      string // of the model, "" for a new one
	Action  string
	Version int
	Text    string
	Source  string
	Sources []string
	Typed   []string // earlier lines, newest first
	Focus   bool
	Look    *lookView
	Kept    *shop.Change // the line that was kept last, to be undone
}

// lookView is what lines mean, word for word.
type lookView struct {
	Gloss   *gloss    // one line, its meanings hanging from its words
	Lines   []lineRow // several lines
	Faults  []string
	Wrong   []string // what the record cannot have
	Clear   bool
	Facts   int          // facts that would be kept
	Propose []string     // words for the one at the cursor
	Inside  *draw.Inside // the machine with the lines in it
	Source  string
}

type lineRow struct {
	Number int
	Text   string
	Means  []string
	Faults []string
}

// gloss is a line's words with their meanings, in pixels from the line's first letter.
type gloss struct {
	W, H  float64
	Words []glossWord
}

type glossWord struct {
	X, W, GX float64
	Leader   string
	Means    string
	Detail   string
	Wrong    bool
}

// Sizes of the line's letters and of what hangs from them.
const (
	letterW   = 9.6 // of the line, 16 px mono
	meansW    = 7.4
	detailW   = 6.6
	glossGap  = 14.0
	glossH    = 76.0
	mostGloss = 1190.0
)

// hang places the meanings of a line's words: each under its word where there is room,
// else to the right of the one before; the leaders turn earlier the later the word, so
// that none crosses another. nil where they do not fit in one row.
func hang(words []shorthand.Word) *gloss {
	g := &gloss{H: glossH}
	next := 0.0
	for i, w := range words {
		x := float64(w.Col-1) * letterW
		v := glossWord{X: x, W: math.Max(float64(w.Len)*letterW-2, 4), GX: math.Max(x, next), Means: w.Means,
			Detail: w.Detail}
		if w.Fault != nil {
			v.Wrong, v.Means, v.Detail = true, "not a word here", w.Fault.Near
			if v.Detail != "" {
				v.Detail = "did you mean " + v.Detail + "?"
			}
		}
		wide := math.Max(meansW*float64(len([]rune(v.Means))), detailW*float64(len([]rune(v.Detail)))) + 8
		next = v.GX + wide + glossGap
		jog := 8 + math.Max(0, 22-float64(i)*2.5)
		v.Leader = fmt.Sprintf("M%.1f,3 V%.1f H%.1f V%.1f", x+1, jog, v.GX+1, glossH-6)
		g.Words = append(g.Words, v)
	}
	if next > mostGloss || len(words) > 16 {
		return nil
	}
	g.W = math.Max(next, 10)
	return g
}

// lookAt reads lines about a record and says what they mean.
func (s *server) lookAt(
	ctx context.Context,
	a shop.Actor,
	ch *hw.Chassis,
	text string,
	source hw.Source,
	cursor int,
) (*lookView, error) {
	look, err := s.Shop.LookAtLines(a, ch, text, shorthand.Source{Name: source})
	if err != nil {
		return nil, err
	}
	if look.Clear() && ch.ID != "" { // what keeping it would refuse is told before
		if look.Wrong, err = s.Shop.WouldFit(ctx, ch, look.Next); err != nil {
			return nil, err
		}
	}
	v := &lookView{Clear: look.Clear(), Source: string(source)}
	for _, f := range look.Faults {
		v.Faults = append(v.Faults, f.Error())
	}
	v.Wrong = faultTexts(look.Wrong)
	if len(look.Lines) == 1 && !strings.Contains(text, "\n") {
		v.Gloss = hang(look.Lines[0].Words)
	}
	if v.Gloss == nil {
		for _, l := range look.Lines {
			row := lineRow{Number: l.Number, Text: l.Text}
			for _, w := range l.Words {
				if w.Fault != nil {
					row.Faults = append(row.Faults, w.Fault.Error())
					continue
				}
				// Words of one text mean it together: the last of them says it whole.
				if n := len(row.Means) - 1; n >= 0 && strings.HasPrefix(w.Means, row.Means[n]+" ") {
					row.Means[n] = w.Means
					continue
				}
				row.Means = append(row.Means, w.Means)
			}
			v.Lines = append(v.Lines, row)
		}
	}
	v.Facts = len(look.Next.Findings) - len(ch.Findings)
	line, column := lineAt(text, cursor)
	v.Propose = shorthand.Complete(line, column, look.Next)
	v.Inside = draw.Model(look.Next, draw.Desk)
	v.Inside.MarkFresh(look.Next, look.Touched)
	return v, nil
}

// lineAt is the line of a text at a place, and the place in it, both in letters.
func lineAt(text string, cursor int) (string, int) {
	runes := []rune(text)
	cursor = min(max(cursor, 0), len(runes))
	start := cursor
	for start > 0 && runes[start-1] != '\n' {
		start--
	}
	end := cursor
	for end < len(runes) && runes[end] != '\n' {
		end++
	}
	return string(runes[start:end]), cursor - start
}

// typeLines answers what is typed: with what it means, or by keeping it.
func (s *server) typeLines(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	id := c.Param("id")
	text, source := f.Values.Get("text"), hw.Source(f.Text("source"))
	if hw.Sources.Index(source) < 0 {
		source = hw.Bench
	}
	ch, version := &hw.Chassis{Kind: "notebook"}, 0
	if id != "" {
		r, err := s.Shop.Model(c.Request().Context(), id)
		if err != nil {
			return err
		}
		ch, version = r.Chassis, r.Version
	}
	if f.Is("do", "look") {
		look, err := s.lookAt(c.Request().Context(), s.actor(c), ch, text, source, f.Whole("cursor").Or(len([]rune(text))))
		if err != nil {
			return err
		}
		return s.renderPart(c, http.StatusOK, "model", "lookline", look)
	}
	kept, err := s.Shop.RecordLines(c.Request().Context(), s.actor(c), f.Text("token"), id, f.Whole("version").Or(-1),
		text, shorthand.Source{Name: source})
	var faults hw.Faults
	switch {
	case err == nil:
		return seeOther(c, "/models/"+kept+"?kept=line")
	case !errors.Is(err, shop.ErrChanged) && !errors.As(err, &faults):
		return err
	}
	look, lookErr := s.lookAt(c.Request().Context(), s.actor(c), ch, text, source, 0)
	if lookErr != nil {
		return lookErr
	}
	status, notice := http.StatusUnprocessableEntity, ""
	if errors.Is(err, shop.ErrChanged) {
		status, notice = http.StatusConflict,
			"Someone else changed the record meanwhile. Nothing was stored: look at what your line means now, and "+
				"keep it again."
	} else if len(look.Faults) == 0 && len(look.Wrong) == 0 {
		look.Wrong = faultTexts(faults)
	}
	v := lineView{ID: id, Version: version, Text: text, Source: string(source), Look: look, Focus: true}
	if id == "" {
		return s.newModelPage(c, status, v)
	}
	return s.modelPageWith(c, status, notice, form.New(url.Values{}), &v)
}

// usualSteps begins a record with the steps that nearly every machine has.
func (s *server) usualSteps(c *echo.Context) error {
	r, err := s.Shop.Model(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	_, err = s.Shop.RecordLines(c.Request().Context(), s.actor(c), c.FormValue("token"), r.Chassis.ID, r.Version,
		shop.UsualSteps(r.Chassis), shorthand.Source{Name: "assumed"})
	if err != nil {
		return err
	}
	return seeOther(c, "/models/"+r.Chassis.ID+"/steps")
}

// showHelp explains the lines by example.
func (s *server) showHelp(c *echo.Context) error {
	return s.render(c, http.StatusOK, "shorthand", "Typing a record", "models", shorthand.Help())
}
