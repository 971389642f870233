package jobs

import (
	"encoding/json"
	"slices"
	"time"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/shop/stock"
	"yembo/store"
)

// Trail is a job's life in time: what it waited for and when somebody worked on it, and the
// stations that it passes.
type Trail struct {
	From, Until time.Time // from when it was taken in to now, or to when it was closed
	Spans       []Span    // one after the other, without a gap
	Stations    []Station
	Spent       map[SpanKind]time.Duration // they add up to the whole
	Hands       time.Duration              // that hands were on it, by the runs that ended; 0 where none did
}

// SpanKind is what a stretch of a job's life was spent on.
type SpanKind string

// The kinds of spans.
const (
	SpanBench    SpanKind = "bench"    // hands on it
	SpanCustomer SpanKind = "customer" // waits for the customer
	SpanParts    SpanKind = "parts"    // waits for parts
	SpanShop     SpanKind = "shop"     // waits for somebody here
)

// Span is a stretch of a job's life.
type Span struct {
	Kind     SpanKind
	From, To time.Time
}

// StationID names a station.
type StationID string

// The stations, in their order.
const (
	StationIn      StationID = "in"
	StationRead    StationID = "read"
	StationPlanned StationID = "planned"
	StationAgreed  StationID = "agreed"
	StationParts   StationID = "parts"
	StationOpened  StationID = "opened"
	StationProven  StationID = "proven"
	StationOut     StationID = "out"
)

// Stations is the table of stations: what pages call them.
var Stations = hw.Vocabulary[StationID]{
	{Word: StationIn, Says: "Taken in"}, {Word: StationRead, Says: "Reading taken"}, {Word: StationPlanned, Says: "Planned"},
	{Word: StationAgreed, Says: "Agreed"}, {Word: StationParts, Says: "Parts here"},
	{Word: StationOpened, Says: "Opened"}, {Word: StationProven, Says: "Signed off"}, {Word: StationOut, Says: "Handed over"},
}

// Station is a place on a job's way. At is zero where it was not passed.
type Station struct {
	ID   StationID
	At   time.Time
	By   string
	Open bool // the job stands here
}

// Says is what pages call a station.
func (s *Station) Says() string { return Stations.Says(s.ID) }

// moment is something that changed what a job waits for.
type moment struct {
	at time.Time
	by string
	Course
	chosen bool
	part   string // of which more or fewer are held or fitted
	n      int
}

// moments are all that happened to a job in the order in which it did.
func (j *JobRecord) moments(moved []store.Movement) []moment {
	var out []moment
	for i := len(j.History) - 1; i >= 0; i-- { // the newest stands first
		c := &j.History[i]
		if c.JobID != j.JobID || c.Data == "" || c.Event == base.EventLine {
			continue
		}
		m := moment{at: c.At, by: c.By}
		if json.Unmarshal([]byte(c.Data), &m.Course) == nil {
			out = append(out, m)
		}
	}
	if j.Choice != nil {
		out = append(out, moment{at: j.ChosenAt, by: j.ChosenBy, chosen: true})
	}
	for i := range moved {
		out = append(out, moment{at: moved[i].At, by: moved[i].By, part: moved[i].PartID, n: heldBy(&moved[i])})
	}
	slices.SortStableFunc(out, func(a, b moment) int {
		if c := a.at.Compare(b.at); c != 0 || a.chosen == b.chosen {
			return c
		}
		if a.chosen { // a quote that is accepted chooses and agrees at once
			return -1
		}
		return 1
	})
	return out
}

// standing is what is known of a job at a moment, as far as it says what it waits for.
type standing struct {
	to      string // where it was moved last, "" or moveReady for nowhere
	chosen  bool
	open    []hw.Consent // asked for by the option and not given
	missing map[string]int
}

func (st *standing) lacks() bool {
	for _, n := range st.missing {
		if n > 0 {
			return true
		}
	}
	return false
}

func (st *standing) kind() SpanKind {
	switch {
	case st.to == MoveStart:
		return SpanBench
	case st.to == WaitsCustomer, st.to == MoveAway:
		return SpanCustomer
	case st.to == WaitsParts:
		return SpanParts
	case st.chosen && len(st.open) > 0:
		return SpanCustomer
	case st.chosen && st.lacks():
		return SpanParts
	}
	return SpanShop
}

