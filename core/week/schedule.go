package week

// Schedule is the answer: who does what, where and when.
type Schedule struct {
	Format    string     `json:"format"`
	Now       string     `json:"now"`
	Exact     bool       `json:"exact"` // no schedule is better
	Bound     *Bound     `json:"bound,omitempty"`
	Objective Objective  `json:"objective"`
	Jobs      []Planned  `json:"jobs"`
	Offers    []Offer    `json:"offers"`
	Unplaced  []Unplaced `json:"unplaced"`
	Refused   []Refused  `json:"pins_refused"`
	Tell      []Tell     `json:"tell"`
}

// Bound is what no schedule goes below.
type Bound struct {
	Broken int `json:"broken"`
	Late   int `json:"late_min"`
}

// Objective is how good a schedule is, the first figure first: less is better.
type Objective struct {
	Danger   int `json:"danger_min"`      // from now to each danger's first start
	Broken   int `json:"broken"`          // weights of promises that are broken
	Late     int `json:"late_min"`        // open minutes past them
	AtRisk   int `json:"at_risk"`         // weights of promises with less than their margin
	Quarters int `json:"finish_quarters"` // open quarters of an hour from now to each ready
	Changes  int `json:"changes"`         // jobs elsewhere or later than published
	Against  int `json:"against"`         // benches and people other than preferred
}

// State says whether a promise holds.
type State string

// States of a promise.
const (
	Kept   State = "kept"
	AtRisk State = "at_risk"
	Broken State = "broken"
	None   State = "none"
)

// Planned is a job's place.
type Planned struct {
	ID        string   `json:"id"`
	Bench     string   `json:"bench"`
	Person    string   `json:"person"`
	Ready     string   `json:"ready"`
	Margin    int      `json:"margin_min"`
	Stretches []Span   `json:"stretches"`
	Promise   State    `json:"promise"`
	Slack     *int     `json:"slack_min,omitempty"`
	Late      *int     `json:"late_min,omitempty"`
	Honest    string   `json:"honest"`
	Why       []Reason `json:"why"`
}

// Span is from when to when.
type Span struct {
	Start string `json:"start"`
	End   string `json:"end"`
}

// ReasonCode is why a job is not ready earlier.
type ReasonCode string

// The codes of reasons.
const (
	WhyStarted ReasonCode = "started"
	WhyNow     ReasonCode = "now"
	WhyArrival ReasonCode = "arrival"
	WhyLook    ReasonCode = "look"
	WhyMachine ReasonCode = "machine"
	WhyPin     ReasonCode = "pin"
	WhyBench   ReasonCode = "bench"
	WhyPerson  ReasonCode = "person"
	WhyDay     ReasonCode = "day"
	WhyHours   ReasonCode = "hours"
	WhyHands   ReasonCode = "hands"
	WhyWait    ReasonCode = "wait"
	WhyOpening ReasonCode = "opening"
	WhyMargin  ReasonCode = "margin"
	WhyRound   ReasonCode = "round"
)

// Reason is one of the reasons of a job, in order; At is until when it held.
type Reason struct {
	Code    ReasonCode `json:"code"`
	At      string     `json:"at"`
	Arrival string     `json:"arrival,omitempty"`
	Job     string     `json:"job,omitempty"`
	Stretch *int       `json:"stretch,omitempty"`
	Min     *int       `json:"min,omitempty"`
}

// Offer is a place for a new job, with what can be promised.
type Offer struct {
	Job     string `json:"job"`
	Bench   string `json:"bench"`
	Person  string `json:"person"`
	Start   string `json:"start"`
	Ready   string `json:"ready"`
	Promise string `json:"promise"`
}

// NoPlace is why a job has no place.
type NoPlace string

// Why a job has no place.
const (
	Blocked        NoPlace = "blocked"
	ArrivalUnknown NoPlace = "arrival_unknown"
	NeverFits      NoPlace = "never_fits"
)

// Unplaced is a job that has no place, and why.
type Unplaced struct {
	Job     string  `json:"job"`
	Code    NoPlace `json:"code"`
	Arrival string  `json:"arrival,omitempty"`
}

// PinCode is why a pin cannot stand.
type PinCode string

// Why a pin cannot stand.
const (
	PinArrival PinCode = "arrival"
	PinPast    PinCode = "past"
	PinMachine PinCode = "machine"
	PinHours   PinCode = "hours"
	PinOverlap PinCode = "overlap"
)

// Refused is a pin that cannot stand, and why.
type Refused struct {
	Job  string  `json:"job"`
	Code PinCode `json:"code"`
}

// TellCode is what has to be told.
type TellCode string

// What has to be told.
const (
	TellDanger    TellCode = "danger.first"
	TellBroken    TellCode = "promise.broken"
	TellTooLate   TellCode = "arrival.too_late"
	TellAtRisk    TellCode = "promise.at_risk"
	TellOvernight TellCode = "open.overnight"
	TellAsk       TellCode = "arrival.ask"
	TellBlocked   TellCode = "blocked.ask"
	TellNever     TellCode = "never_fits"
)

// Tell is what somebody has to be told.
type Tell struct {
	Job     string   `json:"job"`
	To      string   `json:"to"` // customer, supplier, shop, person:ID, or whom a job is blocked by
	Code    TellCode `json:"code"`
	At      string   `json:"at,omitempty"`
	Arrival string   `json:"arrival,omitempty"`
}
