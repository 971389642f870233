package reading

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"yembo/core/doc"
	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/label"
)

// How a line of a comparison stands.
const (
	Same        = "same"        // read as it was believed
	More        = "more"        // read as it was believed, with detail that was not known
	New         = "new"         // not known before
	Contradicts = "contradicts" // read otherwise than it was believed
)

// Line is one thing that a machine tells, set against what is believed.
type Line struct {
	Key      string // of what is accepted together: the sockets are one, or an empty one would be made up
	What     string
	Believed string // "" is not yet known
	Read     string
	How      string   // Same, More, New or Contradicts
	Adds     []string // the detail that was not known, by its names on pages
	Rule     string   // which one holds, and why
	Offered  bool     // accepting it changes something
	Advised  bool     // it is accepted unless someone says otherwise
	// Finding is what accepting adds to the model's record; the source, date and person
	// are the caller's.
	Finding *hw.Finding

	fit func(m *hw.Machine)
}

// Choice is a thing whose place a report does not tell: where it is taken to be, and
// where else it may be.
type Choice struct {
	Key, What, Chosen string
	Places            []string
}

// Comparison is a reading against a model's record and one machine of it.
type Comparison struct {
	Lines   []Line
	Choices []Choice
}

// Compare sets what a machine tells against its model's record and what was believed
// fitted. places says where a thing is, by the key of its choice, where a person knows
// it better than the order of the report.
func Compare(o *Observed, ch *hw.Chassis, m *hw.Machine, places map[string]string) *Comparison {
	c := &comparer{o: o, ch: ch, m: m, places: places}
	c.system()
	c.memory()
	c.modules()
	c.drives()
	c.links()
	c.batteries()
	return &c.Comparison
}

// Fit returns a copy of the machine with the lines of those keys taken over.
func (c *Comparison) Fit(m *hw.Machine, accepted map[string]bool) (*hw.Machine, error) {
	var out hw.Machine
	if err := doc.Of(m).Into(&out); err != nil {
		return nil, err
	}
	for _, l := range c.Lines {
		if accepted[l.Key] && l.fit != nil {
			l.fit(&out)
		}
	}
	return &out, nil
}

// adds names what taking a line over would make known of the machine.
func (c *comparer) adds(fit func(*hw.Machine)) []string {
	var out hw.Machine
	if err := doc.Of(c.m).Into(&out); err != nil {
		return nil
	}
	fit(&out)
	before := map[string]bool{}
	for _, leaf := range doc.Leaves(doc.Of(c.m)) {
		before[leaf] = true
	}
	var names []string
	for _, leaf := range doc.Leaves(doc.Of(&out)) {
		if name := hw.FieldSays(leaf[strings.LastIndex(leaf, "/")+1:]); !before[leaf] && !slices.Contains(names, name) {
			names = append(names, name)
		}
	}
	return names
}

type comparer struct {
	Comparison
	o      *Observed
	ch     *hw.Chassis
	m      *hw.Machine
	places map[string]string
}

// add appends a line after settling how it stands.
func (c *comparer) add(l Line) *Line {
	if l.How == "" {
		switch {
		case l.Believed == "":
			l.How = New
		case l.Believed == l.Read:
			l.How = Same
		default:
			l.How = Contradicts
		}
	}
	if l.How == Same && l.fit != nil {
		if l.Adds = c.adds(l.fit); len(l.Adds) > 0 {
			l.How, l.Advised = More, true
			l.Rule = "it agrees, and adds what was not known: " + strings.Join(l.Adds, ", ")
		}
	}
	l.Offered = l.How != Same && (l.fit != nil || l.Finding != nil)
	c.Lines = append(c.Lines, l)
	return &c.Lines[len(c.Lines)-1]
}

// place settles where a thing is: as a person said, else as proposed.
func (c *comparer) place(key, what, proposed string, all []string) string {
	chosen := proposed
	for _, p := range all {
		if p == c.places[key] && p != "" {
			chosen = p
		}
	}
	if len(all) > 1 {
		c.Choices = append(c.Choices, Choice{key, what, chosen, all})
	}
	return chosen
}

// fact adds a line about a fact of the model's record.
func (c *comparer) fact(path, what, believed, read string, value any) *Line {
	raw, err := json.Marshal(value)
	if err != nil || believed == read {
		return c.add(Line{Key: path, What: what, Believed: believed, Read: read})
	}
	l := c.add(Line{Key: path, What: what, Believed: believed, Read: read,
		Finding: &hw.Finding{Path: path, Value: raw, Source: "reading"}})
	known := evidence.Of(c.ch.Findings, path).InForce
	switch {
	case believed == "":
		l.Rule, l.Advised = "nothing on record; only the bench outranks a reading", true
	case known == nil:
		l.Rule = "the record has a value without a source; accepted, the reading takes its place"
	case evidence.Rank(known.Source) < evidence.Rank(hw.FromReading):
		l.Rule = fmt.Sprintf("what the record has was %s and holds: a reading is weaker; accepted, it stands beside "+
			"it as a dispute", sourced(known))
	case evidence.Rank(known.Source) == evidence.Rank(hw.FromReading):
		l.Rule = "two readings: the newer one holds, the fact is disputed until someone settles it"
	default:
		l.Rule = fmt.Sprintf("a reading outweighs what was %s: accepted, it holds and the fact is disputed",
			sourced(known))
	}
	return l
}

func sourced(f *hw.Finding) string {
	return strings.TrimSpace(hw.Sources.Says(f.Source) + " " + f.On)
}

