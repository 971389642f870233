// Package week works out when a shop does what, on which bench and by whom, so that what was promised is kept: exactly for a
// small shop, well and with a bound for a large one. It has no clock: the moment that it plans from comes in. The rules are
// those of docs/rules.md, The week.
package week

import "yembo/core/hw"

// Formats of the documents.
const (
	Format         = "yembo.week/1"
	FormatSchedule = "yembo.schedule/1"
)

// Request is what has to be done, and with what. Instants are RFC 3339 with an offset and whole minutes, dates 2006-01-02,
// wall times 15:04 up to 24:00.
type Request struct {
	Format   string                 `json:"format"`
	Now      string                 `json:"now"`
	TZ       string                 `json:"tz"`    // IANA, such as Europe/Vienna
	Hours    map[string][][2]string `json:"hours"` // by weekday, mon to sun
	Days     []Day                  `json:"days,omitempty"`
	Benches  []Bench                `json:"benches"`
	People   []Person               `json:"people"`
	Arrivals []Arrival              `json:"arrivals,omitempty"`
	Practice Practice               `json:"practice,omitzero"`
	Jobs     []Job                  `json:"jobs"`
}

// Day is a date with hours of its own; without any the shop is closed.
type Day struct {
	On    string      `json:"on"`
	Hours [][2]string `json:"hours,omitempty"`
	Why   string      `json:"why,omitempty"`
}

// Bench is where one machine at a time is worked on.
type Bench struct {
	ID   string `json:"id"`
	Name string `json:"name,omitempty"`
}

// Person is somebody who works; Hours are theirs where they differ from the shop's.
type Person struct {
	ID    string                 `json:"id"`
	Name  string                 `json:"name,omitempty"`
	Hours map[string][][2]string `json:"hours,omitempty"`
	Away  []Away                 `json:"away,omitempty"`
}

// Away is when somebody is not there: instants, or whole dates.
type Away struct {
	From string `json:"from"`
	To   string `json:"to"`
	Why  string `json:"why,omitempty"`
}

// Arrival is something that a job waits for: here, or due at an instant or on a bare day.
type Arrival struct {
	ID   string `json:"id"`
	What string `json:"what,omitempty"`
	Here bool   `json:"here,omitempty"`
	At   string `json:"at,omitempty"`
	On   string `json:"on,omitempty"`
}

// Practice is how the shop promises, in minutes.
type Practice struct {
	Margin     hw.Maybe[int] `json:"margin_min,omitzero"`
	Round      hw.Maybe[int] `json:"round_min,omitzero"`
	Look       hw.Maybe[int] `json:"look_min,omitzero"`  // to take an arrival in
	Clear      hw.Maybe[int] `json:"clear_min,omitzero"` // between two machines on a bench
	Unmeasured hw.Maybe[int] `json:"unmeasured_percent,omitzero"`
}

// Job is a machine's work.
type Job struct {
	ID        string     `json:"id"`
	From      string     `json:"from,omitempty"` // the machine is here then
	Needs     []string   `json:"needs,omitempty"`
	Blocked   string     `json:"blocked,omitempty"` // who is asked
	Promise   string     `json:"promise,omitempty"`
	Weight    int        `json:"weight,omitempty"`
	Danger    bool       `json:"danger,omitempty"`
	Prefer    *Where     `json:"prefer,omitempty"`
	Only      *Only      `json:"only,omitempty"`
	Started   *Where     `json:"started,omitempty"`
	Pin       *Pin       `json:"pin,omitempty"`
	Published *Published `json:"published,omitempty"`
	LeaveOpen bool       `json:"leave_open,omitempty"`
	New       bool       `json:"new,omitempty"`
	Stretches []Stretch  `json:"stretches"`
}

// Where is a bench and a person, "" where either will do.
type Where struct {
	Bench  string `json:"bench,omitempty"`
	Person string `json:"person,omitempty"`
}

// Only binds a job to some benches and people; nil lists bind to none in particular, an empty one leaves nobody.
type Only struct {
	Benches []string `json:"benches,omitempty"`
	People  []string `json:"people,omitempty"`
}

// Pin is where a hand put a job.
type Pin struct {
	Bench  string `json:"bench,omitempty"`
	Person string `json:"person,omitempty"`
	Start  string `json:"start,omitempty"`
}

// Published is where a job stood as it was last shown.
type Published struct {
	Bench  string `json:"bench,omitempty"`
	Person string `json:"person,omitempty"`
	Ready  string `json:"ready,omitempty"`
}

// Do is what a stretch is.
type Do string

// Split is what may interrupt hands.
type Split string

// What a stretch is, and what may interrupt one of hands.
const (
	Hands Do = "hands"
	Wait  Do = "wait"

	SplitNo      Split = "no"
	SplitBreak   Split = "break"   // absences within one date
	SplitClosing Split = "closing" // nights too
)

// Stretch is a part of a job's work.
type Stretch struct {
	Do       Do       `json:"do"`
	What     string   `json:"what,omitempty"`
	Minutes  hw.Dec   `json:"minutes"`
	Measured []hw.Dec `json:"measured,omitempty"` // minutes of earlier runs
	Aside    bool     `json:"aside,omitempty"`    // off the bench
	Open     bool     `json:"open,omitempty"`     // the machine is open at its end
	Split    Split    `json:"split,omitempty"`
	Alone    bool     `json:"alone,omitempty"` // a wait that may run with nobody in the building
}
