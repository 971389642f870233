package jobs

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/shop/base"
	"yembo/shop/stock"
	"yembo/store"
)

// PlanQuery is what a plan is asked with beside what is stored. Its zero value is the
// stored wish under the shop's practice.
type PlanQuery struct {
	Wish              *hw.Request // goals and budget in place of the stored ones
	Practice          *hw.Practice
	Pinned, Forbidden []string
	Own               map[string]string // an own combination, place by place; nil for none
}

// OwnID is the id of a combination that was put together by hand.
const OwnID = "own"

// Planned is a plan with everything it was made from.
type Planned struct {
	Record   MachineRecord
	Model    ModelState
	Parts    *hw.Parts
	Request  *hw.Request
	Settings base.Settings
	Query    PlanQuery
	Plan     *plan.Plan
	Today    plan.Today
	Own      *plan.Option // nil where none was made
	Against  []hw.Verdict // what the rules have against it
	// Sought is what is on the list to find for this machine.
	Sought []string
	// Budget is what the customer named, as they named it; the plan compares what is left of it without tax.
	Budget hw.Maybe[int64]
	// GuessedAP says that nobody told the customer's access point, and the shop's own stands in for it.
	GuessedAP bool
	// Gone are services and places that the wish names and the model's record has no more.
	Gone []string

	shelf *stock.Stocked
	basis basis
	names map[string]string // of the parts, once a page asks
}

// Untested is how many of n pieces of a used part nobody has tested.
func (p *Planned) Untested(part string, n int) int { return p.shelf.Untested(part, n) }

// Names are the names of the plan's parts by their ids. A plan is one page's: it is not asked at once from two places.
func (p *Planned) Names() map[string]string {
	if p.names == nil {
		p.names = p.Parts.Names()
	}
	return p.names
}

// Words sums up an option of the plan for people.
func (p *Planned) Words(o *plan.Option) string { return o.Words(p.Record.Chassis, p.Names()) }

// basis is what a plan rests on, so that what was planned aside can be stored only while
// all of it still holds.
type basis struct {
	machine, job, model int // versions
	parts, stock        int64
	settings            string
}

// ModelState is the version of the model's record, with what changed since the choice.
type ModelState struct {
	Version int
	Since   []base.Change
}

// Input is what the plan was made from.
func (p *Planned) Input() plan.Input {
	return plan.Input{Chassis: p.Record.Chassis, Machine: p.Record.Machine, Parts: p.Parts, Request: p.Request,
		GuessedAP: p.GuessedAP, Pinned: p.Query.Pinned, Forbidden: p.Query.Forbidden, Largest: p.Settings.LargestModules()}
}

// Plan plans the upgrades of a machine as it is asked for.
func (s *Jobs) Plan(ctx context.Context, machineID string, q PlanQuery) (Planned, error) {
	var out Planned
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = s.Gather(tx, machineID, q)
		return err
	})
	if err != nil {
		return out, err
	}
	return out, out.Make(ctx)
}

