package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// StepTime is how long hands were on one step of a run that ended.
type StepTime struct {
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

// MeasuredSteps is what the finished jobs of a model took, by step.
func MeasuredSteps(tx store.Tx, model string) (map[string]StepTimes, error) {
	rows, err := tx.TimingsOf(model)
	if err != nil {
		return nil, err
	}
	all := map[string][]int64{}
	for _, raw := range rows {
		var times []StepTime
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
			Median:  MinutesOfMS(median),
			Least:   MinutesOfMS(list[0]),
			Longest: MinutesOfMS(list[len(list)-1]),
		}
	}
	return out, nil
}

// StepTimesOf is what the finished jobs of a model took, by step of the way in.
func (s *Jobs) StepTimesOf(ctx context.Context, model string) (map[string]StepTimes, error) {
	var out map[string]StepTimes
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		out, err = MeasuredSteps(tx, model)
		return err
	})
	return out, err
}

// MinutesOfMS is a time in minutes, to a tenth.
func MinutesOfMS(ms int64) hw.Dec {
	return hw.Minutes(ms * 1000 / time.Minute.Milliseconds()).Shown()
}

// Timed is a record whose steps take the times that the settings ask for: the usual one of
// each kind of step, and where enough jobs measured a step their median.
func (s *Jobs) Timed(tx store.Tx, how *base.Settings, ch *hw.Chassis) (*hw.Chassis, error) {
	if !how.UsualTimes && !how.MeasuredTimes || len(ch.Steps) == 0 {
		return ch, nil
	}
	times := map[string]StepTimes{}
	if how.MeasuredTimes {
		var err error
		if times, err = MeasuredSteps(tx, ch.ID); err != nil {
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
