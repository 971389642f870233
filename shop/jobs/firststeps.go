package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// FirstStep is one thing that a new shop does before its first plan.
type FirstStep struct {
	Key  string
	What string // to do
	Far  string // how far it is
	Link string
	Done bool
}

// The keys of the first steps.
const (
	stepShop     = "shop"
	stepMoney    = "money"
	stepModels   = "models"
	stepParts    = "parts"
	stepMachines = "machines"
)

const skippedName = "first_steps_skipped"

func skippedIn(tx store.Tx) ([]string, error) {
	var out []string
	raw, err := tx.Setting(skippedName)
	if err != nil || raw == nil {
		return nil, err
	}
	err = json.Unmarshal(raw, &out)
	return out, err
}

// SkipFirstStep leaves one of the first steps out of what a new shop is told; "" tells all of them again.
func (s *Jobs) SkipFirstStep(ctx context.Context, key string) error {
	if key != "" && !slices.Contains([]string{stepShop, stepMoney, stepModels, stepParts, stepMachines}, key) {
		return store.ErrNotFound
	}
	s.begun.Store(false)
	return s.Store.Update(ctx, func(tx store.Tx) error {
		skipped, err := skippedIn(tx)
		if err != nil || slices.Contains(skipped, key) {
			return err
		}
		skipped = append(skipped, key)
		if key == "" {
			skipped = nil
		}
		raw, err := json.Marshal(skipped)
		if err != nil {
			return err
		}
		return tx.PutSetting(skippedName, raw)
	})
}

// FirstStepsSkipped reports whether a step was left out.
func (s *Jobs) FirstStepsSkipped(ctx context.Context) (bool, error) {
	var skipped []string
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		skipped, err = skippedIn(tx)
		return err
	})
	return len(skipped) > 0, err
}

// FirstSteps is the way from an empty shop to its first plan, without what was skipped; nil where all of it is done. started
// is the name that the workshop was given when Yembo was started, "" for none. Sample records are not the shop's own.
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
		samples, err := base.SamplesIn(tx)
		if err != nil {
			return err
		}
		models, parts = max(0, models-len(samples.Models)), max(0, parts-len(samples.Parts))
		skipped, err := skippedIn(tx)
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
			{stepShop, "The workshop's name, who works there, benches and hours", shown, "/settings", name != ""},
			{
				stepMoney, "What an hour costs, and the tax",
				money,
				"/settings",
				raw != nil && (how.LabourRate > 0 || models > 0 && parts > 0 && machines > 0),
			},
			{
				stepModels,
				"The first model: with one open in front of you, from the usual notebook, by lines, from a document, or by a form",
				many(models, "recorded"),
				"/models/new",
				models > 0,
			},
			{stepParts, "The first parts: by their labels, or a price list", many(parts, "on the list"), "/parts", parts > 0},
			{stepMachines, "The first machine of a customer", many(machines, "taken in"), "/machines/new", machines > 0},
		}
		out = slices.DeleteFunc(out, func(x FirstStep) bool { return slices.Contains(skipped, x.Key) })
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
