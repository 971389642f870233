package web

import "path"

// The forms for the parts of a record are described here, one table a part: the
// field's name in the document, its label, and how it is entered.

// fieldSpec is one field of a form.
type fieldSpec struct {
	Name  string
	Label string
	Unit  string
	Kind  string   // text, id, int, dec, choice, yesno, list, ints, lengths, screws, points, board
	Words []string // of a choice, or proposals for a list
}

// itemSpec is the form for one thing of a record.
type itemSpec struct {
	List   string // in the document
	Name   string // in words: "M.2 slot"
	Verb   string // on the button that adds one
	Fields []fieldSpec
	Placed bool // it has a place in the drawing
}

var yesNo = []string{"yes", "no"}

// Words of the formats.
var (
	protocols  = []string{"nvme", "sata", "pcie", "usb", "cnvi", "cnvi2"}
	coolings   = []string{"none", "pad", "spreader", "shroud"}
	verbs      = []string{"power_down", "drain", "open_seal", "unscrew", "loosen", "unclip", "unplug", "unlatch", "lift", "peel", "slide", "swing", "remove", "flip"}
	connectors = []string{"pull", "lift_straight", "slide_latch", "flip_lock", "slide_lock", "pull_tab", "snap_on"}
	quirks     = []string{"lid_powers_on", "charger_to_wake", "no_clock_cell", "notice_after_memory", "hold_power_to_cut", "external_battery"}
)

