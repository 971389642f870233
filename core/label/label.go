// Package label reads what is printed on parts: memory labels of three
// generations, in the standard's form and in trade forms, M.2 size codes, and the
// image of a module's own description (SPD) (docs/rules.md, Labels).
package label

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// Memory is what a memory label says. What it does not say is not known.
type Memory struct {
	Kind      string              `json:"kind"` // memory_label
	Type      hw.MemoryType       `json:"type,omitempty"`
	Form      hw.ModuleForm       `json:"form,omitempty"`
	Capacity  hw.Maybe[hw.Dec]    `json:"capacity_gb,omitzero"`
	SpeedMTs  hw.Maybe[int]       `json:"speed_mts,omitzero"`
	Ranks     hw.Maybe[int]       `json:"ranks,omitzero"`
	ChipWidth hw.Maybe[int]       `json:"chip_width,omitzero"`
	Voltage   hw.Maybe[hw.Dec]    `json:"voltage_v,omitzero"`
	CAS       hw.Maybe[int]       `json:"cas,omitzero"`
	ECC       hw.Maybe[bool]      `json:"ecc,omitzero"`
	Count     hw.Maybe[int]       `json:"count,omitzero"` // of modules in a kit: 2x8GB
	Notes     []string            `json:"-"`              // what was read with a grain of salt
	seen      map[string]struct{} // what has been read already
	at        int                 // where in the word the part stands that is being read
}

// ParseError says where reading a text stopped and what was understood before.
type ParseError struct {
	Text       string
	Column     int    // of the part that could not be read, from 1
	Part       string // the part itself
	Understood string // what was read before it, "" for nothing
	Want       string // what would be right
}

// Error is one sentence with the column.
func (e *ParseError) Error() string {
	text := fmt.Sprintf("column %d: %q cannot be read", e.Column, e.Part)
	if e.Part == "" {
		text = fmt.Sprintf("column %d: the text ends too early", e.Column)
	}
	if e.Want != "" {
		text += "; " + e.Want + " is expected"
	}
	if e.Understood != "" {
		text += " (understood: " + e.Understood + ")"
	}
	return text
}

// MaxText is the longest text that is read, in bytes.
const MaxText = 200

// Decode reads a memory label or an M.2 size code: it returns *Memory or *M2, and nil with an error.
func Decode(text string) (any, error) {
	if len(text) > MaxText {
		return nil, &ParseError{Text: text[:MaxText], Column: MaxText + 1, Part: "…",
			Want: fmt.Sprintf("a label of at most %d characters", MaxText)}
	}
	trimmed := strings.TrimSpace(text)
	if code, ok := m2Code(trimmed); ok {
		m2, err := ParseM2(code)
		if err != nil { // a nil *M2 would be no nil for who asks
			return nil, err
		}
		return m2, nil
	}
	memory, err := ParseMemory(text)
	if err != nil {
		return nil, err
	}
	return memory, nil
}

// standard is the transfer rates of each generation in MT/s.
var standard = map[hw.MemoryType][]int{
	"DDR3": {800, 1066, 1333, 1600, 1866, 2133},
	"DDR4": {800, 1066, 1333, 1600, 1866, 2133, 2400, 2666, 2933, 3200},
	"DDR5": {4000, 4400, 4800, 5200, 5600, 6000, 6400},
}

// Rates is every standard rate, ascending.
var Rates = []int{800, 1066, 1333, 1600, 1866, 2133, 2400, 2666, 2933, 3200, 4000, 4400, 4800, 5200, 5600, 6000, 6400}

// Snap returns the standard rate within 1 % of a figure, or the figure itself.
func Snap(mts int) int {
	if near, ok := nearest(Rates, mts*10); ok {
		return near
	}
	return mts
}

// nearest finds the rate within 1 % of tenths of a MT/s.
func nearest(rates []int, tenths int) (int, bool) {
	for _, r := range rates {
		if diff := r*10 - tenths; diff*100 <= r*10 && -diff*100 <= r*10 {
			return r, true
		}
	}
	return 0, false
}

// bins are the CAS latencies of the common speed bins.
var bins = map[string]int{
	"2133P": 15, "2400T": 17, "2666V": 19, "2933Y": 21, "3200AA": 22,
	"4800B": 40, "5200B": 42, "5600B": 46,
}

// generation is the plain generation of a type: DDR3 for DDR3L.
func generation(kind hw.MemoryType) hw.MemoryType {
	return hw.MemoryType(strings.TrimSuffix(string(kind), "L"))
}

func volts(kind hw.MemoryType) hw.Dec {
	switch kind {
	case "DDR3":
		return 1_500_000
	case "DDR3L":
		return 1_350_000
	case "DDR4":
		return 1_200_000
	}
	return 1_100_000
}

