package kit

import (
	"context"
	"fmt"
	"math"
	"strings"
	"yembo/shop/base"

	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/web/draw"
)

// CardStep is a step of an opening, numbered.
type CardStep struct {
	Number int
	Words  string
}

// LineView is the line that a record is typed into, with what it means so far.
type LineView struct {
	ID      string // of the model, "" for a new one
	Action  string
	Version int
	Text    string
	Source  string
	Sources []string
	Typed   []string // earlier lines, newest first
	Focus   bool
	Look    *LookView
	Kept    *base.Change // the line that was kept last, to be undone
}

// LookView is what lines mean, word for word.
type LookView struct {
	Gloss   *Gloss    // one line, its meanings hanging from its words
	Lines   []lineRow // several lines
	Faults  []string
	Wrong   []string // what the record cannot have
	Clear   bool
	Facts   int          // facts that would be kept
	Propose []string     // words for the one at the cursor
	Inside  *draw.Inside // the machine with the lines in it
	Source  string
	Offers  []shorthand.Offer // lines that these make likely
}

type lineRow struct {
	Number int
	Text   string
	Means  []string
	Faults []string
}

// Gloss is a line's words with their meanings, in pixels from the line's first letter.
type Gloss struct {
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

// Hang places the meanings of a line's words: each under its word where there is room,
// else to the right of the one before; the leaders turn earlier the later the word, so
// that none crosses another. nil where they do not fit in one row.
func Hang(words []shorthand.Word) *Gloss {
	g := &Gloss{H: glossH}
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

// LookAt reads lines about a record and says what they mean.
func (s *Site) LookAt(
	ctx context.Context,
	a base.Actor,
	ch *hw.Chassis,
	text string,
	source hw.Source,
	cursor int,
) (*LookView, error) {
	look, err := s.Shop.LookAtLines(a, ch, text, shorthand.Source{Name: source})
	if err != nil {
		return nil, err
	}
	if look.Clear() && ch.ID != "" { // what keeping it would refuse is told before
		if look.Wrong, err = s.Shop.WouldFit(ctx, ch, look.Next); err != nil {
			return nil, err
		}
	}
	v := &LookView{Clear: look.Clear(), Source: string(source)}
	for _, f := range look.Faults {
		v.Faults = append(v.Faults, f.Error())
	}
	v.Wrong = FaultTexts(look.Wrong)
	if len(look.Lines) == 1 && !strings.Contains(text, "\n") {
		v.Gloss = Hang(look.Lines[0].Words)
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
	if len(look.Faults) == 0 {
		v.Offers = shorthand.Offers(look.Lines, look.Next)
	}
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
