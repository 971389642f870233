package hw

import (
	"fmt"
	"math"
	"math/big"
	"strconv"
	"strings"
)

// Dec is an exact decimal number with six places behind the point, used for
// every measured quantity (GB, mm, Wh, V, W, h). Binary floating point would
// make "4.4 h against a goal of 4.4 h" a matter of luck.
type Dec int64

// decScale is how many units of Dec make one.
const decScale = 1_000_000

// MaxDec is the largest magnitude that a document may carry.
const MaxDec = 1_000_000_000

// DecOf returns n as a Dec.
func DecOf(n int) Dec { return Dec(n) * decScale }

// ParseDec reads a decimal number such as "52.5", "-3" or "1e3". It refuses what
// is not a number, has more than six places behind the point, or lies beyond
// MaxDec.
func ParseDec(text string) (Dec, error) {
	if d, ok := plainDec(text); ok {
		return d, nil
	}
	return exactDec(text)
}

// plainDec reads digits with a point or none, as nearly all numbers are written; ok is
// false for any other way, and for what lies beyond MaxDec.
func plainDec(text string) (d Dec, ok bool) {
	digits := strings.TrimPrefix(text, "-")
	whole, part, pointed := strings.Cut(digits, ".")
	if whole == "" || len(whole) > 9 || len(part) > 6 || pointed && part == "" {
		return 0, false
	}
	for _, piece := range []string{whole, part} {
		for i := range len(piece) {
			if piece[i] < '0' || piece[i] > '9' {
				return 0, false
			}
			d = d*10 + Dec(piece[i]-'0')
		}
	}
	for range 6 - len(part) {
		d *= 10
	}
	if len(digits) < len(text) {
		d = -d
	}
	return d, true
}

// exactDec reads any way of writing a number.
func exactDec(text string) (Dec, error) {
	// A short cut keeps hostile exponents ("1e999999999") away from big.Rat.
	f, err := strconv.ParseFloat(text, 64)
	if err != nil || math.IsNaN(f) || math.Abs(f) > MaxDec || strings.ContainsAny(text, "xX_pP") || len(text) > 64 {
		return 0, fmt.Errorf("%s is not a number between -%d and %d", clip(text), MaxDec, MaxDec)
	}
	if f != 0 && math.Abs(f) < 1.0/decScale {
		return 0, fmt.Errorf("%s has more than six places behind the point", clip(text))
	}
	r, ok := new(big.Rat).SetString(text)
	if !ok {
		return 0, fmt.Errorf("%s is not a number", clip(text))
	}
	r.Mul(r, big.NewRat(decScale, 1))
	if !r.IsInt() {
		return 0, fmt.Errorf("%s has more than six places behind the point", clip(text))
	}
	return Dec(r.Num().Int64()), nil
}

func clip(text string) string {
	if len(text) > 24 {
		return text[:24] + "…"
	}
	return text
}

// String prints the number with no more places than it needs.
func (d Dec) String() string {
	sign := ""
	if d < 0 {
		sign, d = "-", -d
	}
	whole, part := d/decScale, d%decScale
	if part == 0 {
		return sign + strconv.FormatInt(int64(whole), 10)
	}
	return sign + strconv.FormatInt(int64(whole), 10) + "." + strings.TrimRight(fmt.Sprintf("%06d", part), "0")
}

// Tenths rounds to 0.1, half up, as every printed decimal is.
func (d Dec) Tenths() Dec {
	const tenth = decScale / 10
	if d < 0 {
		return -((-d + tenth/2) / tenth * tenth)
	}
	return (d + tenth/2) / tenth * tenth
}

// Hundredths rounds to 0.01, half up.
func (d Dec) Hundredths() Dec {
	const hundredth = decScale / 100
	if d < 0 {
		return -((-d + hundredth/2) / hundredth * hundredth)
	}
	return (d + hundredth/2) / hundredth * hundredth
}

// Whole rounds to a whole number, half up.
func (d Dec) Whole() int {
	if d < 0 {
		return -int((-d + decScale/2) / decScale)
	}
	return int((d + decScale/2) / decScale)
}

// Rat returns the exact value for arithmetic that divides.
func (d Dec) Rat() *big.Rat { return big.NewRat(int64(d), decScale) }

// Float returns the nearest float64, for drawing only.
func (d Dec) Float() float64 { return float64(d) / decScale }

// RatTenths rounds an exact value to 0.1, half up. The value must be positive or zero.
func RatTenths(r *big.Rat) Dec {
	n := new(big.Int).Mul(r.Num(), big.NewInt(20))
	n.Add(n, r.Denom())
	n.Quo(n, new(big.Int).Mul(r.Denom(), big.NewInt(2)))
	return Dec(n.Int64()) * (decScale / 10)
}

// MarshalJSON writes a JSON number.
func (d Dec) MarshalJSON() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalJSON reads a JSON number.
func (d *Dec) UnmarshalJSON(data []byte) error {
	v, err := ParseDec(string(data))
	if err != nil {
		return err
	}
	*d = v
	return nil
}

// Minutes is working time in thousandths of a minute. Entered minutes have at
// most two places and the way back counts 0.8 of them, so a thousandth is exact.
type Minutes int64

// MinutesOf converts entered minutes.
func MinutesOf(d Dec) Minutes { return Minutes(d / (decScale / 1000)) }

// Back is the time of the way back: 0.8 of the way down (docs/rules.md, The way in).
func (m Minutes) Back() Minutes { return m * 8 / 10 }

// Shown is the time to 0.1 minutes, half up.
func (m Minutes) Shown() Dec { return m.Exact().Tenths() }

// Exact is the time as a number of minutes, unrounded.
func (m Minutes) Exact() Dec { return Dec(m) * (decScale / 1000) }

// Labour is minutes × rate ÷ 60 to the cent, half up. It uses the exact minutes.
func (m Minutes) Labour(centsPerHour int64) int64 {
	return (int64(m)*centsPerHour + 30_000) / 60_000
}
