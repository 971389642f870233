package form

import (
	"fmt"
	"path"
	"strings"

	"yembo/core/doc"
	"yembo/core/hw"
)

// The forms for the parts of a record are described here, one table a part: the
// field's name in the document, its label, and how it is entered.

// FieldSpec is one field of a form.
type FieldSpec struct {
	Name  string // its path in the thing
	Label string
	Unit  string // or an example
	Kind  string // text, id, int, dec, choice, yesno, list, ints, lengths, held, screws, points, board, condition
	// Terms are the words of a choice or of a list, from the formats' own tables.
	Terms []hw.Term[string]
}

// Says is a word of the field's table as pages have it; other words stay as they are.
func (f *FieldSpec) Says(word string) string {
	for _, t := range f.Terms {
		if t.Word == word {
			return t.Says
		}
	}
	switch {
	case f.Kind == "held":
		return hw.HeldSays(word)
	case f.Name == "cautions":
		return strings.ReplaceAll(word, "_", " ")
	}
	return word
}

// meant is the word of the field's table that somebody typed in any of its ways.
func (f *FieldSpec) meant(typed string) string {
	for _, t := range f.Terms {
		for _, way := range append([]string{t.Word, t.Says, t.Typed()}, t.Also...) {
			if strings.EqualFold(way, typed) {
				return t.Word
			}
		}
	}
	if f.Name == "cautions" {
		return strings.ReplaceAll(strings.ToLower(typed), " ", "_")
	}
	return typed
}

// ItemSpec is the form for one thing of a record.
type ItemSpec struct {
	List   string // in the document
	Name   string // in words: "M.2 slot"
	Verb   string // on the button that adds one
	Fields []FieldSpec
	Placed bool // it has a place in the drawing
	// Groups are the headings of the form, by the field that each stands before.
	Groups map[string]Group
}

// Group is a heading of a form, with an example of what stands under it.
type Group struct{ Title, Eg string }

var yesNo = []string{"yes", "no"}

// yesTerms are the two answers as a table.
var yesTerms = []hw.Term[string]{{Word: "yes", Says: "yes"}, {Word: "no", Says: "no"}}