func (c *comparer) system() {
	s := c.o.System
	if s == nil {
		return
	}
	if s.Model != "" {
		believed := c.ch.Name()
		l := Line{Key: "model", What: "Model", Believed: believed, Read: strings.TrimSpace(s.Maker + " " + s.Model)}
		if strings.EqualFold(l.Read, believed) || sameModel(strings.ToLower(believed), strings.ToLower(l.Read)) ||
			c.ch.Code != "" && strings.Contains(l.Read, c.ch.Code) || covered(c.ch, l.Read) {
			l.How = Same
		} else {
			l.How, l.Rule = Contradicts, "this may be another model: compare the base label before anything below "+
				"is accepted"
		}
		c.add(l)
	}
	if s.Serial != "" {
		l := c.add(Line{Key: "serial", What: "Serial", Believed: c.m.Serial, Read: s.Serial,
			fit: func(m *hw.Machine) { m.Serial = s.Serial }})
		switch l.How {
		case New:
			l.Rule, l.Advised = "the machine's own word", true
		case Contradicts:
			l.Rule = "the label on the base holds; a board that was changed may tell another serial"
		}
	}
	if s.Firmware != "" {
		c.Lines = append(c.Lines, Line{Key: "firmware", What: "Firmware", Read: s.Firmware, How: New,
			Rule: "kept with the reading"})
	}
}

func covered(ch *hw.Chassis, name string) bool {
	for _, code := range ch.Covers {
		if strings.Contains(name, code) {
			return true
		}
	}
	return false
}

func gbOf(m hw.Maybe[hw.Dec]) string {
	if v, ok := m.Get(); ok {
		return v.String() + " GB"
	}
	return ""
}

// memory compares what the firmware tells of the board with the record: its figures for
// the maximum and the sockets never outweigh the bench (docs/rules.md, Evidence).
func (c *comparer) memory() {
	o := c.o.Memory
	if o == nil {
		return
	}
	ch := c.ch.Mem()
	kinds := map[hw.MemoryType]bool{}
	for _, d := range o.Devices {
		if d.Type != "" && d.Capacity.Or(0) > 0 {
			kinds[d.Type] = true
		}
	}
	if len(kinds) == 1 {
		for kind := range kinds {
			believed := ch.Type.Or("")
			l := c.fact("/memory/type", "Memory type", string(believed), string(kind), kind)
			if believed == "DDR3L" && kind == "DDR3" || believed == "DDR3" && kind == "DDR3L" {
				// What is fitted, and what the sockets take, are two things here.
				l.How, l.Offered, l.Finding, l.Rule = New, false, nil,
					"a module of either voltage may sit in this machine; what the sockets take stays as recorded"
			}
		}
	}
	if max, ok := o.Max.Get(); ok {
		words := max.String() + " GB"
		believed, path := gbOf(ch.Limits.Controller), "/memory/limits/controller_gb"
		if proven := gbOf(ch.Limits.Proven); proven != "" {
			believed = proven
			path = "/memory/limits/proven_gb"
		}
		if path == "/memory/limits/proven_gb" {
			l := c.add(Line{Key: "max_gb", What: "Largest memory, by firmware", Believed: believed + " proven",
				Read: words, How: sameAs(believed == words)})
			if l.How == Contradicts {
				l.Rule = "what was proven at the bench holds: firmware is often wrong about the maximum, and a " +
					"reading never overrides the bench"
			}
		} else {
			l := c.fact(path, "Largest memory, by firmware", believed, words, max)
			l.Advised = false
			if l.How != Same {
				l.Rule = "firmware is often wrong about the maximum: " + orElse(l.Rule,
					"it stands for the controller's limit") + "; never against the bench"
			}
		}
	}
	if n, ok := o.Sockets.Get(); ok {
		l := Line{Key: "sockets", What: "Memory sockets, by firmware", Read: fmt.Sprint(n)}
		if ch.Sockets != nil {
			l.Believed = fmt.Sprint(len(ch.Sockets))
			if l.Believed != l.Read {
				l.Rule = "the record's sockets hold: firmware often counts wrong, and a reading never overrides " +
					"what was seen on the bench"
			}
		} else {
			l.Rule = "not taken over: firmware often counts wrong; look when it is open"
		}
		c.add(l)
	}
}

func sameAs(same bool) string {
	if same {
		return Same
	}
	return Contradicts
}

func orElse[T ~string](a, b T) T {
	if a != "" {
		return a
	}
	return b
}

// module is a device as a machine document has it.
func (d *Device) module() hw.Module {
	m := hw.Module{Type: d.Type, Form: d.Form, Capacity: d.Capacity, Ranks: d.Ranks, Voltage: d.Voltage,
		PartNumber: d.PartNumber, Serial: d.Serial}
	if v, ok := d.Rated.Get(); ok {
		m.Speed = hw.Known(label.Snap(v)) // firmware rounds otherwise than modules are sold by
	}
	return m
}

// ModuleWords says a module in words: "16 GB DDR4-3200 2 ranks".
func ModuleWords(m *hw.Module) string {
	words := gbOf(m.Capacity)
	if m.Type != "" {
		words += " " + string(m.Type)
		if v, ok := m.Speed.Get(); ok {
			words += fmt.Sprintf("-%d", v)
		}
	}
	if n, ok := m.Ranks.Get(); ok {
		words += ", " + hw.Count(n, "rank", "ranks")
	}
	return strings.TrimSpace(words)
}
