package work

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/run"
	"yembo/core/shorthand"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/store"
)

// Tap is a screw as it was tapped onto the outline: where, in mm, and of which group of the line,
// counted from 0.
type Tap struct {
	X, Y  hw.Dec
	Group int
}

// Opened is a line that was typed at a first opening.
type Opened struct {
	Client string
	Line   string
	Took   time.Duration // its own time, writing not counted; 0 where nobody measured it
	Taps   []Tap
}

// ownMinutes finds minutes that a line tells itself.
var ownMinutes = regexp.MustCompile(`(?i)(^|\s)[0-9]+([.,][0-9]+)? ?min(\s|$)`)

// RecordOpened takes a line of a first opening into the model's record: a step with its time and
// its screws where they were tapped, or what was seen, which then lies behind the last step. The
// error is hw.Faults where the line cannot be read or the record cannot have it.
func (s *Hands) RecordOpened(ctx context.Context, a base.Actor, job int64, in Opened) error {
	var id int64
	err := s.Store.Update(ctx, func(tx store.Tx) error {
		row, d, err := s.firstRun(tx, job)
		if err != nil {
			return err
		}
		id = row.ID
		before, err := tx.RunEventOf(row.ID, in.Client)
		if err != nil || before.ID != 0 {
			return err
		}
		model, err := tx.Model(row.ModelID)
		if err != nil {
			return err
		}
		was, err := records.ReadModel(&model)
		if err != nil {
			return err
		}
		text := strings.TrimSpace(in.Line)
		isStep := s.speaksOfStep(was.Chassis, text)
		if isStep && in.Took > 0 && !ownMinutes.MatchString(text) {
			text += " " + max(jobs.MinutesOfMS(in.Took.Milliseconds()), hw.DecOf(1)/10).String() + "min"
		}
		var next *hw.Chassis
		err = s.ChangeModelIn(tx, a, row.ModelID, records.Latest, func(before *hw.Chassis) (*hw.Chassis, base.Event, error) {
			out, told, err := s.TypedLines(a, before, text, shorthand.Source{Name: hw.Bench})
			if err != nil {
				return nil, told, err
			}
			if isStep {
				out, err = withTaps(out, before, in.Taps)
			} else {
				out, err = s.behindLast(a, before, out)
			}
			next = out
			return out, told, err
		})
		if err != nil {
			return err
		}
		now := s.Now()
		at := now
		e := store.RunEvent{RunID: row.ID, Client: in.Client, Kind: string(run.Noted), At: at, By: a.Name, TakenAt: now}
		data := run.Data{Text: text}
		if isStep {
			e.Kind, e.Step = string(run.Ticked), string(run.Down)+":"+newStep(was.Chassis, next)
		}
		if e.Data, err = json.Marshal(data); err != nil {
			return err
		}
		if err := tx.Create(&e); err != nil {
			return err
		}
		return s.renewFirst(tx, row, d)
	})
	if err == nil {
		s.runs.told(id)
	}
	return err
}

// firstRun is a first opening that is still recorded.
func (s *Hands) firstRun(tx store.Tx, job int64) (*store.Run, *RunDoc, error) {
	row, err := s.runOf(tx, job)
	if err != nil {
		return nil, nil, err
	}
	d := &RunDoc{}
	if err := json.Unmarshal(row.Doc, d); err != nil {
		return nil, nil, fmt.Errorf("the documents of a run: %w", err)
	}
	if !d.First || row.EndedAt != nil {
		return nil, nil, hw.Faults{{Pointer: "/line", Text: "the way in is recorded already"}}
	}
	j, err := tx.Job(job)
	if err != nil {
		return nil, nil, err
	}
	if danger, err := dangerOf(&j); err != nil {
		return nil, nil, err
	} else if danger != "" {
		return nil, nil, hw.Faults{{Pointer: "/line", Text: "the job is stopped (" + danger + "): the machine is made safe first"}}
	}
	return &row, d, nil
}

