package work

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/run"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/store"
)

// NeedKind is what something is that has to lie ready before the first screw.
type NeedKind string

// The kinds of needs, in the order in which they are gone through.
const (
	NeedPart   NeedKind = "part"
	NeedBit    NeedKind = "bit"
	NeedTool   NeedKind = "tool"
	NeedUse    NeedKind = "use"
	NeedBackup NeedKind = "backup"
	NeedTest   NeedKind = "test"
)

// Need is one thing that has to lie ready.
type Need struct {
	Kind  NeedKind
	ID    string // "bit:PH0"
	Says  string
	Under string
	Codes []string // of a part: what a scanner may read off it
}

// Start is what is looked at before the first screw is turned.
type Start struct {
	Job    jobs.JobRecord
	Needs  []Need
	First  bool  // nothing is recorded of the way in: it is recorded by this run
	Reach  error // why the way cannot be followed
	Steps  int
	Screws int
	Plan   *run.Plan // nil for a first opening
}

// LookAtStart says what has to lie ready for a job. The error is ErrNotFound.
func (s *Hands) LookAtStart(ctx context.Context, job int64) (Start, error) {
	var out Start
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		if out.Job, err = s.JobIn(tx, job); err != nil {
			return err
		}
		d, err := s.docOf(tx, &out.Job.MachineRecord)
		if err != nil {
			return err
		}
		out.Needs, out.First, out.Plan, out.Reach, err = s.needsOf(ctx, &out.Job, d)
		return err
	})
	if out.Plan != nil {
		out.Steps = len(out.Plan.Steps)
		for i := range out.Plan.Steps {
			for _, l := range out.Plan.Steps[i].Lays {
				if !l.Captive {
					out.Screws += l.Count
				}
			}
		}
	}
	return out, err
}

// docOf is what a run of a job would be made from now.
func (s *Hands) docOf(tx store.Tx, r *jobs.MachineRecord) (*RunDoc, error) {
	how, err := base.SettingsIn(tx)
	if err != nil {
		return nil, err
	}
	d := &RunDoc{Chassis: r.Chassis, Machine: r.Machine, Parts: &hw.Parts{Format: hw.FormatParts, Currency: how.Currency},
		Printed: how.Loosen == base.LoosenPrinted, Trial: how.TrialOf(), First: !wayKnown(r.Chassis)}
	if d.Chassis, err = s.Timed(tx, &how, r.Chassis); err != nil {
		return nil, err
	}
	if r.Choice == nil {
		return d, nil
	}
	d.Option = &r.Choice.Option
	all, err := s.PartsFor(tx, r.Key, r.Machine.ID, r.JobID)
	if err != nil {
		return nil, err
	}
	used := map[string]bool{}
	for _, a := range d.Option.Actions {
		used[a.Part] = true
	}
	for _, b := range d.Option.Buy {
		used[b.Part] = true
	}
	for i := range all.Parts {
		if used[all.Parts[i].ID] {
			d.Parts.Parts = append(d.Parts.Parts, all.Parts[i])
			delete(used, all.Parts[i].ID)
		}
	}
	for id := range used { // taken off the list meanwhile: it is still what was chosen
		if p, err := tx.AnyPart(id); err == nil && id != "" {
			var doc hw.Part
			if json.Unmarshal(p.Doc, &doc) == nil {
				d.Parts.Parts = append(d.Parts.Parts, doc)
			}
		}
	}
	return d, nil
}

// needsOf lists what has to lie ready.
func (s *Hands) needsOf(ctx context.Context, j *jobs.JobRecord, d *RunDoc) (needs []Need, first bool, p *run.Plan, reach error,
	err error) {
	add := func(kind NeedKind, id, says, under string, codes ...string) {
		needs = append(needs, Need{kind, string(kind) + ":" + id, says, under, codes})
	}
	for _, says := range jobs.DataFirst(d.Machine) {
		add(NeedBackup, says, says, "the image is made and opened once, or the customer does without, in writing")
	}
	if d.First {
		return needs, true, nil, nil, nil
	}
	p, err = run.Make(ctx, d.input())
	if isReach(err) {
		return nil, false, nil, err, nil
	}
	if err != nil {
		return nil, false, nil, nil, err
	}
	if d.Option != nil {
		names := map[string]*hw.Part{}
		for i := range d.Parts.Parts {
			names[d.Parts.Parts[i].ID] = &d.Parts.Parts[i]
		}
		for _, b := range d.Option.Buy {
			name, codes := b.Part, []string{b.Part}
			if doc := names[b.Part]; doc != nil {
				name, codes = doc.Name, append(codes, codesOf(doc)...)
			}
			add(NeedPart, b.Part, fmt.Sprintf("%d × %s", b.Quantity, name), heldWords(j, b.Part), codes...)
		}
	}
	for i := range j.Parts {
		if x := &j.Parts[i]; d.Option != nil && x.Untested > 0 && x.Fitted < x.Asked {
			add(NeedTest, x.Part, x.Name, "used, not tested: test it before the machine is opened for it")
		}
	}
	for _, bit := range p.Sheet.Kit.Bits {
		add(NeedBit, bit, bit, "")
	}
	for _, tool := range p.Sheet.Kit.Tools {
		add(NeedTool, tool, tool, "")
	}
	for _, use := range p.Sheet.Kit.Consumables {
		add(NeedUse, use, use, "")
	}
	if d.Option != nil && touchesBoot(d.Option) {
		add(
			NeedBackup,
			"made",
			"A backup of the drive it starts from",
			"made and opened once, or the customer does without, in writing",
		)
	}
	return needs, false, p, nil, nil
}

