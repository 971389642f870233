package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/core/run"
	"yembo/core/week"
	"yembo/shop/base"
	"yembo/shop/stock"
	"yembo/store"
)

// Course is what the history keeps of a job's course beside its words: where it went, what was
// consented to, whether something was agreed.
type Course struct {
	To       string       `json:"to,omitempty"`
	Consents []hw.Consent `json:"consents,omitempty"`
	Agreed   bool         `json:"agreed,omitempty"`
	Proven   bool         `json:"proven,omitempty"`   // its proof was signed
	Hands    int64        `json:"hands_ms,omitempty"` // of a run that ended: how long hands were on it
}

// Data is the course as an event keeps it, "" for nothing.
func (c Course) Data() string {
	raw, err := json.Marshal(c)
	if err != nil || string(raw) == "{}" {
		return ""
	}
	return string(raw)
}

// Where a job can be moved.
const (
	MoveStart  = "start"
	MovePause  = "pause"
	MoveReady  = "ready"
	MoveSafe   = "safe"
	MoveClose  = "close"
	MoveReopen = "reopen"
	MoveAway   = "away" // the machine is not here yet, or goes back to its customer for a while
	MoveHere   = "here"
)

// Move is a change of where a job stands.
type Move struct {
	To    string   // start, pause, customer, parts, ready, safe, close, reopen, away, here
	For   string   // what is waited for, or what was done to make it safe
	Due   base.Due // when what is waited for is expected
	Bench int
	Out   bool   // the pack was taken out of the machine
	Why   string // why it goes on a bench all the same, where something stands against it
	Seen  string // where the job stood when it was looked at (State.Mark); "" for wherever it stands
}

// MoveJob changes where a job stands. The error is hw.Faults where that cannot be.
func (s *Jobs) MoveJob(ctx context.Context, a base.Actor, token string, id int64, m Move) error {
	err := s.moveJob(ctx, a, token, id, m)
	if err == nil {
		s.Runs.TellRun(ctx, id)
	}
	return err
}

func (s *Jobs) moveJob(ctx context.Context, a base.Actor, token string, id int64, m Move) error {
	return s.ChangeJob(ctx, a, token, id, func(tx store.Tx, row *store.Job, d *Details, st *State) (base.Event, error) {
		switch {
		case st.Danger != "" && m.To != MoveSafe && m.To != MoveClose:
			return base.Event{}, hw.Faults{{Pointer: "/to",
				Text: "nothing goes on before the machine is made safe: " + st.Danger}}
		case row.ClosedAt != nil && m.To != MoveReopen:
			return base.Event{}, hw.Faults{{Pointer: "/to", Text: "the job is closed; open it again first"}}
		case st.Proven != nil && m.To == MoveStart:
			return base.Event{}, hw.Faults{{Pointer: "/to", Text: AlreadyProven}}
		case m.Seen != "" && m.Seen != st.Mark(row.ClosedAt):
			now, err := s.standsNow(tx, row, st)
			if err != nil {
				return base.Event{}, err
			}
			return base.Event{}, hw.Faults{{Pointer: "/to",
				Text: "someone else changed the job: " + now + ". Nothing was changed; check and try again"}}
		}
		return s.moveTo(tx, a, row, st, m)
	})
}

// standsNow says where a job stands, in the words that the bench list has for it.
func (s *Jobs) standsNow(tx store.Tx, row *store.Job, st *State) (string, error) {
	if row.ClosedAt != nil || st.Running != nil || st.Waits != "" {
		return st.words(row.ClosedAt), nil
	}
	record, err := ReadMachine(&row.Machine, row)
	if err != nil {
		return "", err
	}
	lacks, err := s.LacksIn(tx)
	if err != nil {
		return "", err
	}
	next := Stand(record, lacks[row.ID], s.Now())
	return "what is next is: " + hw.LowerFirst(next.Next), nil
}

