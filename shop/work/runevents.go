package work

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/run"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/store"
)

// SentEvent is an event as a bench page sends it. Ago is how long before the sending it
// happened, by the page's own clock: clocks of tablets are not trusted, stretches are.
type SentEvent struct {
	Client string
	Run    int64 // the run that it happened in, 0 for whichever is under way
	Kind   run.EventKind
	Step   string
	Ago    time.Duration
	Data   run.Data
	By     string // who was at the screen then, "" for whoever sends it
}

// Refusal is an event that was not taken, and why. It changed nothing. One that came after its
// run had ended is kept as a note of that run.
type Refusal struct {
	Client string
	Kept   bool
	Says   []string
	Bars   []run.Bar
}

// most events of one run, and of one sending.
const (
	mostRunEvents = 5000
	mostSent      = 500
	mostClient    = 64
)

// RunEvents takes what happened at the bench, in its order and in one transaction. An event
// whose client's name was taken before is the same event, and is passed over. What cannot be
// is refused and changes nothing; the others are taken all the same.
func (s *Hands) RunEvents(ctx context.Context, a base.Actor, job int64, sent []SentEvent) ([]Refusal, error) {
	var refused []Refusal
	if len(sent) > mostSent {
		return nil, hw.Faults{{Pointer: "/step", Text: fmt.Sprintf("more than %d events at once", mostSent)}}
	}
	var id int64
	err := s.Store.Update(ctx, func(tx store.Tx) error {
		refused = nil
		row, err := s.runOf(tx, job)
		if err != nil {
			return err
		}
		id = row.ID
		r, err := s.runAt(ctx, tx, &row)
		if err != nil {
			return err
		}
		events := make([]run.Event, len(r.Events))
		for i := range r.Events {
			events[i] = r.Events[i].Event
		}
		t := &runTaker{s: s, tx: tx, a: a, row: &row, job: job, events: events, state: r.State}
		for i := range sent {
			take := t.take
			if of := sent[i].Run; of != 0 && of != row.ID || row.EndedAt != nil {
				take = t.late
			}
			says, err := take(ctx, &sent[i])
			if err != nil {
				return err
			}
			if says != nil {
				refused = append(refused, *says)
			}
		}
		return nil
	})
	if err == nil && len(sent) > len(refused) {
		s.runs.told(id)
	}
	return refused, err
}

// runTaker takes events into a run, one after the other.
type runTaker struct {
	s      *Hands
	tx     store.Tx
	a      base.Actor
	row    *store.Run
	job    int64
	events []run.Event
	state  *run.State
}

// take takes one event; it returns why it was refused, nil where it was taken.
func (t *runTaker) take(ctx context.Context, in *SentEvent) (*Refusal, error) {
	refuse := func(format string, args ...any) *Refusal {
		return &Refusal{Client: in.Client, Says: []string{fmt.Sprintf(format, args...)}}
	}
	if in.Client == "" || len(in.Client) > mostClient {
		return refuse("the event has no name"), nil
	}
	before, err := t.tx.RunEventOf(t.row.ID, in.Client)
	if err != nil || before.ID != 0 {
		return nil, err
	}
	if len(t.events) >= mostRunEvents {
		return refuse("the run has %d events already; no more are taken", mostRunEvents), nil
	}
	if says := t.check(in); says != nil {
		return says, nil
	}
	e := t.event(in, t.row)
	if e.Kind == run.Stopped && t.state.Stopped != "" { // stopped twice is one stop
		e.Kind, e.Data.Text = run.Noted, base.OrWord(e.Data.Text, "stopped once more")
	}
	if err := t.learn(&e); err != nil {
		var faults hw.Faults
		if !errors.As(err, &faults) {
			return nil, err
		}
		if e.Kind == run.Found || e.Kind == run.Offered {
			return refuse("%s", faults[0].Text), nil
		}
		e.Data.Refused = faults[0].Text // a note that it goes otherwise is kept whatever the record says
	}
	if err := t.s.KeepEvent(t.tx, t.row.ID, &e); err != nil {
		return nil, err
	}
	t.events = append(t.events, e)
	p, _, err := t.s.runs.plan(ctx, t.row.Doc)
	if err != nil {
		return nil, err
	}
	stopped := t.state.Stopped
	t.state = p.StateOf(t.row.BeganAt, t.events)
	t.state.Stopped = stopped
	return nil, t.follow(ctx, &e)
}