// renewFirst brings the record as it is now into the run that records it.
func (s *Hands) renewFirst(tx store.Tx, row *store.Run, d *RunDoc) error {
	model, err := tx.Model(row.ModelID)
	if err != nil {
		return err
	}
	record, err := records.ReadModel(&model)
	if err != nil {
		return err
	}
	d.Chassis = record.Chassis
	raw, err := json.Marshal(d)
	if err != nil {
		return err
	}
	return tx.SetRunDoc(row.ID, raw, model.Version)
}

// speaksOfStep reports whether a line names a step of the way in.
func (s *Hands) speaksOfStep(ch *hw.Chassis, line string) bool {
	lines := shorthand.Parse(line, ch, shorthand.Source{Name: hw.Bench}, slug.Of)
	for i := range lines {
		for _, item := range lines[i].Items {
			if item.List == "steps" {
				return true
			}
		}
	}
	return false
}

// newStep is the step that a record has now and had not, or whose line was typed again.
func newStep(before, after *hw.Chassis) string {
	for i := range after.Steps {
		if before.StepByID(after.Steps[i].ID) < 0 {
			return after.Steps[i].ID
		}
	}
	if n := len(after.Steps); n > 0 {
		return after.Steps[n-1].ID
	}
	return ""
}

// withTaps puts screws where they were tapped. A group whose count is not that of its taps keeps
// both as they are: neither is made of the other.
func withTaps(next, before *hw.Chassis, taps []Tap) (*hw.Chassis, error) {
	if len(taps) == 0 {
		return next, nil
	}
	st := &next.Steps[next.StepByID(newStep(before, next))]
	out := *next
	out.Fasteners = slices.Clone(next.Fasteners)
	for k, f := range st.Fasteners {
		i := out.FastenerByID(f.Group)
		if i < 0 {
			continue
		}
		var at []hw.At
		for _, t := range taps {
			if t.Group == k {
				at = append(at, hw.At{X: t.X, Y: t.Y})
			}
		}
		if len(at) > 0 && len(at) <= f.Count {
			out.Fasteners[i].At = at
		}
	}
	return &out, nil
}

// behindLast puts what was seen behind the last step, where the line says nothing else.
func (s *Hands) behindLast(a base.Actor, before, next *hw.Chassis) (*hw.Chassis, error) {
	if len(next.Steps) == 0 {
		return next, nil
	}
	last := next.Steps[len(next.Steps)-1].ID
	var lines []string
	for _, p := range next.Places() {
		if p.Reach == "" && p.Kind != hw.InPack && !before.HasPlace(p.ID) {
			lines = append(lines, p.ID+" >"+last)
		}
	}
	if len(next.Batteries) > 0 && next.BatteryReach == "" {
		lines = append(lines, "battery-reach >"+last)
	}
	if len(lines) == 0 {
		return next, nil
	}
	out, _, err := s.TypedLines(a, next, strings.Join(lines, "\n"), shorthand.Source{Name: hw.Bench})
	return out, err
}

// UndoOpened takes the last step of a first opening out of the record again.
func (s *Hands) UndoOpened(ctx context.Context, a base.Actor, job int64, client string) error {
	var id int64
	err := s.Store.Update(ctx, func(tx store.Tx) error {
		row, d, err := s.firstRun(tx, job)
		if err != nil {
			return err
		}
		id = row.ID
		if old, err := tx.RunEventOf(row.ID, client); err != nil || old.ID != 0 {
			return err
		}
		if len(d.Chassis.Steps) == 0 {
			return hw.Faults{{Pointer: "/line", Text: "no step is recorded yet"}}
		}
		gone := d.Chassis.Steps[len(d.Chassis.Steps)-1]
		err = s.ChangeModelIn(tx, a, row.ModelID, records.Latest, func(before *hw.Chassis) (*hw.Chassis, base.Event, error) {
			next, err := s.withoutStep(a, before, &gone)
			return next, base.Event{What: "taken back: " + hw.LowerFirst(gone.Does())}, err
		})
		if err != nil {
			return err
		}
		now := s.Now()
		if err := tx.Create(&store.RunEvent{RunID: row.ID, Client: client, Kind: string(run.Undone), Step: string(run.Down) +
			":" + gone.ID,
			At: now, TakenAt: now, By: a.Name, Data: []byte("{}")}); err != nil {
			return err
		}
		return s.renewFirst(tx, row, d)
	})
	if err == nil {
		s.runs.told(id)
	}
	return err
}

