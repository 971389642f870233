package label

import (
	"fmt"
	"strconv"
	"strings"

	"yembo/core/hw"
)

// forms are the letters for the form of a module.
var forms = map[byte]struct {
	form string
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

// industry reads PC4-3200AA-SE1-11, PC3L-12800S-11-13-F3, PC5-38400 and the like.
func (m *Memory) industry(text string) string {
	fields := strings.Split(text, "-")
	kind, volts := "", hw.Maybe[hw.Dec]{}
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
	n, rest, ok := number(fields[1])
	if !ok || n%hw.DecOf(1) != 0 {
		return "a figure after " + fields[0] + "-"
	}
	figure := n.Whole()
	if kind == "DDR3" || kind == "DDR3L" {
		return m.ddr3(figure, rest, fields[2:])
	}
	return m.ddr4and5(kind, figure, rest, fields[2:])
}

// bandwidth turns MB/s into the standard rate it stands for.
func (m *Memory) bandwidth(kind string, mbs int) string {
	rate, ok := nearest(standard[generation(kind)], mbs*10/8)
	if !ok {
		return fmt.Sprintf("a bandwidth of %s (%d MB/s ÷ 8 is %d MT/s, no standard rate)", generation(kind), mbs, mbs/8)
	}
	return m.setSpeed(rate)
}

// ddr3: the figure is a bandwidth, the form letter stands straight after it, then
// the CAS latency, tRCD-tRP or the SPD revision, and the raw card.
func (m *Memory) ddr3(figure int, rest string, fields []string) string {
	if want := m.bandwidth(m.Type, figure); want != "" {
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
	if len(fields) == 0 {
		return ""
	}
	cas, err := strconv.Atoi(fields[0])
	if err != nil || cas < 5 || cas > 14 {
		return "a CAS latency from 5 to 14 after the form letter"
	}
	return m.setCAS(cas)
}

// bandwidthFrom is the figure from which a DDR4 or DDR5 label gives MB/s.
const bandwidthFrom = 10_000

// ddr4and5: the figure is the rate with its speed bin, or a trade bandwidth; the
// form letter and raw card follow the dash, then the SPD revision.
func (m *Memory) ddr4and5(kind string, figure int, bin string, fields []string) string {
	if figure >= bandwidthFrom {
		if want := m.bandwidth(kind, figure); want != "" {
			return want
		}
		if bin != "" {
			if len(bin) != 1 {
				return "nothing or one form letter after the bandwidth"
			}
			return m.formLetter(bin[0])
		}
	} else {
		rate, ok := nearest(standard[kind], figure*10)
		if !ok {
			return fmt.Sprintf("a rate of %s (%d MT/s is none)", kind, figure)
		}
		if want := m.setSpeed(rate); want != "" {
			return want
		}
		if !letters(bin) || len(bin) > 2 {
			return "a speed bin of one or two letters after the rate"
		}
		if cas, known := bins[strconv.Itoa(rate)+bin]; known {
			m.CAS = hw.Known(cas)
		}
	}
	if len(fields) == 0 {
		return ""
	}
	if fields[0] == "" {
		return "a form letter and raw card after the dash"
	}
	return m.formLetter(fields[0][0])
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
	kind, figure, dash := strings.Cut(text, "-")
	switch kind {
	case "DDR3", "DDR3L", "DDR4", "DDR5":
	default:
		return "DDR3, DDR3L, DDR4 or DDR5"
	}
	if want := m.setType(kind); want != "" || !dash {
		return want
	}
	n, unit, ok := number(figure)
	if !ok || n%hw.DecOf(1) != 0 || n < hw.DecOf(200) || n > hw.DecOf(20_000) || (unit != "" && !isUnit(unit)) {
		return "a rate after " + kind + "-"
	}
	if unit == "MHZ" || unit == "GHZ" || unit == "MT/S" {
		return m.measure(n, unit)
	}
	if unit != "" {
		return "a rate after " + kind + "-"
	}
	return m.setSpeed(n.Whole())
}
