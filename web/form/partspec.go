package form

import (
	"fmt"
	"strings"

	"yembo/core/doc"
	"yembo/core/hw"
)

// PartField is one field of a part: its place in the document of a part, and how it is asked for.
type PartField struct {
	Name  string // "/memory/type"
	Label string
	Unit  string
	Hint  string
	Kind  byte // 't' text, 'd' decimal, 'w' whole, 'c' choice, 'y' yes or not told
	Terms []hw.Term[string]
}

// Mode is the keyboard that a phone shows for the field, "" for letters.
func (f *PartField) Mode() string {
	switch f.Kind {
	case 'd':
		return "decimal"
	case 'w':
		return "numeric"
	}
	return ""
}

func yesOrNo() []hw.Term[string] {
	return []hw.Term[string]{{Word: "true", Says: "yes"}, {Word: "false", Says: "no"}}
}

// PartFields are the fields of each kind of part, in the order in which they are asked for.
func PartFields(kind hw.PartKind) []PartField {
	yes := yesOrNo()
	switch kind {
	case hw.KindMemory:
		return []PartField{
			{"/memory/type", "Type", "", "", 'c', hw.MemoryTypes.Terms()},
			{"/memory/form", "Form", "", "", 'c', hw.ModuleForms.Terms()},
			{"/memory/capacity_gb", "Capacity of one", "GB", "", 'd', nil},
			{"/memory/speed_mts", "Speed", "MT/s", "", 'w', nil},
			{"/memory/ranks", "Ranks", "", "", 'w', nil}, {"/memory/voltage_v", "Voltage", "V", "", 'd', nil},
			{"/memory/ecc", "ECC", "", "", 'y', yes},
			{"/memory/clocked", "Clock driver of its own", "", "", 'y', yes}, {"/memory/maker", "Maker", "", "", 't', nil},
			{"/memory/part_number", "Part number", "", "", 't', nil}}
	case hw.KindDrive:
		return []PartField{
			{"/drive/interface", "Interface", "", "", 'c', hw.DriveInterfaces.Terms()},
			{"/drive/capacity_gb", "Capacity", "GB", "", 'd', nil},
			{"/drive/form", "Form", "", "", 'c', hw.DriveForms.Terms()},
			{"/drive/key", "M.2 key", "", "M, B+M, or a maker's own", 't', nil},
			{"/drive/length_mm", "M.2 length", "mm", "", 'w', nil},
			{"/drive/pcie_gen", "PCIe generation", "", "", 'w', nil}, {"/drive/lanes", "Lanes", "", "", 'w', nil},
			{"/drive/height_mm", "Height", "mm", "of a 2.5-inch drive", 'd', nil},
			{"/drive/rotational", "Spinning", "", "", 'y', yes},
			{"/drive/top_mm", "Parts above its board", "mm", "", 'd', nil},
			{"/drive/bottom_mm", "Parts below", "mm", "0: one-sided", 'd', nil},
			{"/drive/read_mbs", "Reads", "MB/s", "", 'd', nil}, {"/drive/write_mbs", "Writes", "MB/s", "", 'd', nil},
			{"/drive/power_w", "Power", "W", "", 'd', nil}, {"/drive/heatsink", "Heat sink on it", "", "", 'y', yes},
			{"/drive/cache_module", "Only a cache", "", "", 'y', yes}, {"/drive/maker", "Maker", "", "", 't', nil},
			{"/drive/model", "Model", "", "", 't', nil}}
	case hw.KindBattery:
		return []PartField{
			{"/battery/part_number", "Part number", "", "", 't', nil},
			{"/battery/design_wh", "Energy when new", "Wh", "", 'd', nil},
			{"/battery/nominal_v", "Voltage", "V", "", 'd', nil},
			{"/battery/series", "Cells in series", "", "", 'w', nil}}
	case hw.KindWireless:
		return []PartField{
			{"/wireless/standard", "Standard", "", "", 'c', hw.Standards.Terms()},
			{"/wireless/interface", "Interface", "", "", 'c', hw.CardInterfaces.Terms()},
			{"/wireless/key", "Key", "", "A+E", 't', nil}, {"/wireless/length_mm", "Length", "mm", "", 'w', nil},
			{"/wireless/antennas", "Antennas", "", "", 'w', nil},
			{"/wireless/part_number", "Part number", "", "", 't', nil}}
	case hw.KindAccessory:
		return []PartField{{"/provides", "What it gives", "", "as the record names it: bay-cable-mo14", 't', nil}}
	}
	return nil
}

// PartTyped is what the fields of a part show, by name.
func PartTyped(p *hw.Part) map[string]string {
	tree := doc.Of(p)
	out := map[string]string{}
	for _, f := range PartFields(p.Kind) {
		if v := tree.Get(strings.TrimPrefix(f.Name, "/")); v != nil {
			out[f.Name] = fmt.Sprint(v)
		}
	}
	return out
}

// tree reads fields into a document whose root is at a place of the form: "" or "/fitted/drives/0".
func (f *Form) tree(fields []PartField, at string) doc.Tree {
	tree := doc.Tree{}
	for _, x := range fields {
		switch path := strings.TrimPrefix(x.Name, at+"/"); {
		case f.Text(x.Name) == "":
			continue
		case x.Kind == 'd':
			tree.Set(path, doc.Plain(f.Dec(x.Name)))
		case x.Kind == 'w':
			tree.Set(path, doc.Plain(f.Whole(x.Name)))
		case x.Kind == 'y':
			tree.Set(path, f.Is(x.Name, "true"))
		case x.Kind == 'c':
			words := make([]string, len(x.Terms))
			for i, t := range x.Terms {
				words[i] = t.Word
			}
			if word, ok := f.Choice(x.Name, words).Get(); ok {
				tree.Set(path, word)
			}
		default:
			tree.Set(path, f.Text(x.Name))
		}
	}
	return tree
}

// Part reads the fields of a kind of part into a part. Faults stand at their fields.
func (f *Form) Part(kind hw.PartKind) hw.Part {
	var p hw.Part
	f.into(f.tree(PartFields(kind), ""), "/name", &p)
	p.Kind = kind
	return p
}