// withoutStep is a record without a step and the screws that it alone turns; what lay behind it has
// no way any more.
func (s *Hands) withoutStep(a base.Actor, before *hw.Chassis, gone *hw.Step) (*hw.Chassis, error) {
	typed := *before
	typed.Steps = slices.DeleteFunc(slices.Clone(before.Steps), func(st hw.Step) bool { return st.ID == gone.ID })
	covers := []string{"/steps/" + gone.ID}
	turned := map[string]bool{}
	for i := range typed.Steps {
		for _, f := range typed.Steps[i].Fasteners {
			turned[f.Group] = true
		}
	}
	own := map[string]bool{}
	for _, f := range gone.Fasteners {
		if !turned[f.Group] {
			own[f.Group] = true
			covers = append(covers, "/fasteners/"+f.Group)
		}
	}
	typed.Fasteners = slices.DeleteFunc(slices.Clone(before.Fasteners), func(g hw.Fastener) bool { return own[g.ID] })
	out := &typed
	for _, p := range before.Places() {
		if p.Reach != gone.ID {
			continue
		}
		path, _ := evidence.ByID(before, p.ReachFact())
		var err error
		if out, err = evidence.Set(out, path, json.RawMessage("null")); err != nil {
			return nil, err
		}
		covers = append(covers, path)
	}
	f := hw.Finding{Source: hw.Bench, On: s.Today(), By: a.Name}
	return evidence.Record(before, out, func(p string) bool {
		return slices.ContainsFunc(covers, func(c string) bool { return evidence.Within(p, c) })
	}, func(string) (hw.Finding, bool) { return f, false }, hw.SetAside{On: f.On, By: f.By, Note: "taken back at the first opening"})
}

// TurnBack ends the recording of a first opening: from here the way back is worked off, which is
// the way in reversed, with what was chosen meanwhile fitted on it.
func (s *Hands) TurnBack(ctx context.Context, a base.Actor, token string, job int64) error {
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		row, d, err := s.firstRun(tx, job)
		if err != nil {
			return "", err
		}
		if len(d.Chassis.Steps) == 0 {
			return "", hw.Faults{{Pointer: "/line", Text: "no step is recorded yet"}}
		}
		j, err := tx.Job(job)
		if err != nil {
			return "", err
		}
		r, err := jobs.ReadMachine(&j.Machine, &j)
		if err != nil {
			return "", err
		}
		now, err := s.docOf(tx, &r)
		if err != nil {
			return "", err
		}
		d.First, d.Chassis, d.Machine, d.Parts, d.Option, d.Whole = false, now.Chassis, now.Machine, now.Parts, now.Option, true
		raw, err := json.Marshal(d)
		if err != nil {
			return "", err
		}
		model, err := tx.Model(row.ModelID)
		if err != nil {
			return "", err
		}
		if _, _, err := s.runs.plan(ctx, raw); err != nil {
			return "", err
		}
		if err := tx.SetRunDoc(row.ID, raw, model.Version); err != nil {
			return "", err
		}
		return fmt.Sprint(
				job,
			), s.NoteEvent(
				tx,
				a,
				base.KindMachine,
				j.MachineID,
				base.Event{What: fmt.Sprintf("%s: the way in is recorded, %d steps", base.Label(job),
					len(d.Chassis.Steps)), Kind: base.EventWork, Job: job},
				nil,
			)
	})
	if err == nil {
		_ = s.Store.View(ctx, func(tx store.Tx) error {
			row, err := s.runOf(tx, job)
			s.runs.told(row.ID)
			return err
		})
	}
	return err
}
