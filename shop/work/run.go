package work

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"time"

	"yembo/core/card"
	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/run"
	"yembo/core/teardown"
	"yembo/shop/jobs"
	"yembo/store"
)

// ErrNoRun means that no work was begun on a job.
var ErrNoRun = errors.New("no run was begun on this job")

// RunDoc is what a run is made from: the records as they were when it began. It keeps them
// whatever becomes of the records meanwhile.
type RunDoc struct {
	Chassis *hw.Chassis    `json:"chassis"`
	Machine *hw.Machine    `json:"machine"`
	Parts   *hw.Parts      `json:"parts"`
	Option  *plan.Option   `json:"option,omitempty"` // nil for a look inside
	Printed bool           `json:"printed,omitempty"`
	Trial   card.TrialWhen `json:"trial,omitempty"`
	First   bool           `json:"first,omitempty"`   // the way in is being recorded by this run
	Whole   bool           `json:"whole,omitempty"`   // every step of the way in is done, whatever the option needs
	Missing []string       `json:"missing,omitempty"` // what was not there when it began
	Why     string         `json:"why,omitempty"`     // why it began all the same
}

func (d *RunDoc) input() run.Input {
	return run.Input{
		Chassis: d.Chassis,
		Machine: d.Machine,
		Parts:   d.Parts,
		Option:  d.Option,
		Printed: d.Printed,
		Trial:   d.Trial,
		Whole:   d.Whole,
	}
}

// Run is the work on a job as it stands.
type Run struct {
	ID      int64
	Record  jobs.MachineRecord
	State   *run.State // of a first opening that is still recorded: of what there is
	Events  []RunEvent
	Last    int64 // number of the last event
	First   bool  // the way in is being recorded
	Changed bool  // somebody changed the model's record since it began
	Missing []string
	Why     string
	Began   time.Time
	BeganBy string
	Ended   time.Time // zero while it goes on
	Option  *plan.Option
	// Times is what other jobs took, by the record's step.
	Times map[string]jobs.StepTimes
	// Next are other jobs whose machines are of this model and can be opened.
	Next []jobs.BenchRow
}

// RunEvent is an event with its number.
type RunEvent struct {
	ID int64
	run.Event
}

// runs is what the shop keeps at hand of runs: their plans, which never change, and who waits
// for news of them.
type runs struct {
	mu    sync.Mutex
	plans map[[32]byte]*run.Plan
	news  map[int64]chan struct{}
}

// keptPlans is how many plans of runs are kept at hand.
const keptPlans = 64

func newRuns() *runs {
	return &runs{plans: map[[32]byte]*run.Plan{}, news: map[int64]chan struct{}{}}
}

// plan is what a run is to do, made once for a document.
func (r *runs) plan(ctx context.Context, raw []byte) (*run.Plan, *RunDoc, error) {
	d := &RunDoc{}
	if err := json.Unmarshal(raw, d); err != nil {
		return nil, nil, fmt.Errorf("the documents of a run: %w", err)
	}
	key := sha256.Sum256(raw)
	r.mu.Lock()
	p := r.plans[key]
	r.mu.Unlock()
	if p != nil {
		return p, d, nil
	}
	p, err := run.Make(ctx, d.input())
	if err != nil {
		return nil, d, err
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	if len(r.plans) >= keptPlans {
		clear(r.plans)
	}
	r.plans[key] = p
	return p, d, nil
}

// told wakes up whoever waits for news of a run.
func (r *runs) told(id int64) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if ch := r.news[id]; ch != nil {
		close(ch)
		delete(r.news, id)
	}
}

// wait is closed at the next news of a run.
func (r *runs) wait(id int64) <-chan struct{} {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.news[id] == nil {
		r.news[id] = make(chan struct{})
	}
	return r.news[id]
}

// Run returns the work on a job: what is under way, else the last that ended. The error is
// ErrNoRun where none was begun.
func (s *Hands) Run(ctx context.Context, job int64) (Run, error) {
	var out Run
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := s.runOf(tx, job)
		if err != nil {
			return err
		}
		if out, err = s.runAt(ctx, tx, &row); err != nil {
			return err
		}
		j, err := tx.Job(job)
		if err != nil {
			return err
		}
		if out.Record, err = jobs.ReadMachine(&j.Machine, &j); err != nil {
			return err
		}
		model, err := tx.Model(row.ModelID)
		if err != nil {
			return err
		}
		out.Changed = model.Version != row.ModelVersion
		out.Times, err = jobs.MeasuredSteps(tx, row.ModelID)
		return err
	})
	if err != nil || out.Ended.IsZero() {
		return out, err
	}
	bench, err := s.BenchList(ctx)
	for i := range bench {
		if b := &bench[i]; b.Record.Chassis.ID == out.Record.Chassis.ID && b.JobID != job && b.Class == jobs.ClassReady {
			out.Next = append(out.Next, *b)
		}
	}
	return out, err
}

