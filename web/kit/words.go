package kit

import (
	"fmt"
	"strconv"
	"strings"
	"time"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/records"

	"yembo/core/hw"
	"yembo/web/form"
)

func DayNumber(t time.Time) int {
	return int(time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC).Unix() / 86400)
}

// Ticked tells whether a box of a list is ticked: /consents/seal.
func Ticked(f *form.Form, list, word string) bool { return f.Is(list+"/"+word, "yes") }

func OrDash(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

func FaultTexts(faults hw.Faults) []string {
	out := make([]string, len(faults))
	for i, f := range faults {
		out[i] = faultText(f)
	}
	return out
}

// DocumentFaults are the faults of a document, each with its place in it.
func DocumentFaults(faults hw.Faults) []string {
	out := make([]string, len(faults))
	for i, f := range faults {
		out[i] = f.Error()
	}
	return out
}

// faultText is a fault in people's words: the name of its field, where that is one of a record, and what is
// wrong with it. A field of the page itself needs no name: the fault stands at it.
func faultText(f hw.Fault) string {
	name := hw.FactSays(f.Pointer)
	if f.Pointer == "" || !strings.Contains(strings.Trim(f.Pointer, "/"), "/") && name == strings.Trim(f.Pointer, "/") {
		return f.Text
	}
	return name + ": " + f.Text
}

// FactName names a fact for people: "dimm1, largest module".
func FactName(path string) string { return hw.FactSays(path) }

func DecWords(m hw.Maybe[hw.Dec]) string {
	if v, ok := m.Get(); ok {
		return v.String()
	}
	return ""
}

// AgoWords is how long ago something was.
func AgoWords(now, then time.Time) string {
	if now.Sub(then) < time.Minute {
		return "just now"
	}
	return SinceWords(now, then) + " ago"
}

// SinceWords says how long ago something was, without the word.
func SinceWords(now, then time.Time) string {
	if then.IsZero() {
		return ""
	}
	switch d := now.Sub(then); {
	case d < time.Minute:
		return "just now"
	case d < time.Hour:
		return fmt.Sprintf("%d min", int(d.Minutes()))
	case d < 24*time.Hour:
		return fmt.Sprintf("%d h", int(d.Hours()))
	case d < 48*time.Hour:
		return "1 day"
	default:
		return fmt.Sprintf("%d days", int(d.Hours()/24))
	}
}

// Matches reports whether every word of a query stands in one of the texts.
func Matches(query string, texts ...string) bool {
	all := strings.ToLower(strings.Join(texts, " "))
	for _, word := range strings.Fields(strings.ToLower(query)) {
		if !strings.Contains(all, word) {
			return false
		}
	}
	return true
}

// MemorySummary says in a few words what a model's memory is.
func MemorySummary(b records.Brief) string {
	var words []string
	if b.SolderedGB > 0 {
		words = append(words, b.SolderedGB.String()+" GB soldered")
	}
	switch n := len(b.Forms); {
	case b.Forms == nil:
		words = append(words, "sockets not yet known")
	case n == 0:
		words = append(words, "no socket")
	case n == 1:
		words = append(words, "1 socket")
	default:
		words = append(words, strconv.Itoa(n)+" sockets")
	}
	return OrDash(string(b.MemoryType), "type not yet known") + ", " + strings.Join(words, " + ")
}

// SerialsOf reads serials, apart by blanks, commas or lines.
func SerialsOf(text string) []string {
	return strings.FieldsFunc(text,
		func(r rune) bool { return r == ',' || r == ';' || r == ' ' || r == '\n' || r == '\r' || r == '\t' })
}

// WithTax adds a tax to an amount, half up.
func WithTax(cents int64, percent hw.Dec) int64 {
	whole := int64(hw.DecOf(100))
	return cents + (cents*int64(percent)+whole/2)/whole
}

// BudgetWords say what a customer named, and whether the tax is in it.
func BudgetWords(how *base.Settings, cents int64) string {
	words := hw.Money(how.Currency, cents)
	switch {
	case how.TaxPercent == 0:
	case how.Pricing.BudgetTax || how.Pricing.TaxIn:
		words += " with tax"
	default:
		words += " without tax"
	}
	return words
}

func AtMost(most int, list []string) []string { return list[:min(len(list), most)] }

func OrNothing(text, otherwise string) string {
	if strings.TrimSpace(text) == "" {
		return otherwise
	}
	return text
}

// TookWords says what a step took in the jobs that measured it, "" where too few did.
func TookWords(m jobs.StepTimes) string {
	if !m.Enough() {
		return ""
	}
	return fmt.Sprintf("%s min in %d jobs, %s to %s", m.Median, m.N, m.Least, m.Longest)
}

// AmountTyped is an amount as it is typed into a field: 220 or 4.50.
func AmountTyped(currency string, cents int64) string {
	return strings.TrimSuffix(strings.ReplaceAll(hw.Amount(currency, cents), "−", "-"), ".00")
}

// ReadyWords says when an option can be had, in days of the calendar.
func ReadyWords(days hw.Maybe[int]) string {
	n, known := days.Get()
	switch {
	case !known:
		return "not yet known"
	case n == 0:
		return "today"
	default:
		return hw.Count(n, "day", "days")
	}
}
