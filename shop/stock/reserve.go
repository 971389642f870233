package stock

import (
	"encoding/json"

	"yembo/core/plan"
	"yembo/shop/base"
	"yembo/store"
)

// Reserve holds for a job what an option takes from the shelf, as far as it is free, and lets go
// what the job does not want any more. Let go, pieces go to the jobs that wait for them.
func (s *Stock) Reserve(tx store.Tx, a base.Actor, job int64, buy []plan.Buy) error {
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
			err := s.BookMovement(tx, a, store.Movement{PartID: h.PartID, Kind: string(Released), Held: -over, JobID: &job})
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
func (s *Stock) take(tx store.Tx, a base.Actor, job int64, part string, n int) error {
	stock, err := tx.Stock(part)
	if err != nil {
		return err
	}
	if n = min(n, stock.Free()); n <= 0 {
		return nil
	}
	return s.BookMovement(tx, a, store.Movement{PartID: part, Kind: string(Reserved), Held: n, JobID: &job})
}

// allot gives what is free of a part to the open jobs that want it, the first first, but for one
// that just let it go; a job that waited for parts and now has them all is ready.
func (s *Stock) allot(tx store.Tx, a base.Actor, part string, but int64) error {
	all, err := Wants(tx)
	if err != nil {
		return err
	}
	var given []int64
	for i := range all {
		w := &all[i]
		if w.Part != part || w.Missing() == 0 || w.Job.ID == but {
			continue
		}
		before, err := tx.Stock(part)
		if err != nil {
			return err
		}
		if before.Free() <= 0 {
			break
		}
		if err := s.take(tx, a, w.Job.ID, part, w.Missing()); err != nil {
			return err
		}
		given = append(given, w.Job.ID)
	}
	for _, job := range given {
		if err := s.Jobs.Arrived(tx, a, job); err != nil {
			return err
		}
	}
	return nil
}

// LetGo lets everything go that is held for a job; what it wanted goes to others.
func (s *Stock) LetGo(tx store.Tx, a base.Actor, job int64) error { return s.Reserve(tx, a, job, nil) }

// ReserveAgain holds what a job's choice wants, as when it is opened again.
func (s *Stock) ReserveAgain(tx store.Tx, a base.Actor, job *store.Job) error {
	if job.Choice == nil {
		return nil
	}
	var c base.Choice
	if err := json.Unmarshal(job.Choice, &c); err != nil {
		return err
	}
	return s.Reserve(tx, a, job.ID, c.Option.Buy)
}