var Items = []ItemSpec{
	{List: "memory/sockets", Name: "memory socket", Verb: "Add a socket", Placed: true, Fields: []FieldSpec{
		{"id", "Id", "such as dimm1", "id", nil}, {"form", "Form", "", "choice", hw.ModuleForms.Terms()},
		{"channel", "Channel", "A", "text", nil},
		{"channels", "or several channels", "A, B", "list", nil}, {"max_module_gb", "Largest module", "GB", "dec", nil},
		{"reach", "Reached after step", "", "choice", nil},
		{"advice", "Advice for whoever works there", "lift the left edge first", "list", nil},
		{"firmware", "From this firmware on", "1.14", "text", nil}}},
	{List: "memory/soldered", Name: "soldered memory", Verb: "Add soldered memory", Placed: true, Fields: []FieldSpec{
		{"id", "Id", "such as onboard", "id", nil}, {"capacity_gb", "Capacity", "GB", "dec", nil},
		{"channel", "Channel", "A", "text", nil},
		{"channels", "or several channels", "A, B", "list", nil}, {"speed_mts", "Speed", "MT/s", "int", nil},
		{"ranks", "Ranks", "", "int", nil}}},
	{List: "slots", Name: "M.2 slot", Verb: "Add a slot", Placed: true, Groups: map[string]Group{
		"id": {
			"Which it is",
			"m2a, storage, key M, generation 4, 4 lanes, takes NVMe",
		}, "lengths": {"What fits into it", "80 mm: fitted; room above 1.5"},
		"cooling":    {"What it demands", "cooled by a spreader; refuses two-lane drives; not together with bay25"},
		"carry_over": {"How a part is held", "PH0, M2x3, out of the old one"}}, Fields: []FieldSpec{
		{"id", "Id", "such as m2a", "id", nil}, {"purpose", "Purpose", "", "choice", hw.Purposes.Terms()},
		{"key", "Key", "M, B, E, A", "text", nil},
		{"pcie_gen", "PCIe generation", "", "int", nil}, {"lanes", "Lanes", "", "int", nil},
		{"protocols", "Takes", "NVMe, SATA", "list", hw.Interfaces.Terms()},
		{"lengths", "Lengths", "", "lengths", nil}, {"max_top_mm", "Room above", "mm", "dec", nil},
		{"max_bottom_mm", "Room below", "mm", "dec", nil},
		{"cooling", "Cooling", "", "choice", hw.Coolings.Terms()},
		{"refuses", "Refuses", "two-lane drives, SATA drives", "list", hw.Refusals.Terms()},
		{"antennas", "Antenna leads", "black, white", "list", nil},
		{"accepts_only", "Firmware takes only", "part numbers", "list", nil},
		{"excludes", "Not together with", "place ids, battery:ID", "list", nil},
		{"stated_max_gb", "Maker's stated largest", "GB", "dec", nil},
		{"only_on", "Only on the configuration", "", "text", nil}, {"reach", "Reached after step", "", "choice", nil},
		{"carry_over", "Moves to the new part", "screw, pad", "list", nil},
		{"fixing/bit", "Held by: bit", "PH0", "text", nil}, {"fixing/screw", "Held by: screw", "M2x3", "text", nil},
		{"fixing/from", "That screw", "", "choice", hw.FixingsFrom.Terms()},
		{"lead_mm", "Connectors of its leads", "mm", "dec", nil},
		{"advice", "Advice for whoever works there", "lift the left edge first", "list", nil},
		{"firmware", "From this firmware on", "1.14", "text", nil}}},
	{List: "bays", Name: "drive bay", Verb: "Add a bay", Placed: true, Groups: map[string]Group{
		"id": {"Which it is", "bay25, takes 7 mm, SATA"}, "connector": {"What it needs", "connector needs bay-cable; caddy fitted"},
		"carry_over": {"How a part is held", "PH0, M3x3, out of the old one"}}, Fields: []FieldSpec{
		{"id", "Id", "such as bay25", "id", nil}, {"form", "Form", "", "choice", hw.DriveForms.Terms()},
		{"height_mm", "Takes a height of", "mm", "dec", nil},
		{"interface", "Interface", "", "choice", hw.DriveInterfaces.Terms()},
		{"connector", "Connector", "fitted, no header, needs bay cable", "held", nil},
		{"caddy", "Caddy", "fitted, not used, needs caddy", "held", nil},
		{"excludes", "Not together with", "place ids, battery:ID", "list", nil},
		{"stated_max_gb", "Maker's stated largest", "GB", "dec", nil},
		{"only_on", "Only on the configuration", "", "text", nil}, {"reach", "Reached after step", "", "choice", nil},
		{"carry_over", "Moves to the new part", "screw, pad", "list", nil},
		{"fixing/bit", "Held by: bit", "PH0", "text", nil}, {"fixing/screw", "Held by: screw", "M2x3", "text", nil},
		{"fixing/from", "That screw", "", "choice", hw.FixingsFrom.Terms()},
		{"advice", "Advice for whoever works there", "lift the left edge first", "list", nil},
		{"firmware", "From this firmware on", "1.14", "text", nil}}},
	{List: "batteries", Name: "battery pack", Verb: "Add a pack", Placed: true, Groups: map[string]Group{
		"id": {
			"Which it is",
			"small, 41 Wh, 11.4 V, 3 in series",
		}, "excludes": {"Beside what", "the large one: not together with bay25"}}, Fields: []FieldSpec{
		{"id", "Id", "such as small", "id", nil}, {"design_wh", "Design energy", "Wh", "dec", nil},
		{"nominal_v", "Nominal", "V", "dec", nil}, {"series", "Cells in series", "", "int", nil},
		{"part_numbers", "Part numbers", "", "list", nil}, {"excludes", "Not together with", "place ids", "list", nil},
		{"carry_over", "Moves to the new pack", "", "list", nil},
		{"only_on", "Only on the configuration", "", "text", nil},
		{"advice", "Advice for whoever works there", "lift the left edge first", "list", nil},
		{"firmware", "From this firmware on", "1.14", "text", nil}}},
	{List: "fasteners", Name: "screw group", Verb: "Add a screw group", Fields: []FieldSpec{
		{"id", "Id", "such as cover-long", "id", nil}, {"count", "How many", "", "int", nil},
		{"bit", "Bit", "PH0", "text", nil}, {"length_mm", "Length", "mm", "dec", nil},
		{"thread", "Thread", "M2", "text", nil}, {"head", "Head", "", "text", nil},
		{"captive", "Captive", "", "yesno", yesTerms}, {"hidden", "Hidden where", "", "text", nil},
		{"seal", "Under a seal", "", "yesno", yesTerms},
		{"order", "Tightening order", "1, 4, 2, 3", "ints", nil},
		{"at", "Where they sit", "mm, as 10 8, 157 8", "points", nil}}},
	{List: "steps", Name: "step", Verb: "Add a step", Groups: map[string]Group{
		"id":        {"What is done", "cover: unclip the bottom cover, after the screws"},
		"fasteners": {"Screws and plugs", "cover-long 4, cover-short 2, with PH0"},
		"cautions": {
			"Care",
			"hot glue; disconnects power",
		}, "when": {"Not always", "only on the way in where bay25 empty"}}, Fields: []FieldSpec{
		{"id", "Id", "such as cover", "id", nil}, {"verb", "What is done", "", "choice", hw.VerbWords().Terms()},
		{
			"part",
			"To what",
			"bottom cover",
			"text",
			nil,
		}, {"place", "Takes out what sits in", "place id", "text", nil}, {"needs", "After the steps", "ids; none", "list", nil},
		{"side", "Side that faces up", "", "choice", hw.Sides.Terms()},
		{"fasteners", "Screws", "group count, group count", "screws", nil}, {"bit", "Bit", "", "text", nil},
		{"tool", "Tool", "", "text", nil},
		{"connector", "Plug", "", "choice", hw.Connectors.Terms()}, {"start_at", "Starts at", "", "text", nil},
		{"close_hint", "On closing", "", "text", nil},
		{"cautions", "Cautions", "do not force, hot glue", "list", hw.Cautions.Terms()},
		{"minutes", "Minutes", "", "dec", nil}, {"isolates_power", "Disconnects power", "", "yesno", yesTerms},
		{"live_risk", "Live plug", "", "yesno", yesTerms}, {"glued", "Glued", "", "yesno", yesTerms},
		{"seal", "Breaks a seal", "", "yesno", yesTerms},
		{"removes_board", "Takes the main board out", "", "yesno", yesTerms},
		{"renews_paste", "Paste is renewed", "", "yesno", yesTerms},
		{"when", "Only on the way in where", "bay25 empty; battery small", "condition", nil},
		{"back", "Undone only where", "bay25 empty", "condition", nil},
		{"back_before", "On the way back alone, before", "", "choice", nil},
		{"toward", "Which way it goes, as drawn", "", "choice", hw.Towards.Terms()},
		{"loosen", "Screws with an order are", "", "choice", hw.LoosenOrders.Terms()},
		{"consumables", "Uses", "thermal pads, tape", "list", nil}}},
	{List: "services", Name: "service", Verb: "Add a service", Fields: []FieldSpec{
		{"id", "Id", "such as repaste", "id", nil}, {"name", "Name", "", "text", nil},
		{"reach", "Reached after step", "", "choice", nil}, {"minutes", "Minutes", "", "dec", nil},
		{"tools", "Tools", "brush", "list", nil}, {"consumables", "Consumables", "thermal paste, swabs", "list", nil},
		{"carry", "Moves over", "modules, clock cell", "list", nil},
		{"changes_security", "Changes what drives are locked to", "", "yesno", yesTerms}}},
	{List: "suspected", Name: "suspicion", Verb: "Note what is suspected", Placed: true, Fields: []FieldSpec{
		{"id", "Id", "such as third-socket", "id", nil}, {"text", "What is thought to be there", "", "text", nil},
		{"step", "Which step shows it", "", "choice", nil},
		{"settled/as", "It was", "a place id, or nothing", "text", nil},
		{"settled/on", "Seen on", "2026-05-14", "text", nil}, {"settled/by", "Seen by", "", "text", nil}}},
	{List: "shapes", Name: "shape", Verb: "Draw a shape", Placed: true, Fields: []FieldSpec{
		{"id", "Id", "such as blower", "id", nil}, {"what", "What it is", "fan, heat sink, pad, pipe", "text", nil},
		{"thickness_mm", "Thickness", "mm", "dec", nil}, {"faces", "Faces", "", "choice", hw.FacesWays.Terms()},
		{"under", "Under the part in", "place id", "text", nil}}},
	{List: "", Name: "model as a whole", Fields: []FieldSpec{
		{"battery_reach", "Battery behind the step", "", "choice", nil},
		{"fixed", "Fixed: only with the board", "processor, graphics", "list", nil},
		{"quirks", "Quirks", "charger-to-wake, lid-powers-on", "list", hw.Quirks.Terms()},
		{"hold_s", "Hold the power button", "s", "dec", nil},
		{"firmware_key", "Key for the firmware's page", "F2", "text", nil}, {"covers", "Also holds for the codes", "", "list", nil},
		{"covers_note", "What differs on them", "", "text", nil},
		{"board", "Main board's corners", "mm, as 8 6, 306 6, 306 112", "board", nil}}},
}

