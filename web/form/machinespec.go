package form

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"yembo/core/doc"
	"yembo/core/hw"
)

// MachineGroup is one place of a machine with what can be told of the part in it.
type MachineGroup struct {
	At     string // the place of its fields: /fitted/drives/0
	Title  string
	Is     []hw.Term[string] // what can be in it, nil where that is not asked
	Fields []PartField       // the part's
	More   []PartField       // seldom needed
	kind   hw.PartKind
	place  string
}

// What a place holds, as a form says it.
const (
	holdsNone = "empty"
	holdsPart = "part"
)

// IsName is the field that says what is in the place.
func (g *MachineGroup) IsName() string { return g.At + "/is" }

// MachineGroups are the places of a machine of a model, in the order of its record: sockets, slots
// and bays, the pack, the wireless card.
func MachineGroups(ch *hw.Chassis) []MachineGroup {
	var out []MachineGroup
	var soldered []PartField
	for i := range ch.Mem().Soldered {
		so := &ch.Memory.Soldered[i]
		soldered = append(soldered, PartField{"/fitted/soldered_gb/" + so.ID, so.ID, "GB", "", 'd', nil})
	}
	if soldered != nil {
		out = append(out, MachineGroup{At: "/fitted/soldered_gb", Title: "Soldered memory", Fields: soldered})
	}
	held := func(part string) []hw.Term[string] {
		return []hw.Term[string]{{Word: holdsNone, Says: "empty"}, {Word: holdsPart, Says: part}}
	}
	for i := range ch.Mem().Sockets {
		so := &ch.Memory.Sockets[i]
		at := fmt.Sprintf("/fitted/memory/%d", i)
		g := MachineGroup{At: at, Title: so.ID, Is: held("a module"), kind: hw.KindMemory, place: so.ID}
		g.split(append(at2(at, hw.KindMemory), PartField{at + "/serial", "Serial", "", "", 't', nil}),
			"type", "capacity_gb", "speed_mts", "ranks", "maker", "part_number")
		out = append(out, g)
	}
	for i, id := range drivePlaces(ch) {
		at := fmt.Sprintf("/fitted/drives/%d", i)
		yes := yesOrNo()
		g := MachineGroup{At: at, Title: id, Is: held("a drive"), kind: hw.KindDrive, place: id}
		g.split(append(at2(at, hw.KindDrive), PartField{at + "/serial", "Serial", "", "", 't', nil},
			PartField{at + "/used_gb", "Used", "GB", "", 'd', nil}, PartField{at + "/boot", "Starts the machine", "", "", 'y', yes},
			PartField{at + "/encrypted", "Encrypted", "", "", 'y', yes}, PartField{at + "/failing", "Failing", "", "", 'y', yes},
			PartField{at + "/unreadable", "Cannot be read", "", "", 'y', yes}, PartField{at + "/new", "Sold as new", "", "", 'y', yes},
			PartField{at + "/raid0", "Striped with another", "", "", 'y', yes},
			PartField{at + "/partition_table", "Partition table", "", "", 'c', hw.PartitionTables.Terms()}),
			"interface", "capacity_gb", "used_gb", "length_mm", "pcie_gen", "rotational", "boot", "encrypted", "failing",
			"unreadable", "raid0", "maker", "model")
		out = append(out, g)
	}
	if len(ch.Batteries) > 0 {
		var packs []hw.Term[string]
		for i := range ch.Batteries {
			packs = append(packs, hw.Term[string]{Word: ch.Batteries[i].ID, Says: hw.PackSays(ch.Batteries[i].ID)})
		}
		at := "/fitted/battery"
		out = append(out, MachineGroup{At: at, Title: "Battery", Fields: []PartField{
			{at + "/option", "Pack", "", "", 'c', packs}, {at + "/part_number", "Another pack, by number", "", "", 't', nil},
			{at + "/full_wh", "Holds when full", "Wh", "", 'd', nil}, {at + "/cycles", "Cycles", "", "", 'w', nil},
			{at + "/swollen", "Swollen", "", "", 'y', yesOrNo()}}})
	}
	var cards []hw.Term[string]
	for i := range ch.Slots {
		if ch.Slots[i].Purpose != hw.ForStorage {
			cards = append(cards, hw.Term[string]{Word: ch.Slots[i].ID, Says: ch.Slots[i].ID})
		}
	}
	if len(cards) > 0 {
		at := "/fitted/wireless"
		out = append(out, MachineGroup{At: at, Title: "Wireless card", Fields: []PartField{
			{at + "/slot", "In", "", "", 'c', cards}, {at + "/standard", "Standard", "", "", 'c', hw.Standards.Terms()},
			{at + "/interface", "Interface", "", "", 'c', hw.CardInterfaces.Terms()}}})
	}
	return out
}

// drivePlaces are the slots and bays that take a drive.
func drivePlaces(ch *hw.Chassis) []string {
	var out []string
	for _, p := range ch.Places() {
		if p.Kind != hw.InPack && p.Takes == hw.KindDrive {
			out = append(out, p.ID)
		}
	}
	return out
}

// at2 are the fields of a kind of part at another place. The form of a module is its socket's.
func at2(at string, kind hw.PartKind) []PartField {
	var out []PartField
	for _, f := range PartFields(kind) {
		f.Name = at + strings.TrimPrefix(f.Name, "/"+string(kind))
		if f.Name != at+"/form" || kind != hw.KindMemory {
			out = append(out, f)
		}
	}
	return out
}

