package work

import (
	"yembo/core/run"
	"yembo/shop/jobs"
)

// timingsOf are the times of a run that ends.
func timingsOf(st *run.State) []jobs.StepTime {
	var out []jobs.StepTime
	for i := range st.Plan.Steps {
		s := &st.Plan.Steps[i]
		tick, done := st.Done[s.Key]
		if !done || tick.Data.Skip || s.Kind != run.Down && s.Kind != run.Up {
			continue
		}
		out = append(out, jobs.StepTime{Step: s.ID, Back: s.Kind == run.Up, MS: st.Spent[s.Key].Milliseconds(),
			Unsure: st.Unsure[s.Key]})
	}
	return out
}