// moveTo does the move.
func (s *Jobs) moveTo(tx store.Tx, a base.Actor, row *store.Job, st *State, m Move) (base.Event, error) {
	now := s.Now()
	told := base.Event{Kind: base.EventWork, Data: Course{To: m.To}.Data()}
	var err error
	switch m.To {
	case MoveStart:
		err = s.BeginOn(tx, row, st, m, &told)
	case MovePause, MoveReady:
		st.Become(State{})
		told.What = "ready to go on"
	case WaitsCustomer, WaitsParts:
		err = needText(m.For, "what it waits for")
		st.Become(State{Waits: m.To, For: strings.TrimSpace(m.For), Due: m.Due, Since: now})
		told.Kind, told.What = base.EventMoved, "waits for "+m.To+": "+st.For
	case MoveAway:
		if st.Running != nil || st.Worked != nil {
			return told, hw.Faults{{Pointer: "/to", Text: "the work on it has begun: it is here"}}
		}
		st.Away = &Away{m.Due}
		told.What = st.Away.Words(now)
	case MoveHere:
		if st.Away == nil {
			return told, hw.Faults{{Pointer: "/to", Text: "the machine is here already"}}
		}
		st.Away = nil
		told.What, told.Data = "the machine is here", Course{To: base.OrWord(st.Waits, MoveHere)}.Data() // it goes on as before
	case MoveSafe:
		if err = needText(m.For, "what was done"); err == nil {
			told.Kind, told.What = base.EventMoved, "made safe: "+strings.TrimSpace(m.For)
			err = s.madeSafe(tx, row, m.Out, &told.What)
		}
		if err == nil {
			err = s.goOnSafely(tx, a, row, st, strings.TrimSpace(m.For))
		}
	case MoveClose:
		st.Become(State{Danger: st.Danger})
		row.ClosedAt = &now
		told.What = "closed"
		err = s.LetGo(tx, a, row.ID)
	case MoveReopen:
		if row.ClosedAt == nil {
			return told, hw.Faults{{Pointer: "/to", Text: "the job is open already"}}
		}
		row.ClosedAt = nil
		told.What = "opened again"
		if st.Proven == nil {
			err = s.ReserveAgain(tx, a, row)
		} else if err = s.takeHandBack(tx, row.ID); err == nil {
			told.What = "the hand-over is taken back"
		}
	default:
		err = hw.Faults{{Pointer: "/to", Text: hw.Word(hw.FaultChoice, strconv.Quote(m.To),
			"start, pause, customer, parts, ready, safe, close, reopen, away, here")}}
	}
	return told, err
}

// needText is the fault of a text that has to be told and is not, or is too long.
func needText(text, want string) error {
	var faults hw.Faults
	if strings.TrimSpace(text) == "" {
		faults.Add("/for", hw.FaultMissing, "", want)
	} else if utf8.RuneCountInString(text) > base.MaxText {
		faults.Add("/for", hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))
	}
	return faults.Err()
}

// BeginOn puts a job on a bench, unless the bench is taken or something stands against it and nobody
// says why it goes on all the same.
func (s *Jobs) BeginOn(tx store.Tx, row *store.Job, st *State, m Move, told *base.Event) error {
	taken, err := onBench(tx, m.Bench, row.ID)
	if err != nil {
		return err
	}
	if taken != "" {
		return hw.Faults{{Pointer: "/bench",
			Text: fmt.Sprintf("bench %d is in use by %s: free it, or choose another bench", m.Bench, taken)}}
	}
	if st.Away != nil {
		return hw.Faults{{Pointer: "/to", Text: "the machine is not here yet: say that it has come first"}}
	}
	c, err := s.CalendarIn(tx)
	if err != nil {
		return err
	}
	if benches := c.How.FloorOf().Benches; m.Bench < 1 || m.Bench > benches {
		return hw.Faults{{Pointer: "/bench",
			Text: hw.Word(hw.FaultRange, fmt.Sprint(m.Bench), fmt.Sprintf("bench 1 to %d", benches))}}
	}
	record, err := ReadMachine(&row.Machine, row)
	if err != nil {
		return err
	}
	lacks, err := s.LacksIn(tx)
	if err != nil {
		return err
	}
	now := s.Now()
	why := strings.TrimSpace(m.Why)
	stops := StopsOf(&record, lacks[row.ID], &c)
	if len(stops) > 0 && why == "" {
		return hw.Faults{{Pointer: "/why", Text: "say why it starts anyway: " + stopWords(stops)}}
	}
	if utf8.RuneCountInString(why) > base.MaxText {
		return hw.Faults{{Pointer: "/why", Text: hw.Word(hw.FaultRange, "the text", fmt.Sprintf("at most %d characters",
			base.MaxText))}}
	}
	st.Become(State{Running: &now, Since: now, Bench: m.Bench})
	told.What = fmt.Sprintf("on bench %d", m.Bench)
	if len(stops) > 0 {
		st.Despite = why
		told.Kind, told.What = base.EventMoved, told.What+" anyway ("+stopWords(stops)+"): "+why
	}
	return nil
}

