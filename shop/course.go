package shop

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/core/run"
	"yembo/store"
)

// course is what the history keeps of a job's course beside its words: where it went, what was
// consented to, whether something was agreed.
type course struct {
	To       string       `json:"to,omitempty"`
	Consents []hw.Consent `json:"consents,omitempty"`
	Agreed   bool         `json:"agreed,omitempty"`
	Proven   bool         `json:"proven,omitempty"`   // its proof was signed
	Hands    int64        `json:"hands_ms,omitempty"` // of a run that ended: how long hands were on it
}

// data is the course as an event keeps it, "" for nothing.
func (c course) data() string {
	raw, err := json.Marshal(c)
	if err != nil || string(raw) == "{}" {
		return ""
	}
	return string(raw)
}

// Where a job can be moved.
const (
	moveStart  = "start"
	movePause  = "pause"
	moveReady  = "ready"
	moveSafe   = "safe"
	moveClose  = "close"
	moveReopen = "reopen"
)

// Move is a change of where a job stands.
type Move struct {
	To    string // start, pause, customer, parts, ready, safe, close, reopen
	For   string // what is waited for, or what was done to make it safe
	Due   string // when parts are expected
	Bench int
	Out   bool   // the pack was taken out of the machine
	Why   string // why it goes on a bench all the same, where something stands against it
	Seen  string // where the job stood when it was looked at (State.Mark); "" for wherever it stands
}

// MoveJob changes where a job stands. The error is hw.Faults where that cannot be.
func (s *Shop) MoveJob(ctx context.Context, a Actor, token string, id int64, m Move) error {
	err := s.moveJob(ctx, a, token, id, m)
	if err == nil {
		s.tellRun(ctx, id)
	}
	return err
}

func (s *Shop) moveJob(ctx context.Context, a Actor, token string, id int64, m Move) error {
	return s.changeJob(ctx, a, token, id, func(tx store.Tx, row *store.Job, d *Details, st *State) (event, error) {
		switch {
		case st.Danger != "" && m.To != moveSafe && m.To != moveClose:
			return event{}, hw.Faults{{Pointer: "/to",
				Text: "nothing goes on before the machine is made safe: " + st.Danger}}
		case row.ClosedAt != nil && m.To != moveReopen:
			return event{}, hw.Faults{{Pointer: "/to", Text: "the job is closed; open it again first"}}
		case st.Proven != nil && m.To == moveStart:
			return event{}, hw.Faults{{Pointer: "/to", Text: alreadyProven}}
		case m.Seen != "" && m.Seen != st.Mark(row.ClosedAt):
			now, err := s.standsNow(tx, row, st)
			if err != nil {
				return event{}, err
			}
			return event{}, hw.Faults{{Pointer: "/to",
				Text: "somebody moved the job meanwhile: " + now + ". Nothing was changed; look, and say it again"}}
		}
		return s.moveTo(tx, a, row, st, m)
	})
}

// standsNow says where a job stands, in the words that the bench list has for it.
func (s *Shop) standsNow(tx store.Tx, row *store.Job, st *State) (string, error) {
	if row.ClosedAt != nil || st.Running != nil || st.Waits != "" {
		return st.words(row.ClosedAt), nil
	}
	record, err := machineRecord(&row.Machine, row)
	if err != nil {
		return "", err
	}
	lacks, err := s.lacks(tx)
	if err != nil {
		return "", err
	}
	next := Stand(record, lacks[row.ID], s.today())
	return "what is next is: " + hw.LowerFirst(next.Next), nil
}

// moveTo does the move.
func (s *Shop) moveTo(tx store.Tx, a Actor, row *store.Job, st *State, m Move) (event, error) {
	now := s.Now()
	told := event{kind: eventWork, data: course{To: m.To}.data()}
	var err error
	switch m.To {
	case moveStart:
		err = s.begin(tx, row, st, m, &told)
	case movePause, moveReady:
		st.become(State{})
		told.what = "ready to go on"
	case WaitsCustomer, WaitsParts:
		err = needText(m.For, "what it waits for")
		st.become(State{Waits: m.To, For: strings.TrimSpace(m.For), Due: m.Due, Since: now})
		told.kind, told.what = eventMoved, "waits for "+m.To+": "+st.For
	case moveSafe:
		if err = needText(m.For, "what was done"); err == nil {
			told.kind, told.what = eventMoved, "made safe: "+strings.TrimSpace(m.For)
			err = s.madeSafe(tx, row, m.Out, &told.what)
		}
		if err == nil {
			err = s.goOnSafely(tx, a, row, st, strings.TrimSpace(m.For))
		}
	case moveClose:
		st.become(State{Danger: st.Danger})
		row.ClosedAt = &now
		told.what = "closed"
		err = s.letGo(tx, a, row.ID)
	case moveReopen:
		row.ClosedAt = nil
		told.what = "opened again"
		if st.Proven == nil {
			err = s.reserveAgain(tx, a, row)
		} else if err = s.takeHandBack(tx, row.ID); err == nil {
			told.what = "the hand-over is taken back"
		}
	default:
		err = hw.Faults{{Pointer: "/to", Text: hw.Word(hw.FaultChoice, strconv.Quote(m.To),
			"start, pause, customer, parts, ready, safe, close, reopen")}}
	}
	return told, err
}