// Gather reads what a plan is made from.
func (s *Jobs) Gather(tx store.Tx, machineID string, q PlanQuery) (Planned, error) {
	p := Planned{Query: q}
	var err error
	if p.Record, err = machine(tx, machineID); err != nil {
		return p, err
	}
	if p.Model, err = modelState(tx, &p.Record); err != nil {
		return p, err
	}
	if p.Parts, err = s.PartsFor(tx, p.Record.Key, p.Record.Machine.ID, p.Record.JobID); err != nil {
		return p, err
	}
	if p.shelf, err = s.ShelfNow(tx); err != nil {
		return p, err
	}
	if p.Settings, err = base.SettingsIn(tx); err != nil {
		return p, err
	}
	if p.Sought, err = tx.SoughtFor(p.Record.Key); err != nil {
		return p, err
	}
	how, err := json.Marshal(p.Settings)
	if err != nil {
		return p, err
	}
	parts, stock, err := tx.ShelfChanged()
	if err != nil {
		return p, err
	}
	p.basis = basis{p.Record.MachineVer, p.Record.JobVer, p.Model.Version, parts, stock, string(how)}
	if p.Record.Chassis, err = s.Timed(tx, &p.Settings, p.Record.Chassis); err != nil {
		return p, err
	}
	req := *p.Record.Wish
	if q.Wish != nil {
		req = *q.Wish
		req.Format = hw.FormatRequest
	}
	accessPoint := req.Practice.AccessPoint
	req.Practice = p.Settings.Practice
	if q.Practice != nil {
		req.Practice = *q.Practice
	}
	p.GuessedAP = !accessPoint.IsKnown() && req.Practice.AccessPoint.IsKnown() && req.Goals.Wireless.IsKnown()
	if accessPoint.IsKnown() {
		req.Practice.AccessPoint = accessPoint // the customer's own, not the shop's
	}
	p.dropGone(&req)
	req.LabourRate = hw.Known(p.Settings.LabourRate)
	p.Budget = req.BudgetCents
	if cents, told := req.BudgetCents.Get(); told && cents >= 0 {
		req.BudgetCents = hw.Known(p.Settings.BudgetNet(cents))
	}
	p.Request = &req
	if !req.Asks() {
		return p, nil // nothing is wished yet: what is known of the machine can be shown
	}
	return p, hw.ValidateRequest(&req, p.Record.Chassis).Err()
}

// dropGone leaves out of a wish what the model's record has no more, so that the rest of
// it can still be planned.
func (p *Planned) dropGone(req *hw.Request) {
	ch := p.Record.Chassis
	req.Services = slices.DeleteFunc(slices.Clone(req.Services), func(s hw.AskedService) bool {
		gone := ch.ServiceByID(s.ID) < 0
		if gone {
			p.Gone = append(p.Gone, s.ID)
		}
		return gone
	})
	req.Keep = slices.DeleteFunc(slices.Clone(req.Keep), func(id string) bool {
		gone := !ch.HasPlace(id)
		if gone {
			p.Gone = append(p.Gone, id)
		}
		return gone
	})
}

// modelState finds what changed in the model's record since an option was chosen.
func modelState(tx store.Tx, r *MachineRecord) (ModelState, error) {
	row, err := tx.Model(r.Chassis.ID)
	if err != nil {
		return ModelState{}, err
	}
	out := ModelState{Version: row.Version}
	if r.Choice == nil {
		return out, nil
	}
	all, err := base.HistoryIn(tx, base.KindModel, r.Chassis.ID)
	for _, c := range all {
		if c.At.After(r.ChosenAt) {
			out.Since = append(out.Since, c)
		}
	}
	return out, err
}

// Make works the plan out. The error is hw.Faults for what cannot be planned, plan.TooLarge for what has no end.
func (p *Planned) Make(ctx context.Context) error {
	in := p.Input()
	made, err := plan.Make(ctx, in)
	if err != nil {
		return err
	}
	p.Plan = made
	if p.Today, err = plan.AsItIs(in); err != nil || len(p.Query.Own) == 0 {
		return err
	}
	own, against, err := plan.Own(ctx, in, p.Query.Own)
	p.Own, p.Against = &own, against
	return err
}

// Ask says what every place answers to a part, of the shelf or not.
func (p *Planned) Ask(ctx context.Context, part hw.Part) ([]plan.Answer, error) {
	in := p.Input()
	in.Pinned, in.Forbidden = nil, nil
	return plan.Ask(ctx, in, part)
}

// WishMark tells one wish of a job from another.
func (r *MachineRecord) WishMark() string {
	raw, err := json.Marshal(r.Wish)
	if err != nil {
		return ""
	}
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:6])
}

