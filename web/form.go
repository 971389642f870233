package web

import (
	"errors"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"sort"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
)

// Form is a form as it was sent. Its fields are named by the JSON Pointers of the document they fill in, so
// that a fault found by the core stands at its field without any translation:
// the field /memory/sockets/0/channel is the fault's place too. Rows of a list that
// were left empty are passed over, and pointers are mapped back to the rows typed.
type Form struct {
	values url.Values
	faults map[string][]string // by field name
	rows   map[string]string   // pointer in the document -> pointer in the form

	clashes   map[string]*clash // fields that someone else changed too
	meanwhile map[string]string // fields that someone else alone changed
	then      url.Values        // what the fields were when the form was opened, nil where it does not say
}

func newForm(values url.Values) *Form {
	return &Form{values: values, faults: map[string][]string{}, rows: map[string]string{},
		clashes: map[string]*clash{}, meanwhile: map[string]string{}}
}

// sentForm is a form that was sent.
func sentForm(c *echo.Context) (*Form, error) {
	if err := c.Request().ParseForm(); err != nil {
		return nil, echo.ErrBadRequest.Wrap(err)
	}
	return newForm(c.Request().PostForm), nil
}

// Value is what was typed into a field.
func (f *Form) Value(name string) string { return f.values.Get(name) }

// Errors are the faults at a field.
func (f *Form) Errors(name string) []string { return f.faults[name] }

// Is reports whether a field has a value, for selects and check boxes.
func (f *Form) Is(name, value string) bool { return f.values.Get(name) == value }

// Count is how many faults there are.
func (f *Form) Count() int {
	n := 0
	for _, list := range f.faults {
		n += len(list)
	}
	return n
}

func (f *Form) fault(name, text string) { f.faults[name] = append(f.faults[name], text) }

// take notes the core's faults at their fields. It returns false for an error of
// another kind.
func (f *Form) take(err error) bool {
	var faults hw.Faults
	if !errors.As(err, &faults) {
		return false
	}
	for _, x := range faults {
		f.fault(f.fieldFor(x.Pointer), x.Text)
	}
	return true
}

// fieldFor finds the field for a pointer: the row it came from, else itself.
func (f *Form) fieldFor(pointer string) string {
	for at := pointer; at != ""; at = at[:strings.LastIndex(at, "/")] {
		if row, ok := f.rows[at]; ok {
			return row + strings.TrimPrefix(pointer, at)
		}
	}
	return pointer
}

// Stray are the faults whose field is not on the page, given the fields that are.
func (f *Form) Stray() []string {
	var out []string
	for name, list := range f.faults {
		if _, there := f.values[name]; !there {
			for _, text := range list {
				out = append(out, strings.TrimPrefix(strings.ReplaceAll(name, "/", " "), " ")+": "+text)
			}
		}
	}
	sort.Strings(out)
	return out
}

// text reads an optional text.
func (f *Form) text(name string) string { return strings.TrimSpace(f.values.Get(name)) }

// withoutUnit takes the field's own unit off a figure: 16GB, 52.5 wh. Another unit stays,
// and is a fault of the figure.
func withoutUnit(text, unit string) string {
	if cut := len(text) - len(unit); unit != "" && cut > 0 && strings.EqualFold(text[cut:], unit) {
		return strings.TrimSpace(text[:cut])
	}
	return text
}

var errTooLarge = errors.New("too large")

// dec reads an optional decimal number, with a point or a comma.
func (f *Form) dec(name string) hw.Maybe[hw.Dec] {
	unit, times := hw.UnitOf(name), hw.Dec(1)
	text := withoutUnit(f.text(name), unit)
	if large := withoutUnit(text, "TB"); unit == "GB" && large != text {
		text, times = large, 1000 // drives are sold in TB of 1000 GB
	}
	text = strings.ReplaceAll(text, ",", ".")
	if text == "" {
		return hw.Maybe[hw.Dec]{}
	}
	v, err := hw.ParseDec(text)
	if times > 1 && v > hw.DecOf(1_000_000) {
		err = errTooLarge
	}
	v *= times
	if err != nil {
		f.fault(name, hw.Word(hw.FaultType, fmt.Sprintf("%q", f.text(name)), "a number such as 8 or 14.6"))
		return hw.Maybe[hw.Dec]{}
	}
	return hw.Known(v)
}

