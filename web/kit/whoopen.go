package kit

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"yembo/core/run"
	"yembo/shop/jobs"
	"yembo/shop/work"
)

// OpenView is what lies open on the bench of a shared screen: which machine, how far the work on it is, and what is next.
type OpenView struct {
	Tag, Model, Customer, Promised string
	Step, Steps                    int // the one that is next, of how many
	Does, Before                   string
	Stopped                        string
	Way, Done                      string // of the drawing: the whole way in and back, and what is done of it
	X, Y                           float64
	Minutes                        string
}

// The drawing of the way in and back, in pixels: how wide it is, where the surface lies, how deep the deepest step.
const (
	wayWide, wayTop, wayDeep = 360.0, 8.0, 80.0
)

// openOn is what lies open on a bench, nil where nothing does.
func (s *Site) openOn(ctx context.Context, bench int) (*OpenView, error) {
	if bench == 0 {
		return nil, nil
	}
	rows, err := s.Shop.BenchList(ctx)
	if err != nil {
		return nil, err
	}
	for i := range rows {
		row := &rows[i]
		if row.Class != jobs.ClassRunning || row.Bench != bench {
			continue
		}
		v := &OpenView{Tag: row.Record.Machine.ID, Model: row.Record.Chassis.Name(), Customer: row.Record.Customer}
		if at := row.Record.Promised; !at.IsZero() {
			v.Promised = Stamp(at)
		}
		r, err := s.Shop.Run(ctx, row.JobID)
		switch {
		case errors.Is(err, work.ErrNoRun): // it was begun by hand
		case err != nil:
			return nil, err
		case r.Ended.IsZero() && !r.First:
			v.of(r.State)
		}
		return v, nil
	}
	return nil, nil
}

// of tells how far a run is, and draws it: minutes across, steps down.
func (v *OpenView) of(st *run.State) {
	p := st.Plan
	v.Stopped, v.Steps, v.Step = st.Stopped, len(p.Steps), st.Next+1
	deepest, total := 1, p.Minutes
	for i := range p.Steps {
		deepest = max(deepest, p.Steps[i].Depth)
		total = max(total, p.Steps[i].Begins+p.Steps[i].Lasts)
	}
	if total == 0 {
		return // a record without minutes has no length
	}
	v.Minutes = total.Shown().String()
	way := strings.Builder{}
	fmt.Fprintf(&way, "M0 %.0f", wayTop)
	v.Y = wayTop
	for i := range p.Steps {
		x := &p.Steps[i]
		if i == st.Next {
			v.Done = way.String()
		}
		at := wayWide * float64(x.Begins+x.Lasts) / float64(total)
		deep := wayTop + wayDeep*float64(x.Depth)/float64(deepest)
		fmt.Fprintf(&way, "L%.1f %.1f", at, deep)
		if i < st.Next {
			v.X, v.Y = at, deep
		}
	}
	v.Way = way.String()
	if st.Next >= len(p.Steps) {
		v.Done, v.Step = v.Way, 0
		return
	}
	v.Does = p.Steps[st.Next].Does
	if st.Next > 0 {
		v.Before = p.Steps[st.Next-1].Does
	}
}
