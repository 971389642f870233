// Package hw is the vocabulary of the job: what a model of machine consists of,
// what is fitted in one customer's machine, what can be bought, what is wanted,
// and the one verdict type that every check answers with.
//
// The types are those of the open formats (docs/formats) and carry their field
// names. A fact that may be absent is a Maybe; an absent list is nil and means
// "not known", an empty one means "none".
package hw

import "encoding/json"

// Format names of the documents.
const (
	FormatChassis = "yembo.chassis/1"
	FormatPhotos  = "yembo.photos/1"
	FormatMachine = "yembo.machine/1"
	FormatParts   = "yembo.parts/1"
	FormatRequest = "yembo.request/1"
	FormatPlan    = "yembo.plan/1"
)

// Chassis is what was found when a model was opened.
type Chassis struct {
	Format       string      `json:"format"`
	ID           string      `json:"id"`
	Maker        string      `json:"maker,omitempty"`
	Model        string      `json:"model,omitempty"`
	Code         string      `json:"code,omitempty"`
	Year         Maybe[int]  `json:"year,omitzero"`
	Kind         Build       `json:"kind"`
	Outline      *Outline    `json:"outline,omitempty"`
	Memory       *Memory     `json:"memory,omitempty"`
	Slots        []Slot      `json:"slots,omitzero"`
	Bays         []Bay       `json:"bays,omitzero"`
	Batteries    []Battery   `json:"batteries,omitzero"`
	BatteryReach string      `json:"battery_reach,omitempty"`
	Fasteners    []Fastener  `json:"fasteners,omitzero"`
	Steps        []Step      `json:"steps,omitzero"`
	Services     []Service   `json:"services,omitzero"`
	Board        [][2]Dec    `json:"board,omitzero"`
	Shapes       []Shape     `json:"shapes,omitzero"`
	Suspected    []Suspected `json:"suspected,omitzero"`
	Fixed        []string    `json:"fixed,omitzero"`
	Quirks       []Quirk     `json:"quirks,omitzero"`
	HoldSeconds  Maybe[Dec]  `json:"hold_s,omitzero"`
	FirmwareKey  string      `json:"firmware_key,omitempty"` // opens the firmware's page while it starts
	Covers       []string    `json:"covers,omitzero"`
	CoversNote   string      `json:"covers_note,omitempty"`
	Findings     []Finding   `json:"findings,omitzero"`
}

// Outline is the size of the base in millimetres, seen from below with the hinge
// or rear edge up.
type Outline struct {
	Width Dec `json:"width_mm"`
	Depth Dec `json:"depth_mm"`
}

// At is where a thing lies in the outline: left and top corner, size, turn.
type At struct {
	X      Dec        `json:"x_mm"`
	Y      Dec        `json:"y_mm"`
	Width  Maybe[Dec] `json:"w_mm,omitzero"`
	Height Maybe[Dec] `json:"h_mm,omitzero"`
	Turn   Maybe[int] `json:"turn_deg,omitzero"`
}

// Memory is what a model can hold.
type Memory struct {
	Type     Maybe[MemoryType] `json:"type,omitzero"`
	MaxSpeed Maybe[int]        `json:"max_speed_mts,omitzero"`
	Channels Maybe[int]        `json:"channels,omitzero"`
	ECC      Maybe[ECCUse]     `json:"ecc,omitzero"`
	Clocked  Maybe[ClockedUse] `json:"clocked,omitzero"` // with a clock driver of their own
	Soldered []Soldered        `json:"soldered,omitzero"`
	Sockets  []Socket          `json:"sockets,omitzero"`
	Limits   Limits            `json:"limits,omitzero"`
}

// Limits are totals for the whole machine in GB, soldered memory included.
type Limits struct {
	Maker      Maybe[Dec] `json:"maker_gb,omitzero"`
	Controller Maybe[Dec] `json:"controller_gb,omitzero"`
	Proven     Maybe[Dec] `json:"proven_gb,omitzero"`
}

// Soldered is memory that cannot be taken out.
type Soldered struct {
	ID       string     `json:"id"`
	Channel  string     `json:"channel,omitempty"`
	Channels []string   `json:"channels,omitzero"`
	Capacity Dec        `json:"capacity_gb"`
	Speed    Maybe[int] `json:"speed_mts,omitzero"`
	Ranks    Maybe[int] `json:"ranks,omitzero"`
	At       *At        `json:"at,omitempty"`
}

// Socket holds one memory module.
type Socket struct {
	ID        string     `json:"id"`
	Channel   string     `json:"channel,omitempty"`
	Channels  []string   `json:"channels,omitzero"`
	Form      ModuleForm `json:"form"`
	MaxModule Maybe[Dec] `json:"max_module_gb,omitzero"`
	Reach     string     `json:"reach,omitempty"`
	Advice    []string   `json:"advice,omitzero"`    // what whoever works there should know
	Firmware  string     `json:"firmware,omitempty"` // from this version on the place works as it is recorded
	At        *At        `json:"at,omitempty"`
}