var formWords = map[string]hw.ModuleForm{
	"SO-DIMM": "SO-DIMM", "SODIMM": "SO-DIMM", "DIMM": "DIMM", "UDIMM": "DIMM", "RDIMM": "RDIMM", "CAMM2": "CAMM2",
	"LPCAMM2": "LPCAMM2",
}

// ParseMemory reads a memory label. The error is *ParseError.
func ParseMemory(text string) (*Memory, error) {
	m := &Memory{Kind: "memory_label", seen: map[string]struct{}{}}
	words := split(text)
	if len(words) == 0 {
		return nil, &ParseError{Text: text, Column: 1, Want: "a label such as 16GB 2Rx8 PC4-3200AA-SE1-11"}
	}
	for i := 0; i < len(words); i++ {
		w := words[i]
		next := ""
		if i+1 < len(words) {
			next = words[i+1].text
		}
		m.at = 0
		used, want := m.word(w.text, next)
		if want != "" {
			part, _, _ := strings.Cut(w.text[m.at:], "-")
			if m.at == 0 {
				part = w.text
			}
			return nil, &ParseError{Text: text, Column: w.column + m.at, Part: part, Understood: m.understood(),
				Want: want}
		}
		i += used - 1
	}
	if m.Type == "" && !m.Capacity.IsKnown() && !m.SpeedMTs.IsKnown() {
		last := words[len(words)-1]
		return nil, &ParseError{Text: text, Column: last.column, Part: last.text, Understood: m.understood(),
			Want: "a capacity, a type or a speed"}
	}
	if m.Type != "" && !m.Voltage.IsKnown() {
		m.Voltage = hw.Known(volts(m.Type))
	}
	return m, nil
}

type word struct {
	text   string
	column int
}

func split(text string) []word {
	var out []word
	column, start := 0, -1
	var b strings.Builder
	for _, r := range text {
		column++
		if r == ' ' || r == '\t' || r == ',' && start < 0 {
			if start >= 0 {
				out = append(out, word{b.String(), start})
				b.Reset()
				start = -1
			}
			continue
		}
		if start < 0 {
			start = column
		}
		b.WriteRune(r)
	}
	if start >= 0 {
		out = append(out, word{b.String(), start})
	}
	return out
}

// word reads one word, with the next one where the two belong together. want is
// what would have been right, "" when it was read.
func (m *Memory) word(text, next string) (used int, want string) {
	upper := strings.ToUpper(strings.TrimSuffix(text, ","))
	if count, rest, ok := kit(upper); ok {
		if m.taken("count") {
			return 1, "how many modules once"
		}
		m.Count, upper = hw.Known(count), rest
	}
	if n, unit, ok := number(upper); ok {
		if mts := n.Whole(); unit == "" && slices.Contains(Rates, mts) && hw.DecOf(mts) == n && !isUnit(next) {
			return 1, m.setSpeed(mts)
		}
		if unit == "" && isUnit(next) {
			return 2, m.measure(n, strings.ToUpper(next))
		}
		if isUnit(unit) {
			return 1, m.measure(n, unit)
		}
	}
	if ranks, width, ok := organisation(upper); ok {
		return 1, m.organise(ranks, width)
	}
	if form, ok := formWords[upper]; ok {
		return 1, m.setForm(form)
	}
	if strings.HasPrefix(upper, "PC") {
		return 1, m.industry(upper)
	}
	if strings.HasPrefix(upper, "DDR") {
		return 1, m.trade(upper)
	}
	if cas, ok := strings.CutPrefix(upper, "CL"); ok {
		n, err := strconv.Atoi(cas)
		if err != nil || n < 1 || n > 99 {
			return 1, "a CAS latency such as CL22"
		}
		return 1, m.setCAS(n)
	}
	return 1, "a capacity (16GB), ranks (2Rx8), a type (PC4-3200AA-SE1-11, DDR4-3200) or a form (SO-DIMM)"
}

// kit reads the front of 2x8GB: how many modules, and what one of them is.
func kit(text string) (count int, rest string, ok bool) {
	head, rest, found := strings.Cut(strings.ReplaceAll(text, "×", "X"), "X")
	n, err := strconv.Atoi(head)
	if !found || err != nil || n < 1 || n > 16 || rest == "" || rest[0] < '0' || rest[0] > '9' {
		return 0, "", false
	}
	return n, rest, true
}

func isUnit(text string) bool {
	switch strings.ToUpper(text) {
	case "GB", "MB", "GIB", "MHZ", "GHZ", "MT/S", "V":
		return true
	}
	return false
}

// number splits "16GB" into 16 and "GB". The decimal sign may be a comma.
func number(text string) (n hw.Dec, unit string, ok bool) {
	end := 0
	for end < len(text) && (text[end] >= '0' && text[end] <= '9' || text[end] == '.' || text[end] == ',') {
		end++
	}
	if end == 0 {
		return 0, "", false
	}
	n, err := hw.ParseDec(strings.ReplaceAll(text[:end], ",", "."))
	return n, text[end:], err == nil
}

