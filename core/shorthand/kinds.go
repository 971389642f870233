package shorthand

import (
	"regexp"

	"yembo/core/hw"
)

// kind is one sort of line: what its things are called, and the words for each of
// their fields. A field that has no word cannot be typed, so a test holds that every
// field of the formats has one.
type kind struct {
	word    string         // that a line starts with: slot, or slot:m2a
	also    []string       // other words for it
	list    string         // of the document
	bare    *regexp.Regexp // ids that say by themselves what they are: m2a
	id      string         // of a thing that is not named, "" where it has to be
	implied map[string]any // of a new thing
	fields  []field
	loose   []string // fields that take words nobody else reads, in their order
	joined  bool     // loose words make one text
	items   bool     // loose words make one list
	special func(r *reader, t token) bool
	finish  func(r *reader)
	example string
}

// field is one field of a thing, its words, and what kind of fact it is.
type field struct {
	name  string
	what  string
	form  string // as help shows it
	codec codec
}

func under(n int) func(hw.Dec) bool { return func(d hw.Dec) bool { return d < hw.DecOf(n) } }
func from(n int) func(hw.Dec) bool  { return func(d hw.Dec) bool { return d >= hw.DecOf(n) } }

var (
	lower   = regexp.MustCompile(`^[A-Za-z]$`)
	thread  = regexp.MustCompile(`^M[0-9]+(\.[0-9]+)?$`)
	onDimm  = regexp.MustCompile(`^dimm[a-z0-9-]*$`)
	onM2    = regexp.MustCompile(`^m2[a-z0-9-]*$`)
	onWlan  = regexp.MustCompile(`^wlan[a-z0-9-]*$`)
	onWwan  = regexp.MustCompile(`^wwan[a-z0-9-]*$`)
	onBay   = regexp.MustCompile(`^bay[a-z0-9-]+$`)
	anyText *regexp.Regexp
)

// Fields that several kinds share.
var (
	fReach    = field{"reach", "way in", ">step", text{">", "behind %s", anyText}}
	fAt       = field{"at", "place in the drawing", "at:12/10/22x84/90", place{}}
	fOnly     = field{"only_on", "configuration", `if:"graphics board"`, text{"if:", "only with %s", anyText}}
	fExcludes = field{"excludes", "not together", "xor:bay25,battery:large", list{"xor:", "not with %s", false}}
	fCarry    = field{"carry_over", "moves to the new part", "carry:screw,pad", list{"carry:", "carry over %s", false}}
	fFixing   = field{"fixing", "held by", "fix:PH0/M2x3/kit", fixing{}}
	fStated   = field{"stated_max_gb", "maker's stated largest", "stated1000",
		number{[]string{"stated"}, nil, false, nil, "stated up to %s GB"}}
	fChannel  = field{"channel", "channel", "a", channelWord{}}
	fChannels = field{"channels", "channels", "ch:A,B", list{"ch:", "channels %s", false}}
	fUse      = field{"consumables", "consumables", `use:"thermal paste",swabs`, list{"use:", "uses %s", false}}
	fMinutes  = field{"minutes", "minutes", "3min", number{nil, []string{"min", "minutes"}, false, nil, "%s minutes"}}
	fSeal     = field{"seal", "seal", "seal", choice{{"seal", true, "breaks a seal"}, {"noseal", false, "no seal"}}}
	fAdvice   = field{"advice", "advice", `note:"lift the left edge first"`, list{"note:", "%s", false}}
	fFirmware = field{"firmware", "firmware", "fw:1.14", text{"fw:", "from firmware %s on", anyText}}
	fBit      = field{"bit", "bit", "bit:PH0", text{"bit:", "bit %s", anyText}}
)

var slotFields = []field{
	{"purpose", "purpose", "storage", wordsOf(hw.Purposes)},
	{"lengths", "length", "2280* 2242 2230- 2260+part", lengths{}},
	{"pcie_gen", "generation", "g4", number{[]string{"g", "gen"}, nil, true, nil, "generation %s"}},
	{"lanes", "lanes", "x4", number{[]string{"x", "×"}, nil, true, nil, "%s lanes"}},
	{"protocols", "takes", "nvme sata", some{wordsOf(hw.Interfaces), "takes:none", "takes nothing"}},
	{"key", "key", "keyM", keyWord{}},
	{"width_mm", "width", "w22", number{[]string{"w"}, nil, true, nil, "%s mm wide"}},
	{"refuses", "refuses", "no-x2 no-sata no-cache", some{wordsOf(hw.Refusals), "refuses:none", "refuses nothing"}},
	{"max_top_mm", "room above", "top1.5", number{[]string{"top"}, nil, false, nil, "%s mm above"}},
	{"max_bottom_mm", "room below", "bot0", number{[]string{"bot", "bottom"}, nil, false, nil, "%s mm below"}},
	{"cooling", "cooling", "pad", wordsOf(hw.Coolings)},
	{"antennas", "antenna leads", "ant:black,white", list{"ant:", "leads %s", false}},
	{"accepts_only", "firmware takes only", "only:HX-1,HX-2", list{"only:", "only %s", false}},
	{"lead_mm", "lead connectors", "lead1.5", number{[]string{"lead"}, nil, false, nil, "leads with connectors of %s mm"}},
	fStated, fExcludes, fCarry, fFixing, fOnly, fReach, fAdvice, fFirmware, fAt,
}

