package hw

import (
	"strings"
	"testing"
)

// TestParseMoney: amounts as people and price lists write them, and what is none.
func TestParseMoney(t *testing.T) {
	for text, want := range map[string]int64{"28.90": 2890, "28,90": 2890, "28,9": 2890, "28": 2800, "€28.90": 2890,
		"28,90 €":   2890,
		"EUR 28.90": 2890, "28.90eur": 2890, "1.234,50": 123450, "1,234.50": 123450, "1'234.50": 123450,
		"1 234,50 €": 123450,
		"1.234.567":  123456700, "0": 0, "0,05": 5, " 7 ": 700, "1\u00a0234,5": 123450} {
		if got, err := ParseMoney(text, "EUR"); err != nil || got != want {
			t.Errorf("%q: %d %v, want %d", text, got, err, want)
		}
	}
	for text, says := range map[string]string{"": "no amount", "abc": "no amount", "-3": "less than nothing",
		"€-3":    "less than nothing",
		"$28.90": "another currency", "28.90 CHF": "another currency", "1.234": "two ways; write 1234 or 1.23",
		"1,2345": "more places", "1.2.3": "no amount", "9999999999999": "more than any price", "1..2": "no amount",
		"1e5": "no amount"} {
		if got, err := ParseMoney(text, "EUR"); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %d %v, not %q", text, got, err, says)
		}
	}
	for _, c := range []struct {
		currency, text string
		want           int64
		shown          string
	}{{"JPY", "1.234", 1234, "JPY 1234"}, {"JPY", "28", 28, "JPY 28"}, {"KWD", "1.234", 1234, "KWD 1.234"}, {"KWD", "28,9",
		28900, "KWD 28.900"},
		{"KWD", "0,005", 5, "KWD 0.005"}} {
		if got, err := ParseMoney(c.text, c.currency); err != nil || got != c.want || Money(c.currency, got) != c.shown {
			t.Errorf("%s %s: %d %v, shown as %s", c.currency, c.text, got, err, Money(c.currency, got))
		}
	}
	if got, err := ParseMoney("28.5", "JPY"); err == nil {
		t.Errorf("half a yen is %d", got)
	}
	// What is shown can be read again.
	for _, currency := range []string{"EUR", "GBP", "CHF", "JPY", "KWD"} {
		for _, cents := range []int64{0, 1, 99, 100, 2890, 123456789} {
			if got, err := ParseMoney(Money(currency, cents), currency); err != nil || got != cents {
				t.Errorf("%s: %d %v", Money(currency, cents), got, err)
			}
		}
	}
}
