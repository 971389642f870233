package jobs

import (
	"context"
	"fmt"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// FirstStep is one thing that a new shop does before its first plan.
type FirstStep struct {
	What string // to do
	Far  string // how far it is
	Link string
	Done bool
}

// FirstSteps is the way from an empty shop to its first plan, nil where all of it is done. started is the
// name that the workshop was given when Yembo was started, "" for none.
func (s *Jobs) FirstSteps(ctx context.Context, started string) ([]FirstStep, error) {
	if s.begun.Load() {
		return nil, nil
	}
	var out []FirstStep
	err := s.Store.View(ctx, func(tx store.Tx) error {
		how, err := base.SettingsIn(tx)
		if err != nil {
			return err
		}
		models, parts, machines, err := tx.Counts()
		if err != nil {
			return err
		}
		raw, err := tx.Setting(base.SettingsName)
		if err != nil {
			return err
		}
		money := fmt.Sprintf("%s, nothing an hour so far", how.Currency)
		if how.LabourRate > 0 {
			money = fmt.Sprintf("%s an hour", hw.Money(how.Currency, how.LabourRate))
		}
		many := func(n int, what string) string {
			if n == 0 {
				return "none yet"
			}
			return fmt.Sprintf("%d %s", n, what)
		}
		name := how.Workshop
		if name == "" {
			name = started
		}
		shown := name
		if shown == "" {
			shown = "not set"
		}
		out = []FirstStep{
			{"The workshop's name, who works there, benches and hours", shown, "/settings", name != ""},
			{
				"What an hour costs, and the tax",
				money,
				"/settings",
				raw != nil && (how.LabourRate > 0 || models > 0 && parts > 0 && machines > 0),
			},
			{
				"The first model: from the usual notebook, by lines, from a document, or by a form",
				many(models, "recorded"),
				"/models/new",
				models > 0,
			},
			{"The first parts: by their labels, or a price list", many(parts, "on the list"), "/parts", parts > 0},
			{"The first machine of a customer", many(machines, "taken in"), "/machines/new", machines > 0},
		}
		return nil
	})
	for _, step := range out {
		if !step.Done {
			return out, err
		}
	}
	s.begun.Store(err == nil)
	return nil, err
}
