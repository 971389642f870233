package web

import (
	"fmt"
	"strings"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/quote"
	"yembo/web/draw"
)

// quoteSheet is a quote as it stands on paper: what was told and found, a column an alternative, what is
// asked for, what is left alone.
type quoteSheet struct {
	*quote.Quote
	Label, Paper    string
	On, ValidUntil  string
	Letters         []sheetLetter
	Rows            []sheetRow
	Neither         string // what it costs to choose none
	NeitherSays     string
	OldParts        string
	AskOld          bool
	CodePath        string
	CodeWidth       int
	TaxTold, Single bool
}

type sheetLetter struct{ Letter, Name, Total string }

// sheetRow is one row of the table: a cell an alternative.
type sheetRow struct {
	Head  string
	Again string // the head of the rows before, for those who do not see it
	Cells []sheetCell
	Class string // sums, total
}

type sheetCell struct {
	Bars         *draw.QuoteBars
	Text, Amount string
}

func sheetOf(q *quote.Quote, label, paper string) (*quoteSheet, error) {
	v := &quoteSheet{Quote: q, Label: label, Paper: paper, On: hw.Day(q.On), ValidUntil: hw.Day(q.ValidUntil),
		OldParts: quote.OldPartsWays.Says(q.OldParts), AskOld: q.OldParts == quote.Ask, Single: len(q.Alternatives) == 1}
	v.Neither = hw.Money(q.Currency, q.DeclinedSum.Total)
	v.NeitherSays = "it goes back closed"
	if q.DeclinedSum.Total > 0 {
		v.NeitherSays = "for looking; it goes back closed"
	}
	for i := range q.Alternatives {
		a := &q.Alternatives[i]
		v.Letters = append(v.Letters, sheetLetter{a.Letter, a.Name, hw.Money(q.Currency, a.Sum.Total)})
		for _, t := range a.Sum.Taxes {
			v.TaxTold = v.TaxTold || t.Percent > 0
		}
	}
	v.changes("Memory", "the work's peak", func(a *quote.Alternative) *quote.Change { return a.Memory })
	v.changes("Drive", "", func(a *quote.Alternative) *quote.Change { return a.Storage })
	v.changes("Battery", "", func(a *quote.Alternative) *quote.Change { return a.Battery })
	v.texts("Your data", func(a *quote.Alternative) string { return a.Data })
	v.texts("Ready", func(a *quote.Alternative) string { return a.Ready })
	v.sums()
	var err error
	v.CodePath, v.CodeWidth, err = bars(label)
	return v, err
}

// changes is a row of bars to one scale.
func (v *quoteSheet) changes(head, mark string, of func(a *quote.Alternative) *quote.Change) {
	most := hw.Dec(0)
	for i := range v.Alternatives {
		if c := of(&v.Alternatives[i]); c != nil {
			most = max(most, c.Today.Or(0), c.Then.Or(0), c.Mark.Or(0))
		}
	}
	if most == 0 {
		return
	}
	row := sheetRow{Head: head}
	said := ""
	for i := range v.Alternatives {
		c := of(&v.Alternatives[i])
		cell := sheetCell{Bars: draw.QuoteBarsOf(c, most, mark)}
		switch {
		case c == nil:
			cell.Text = "Stays as it is."
		case i > 0 && c.Says == said && said != "":
			cell.Text = "As in " + v.Alternatives[i-1].Letter + "."
		default:
			cell.Text, said = c.Says, c.Says
		}
		row.Cells = append(row.Cells, cell)
	}
	v.Rows = append(v.Rows, row)
}

// texts is a row of words; the same again is said once.
func (v *quoteSheet) texts(head string, of func(a *quote.Alternative) string) {
	row := sheetRow{Head: head}
	for i := range v.Alternatives {
		text := of(&v.Alternatives[i])
		if i > 0 && text == of(&v.Alternatives[i-1]) {
			text = "As in " + v.Alternatives[i-1].Letter + "."
		}
		row.Cells = append(row.Cells, sheetCell{Text: text})
	}
	v.Rows = append(v.Rows, row)
}

// sums are the lines kind by kind, then net, tax by rate, rounding and total.
func (v *quoteSheet) sums() {
	amount := func(cents int64) string { return hw.Amount(v.Currency, cents) }
	for _, kind := range money.Kinds {
		lines := make([][]money.Line, len(v.Alternatives))
		rows := 0
		for i := range v.Alternatives {
			for _, l := range v.Alternatives[i].Lines {
				if l.Kind == kind.Word {
					lines[i] = append(lines[i], l)
				}
			}
			rows = max(rows, len(lines[i]))
		}
		for n := range rows {
			row := sheetRow{Class: "line", Again: kind.Says}
			if n == 0 {
				row.Head, row.Again = kind.Says, ""
			}
			for i := range lines {
				cell := sheetCell{Amount: "–"}
				if n < len(lines[i]) {
					cell = sheetCell{Text: lines[i][n].Text, Amount: amount(lines[i][n].Cents)}
				}
				row.Cells = append(row.Cells, cell)
			}
			v.Rows = append(v.Rows, row)
		}
	}
	net, total := sheetRow{Head: "Net", Class: "net"}, sheetRow{Head: "Total", Class: "total"}
	var rates []hw.Dec
	rounds := false
	for i := range v.Alternatives {
		s := &v.Alternatives[i].Sum
		net.Cells = append(net.Cells, sheetCell{Amount: amount(s.Net)})
		total.Cells = append(total.Cells, sheetCell{Amount: hw.Money(v.Currency, s.Total)})
		rounds = rounds || s.Rounding != 0
		for _, t := range s.Taxes {
			if !contains(rates, t.Percent) && t.Percent > 0 {
				rates = append(rates, t.Percent)
			}
		}
	}
	v.Rows = append(v.Rows, net)
	for _, rate := range rates {
		row := sheetRow{Head: "Tax", Class: "line"}
		for i := range v.Alternatives {
			cell := sheetCell{Amount: "–"}
			for _, t := range v.Alternatives[i].Sum.Taxes {
				if t.Percent == rate {
					cell = sheetCell{Text: fmt.Sprintf("%s %% of %s", rate, amount(t.Base)), Amount: amount(t.Cents)}
				}
			}
			row.Cells = append(row.Cells, cell)
		}
		v.Rows = append(v.Rows, row)
	}
	if rounds {
		row := sheetRow{Head: "Rounding", Class: "line"}
		for i := range v.Alternatives {
			row.Cells = append(row.Cells, sheetCell{Amount: amount(v.Alternatives[i].Sum.Rounding)})
		}
		v.Rows = append(v.Rows, row)
	}
	v.Rows = append(v.Rows, total)
}

func contains(list []hw.Dec, x hw.Dec) bool {
	for _, y := range list {
		if x == y {
			return true
		}
	}
	return false
}

// ConsentLetters are the alternatives that ask for a consent, where there are several.
func (v *quoteSheet) ConsentLetters(c quote.Consent) string {
	if v.Single {
		return ""
	}
	return "(" + strings.Join(c.Letters, " and ") + ")"
}
