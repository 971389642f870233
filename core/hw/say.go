package hw

import (
	"fmt"
	"strings"
	"time"
	"unicode"
)

// Words names a memory module: "8 GB DDR4-3200"; what is not known is left out.
func (m *Module) Words() string {
	words := "module"
	if gb, ok := m.Capacity.Get(); ok {
		words = gb.String() + " GB"
	}
	if m.Type != "" {
		words += " " + string(m.Type)
		if mts, ok := m.Speed.Get(); ok {
			words += fmt.Sprintf("-%d", mts)
		}
	}
	return words
}

// Words names a drive: "512 GB NVMe".
func (d *Drive) Words() string {
	if d.Form == FormOptical {
		return "optical drive"
	}
	words := "drive"
	if gb, ok := d.Capacity.Get(); ok {
		words = gb.String() + " GB"
	}
	if d.Interface != "" {
		words += " " + Interfaces.Says(d.Interface)
	}
	if d.Form != "" {
		words += " " + string(d.Form)
	}
	return words
}

// Named is how people call a step: "unscrew bottom cover".
func (s *Step) Named() string {
	if s.Part == "" {
		return s.Verb.Says()
	}
	return s.Verb.Says() + " " + s.Part
}

// Says is how people call a service.
func (s *Service) Says() string {
	if s.Name != "" {
		return s.Name
	}
	return s.ID
}

// ServiceName is what a service of the model is called, in lower case for a list.
func (c *Chassis) ServiceName(id string) string {
	if i := c.ServiceByID(id); i >= 0 && c.Services[i].Name != "" {
		return LowerFirst(c.Services[i].Name)
	}
	return strings.ReplaceAll(id, "-", " ")
}

// LowerFirst gives a text a small first letter, unless it is an abbreviation such as PCIe
// or GB, or a name.
func LowerFirst(text string) string {
	r := []rune(text)
	if len(r) < 2 || !unicode.IsLower(r[1]) && r[1] != ' ' {
		return text
	}
	r[0] = unicode.ToLower(r[0])
	return string(r)
}

// PackSays is a pack of the model as people say it: the small pack, the pack.
func PackSays(id string) string {
	if strings.Contains(id, "pack") {
		return "the " + id
	}
	return "the " + id + " pack"
}

// PlaceSays is a place as people say it: the record's own name, or the battery.
func PlaceSays(id string) string {
	if pack, ok := strings.CutPrefix(id, "battery:"); ok {
		return PackSays(pack)
	}
	if id == BatteryPlace {
		return "the battery"
	}
	return id
}

// Day writes a date of a finding ("2026-04-18") the way the sheets do: 18 Apr 26.
func Day(text string) string {
	t, err := time.Parse("2006-01-02", text)
	if err != nil {
		return text
	}
	return t.Format("2 Jan 06")
}

// Names are the names of the parts by their ids.
func (p *Parts) Names() map[string]string {
	out := map[string]string{}
	for i := range p.Parts {
		out[p.Parts[i].ID] = p.Parts[i].Name
	}
	return out
}

// Plural is the word for one, or for any other number; −1 is one less, and so one.
func Plural(n int, one, many string) string {
	if n == 1 || n == -1 {
		return one
	}
	return many
}

// Count is a number with its word: "1 screw", "7 screws".
func Count(n int, one, many string) string { return fmt.Sprint(n) + " " + Plural(n, one, many) }

// Says is a group of screws in words, as far as it is known: "7 screws, PH0, 6 mm, M2".
func (f *Fastener) Says() string {
	words := []string{"screws, not counted"}
	if n, ok := f.Count.Get(); ok {
		words[0] = Count(n, "screw", "screws")
	}
	if bit, ok := f.Bit.Get(); ok {
		words = append(words, bit)
	}
	if mm, ok := f.Length.Get(); ok {
		words = append(words, mm.String()+" mm")
	}
	if f.Thread != "" {
		words = append(words, f.Thread)
	}
	return strings.Join(words, ", ")
}

func UpperFirst(s string) string {
	r := []rune(s)
	if len(r) > 0 {
		r[0] = unicode.ToUpper(r[0])
	}
	return string(r)
}
