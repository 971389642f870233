package shop

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/store"
)

// Planned is a plan with everything it was made from.
type Planned struct {
	Record   MachineRecord
	Parts    *hw.Parts
	Request  *hw.Request
	Settings Settings
	Plan     *plan.Plan
	Today    plan.Today
}

// Plan plans the upgrades of a machine under the shop's practice.
func (s *Shop) Plan(ctx context.Context, machineID string) (Planned, error) {
	var out Planned
	err := s.store.View(ctx, func(tx store.Tx) (err error) {
		out, err = gather(tx, machineID)
		return err
	})
	if err != nil {
		return out, err
	}
	return out, out.make(ctx)
}

// gather reads what a plan is made from.
func gather(tx store.Tx, machineID string) (Planned, error) {
	var p Planned
	var err error
	if p.Record, err = machine(tx, machineID); err != nil {
		return p, err
	}
	if p.Parts, err = parts(tx); err != nil {
		return p, err
	}
	if p.Settings, err = settings(tx); err != nil {
		return p, err
	}
	req := *p.Record.Wish
	req.Practice = p.Settings.Practice
	req.LabourRate = hw.Known(p.Settings.LabourRate)
	p.Request = &req
	return p, nil
}

func (p *Planned) make(ctx context.Context) error {
	in := plan.Input{Chassis: p.Record.Chassis, Machine: p.Record.Machine, Parts: p.Parts, Request: p.Request}
	made, err := plan.Make(ctx, in)
	if err != nil {
		return err
	}
	p.Plan = made
	p.Today, err = plan.AsItIs(in)
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

// Choose stores the option that was decided on. The plan is made again: where the
// option is no longer among its options (the shelf, the record or the practice
// changed), the error is ErrPlanChanged and nothing is stored.
func (s *Shop) Choose(ctx context.Context, a Actor, token, machineID, fingerprint string) (string, error) {
	return s.once(ctx, token, func(tx store.Tx) (string, error) {
		p, err := gather(tx, machineID)
		if err != nil {
			return "", err
		}
		if err := p.make(ctx); err != nil {
			return "", err
		}
		for _, o := range p.Plan.Options {
			if Fingerprint(o) == fingerprint && len(o.Missing) == 0 {
				return machineID, s.storeChoice(tx, a, &p, o)
			}
		}
		return "", ErrPlanChanged
	})
}

func (s *Shop) storeChoice(tx store.Tx, a Actor, p *Planned, o plan.Option) error {
	job, err := tx.JobOf(p.Record.Machine.ID)
	if err != nil {
		return err
	}
	before := job.Choice
	if job.Choice, err = json.Marshal(Choice{o, p.Settings.Practice, p.Settings.Currency}); err != nil {
		return err
	}
	at := s.now()
	job.ChosenAt, job.ChosenBy, job.UpdatedAt = &at, a.Name, at
	job.Version++
	if err := tx.SaveJob(&job, job.Version-1); err != nil {
		return err
	}
	what := fmt.Sprintf("chosen: option %s, %s %d.%02d", o.ID, p.Settings.Currency, o.TotalCents/100, o.TotalCents%100)
	return s.note(tx, a, kindMachine, p.Record.Machine.ID, what, before)
}