// event is what was sent as an event of a run, at a time at which that run was under way.
func (t *runTaker) event(in *SentEvent, row *store.Run) run.Event {
	at := t.s.Now().Add(-max(in.Ago, 0))
	if at.Before(row.BeganAt) {
		at = row.BeganAt
	}
	return run.Event{Client: in.Client, Kind: in.Kind, Step: in.Step, At: at, By: base.OrWord(in.By, t.a.Name), Data: in.Data}
}

// late keeps what belongs to a run that has ended as a note of that run: it ticks nothing, there or
// in the run that is under way. Whoever sent it is told.
func (t *runTaker) late(_ context.Context, in *SentEvent) (*Refusal, error) {
	row, err := *t.row, error(nil)
	if in.Run != 0 && in.Run != row.ID {
		if row, err = t.tx.Run(in.Run); err != nil && !errors.Is(err, store.ErrNotFound) {
			return nil, err
		}
	}
	if err != nil || row.JobID != t.job {
		return &Refusal{Client: in.Client, Says: []string{"the run that it belongs to is not of this job"}}, nil
	}
	if in.Client == "" || len(in.Client) > mostClient {
		return &Refusal{Client: in.Client, Says: []string{"the event has no name"}}, nil
	}
	if before, err := t.tx.RunEventOf(row.ID, in.Client); err != nil || before.ID != 0 && before.Kind != string(run.Late) {
		return nil, err
	} else if before.ID == 0 {
		if kept, err := t.tx.RunEvents(row.ID, 0); err != nil {
			return nil, err
		} else if len(kept) >= mostRunEvents {
			return &Refusal{Client: in.Client, Says: []string{
				fmt.Sprintf("the run has %d events already; no more are taken", mostRunEvents)}}, nil
		}
		if says := t.known(in); says != nil {
			return says, nil
		}
		e := t.event(in, &row)
		e.Kind, e.Data.Was = run.Late, in.Kind
		if err := t.s.KeepEvent(t.tx, row.ID, &e); err != nil {
			return nil, err
		}
	}
	says := "it came after its run had ended, and is kept as a note of that run; it ticks nothing"
	if row.EndedAt != nil {
		says = "it came after its run had ended at " + row.EndedAt.Format(
			"2 Jan 15:04",
		) + ", and is kept as a note of that run; it ticks nothing"
	}
	return &Refusal{Client: in.Client, Kept: true, Says: []string{says}}, nil
}

// KeepEvent stores an event of a run.
func (s *Hands) KeepEvent(tx store.Tx, id int64, e *run.Event) error {
	raw, err := json.Marshal(e.Data)
	if err != nil {
		return err
	}
	return tx.Create(&store.RunEvent{RunID: id, Client: e.Client, Kind: string(e.Kind), Step: e.Step, At: e.At, By: e.By,
		Data: raw, TakenAt: s.Now()})
}

// known says what is wrong with an event whatever the run: it is nothing that happens in one, or has
// a text that is too long.
func (t *runTaker) known(in *SentEvent) *Refusal {
	d := &in.Data
	for _, text := range []string{d.Text, d.Why, d.In, d.Out, d.Goes, d.Word, d.Part} {
		if utf8.RuneCountInString(text) > base.MaxText {
			return &Refusal{Client: in.Client, Says: []string{fmt.Sprintf("the text has more than %d characters", base.MaxText)}}
		}
	}
	if !slices.Contains(SentKinds, in.Kind) {
		return &Refusal{Client: in.Client, Says: []string{"this is nothing that happens in a run"}}
	}
	return nil
}

