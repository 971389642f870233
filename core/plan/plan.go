// Package plan searches for the upgrades that a machine can have: which parts in
// which places reach the customer's goals, at what cost, time and risk.
//
// The search runs over memory, drives, battery and wireless together. For each
// kind it lists candidates (which places change, at what price, to what gain),
// drops those that another candidate of the same shape beats, and combines the
// rest. Of the combinations it keeps every one that no other beats or equals in
// all of: total, memory and its bandwidth, storage, runtime, wireless standard, risk,
// minutes and the days until all of it is here.
//
// Why nothing is lost by dropping early: a part stands in for another of its place only
// where it is no dearer, no smaller, no slower, no later, adds no risk and needs no more
// accessories, with supply enough for every piece the place's kind could take (thin); a
// candidate for another of the same places only where the same holds of the whole set
// (collector). Every combination with a dropped one has one with a kept one that is as
// good in everything compared, and comes first where it is equal.
// The same input gives the same plan, to the byte.
package plan

import (
	"yembo/core/hw"
	"yembo/core/memory"
	"yembo/core/storage"
)

// Verdicts of a plan.
const (
	Upgrade     = "upgrade"
	Partial     = "partial"
	Enough      = "enough"
	NotPossible = "not_possible"
	NotKnown    = "not_known"
	ServiceOnly = "service"
	Stop        = "stop"
)

// TooLarge is the error of an input that is sound but larger than a plan can look
// at; it names the limit.
type TooLarge string

func (e TooLarge) Error() string { return string(e) }

// Input is what a plan is made from. The documents must be valid.
type Input struct {
	Chassis *hw.Chassis
	Machine *hw.Machine
	Parts   *hw.Parts
	Request *hw.Request
	// Pinned are parts that every option has to use; of their kinds nothing else is
	// bought. Naming one does not make it fit. Forbidden are parts that none may use.
	Pinned, Forbidden []string
	// GuessedAP says that the access point in the practice is the shop's own, for nobody told the customer's.
	GuessedAP bool
	// Largest is the table of largest modules; nil takes the one that ships.
	Largest memory.LargestModule

	// One rule may be set aside, to say what stands in the way of a goal.
	noLimit    bool        // the limit in force, but not what can be reached
	noRaid     bool        // members of a striped volume count as any other drive
	allInStock hw.PartKind // every part of this kind can be had
}

// accessPoint is what the access point is called.
func (in *Input) accessPoint() string {
	if in.GuessedAP {
		return "the shop's access point, which stands in for the customer's,"
	}
	return "the access point"
}

// Plan is the answer, in the fields of yembo.plan/1.
type Plan struct {
	Format    string     `json:"format"`
	Chassis   string     `json:"chassis"`
	Machine   string     `json:"machine"`
	Verdict   string     `json:"verdict"`
	RightSize RightSize  `json:"right_size"`
	Options   []Option   `json:"options"`
	Picks     Picks      `json:"picks"`
	Rejected  []Rejected `json:"rejected"`
	Unmet     []Unmet    `json:"unmet"`
	Notes     []Note     `json:"notes"`

	rivals []string // the options that the recommended one was chosen from
}

// RightSize is the smallest memory total that the measured use asks for.
type RightSize struct {
	MemoryGB hw.Maybe[hw.Dec] `json:"memory_gb,omitzero"`
}

// Option is one way to upgrade.
type Option struct {
	ID          string         `json:"id"`
	Meets       Meets          `json:"meets"`
	MeetsAll    bool           `json:"meets_all"`
	Actions     []Action       `json:"actions"`
	Memory      *MemoryState   `json:"memory,omitempty"`
	Storage     *StorageState  `json:"storage,omitempty"`
	Battery     *BatteryState  `json:"battery,omitempty"`
	Wireless    *WirelessState `json:"wireless,omitempty"`
	Migration   *Migration     `json:"migration,omitempty"`
	Buy         []Buy          `json:"buy"`
	Missing     []string       `json:"missing"`
	PartsCents  int64          `json:"parts_cents"`
	LabourCents int64          `json:"labour_cents"`
	Services    []string       `json:"services,omitempty"`
	// ServicesCents is what is charged for what the services use up.
	ServicesCents hw.Maybe[int64] `json:"services_cents,omitzero"`
	TotalCents    int64           `json:"total_cents"`
	Minutes       hw.Dec          `json:"minutes"`
	ReadyInDays   hw.Maybe[int]   `json:"ready_in_days,omitzero"`
	Risk          Risk            `json:"risk"`
	Warnings      []Warning       `json:"warnings"`
	Consents      []hw.Consent    `json:"consents"`
}

// Meets says for each goal asked for whether it is reached.
type Meets struct {
	Memory   hw.Maybe[bool] `json:"memory_gb,omitzero"`
	Storage  hw.Maybe[bool] `json:"storage_gb,omitzero"`
	Runtime  hw.Maybe[bool] `json:"runtime_h,omitzero"`
	Wireless hw.Maybe[bool] `json:"wireless,omitzero"`
}

// Actions.
const (
	DoAdd     = "add"
	DoReplace = "replace"
	DoRemove  = "remove"
	DoKeep    = "keep"
)