// wordsOf makes the words of a line out of a table of the formats.
func wordsOf[W ~string](table hw.Vocabulary[W]) choice {
	out := choice{}
	for _, t := range table {
		for _, word := range append([]string{t.Typed()}, t.Also...) {
			out = append(out, option{word, string(t.Word), t.Says})
		}
	}
	return out
}

// kinds are all sorts of lines, in the order in which records are written: lines may
// name what stands before them.
var kinds []*kind

func init() { kinds = table() }

func table() []*kind {
	return []*kind{
		{word: "model", list: "", example: `model Quillon "Aster 14" QA14-2 2023 notebook 314x221`,
			loose: []string{"maker", "model", "code"}, fields: []field{
				{"maker", "maker", "Quillon", text{"maker:", "maker %s", anyText}},
				{"model", "model", `"Aster 14"`, text{"name:", "model %s", anyText}},
				{"code", "code", "QA14-2", text{"code:", "code %s", anyText}},
				{"id", "id", "id:quillon-aster-14", text{"id:", "id %s", slug}},
				{"year", "year", "2023", number{nil, nil, true, from(1980), "of %s"}},
				{"kind", "kind", "notebook", wordsOf(hw.Builds)},
				{"outline", "size of the base", "314x221", outlineWord{}}}},
		{word: "ram", also: []string{"memory", "mem"}, list: "",
			example: "ram 8 sold a + 1x sodimm b ddr4-3200 2ch max32", special: ramWord, fields: []field{
				{"memory/type", "type", "ddr4", wordsOf(hw.MemoryTypes)},
				{"memory/max_speed_mts", "platform speed", "3200",
					number{nil, []string{"mts", "mt/s", "mhz", "ghz"}, true, from(400), "%s MT/s"}},
				{"memory/channels", "channels", "2ch", number{nil, []string{"ch", "channels"}, true, nil, "%s channels"}},
				{"memory/ecc", "error correction", "no-ecc", wordsOf(hw.ECCUses)},
				{"memory/clocked", "clocked modules", "clocked", wordsOf(hw.ClockedUses)}}},
		{word: "limit", also: []string{"limits"}, list: "", example: "limit maker24 ctl64 proven40", fields: []field{
			{"memory/limits/maker_gb", "maker's limit", "maker24",
				number{[]string{"maker"}, nil, false, nil, "maker: %s GB"}},
			{"memory/limits/controller_gb", "controller's limit", "ctl64",
				number{[]string{"ctl", "controller"}, nil, false, nil, "controller: %s GB"}},
			{"memory/limits/proven_gb", "proven", "proven40",
				number{[]string{"proven"}, nil, false, nil, "proven: %s GB"}}}},
		{word: "sold", also: []string{"soldered"}, list: "memory/soldered", id: "onboard",
			example: "sold 8gb a 3200 1r", fields: []field{
				{"capacity_gb", "capacity", "8gb", number{nil, []string{"gb"}, false, under(400), "%s GB"}}, fChannel,
				fChannels,
				{"speed_mts", "speed", "3200", number{nil, []string{"mts", "mt/s", "mhz", "ghz"}, true, from(400),
					"%s MT/s"}},
				{"ranks", "ranks", "1r", number{nil, []string{"r"}, true, nil, "%s ranks"}}, fAt}},
		{word: "sock", also: []string{"socket"}, list: "memory/sockets", bare: onDimm,
			example: "dimm1 so b max32 >ram-shield", fields: []field{
				{"form", "form", "so", wordsOf(hw.ModuleForms)},
				fChannel, fChannels, {"max_module_gb", "largest module", "max32",
					number{[]string{"max"}, nil, false, nil, "%s GB at most"}}, fReach, fAdvice, fFirmware, fAt}},
		{word: "slot", list: "slots", bare: onM2, implied: map[string]any{"purpose": "storage"},
			example: "m2a 2280* 2230 g4x4 nvme keyM pad top1.5 bot0 >battery-plug", fields: slotFields},
		{word: "wlan", also: []string{"wifi"}, list: "slots", bare: onWlan, id: "wlan",
			implied: map[string]any{"purpose": "wireless"},
			example: "wlan 2230* keyE pcie usb ant:black,white >battery-plug", fields: slotFields},
		{word: "wwan", list: "slots", bare: onWwan, id: "wwan", implied: map[string]any{"purpose": "wwan"},
			example: "wwan 3042* keyB usb", fields: slotFields},
		{word: "bay", list: "bays", bare: onBay, id: "bay25", implied: map[string]any{"form": "2.5in"},
			example: "bay25 7mm sata plug+bay-cable caddy xor:battery:large >battery-plug", fields: []field{
				{"form", "form", "optical", wordsOf(hw.DriveForms)},
				{"form", "form", "form:own", text{"form:", "%s", anyText}},
				{"height_mm", "height", "7mm", number{nil, []string{"mm"}, false, nil, "%s mm high"}},
				{"interface", "interface", "sata", wordsOf(hw.DriveInterfaces)},
				{"connector", "connector", "plug", held{"plug", hw.NoHeader}},
				{"caddy", "caddy", "caddy", held{"caddy", hw.CaddyNotUsed}}, fStated, fExcludes, fCarry, fFixing, fOnly,
				fReach, fAdvice, fFirmware, fAt}},
		{word: "bat", also: []string{"battery"}, list: "batteries", id: "pack",
			example: "bat:small 52.5wh 11.4v 3s pn:QB-525 >pack-screws", special: batteryReach, fields: []field{
				{"design_wh", "design energy", "52.5wh", number{nil, []string{"wh"}, false, nil, "%s Wh"}},
				{"nominal_v", "nominal", "11.4v", number{nil, []string{"v"}, false, nil, "%s V"}},
				{"series", "cells in series", "3s", number{nil, []string{"s", "cells"}, true, nil, "%s in series"}},
				{"part_numbers", "part numbers", "pn:QB-525", list{"pn:", "%s", false}}, fExcludes, fCarry, fOnly,
				fAdvice, fFirmware, fAt}},
		{word: "screws", also: []string{"screw"}, list: "fasteners", id: "screws", special: screwGroup,
			finish: shareScrews, example: `screws:cover 7xPH0x6 M2 head:flat 4xPH0x4 hid:"under foot" cap2`,
			fields: []field{
				{"count", "how many", "7pcs", number{nil, []string{"pcs"}, true, nil, "%s screws"}}, fBit,
				{"length_mm", "length", "6mm", number{nil, []string{"mm"}, false, nil, "%s mm long"}},
				{"thread", "thread", "M2", text{"", "thread %s", thread}},
				{"thread", "thread", "thread:M2", text{"thread:", "thread %s", anyText}},
				{"head", "head", "head:flat", text{"head:", "%s head", anyText}},
				{"captive", "captive", "cap", choice{{"cap", true, "captive"}, {"loose", false, "loose"}}},
				{"hidden", "hidden", `hid:"under foot"`, text{"hid:", "hidden %s", anyText}}, fSeal,
				{"order", "tightening order", "order:1,4,2,3", list{"order:", "tighten %s", true}},
				{"at", "places", "at:10/8,157/8", place{many: true}}}},
		{word: "step", list: "steps", loose: []string{"part"}, joined: true, special: stepScrews, finish: nameStep,
			example: `unclip base cover with:"plastic pick" from:"hinge side" close:"front first" 3min`,
			fields: []field{
				{"verb", "what is done", "unclip", wordsOf(hw.VerbWords())},
				{"part", "to what", `part:"base cover"`, text{"part:", "%s", anyText}},
				{"needs", "after", "after:cover", list{"after:", "after %s", false}},
				{"side", "side up", "bottom-up", wordsOf(hw.Sides)}, {"fasteners", "screws", "7*cover-long", stepCount{}},
				fBit,
				{"tool", "tool", `with:"plastic pick"`, text{"with:", "with %s", anyText}},
				{"connector", "plug", "lift-straight", wordsOf(hw.Connectors)},
				{"start_at", "starts at", `from:"hinge side"`, text{"from:", "from %s", anyText}},
				{"close_hint", "on closing", `close:"front first"`, text{"close:", "closing: %s", anyText}},
				{"cautions", "cautions", "mind:do_not_force", list{"mind:", "mind %s", false}}, fUse, fMinutes,
				{"isolates_power", "power", "iso",
					choice{{"iso", true, "disconnects power"}, {"noiso", false, "does not disconnect"}}},
				{"live_risk", "live plug", "live", choice{{"live", true, "live plug"}, {"nolive", false, "not live"}}},
				{"glued", "glue", "glue", choice{{"glue", true, "glued"}, {"noglue", false, "not glued"}}}, fSeal,
				{"removes_board", "board", "board-out",
					choice{{"board-out", true, "takes the board out"}, {"board-stays", false, "board stays"}}},
				{"renews_paste", "paste", "renew-paste",
					choice{{"renew-paste", true, "the paste is renewed"}, {"paste-stays", false, "no paste to renew"}}},
				{"place", "takes out", "takes:m2a", text{"takes:", "takes out what sits in %s", anyText}},
				{"when", "only where", "when:bay25=empty", condition{"when:", "only where %s is %s"}},
				{"back", "undone only where", "back:bay25=empty", condition{"back:", "undone only where %s is %s"}},
				{"back_before", "on the way back alone", "before:cover",
					text{"before:", "on the way back alone, before %s", slug}},
				{"toward", "which way", "to-hinge", wordsOf(hw.Towards)},
				{"loosen", "how it is loosened", "loosen-as-printed", wordsOf(hw.LoosenOrders)}, fAt}},
		{word: "service", list: "services", loose: []string{"name"}, joined: true, finish: nameLoose("name"),
			example: `service:repaste Renew thermal paste >heatsink 12min use:paste,swabs`, fields: []field{
				{"name", "name", `name:"Clean the fan"`, text{"name:", "%s", anyText}}, fReach, fMinutes,
				{"tool", "tool", "with:brush", text{"with:", "with %s", anyText}},
				{"tools", "tools", "tools:brush", list{"tools:", "with %s", false}}, fUse,
				{"carry", "moves over", "carry:modules,pads", list{"carry:", "moves over: %s", false}},
				{"changes_security", "what drives are locked to", "new-lock",
					choice{{"new-lock", true, "changes what an encrypted drive is locked to"}, {"same-lock", false, "locks no drive"}}}}},
		{word: "shape", list: "shapes", loose: []string{"what"}, joined: true, finish: nameLoose("what"),
			example: "shape:blower fan at:48/18/54x56", fields: []field{
				{"what", "what it is", "what:fan", text{"what:", "%s", anyText}},
				{"thickness_mm", "thickness", "thick1.5", number{[]string{"thick"}, nil, false, nil, "%s mm thick"}},
				{"faces", "which way", "face-down", wordsOf(hw.FacesWays)},
				{"under", "under the part in", "under:dimm1", text{"under:", "under the part in %s", slug}}, fAt}},
		{word: "suspect", list: "suspected", loose: []string{"text"}, joined: true, finish: nameLoose("text"),
			example: "suspect:far-side a third socket? >board-out", fields: []field{
				{"text", "what is thought to be there", `text:"a third socket?"`, text{"text:", "%s", anyText}},
				{"step", "shown by", ">step", text{">", "shown by %s", anyText}},
				{"settled", "it was", `was:m2c/2026-05-14/"R. Okell"`, settled{}}, fAt}},
		{word: "fixed", list: "", items: true, loose: []string{"fixed"}, example: `fixed processor graphics`,
			fields: []field{{"fixed", "only with the board", "processor", looseList{}}}},
		{word: "quirk", also: []string{"quirks"}, list: "", example: "quirk charger-to-wake no-clock-cell",
			fields: []field{
				{"quirks", "quirk", "charger-to-wake", some{wordsOf(hw.Quirks), "none", "no quirk"}},
				{"hold_s", "hold the power button", "hold10", number{[]string{"hold"}, nil, false, nil, "hold %s s"}},
				{"firmware_key", "key for the firmware's page", "firmware-key:F2",
					text{"firmware-key:", "%s opens the firmware's page", anyText}}}},
		{word: "covers", list: "", items: true, loose: []string{"covers"},
			example: `covers QA14-3 note:"brighter display"`, fields: []field{
				{"covers", "also holds for", "QA14-3", looseList{}},
				{"covers_note", "what differs", `note:"brighter display"`, text{"note:", "%s", anyText}}}},
		{word: "board", list: "", example: "board at:8/6,306/6,306/112,8/112",
			fields: []field{{"board", "corners of the board", "at:8/6,306/6", corners{}}}},
		{word: "battery-reach", list: "", example: "battery-reach >pack-screws",
			fields: []field{{"battery_reach", "way to the battery", ">step", text{">", "behind %s", anyText}}}},
		{word: "none", list: "", special: noneOf, example: "none bays soldered"},
	}
}