// runOf is the newest run of a job.
func (s *Hands) runOf(tx store.Tx, job int64) (store.Run, error) {
	rows, err := tx.RunsOf(job)
	if err != nil {
		return store.Run{}, err
	}
	if len(rows) == 0 {
		if _, err := tx.Job(job); err != nil {
			return store.Run{}, err
		}
		return store.Run{}, ErrNoRun
	}
	return rows[0], nil
}

// runAt is a run with its state.
func (s *Hands) runAt(ctx context.Context, tx store.Tx, row *store.Run) (Run, error) {
	out := Run{ID: row.ID, Began: row.BeganAt, BeganBy: row.BeganBy}
	if row.EndedAt != nil {
		out.Ended = *row.EndedAt
	}
	p, d, err := s.runs.plan(ctx, row.Doc)
	if err != nil {
		return out, err
	}
	out.First, out.Missing, out.Why, out.Option = d.First, d.Missing, d.Why, d.Option
	rows, err := tx.RunEvents(row.ID, 0)
	if err != nil {
		return out, err
	}
	events := make([]run.Event, len(rows))
	for i := range rows {
		if events[i], err = eventOf(&rows[i]); err != nil {
			return out, err
		}
		out.Events = append(out.Events, RunEvent{rows[i].ID, events[i]})
		out.Last = rows[i].ID
	}
	out.State = p.StateOf(row.BeganAt, events)
	job, err := tx.Job(row.JobID)
	if err != nil {
		return out, err
	}
	out.State.Stopped, err = dangerOf(&job)
	return out, err
}

// dangerOf is why a job stops before its machine is made safe, "" where it does not: the one
// answer of its page, its run and the bench list.
func dangerOf(row *store.Job) (string, error) {
	var st jobs.State
	var m hw.Machine
	if err := errors.Join(json.Unmarshal(row.State, &st), json.Unmarshal(row.Machine.Doc, &m)); err != nil {
		return "", err
	}
	return jobs.DangerIn(&st, &m), nil
}

func eventOf(row *store.RunEvent) (run.Event, error) {
	e := run.Event{Client: row.Client, Kind: run.EventKind(row.Kind), Step: row.Step, At: row.At, By: row.By}
	if err := json.Unmarshal(row.Data, &e.Data); err != nil {
		return e, fmt.Errorf("an event of a run: %w", err)
	}
	return e, nil
}

// WaitRun waits until something happens in the run of a job after an event, a while at most,
// and reports whether it did.
func (s *Hands) WaitRun(ctx context.Context, job, after int64, most time.Duration) (bool, error) {
	var id, last int64
	look := func(tx store.Tx) error {
		row, err := s.runOf(tx, job)
		if err != nil {
			return err
		}
		id = row.ID
		last, err = tx.LastRunEvent(id)
		return err
	}
	if err := s.Store.View(ctx, look); err != nil {
		return false, err
	}
	news := s.runs.wait(id)
	// Once more, for what came between the look and the wait.
	if err := s.Store.View(ctx, look); err != nil || last > after {
		return last > after, err
	}
	end := time.NewTimer(most)
	defer end.Stop()
	select {
	case <-news:
		return true, nil
	case <-end.C:
		return false, nil
	case <-ctx.Done():
		return false, nil
	}
}

// wayKnown reports whether a run can follow the record: it has steps, and the way to what the
// option does is recorded.
func wayKnown(ch *hw.Chassis) bool { return len(ch.Steps) > 0 }

// TellRun wakes up whoever waits for news of a job's run: the job itself was changed.
func (s *Hands) TellRun(ctx context.Context, job int64) {
	// Without a run nobody waits, and whoever cannot be told asks again by itself.
	_ = s.Store.View(ctx, func(tx store.Tx) error {
		row, err := s.runOf(tx, job)
		if err == nil {
			s.runs.told(row.ID)
		}
		return err
	})
}

// isReach reports whether an error says that the way to something is not recorded.
func isReach(err error) bool {
	var unknown teardown.ReachUnknown
	return errors.As(err, &unknown)
}
