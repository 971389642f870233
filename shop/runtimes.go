package shop

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"yembo/core/hw"
	"yembo/core/run"
	"yembo/store"
)

// stepTime is how long hands were on one step of a run that ended.
type stepTime struct {
	Step string `json:"step"` // of the record
	Back bool   `json:"back,omitempty"`
	MS   int64  `json:"ms"`
	// Unsure says that a pause lay in it: it is kept and measures nothing.
	Unsure bool `json:"unsure,omitempty"`
}

// StepTimes is what jobs took for a step on the way in: how many, the median and the spread.
type StepTimes struct {
	N              int
	Median         hw.Dec // minutes
	Least, Longest hw.Dec
}

// enoughJobs is how many finished jobs measure a step (docs/rules.md, The way in).
const enoughJobs = 3

// Enough reports whether the median takes the place of the record's figure.
func (m *StepTimes) Enough() bool { return m.N >= enoughJobs }

// timingsOf are the times of a run that ends.
func timingsOf(st *run.State) []stepTime {
	var out []stepTime
	for i := range st.Plan.Steps {
		s := &st.Plan.Steps[i]
		tick, done := st.Done[s.Key]
		if !done || tick.Data.Skip || s.Kind != run.Down && s.Kind != run.Up {
			continue
		}
		out = append(out, stepTime{Step: s.ID, Back: s.Kind == run.Up, MS: st.Spent[s.Key].Milliseconds(), Unsure: st.Unsure[s.Key]})
	}
	return out
}

// measured is what the finished jobs of a model took, by step.
func measured(tx store.Tx, model string) (map[string]StepTimes, error) {
	rows, err := tx.TimingsOf(model)
	if err != nil {
		return nil, err
	}
	all := map[string][]int64{}
	for _, raw := range rows {
		var times []stepTime
		if err := json.Unmarshal(raw, &times); err != nil {
			return nil, fmt.Errorf("the times of a run: %w", err)
		}
		for _, t := range times {
			if !t.Back && !t.Unsure && t.MS > 0 {
				all[t.Step] = append(all[t.Step], t.MS)
			}
		}
	}
	out := map[string]StepTimes{}
	for step, list := range all {
		slices.Sort(list)
		median := list[len(list)/2]
		if len(list)%2 == 0 {
			median = (list[len(list)/2-1] + list[len(list)/2]) / 2
		}
		out[step] = StepTimes{
			N:       len(list),
			Median:  minutesOfMS(median),
			Least:   minutesOfMS(list[0]),
			Longest: minutesOfMS(list[len(list)-1]),
		}
	}
	return out, nil
}

// StepTimesOf is what the finished jobs of a model took, by step of the way in.
func (s *Shop) StepTimesOf(ctx context.Context, model string) (map[string]StepTimes, error) {
	var out map[string]StepTimes
	err := s.store.View(ctx, func(tx store.Tx) (err error) {
		out, err = measured(tx, model)
		return err
	})
	return out, err
}

// minutesOfMS is a time in minutes, to a tenth.
func minutesOfMS(ms int64) hw.Dec {
	return hw.Minutes(ms * 1000 / time.Minute.Milliseconds()).Shown()
}

// timed is a record whose steps take the times that the settings ask for: the usual one of
// each kind of step, and where enough jobs measured a step their median.
func (s *Shop) timed(tx store.Tx, how *Settings, ch *hw.Chassis) (*hw.Chassis, error) {
	if !how.UsualTimes && !how.MeasuredTimes || len(ch.Steps) == 0 {
		return ch, nil
	}
	times := map[string]StepTimes{}
	if how.MeasuredTimes {
		var err error
		if times, err = measured(tx, ch.ID); err != nil {
			return nil, err
		}
	}
	out := *ch
	out.Steps = slices.Clone(ch.Steps)
	for i := range out.Steps {
		st := &out.Steps[i]
		if m := times[st.ID]; m.Enough() {
			st.Minutes = hw.Known(max(m.Median, hw.DecOf(1)/10))
		} else if how.UsualTimes {
			st.Minutes = hw.Maybe[hw.Dec]{}
		}
	}
	return &out, nil
}
