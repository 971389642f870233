package exchange

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"regexp"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// Table is a table of texts that came in: its head, and its rows with the line each
// begins on.
type Table struct {
	Head []string
	Rows []TableRow
}

// TableRow is one row. Fault says why it cannot be used, "" for a sound one.
type TableRow struct {
	Line  int
	Cells []string
	Fault string
}

// Limits of a table.
const (
	MaxTable     = 8 << 20 // bytes
	MaxTableRows = 20_000
	maxColumns   = 64
	maxCell      = 4000 // characters
)

// ReadTable reads comma, semicolon or tab separated values with a head line, in UTF-8 or
// UTF-16. A row with another number of cells than the head, or with a cell that is too
// long, keeps its place with its fault. The error says what is wrong with the whole.
func ReadTable(data []byte) (*Table, error) {
	if len(data) > MaxTable {
		return nil, fmt.Errorf("the table is larger than %d MB", MaxTable>>20)
	}
	text, err := tableText(data)
	if err != nil {
		return nil, err
	}
	r := csv.NewReader(strings.NewReader(text))
	r.Comma = separator(text)
	if line := crowded(text, r.Comma); line > 0 {
		return nil, fmt.Errorf("line %d has more than %d columns", line, maxColumns)
	}
	r.FieldsPerRecord = -1
	r.TrimLeadingSpace = true
	head, err := r.Read()
	if errors.Is(err, io.EOF) {
		return nil, errors.New("the table is empty")
	}
	if err != nil {
		return nil, err
	}
	if len(head) > maxColumns {
		return nil, fmt.Errorf("the head has %d columns; at most %d are read", len(head), maxColumns)
	}
	t := &Table{Head: head}
	for i := range t.Head {
		t.Head[i] = strings.TrimSpace(t.Head[i])
	}
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			return t, nil
		}
		var parse *csv.ParseError
		if errors.As(err, &parse) {
			// A quote that is wrong spoils its line, not the table.
			t.Rows = append(t.Rows, TableRow{Line: parse.StartLine, Cells: cells[:min(len(cells), maxColumns)],
				Fault: parse.Err.Error()})
			continue
		}
		if err != nil {
			return nil, err
		}
		if len(t.Rows) >= MaxTableRows {
			return nil, fmt.Errorf("the table has more than %d rows", MaxTableRows)
		}
		line, _ := r.FieldPos(0)
		row := TableRow{Line: line}
		if strings.TrimSpace(strings.Join(cells, "")) == "" {
			continue
		}
		if len(cells) != len(head) {
			row.Fault = fmt.Sprintf("%d cells, the head has %d", len(cells), len(head))
			cells = cells[:min(len(cells), maxColumns)]
		}
		for i := range cells {
			cells[i] = strings.TrimSpace(cells[i])
			if utf8.RuneCountInString(cells[i]) > maxCell {
				row.Fault = fmt.Sprintf("cell %d has more than %d characters", i+1, maxCell)
			}
		}
		row.Cells = cells
		t.Rows = append(t.Rows, row)
	}
}

// crowded is the first line that has more columns than a table may have, 0 for none: it is told before
// anything is taken apart. Separators in quotes count too, for texts do not have so many.
func crowded(text string, separator rune) int {
	for line := 1; ; line++ {
		this, rest, more := strings.Cut(text, "\n")
		if strings.Count(this, string(separator)) >= maxColumns*4 {
			return line
		}
		if !more {
			return 0
		}
		text = rest
	}
}

// tableText brings a table into UTF-8: a byte order mark says what it is in.
func tableText(data []byte) (string, error) {
	text, _, err := transform.Bytes(unicode.BOMOverride(transform.Nop), data)
	if err != nil || !utf8.Valid(text) || bytes.IndexByte(text, 0) >= 0 {
		return "", errors.New("the file is not UTF-8 or UTF-16 text: save it as CSV UTF-8")
	}
	return string(text), nil
}

// separator is the sign that stands most often in the head line, outside quotes.
func separator(text string) rune {
	count := map[rune]int{}
	quoted := false
	for _, r := range text {
		switch {
		case r == '"':
			quoted = !quoted
		case quoted:
		case r == '\n':
			return mostOften(count)
		default:
			count[r]++
		}
	}
	return mostOften(count)
}

func mostOften(count map[rune]int) rune {
	best := ','
	for _, r := range ";\t" {
		if count[r] > count[best] {
			best = r
		}
	}
	return best
}

// plainNumber is a number as spreadsheets read it: no formula, whatever it begins with.
var plainNumber = regexp.MustCompile(`^-?[0-9]+(\.[0-9]+)?$`)

// WriteTable writes comma separated values. A cell that a spreadsheet would take for a
// formula gets an apostrophe in front.
func WriteTable(head []string, rows [][]string) ([]byte, error) {
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	for _, row := range append([][]string{head}, rows...) {
		safe := make([]string, len(row))
		for i, cell := range row {
			if cell != "" && strings.ContainsRune("=+-@\t\r", rune(cell[0])) && !plainNumber.MatchString(cell) {
				cell = "'" + cell
			}
			safe[i] = cell
		}
		if err := w.Write(safe); err != nil {
			return nil, err
		}
	}
	w.Flush()
	return out.Bytes(), w.Error()
}
