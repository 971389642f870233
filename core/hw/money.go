package hw

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// signs stand in front of an amount where a currency has one of its own.
var signs = map[string]string{"EUR": "€", "GBP": "£", "USD": "$"}

// places are the currencies whose unit is not a hundred of the smallest (ISO 4217, minor units).
var places = map[string]int{"BIF": 0, "CLP": 0, "DJF": 0, "GNF": 0, "ISK": 0, "JPY": 0, "KMF": 0, "KRW": 0, "PYG": 0, "RWF": 0,
	"UGX": 0, "VND": 0, "VUV": 0, "XAF": 0, "XOF": 0, "XPF": 0, "BHD": 3, "IQD": 3, "JOD": 3, "KWD": 3, "LYD": 3, "OMR": 3, "TND": 3}

// Places is how many places behind the point a currency has: amounts are whole numbers of the smallest
// of them.
func Places(currency string) int {
	if n, ok := places[strings.ToUpper(currency)]; ok {
		return n
	}
	return 2
}

// Amount is an amount without the currency's sign, with all its places: 28.90, −3.00.
func Amount(currency string, cents int64) string {
	minus := ""
	if cents < 0 {
		minus, cents = "−", -cents
	}
	n := Places(currency)
	if n == 0 {
		return minus + strconv.FormatInt(cents, 10)
	}
	text := fmt.Sprintf("%0*d", n+1, cents)
	return minus + text[:len(text)-n] + "." + text[len(text)-n:]
}

// Money is an amount as it is shown everywhere: €28.90, CHF 28.90, −€3.00.
func Money(currency string, cents int64) string {
	sign := signs[currency]
	if sign == "" && currency != "" {
		sign = currency + " "
	}
	text := Amount(currency, cents)
	if rest, below := strings.CutPrefix(text, "−"); below {
		return "−" + sign + rest
	}
	return sign + text
}

var amountText = regexp.MustCompile(
	`^(-?)([^0-9.,'’\s-]{0,4}) ?(-?)([0-9][0-9.,'’ \x{00a0}\x{202f}]*?) ?([^0-9.,'’\s-]{0,4})$`,
)

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
	n := Places(currency)
	whole, part, err := splitAmount(digits, n)
	if err != nil {
		return 0, err
	}
	if len(whole) > 12 {
		return 0, fmt.Errorf("%s is more than any price", clipped(text))
	}
	cents := int64(0)
	for _, r := range whole + (part + "000")[:n] {
		cents = cents*10 + int64(r-'0')
	}
	return cents, nil
}

// splitAmount finds the sign that parts whole units from cents: the last one, where there are two kinds;
// a single one before three digits could part thousands too.
func splitAmount(digits string, places int) (whole, part string, err error) {
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
	case places == 0 && len(part) == 3: // what stands before three digits parts thousands
		return strings.ReplaceAll(before, other, "") + part, "", nil
	case len(part) == 3 && places < 3 && !strings.Contains(before, other):
		return "", "", fmt.Errorf("%s can be meant in two ways; write %s or %s.%s", digits, before+part, before,
			part[:2])
	case len(part) > places:
		return "", "", fmt.Errorf("%s has more places than the currency", digits)
	}
	return strings.ReplaceAll(before, other, ""), part, nil
}

func clipped(text string) string {
	if r := []rune(text); len(r) > 24 {
		return string(r[:24]) + "…"
	}
	return text
}