// StopKind is what stands against opening a machine.
type StopKind string

// The kinds of stops, in the order in which they are told.
const (
	StopLook    StopKind = "look"    // nobody looked at the machine
	StopConsent StopKind = "consent" // the plan asks for it, and nobody gave it
	StopPart    StopKind = "part"    // it is not here
	StopPromise StopKind = "promise" // it cannot be kept any more
)

// Stop is one thing that stands against putting a job on a bench. Danger is none of them: that
// stops everything, whatever is said.
type Stop struct {
	Kind    StopKind
	Says    string
	Consent hw.Consent  // of a consent
	Lack    *stock.Lack // of a part
}

func stopWords(stops []Stop) string {
	words := make([]string, len(stops))
	for i := range stops {
		words[i] = stops[i].Says
	}
	return strings.Join(words, "; ")
}

// StopsOf lists what stands against opening a machine now.
func StopsOf(r *MachineRecord, lacks []stock.Lack, c *Calendar) []Stop {
	now := c.Now
	if !r.Closed.IsZero() {
		return nil
	}
	var out []Stop
	if !r.Details.Condition.Looked {
		out = append(out, Stop{Kind: StopLook, Says: "machine not inspected"})
	}
	for _, code := range r.OpenConsents() {
		out = append(out, Stop{Kind: StopConsent, Says: "consent is open: " + code.Row().Says, Consent: code})
	}
	var comes base.Due // when the last parts come, as far as that was said
	for i := range lacks {
		l := &lacks[i]
		out = append(out, Stop{Kind: StopPart, Says: fmt.Sprintf("%d × %s is not here", l.N, l.Name), Lack: l})
		if l.Order == nil { // what nobody ordered takes as long as its supplier says, from today on
			if r.Choice != nil {
				if days, known := r.Choice.Option.ReadyInDays.Get(); known {
					comes = comes.Later(base.DueAt(now.AddDate(0, 0, days), false))
				}
			}
			continue
		}
		comes = comes.Later(l.Order.Due)
	}
	if r.Promised.IsZero() || r.Choice == nil {
		return out
	}
	switch done, without := earliest(r, c, comes); {
	case without == week.Blocked: // when the machine comes is not known
	case without != "":
		out = append(out, Stop{Kind: StopPromise, Says: week.NoPlaces.Says(without)})
	case done.After(r.Promised):
		says := "the promise was for " + base.TimeWords(r.Promised)
		if now.Before(r.Promised) {
			says = fmt.Sprintf("promised for %s, and ready %s at the earliest", base.TimeWords(r.Promised), base.TimeWords(done))
		}
		out = append(out, Stop{Kind: StopPromise, Says: says})
	}
	return out
}

// OpenConsents are the consents that the chosen option asks for and nobody gave.
func (r *MachineRecord) OpenConsents() []hw.Consent {
	if r.Choice == nil {
		return nil
	}
	var out []hw.Consent
	for _, code := range r.Choice.Option.Consents {
		if !slices.Contains(r.Details.Consents, code) {
			out = append(out, code)
		}
	}
	return out
}