// needText is the fault of a text that has to be told and is not, or is too long.
func needText(text, want string) error {
	var faults hw.Faults
	if strings.TrimSpace(text) == "" {
		faults.Add("/for", hw.FaultMissing, "", want)
	} else if utf8.RuneCountInString(text) > maxText {
		faults.Add("/for", hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", maxText))
	}
	return faults.Err()
}

// begin puts a job on a bench, unless the bench is taken or something stands against it and nobody
// says why it goes on all the same.
func (s *Shop) begin(tx store.Tx, row *store.Job, st *State, m Move, told *event) error {
	taken, err := onBench(tx, m.Bench, row.ID)
	if err != nil {
		return err
	}
	if taken != "" {
		return hw.Faults{{Pointer: "/bench",
			Text: fmt.Sprintf("bench %d has %s on it: take that off first, or use the other", m.Bench, taken)}}
	}
	how, err := settings(tx)
	if err != nil {
		return err
	}
	if benches := how.FloorOf().Benches; m.Bench < 1 || m.Bench > benches {
		return hw.Faults{{Pointer: "/bench",
			Text: hw.Word(hw.FaultRange, fmt.Sprint(m.Bench), fmt.Sprintf("bench 1 to %d", benches))}}
	}
	record, err := machineRecord(&row.Machine, row)
	if err != nil {
		return err
	}
	lacks, err := s.lacks(tx)
	if err != nil {
		return err
	}
	now := s.Now()
	why := strings.TrimSpace(m.Why)
	stops := stopsOf(&record, lacks[row.ID], now)
	if len(stops) > 0 && why == "" {
		return hw.Faults{{Pointer: "/why", Text: "tell why it goes on all the same: " + stopWords(stops)}}
	}
	if utf8.RuneCountInString(why) > maxText {
		return hw.Faults{{Pointer: "/why", Text: hw.Word(hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", maxText))}}
	}
	st.become(State{Running: &now, Since: now, Bench: m.Bench})
	told.what = fmt.Sprintf("on bench %d", m.Bench)
	if len(stops) > 0 {
		st.Despite = why
		told.kind, told.what = eventMoved, told.what+" all the same ("+stopWords(stops)+"): "+why
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
	Consent hw.Consent // of a consent
	Lack    *Lack      // of a part
}

func stopWords(stops []Stop) string {
	words := make([]string, len(stops))
	for i := range stops {
		words[i] = stops[i].Says
	}
	return strings.Join(words, "; ")
}

// stopsOf lists what stands against opening a machine now.
func stopsOf(r *MachineRecord, lacks []Lack, now time.Time) []Stop {
	if !r.Closed.IsZero() {
		return nil
	}
	var out []Stop
	if !r.Details.Condition.Looked {
		out = append(out, Stop{Kind: StopLook, Says: "nobody has looked the machine over"})
	}
	for _, code := range r.openConsents() {
		out = append(out, Stop{Kind: StopConsent, Says: "consent is open: " + code.Row().Says, Consent: code})
	}
	ready := now // the earliest that all of it is here, as far as somebody said
	for i := range lacks {
		l := &lacks[i]
		out = append(out, Stop{Kind: StopPart, Says: fmt.Sprintf("%d × %s is not here", l.N, l.Name), Lack: l})
		if l.Order == nil { // what nobody ordered takes as long as its supplier says, from today on
			if r.Choice != nil {
				if days, known := r.Choice.Option.ReadyInDays.Get(); known && now.AddDate(0, 0, days).After(ready) {
					ready = now.AddDate(0, 0, days)
				}
			}
			continue
		}
		if due, err := time.ParseInLocation(time.DateOnly, l.Order.Due, now.Location()); err == nil && due.After(ready) {
			ready = due
		}
	}
	if r.Promised.IsZero() || r.Choice == nil {
		return out
	}
	if done := ready.Add(minutesOf(r.Choice.Option.Minutes) + minutesOf(copyingOf(&r.Choice.Option).Or(0))); done.After(r.Promised) {
		says := "the promise was for " + timeWords(r.Promised)
		if now.Before(r.Promised) {
			says = fmt.Sprintf("promised for %s, and done at %s at the earliest", timeWords(r.Promised), timeWords(done))
		}
		out = append(out, Stop{Kind: StopPromise, Says: says})
	}
	return out
}

// timeWords writes a time the way people say it.
func timeWords(t time.Time) string { return t.Format("Mon 2 Jan 15:04") }

// openConsents are the consents that the chosen option asks for and nobody gave.
func (r *MachineRecord) openConsents() []hw.Consent {
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
			return "", fmt.Errorf("the job %s: %w", Label(jobs[i].ID), err)
		}
		if jobs[i].ID != but && st.Running != nil && st.Bench == bench {
			return Label(jobs[i].ID) + ", " + jobs[i].Machine.Tag + ",", nil
		}
	}
	return "", nil
}

// goOnSafely lifts the stop of a job. One whose work is under way goes on where it was stopped,
// on its bench, and its run says what was done.
func (s *Shop) goOnSafely(tx store.Tx, a Actor, row *store.Job, st *State, done string) error {
	runs, err := tx.RunsOf(row.ID)
	if err != nil {
		return err
	}
	if len(runs) == 0 || runs[0].EndedAt != nil {
		st.become(State{})
		return nil
	}
	st.Danger = ""
	now := s.Now()
	return s.keepEvent(
		tx,
		runs[0].ID,
		&run.Event{Client: fmt.Sprintf("safe-%d", now.UnixNano()), Kind: run.MadeSafe, At: now, By: a.Name,
			Data: run.Data{Text: done}},
	)
}

// madeSafe takes the pack out of the machine's document where it left the machine. A
// swollen one that is still in goes on to stop every plan.
func (s *Shop) madeSafe(tx store.Tx, row *store.Job, out bool, what *string) error {
	if !out {
		return nil
	}
	*what += "; the pack is out"
	var m hw.Machine
	if err := json.Unmarshal(row.Machine.Doc, &m); err != nil {
		return err
	}
	m.Fitted.Battery = nil
	return s.saveMachine(tx, &row.Machine, &m)
}
