// Package form reads what was typed, tells what cannot be read at its field, and merges it
// with what somebody else stored meanwhile. The tables of forms for the things of a record
// stand here too.
package form

import (
	"errors"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
)

// Form is a form as it was sent. Its fields are named by the JSON Pointers of the document they fill in, so
// that a fault found by the core stands at its field without any translation:
// the field /memory/sockets/0/channel is the fault's place too. Rows of a list that
// were left empty are passed over, and pointers are mapped back to the rows typed.
type Form struct {
	Values url.Values
	Faults map[string][]string // by field name
	Rows   map[string]string   // pointer in the document -> pointer in the form
	Now    time.Time           // when it was sent
	// Currency says how many places amounts have; "" is two.
	Currency string

	Clashing map[string]*clash // fields that someone else changed too
	Taken    map[string]string // fields that someone else alone changed
	then     url.Values        // what the fields were when the form was opened, nil where it does not say
}

func New(values url.Values) *Form {
	return &Form{Values: values, Faults: map[string][]string{}, Rows: map[string]string{},
		Clashing: map[string]*clash{}, Taken: map[string]string{}}
}

// Sent is a form that was sent.
func Sent(c *echo.Context) (*Form, error) {
	if err := c.Request().ParseForm(); err != nil {
		return nil, echo.ErrBadRequest.Wrap(err)
	}
	values := c.Request().PostForm
	for _, list := range values { // browsers send lines in their own way
		for i := range list {
			list[i] = strings.ReplaceAll(list[i], "\r\n", "\n")
		}
	}
	return Of(c, values), nil
}

// Of is a form of a request, whichever way its fields came: with the time at which it was sent, and the
// shop's currency.
func Of(c *echo.Context, values url.Values) *Form {
	f := New(values)
	f.Now, _ = c.Get(NowKey).(time.Time)
	if currency, ok := c.Get(CurrencyKey).(func() string); ok {
		f.Currency = currency()
	}
	return f
}

// What the time of a request, and the way to the shop's currency, are kept under.
const (
	NowKey      = "now"
	CurrencyKey = "currency"
)

// Value is what was typed into a field.
func (f *Form) Value(name string) string { return f.Values.Get(name) }

// Errors are the faults at a field.
func (f *Form) Errors(name string) []string { return f.Faults[name] }

// Is reports whether a field has a value, for selects and check boxes.
func (f *Form) Is(name, value string) bool { return f.Values.Get(name) == value }

// Count is how many faults there are.
func (f *Form) Count() int {
	n := 0
	for _, list := range f.Faults {
		n += len(list)
	}
	return n
}

func (f *Form) Fault(name, text string) { f.Faults[name] = append(f.Faults[name], text) }

// Take notes the core's faults at their fields. It returns false for an error of
// another kind.
func (f *Form) Take(err error) bool {
	var faults hw.Faults
	if !errors.As(err, &faults) {
		return false
	}
	for _, x := range faults {
		f.Fault(f.fieldFor(x.Pointer), x.Text)
	}
	return true
}

// fieldFor finds the field for a pointer: the row it came from, else itself.
func (f *Form) fieldFor(pointer string) string {
	for at := pointer; at != ""; at = at[:strings.LastIndex(at, "/")] {
		if row, ok := f.Rows[at]; ok {
			return row + strings.TrimPrefix(pointer, at)
		}
	}
	return pointer
}

// Stray are the faults whose field is not on the page, given the fields that are.
func (f *Form) Stray() []string {
	var out []string
	for name, list := range f.Faults {
		if _, there := f.Values[name]; !there {
			for _, text := range list {
				out = append(out, strings.TrimPrefix(strings.ReplaceAll(name, "/", " "), " ")+": "+text)
			}
		}
	}
	sort.Strings(out)
	return out
}

// Text reads an optional Text.
func (f *Form) Text(name string) string { return strings.TrimSpace(f.Values.Get(name)) }

