package hw

import "strings"

// The words of the job. Each stands in one table, with what pages call it and what a
// technician types for it; schemas, forms, lines and drawings read them from here, and a
// test holds the tables and the schemas' lists against each other both ways.

// Term is one word of the formats.
type Term[W ~string] struct {
	Word  W
	Says  string   // on pages, in lower case where it stands in a sentence
	Types string   // in a line of shorthand; "" is the word itself with dashes
	Also  []string // further words that a line may have for it
}

// Typed is what a line of shorthand has for the word.
func (t Term[W]) Typed() string {
	if t.Types != "" {
		return t.Types
	}
	return strings.ReplaceAll(string(t.Word), "_", "-")
}

// Vocabulary is all words of one kind, in the order in which they are offered.
type Vocabulary[W ~string] []Term[W]

// Says is what pages call a word; one that is not in the table is shown as it is, with
// blanks for its underscores.
func (v Vocabulary[W]) Says(word W) string {
	if i := v.Index(word); i >= 0 {
		return v[i].Says
	}
	return strings.ReplaceAll(string(word), "_", " ")
}

// Index is a word's place in the table, -1 for one that is not in it.
func (v Vocabulary[W]) Index(word W) int {
	for i := range v {
		if v[i].Word == word {
			return i
		}
	}
	return -1
}

// Words lists the words as documents have them.
func (v Vocabulary[W]) Words() []string {
	out := make([]string, len(v))
	for i := range v {
		out[i] = string(v[i].Word)
	}
	return out
}

// Terms lists the table with plain words, for code that treats all tables alike.
func (v Vocabulary[W]) Terms() []Term[string] {
	out := make([]Term[string], len(v))
	for i, t := range v {
		out[i] = Term[string]{string(t.Word), t.Says, t.Types, t.Also}
	}
	return out
}

// Build is what a machine is built as.
type Build string

// The builds.
const (
	Notebook Build = "notebook"
	MiniPC   Build = "mini_pc"
)

// Builds is the table of builds.
var Builds = Vocabulary[Build]{{Notebook, "notebook", "", nil}, {MiniPC, "mini PC", "mini", nil}}

// MemoryType is a generation of memory.
type MemoryType string

// MemoryTypes is the table of memory generations. LPDDR is soldered unless it sits on an
// LPCAMM2 module.
var MemoryTypes = Vocabulary[MemoryType]{
	{"DDR3", "DDR3", "ddr3", nil}, {"DDR3L", "DDR3L", "ddr3l", nil}, {"DDR4", "DDR4", "ddr4", nil},
	{"DDR5", "DDR5", "ddr5", nil},
	{"LPDDR3", "LPDDR3", "lpddr3", nil}, {"LPDDR4", "LPDDR4", "lpddr4", nil}, {"LPDDR4X", "LPDDR4X", "lpddr4x", nil},
	{"LPDDR5", "LPDDR5", "lpddr5", nil}, {"LPDDR5X", "LPDDR5X", "lpddr5x", nil},
}

// ModuleForm is the form of a memory module and of its socket.
type ModuleForm string

// ModuleForms is the table of module forms.
var ModuleForms = Vocabulary[ModuleForm]{
	{"SO-DIMM", "SO-DIMM", "so", []string{"sodimm", "so-dimm"}}, {"DIMM", "DIMM", "dimm", nil},
	{"RDIMM", "RDIMM", "rdimm", nil},
	{"CAMM2", "CAMM2", "camm2", nil}, {"LPCAMM2", "LPCAMM2", "lpcamm2", nil},
}

// Purpose is what a slot is for.
type Purpose string

// The purposes.
const (
	ForStorage  Purpose = "storage"
	ForWireless Purpose = "wireless"
	ForModem    Purpose = "wwan"
)

// Purposes is the table of purposes.
var Purposes = Vocabulary[Purpose]{
	{ForStorage, "for a drive", "storage", nil}, {ForWireless, "for a wireless card", "wireless", nil},
	{ForModem, "for a modem", "modem", nil},
}

// Interface is how a drive or a card speaks to the machine, and what a slot takes.
type Interface string

// The interfaces.
const (
	NVMe  Interface = "nvme"
	SATA  Interface = "sata"
	PCIe  Interface = "pcie"
	USB   Interface = "usb"
	CNVi  Interface = "cnvi"
	CNVi2 Interface = "cnvi2"
)

