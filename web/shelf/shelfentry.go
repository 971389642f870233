package shelf

import (
	"errors"
	"net/http"
	"net/url"
	"strings"

	"yembo/shop/base"
	"yembo/shop/stock"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/web/draw"
	"yembo/web/form"
	"yembo/web/kit"
)

// enterPart answers the line in which a part is entered: with what it means, or by keeping it.
func (s *pages) enterPart(c *echo.Context) error {
	f, err := form.Sent(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	text := f.Values.Get("text")
	look, err := s.Shop.LookAtPart(ctx, text)
	if err != nil {
		return err
	}
	entry := entryOf(text, &look)
	if f.Is("do", "look") {
		return s.RenderPart(c, http.StatusOK, "parts", "partlook", entry)
	}
	if look.Job != 0 {
		return kit.SeeOther(c, "/parts?q="+url.QueryEscape(strings.TrimSpace(text)))
	}
	pieces := f.Whole("pieces").Or(1)
	part := f.Text("part")
	if part == "new" {
		part = ""
	} else if part == "" && look.Same != nil {
		part = look.Same.ID
	}
	if f.Count() == 0 {
		id, err := s.Shop.EnterPart(ctx, s.Acting(c), f.Text("token"), text, part, pieces)
		var faults hw.Faults
		switch {
		case err == nil:
			return kit.SeeOther(c, "/parts?kept="+url.QueryEscape(id))
		case errors.Is(err, base.ErrChanged):
			entry.Faults = append(entry.Faults,
				"The line means another part by now. Look at it, and put it on the shelf again.")
		case errors.As(err, &faults):
			entry.Faults = append(entry.Faults, kit.FaultTexts(faults)...)
		default:
			return err
		}
	}
	entry.Open = true
	return s.shelfPage(c, http.StatusUnprocessableEntity, f, entry)
}

// partEntry is the line in which a part is entered, with what it means.
type partEntry struct {
	Text, Currency string
	Open, Focus    bool
	Gloss          *kit.Gloss
	Means          []string
	Same           *stock.ShelfLine
	SameRow        *draw.Pieces
	Like           []stock.ShelfLine
	New            string // the name of the new part that it means
	NewKind        string
	Faults         []string
	Serials        []stock.SerialFate
	Job            int64
	JobLabel       string
}

func entryOf(text string, look *stock.PartLook) partEntry {
	e := partEntry{Text: text, Same: look.Same, Like: look.Like, Faults: look.Faults, Serials: look.Serials,
		Job: look.Job}
	if look.Job != 0 {
		e.JobLabel = base.Label(look.Job)
	}
	if look.Line == nil || strings.TrimSpace(text) == "" {
		return e
	}
	if e.Gloss = kit.Hang(look.Line.Words); e.Gloss == nil {
		for _, w := range look.Line.Words {
			if w.Fault == nil {
				e.Means = append(e.Means, w.Means)
			}
		}
	}
	if look.Same != nil {
		groups := groupsOf(look.Same)
		e.SameRow = draw.PiecesOf(&look.Same.Part, append(groups, draw.PieceGroup{State: draw.PieceNew, N: 1}))
		return e
	}
	if look.Job == 0 && len(look.Faults) == 0 {
		e.New, e.NewKind = look.Line.Part.Name, stock.ShelfKinds.Says(look.Line.Part.Kind)
		for _, f := range look.Wrong {
			e.Faults = append(e.Faults, "A new part: "+wordsOfFault(f))
		}
	}
	return e
}
