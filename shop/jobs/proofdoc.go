package jobs

import (
	"fmt"
	"time"

	"yembo/core/hw"
	"yembo/core/proof"
)

// ProofDoc is what was noted to prove a job.
type ProofDoc struct {
	// Counts are readings that count although something speaks against them, as somebody said.
	Counts   []int64               `json:"counts,omitempty"`
	ByHand   map[string]SeenByHand `json:"by_hand,omitempty"` // by place and what, "dimm1 capacity_gb"
	Met      []Met                 `json:"met,omitempty"`
	Tried    []Tried               `json:"tried,omitempty"`
	Really   map[string]Really     `json:"really,omitempty"` // what is in a place, where it is not what was planned
	First    map[string]FirstStart `json:"first,omitempty"`
	Measures []proof.Measure       `json:"measures,omitempty"`
	Test     *MemoryTest           `json:"memory_test,omitempty"`
	Data     *DataDone             `json:"data,omitempty"`
	Old      map[string]OldPart    `json:"old,omitempty"`  // by place
	Seam     map[string]time.Time  `json:"seam,omitempty"` // by edge
	Sign     *Signed               `json:"sign,omitempty"`
	Hand     *Handed               `json:"hand,omitempty"`
	Notes    []ProofNote           `json:"notes,omitempty"`
}

// SeenByHand is a line that somebody looked at themselves.
type SeenByHand struct {
	Same bool      `json:"same"`
	Said string    `json:"said,omitempty"`
	At   time.Time `json:"at"`
	By   string    `json:"by"`
}

// Met is a difference that only a person sees.
type Met struct {
	Code   proof.Code `json:"code"`
	At     time.Time  `json:"at"`
	By     string     `json:"by"`
	Mended *time.Time `json:"mended,omitempty"`
}

// Tried is a thing that was tried against a difference.
type Tried struct {
	Code  proof.Code `json:"code"`
	Place string     `json:"place"`
	Try   int        `json:"try"`
	Said  string     `json:"said,omitempty"`
	At    time.Time  `json:"at"`
	By    string     `json:"by"`
}

// Really is what sits in a place, as a report told it and somebody agreed.
type Really struct {
	Module *hw.Module `json:"module,omitempty"`
	Drive  *hw.Drive  `json:"drive,omitempty"`
	None   bool       `json:"none,omitempty"`
	By     string     `json:"by"`
}

// FirstStart is one thing of the first start.
type FirstStart struct {
	Answer FirstAnswer `json:"answer"`
	Note   string      `json:"note,omitempty"`
	At     time.Time   `json:"at"`
	By     string      `json:"by"`
}

// FirstAnswer is what became of it.
type FirstAnswer string

// The answers.
const (
	FirstDone   FirstAnswer = "done"
	FirstNoTest FirstAnswer = "untestable" // it cannot be tested here, and stands on the report
)

// MemoryTest is a memory test that was run.
type MemoryTest struct {
	Tool    string           `json:"tool"`
	Passes  int              `json:"passes"`
	Minutes hw.Maybe[hw.Dec] `json:"minutes,omitzero"`
	TotalGB hw.Dec           `json:"total_gb"`
	Errors  hw.Maybe[int]    `json:"errors,omitzero"`
	At      time.Time        `json:"at"`
	By      string           `json:"by"`
}

// Passed reports whether the memory held.
func (t *MemoryTest) Passed() bool { return t != nil && t.Errors.Or(1) == 0 && t.Passes > 0 }

// DataSteps are what is done with the customer's data, by the way it moves, in the order of the hands.
var DataSteps = map[hw.MigrationHow]hw.Vocabulary[string]{
	hw.Clone: {
		{Word: "backup", Says: "a backup is there, or the customer said that none is wanted"},
		{Word: "read", Says: "the old drive was read to its end"},
		{Word: "grown", Says: "the volume fills the new drive"},
		{Word: "aside", Says: "the old drive lies aside, untouched"},
	},
	hw.Clean: {
		{Word: "backup", Says: "the customer's files are saved elsewhere"},
		{Word: "system", Says: "the system is installed, with its drivers"},
		{Word: "files", Says: "the files are back, and counted"},
		{Word: "aside", Says: "the old drive lies aside, untouched"},
	},
}

// DataDone is what became of the customer's data.
type DataDone struct {
	Steps      []string         `json:"steps,omitempty"` // of DataSteps
	Minutes    hw.Maybe[hw.Dec] `json:"minutes,omitzero"`
	Verified   string           `json:"verified,omitempty"` // how it was compared before the old drive was touched
	ReadErrors hw.Maybe[int]    `json:"read_errors,omitzero"`
	Note       string           `json:"note,omitempty"`
	At         time.Time        `json:"at"`
	By         string           `json:"by"`
}

// OldPart is where a part that came out went.
type OldPart struct {
	Goes   Goes   `json:"goes"`
	How    string `json:"how,omitempty"` // how it was erased or tested
	Days   int    `json:"days,omitempty"`
	Serial string `json:"serial,omitempty"`
	By     string `json:"by"`
}

// Goes is where an old part goes.
type Goes string

// Where it can go.
const (
	GoesBack      Goes = "back"
	GoesKept      Goes = "kept"
	GoesEnclosure Goes = "enclosure"
	GoesShelf     Goes = "shelf"
	GoesErased    Goes = "erased"
	GoesDestroyed Goes = "destroyed"
	GoesRecycled  Goes = "recycled"
)

// GoesWays is the table of them.
var GoesWays = hw.Vocabulary[Goes]{
	{Word: GoesBack, Says: "back to the customer"},
	{Word: GoesKept, Says: "kept as it is for some days"},
	{Word: GoesEnclosure, Says: "into an enclosure, to the customer"},
	{Word: GoesShelf, Says: "onto the shelf"},
	{
		Word: GoesErased,
		Says: "erased, then recycled",
	},
	{Word: GoesDestroyed, Says: "destroyed"},
	{Word: GoesRecycled, Says: "recycled"},
}

// Words say where the part goes.
func (o *OldPart) Words() string {
	words := GoesWays.Says(o.Goes)
	if o.Goes == GoesKept {
		words = fmt.Sprintf("kept as it is for %d days", o.Days)
	}
	if o.How != "" {
		words += ": " + o.How
	}
	return words
}

// Signed is the signature under a proof.
type Signed struct {
	At     time.Time `json:"at"`
	By     string    `json:"by"`
	Open   []string  `json:"open,omitempty"` // what stood against it
	Why    string    `json:"why,omitempty"`
	Agreed string    `json:"agreed,omitempty"` // who agreed
	// Learned is what went into records with it, in words.
	Learned []string `json:"learned,omitempty"`
}

// Handed is to whom the machine went.
type Handed struct {
	To        string     `json:"to"`
	At        time.Time  `json:"at"`
	By        string     `json:"by"`
	With      []string   `json:"with,omitempty"`    // accessories that went with it
	Without   []string   `json:"without,omitempty"` // that were handed in, and did not
	Signature *Signature `json:"signature,omitempty"`
	Warranty  string     `json:"warranty,omitempty"` // the day until which the shop answers for what it fitted
}

// ProofNote is a note that stands on the report.
type ProofNote struct {
	Text string    `json:"text"`
	At   time.Time `json:"at"`
	By   string    `json:"by"`
}

// SeamEdges are where somebody looks along the seam with a nail.
var SeamEdges = []string{"front", "right", "hinge", "left", "middle"}
