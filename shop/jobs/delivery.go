package jobs

import (
	"context"

	"yembo/core/week"
	"yembo/shop/base"
	"yembo/store"
)

// BrokenBy are the jobs whose promises would not be kept any more if an order came at another time, "" for one that is not
// known; nothing is kept.
func (s *Jobs) BrokenBy(ctx context.Context, order int64, due base.Due) ([]BenchRow, error) {
	var out []BenchRow
	err := s.Store.View(ctx, func(tx store.Tx) error {
		c, err := s.CalendarIn(tx)
		if err != nil {
			return err
		}
		plan := func(moved bool) ([]BenchRow, error) {
			lacks, err := s.LacksIn(tx)
			if err != nil {
				return nil, err
			}
			for _, list := range lacks {
				for i := range list {
					if o := list[i].Order; moved && o != nil && o.Order == order {
						o.Due = due
					}
				}
			}
			rows, err := s.rowsWith(tx, lacks)
			if err != nil {
				return nil, err
			}
			rank(rows)
			_, _, err = scheduled(rows, &c)
			return rows, err
		}
		was, err := plan(false)
		if err != nil {
			return err
		}
		is, err := plan(true)
		kept := map[int64]bool{}
		for i := range was {
			kept[was[i].JobID] = was[i].Plan != nil && was[i].Stands != week.Broken
		}
		for i := range is {
			if r := &is[i]; kept[r.JobID] && !r.Record.Promised.IsZero() && (r.Plan == nil || r.Stands == week.Broken) {
				out = append(out, *r)
			}
		}
		return err
	})
	return out, err
}