// SentKinds are the kinds of events that a page can send. The others are the shop's own.
var SentKinds = []run.EventKind{run.Ticked, run.Undone, run.Noted, run.Photo, run.Differs, run.Put, run.Found, run.Later,
	run.Solved, run.Paused, run.Resumed, run.Stopped, run.Offered, run.Ended}

// whileStopped are the kinds that are taken before a stopped machine is made safe: what was seen,
// and nothing that is done to it.
var whileStopped = []run.EventKind{run.Noted, run.Photo, run.Stopped, run.Paused, run.Resumed}

// check says what is wrong with an event, nil for nothing.
func (t *runTaker) check(in *SentEvent) *Refusal {
	refuse := func(format string, args ...any) *Refusal {
		return &Refusal{Client: in.Client, Says: []string{fmt.Sprintf(format, args...)}}
	}
	if says := t.known(in); says != nil {
		return says
	}
	d := &in.Data
	if t.state.Stopped != "" && in.Kind != run.Ticked && !slices.Contains(whileStopped, in.Kind) {
		return refuse("The job is stopped (%s): the machine is made safe first", t.state.Stopped)
	}
	switch in.Kind {
	case run.Ticked:
		if d.Skip && strings.TrimSpace(d.Why) == "" {
			return refuse("say why it is left out")
		}
		if bars := t.state.Bars(in.Step, *d); len(bars) > 0 {
			out := &Refusal{Client: in.Client}
			for _, b := range bars {
				out.Says, out.Bars = append(out.Says, base.UpperFirst(b.Says)), append(out.Bars, b.Bar)
			}
			return out
		}
	case run.Ended:
		if bars := t.state.EndBars(); len(bars) > 0 && strings.TrimSpace(d.Why) == "" {
			out := &Refusal{Client: in.Client}
			for _, b := range bars {
				out.Says, out.Bars = append(out.Says, base.UpperFirst(b.Says)), append(out.Bars, b.Bar)
			}
			return out
		}
	case run.Noted:
		if strings.TrimSpace(d.Text) == "" {
			return refuse("the note is empty")
		}
	case run.Put:
		if strings.TrimSpace(d.Part) == "" || hw.VerbWords().Index(d.Verb) < 0 || t.state.Plan.Index(in.Step) < 0 {
			return refuse("say what is done, and to what")
		}
	case run.Differs:
		if run.Whats.Index(d.What) < 0 {
			return refuse("say how it goes otherwise")
		}
		if d.What == run.OtherCount && (d.N < 0 || d.N > 200 || d.Group == "") {
			return refuse("say which screws, and how many: 0 to 200")
		}
		if (d.What == run.OtherBit || d.What == run.OtherPlug) && strings.TrimSpace(d.Word) == "" {
			return refuse("say which it is")
		}
	case run.Found:
		if d.Path == "" || len(d.Value) == 0 {
			return refuse("say what was found")
		}
	case run.Undone, run.Photo, run.Later, run.Solved, run.Paused, run.Resumed, run.Stopped, run.MadeSafe, run.Offered,
		run.Late: // they change nothing here
	}
	return nil
}