// KeepWish stores what was asked for in an address as the job's wish, in place of the one
// that was seen, by its mark; ErrChanged where it is another by now. "" asks for none.
func (s *Jobs) KeepWish(ctx context.Context, a base.Actor, token, machineID, seen string, wish *hw.Request) error {
	if err := hw.ValidateRequest(wish, nil).Err(); err != nil {
		return err
	}
	_, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
		job, err := tx.JobOf(machineID)
		if err != nil {
			return "", err
		}
		before := job.Wish
		var now MachineRecord
		if err := json.Unmarshal(before, &now.Wish); err != nil {
			return "", err
		}
		if seen != "" && seen != now.WishMark() {
			return "", base.ErrChanged
		}
		if job.Wish, err = json.Marshal(wish); err != nil {
			return "", err
		}
		job.UpdatedAt = s.Now()
		job.Version++
		if err := tx.SaveJob(&job, job.Version-1); err != nil {
			return "", err
		}
		return machineID, s.NoteEvent(tx, a, base.KindMachine, job.MachineID,
			base.Event{What: base.Label(job.ID) + ": the request has changed", Kind: base.EventWork, Job: job.ID}, before)
	})
	return err
}

// Fingerprint tells whether an option is still the one that was shown, whatever
// its number.
func Fingerprint(o plan.Option) string {
	o.ID = ""
	raw, err := json.Marshal(o)
	if err != nil {
		return ""
	}
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:8])
}

// Choose stores the option that was decided on. The plan is made again, aside, so that
// nobody else's change waits for it, and the choice is stored while all that the plan rests
// on still stands; where something changed meanwhile it is planned once more. Where the
// option is no longer among its options (the shelf, the record or the practice changed), the
// error is ErrPlanChanged and nothing is stored; it is ErrDanger where the machine is to be
// made safe first.
//
// seen is the mark of what was chosen when the page was opened (ChoiceMark), "" where that is not
// asked: where somebody chose otherwise since, the error is Overtaken. After a quote was accepted
// the error is Agreed, unless it is what was accepted: what is done otherwise is a version of that
// quote to be answered.
func (s *Jobs) Choose(ctx context.Context, a base.Actor, token, machineID, fingerprint, seen string,
	q PlanQuery) (string, error) {
	for range MostReplans {
		p, err := s.Plan(ctx, machineID, q)
		if err != nil {
			return "", err
		}
		chosen := p.OptionOf(fingerprint)
		still := true
		result, err := s.Once(ctx, token, func(tx store.Tx) (string, error) {
			now, err := s.Gather(tx, machineID, q)
			switch {
			case err != nil:
				return "", err
			case now.Record.State.Danger != "":
				return "", base.ErrDanger
			case !now.RestsOn(&p, chosen):
				still = false
				return "", base.ErrPlanChanged
			case chosen == nil:
				return "", base.ErrPlanChanged
			case seen != "" && seen != now.Record.ChoiceMark():
				return "", Overtaken{By: now.Record.ChosenBy, At: now.Record.ChosenAt, Choice: now.Record.Choice}
			}
			quotes, err := s.QuotesOf(tx, now.Record.JobID)
			if err != nil {
				return "", err
			}
			if agreed := AgreedQuote(quotes); agreed != nil &&
				Fingerprint(agreed.Doc.Alternative(agreed.Given.Letter).Option) != fingerprint {
				return "", Agreed{Quote: *agreed, Option: *chosen, Words: p.Words(chosen)}
			}
			return machineID, s.StoreChoice(tx, a, &p, *chosen)
		})
		if still {
			return result, err
		}
	}
	return "", base.ErrPlanChanged
}

// Overtaken is the error of a choice that another one came before.
type Overtaken struct {
	By     string
	At     time.Time
	Choice *base.Choice // nil where nothing is chosen any more
}

func (e Overtaken) Error() string {
	if e.Choice == nil {
		return "what was chosen was let go meanwhile"
	}
	return e.By + " chose meanwhile: " + e.Choice.Words
}

