package shorthand

import (
	"fmt"
	"regexp"
	"strings"

	"yembo/core/hw"
	"yembo/core/label"
)

// A part is entered by one line too, typed or scanned: what its label says, in any order, with a name, a
// price and how many there are.
//
//	Corvane 16GB 2Rx8 PC4-3200AA-SE1-11 38.90 4pcs 3d
//
// are four memory modules at 38.90 each, of which more can be had in three days. A line needs no kind:
// what it says of itself tells it. Words that mean nothing else are the name.

// PartLine is a line about a part as it was read.
type PartLine struct {
	Text      string
	Words     []Word
	Part      hw.Part
	Named     string // the words of its name, "" for none
	Quoted    bool   // they are the whole name
	Pieces    hw.Maybe[int]
	Low       hw.Maybe[int]
	Priced    bool
	Orderable bool // more can be had, and nobody said when
	Uncounted bool
	Number    string // what its supplier calls it
	Supplier  string

	said     map[string]bool // what was told already
	currency string
}

// MaxPartLine is the longest line about a part, in bytes.
const MaxPartLine = 500

// ParsePart reads a line about a part; prices are in a currency. What cannot be read is a fault at its
// word.
func ParsePart(text, currency string) *PartLine {
	l := &PartLine{Text: text, said: map[string]bool{}, currency: currency}
	if len(text) > MaxPartLine {
		l.fail(token{col: 1, size: 1}, fmt.Sprintf("the line has more than %d characters", MaxPartLine),
			"a part's label, price and count", "")
		return l
	}
	tokens, fault := split(text)
	if fault != nil {
		l.Words = append(l.Words, Word{Col: fault.Col, Len: 1, Fault: fault})
		return l
	}
	tokens = joinPart(tokens)
	for i := 0; i < len(tokens); i++ {
		t := tokens[i]
		// accessory bracket-x is what gives bracket-x.
		if i == 0 && len(tokens) > 1 && !t.quoted && strings.EqualFold(t.text, "accessory") && !tokens[1].quoted &&
			slug.MatchString(tokens[1].text) {
			l.Part.Provides, l.Named = tokens[1].text, tokens[1].text
			l.mean(t, "an accessory", "kind")
			l.mean(tokens[1], tokens[1].text, "what it gives")
			i++
			continue
		}
		if t.quoted {
			l.Named, l.Quoted = unquote(t.text), true
			l.mean(t, unquote(t.text), "name")
			continue
		}
		l.word(t)
	}
	l.bareprice()
	l.settle()
	return l
}

// bareprice takes a whole number alone for the price where none was told: 79 is 79.00. Of several
// it is not known which is meant.
func (l *PartLine) bareprice() {
	if l.Priced || l.Quoted {
		return
	}
	at := -1
	for i := range l.Words {
		w := &l.Words[i]
		if w.Fault != nil || w.Detail != "name" || !wholeAlone.MatchString(w.Text) {
			continue
		}
		if at >= 0 || i == 0 {
			w.Fault = &Fault{Line: 1, Col: w.Col, Got: fmt.Sprintf("%q may be a price or a part of the name", clip(w.Text)),
				Want: "a price as 79.00, a count as 4pcs, or the name in quotes"}
			return
		}
		at = i
	}
	if at < 0 {
		return
	}
	cents, err := hw.ParseMoney(l.Words[at].Text, l.currency)
	if err != nil {
		return
	}
	l.Part.PriceCents, l.Priced, l.said["price"] = cents, true, true
	l.Words[at].Means, l.Words[at].Detail = hw.Money(l.currency, cents), "price"
	var name []string
	for _, w := range l.Words {
		if w.Detail == "name" && w.Fault == nil {
			name = append(name, w.Text)
		}
	}
	l.Named = strings.Join(name, " ")
}

var wholeAlone = regexp.MustCompile(`^[0-9]{1,5}$`)