// whole reads an optional whole number.
func (f *Form) whole(name string) hw.Maybe[int] {
	text := withoutUnit(f.text(name), hw.UnitOf(name))
	if text == "" {
		return hw.Maybe[int]{}
	}
	v, err := strconv.Atoi(text)
	if err != nil {
		f.fault(name, hw.Word(hw.FaultType, fmt.Sprintf("%q", text), "a whole number"))
		return hw.Maybe[int]{}
	}
	return hw.Known(v)
}

// cents reads an optional amount of money, with a point or a comma.
func (f *Form) cents(name string) hw.Maybe[int64] {
	typed := f.text(name)
	for _, sign := range []string{"EUR", "GBP", "USD", "€", "£", "$"} {
		typed = withoutUnit(typed, sign)
		typed = strings.TrimSpace(strings.TrimPrefix(typed, sign))
	}
	text := strings.ReplaceAll(typed, ",", ".")
	if text == "" {
		return hw.Maybe[int64]{}
	}
	v, err := hw.ParseDec(text)
	if err != nil || v%10_000 != 0 {
		f.fault(name, hw.Word(hw.FaultType, fmt.Sprintf("%q", f.text(name)), "an amount such as 220 or 220.50"))
		return hw.Maybe[int64]{}
	}
	return hw.Known(int64(v) / 10_000)
}

// choice reads an optional choice among words.
func (f *Form) choice(name string, words []string) hw.Maybe[string] {
	text := f.text(name)
	if text == "" {
		return hw.Maybe[string]{}
	}
	for _, w := range words {
		if w == text {
			return hw.Known(text)
		}
	}
	f.fault(name, hw.Word(hw.FaultChoice, fmt.Sprintf("%q", text), strings.Join(words, ", ")))
	return hw.Maybe[string]{}
}

// choose reads an optional choice among the words of a table.
func choose[W ~string](f *Form, name string, table hw.Vocabulary[W]) hw.Maybe[W] {
	if text, ok := f.choice(name, table.Words()).Get(); ok {
		return hw.Known(W(text))
	}
	return hw.Maybe[W]{}
}

// slug reads an id.
func (f *Form) slug(name, proposal string) string {
	id := f.text(name)
	if id == "" {
		return proposal
	}
	for i, r := range id {
		letter := r >= 'a' && r <= 'z' || r >= '0' && r <= '9'
		dash := r == '-' && i > 0 && i < len(id)-1 && id[i-1] != '-'
		if !letter && !dash {
			f.fault(name, hw.Word(hw.FaultChoice, fmt.Sprintf("%q", id), "lower-case letters, digits and single dashes"))
			return id
		}
	}
	return id
}

// rowsOf returns the row numbers of a list in which something was typed, in order:
// rowsOf("/memory/sockets") looks at the fields /memory/sockets/0/… and so on. Only
// fields that are not preset count as typed.
func (f *Form) rowsOf(list string, typed ...string) []int {
	var rows []int
	for i := range maxRows {
		at := fmt.Sprintf("%s/%d/", list, i)
		for _, name := range typed {
			if f.text(at+name) != "" {
				rows = append(rows, i)
				break
			}
		}
	}
	for to, from := range rows {
		f.rows[fmt.Sprintf("%s/%d", list, to)] = fmt.Sprintf("%s/%d", list, from)
	}
	return rows
}

// maxRows is how many rows a list on a form may have.
const maxRows = 16

// AllFaults are all faults, by field.
func (f *Form) AllFaults() []string {
	var out []string
	for _, name := range slices.Sorted(maps.Keys(f.faults)) {
		out = append(out, f.faults[name]...)
	}
	return out
}