// split shows the named fields first, in that order; the others are seldom needed.
func (g *MachineGroup) split(fields []PartField, first ...string) {
	for _, name := range first {
		at := slices.IndexFunc(fields, func(f PartField) bool { return f.Name == g.At+"/"+name })
		g.Fields = append(g.Fields, fields[at])
	}
	for _, f := range fields {
		if !slices.Contains(first, strings.TrimPrefix(f.Name, g.At+"/")) {
			g.More = append(g.More, f)
		}
	}
}

func (g *MachineGroup) all() []PartField { return slices.Concat(g.Fields, g.More) }

// typed puts what a document has into the group's fields.
func (g *MachineGroup) typed(out url.Values, trees ...doc.Tree) {
	for _, f := range g.all() {
		for _, tree := range trees {
			if v := tree.Get(strings.TrimPrefix(f.Name, g.At+"/")); v != nil {
				out.Set(f.Name, fmt.Sprint(v))
			}
		}
	}
}

// MachineTyped is what the fields of a machine's places show.
func MachineTyped(ch *hw.Chassis, m *hw.Machine) url.Values {
	out := url.Values{}
	for _, g := range MachineGroups(ch) {
		switch {
		case g.kind == hw.KindMemory:
			at := slices.IndexFunc(m.Fitted.Memory, func(f hw.FittedModule) bool { return f.Socket == g.place })
			if at >= 0 {
				out.Set(g.IsName(), holdsPart)
				g.typed(out, doc.Of(m.Fitted.Memory[at].Module))
			} else if m.Fitted.Memory != nil {
				out.Set(g.IsName(), holdsNone)
			}
		case g.kind == hw.KindDrive:
			at := slices.IndexFunc(m.Fitted.Drives, func(f hw.FittedDrive) bool { return f.Place == g.place })
			if at >= 0 {
				out.Set(g.IsName(), holdsPart)
				g.typed(out, doc.Of(m.Fitted.Drives[at].Drive), doc.Of(m.Fitted.Drives[at]))
			} else if m.Fitted.Drives != nil {
				out.Set(g.IsName(), holdsNone)
			}
		default:
			at, _ := doc.Of(m).Get(strings.TrimPrefix(g.At, "/")).(map[string]any)
			g.typed(out, at)
		}
	}
	return out
}

// Fitted reads what is in a machine of a model. A list of modules or drives is told whole or not
// at all: a place of it that is left open is a fault there.
func (f *Form) Fitted(ch *hw.Chassis) hw.Fitted {
	var out hw.Fitted
	open := map[hw.PartKind][]string{} // fields of places of which nothing is said
	told := map[hw.PartKind]bool{}
	for _, g := range MachineGroups(ch) {
		is := ""
		if g.Is != nil {
			if is = f.Choice(g.IsName(), []string{holdsNone, holdsPart}).Or(""); is == "" && f.anyTyped(g.all()) {
				is = holdsPart // what is told of it tells that there is one
			}
			told[g.kind] = told[g.kind] || is != ""
			if is == "" {
				open[g.kind] = append(open[g.kind], g.IsName())
			}
		}
		switch {
		case g.kind == hw.KindMemory && is == holdsPart:
			so := &ch.Memory.Sockets[ch.SocketByID(g.place)]
			one := hw.FittedModule{Socket: g.place}
			f.into(f.tree(g.all(), g.At), g.At, &one.Module)
			one.Module.Form = so.Form
			f.Rows[fmt.Sprintf("/fitted/memory/%d/module", len(out.Memory))] = g.At
			out.Memory = append(out.Memory, one)
		case g.kind == hw.KindDrive && is == holdsPart:
			one := hw.FittedDrive{}
			tree := f.tree(g.all(), g.At)
			f.into(tree, g.At, &one)
			f.into(tree, g.At, &one.Drive)
			one.Place = g.place
			f.Rows[fmt.Sprintf("/fitted/drives/%d/drive", len(out.Drives))] = g.At
			f.Rows[fmt.Sprintf("/fitted/drives/%d", len(out.Drives))] = g.At
			out.Drives = append(out.Drives, one)
		case g.Is == nil && f.anyTyped(g.all()):
			tree := f.tree(g.all(), g.At)
			switch g.At {
			case "/fitted/soldered_gb":
				f.into(tree, g.At, &out.SolderedGB)
			case "/fitted/battery":
				out.Battery = &hw.FittedBattery{}
				f.into(tree, g.At, out.Battery)
			default:
				out.Wireless = &hw.FittedWireless{}
				f.into(tree, g.At, out.Wireless)
				if out.Wireless.Slot == "" {
					f.Fault("/fitted/wireless/slot", hw.Word(hw.FaultMissing, "", "where it sits"))
				}
			}
		}
	}
	if told[hw.KindMemory] && out.Memory == nil {
		out.Memory = []hw.FittedModule{}
	}
	if told[hw.KindDrive] && out.Drives == nil {
		out.Drives = []hw.FittedDrive{}
	}
	for kind, names := range open {
		for i := 0; told[kind] && i < len(names); i++ {
			f.Fault(names[i], "say what is in it, or that it is empty: of the others it is told")
		}
	}
	return out
}

func (f *Form) anyTyped(fields []PartField) bool {
	return slices.ContainsFunc(fields, func(x PartField) bool { return f.Text(x.Name) != "" })
}

func (f *Form) into(tree doc.Tree, at string, value any) {
	if err := tree.Into(value); err != nil {
		f.Fault(at, err.Error())
	}
}