// Faults lists what could not be read.
func (l *PartLine) Faults() []*Fault {
	var out []*Fault
	for _, w := range l.Words {
		if w.Fault != nil {
			out = append(out, w.Fault)
		}
	}
	return out
}

// joinPart puts together what belongs to one amount: 16 GB, 38,90 EUR, 3 days.
func joinPart(tokens []token) []token {
	var out []token
	for _, t := range tokens {
		if !t.quoted {
			if t.text = strings.Trim(t.text, ",;()"); t.text == "" {
				continue
			}
		}
		if n := len(out); n > 0 && !t.quoted && !out[n-1].quoted && belongs(out[n-1].text, strings.ToLower(t.text)) {
			out[n-1].text += t.text
			out[n-1].size = t.col + t.size - out[n-1].col
			continue
		}
		out = append(out, t)
	}
	return out
}

var partUnits = words("gb tb mb wh v mm d day days pcs pieces eur gbp usd chf € mb/s mbs ant antennas cells in inch w")

var sidedWord = words("single one 1 two double 2")

func belongs(number, unit string) bool {
	if unit == "sided" {
		return sidedWord[strings.ToLower(number)]
	}
	return bareNumber.MatchString(number) && partUnits[unit] ||
		strings.EqualFold(number, "wi-fi") || strings.EqualFold(number, "wifi") || strings.EqualFold(number, "low") &&
		bareNumber.MatchString(unit) ||
		(number == "€" || number == "EUR" || number == "£" || number == "$") && bareNumber.MatchString(unit)
}

// word reads one word by the first pattern that takes it.
func (l *PartLine) word(t token) {
	for i := range partWords {
		w := &partWords[i]
		m := w.like.FindStringSubmatch(t.text)
		if m == nil || w.when != nil && !w.when(l, m) {
			continue
		}
		means, wrong := w.read(l, m)
		if wrong == "" && w.detail != "" && l.said[w.detail] && !w.again {
			wrong = w.detail + " is said twice"
		}
		if wrong != "" {
			l.fail(t, wrong, "", "")
			return
		}
		l.said[w.detail] = true
		l.mean(t, means, w.detail)
		return
	}
	if means, ok := l.memoryWord(t.text); ok {
		l.mean(t, means, "memory label")
		return
	}
	if l.Quoted {
		l.fail(t, fmt.Sprintf("%q means nothing here, and the name stands in quotes already", clip(t.text)), "",
			l.near(t.text))
		return
	}
	l.Named = strings.TrimSpace(l.Named + " " + t.text)
	l.mean(t, t.text, "name")
}

// memoryWord reads a word of a memory label by itself.
func (l *PartLine) memoryWord(text string) (means string, ok bool) {
	// A form or a rank alone is no label, so each word is read beside a capacity, which is not taken.
	with := text
	alone, err := label.ParseMemory(text)
	if err != nil {
		with = "1GB " + text
		if alone, err = label.ParseMemory(with); err != nil {
			return "", false
		}
		alone.Capacity = hw.Maybe[hw.Dec]{}
	}
	m := l.memory()
	var said []string
	set := func(known bool, words string, keep func()) {
		if known {
			keep()
			said = append(said, words)
		}
	}
	set(alone.Capacity.IsKnown(), alone.Capacity.Or(0).String()+" GB", func() { m.Capacity = alone.Capacity })
	set(alone.Count.IsKnown(), fmt.Sprintf("a kit of %d", alone.Count.Or(1)), func() { l.Part.Count = alone.Count })
	set(alone.Ranks.IsKnown(), hw.Count(alone.Ranks.Or(0), "rank", "ranks"), func() { m.Ranks = alone.Ranks })
	set(alone.ChipWidth.IsKnown(), fmt.Sprintf("chips %d bits wide", alone.ChipWidth.Or(0)), func() {})
	rate := string(alone.Type)
	if mts, ok := alone.SpeedMTs.Get(); ok {
		rate = strings.TrimPrefix(fmt.Sprintf("%s-%d", alone.Type, mts), "-")
	}
	set(alone.Type != "" || alone.SpeedMTs.IsKnown(), rate, func() {
		if alone.Type != "" {
			m.Type, m.Voltage = alone.Type, alone.Voltage
		}
		if alone.SpeedMTs.IsKnown() {
			m.Speed = alone.SpeedMTs
		}
	})
	set(alone.CAS.IsKnown(), fmt.Sprintf("CAS %d", alone.CAS.Or(0)), func() {})
	set(alone.Form != "", string(alone.Form), func() { m.Form = alone.Form })
	set(alone.ECC.IsKnown() && alone.ECC.Or(false), "ECC", func() { m.ECC = alone.ECC })
	if alone.Type != "" || alone.Form != "" || alone.Ranks.IsKnown() {
		l.said["kind memory"] = true
	}
	return strings.Join(said, ", "), len(said) > 0
}