// touchesBoot reports whether the drive is touched that a machine starts from.
func touchesBoot(o *plan.Option) bool {
	if o.Migration != nil {
		return true
	}
	return slices.ContainsFunc(o.Warnings, func(w plan.Warning) bool { return w.Code == hw.CodeBootReplaced })
}

// codesOf is what a scanner may read off a part beside its id.
func codesOf(p *hw.Part) []string {
	var out []string
	switch {
	case p.Memory != nil:
		out = append(out, p.Memory.PartNumber)
	case p.Drive != nil:
		out = append(out, p.Drive.Model)
	case p.Wireless != nil:
		out = append(out, p.Wireless.PartNumber)
	case p.Battery != nil:
		out = append(out, p.Battery.PartNumber)
	}
	return slices.DeleteFunc(out, func(code string) bool { return code == "" })
}

func heldWords(j *jobs.JobRecord, part string) string {
	for i := range j.Parts {
		p := &j.Parts[i]
		if p.Part != part {
			continue
		}
		switch {
		case p.Fitted > 0:
			return fmt.Sprintf("%d fitted already", p.Fitted)
		case p.Held > 0:
			return fmt.Sprintf("%d reserved for this job", p.Held)
		case p.Lack != nil:
			return "not here"
		}
	}
	return ""
}

// Begin is how a run is begun.
type Begin struct {
	Bench int
	Here  []string // ids of the needs that lie ready
	Why   string   // why it begins although something is missing
	Seen  string   // where the job stood when it was looked at
}

// BeginRun begins the work on a job, and puts it on a bench where it is on none. A run that is
// under way is gone on with. The error is hw.Faults where something is missing and nobody says
// why it begins all the same; ErrDanger before the machine is safe.
func (s *Hands) BeginRun(ctx context.Context, a base.Actor, token string, job int64, b Begin) error {
	return s.ChangeJob(ctx, a, token, job, func(tx store.Tx, row *store.Job, d *jobs.Details, st *jobs.State) (base.Event, error) {
		rows, err := tx.RunsOf(job)
		if err != nil {
			return base.Event{}, err
		}
		if len(rows) > 0 && rows[0].EndedAt == nil {
			return base.Event{}, nil
		}
		switch {
		case st.Danger != "":
			return base.Event{}, base.ErrDanger
		case row.ClosedAt != nil:
			return base.Event{}, hw.Faults{{Pointer: "/why", Text: "the job is closed; open it again first"}}
		case st.Proven != nil:
			return base.Event{}, hw.Faults{{Pointer: "/why", Text: jobs.AlreadyProven}}
		}
		j, err := s.JobIn(tx, job)
		if err != nil {
			return base.Event{}, err
		}
		doc, err := s.docOf(tx, &j.MachineRecord)
		if err != nil {
			return base.Event{}, err
		}
		needs, _, _, reach, err := s.needsOf(ctx, &j, doc)
		if err := errors.Join(reach, err); err != nil {
			return base.Event{}, err
		}
		for _, n := range needs {
			if !slices.Contains(b.Here, n.ID) {
				doc.Missing = append(doc.Missing, n.Says)
			}
		}
		doc.Why = strings.TrimSpace(b.Why)
		if utf8.RuneCountInString(doc.Why) > base.MaxText {
			return base.Event{}, hw.Faults{
				{Pointer: "/why", Text: hw.Word(hw.FaultRange, "the text", fmt.Sprintf("at most %d characters", base.MaxText))},
			}
		}
		if len(doc.Missing) > 0 && doc.Why == "" {
			return base.Event{}, hw.Faults{
				{Pointer: "/why", Text: "say why work starts without: " + strings.Join(doc.Missing, "; ")},
			}
		}
		told := base.Event{Kind: base.EventWork, Data: jobs.Course{To: jobs.MoveStart}.Data()}
		if st.Running == nil {
			if err := s.BeginOn(tx, row, st, jobs.Move{To: jobs.MoveStart, Bench: b.Bench, Why: b.Why}, &told); err != nil {
				return base.Event{}, err
			}
		}
		st.Worked = nil
		told.What = strings.TrimSuffix("the work began; "+told.What, "; ")
		if len(doc.Missing) > 0 {
			told.Kind = base.EventMoved
			told.What += " (missing: " + strings.Join(doc.Missing, "; ") + "): " + doc.Why
		}
		raw, err := json.Marshal(doc)
		if err != nil {
			return base.Event{}, err
		}
		model, err := tx.Model(j.Chassis.ID)
		if err != nil {
			return base.Event{}, err
		}
		return told, tx.Create(&store.Run{JobID: job, ModelID: model.ID, ModelVersion: model.Version, Doc: raw, BeganAt: s.Now(),
			BeganBy: a.Name})
	})
}

// freeStep is an id for a step made of the part it is done to, that the record has not.
func freeStep(ch *hw.Chassis, part string) string {
	base := slug.Make(part, "step")
	id := base
	for n := 2; ch.StepByID(id) >= 0; n++ {
		id = fmt.Sprintf("%s-%d", base, n)
	}
	return id
}