// onBench names the job that runs on a bench beside this one, "" where the bench is free.
func onBench(tx store.Tx, bench int, but int64) (string, error) {
	jobs, err := tx.OpenJobs()
	if err != nil {
		return "", err
	}
	for i := range jobs {
		var st State
		if err := json.Unmarshal(jobs[i].State, &st); err != nil {
			return "", fmt.Errorf("the job %s: %w", base.Label(jobs[i].ID), err)
		}
		if jobs[i].ID != but && st.Running != nil && st.Bench == bench {
			return base.Label(jobs[i].ID) + ", " + jobs[i].Machine.Tag, nil
		}
	}
	return "", nil
}

// goOnSafely lifts the stop of a job. One whose work is under way goes on where it was stopped,
// on its bench, and its run says what was done.
func (s *Jobs) goOnSafely(tx store.Tx, a base.Actor, row *store.Job, st *State, done string) error {
	runs, err := tx.RunsOf(row.ID)
	if err != nil {
		return err
	}
	if len(runs) == 0 || runs[0].EndedAt != nil {
		st.Become(State{})
		return nil
	}
	st.Danger = ""
	now := s.Now()
	return s.Runs.KeepEvent(
		tx,
		runs[0].ID,
		&run.Event{Client: fmt.Sprintf("safe-%d", now.UnixNano()), Kind: run.MadeSafe, At: now, By: a.Name,
			Data: run.Data{Text: done}},
	)
}

// madeSafe takes the pack out of the machine's document where it left the machine. A
// swollen one that is still in goes on to stop every plan.
func (s *Jobs) madeSafe(tx store.Tx, row *store.Job, out bool, what *string) error {
	if !out {
		return nil
	}
	*what += "; the pack is out"
	var m hw.Machine
	if err := json.Unmarshal(row.Machine.Doc, &m); err != nil {
		return err
	}
	m.Fitted.Battery = nil
	return s.SaveMachineIn(tx, &row.Machine, &m)
}

// Arrived makes a job ready that waited for parts and has them all.
func (s *Jobs) Arrived(tx store.Tx, a base.Actor, job int64) error {
	all, err := stock.Wants(tx)
	if err != nil {
		return err
	}
	for i := range all {
		if all[i].Job.ID == job && all[i].Missing() > 0 {
			return nil
		}
	}
	row, err := tx.Job(job)
	if err != nil {
		return err
	}
	var st State
	if err := json.Unmarshal(row.State, &st); err != nil {
		return err
	}
	if st.Waits != WaitsParts {
		return nil
	}
	st.Become(State{Danger: st.Danger})
	if row.State, err = json.Marshal(st); err != nil {
		return err
	}
	row.UpdatedAt = s.Now()
	row.Version++
	if err := tx.SaveJob(&row, row.Version-1); err != nil {
		return err
	}
	return s.NoteEvent(tx, a, base.KindMachine, row.MachineID,
		base.Event{What: base.Label(job) + ": its parts are here, ready to go on", Kind: base.EventWork,
			Data: Course{To: MoveReady}.Data(), Job: job},
		nil)
}

// DangerIn is why nothing goes on before the machine is made safe: what stopped the job, or a swollen pack that is in it.
func DangerIn(st *State, m *hw.Machine) string {
	if st.Danger == "" && m.Fitted.Battery != nil && m.Fitted.Battery.Swollen.Or(false) {
		return "battery swollen"
	}
	return st.Danger
}

// Danger is why nothing goes on before the machine is made safe, "" where it does.
func (r *MachineRecord) Danger() string {
	if r.JobID == 0 {
		return DangerIn(&State{}, r.Machine)
	}
	return DangerIn(&r.State, r.Machine)
}

// PackNotSound begins the danger of a job that was stopped at the bench.
const PackNotSound = "pack not sound: "

// PackDanger reports whether what stops a job is its pack.
func PackDanger(danger string) bool { return strings.HasPrefix(danger, "pack ") }
