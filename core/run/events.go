package run

import (
	"encoding/json"
	"time"

	"yembo/core/hw"
)

// EventKind is what happened in a run.
type EventKind string

// The kinds of events.
const (
	Ticked   EventKind = "tick"      // a step is done
	Undone   EventKind = "undo"      // it is not, after all
	Noted    EventKind = "note"      // words
	Photo    EventKind = "photo"     // a picture was taken
	Differs  EventKind = "otherwise" // it goes otherwise than recorded
	Put      EventKind = "detour"    // a step was put in
	Found    EventKind = "fact"      // a fact of the model was found out
	Later    EventKind = "later"     // a fact is left for the next opening
	Solved   EventKind = "solved"    // what had to be looked for is found
	Paused   EventKind = "pause"     // nobody works
	Resumed  EventKind = "resume"
	Stopped  EventKind = "stop"  // the pack is not sound
	MadeSafe EventKind = "safe"  // what stopped the job was made safe
	Offered  EventKind = "offer" // what it taught went into the model's record, or was left
	Ended    EventKind = "end"
	// Late is what came after the run had ended, from a page that was cut off: Data.Was says what it
	// was. It is kept, shown, and changes nothing.
	Late EventKind = "late"
)

// Event is one thing that happened. Client names it: the same name twice is the same event.
type Event struct {
	Client string
	Kind   EventKind
	Step   string // key of the step, "" for none
	At     time.Time
	By     string
	Data   Data
}

// Data is what an event says beside its kind.
type Data struct {
	// Of a tick: the screws of each group that went back, what became of those that did not,
	// that the cautions were read, the serials, and where the old part goes.
	Back     map[string]int  `json:"back,omitempty"`
	Rest     Rest            `json:"rest,omitempty"`
	Read     bool            `json:"read,omitempty"`
	In       string          `json:"in,omitempty"`
	Out      string          `json:"out,omitempty"`
	Goes     string          `json:"goes,omitempty"`
	Skip     bool            `json:"skip,omitempty"` // it is left out
	Why      string          `json:"why,omitempty"`
	Text     string          `json:"text,omitempty"`
	Photo    int64           `json:"photo,omitempty"`
	What     What            `json:"what,omitempty"`  // of Differs
	Group    string          `json:"group,omitempty"` // of screws
	N        int             `json:"n,omitempty"`     // how many there are
	Word     string          `json:"word,omitempty"`  // the bit, or the plug
	Verb     hw.Verb         `json:"verb,omitempty"`  // of Put
	Part     string          `json:"part,omitempty"`
	BackOnly bool            `json:"back_only,omitempty"` // needed on the way back alone
	Path     string          `json:"path,omitempty"`      // of Found
	Value    json.RawMessage `json:"value,omitempty"`
	Of       string          `json:"of,omitempty"` // the event that this one answers
	Kept     bool            `json:"kept,omitempty"`
	Refused  string          `json:"refused,omitempty"` // why the model's record did not take it
	Was      EventKind       `json:"was,omitempty"`     // of Late
}

// Rest is what became of screws that did not go back.
type Rest string

// What can become of them.
const (
	RestLeft    Rest = "left"    // they lie on the tray still
	RestMissing Rest = "missing" // they are gone
)

// Rests is the table of it.
var Rests = hw.Vocabulary[Rest]{{Word: RestLeft, Says: "left over"}, {Word: RestMissing, Says: "missing"}}

// What is how a step goes otherwise than recorded.
type What string

// The ways in which it does.
const (
	OtherCount What = "count"
	OtherBit   What = "bit"
	OtherPlug  What = "plug"
	ItIsGlued  What = "glued"
	ClipBack   What = "clip"
	Stripped   What = "stripped"
	FellIn     What = "fell"
	WillNot    What = "stuck"
	Broke      What = "broke"
	OtherPart  What = "part"
)

// Whats is the table of them, in the order in which they are offered.
var Whats = hw.Vocabulary[What]{
	{Word: OtherCount, Says: "more or fewer screws"}, {Word: OtherBit, Says: "another bit"},
	{Word: OtherPlug, Says: "another plug"}, {Word: ItIsGlued, Says: "it is glued"},
	{Word: WillNot, Says: "it will not move"}, {Word: FellIn, Says: "a screw fell in"},
	{Word: Stripped, Says: "a screw is stripped"}, {Word: ClipBack, Says: "a clip came back broken"},
	{Word: Broke, Says: "this broke"}, {Word: OtherPart, Says: "the part is another"},
}

// Fact is what a way of going otherwise says about the model, by the path of the fact and its
// value; ok is false where it is a note of this machine alone.
func (d *Data) Fact(ch *hw.Chassis, step string) (path string, value any, ok bool) {
	i := ch.StepByID(step)
	switch d.What {
	case OtherCount:
		if ch.FastenerByID(d.Group) >= 0 && d.N > 0 {
			return "/fasteners/" + d.Group + "/count", d.N, true
		}
	case OtherBit:
		if ch.FastenerByID(d.Group) >= 0 {
			return "/fasteners/" + d.Group + "/bit", d.Word, true
		}
		if i >= 0 {
			return "/steps/" + step + "/bit", d.Word, true
		}
	case OtherPlug:
		if i >= 0 {
			return "/steps/" + step + "/connector", d.Word, true
		}
	case ItIsGlued:
		if i >= 0 {
			return "/steps/" + step + "/glued", true, true
		}
	case ClipBack, Stripped, FellIn, WillNot, Broke, OtherPart: // they change nothing here
	}
	return "", nil, false
}