// Interfaces is the table of interfaces; DriveInterfaces and CardInterfaces are those that
// a drive or a card may have.
var (
	DriveInterfaces = Vocabulary[Interface]{{NVMe, "NVMe", "", nil}, {SATA, "SATA", "", nil}}
	CardInterfaces  = Vocabulary[Interface]{{PCIe, "PCIe", "", nil}, {CNVi, "CNVi", "", nil}, {CNVi2, "CNVi2", "", nil},
		{USB, "USB", "", nil}}
	Interfaces = append(append(Vocabulary[Interface]{}, DriveInterfaces...), CardInterfaces...)
)

// SaysAll joins interfaces for a sentence: "NVMe and SATA"; an empty list is "neither".
func SaysAll(list []Interface) string {
	words := make([]string, len(list))
	for i, x := range list {
		words[i] = Interfaces.Says(x)
	}
	switch n := len(words); n {
	case 0:
		return "neither"
	case 1:
		return words[0]
	default:
		return strings.Join(words[:n-1], ", ") + " and " + words[n-1]
	}
}

// Refusal is what a slot's own marking rules out.
type Refusal string

// The refusals.
const (
	RefusesX2    Refusal = "x2"
	RefusesSATA  Refusal = "sata"
	RefusesCache Refusal = "cache_module"
)

// Refusals is the table of refusals.
var Refusals = Vocabulary[Refusal]{
	{RefusesX2, "two-lane drives", "no-x2", nil}, {RefusesSATA, "SATA drives", "no-sata", nil},
	{RefusesCache, "cache modules", "no-cache", nil},
}

// Cooling is what takes the heat off a module.
type Cooling string

// The ways of cooling.
const (
	NoCooling Cooling = "none"
	Pad       Cooling = "pad"
	Spreader  Cooling = "spreader"
	Shroud    Cooling = "shroud"
)

// Coolings is the table of ways of cooling.
var Coolings = Vocabulary[Cooling]{
	{Pad, "pad", "", nil}, {Spreader, "spreader", "", nil}, {Shroud, "shroud", "", nil},
	{NoCooling, "no cooling", "bare", nil},
}

// DriveForm is the form of a drive that is no M.2 module, and of its bay.
type DriveForm string

// The forms of bays and their drives.
const (
	Form25      DriveForm = "2.5in"
	FormOptical DriveForm = "optical"
)

// DriveForms is the table of forms. A 2.5-inch bay is the usual one, and not typed.
var DriveForms = Vocabulary[DriveForm]{{Form25, "2.5-inch", "form:2.5in", nil},
	{FormOptical, "optical", "optical", nil}}

// Holding is how a connector, a caddy or a module length is held; "needs:NAME" stands
// beside these.
const (
	HeldFitted   = "fitted"
	HeldMovable  = "movable"
	HeldByNone   = "none"
	NoHeader     = "no_header"
	CaddyNotUsed = "not_used"
)

// Standard is a standard of wireless, in the order of the table; none comes before them.
type Standard string

// Standards is the table of standards, oldest first.
var Standards = Vocabulary[Standard]{
	{"wifi4", "Wi-Fi 4", "", nil}, {"wifi5", "Wi-Fi 5", "", nil}, {"wifi6", "Wi-Fi 6", "", nil},
	{"wifi6e", "Wi-Fi 6E", "", nil}, {"wifi7", "Wi-Fi 7", "", nil},
}

// Connector is how a plug comes off.
type Connector string

// Connectors is the table of plugs: what is done to open one.
var Connectors = Vocabulary[Connector]{
	{"pull", "pull it straight out by its body", "", nil},
	{"lift_straight", "lift it straight up off its socket", "", nil},
	{"slide_latch", "slide the bar across, then pull", "", nil},
	{"flip_lock", "flip the lock up, then slide the cable out", "", nil},
	{"slide_lock", "slide the lock out on both sides, then the cable", "", nil},
	{"pull_tab", "pull it by its tab, level with the board", "", nil},
	{"snap_on", "lift the round snap straight up", "", nil},
}

// Toward is which way a part is pushed, pulled or slid, as drawn: seen from below.
type Toward string

// The ways.
const (
	TowardHinge Toward = "hinge"
	TowardFront Toward = "front"
	TowardLeft  Toward = "left"
	TowardRight Toward = "right"
	TowardUp    Toward = "up"
)

// Towards is the table of ways.
var Towards = Vocabulary[Toward]{
	{TowardHinge, "towards the hinge", "to-hinge", nil},
	{TowardFront, "towards the front", "to-front", nil},
	{TowardLeft, "to the left, seen from below", "to-left", nil},
	{TowardRight, "to the right, seen from below", "to-right", nil},
	{TowardUp, "straight up", "to-up", nil},
}