// withoutUnit takes the field's own unit off a figure: 16GB, 52.5 wh. Another unit stays,
// and is a fault of the figure.
func withoutUnit(text, unit string) string {
	if cut := len(text) - len(unit); unit != "" && cut > 0 && strings.EqualFold(text[cut:], unit) {
		return strings.TrimSpace(text[:cut])
	}
	return text
}

var errTooLarge = errors.New("too large")

// Dec reads an optional decimal number, with a point or a comma.
func (f *Form) Dec(name string) hw.Maybe[hw.Dec] {
	unit, times := hw.UnitOf(name), hw.Dec(1)
	text := withoutUnit(f.Text(name), unit)
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
		f.Fault(name, hw.Word(hw.FaultType, fmt.Sprintf("%q", f.Text(name)), "a number such as 8 or 14.6"))
		return hw.Maybe[hw.Dec]{}
	}
	return hw.Known(v)
}

// Whole reads an optional Whole number.
func (f *Form) Whole(name string) hw.Maybe[int] {
	text := withoutUnit(f.Text(name), hw.UnitOf(name))
	if text == "" {
		return hw.Maybe[int]{}
	}
	v, err := strconv.Atoi(text)
	if err != nil {
		f.Fault(name, hw.Word(hw.FaultType, fmt.Sprintf("%q", text), "a whole number"))
		return hw.Maybe[int]{}
	}
	return hw.Known(v)
}

// Cents reads an optional amount of money.
func (f *Form) Cents(name string) hw.Maybe[int64] {
	text := f.Text(name)
	if text == "" {
		return hw.Maybe[int64]{}
	}
	v, err := hw.ParseMoney(text, f.Currency)
	if err != nil {
		f.Fault(name, err.Error())
		return hw.Maybe[int64]{}
	}
	return hw.Known(v)
}

// Choice reads an optional Choice among words.
func (f *Form) Choice(name string, words []string) hw.Maybe[string] {
	text := f.Text(name)
	if text == "" {
		return hw.Maybe[string]{}
	}
	for _, w := range words {
		if w == text {
			return hw.Known(text)
		}
	}
	f.Fault(name, hw.Word(hw.FaultChoice, fmt.Sprintf("%q", text), strings.Join(words, ", ")))
	return hw.Maybe[string]{}
}

// Choose reads an optional choice among the words of a table.
func Choose[W ~string](f *Form, name string, table hw.Vocabulary[W]) hw.Maybe[W] {
	if text, ok := f.Choice(name, table.Words()).Get(); ok {
		return hw.Known(W(text))
	}
	return hw.Maybe[W]{}
}

// Slug reads an id.
func (f *Form) Slug(name, proposal string) string {
	id := f.Text(name)
	if id == "" {
		return proposal
	}
	for i, r := range id {
		letter := r >= 'a' && r <= 'z' || r >= '0' && r <= '9'
		dash := r == '-' && i > 0 && i < len(id)-1 && id[i-1] != '-'
		if !letter && !dash {
			f.Fault(name, hw.Word(hw.FaultChoice, fmt.Sprintf("%q", id),
				"lower-case letters, digits and single dashes"))
			return id
		}
	}
	return id
}

// RowsOf returns the row numbers of a list in which something was typed, in order:
// RowsOf("/memory/sockets") looks at the fields /memory/sockets/0/… and so on. Only
// fields that are not preset count as typed.
func (f *Form) RowsOf(list string, typed ...string) []int {
	var rows []int
	for i := range MaxRows {
		at := fmt.Sprintf("%s/%d/", list, i)
		for _, name := range typed {
			if f.Text(at+name) != "" {
				rows = append(rows, i)
				break
			}
		}
	}
	for to, from := range rows {
		f.Rows[fmt.Sprintf("%s/%d", list, to)] = fmt.Sprintf("%s/%d", list, from)
	}
	return rows
}

// MaxRows is how many rows a list on a form may have.
const MaxRows = 16

// AllFaults are all faults, by field.
func (f *Form) AllFaults() []string {
	var out []string
	for _, name := range slices.Sorted(maps.Keys(f.Faults)) {
		out = append(out, f.Faults[name]...)
	}
	return out
}
