package money

import (
	"fmt"
	"strings"

	"yembo/core/hw"
	"yembo/core/money"
	"yembo/core/quote"
	"yembo/web/draw"
	"yembo/web/kit"
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
	Head         string // of the row, where a narrow page has the alternatives below each other
	Bars         *draw.QuoteBars
	Text, Amount string
	Nothing      bool // the alternative has no such line
}

func sheetOf(q *quote.Quote, label, paper string) (*quoteSheet, error) {
	v := &quoteSheet{Quote: q, Label: label, Paper: paper, On: hw.Day(q.On), ValidUntil: hw.Day(q.ValidUntil),
		OldParts: quote.OldPartsWays.Says(q.OldParts), AskOld: q.OldParts == quote.Ask, Single: len(q.Alternatives) == 1}
	v.Neither = hw.Money(q.Currency, q.DeclinedSum.Total)
	v.NeitherSays = "returned reassembled"
	if q.DeclinedSum.Total > 0 {
		v.NeitherSays = "inspection fee; returned reassembled"
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
	v.CodePath, v.CodeWidth, err = kit.Bars(label)
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
	for i := range v.Alternatives {
		c := of(&v.Alternatives[i])
		cell := sheetCell{Head: head, Bars: draw.QuoteBarsOf(c, most, mark, len(v.Alternatives)), Text: "Stays as it is."}
		if c != nil {
			cell.Text = c.Says
			if first := v.first(i, func(b *quote.Alternative) bool { o := of(b); return o != nil && *o == *c }); first != "" &&
				c.Says != "" {
				cell.Text = first
			}
		}
		row.Cells = append(row.Cells, cell)
	}
	v.Rows = append(v.Rows, row)
}

// first names the first alternative before the i-th that is the same.
func (v *quoteSheet) first(i int, same func(a *quote.Alternative) bool) string {
	for k := range v.Alternatives[:i] {
		if same(&v.Alternatives[k]) {
			return "As in " + v.Alternatives[k].Letter + "."
		}
	}
	return ""
}

// texts is a row of words; the same again is said once.
func (v *quoteSheet) texts(head string, of func(a *quote.Alternative) string) {
	row := sheetRow{Head: head}
	for i := range v.Alternatives {
		text := of(&v.Alternatives[i])
		if first := v.first(i, func(a *quote.Alternative) bool { return of(a) == text }); first != "" {
			text = first
		}
		row.Cells = append(row.Cells, sheetCell{Head: head, Text: text})
	}
	v.Rows = append(v.Rows, row)
}

// sums are the lines kind by kind, then net, tax by rate, rounding and total.
func (v *quoteSheet) sums() {
	amount := func(cents int64) string { return hw.Amount(v.Currency, cents) }
	for _, kind := range money.Kinds {
		told := make([]bool, len(v.Alternatives))
		for n, beside := range v.beside(kind.Word) {
			row := sheetRow{Class: "line", Again: kind.Says}
			if n == 0 {
				row.Head, row.Again = kind.Says, ""
			}
			for i, line := range beside {
				cell := sheetCell{Amount: "–", Nothing: true}
				if line != nil {
					cell = sheetCell{Text: v.lineText(line), Amount: amount(line.Cents)}
					if !told[i] {
						cell.Head, told[i] = kind.Says, true
					}
				}
				row.Cells = append(row.Cells, cell)
			}
			v.Rows = append(v.Rows, row)
		}
	}
	net, total := sheetRow{Head: v.netHead(), Class: "net"}, sheetRow{Head: "Total", Class: "total"}
	var rates []hw.Dec
	rounds := false
	for i := range v.Alternatives {
		s := &v.Alternatives[i].Sum
		net.Cells = append(net.Cells, sheetCell{Head: net.Head, Amount: amount(s.Net)})
		total.Cells = append(total.Cells, sheetCell{Head: total.Head, Amount: hw.Money(v.Currency, s.Total)})
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
			cell := sheetCell{Amount: "–", Nothing: true}
			for _, t := range v.Alternatives[i].Sum.Taxes {
				if t.Percent == rate {
					cell = sheetCell{Head: row.Head, Text: fmt.Sprintf("%s %% of %s", rate, amount(t.Base)), Amount: amount(t.Cents)}
				}
			}
			row.Cells = append(row.Cells, cell)
		}
		v.Rows = append(v.Rows, row)
	}
	if rounds {
		row := sheetRow{Head: "Rounding", Class: "line"}
		for i := range v.Alternatives {
			row.Cells = append(row.Cells, sheetCell{Head: row.Head, Amount: amount(v.Alternatives[i].Sum.Rounding)})
		}
		v.Rows = append(v.Rows, row)
	}
	v.Rows = append(v.Rows, total)
}

// netHead is the head of the net sum: a part of the lines where they have the tax in them.
func (v *quoteSheet) netHead() string {
	if v.TaxIn {
		return "Of it net"
	}
	return "Net"
}

// lineText is what a line is for, with when it is not charged.
func (v *quoteSheet) lineText(l *money.Line) string {
	if l.Only == string(quote.Erasing) && v.AskOld {
		return l.Text + ", unless it goes back to you"
	}
	return l.Text
}

// beside lays the lines of a kind beside each other, a line an alternative, nil where it has none: what
// the shop charges for every machine stands beside itself, anything else in the order of its quote.
func (v *quoteSheet) beside(kind money.Kind) [][]*money.Line {
	var rows [][]*money.Line
	for i := range v.Alternatives {
		for k := range v.Alternatives[i].Lines {
			line := &v.Alternatives[i].Lines[k]
			if line.Kind != kind {
				continue
			}
			at := -1
			for n := range rows {
				other := rowText(rows[n])
				if rows[n][i] == nil && (kind != money.Fixed && kind != money.Service || other == line.Text) {
					at = n
					break
				}
			}
			if at < 0 {
				at = len(rows)
				rows = append(rows, make([]*money.Line, len(v.Alternatives)))
			}
			rows[at][i] = line
		}
	}
	return rows
}

// rowText is what the first line of a row says.
func rowText(row []*money.Line) string {
	for _, line := range row {
		if line != nil {
			return line.Text
		}
	}
	return ""
}

func contains(list []hw.Dec, x hw.Dec) bool {
	for _, y := range list {
		if x == y {
			return true
		}
	}
	return false
}

// OldWays are what can become of the old parts, where the quote leaves it to the customer.
func (v *quoteSheet) OldWays() []hw.Term[string] {
	terms := quote.OldPartsWays.Terms()
	terms[0].Says = "not said yet"
	return terms
}

// ConsentLetters are the alternatives that ask for a consent, where there are several.
func (v *quoteSheet) ConsentLetters(c quote.Consent) string {
	if v.Single {
		return ""
	}
	return "(" + strings.Join(c.Letters, " and ") + ")"
}
