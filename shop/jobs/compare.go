package jobs

import (
	"context"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/shop/base"
	"yembo/shop/records"
	"yembo/store"
)

// ModelBeside is a model for whoever thinks of buying one, or has one at the counter: its record, and what a wish costs on
// a machine of it in which nothing is fitted but what is soldered.
type ModelBeside struct {
	Chassis  *hw.Chassis
	Machines int // of the model, that were here
	Plan     *plan.Plan
	Request  *hw.Request
}

// CompareModels sets models beside each other. The error is ErrNotFound for a model there is not, hw.Faults for a wish that
// cannot be.
func (s *Jobs) CompareModels(ctx context.Context, ids []string, goals hw.Goals) ([]ModelBeside, base.Settings, error) {
	var how base.Settings
	var parts *hw.Parts
	var out []ModelBeside
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		if how, err = base.SettingsIn(tx); err != nil {
			return err
		}
		if parts, err = s.PartsFor(tx, "", "", 0); err != nil {
			return err
		}
		for _, id := range ids {
			row, err := tx.Model(id)
			if err != nil {
				return err
			}
			read, err := records.ReadModel(&row)
			if err != nil {
				return err
			}
			ch, err := s.Timed(tx, &how, read.Chassis)
			if err != nil {
				return err
			}
			machines, err := tx.MachinesOfModel(id)
			if err != nil {
				return err
			}
			out = append(out, ModelBeside{Chassis: ch, Machines: len(machines)})
		}
		return nil
	})
	if err != nil || goals == (hw.Goals{}) {
		return out, how, err
	}
	for i := range out {
		c := &out[i]
		c.Request = &hw.Request{Format: hw.FormatRequest, Goals: goals, Practice: how.Practice, LabourRate: hw.Known(how.LabourRate)}
		if err := hw.ValidateRequest(c.Request, c.Chassis).Err(); err != nil {
			return out, how, err
		}
		empty := &hw.Machine{Format: hw.FormatMachine, ID: "any", Chassis: c.Chassis.ID, Variant: []string{},
			Fitted: hw.Fitted{Memory: []hw.FittedModule{}, Drives: []hw.FittedDrive{}}}
		c.Plan, err = plan.Make(ctx, plan.Input{Chassis: c.Chassis, Machine: empty, Parts: parts, Request: c.Request,
			Largest: how.LargestModules()})
		if err != nil {
			return out, how, err
		}
	}
	return out, how, nil
}