// TowardArrows are the ways as they are drawn, hinge edge up; straight up is out of the paper.
var TowardArrows = map[Toward]string{TowardHinge: "↑", TowardFront: "↓", TowardLeft: "←", TowardRight: "→",
	TowardUp: "⊙"}

// LoosenOrder is in which order screws with a tightening order are loosened.
type LoosenOrder string

// The orders.
const (
	LoosenReversed  LoosenOrder = "reversed"
	LoosenAsPrinted LoosenOrder = "as_printed"
)

// LoosenOrders is the table of orders.
var LoosenOrders = Vocabulary[LoosenOrder]{
	{LoosenReversed, "loosened in the reverse of the printed order", "loosen-reversed", nil},
	{LoosenAsPrinted, "loosened in the printed order", "loosen-as-printed", nil},
}

// Faces is which way a fan, a sink or a pad faces, as the machine stands on the table.
type Faces string

// The ways.
const (
	FacesDown Faces = "down"
	FacesUp   Faces = "up"
)

// FacesWays is the table of ways.
var FacesWays = Vocabulary[Faces]{{FacesDown, "faces down", "face-down", nil}, {FacesUp, "faces up", "face-up", nil}}

// closes is how each plug goes back.
var closes = map[Connector]string{"pull": "by its body, until it sits",
	"lift_straight": "press straight down until it sits", "slide_latch": "push home, then slide the bar back",
	"flip_lock":  "slide the cable in straight to its mark, then close the lock",
	"slide_lock": "slide the cable in straight, then push the lock in on both sides",
	"pull_tab":   "push home, level with the board", "snap_on": "set the snap on its post and press straight down"}

// Side is the side of the machine that faces up.
type Side string

// The sides.
const (
	TopUp    Side = "top"
	BottomUp Side = "bottom"
)

// Sides is the table of sides.
var Sides = Vocabulary[Side]{{TopUp, "top up", "top-up", nil}, {BottomUp, "bottom up", "bottom-up", nil}}

// Quirk is something a model does that a technician has to know at the first start.
type Quirk string

// The quirks.
const (
	LidPowersOn       Quirk = "lid_powers_on"
	ChargerToWake     Quirk = "charger_to_wake"
	NoClockCell       Quirk = "no_clock_cell"
	NoticeAfterMemory Quirk = "notice_after_memory"
	HoldPowerToCut    Quirk = "hold_power_to_cut"
	ExternalBattery   Quirk = "external_battery"
)

// Quirks is the table of quirks.
var Quirks = Vocabulary[Quirk]{
	{LidPowersOn, "opening the lid switches it on", "", nil},
	{ChargerToWake, "starts only with the charger in once the battery was unplugged", "", nil},
	{NoClockCell, "has no clock cell: the clock is lost without the battery", "", nil},
	{NoticeAfterMemory, "says once after a memory change that its settings changed", "", nil},
	{HoldPowerToCut, "holding the power button cuts the battery", "", nil},
	{ExternalBattery, "its battery comes off from outside", "", nil},
}

// Source is how a fact is known, strongest first in its table.
type Source string

// The sources.
const (
	Bench              Source = "bench"
	FromReading        Source = "reading"
	FromLabel          Source = "label"
	MakerDocument      Source = "maker_document"
	ControllerDocument Source = "controller_document"
	FromSeller         Source = "seller"
	Assumed            Source = "assumed"
)

// Sources is the table of sources.
var Sources = Vocabulary[Source]{
	{Bench, "seen at the bench", "bench", nil}, {FromReading, "reported by the machine", "reading", nil},
	{FromLabel, "read from a label", "label", nil},
	{MakerDocument, "maker's document", "maker", nil},
	{ControllerDocument, "controller's document", "controller", []string{"ctl"}},
	{FromSeller, "from a seller", "seller", nil}, {Assumed, "assumed", "assumed", nil},
}

// PartKind is what a part is, and what a place takes.
type PartKind string

// The kinds of parts.
const (
	KindMemory    PartKind = "memory"
	KindDrive     PartKind = "drive"
	KindBattery   PartKind = "battery"
	KindWireless  PartKind = "wireless"
	KindAccessory PartKind = "accessory"
)

// PartKinds is the table of kinds.
var PartKinds = Vocabulary[PartKind]{
	{KindMemory, "memory module", "", nil}, {KindDrive, "drive", "", nil}, {KindBattery, "battery", "", nil},
	{KindWireless, "wireless card", "", nil}, {KindAccessory, "accessory", "", nil},
}