var itemSpecs = []itemSpec{
	{List: "memory/sockets", Name: "memory socket", Verb: "Add a socket", Placed: true, Fields: []fieldSpec{
		{"id", "Id", "such as dimm1", "id", nil}, {"form", "Form", "", "choice", socketForms}, {"channel", "Channel", "A", "text", nil},
		{"channels", "or several channels", "A, B", "list", nil}, {"max_module_gb", "Largest module", "GB", "dec", nil}, {"reach", "Behind the step", "", "choice", nil}}},
	{List: "memory/soldered", Name: "soldered memory", Verb: "Add soldered memory", Placed: true, Fields: []fieldSpec{
		{"id", "Id", "such as onboard", "id", nil}, {"capacity_gb", "Capacity", "GB", "dec", nil}, {"channel", "Channel", "A", "text", nil},
		{"channels", "or several channels", "A, B", "list", nil}, {"speed_mts", "Speed", "MT/s", "int", nil}, {"ranks", "Ranks", "", "int", nil}}},
	{List: "slots", Name: "M.2 slot", Verb: "Add a slot", Placed: true, Fields: []fieldSpec{
		{"id", "Id", "such as m2a", "id", nil}, {"purpose", "Purpose", "", "choice", []string{"storage", "wireless", "wwan"}}, {"key", "Key", "M, B, E, A", "text", nil},
		{"pcie_gen", "PCIe generation", "", "int", nil}, {"lanes", "Lanes", "", "int", nil}, {"protocols", "Takes", "", "list", protocols},
		{"lengths", "Lengths", "", "lengths", nil}, {"max_top_mm", "Room above", "mm", "dec", nil}, {"max_bottom_mm", "Room below", "mm", "dec", nil},
		{"cooling", "Cooling", "", "choice", coolings}, {"refuses", "Refuses", "x2, sata, cache_module", "list", nil}, {"antennas", "Antenna leads", "black, white", "list", nil},
		{"accepts_only", "Firmware takes only", "part numbers", "list", nil}, {"excludes", "Not together with", "place ids, battery:ID", "list", nil},
		{"carry_over", "Moves to the new part", "screw, pad", "list", nil}, {"stated_max_gb", "Maker's stated largest", "GB", "dec", nil},
		{"only_on", "Only on the configuration", "", "text", nil}, {"reach", "Behind the step", "", "choice", nil}}},
	{List: "bays", Name: "drive bay", Verb: "Add a bay", Placed: true, Fields: []fieldSpec{
		{"id", "Id", "such as bay25", "id", nil}, {"form", "Form", "", "choice", []string{"2.5in"}}, {"height_mm", "Takes a height of", "mm", "dec", nil},
		{"interface", "Interface", "", "choice", []string{"sata", "nvme"}}, {"connector", "Connector", "fitted, no_header, needs:ACCESSORY", "text", nil},
		{"caddy", "Caddy", "fitted, not_used, needs:ACCESSORY", "text", nil}, {"excludes", "Not together with", "place ids, battery:ID", "list", nil},
		{"carry_over", "Moves to the new part", "", "list", nil}, {"stated_max_gb", "Maker's stated largest", "GB", "dec", nil},
		{"only_on", "Only on the configuration", "", "text", nil}, {"reach", "Behind the step", "", "choice", nil}}},
	{List: "batteries", Name: "battery pack", Verb: "Add a pack", Placed: true, Fields: []fieldSpec{
		{"id", "Id", "such as small", "id", nil}, {"design_wh", "Design energy", "Wh", "dec", nil}, {"nominal_v", "Nominal", "V", "dec", nil}, {"series", "Cells in series", "", "int", nil},
		{"part_numbers", "Part numbers", "", "list", nil}, {"excludes", "Not together with", "place ids", "list", nil}, {"carry_over", "Moves to the new pack", "", "list", nil},
		{"only_on", "Only on the configuration", "", "text", nil}}},
	{List: "fasteners", Name: "screw group", Verb: "Add a screw group", Fields: []fieldSpec{
		{"id", "Id", "such as cover-long", "id", nil}, {"count", "How many", "", "int", nil}, {"bit", "Bit", "PH0", "text", nil}, {"length_mm", "Length", "mm", "dec", nil},
		{"thread", "Thread", "M2", "text", nil}, {"head", "Head", "", "text", nil}, {"captive", "Captive", "", "yesno", yesNo}, {"hidden", "Hidden where", "", "text", nil}, {"seal", "Under a seal", "", "yesno", yesNo},
		{"order", "Tightening order", "1, 4, 2, 3", "ints", nil}, {"at", "Where they sit", "mm, as 10 8, 157 8", "points", nil}}},
	{List: "steps", Name: "step", Verb: "Add a step", Fields: []fieldSpec{
		{"id", "Id", "such as cover", "id", nil}, {"verb", "What is done", "", "choice", verbs}, {"part", "To what", "bottom cover", "text", nil}, {"needs", "After the steps", "ids; none", "list", nil},
		{"side", "Side that faces up", "", "choice", []string{"top", "bottom"}}, {"fasteners", "Screws", "group count, group count", "screws", nil}, {"bit", "Bit", "", "text", nil}, {"tool", "Tool", "", "text", nil},
		{"connector", "Plug", "", "choice", connectors}, {"start_at", "Starts at", "", "text", nil}, {"close_hint", "On closing", "", "text", nil}, {"cautions", "Cautions", "", "list", nil},
		{"minutes", "Minutes", "", "dec", nil}, {"isolates_power", "Isolates power", "", "yesno", yesNo}, {"live_risk", "Live plug", "", "yesno", yesNo}, {"glued", "Glued", "", "yesno", yesNo},
		{"seal", "Breaks a seal", "", "yesno", yesNo}, {"removes_board", "Takes the main board out", "", "yesno", yesNo}, {"place", "Takes out what sits in", "place id", "text", nil}}},
	{List: "services", Name: "service", Verb: "Add a service", Fields: []fieldSpec{
		{"id", "Id", "such as repaste", "id", nil}, {"name", "Name", "", "text", nil}, {"reach", "Behind the step", "", "choice", nil}, {"minutes", "Minutes", "", "dec", nil},
		{"tools", "Tools", "", "list", nil}, {"consumables", "Consumables", "", "list", nil}}},
	{List: "suspected", Name: "suspicion", Verb: "Note what is suspected", Placed: true, Fields: []fieldSpec{
		{"id", "Id", "such as third-socket", "id", nil}, {"text", "What is thought to be there", "", "text", nil}, {"step", "Which step shows it", "", "choice", nil}}},
	{List: "shapes", Name: "shape", Verb: "Draw a shape", Placed: true, Fields: []fieldSpec{
		{"id", "Id", "such as blower", "id", nil}, {"what", "What it is", "fan, heat sink, speaker", "text", nil}}},
	{List: "", Name: "model as a whole", Fields: []fieldSpec{
		{"battery_reach", "Battery behind the step", "", "choice", nil}, {"fixed", "Fixed: only with the board", "processor, graphics", "list", nil}, {"quirks", "Quirks", "", "list", quirks},
		{"hold_s", "Hold the power button", "s", "dec", nil}, {"covers", "Also holds for the codes", "", "list", nil}, {"covers_note", "What differs on them", "", "text", nil},
		{"board", "Main board's corners", "mm, as 8 6, 306 6, 306 112", "board", nil}}},
}

// Slug names the form in addresses: sockets for memory/sockets.
func (s itemSpec) Slug() string { return path.Base("/" + s.List) }

// specOf finds a form by its slug.
func specOf(list string) (itemSpec, bool) {
	for _, s := range itemSpecs {
		if s.Slug() == list {
			return s, true
		}
	}
	return itemSpec{}, false
}