// near is the known word nearest to one that is none.
func (l *PartLine) near(text string) string {
	return hw.Nearest(strings.ToLower(text),
		strings.Fields("nvme sata single-sided two-sided pulled pcie cnvi so-dimm clocked hdd orderable uncounted"))
}

func (l *PartLine) mean(t token, means, detail string) {
	l.Words = append(l.Words, Word{Col: t.col, Len: t.size, Text: t.text, Means: means, Detail: detail})
}

func (l *PartLine) fail(t token, got, want, near string) {
	l.Words = append(l.Words, Word{Col: t.col, Len: t.size, Text: t.text,
		Fault: &Fault{Line: 1, Col: t.col, Got: got, Want: want, Near: near}})
}

// The parts that a line may turn out to be about; each is made when it is first spoken of.

func (l *PartLine) memory() *hw.Module {
	if l.Part.Memory == nil {
		l.Part.Memory = &hw.Module{}
	}
	return l.Part.Memory
}

func (l *PartLine) drive() *hw.Drive {
	if l.Part.Drive == nil {
		l.Part.Drive = &hw.Drive{}
	}
	return l.Part.Drive
}

func (l *PartLine) pack() *hw.Pack {
	if l.Part.Battery == nil {
		l.Part.Battery = &hw.Pack{}
	}
	return l.Part.Battery
}

func (l *PartLine) card() *hw.Card {
	if l.Part.Wireless == nil {
		l.Part.Wireless = &hw.Card{}
	}
	return l.Part.Wireless
}

// settle finds the kind that the words speak of, keeps what belongs to it, and makes a name.
func (l *PartLine) settle() {
	p := &l.Part
	if p.Kind == "" {
		switch {
		case p.Provides != "":
			p.Kind = hw.KindAccessory
		case l.said["kind battery"]:
			p.Kind = hw.KindBattery
		case l.said["kind wireless"]:
			p.Kind = hw.KindWireless
		case l.said["kind drive"]:
			p.Kind = hw.KindDrive
		case l.said["kind memory"]:
			p.Kind = hw.KindMemory
		}
	}
	// A capacity stands for whatever has one; an M.2 size for a drive or a card.
	capacity := hw.Maybe[hw.Dec]{}
	if p.Memory != nil {
		capacity = p.Memory.Capacity
	}
	if p.Drive != nil && p.Drive.Capacity.IsKnown() {
		capacity = p.Drive.Capacity
	}
	length, key := hw.Maybe[int]{}, hw.Maybe[string]{}
	if p.Drive != nil {
		length, key = p.Drive.Length, p.Drive.Key
	}
	if p.Kind == hw.KindDrive {
		l.drive().Capacity = capacity
	}
	if p.Kind == hw.KindWireless {
		if l.card(); p.Wireless.Interface == "" {
			p.Wireless.Interface = hw.PCIe
		}
		p.Wireless.Length, p.Wireless.Key = length, key
	}
	if p.Kind == hw.KindDrive {
		l.settleDrive()
	}
	if p.Kind == hw.KindBattery && p.Battery != nil && p.Battery.PartNumber == "" {
		l.numberOfPack()
	}
	for kind, drop := range map[hw.PartKind]func(){hw.KindMemory: func() { p.Memory = nil },
		hw.KindDrive:   func() { p.Drive = nil },
		hw.KindBattery: func() { p.Battery = nil }, hw.KindWireless: func() { p.Wireless = nil }} {
		if kind != p.Kind {
			drop()
		}
	}
	if p.Kind == hw.KindMemory && p.Memory == nil {
		p.Memory = &hw.Module{}
	}
	facts := PartFacts(p)
	switch {
	case l.Quoted:
		p.Name = l.Named
	default:
		p.Name = strings.TrimSpace(l.Named + " " + facts)
	}
}

