package work

import (
	"encoding/json"

	"yembo/core/run"
	"yembo/shop/jobs"
	"yembo/store"
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

// keepTimes keeps what a run that ended took, of each step and of all.
func keepTimes(tx store.Tx, r *store.Run, st *run.State, job *store.Job, left string) error {
	timings, err := json.Marshal(timingsOf(st))
	if err != nil {
		return err
	}
	targets, sure, err := wholeOf(tx, st, job, left)
	if err != nil {
		return err
	}
	return tx.EndRun(r.ID, *r.EndedAt, timings, targets, sure)
}

// wholeOf is what a run worked on, and how long hands were on all of it: nil where that measures nothing, for a pause lay in it
// or it was left as it was, or it is not the only run of its job.
func wholeOf(tx store.Tx, st *run.State, row *store.Job, left string) (targets string, sure *int64, err error) {
	record, err := jobs.ReadMachine(&row.Machine, row)
	if err != nil || record.Choice == nil {
		return "", nil, err
	}
	runs, err := tx.RunsOf(row.ID)
	if err != nil {
		return "", nil, err
	}
	ms := st.Hands.Milliseconds()
	for _, unsure := range st.Unsure {
		if unsure {
			left = "a pause"
		}
	}
	if left == "" && ms > 0 && len(runs) == 1 {
		sure = &ms
	}
	return jobs.TargetsOf(&record.Choice.Option), sure, nil
}
