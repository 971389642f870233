package draw

import (
	"yembo/core/hw"
	"yembo/core/quote"
)

// QuoteBars are what something is today and what it is then, to one scale, in a box of Wide by H: today
// thin, then thick, what is used black, what the work was measured to take as a dotted line.
type QuoteBars struct {
	Today, Then         *QuoteBar
	MarkX, MarkTextX    float64 // 0 for none
	MarkText, MarkClass string
	Wide, H             float64
	Says                string // for those who do not see it
}

// QuoteBar is one of the two.
type QuoteBar struct {
	W, Used, TextX float64
	Text           string
}

const (
	quoteBarX     = 40.0
	quoteTextRoom = 8.0
	quoteTextWide = 52.0 // "1.012 TB", the longest that is written beside a bar
)

// QuoteBarsOf draws a change on the scale of a row, whose longest bar is most. With three alternatives
// beside each other the bars are shorter and the letters as large.
func QuoteBarsOf(c *quote.Change, most hw.Dec, markText string, alternatives int) *QuoteBars {
	if c == nil || most <= 0 {
		return nil
	}
	wide := 230.0
	if alternatives > 2 {
		wide = 160
	}
	scale := (wide - quoteBarX - quoteTextRoom - quoteTextWide) / most.Float()
	bar := func(m hw.Maybe[hw.Dec]) *QuoteBar {
		v, ok := m.Get()
		if !ok {
			return nil
		}
		b := &QuoteBar{W: tenths(v.Float() * scale), Text: v.String() + " " + c.Unit}
		if v >= hw.DecOf(1000) && c.Unit == "GB" {
			b.Text = hw.Dec(int64(v)/1000).String() + " TB"
		}
		if used, known := c.Used.Get(); known {
			b.Used = tenths(min(used.Float()*scale, b.W))
		}
		b.TextX = quoteBarX + b.W + quoteTextRoom
		return b
	}
	d := &QuoteBars{Today: bar(c.Today), Then: bar(c.Then), Wide: wide}
	d.H = 38
	if d.Today != nil && d.Then != nil && c.Today == c.Then {
		d.Then, d.H = nil, 18 // it stays: one bar says it
	}
	if d.Today != nil {
		d.Says = "today " + d.Today.Text
	}
	if d.Then != nil {
		d.Says += ", then " + d.Then.Text
	}
	if mark, ok := c.Mark.Get(); ok && mark <= most {
		d.MarkX = tenths(quoteBarX + mark.Float()*scale)
		d.H += 18
		d.MarkText = markText + ", " + mark.String()
		d.MarkTextX, d.MarkClass = d.MarkX, "mid"
		if d.MarkX > wide-70 {
			d.MarkTextX, d.MarkClass = wide-2, "end"
		} else if d.MarkX < 70 {
			d.MarkTextX, d.MarkClass = quoteBarX, ""
		}
		d.Says += ", " + d.MarkText
	}
	return d
}

// MarkEnd is where the line of the mark ends.
func (d *QuoteBars) MarkEnd() float64 { return d.H - 14 }