// OnChannels returns the channels that a place serves, nil when not known.
func OnChannels(one string, several []string) []string {
	if len(several) > 0 {
		return several
	}
	if one != "" {
		return []string{one}
	}
	return nil
}

// Slot takes an M.2 module (or one of the maker's own kind, by its key text).
type Slot struct {
	ID          string            `json:"id"`
	Purpose     Purpose           `json:"purpose"`
	Key         Maybe[string]     `json:"key,omitzero"`
	Width       Maybe[int]        `json:"width_mm,omitzero"`
	Gen         Maybe[int]        `json:"pcie_gen,omitzero"`
	Lanes       Maybe[int]        `json:"lanes,omitzero"`
	Protocols   []Interface       `json:"protocols,omitzero"`
	Refuses     []Refusal         `json:"refuses,omitzero"`
	Lengths     map[string]string `json:"lengths,omitzero"`
	MaxTop      Maybe[Dec]        `json:"max_top_mm,omitzero"`
	MaxBottom   Maybe[Dec]        `json:"max_bottom_mm,omitzero"`
	Cooling     Maybe[Cooling]    `json:"cooling,omitzero"`
	Antennas    []string          `json:"antennas,omitzero"`
	AcceptsOnly []string          `json:"accepts_only,omitzero"`
	StatedMax   Maybe[Dec]        `json:"stated_max_gb,omitzero"`
	Excludes    []string          `json:"excludes,omitzero"`
	CarryOver   []string          `json:"carry_over,omitzero"`
	Fixing      *Fixing           `json:"fixing,omitempty"`
	OnlyOn      string            `json:"only_on,omitempty"`
	Reach       string            `json:"reach,omitempty"`
	LeadMM      Maybe[Dec]        `json:"lead_mm,omitzero"` // how wide the connectors of its antenna leads are
	Advice      []string          `json:"advice,omitzero"`
	Firmware    string            `json:"firmware,omitempty"`
	At          *At               `json:"at,omitempty"`
}

// Fixing is the screw that holds a drive in its place, and where it comes from.
type Fixing struct {
	Bit   Maybe[string] `json:"bit,omitzero"`
	Screw string        `json:"screw,omitempty"`
	From  FixingFrom    `json:"from,omitempty"`
}

// Bay takes a 2.5-inch drive; an optical one takes an optical drive, or with a caddy a
// 2.5-inch one.
type Bay struct {
	ID        string           `json:"id"`
	Form      DriveForm        `json:"form"`
	Height    Maybe[Dec]       `json:"height_mm,omitzero"`
	Interface Maybe[Interface] `json:"interface,omitzero"`
	Connector Maybe[string]    `json:"connector,omitzero"`
	Caddy     Maybe[string]    `json:"caddy,omitzero"`
	StatedMax Maybe[Dec]       `json:"stated_max_gb,omitzero"`
	Excludes  []string         `json:"excludes,omitzero"`
	CarryOver []string         `json:"carry_over,omitzero"`
	Fixing    *Fixing          `json:"fixing,omitempty"`
	OnlyOn    string           `json:"only_on,omitempty"`
	Reach     string           `json:"reach,omitempty"`
	Advice    []string         `json:"advice,omitzero"`
	Firmware  string           `json:"firmware,omitempty"`
	At        *At              `json:"at,omitempty"`
}

// Battery is one of the packs that a model is recorded with.
type Battery struct {
	ID          string     `json:"id"`
	DesignWh    Maybe[Dec] `json:"design_wh,omitzero"`
	NominalV    Maybe[Dec] `json:"nominal_v,omitzero"`
	Series      Maybe[int] `json:"series,omitzero"`
	PartNumbers []string   `json:"part_numbers,omitzero"`
	Excludes    []string   `json:"excludes,omitzero"`
	CarryOver   []string   `json:"carry_over,omitzero"`
	OnlyOn      string     `json:"only_on,omitempty"`
	Advice      []string   `json:"advice,omitzero"`
	Firmware    string     `json:"firmware,omitempty"`
	At          *At        `json:"at,omitempty"`
}

// Fastener is a group of equal screws.
type Fastener struct {
	ID      string        `json:"id"`
	Count   Maybe[int]    `json:"count,omitzero"`
	Bit     Maybe[string] `json:"bit,omitzero"`
	Length  Maybe[Dec]    `json:"length_mm,omitzero"`
	Thread  string        `json:"thread,omitempty"`
	Head    string        `json:"head,omitempty"`
	Captive Maybe[bool]   `json:"captive,omitzero"`
	Hidden  string        `json:"hidden,omitempty"`
	Seal    Maybe[bool]   `json:"seal,omitzero"`
	Order   []int         `json:"order,omitzero"`
	At      []At          `json:"at,omitzero"`
}

