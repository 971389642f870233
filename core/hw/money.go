package hw

import (
	"fmt"
	"regexp"
	"strings"
)

// signs stand in front of an amount where a currency has one of its own.
var signs = map[string]string{"EUR": "€", "GBP": "£", "USD": "$"}

// Money is an amount as it is shown everywhere: €28.90, CHF 28.90, −€3.00.
func Money(currency string, cents int64) string {
	minus := ""
	if cents < 0 {
		minus, cents = "−", -cents
	}
	sign := signs[currency]
	if sign == "" && currency != "" {
		sign = currency + " "
	}
	return fmt.Sprintf("%s%s%d.%02d", minus, sign, cents/100, cents%100)
}

var amountText = regexp.MustCompile(`^(-?)([^0-9.,'’\s-]{0,4}) ?(-?)([0-9][0-9.,'’ \x{00a0}\x{202f}]*?) ?([^0-9.,'’\s-]{0,4})$`)

// ParseMoney reads an amount in cents as people write it: with a point or a comma, thousands apart or
// not, the currency in front or behind or left out. The error says what cannot be: another currency
// than the one given ("" takes any), more places than cents, less than nothing, or an amount that could
// be meant in two ways (1.234).
func ParseMoney(text, currency string) (int64, error) {
	m := amountText.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil {
		return 0, fmt.Errorf("%q is no amount; an amount such as 28.90 is expected", clipped(text))
	}
	if m[1] != "" || m[3] != "" {
		return 0, fmt.Errorf("%s is less than nothing", clipped(text))
	}
	for _, said := range []string{m[2], m[5]} {
		upper := strings.ToUpper(said)
		if said != "" && currency != "" && upper != currency && said != signs[currency] {
			return 0, fmt.Errorf("%s is another currency than %s", said, currency)
		}
	}
	digits := strings.NewReplacer("'", "", "’", "", " ", "", "\u00a0", "", "\u202f", "").Replace(m[4])
	whole, part, err := splitAmount(digits)
	if err != nil {
		return 0, err
	}
	if len(whole) > 12 {
		return 0, fmt.Errorf("%s is more than any price", clipped(text))
	}
	cents := int64(0)
	for _, r := range whole + (part + "00")[:2] {
		cents = cents*10 + int64(r-'0')
	}
	return cents, nil
}

// splitAmount finds the sign that parts whole units from cents: the last one, where there are two kinds;
// a single one before three digits could part thousands too.
func splitAmount(digits string) (whole, part string, err error) {
	last := strings.LastIndexAny(digits, ".,")
	if last < 0 {
		return digits, "", nil
	}
	sign, other := digits[last:last+1], "."
	if sign == "." {
		other = ","
	}
	part = digits[last+1:]
	before := digits[:last]
	switch {
	case strings.Contains(before, sign): // 1.234.567: it parts thousands
		if strings.Contains(before, other) || len(part) != 3 {
			return "", "", fmt.Errorf("%s is no amount; an amount such as 1234.50 is expected", digits)
		}
		return strings.ReplaceAll(digits, sign, ""), "", nil
	case len(part) == 3 && !strings.Contains(before, other):
		return "", "", fmt.Errorf("%s can be meant in two ways; write %s or %s.%s", digits, before+part, before,
			part[:2])
	case len(part) > 2:
		return "", "", fmt.Errorf("%s has more places than cents", digits)
	}
	return strings.ReplaceAll(before, other, ""), part, nil
}

func clipped(text string) string {
	if r := []rune(text); len(r) > 24 {
		return string(r[:24]) + "…"
	}
	return text
}