// Action is what happens at one place.
type Action struct {
	Do    string `json:"do"`
	Place string `json:"place"`
	Part  string `json:"part,omitempty"`
	Out   string `json:"out,omitempty"`
}

// MemoryState is what the memory gives.
type MemoryState struct {
	TotalGB     hw.Dec           `json:"total_gb"`
	Mode        hw.Maybe[string] `json:"mode,omitzero"`
	Interleaved hw.Maybe[hw.Dec] `json:"interleaved_gb,omitzero"`
	Single      hw.Maybe[hw.Dec] `json:"single_gb,omitzero"`
	SpeedMTs    hw.Maybe[int]    `json:"speed_mts,omitzero"`
	Bandwidth   hw.Maybe[hw.Dec] `json:"bandwidth_gbs,omitzero"`
}

// StorageState is the drives in use.
type StorageState struct {
	TotalGB hw.Dec `json:"total_gb"`
	Links   []Link `json:"links"`
}

// Link is how one drive is connected.
type Link struct {
	Place   string           `json:"place"`
	Gen     hw.Maybe[int]    `json:"gen,omitzero"`
	Lanes   hw.Maybe[int]    `json:"lanes,omitzero"`
	LinkMBs hw.Maybe[int]    `json:"link_mbs,omitzero"`
	ReadMBs hw.Maybe[hw.Dec] `json:"read_mbs,omitzero"`
}

// BatteryState is the pack in use.
type BatteryState struct {
	Option     string           `json:"option,omitempty"`
	PartNumber string           `json:"part_number,omitempty"`
	FullWh     hw.Maybe[hw.Dec] `json:"full_wh,omitzero"`
	RuntimeH   hw.Maybe[hw.Dec] `json:"runtime_h,omitzero"`
	// AtLeast says that RuntimeH is a least figure: what the pack in the machine holds was not read.
	AtLeast bool `json:"at_least,omitempty"`
}

// WirelessState is the card in use.
type WirelessState struct {
	Slot     string                `json:"slot"`
	Standard hw.Maybe[hw.Standard] `json:"standard,omitzero"`
}

// Migration is how the boot drive's contents get onto the new one.
type Migration struct {
	Place   string           `json:"place"`
	How     hw.MigrationHow  `json:"how"`
	Minutes hw.Maybe[hw.Dec] `json:"minutes,omitzero"`
}

// Buy is one line to take from the shelf or order.
type Buy struct {
	Part     string `json:"part"`
	Quantity int    `json:"quantity"`
	Cents    int64  `json:"cents"`
}

// Risk is the points of table 10 with their reasons.
type Risk struct {
	Points  int      `json:"points"`
	Reasons []Reason `json:"reasons"`
}

// Reason is one risk; facts are counted one by one.
type Reason struct {
	Code   hw.Code `json:"code"`
	Points int     `json:"points"`
	// Fact is the path of the fact that a reason is for, "" for the others; the document has the code alone.
	Fact string `json:"-"`
}

// Warning is something to know about an option.
type Warning struct {
	Code  hw.Code `json:"code"`
	Place string  `json:"place"`
	Text  string  `json:"text"`
}

// Picks name the options that are best in one respect.
type Picks struct {
	Recommended  string `json:"recommended,omitempty"`
	LeastCost    string `json:"least_cost,omitempty"`
	LeastWork    string `json:"least_work,omitempty"`
	LowestRisk   string `json:"lowest_risk,omitempty"`
	Soonest      string `json:"soonest,omitempty"`
	MostHeadroom string `json:"most_headroom,omitempty"`
}

// Rejected is a part that fits no place, with the first check that failed.
type Rejected struct {
	Part  string  `json:"part"`
	Place string  `json:"place"`
	Code  hw.Code `json:"code"`
	Text  string  `json:"text"`
	Fact  string  `json:"fact,omitempty"`
	Step  string  `json:"step,omitempty"`
}

// Unmet is a goal that stays out of reach, and why.
type Unmet struct {
	Goal string  `json:"goal"`
	Code hw.Code `json:"code"`
	Text string  `json:"text"`
	// Fact is the prefixed pointer of the fact that would settle it, "" where none would.
	Fact string `json:"-"`
}

// Note is something about the machine rather than about an option.
type Note struct {
	Code hw.Code `json:"code"`
	Text string  `json:"text"`
	// Facts are the prefixed pointers of what the note speaks of, as documents have them.
	Facts []string `json:"-"`
	// About names the fact in words, where the note is of one of several alike.
	About string `json:"-"`
}

func memoryState(l memory.Layout) *MemoryState {
	return &MemoryState{
		TotalGB: l.Total.Tenths(), Mode: l.Mode, Interleaved: tenths(l.Interleaved), Single: tenths(l.Single),
		SpeedMTs: l.Speed, Bandwidth: l.Bandwidth,
	}
}

func linkState(l storage.Link) Link {
	return Link{Place: l.Place, Gen: l.Gen, Lanes: l.Lanes, LinkMBs: l.MBs, ReadMBs: tenths(l.Read)}
}

func tenths(m hw.Maybe[hw.Dec]) hw.Maybe[hw.Dec] {
	if v, ok := m.Get(); ok {
		return hw.Known(v.Tenths())
	}
	return m
}