// Origin is where a part comes from.
type Origin string

// The origins; absent is new.
const (
	OriginNew      Origin = "new"
	OriginPulled   Origin = "pulled"
	OriginCustomer Origin = "customer"
)

// Origins is the table of origins.
var Origins = Vocabulary[Origin]{{OriginNew, "new", "", nil}, {OriginPulled, "used", "", nil},
	{OriginCustomer, "the customer's own", "", nil}}

// ECCUse is how a machine stands to modules with error correction.
type ECCUse string

// How a machine stands to error correction.
const (
	ECCNone      ECCUse = "none"
	ECCSupported ECCUse = "supported"
	ECCRequired  ECCUse = "required"
)

// ECCUses is the table of them.
var ECCUses = Vocabulary[ECCUse]{{ECCNone, "no ECC", "no-ecc", nil}, {ECCSupported, "ECC or none", "ecc", nil},
	{ECCRequired, "ECC only", "ecc-required", []string{"ecc-only"}}}

// ClockedUse is how a machine stands to modules with a clock driver of their own.
type ClockedUse string

// How a machine stands to clocked modules.
const (
	ClockedNone      ClockedUse = "none"
	ClockedSupported ClockedUse = "supported"
)

// ClockedUses is the table of them.
var ClockedUses = Vocabulary[ClockedUse]{{ClockedNone, "no clocked modules", "no-clocked", nil},
	{ClockedSupported, "clocked modules or plain ones", "clocked", nil}}

// LimitPractice is the figure up to which a shop fits memory.
type LimitPractice string

// The practices for the limit.
const (
	LimitMaker      LimitPractice = "maker"
	LimitProven     LimitPractice = "proven"
	LimitController LimitPractice = "controller"
	LimitSockets    LimitPractice = "sockets"
)

// LimitPractices is the table of them: whose figure it is.
var LimitPractices = Vocabulary[LimitPractice]{
	{LimitMaker, "maker's limit", "", nil}, {LimitProven, "proven limit", "", nil},
	{LimitController, "controller's limit", "", nil},
	{LimitSockets, "what the sockets take, tried and tested", "", nil},
}

// RotationalUse is where a shop puts spinning drives.
type RotationalUse string

// Where spinning drives go.
const (
	SpinNever RotationalUse = "never"
	SpinBulk  RotationalUse = "bulk"
	SpinAny   RotationalUse = "any"
)

// RotationalUses is the table of them.
var RotationalUses = Vocabulary[RotationalUse]{{SpinNever, "nowhere", "", nil},
	{SpinBulk, "beside the drive that starts the machine", "", nil}, {SpinAny, "anywhere", "", nil}}

// Pairing is which modules a shop lets stand beside each other.
type Pairing string

// The pairings.
const (
	PairAny       Pairing = "any"
	PairEqual     Pairing = "equal"
	PairMatch     Pairing = "match"
	PairIdentical Pairing = "identical"
)

// Pairings is the table of pairings.
var Pairings = Vocabulary[Pairing]{
	{PairAny, "any that work", "", nil}, {PairEqual, "equal capacity and speed", "", nil},
	{PairMatch, "as the one that stays, ranks too", "", nil}, {PairIdentical, "identical maker and part", "", nil},
}

// MigrationHow is how a boot drive's contents get onto the new one.
type MigrationHow string

// The ways.
const (
	Clone MigrationHow = "clone"
	Clean MigrationHow = "clean"
)

// Migrations is the table of ways.
var Migrations = Vocabulary[MigrationHow]{{Clone, "clone", "", nil}, {Clean, "clean installation", "", nil}}

// FixingFrom is where the screw of a place comes from.
type FixingFrom string

// Where a screw comes from.
const (
	FromMachine FixingFrom = "machine"
	FromPart    FixingFrom = "part"
	FromKit     FixingFrom = "kit"
)

// FixingsFrom is the table of them.
var FixingsFrom = Vocabulary[FixingFrom]{
	{FromMachine, "from the machine", "", nil}, {FromPart, "comes with the part", "", nil},
	{FromKit, "from the kit", "", nil},
}

// FilledState is what a condition of a step asks of a place.
const (
	StateFilled = "filled"
	StateEmpty  = "empty"
)

// PartitionTables are the kinds of a drive's partition table.
var PartitionTables = Vocabulary[string]{{"mbr", "MBR", "", nil}, {"gpt", "GPT", "", nil}}