// settleDrive fills in what a drive of a kind has where nothing else was said: an M.2 drive's key, by
// what its interface uses.
func (l *PartLine) settleDrive() {
	d := l.drive()
	if d.Length.IsKnown() && !d.Key.IsKnown() {
		switch d.Interface {
		case hw.NVMe:
			d.Key = hw.Known("M")
		case hw.SATA:
			d.Key = hw.Known("B+M")
		case hw.PCIe, hw.USB, hw.CNVi, hw.CNVi2: // they change nothing here
		}
	}
}

// numberOfPack takes the last word of a pack's name that has a digit for its part number.
func (l *PartLine) numberOfPack() {
	fields := strings.Fields(l.Named)
	for i := len(fields) - 1; i >= 0; i-- {
		if strings.ContainsAny(fields[i], "0123456789") {
			l.Part.Battery.PartNumber = fields[i]
			l.Named = strings.Join(append(fields[:i:i], fields[i+1:]...), " ")
			return
		}
	}
}

// PartFacts says in words what a part is, without a name: "16 GB DDR4-3200 SO-DIMM".
func PartFacts(p *hw.Part) string {
	var out []string
	add := func(known bool, words string) {
		if known {
			out = append(out, words)
		}
	}
	switch {
	case p.Memory != nil:
		m := p.Memory
		n := p.Count.Or(1)
		add(n > 1, fmt.Sprintf("%d ×", n))
		if m.Capacity.IsKnown() || m.Type != "" {
			add(true, m.Words())
		}
		add(m.ECC.Or(false), "ECC")
		add(m.Clocked.Or(false), "clocked")
		add(m.Form != "", string(m.Form))
	case p.Drive != nil:
		d := p.Drive
		if gb, ok := d.Capacity.Get(); ok {
			add(true, Gigabytes(gb))
		}
		add(d.Interface != "", hw.Interfaces.Says(d.Interface))
		if mm, ok := d.Length.Get(); ok {
			add(true, fmt.Sprintf("22%02d", mm))
		}
		add(d.Form != "", hw.DriveForms.Says(d.Form))
		add(d.Rotational.Or(false), "spinning")
		if gen, ok := d.Gen.Get(); ok {
			add(true, fmt.Sprintf("gen %d", gen))
		}
	case p.Battery != nil:
		add(p.Battery.PartNumber != "", p.Battery.PartNumber)
		if wh, ok := p.Battery.DesignWh.Get(); ok {
			add(true, wh.String()+" Wh")
		}
	case p.Wireless != nil:
		add(p.Wireless.Standard != "", hw.Standards.Says(p.Wireless.Standard)+" card")
		if mm, ok := p.Wireless.Length.Get(); ok {
			add(true, fmt.Sprintf("22%02d", mm))
		}
	}
	if p.Pulled() {
		out = append(out, "pulled")
	}
	return strings.Join(out, " ")
}

// Gigabytes says a drive's capacity the way it is sold: 512 GB, 1 TB, 1.92 TB.
func Gigabytes(gb hw.Dec) string {
	if gb >= hw.DecOf(1000) {
		return (gb / 1000).String() + " TB"
	}
	return gb.String() + " GB"
}