// Agreed is the error of a choice on a job whose quote was accepted: its work and its bill follow
// what was accepted until a version with the new choice is.
type Agreed struct {
	Quote  QuoteRecord
	Option plan.Option
	Words  string
}

func (e Agreed) Error() string {
	return e.Quote.Label() + " was accepted: another choice is a version of it to be answered"
}

// ChoiceMark tells one choice of a job from another, and from none.
func (r *MachineRecord) ChoiceMark() string {
	if r.Choice == nil {
		return "none"
	}
	return fmt.Sprintf("%d-%s", r.ChosenAt.UnixMilli(), Fingerprint(r.Choice.Option))
}

// RestsOn reports whether an option of a plan made before can be stored now: all that the plan
// was made from still stands. Where pieces were moved since, it is enough that each part of the
// option is as much to be had as it was: an option rests on the shelf by nothing else.
func (p *Planned) RestsOn(then *Planned, o *plan.Option) bool {
	moved := p.basis
	moved.stock = then.basis.stock
	if moved != then.basis {
		return false
	}
	if p.basis == then.basis || o == nil {
		return p.basis == then.basis
	}
	for _, b := range o.Buy {
		if p.covers(b) != then.covers(b) {
			return false
		}
	}
	return true
}

// covers reports whether the shelf has what a plan would buy.
func (p *Planned) covers(b plan.Buy) bool {
	for i := range p.Parts.Parts {
		if part := &p.Parts.Parts[i]; part.ID == b.Part {
			return part.Stock.IsKnown() && part.InStock() >= b.Quantity
		}
	}
	return false
}

// MostReplans is how often a choice is planned anew while what it rests on keeps changing.
const MostReplans = 4

// OptionOf finds the option that was shown with a fingerprint, where it is still among those
// that can be chosen; nil where it is not.
func (p *Planned) OptionOf(fingerprint string) *plan.Option {
	options := p.Plan.Options
	if p.Own != nil && len(p.Against) == 0 {
		options = append(slices.Clone(options), *p.Own)
	}
	for i := range options {
		if len(options[i].Missing) == 0 && Fingerprint(options[i]) == fingerprint {
			return &options[i]
		}
	}
	return nil
}

// StoreChoice stores an option as what was chosen for a job, and holds its parts.
func (s *Jobs) StoreChoice(tx store.Tx, a base.Actor, p *Planned, o plan.Option) error {
	job, err := tx.JobOf(p.Record.Key)
	if err != nil {
		return err
	}
	if job.ClosedAt != nil {
		return hw.Faults{{Text: "the job is closed; open it again first"}}
	}
	if p.Record.State.Proven != nil {
		return hw.Faults{{Text: AlreadyProven}}
	}
	before := job.Choice
	if job.Choice, err = json.Marshal(base.Choice{Option: o, Practice: p.Request.Practice, Currency: p.Settings.Currency,
		Words: p.Words(&o)}); err != nil {
		return err
	}
	if p.Query.Wish != nil {
		// What was chosen is for this wish: it is the job's from now on.
		if job.Wish, err = json.Marshal(p.Query.Wish); err != nil {
			return err
		}
	}
	at := s.Now()
	if st := p.Record.State; st.Declined != nil { // what was declined is planned once more
		st.Become(State{})
		if job.State, err = json.Marshal(st); err != nil {
			return err
		}
	}
	job.ChosenAt, job.ChosenBy, job.UpdatedAt = &at, a.Name, at
	job.Version++
	if err := tx.SaveJob(&job, job.Version-1); err != nil {
		return err
	}
	if err := s.Reserve(tx, a, job.ID, o.Buy); err != nil {
		return err
	}
	what := fmt.Sprintf("chosen: %s, %s", p.Words(&o),
		hw.Money(p.Settings.Currency, o.TotalCents))
	return s.NoteEvent(tx, a, base.KindMachine, p.Record.Key, base.Event{What: what, Kind: base.EventWork, Job: job.ID}, before)
}
