package hw

import "fmt"

// signs are the currencies that people write with a sign.
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