// learn brings what an event says of the model into its record: as a finding from the bench.
// The error is hw.Faults where the record cannot have it; nothing is changed then.
func (t *runTaker) learn(e *run.Event) error {
	path, value := "", json.RawMessage(nil)
	switch e.Kind {
	case run.Found:
		path, value = e.Data.Path, e.Data.Value
	case run.Differs:
		i := t.state.Plan.Index(e.Step)
		if i < 0 {
			return nil
		}
		p, v, ok := e.Data.Fact(t.state.Plan.Chassis, t.state.Plan.Steps[i].ID)
		if !ok {
			return nil
		}
		raw, err := json.Marshal(v)
		if err != nil {
			return err
		}
		path, value = p, raw
	case run.Offered:
		if !e.Data.Kept {
			return nil
		}
		return t.changeModel(func(before *hw.Chassis) (*hw.Chassis, error) { return t.withDetour(before, e) })
	case run.Ticked, run.Undone, run.Noted, run.Photo, run.Put, run.Later, run.Solved, run.Paused, run.Resumed,
		run.Stopped, run.MadeSafe, run.Ended, run.Late:
		return nil
	}
	return t.changeModel(func(before *hw.Chassis) (*hw.Chassis, error) {
		return t.s.withFact(t.a, before, path, value, e.Data.Text)
	})
}

// changeModel changes the model's record from within a run, which goes on to know it.
func (t *runTaker) changeModel(change func(before *hw.Chassis) (*hw.Chassis, error)) error {
	was, err := t.tx.Model(t.row.ModelID)
	if err != nil {
		return err
	}
	err = t.s.ChangeModelIn(t.tx, t.a, t.row.ModelID, records.Latest, func(before *hw.Chassis) (*hw.Chassis, base.Event, error) {
		next, err := change(before)
		return next, base.Event{}, err
	})
	if err != nil {
		return err
	}
	if was.Version != t.row.ModelVersion {
		return nil // somebody else changed it before: the run says so
	}
	now, err := t.tx.Model(t.row.ModelID)
	if err != nil {
		return err
	}
	t.row.ModelVersion = now.Version
	return t.tx.SetRunVersion(t.row.ID, now.Version)
}

// withFact is a record with one fact as it was found at the bench.
func (s *Hands) withFact(a base.Actor, before *hw.Chassis, path string, value json.RawMessage, note string) (*hw.Chassis, error) {
	f := hw.Finding{Path: path, Value: value, Source: hw.Bench, On: s.Today(), By: a.Name, Note: strings.TrimSpace(note)}
	if err := records.PossibleFinding(before, f); err != nil {
		return nil, err
	}
	typed, err := evidence.Set(before, path, value)
	if err != nil {
		return nil, hw.Faults{{Pointer: "/value", Text: err.Error()}}
	}
	return evidence.Record(before, typed, func(p string) bool { return p == path },
		func(string) (hw.Finding, bool) { return f, true }, hw.SetAside{On: f.On, By: a.Name, Note: "found otherwise at the bench"})
}

// withDetour is a record with the step that a run put in: before the step that asked for it,
// on the way back alone where it was needed there alone.
func (t *runTaker) withDetour(before *hw.Chassis, offer *run.Event) (*hw.Chassis, error) {
	var put *run.Event
	for i := range t.events {
		if t.events[i].Client == offer.Data.Of && t.events[i].Kind == run.Put {
			put = &t.events[i]
		}
	}
	if put == nil {
		return nil, hw.Faults{{Pointer: "/of", Text: "this is nothing that the run put in"}}
	}
	asks := t.state.Plan.Steps[t.state.Plan.Index(put.Step)]
	next := *before
	next.Steps = slices.Clone(before.Steps)
	st := hw.Step{
		ID:    freeStep(before, put.Data.Part),
		Verb:  put.Data.Verb,
		Part:  strings.TrimSpace(put.Data.Part),
		Needs: []string{},
	}
	covers := []string{"/steps/" + st.ID}
	at := before.StepByID(asks.ID)
	switch {
	case put.Data.BackOnly && at >= 0:
		st.BackBefore = asks.ID
		next.Steps = slices.Insert(next.Steps, at+1, st)
	case at >= 0:
		st.Needs, st.Side = slices.Clone(before.Steps[at].Needs), before.Steps[at].Side
		next.Steps = slices.Insert(next.Steps, at, st)
		next.Steps[at+1].Needs = append(slices.Clone(next.Steps[at+1].Needs), st.ID)
		covers = append(covers, "/steps/"+asks.ID+"/needs")
	default:
		reach, known := before.ReachOf(asks.ID)
		if !known || reach == "" {
			return nil, hw.Faults{{Pointer: "/of", Text: "the record has no way to where it was put in"}}
		}
		st.Needs = []string{reach}
		next.Steps = append(next.Steps, st)
		place, _ := before.PlaceNamed(asks.ID)
		raw, err := json.Marshal(st.ID)
		if err != nil {
			return nil, err
		}
		path, _ := evidence.ByID(before, place.ReachFact())
		out, err := evidence.Set(&next, path, raw)
		if err != nil {
			return nil, err
		}
		next = *out
		covers = append(covers, path)
	}
	f := hw.Finding{Source: hw.Bench, On: t.s.Today(), By: t.a.Name, Note: "put in at " + base.Label(t.job)}
	return evidence.Record(before, &next, func(p string) bool {
		return slices.ContainsFunc(covers, func(c string) bool { return evidence.Within(p, c) })
	}, func(string) (hw.Finding, bool) { return f, true }, hw.SetAside{On: f.On, By: f.By, Note: "put in at the bench"})
}

