package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/shop/base"
	"yembo/shop/stock"
	"yembo/store"
)

// Uses says what the parts of the shelf are good for: how many recorded models take each, and which
// machines it would help. It is worked out aside, from the core's own verdicts and plans, and kept by the
// versions that it rests on.
type Uses struct {
	Models   int               // that were gone through
	Machines int               // with a wish
	Fits     map[string]int    // models that take a part
	Perhaps  map[string]int    // models of which it is not known
	Helps    map[string][]Help // machines in whose plans a part stands
	Working  bool              // something of it is still worked out
}

// Help is what a part would give a machine.
type Help struct {
	Key, Tag string
	Gains    string // "memory 8 → 24 GB"
}

// mostHelped is how many machines are planned for, the newest.
const mostHelped = 500

// uses is what was worked out last.
type uses struct {
	mu       sync.Mutex
	working  bool
	done     chan struct{} // closed at the end of what is worked out
	long     bool          // it takes longer than a page waits
	basis    string
	now      Uses
	models   map[string]fitted
	machines map[string]helped
}

// fitted is what one model takes, by part; rests tells what it rests on.
type fitted struct {
	rests string
	fits  map[string]plan.Fit
}

type helped struct {
	rests string
	helps map[string]Help
}

// usesWait is how long a page waits for what a small shop has worked out by then.
const usesWait = 120 * time.Millisecond

// Uses returns what is known of the uses of parts, and begins to work out what is not; it waits a moment
// for the end of that.
func (s *Jobs) Uses(ctx context.Context) (Uses, error) {
	var basis string
	err := s.Store.View(ctx, func(tx store.Tx) error {
		n, err := tx.Changes()
		if err != nil {
			return err
		}
		how, err := base.SettingsIn(tx)
		if err != nil {
			return err
		}
		raw, err := json.Marshal(how)
		basis = fmt.Sprint(n["parts"], n["models"], n["machines"], n["jobs"], string(raw))
		return err
	})
	if err != nil {
		return Uses{}, err
	}
	u := s.uses
	u.mu.Lock()
	defer u.mu.Unlock()
	if u.basis != basis && !u.working {
		u.working, u.done = true, make(chan struct{})
		go s.workOutUses(basis)
	}
	if done := u.done; u.working && !u.long {
		u.mu.Unlock()
		select {
		case <-done:
		case <-ctx.Done():
		case <-time.After(usesWait):
		}
		u.mu.Lock()
		u.long = u.long || u.working
	}
	out := u.now
	out.Working = u.working
	return out, nil
}

func (s *Jobs) workOutUses(basis string) {
	ctx := context.Background()
	began := time.Now()
	fits, errF := s.allFits(ctx)
	helps, errH := s.allHelps(ctx)
	next := Uses{Models: len(fits), Machines: len(helps), Fits: map[string]int{}, Perhaps: map[string]int{},
		Helps: map[string][]Help{}}
	for _, f := range fits {
		for part, fit := range f.fits {
			switch fit {
			case plan.FitYes:
				next.Fits[part]++
			case plan.FitNotKnown:
				next.Perhaps[part]++
			case plan.FitNo: // they change nothing here
			}
		}
	}
	for _, key := range slices.Sorted(maps.Keys(helps)) {
		for part, help := range helps[key].helps {
			next.Helps[part] = append(next.Helps[part], help)
		}
	}
	s.uses.mu.Lock()
	defer s.uses.mu.Unlock()
	s.uses.working, s.uses.long = false, time.Since(began) > usesWait
	close(s.uses.done)
	if errors.Join(errF, errH) == nil {
		s.uses.basis, s.uses.now, s.uses.models, s.uses.machines = basis, next, fits, helps
	}
}

// plentyOf is every part as if plenty lay there: what a part is good for does not hang on how many there are.
func plentyOf(seen *stock.Stocked) *hw.Parts {
	out := &hw.Parts{Format: hw.FormatParts, Parts: slices.Clone(seen.List)}
	for i := range out.Parts {
		out.Parts[i].Stock = hw.Known(stock.Uncounted)
	}
	return out
}

