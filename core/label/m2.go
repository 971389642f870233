package label

import (
	"slices"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// M2 is what an M.2 size code says.
type M2 struct {
	Kind   string           `json:"kind"` // m2_code
	Width  int              `json:"width_mm"`
	Length int              `json:"length_mm"`
	Sides  hw.Maybe[int]    `json:"sides,omitzero"`
	Top    hw.Maybe[hw.Dec] `json:"top_mm,omitzero"`
	Bottom hw.Maybe[hw.Dec] `json:"bottom_mm,omitzero"`
	Keys   []string         `json:"keys,omitzero"`
}

// heights above and below the board, in micrometres × 1000 (hw.Dec).
var heights = map[string][2]hw.Dec{
	"S1": {1_200_000, 0}, "S2": {1_350_000, 0}, "S3": {1_500_000, 0},
	"D1": {1_200_000, 1_350_000}, "D2": {1_350_000, 1_350_000}, "D3": {1_500_000, 1_350_000},
	"D4": {1_500_000, 700_000}, "D5": {1_500_000, 1_500_000},
}

// Widths and lengths that the standard's modules have, in mm.
var (
	Widths  = []int{12, 16, 22, 30}
	Lengths = []int{16, 26, 30, 38, 42, 60, 80, 110}
)

// m2Code is a text's size code, with or without "M.2" before it; ok is false for what is
// none.
func m2Code(text string) (code string, ok bool) {
	if head, rest, found := strings.Cut(text, " "); found && strings.EqualFold(head, "M.2") {
		return strings.TrimSpace(rest), true
	}
	return text, looksLikeM2(text)
}

// looksLikeM2 tells a size code from a memory label: four or five digits first.
func looksLikeM2(text string) bool {
	size, _, _ := strings.Cut(text, "-")
	if len(size) != 4 && len(size) != 5 {
		return false
	}
	for _, r := range size {
		if r < '0' || r > '9' {
			return false
		}
	}
	return !strings.Contains(text, " ")
}

// ParseM2 reads a size code such as 2280-D2-B-M: width and length, sides and
// component height, keys. A code that stops earlier says less. The error is
// *ParseError.
func ParseM2(text string) (*M2, error) {
	fields := strings.Split(strings.ToUpper(text), "-")
	m := &M2{Kind: "m2_code"}
	column := 1
	fail := func(part, want string) error {
		understood := ""
		if m.Length > 0 {
			understood = strconv.Itoa(m.Width) + " × " + strconv.Itoa(m.Length) + " mm"
		}
		return &ParseError{Text: text, Column: column, Part: part, Understood: understood, Want: want}
	}
	size := fields[0]
	if !looksLikeM2(size) {
		return nil, fail(size, "a size such as 2280 or 22110")
	}
	width, _ := strconv.Atoi(size[:2])
	length, _ := strconv.Atoi(size[2:])
	if !slices.Contains(Widths, width) {
		return nil, fail(size[:2], "a width of 12, 16, 22 or 30 mm")
	}
	if !slices.Contains(Lengths, length) || len(size) == 5 && length < 100 {
		column += 2
		return nil, fail(size[2:], "a length of 16, 26, 30, 38, 42, 60, 80 or 110 mm")
	}
	m.Width, m.Length = width, length
	for i, f := range fields[1:] {
		column += len(fields[i]) + 1
		if i == 0 {
			h, ok := heights[f]
			if !ok {
				return nil, fail(f, "sides and height: S1 to S3 or D1 to D5")
			}
			m.Sides = hw.Known(1)
			if f[0] == 'D' {
				m.Sides = hw.Known(2)
			}
			m.Top, m.Bottom = hw.Known(h[0]), hw.Known(h[1])
			continue
		}
		if len(f) != 1 || f[0] < 'A' || f[0] > 'M' || (i > 1 && f <= m.Keys[len(m.Keys)-1]) {
			return nil, fail(f, "a key letter from A to M, in the order of the alphabet")
		}
		m.Keys = append(m.Keys, f)
	}
	return m, nil
}