// follow does what goes with an event beside the run itself.
func (t *runTaker) follow(_ context.Context, e *run.Event) error {
	switch e.Kind {
	case run.Stopped:
		return t.stop(e)
	case run.Ended:
		return t.end(e)
	case run.Ticked, run.Undone, run.Noted, run.Photo, run.Differs, run.Put, run.Found, run.Later, run.Solved, run.Paused,
		run.Resumed, run.MadeSafe, run.Offered, run.Late: // they change nothing here
	}
	return nil
}

// stop marks the job: nothing goes on before the machine is safe.
func (t *runTaker) stop(e *run.Event) error {
	row, err := t.tx.Job(t.job)
	if err != nil {
		return err
	}
	var st jobs.State
	if err := json.Unmarshal(row.State, &st); err != nil {
		return err
	}
	st.Danger = jobs.PackNotSound + base.OrWord(e.Data.Text, "swollen, dented, hot or leaking")
	t.state.Stopped = st.Danger
	return t.saveState(&row, &st, base.Event{What: base.Label(t.job) + ": stopped at the bench: " + st.Danger, Kind: base.EventMoved,
		Data: jobs.Course{To: "stop"}.Data(), Job: t.job})
}

// end keeps the times and tells the history how long hands were on it.
func (t *runTaker) end(e *run.Event) error {
	now := t.s.Now()
	t.row.EndedAt = &now
	row, err := t.tx.Job(t.job)
	if err != nil {
		return err
	}
	if err := keepTimes(t.tx, t.row, t.state, &row, e.Data.Why); err != nil {
		return err
	}
	what := fmt.Sprintf("the work at the bench is done, %s min hands-on", jobs.MinutesOfMS(t.state.Hands.Milliseconds()))
	kind := base.EventWork
	if e.Data.Why != "" {
		kind, what = base.EventMoved, what+"; left as it was: "+e.Data.Why
	}
	var st jobs.State
	if err := json.Unmarshal(row.State, &st); err != nil {
		return err
	}
	st.Worked = &now
	return t.saveState(&row, &st, base.Event{What: base.Label(t.job) + ": " + what, Kind: kind, Job: t.job,
		Data: jobs.Course{Hands: t.state.Hands.Milliseconds()}.Data()})
}

func (t *runTaker) saveState(row *store.Job, st *jobs.State, told base.Event) error {
	var err error
	if row.State, err = json.Marshal(st); err != nil {
		return err
	}
	row.UpdatedAt = t.s.Now()
	row.Version++
	if err := t.tx.SaveJob(row, row.Version-1); err != nil {
		return err
	}
	return t.s.NoteEvent(t.tx, t.a, base.KindMachine, row.MachineID, told, nil)
}