// trail reads a job's life out of its history and what was moved for it.
func (j *JobRecord) trail(moved []store.Movement, now time.Time) Trail {
	t := Trail{From: j.TakenIn, Until: now, Spent: map[SpanKind]time.Duration{}}
	if !j.Closed.IsZero() {
		t.Until = j.Closed
	}
	if t.Until.Before(t.From) { // the clock was set back since
		t.Until = t.From
	}
	all := j.moments(moved)
	st := standing{missing: map[string]int{}}
	if j.Choice != nil {
		st.open = slices.Clone(j.Choice.Option.Consents)
		for _, b := range j.Choice.Option.Buy {
			st.missing[b.Part] += b.Quantity
		}
		j.dropUncounted(st.missing, moved)
	}
	given := slices.Clone(j.Details.Consents) // those that no talk gave were given when it was taken in
	for i := range all {
		given = slices.DeleteFunc(given, func(c hw.Consent) bool { return slices.Contains(all[i].Consents, c) })
	}
	st.give(given)
	passed := map[StationID]Station{}
	pass := func(id StationID, at time.Time, by string) {
		if _, before := passed[id]; !before {
			passed[id] = Station{ID: id, At: at, By: by}
		}
	}
	from, kind := t.From, st.kind()
	for i := range all {
		m := &all[i]
		t.Hands += time.Duration(m.Hands) * time.Millisecond
		if m.To != "" {
			st.to = m.To
		}
		st.chosen = st.chosen || m.chosen
		st.give(m.Consents)
		if _, asked := st.missing[m.part]; asked {
			st.missing[m.part] -= m.n
		}
		if st.chosen && len(st.open) == 0 && (m.Agreed || len(m.Consents) > 0) {
			pass(StationAgreed, m.at, m.by)
		}
		if st.chosen && !st.lacks() {
			pass(StationParts, m.at, m.by)
		}
		if m.To == MoveStart {
			pass(StationOpened, m.at, m.by)
		}
		if m.Proven {
			pass(StationProven, m.at, m.by)
		}
		if next := st.kind(); next != kind {
			t.span(kind, from, m.at)
			from, kind = m.at, next
		}
	}
	t.span(kind, from, t.Until)
	pass(StationIn, j.TakenIn, j.takenBy())
	// The first reading counts, and none that was taken to prove the work.
	opened := passed[StationOpened].At
	first := -1
	for i := range j.Readings {
		if r := &j.Readings[i]; r.JobID == j.JobID && (first < 0 || r.At.Before(j.Readings[first].At)) {
			first = i
		}
	}
	if first >= 0 && (opened.IsZero() || j.Readings[first].At.Before(opened)) {
		pass(StationRead, j.Readings[first].At, j.Readings[first].By)
	}
	if j.Choice != nil {
		pass(StationPlanned, j.ChosenAt, j.ChosenBy)
	}
	if !j.Closed.IsZero() {
		pass(StationOut, j.Closed, j.movedBy(MoveClose))
	}
	at := j.stationAt(&st)
	for _, row := range Stations {
		x := passed[row.Word]
		x.ID, x.Open = row.Word, row.Word == at
		t.Stations = append(t.Stations, x)
	}
	return t
}

func (st *standing) give(consents []hw.Consent) {
	st.open = slices.DeleteFunc(st.open, func(c hw.Consent) bool { return slices.Contains(consents, c) })
}

// dropUncounted leaves out what nobody counts: it was never moved for the job, and is not lacking.
func (j *JobRecord) dropUncounted(missing map[string]int, moved []store.Movement) {
	for part, n := range missing {
		for i := range moved {
			if m := &moved[i]; m.PartID == part && (j.Closed.IsZero() || m.At.Before(j.Closed)) {
				n -= heldBy(m)
			}
		}
		lacking := slices.ContainsFunc(j.Lacks, func(l stock.Lack) bool { return l.Part == part })
		if n > 0 && !lacking {
			delete(missing, part)
		}
	}
}

// heldBy is how many more pieces a job has by a movement: what is fitted is no longer held, and is
// here all the same.
func heldBy(m *store.Movement) int {
	if k := stock.MoveKind(m.Kind); k == stock.Fitted || k == stock.Unfitted {
		return m.Held - m.Shelf
	}
	return m.Held
}

// span adds a stretch, unless it is none.
func (t *Trail) span(kind SpanKind, from, to time.Time) {
	if from.Before(t.From) {
		from = t.From
	}
	if to.After(t.Until) {
		to = t.Until
	}
	if !to.After(from) {
		return
	}
	t.Spans = append(t.Spans, Span{kind, from, to})
	t.Spent[kind] += to.Sub(from)
}

// stationAt is the station that a job stands at, "" for a closed one.
func (j *JobRecord) stationAt(st *standing) StationID {
	switch {
	case !j.Closed.IsZero():
		return ""
	case st.to == MoveStart:
		return StationOpened
	case j.Choice == nil:
		return StationPlanned
	case len(st.open) > 0:
		return StationAgreed
	case st.lacks():
		return StationParts
	}
	return StationOpened
}

// takenBy is who took the machine in.
func (j *JobRecord) takenBy() string {
	for i := len(j.History) - 1; i >= 0; i-- {
		if j.History[i].JobID == j.JobID {
			return j.History[i].By
		}
	}
	return ""
}

// movedBy is who moved the job there last.
func (j *JobRecord) movedBy(to string) string {
	for i := range j.History {
		var c Course
		if x := &j.History[i]; x.JobID == j.JobID && x.Data != "" && json.Unmarshal([]byte(x.Data), &c) == nil && c.To == to {
			return x.By
		}
	}
	return ""
}