// allFits goes through the models; one that has not changed keeps what was found.
func (s *Jobs) allFits(ctx context.Context) (map[string]fitted, error) {
	var seen *stock.Stocked
	var parts int64
	versions := map[string]int{}
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		if seen, err = s.ShelfNow(tx); err != nil {
			return err
		}
		if parts, _, err = tx.ShelfChanged(); err != nil {
			return err
		}
		versions, err = tx.ModelVersions()
		return err
	})
	if err != nil {
		return nil, err
	}
	list := plentyOf(seen)
	out := map[string]fitted{}
	for id, version := range versions {
		rests := fmt.Sprint(version, " ", parts)
		if old, ok := s.uses.models[id]; ok && old.rests == rests {
			out[id] = old
			continue
		}
		r, err := s.Model(ctx, id)
		if errors.Is(err, base.ErrNotFound) {
			continue
		} else if err != nil {
			return nil, err
		}
		began := time.Now()
		// A machine of the model in which nothing sits yet.
		m := &hw.Machine{Format: hw.FormatMachine, ID: "any", Chassis: id, Variant: r.Chassis.Variants(),
			Fitted: hw.Fitted{Memory: []hw.FittedModule{}, Drives: []hw.FittedDrive{}}}
		fits, err := plan.Fits(ctx, plan.Input{Chassis: r.Chassis, Machine: m, Parts: list,
			Request: &hw.Request{Format: hw.FormatRequest, Goals: hw.Goals{MemoryGB: hw.Known(hw.DecOf(1))}}})
		var large plan.TooLarge
		if errors.As(err, &large) {
			continue
		} else if err != nil {
			return nil, err
		}
		f := fitted{rests, map[string]plan.Fit{}}
		for i, fit := range fits {
			if fit != plan.FitNo {
				f.fits[list.Parts[i].ID] = fit
			}
		}
		out[id] = f
		time.Sleep(time.Since(began)) // pages come first
	}
	return out, nil
}

// allHelps plans for the newest machines with a wish; one that has not changed keeps what was found.
func (s *Jobs) allHelps(ctx context.Context) (map[string]helped, error) {
	var seen *stock.Stocked
	var how base.Settings
	var wishes []store.Wished
	var parts int64
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		if seen, err = s.ShelfNow(tx); err != nil {
			return err
		}
		if how, err = base.SettingsIn(tx); err != nil {
			return err
		}
		if parts, _, err = tx.ShelfChanged(); err != nil {
			return err
		}
		wishes, err = tx.Wished(mostHelped)
		return err
	})
	if err != nil {
		return nil, err
	}
	list := plentyOf(seen)
	rate, err := json.Marshal(how)
	if err != nil {
		return nil, err
	}
	out := map[string]helped{}
	for _, w := range wishes {
		rests := fmt.Sprint(w.MachineVersion, w.JobVersion, w.ModelVersion, parts, string(rate))
		if old, ok := s.uses.machines[w.MachineID]; ok && old.rests == rests {
			out[w.MachineID] = old
			continue
		}
		helps, err := s.helpsFor(ctx, w.MachineID, list)
		if errors.Is(err, base.ErrNotFound) {
			continue
		} else if err != nil {
			return nil, err
		}
		if helps != nil {
			out[w.MachineID] = helped{rests, helps}
		}
	}
	return out, nil
}

// helpsFor plans one machine's wish and says what each part of its options would give; nil where it
// cannot be planned.
func (s *Jobs) helpsFor(ctx context.Context, key string, list *hw.Parts) (map[string]Help, error) {
	var p Planned
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		p, err = s.Gather(tx, key, PlanQuery{})
		return err
	})
	var faults hw.Faults
	if errors.As(err, &faults) || err == nil && !p.Request.Asks() {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	p.Parts = list
	var large plan.TooLarge
	if err := p.Make(ctx); errors.As(err, &large) {
		return nil, nil
	} else if err != nil {
		return nil, err
	}
	out := map[string]Help{}
	for i := range p.Plan.Options {
		o := &p.Plan.Options[i]
		for _, b := range o.Buy {
			if _, has := out[b.Part]; !has {
				out[b.Part] = Help{key, p.Record.Machine.ID, gains(&p.Today, o)}
			}
		}
	}
	return out, nil
}

// gains says what an option makes of what is there today.
func gains(today *plan.Today, o *plan.Option) string {
	var out []string
	say := func(what, unit string, before hw.Maybe[hw.Dec], after hw.Dec) {
		was, known := before.Get()
		switch {
		case !known:
			out = append(out, fmt.Sprintf("%s %s %s", what, after, unit))
		case was != after:
			out = append(out, fmt.Sprintf("%s %s → %s %s", what, was, after, unit))
		}
	}
	if o.Memory != nil {
		before := hw.Maybe[hw.Dec]{}
		if today.Memory != nil {
			before = hw.Known(today.Memory.TotalGB)
		}
		say("memory", "GB", before, o.Memory.TotalGB)
	}
	if o.Storage != nil {
		before := hw.Maybe[hw.Dec]{}
		if today.Storage != nil {
			before = hw.Known(today.Storage.TotalGB)
		}
		say("storage", "GB", before, o.Storage.TotalGB)
	}
	if o.Battery != nil {
		if wh, ok := o.Battery.FullWh.Get(); ok {
			before := hw.Maybe[hw.Dec]{}
			if today.Battery != nil {
				before = today.Battery.FullWh
			}
			say("battery", "Wh", before, wh)
		}
	}
	if o.Wireless != nil {
		if is, ok := o.Wireless.Standard.Get(); ok &&
			(today.Wireless == nil || today.Wireless.Standard != o.Wireless.Standard) {
			out = append(out, hw.Standards.Says(is))
		}
	}
	return strings.Join(out, ", ")
}