// Step is one move in taking a model apart.
type Step struct {
	ID           string          `json:"id"`
	Verb         Verb            `json:"verb"`
	Part         string          `json:"part,omitempty"`
	Needs        []string        `json:"needs"`
	Side         Side            `json:"side,omitempty"`
	Fasteners    []StepFasteners `json:"fasteners,omitzero"`
	Bit          Maybe[string]   `json:"bit,omitzero"`
	Tool         string          `json:"tool,omitempty"`
	Connector    Connector       `json:"connector,omitempty"`
	StartAt      string          `json:"start_at,omitempty"`
	CloseHint    string          `json:"close_hint,omitempty"`
	Cautions     []string        `json:"cautions,omitzero"`
	Consumables  []string        `json:"consumables,omitzero"`
	Minutes      Maybe[Dec]      `json:"minutes,omitzero"`
	IsolatesPwr  Maybe[bool]     `json:"isolates_power,omitzero"`
	LiveRisk     Maybe[bool]     `json:"live_risk,omitzero"`
	Glued        Maybe[bool]     `json:"glued,omitzero"`
	Seal         Maybe[bool]     `json:"seal,omitzero"`
	RemovesBoard Maybe[bool]     `json:"removes_board,omitzero"`
	RenewsPaste  Maybe[bool]     `json:"renews_paste,omitzero"` // a heat sink is lifted: new paste before it goes back
	Place        string          `json:"place,omitempty"`
	When         *Condition      `json:"when,omitempty"`
	Back         *Condition      `json:"back,omitempty"`
	BackBefore   string          `json:"back_before,omitempty"`
	Toward       Toward          `json:"toward,omitempty"`
	Loosen       LoosenOrder     `json:"loosen,omitempty"` // over the shop's practice
	At           *At             `json:"at,omitempty"`     // where its plug, shield, spacer or part is
}

// Condition says in which state of a place a step is done. State is filled or empty; for
// the place of the pack it is a pack's id.
type Condition struct {
	Place string `json:"place"`
	State string `json:"state"`
}

// StepFasteners says how many screws of a group a step turns.
type StepFasteners struct {
	Group string `json:"group"`
	Count int    `json:"count"`
}

// Service is work on a machine that fits no new part.
type Service struct {
	ID          string     `json:"id"`
	Name        string     `json:"name,omitempty"`
	Reach       string     `json:"reach,omitempty"`
	Minutes     Maybe[Dec] `json:"minutes,omitzero"`
	Tool        string     `json:"tool,omitempty"`
	Tools       []string   `json:"tools,omitzero"`
	Consumables []string   `json:"consumables,omitzero"`
	Carry       []string   `json:"carry,omitzero"`
	// ChangesSecurity says that it changes the board, its firmware or its security chip: an encrypted drive locks.
	ChangesSecurity Maybe[bool] `json:"changes_security,omitzero"`
}

// Shape is a fan, a pipe, a pad or the like, drawn and not planned with.
type Shape struct {
	ID        string     `json:"id"`
	What      string     `json:"what,omitempty"`
	Thickness Maybe[Dec] `json:"thickness_mm,omitzero"` // of a pad
	Faces     Faces      `json:"faces,omitempty"`
	Under     string     `json:"under,omitempty"` // the place whose part lies on it
	At        *At        `json:"at,omitempty"`
}

// Suspected is something thought to be there and not yet seen.
type Suspected struct {
	ID   string `json:"id"`
	Text string `json:"text,omitempty"`
	Step string `json:"step,omitempty"`
	At   *At    `json:"at,omitempty"`
	// Settled is set once it was looked at: it is listed, and drawn no more.
	Settled *Settled `json:"settled,omitempty"`
}

// SettledNothing is what a suspicion was that turned out to be nothing.
const SettledNothing = "nothing"

// Settled says what a suspicion turned out to be: a place's id, or SettledNothing.
type Settled struct {
	On string `json:"on,omitempty"`
	By string `json:"by,omitempty"`
	As string `json:"as,omitempty"`
}

// Finding is one statement about one fact of a model.
//
// Path is a JSON Pointer. In memory and in the store it names places by their id
// (/slots/m2a/lanes); a document names them by index (/slots/0/lanes). Package
// evidence converts between the two.
type Finding struct {
	Path     string          `json:"path"`
	Value    json.RawMessage `json:"value"`
	Source   Source          `json:"source"`
	On       string          `json:"on,omitempty"`
	By       string          `json:"by,omitempty"`
	Note     string          `json:"note,omitempty"`
	SetAside *SetAside       `json:"set_aside,omitempty"`
}

// SetAside says who set a finding aside, when, and why. Such a finding is kept
// and shown, and counts no more.
type SetAside struct {
	On   string `json:"on,omitempty"`
	By   string `json:"by,omitempty"`
	Note string `json:"note,omitempty"`
}

// Name is how people call the model.
func (c *Chassis) Name() string {
	switch {
	case c.Maker == "" && c.Model == "":
		return c.ID
	case c.Maker == "":
		return c.Model
	case c.Model == "":
		return c.Maker
	}
	return c.Maker + " " + c.Model
}

// Mem returns the memory record; a model with none recorded has an empty one, in
// which nothing is known.
func (c *Chassis) Mem() *Memory {
	if c.Memory == nil {
		return &Memory{}
	}
	return c.Memory
}
