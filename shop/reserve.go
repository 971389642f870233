package shop

import (
	"encoding/json"

	"yembo/core/plan"
	"yembo/store"
)

// reserve holds for a job what an option takes from the shelf, as far as it is free, and lets go
// what the job does not want any more. Let go, pieces go to the jobs that wait for them.
func (s *Shop) reserve(tx store.Tx, a Actor, job int64, buy []plan.Buy) error {
	holds, err := tx.HoldsOf(job)
	if err != nil {
		return err
	}
	asked := map[string]int{}
	for _, b := range buy {
		asked[b.Part] += b.Quantity
	}
	var freed []string
	had := map[string]store.Hold{}
	for _, h := range holds {
		had[h.PartID] = h
		if over := min(h.N, h.N+h.Fitted-asked[h.PartID]); over > 0 {
			err := s.move(tx, a, store.Movement{PartID: h.PartID, Kind: string(Released), Held: -over, JobID: &job})
			if err != nil {
				return err
			}
			freed = append(freed, h.PartID)
		}
	}
	for _, b := range buy {
		h := had[b.Part]
		if err := s.take(tx, a, job, b.Part, asked[b.Part]-h.N-h.Fitted); err != nil {
			return err
		}
	}
	for _, part := range freed {
		if err := s.allot(tx, a, part, job); err != nil {
			return err
		}
	}
	return nil
}

// take holds up to n free pieces of a part for a job.
func (s *Shop) take(tx store.Tx, a Actor, job int64, part string, n int) error {
	stock, err := tx.Stock(part)
	if err != nil {
		return err
	}
	if n = min(n, stock.Free()); n <= 0 {
		return nil
	}
	return s.move(tx, a, store.Movement{PartID: part, Kind: string(Reserved), Held: n, JobID: &job})
}

// allot gives what is free of a part to the open jobs that want it, the first first, but for one
// that just let it go; a job that waited for parts and now has them all is ready.
func (s *Shop) allot(tx store.Tx, a Actor, part string, but int64) error {
	all, err := wants(tx)
	if err != nil {
		return err
	}
	var given []int64
	for i := range all {
		w := &all[i]
		if w.part != part || w.missing() == 0 || w.job.ID == but {
			continue
		}
		before, err := tx.Stock(part)
		if err != nil {
			return err
		}
		if before.Free() <= 0 {
			break
		}
		if err := s.take(tx, a, w.job.ID, part, w.missing()); err != nil {
			return err
		}
		given = append(given, w.job.ID)
	}
	for _, job := range given {
		if err := s.arrived(tx, a, job); err != nil {
			return err
		}
	}
	return nil
}

// arrived makes a job ready that waited for parts and has them all.
func (s *Shop) arrived(tx store.Tx, a Actor, job int64) error {
	all, err := wants(tx)
	if err != nil {
		return err
	}
	for i := range all {
		if all[i].job.ID == job && all[i].missing() > 0 {
			return nil
		}
	}
	row, err := tx.Job(job)
	if err != nil {
		return err
	}
	var st State
	if err := json.Unmarshal(row.State, &st); err != nil {
		return err
	}
	if st.Waits != WaitsParts {
		return nil
	}
	st.become(State{Danger: st.Danger})
	if row.State, err = json.Marshal(st); err != nil {
		return err
	}
	row.UpdatedAt = s.Now()
	row.Version++
	if err := tx.SaveJob(&row, row.Version-1); err != nil {
		return err
	}
	return s.noteEvent(tx, a, kindMachine, row.MachineID,
		event{what: Label(job) + ": its parts are here, ready to go on", kind: eventWork, data: course{To: moveReady}.data(), job: job},
		nil)
}

// letGo lets everything go that is held for a job; what it wanted goes to others.
func (s *Shop) letGo(tx store.Tx, a Actor, job int64) error { return s.reserve(tx, a, job, nil) }

// reserveAgain holds what a job's choice wants, as when it is opened again.
func (s *Shop) reserveAgain(tx store.Tx, a Actor, job *store.Job) error {
	if job.Choice == nil {
		return nil
	}
	var c Choice
	if err := json.Unmarshal(job.Choice, &c); err != nil {
		return err
	}
	return s.reserve(tx, a, job.ID, c.Option.Buy)
}
