package proof

import (
	"slices"
	"strings"

	"yembo/core/hw"
)

// Measure is something that was measured before the work and after it.
type Measure struct {
	Name   string `json:"name"`
	Unit   string `json:"unit,omitempty"`
	Less   bool   `json:"less,omitempty"` // less is better
	Before Side   `json:"before,omitzero"`
	After  Side   `json:"after,omitzero"`
}

// Side is the runs of one side, all taken in one way.
type Side struct {
	Profile string   `json:"profile,omitempty"` // how it was measured: brightness, power mode, file
	Runs    []hw.Dec `json:"runs,omitempty"`
	On      string   `json:"on,omitempty"`
	By      string   `json:"by,omitempty"`
	From    From     `json:"from,omitempty"`
}

// From is what a measurement was taken with.
type From string

// What it can be taken with.
const (
	ByHand     From = "hand"
	FromMeter  From = "meter"
	FromReport From = "report"
)

// Froms is the table of them.
var Froms = hw.Vocabulary[From]{
	{Word: ByHand, Says: "by hand"},
	{Word: FromMeter, Says: "from the meter"},
	{Word: FromReport, Says: "from a report"},
}

// AskedBy are the measures that a wish asks for: what tells whether it was worth it, to be taken before
// the work too.
func AskedBy(g *hw.Goals) []Measure {
	var out []Measure
	if g.MemoryGB.IsKnown() {
		out = append(out, Measure{Name: "Memory in use at the peak", Unit: "%", Less: true})
	}
	if g.StorageGB.IsKnown() {
		out = append(out, Measure{Name: "Start to login", Unit: "s", Less: true}, Measure{Name: "Read, one large file", Unit: "MB/s"},
			Measure{Name: "Write, one large file", Unit: "MB/s"})
	}
	if g.RuntimeH.IsKnown() {
		out = append(out, Measure{Name: "Runtime", Unit: "h"})
	}
	if g.Wireless.IsKnown() {
		out = append(out, Measure{Name: "Over the air, one large file", Unit: "Mbit/s"})
	}
	return out
}

// Judged is what a measure shows.
type Judged string

// What it can show.
const (
	Better   Judged = "better"
	Worse    Judged = "worse"
	NoChange Judged = "none"    // the ranges overlap
	TooFew   Judged = "few"     // fewer than three runs on a side
	Other    Judged = "profile" // measured in two ways
	Waits    Judged = "waits"   // nothing was measured after
)

// Judgeds is what pages and reports call it.
var Judgeds = hw.Vocabulary[Judged]{
	{Word: Better, Says: "better"},
	{Word: Worse, Says: "worse"},
	{Word: NoChange, Says: "no difference shown"},
	{
		Word: TooFew,
		Says: "fewer than three runs a side: no judgement",
	},
	{Word: Other, Says: "not comparable: measured in two ways"},
	{Word: Waits, Says: "not measured after yet"},
}

// enoughRuns is how many runs a side needs for a judgement (docs/rules.md, Proof and hand-over).
const enoughRuns = 3

// Judgement is a measure judged. The medians are known where a side has a run.
type Judgement struct {
	Judged        Judged
	Before, After hw.Maybe[hw.Dec] // medians
	Percent       hw.Maybe[hw.Dec] // change of the median, to 0.1, where there is one to tell
	Odd           []string         // runs that lie far from the others of their side, in words
}

// Judge judges a measure: by the medians where the ranges of the runs do not overlap, with the change
// in per cent of the median before.
func (m *Measure) Judge() Judgement {
	j := Judgement{Before: m.Before.Median(), After: m.After.Median(), Odd: append(m.Before.odd("before"), m.After.odd("after")...)}
	before, had := j.Before.Get()
	after, has := j.After.Get()
	switch {
	case !has:
		j.Judged = Waits
		return j
	case !had || len(m.Before.Runs) < enoughRuns || len(m.After.Runs) < enoughRuns:
		j.Judged = TooFew
		return j
	case m.Before.Profile != m.After.Profile:
		j.Judged = Other
		return j
	case slices.Min(m.After.Runs) <= slices.Max(m.Before.Runs) && slices.Min(m.Before.Runs) <= slices.Max(m.After.Runs):
		j.Judged = NoChange
		return j
	}
	if j.Judged = Worse; after > before != m.Less {
		j.Judged = Better
	}
	if before > 0 {
		j.Percent = hw.Known(percent(after-before, before))
	}
	return j
}

// percent is a share of a whole in per cent, to 0.1, half away from nought.
func percent(part, whole hw.Dec) hw.Dec {
	sign := hw.Dec(1)
	if part < 0 {
		sign, part = -1, -part
	}
	tenths := (int64(part)*2000 + int64(whole)) / (2 * int64(whole))
	return sign * hw.DecOf(int(tenths)) / 10
}

// Median is the middle of the runs, of two in the middle their mean.
func (s *Side) Median() hw.Maybe[hw.Dec] {
	n := len(s.Runs)
	if n == 0 {
		return hw.Maybe[hw.Dec]{}
	}
	sorted := slices.Sorted(slices.Values(s.Runs))
	if n%2 == 1 {
		return hw.Known(sorted[n/2])
	}
	return hw.Known((sorted[n/2-1] + sorted[n/2]) / 2)
}

// odd names the runs that are more than twice or less than half the median of their side: a typing
// error more often than a measurement.
func (s *Side) odd(side string) []string {
	median, ok := s.Median().Get()
	if !ok || len(s.Runs) < enoughRuns {
		return nil
	}
	var out []string
	for _, r := range s.Runs {
		if r > 2*median || 2*r < median {
			out = append(out, side+" "+r.String())
		}
	}
	return out
}

// Check adds what cannot be of a measure.
func (m *Measure) Check(faults *hw.Faults) {
	for pointer, side := range map[string]*Side{"/before": &m.Before, "/after": &m.After} {
		if side.From != "" && Froms.Index(side.From) < 0 {
			faults.Add(pointer, hw.FaultChoice, string(side.From), strings.Join(Froms.Words(), ", "))
		}
	}
	if m.Name == "" {
		faults.Add("/name", hw.FaultMissing, "", "what was measured")
	}
	for pointer, side := range map[string]*Side{"/before": &m.Before, "/after": &m.After} {
		if len(side.Runs) > 50 {
			faults.Add(pointer, hw.FaultRange, "the runs", "at most 50")
		}
		for _, r := range side.Runs {
			if r < 0 || r > hw.DecOf(1_000_000) {
				faults.Add(pointer, hw.FaultRange, r.String(), "0 to 1 000 000")
			}
		}
	}
}
