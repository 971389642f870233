package label

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// forms are the letters for the form of a module.
var forms = map[byte]struct {
	form hw.ModuleForm
	ecc  bool
}{'S': {"SO-DIMM", false}, 'U': {"DIMM", false}, 'R': {"RDIMM", false}, 'E': {"DIMM", true}, 'T': {"SO-DIMM", true}}

func (m *Memory) formLetter(letter byte) string {
	f, ok := forms[letter]
	if !ok {
		return fmt.Sprintf("a form letter S, U, R, E or T, not %q,", letter)
	}
	if f.ecc {
		m.ECC = hw.Known(true)
	}
	return m.setForm(f.form)
}

// Shapes of the fields behind the figure.
var (
	formCard = regexp.MustCompile(`^[A-Z]([A-Z]{1,2}[0-9]{0,2})?$`) // form letter and raw card: SE1
	rawCard  = regexp.MustCompile(`^[A-Z]{1,2}[0-9]{0,2}$`)         // F3
	revision = regexp.MustCompile(`^[0-9]{1,4}$`)                   // of the SPD: 11
	grade    = regexp.MustCompile(`^[A-Z]{2}$`)                     // of temperature, on DDR5: XT
)

// industry reads PC4-3200AA-SE1-11, PC3L-12800S-11-13-F3, PC5-38400 and the like.
func (m *Memory) industry(text string) string {
	fields := strings.Split(text, "-")
	var kind hw.MemoryType
	volts := hw.Maybe[hw.Dec]{}
	switch fields[0] {
	case "PC3":
		kind = "DDR3"
	case "PC3L":
		kind = "DDR3L"
	case "PC3U":
		kind, volts = "DDR3L", hw.Known(hw.Dec(1_250_000))
	case "PC4":
		kind = "DDR4"
	case "PC5":
		kind = "DDR5"
	default:
		return "PC3, PC3L, PC3U, PC4 or PC5"
	}
	if len(fields) < 2 {
		return fields[0] + "- and a figure"
	}
	if want := m.setType(kind); want != "" {
		return want
	}
	if volts.IsKnown() {
		m.Voltage = volts
	}
	m.next(fields[0])
	n, rest, ok := number(fields[1])
	if !ok || n%hw.DecOf(1) != 0 {
		return "a figure after " + fields[0] + "-"
	}
	figure := n.Whole()
	if generation(kind) == "DDR3" {
		return m.ddr3(figure, rest, fields[1:])
	}
	return m.ddr4and5(figure, rest, fields[1:])
}

// next goes on to the field after one.
func (m *Memory) next(field string) { m.at += len(field) + 1 }

// bandwidth turns MB/s into the standard rate it stands for.
func (m *Memory) bandwidth(mbs int) string {
	rate, ok := nearest(m.rates(), mbs*10/8)
	if !ok {
		return fmt.Sprintf("a bandwidth of %s (%d MB/s ÷ 8 is %d MT/s, no standard rate)", generation(m.Type), mbs,
			mbs/8)
	}
	return m.setSpeed(rate)
}

// ddr3: the figure is a bandwidth, the form letter stands straight after it, then
// the CAS latency, the SPD revision and the raw card.
func (m *Memory) ddr3(figure int, rest string, fields []string) string {
	if want := m.bandwidth(figure); want != "" {
		return want
	}
	if rest != "" {
		if len(rest) != 1 {
			return "one form letter after the bandwidth"
		}
		if want := m.formLetter(rest[0]); want != "" {
			return want
		}
	}
	for i, field := range fields[1:] {
		m.next(fields[i])
		switch i {
		case 0:
			cas, err := strconv.Atoi(field)
			if err != nil || cas < 5 || cas > 14 {
				return "a CAS latency from 5 to 14 after the form letter"
			}
			if want := m.setCAS(cas); want != "" {
				return want
			}
		case 1:
			if !revision.MatchString(field) {
				return "the SPD revision after the CAS latency, such as 13"
			}
		case 2:
			if !rawCard.MatchString(field) {
				return "the raw card after the revision, such as F3"
			}
		default:
			return "nothing after the raw card"
		}
	}
	return ""
}

// bandwidthFrom is the figure from which a DDR4 or DDR5 label gives MB/s.
const bandwidthFrom = 10_000

// ddr4and5: the figure is the rate with its speed bin, or a trade bandwidth; the
// form letter and raw card follow the dash, then the SPD revision.
func (m *Memory) ddr4and5(figure int, bin string, fields []string) string {
	if figure >= bandwidthFrom {
		if want := m.bandwidth(figure); want != "" {
			return want
		}
		if len(bin) > 1 {
			return "nothing or one form letter after the bandwidth"
		}
		if bin != "" {
			if want := m.formLetter(bin[0]); want != "" {
				return want
			}
		}
	} else {
		if want := m.setSpeed(figure); want != "" {
			return want
		}
		if !letters(bin) || len(bin) > 2 {
			return "a speed bin of one or two letters after the rate"
		}
		if cas, known := bins[strconv.Itoa(figure)+bin]; known {
			m.CAS = hw.Known(cas)
		}
	}
	for i, field := range fields[1:] {
		m.next(fields[i])
		switch {
		case i == 0:
			if !formCard.MatchString(field) {
				return "a form letter and raw card after the dash, such as SE1"
			}
			if want := m.formLetter(field[0]); want != "" {
				return want
			}
		case i == 1:
			if !revision.MatchString(field) {
				return "the SPD revision after the raw card, such as 11"
			}
		case i == 2 && m.Type == "DDR5":
			if !grade.MatchString(field) {
				return "a temperature grade after the revision, such as XT"
			}
		default:
			return "nothing after the SPD revision"
		}
	}
	return ""
}

func letters(text string) bool {
	for _, r := range text {
		if r < 'A' || r > 'Z' {
			return false
		}
	}
	return true
}

// trade reads DDR4-3200, DDR3L-1600, DDR5, DDR4.
func (m *Memory) trade(text string) string {
	word, figure, dash := strings.Cut(text, "-")
	kind := hw.MemoryType(word)
	if _, known := standard[generation(kind)]; !known || hw.MemoryTypes.Index(kind) < 0 {
		return "DDR3, DDR3L, DDR4 or DDR5"
	}
	if want := m.setType(kind); want != "" || !dash {
		return want
	}
	m.next(word)
	n, unit, ok := number(figure)
	switch {
	case ok && n%hw.DecOf(1) == 0 && unit == "":
		return m.setSpeed(n.Whole())
	case ok && n%hw.DecOf(1) == 0 && (unit == "MHZ" || unit == "GHZ" || unit == "MT/S"):
		return m.measure(n, unit)
	}
	return "a rate after " + word + "-"
}