// GroupAt is the heading before a field, nil for none.
func (s ItemSpec) GroupAt(field string) *Group {
	if g, ok := s.Groups[field]; ok {
		return &g
	}
	return nil
}

// Slug names the form in addresses: sockets for memory/sockets.
func (s ItemSpec) Slug() string { return path.Base("/" + s.List) }

// ItemOf finds a form by its slug.
func ItemOf(list string) (ItemSpec, bool) {
	for _, s := range Items {
		if s.Slug() == list {
			return s, true
		}
	}
	return ItemSpec{}, false
}

// Fill writes a field's value the way it is typed.
func (field *FieldSpec) Fill(f *Form, name string, value any) {
	switch x := value.(type) {
	case bool:
		f.Values.Set(name, map[bool]string{true: "yes", false: "no"}[x])
	case []any:
		f.Values.Set(name, field.ListText(x))
	case map[string]any:
		if field.Kind == "condition" {
			f.Values.Set(name, fmt.Sprintf("%v %v", x["place"], x["state"]))
			return
		}
		for mm, how := range x {
			f.Values.Set(name+"/"+mm, fmt.Sprint(how))
		}
	default:
		f.Values.Set(name, fmt.Sprint(x))
	}
}

// ListText writes a list as it is typed: with commas; an empty one is "none".
func (field *FieldSpec) ListText(list []any) string {
	if len(list) == 0 {
		return "none"
	}
	words := make([]string, len(list))
	for i, item := range list {
		switch x := item.(type) {
		case map[string]any:
			words[i] = fmt.Sprintf("%v %v", x["group"], x["count"])
			if x["group"] == nil {
				words[i] = fmt.Sprintf("%v %v", x["x_mm"], x["y_mm"])
			}
		case []any:
			words[i] = strings.Trim(fmt.Sprint(x), "[]")
		default:
			words[i] = field.Says(fmt.Sprint(item))
		}
	}
	return strings.Join(words, ", ")
}

// Words sums a thing up, field by field in the order of its form.
func (s ItemSpec) Words(item doc.Tree) string {
	var out []string
	for _, f := range s.Fields {
		label := hw.LowerFirst(f.Label)
		switch x := item.Get(f.Name).(type) {
		case nil:
		case bool:
			if x {
				out = append(out, label)
			}
		case string:
			switch {
			case f.Name == "id" || f.Name == "reach":
			case f.Terms != nil && f.Name != "cooling":
				out = append(out, f.Says(x))
			default:
				out = append(out, label+" "+f.Says(x))
			}
		case []any:
			if len(x) > 0 && f.Kind != "points" {
				out = append(out, label+" "+f.ListText(x))
			}
		case map[string]any:
			if f.Kind == "condition" {
				out = append(out, fmt.Sprintf("%s %v is %v", label, x["place"], x["state"]))
			} else if lengths := hw.LengthList(x); lengths != "" {
				out = append(out, lengths)
			}
		default:
			out = append(out, strings.TrimSpace(label+" "+fmt.Sprint(x)+" "+hw.UnitOf(f.Name)))
		}
	}
	return strings.Join(out, "; ")
}