func (m *Memory) measure(n hw.Dec, unit string) string {
	switch unit {
	case "GB", "GIB":
		return m.setCapacity(n)
	case "MB":
		return m.setCapacity(n / 1024)
	case "V":
		if m.taken("volts") || n < 900_000 || n > 2_500_000 {
			return "one voltage between 0.9 and 2.5 V"
		}
		m.Voltage = hw.Known(n)
		return ""
	}
	mts := n.Whole()
	if hw.DecOf(mts) != n || mts < 200 || mts > 20_000 {
		return "a rate such as 3200 MT/s"
	}
	if unit != "MT/S" {
		m.Notes = append(m.Notes, fmt.Sprintf("%d %s is read as %d MT/s: transfers, not clock", mts, pretty(unit), mts))
	}
	return m.setSpeed(mts)
}

func pretty(unit string) string {
	if unit == "GHZ" {
		return "GHz"
	}
	return "MHz"
}

// taken notes that something was read and reports whether it had been before.
func (m *Memory) taken(what string) bool {
	_, before := m.seen[what]
	m.seen[what] = struct{}{}
	return before
}

func (m *Memory) setCapacity(n hw.Dec) string {
	if m.taken("capacity") || n <= 0 || n > hw.DecOf(4096) {
		return "one capacity above 0 GB"
	}
	m.Capacity = hw.Known(n)
	return ""
}

// setSpeed notes a rate. Only the standard ones are rates, those of the generation where
// that is known.
func (m *Memory) setSpeed(mts int) string {
	if rates := m.rates(); !slices.Contains(rates, mts) {
		return fmt.Sprintf("a standard rate (%d MT/s is none of %s)", mts, rateWords(m.Type))
	}
	if old, known := m.SpeedMTs.Get(); known && old != mts {
		return fmt.Sprintf("one rate (%d MT/s stands there already)", old)
	}
	m.SpeedMTs = hw.Known(mts)
	return ""
}

// rates are those that may stand on the label.
func (m *Memory) rates() []int {
	if m.Type == "" {
		return Rates
	}
	return standard[generation(m.Type)]
}

func rateWords(kind hw.MemoryType) string {
	if kind == "" {
		return "any generation"
	}
	return string(generation(kind))
}

func (m *Memory) setForm(form hw.ModuleForm) string {
	if m.Form != "" && m.Form != form {
		return "one form (" + string(m.Form) + " stands there already)"
	}
	m.Form = form
	return ""
}

func (m *Memory) setCAS(n int) string {
	if old, known := m.CAS.Get(); known && old != n {
		return fmt.Sprintf("one CAS latency (%d stands there already)", old)
	}
	m.CAS = hw.Known(n)
	return ""
}

func (m *Memory) setType(kind hw.MemoryType) string {
	if m.Type != "" && m.Type != kind {
		return "one type (" + string(m.Type) + " stands there already)"
	}
	m.Type = kind
	if mts, known := m.SpeedMTs.Get(); known && !slices.Contains(m.rates(), mts) {
		return fmt.Sprintf("a generation that has the rate %d MT/s", mts)
	}
	return ""
}

func (m *Memory) organise(ranks, width int) string {
	if m.taken("ranks") {
		return "ranks once"
	}
	m.Ranks, m.ChipWidth = hw.Known(ranks), hw.Known(width)
	return ""
}

// organisation reads 2Rx8: ranks and the chips' width.
func organisation(text string) (ranks, width int, ok bool) {
	text = strings.ReplaceAll(text, "×", "X")
	head, tail, found := strings.Cut(text, "RX")
	if !found {
		return 0, 0, false
	}
	r, errR := strconv.Atoi(head)
	w, errW := strconv.Atoi(tail)
	if errR != nil || errW != nil || r < 1 || r > 8 || (w != 4 && w != 8 && w != 16 && w != 32) {
		return 0, 0, false
	}
	return r, w, true
}

// understood sums up what was read so far.
func (m *Memory) understood() string {
	var words []string
	if gb, ok := m.Capacity.Get(); ok {
		words = append(words, gb.String()+" GB")
	}
	if r, ok := m.Ranks.Get(); ok {
		words = append(words, fmt.Sprintf("%d ranks", r))
	}
	if m.Type != "" {
		words = append(words, string(m.Type))
	}
	if mts, ok := m.SpeedMTs.Get(); ok {
		words = append(words, fmt.Sprintf("%d MT/s", mts))
	}
	if m.Form != "" {
		words = append(words, string(m.Form))
	}
	return strings.Join(words, ", ")
}
