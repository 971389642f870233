package jobs

import (
	"context"
	"strconv"

	"yembo/shop/base"
	"yembo/shop/records"
	"yembo/store"
)

// AddJobPhoto keeps a photo of a machine as it came. The error is hw.Faults where the file
// cannot be taken.
func (s *Jobs) AddJobPhoto(ctx context.Context, a base.Actor, token string, job int64, in records.PhotoEntry) error {
	j, err := s.Job(ctx, job)
	if err != nil {
		return err
	}
	in.Fact, in.On = "", s.Today()
	row, err := records.ReadPhoto(ctx, j.Chassis, in)
	if err != nil {
		return err
	}
	row.Kind, row.Record, row.By, row.CreatedAt = base.KindJob, strconv.FormatInt(job, 10), a.Name, s.Now()
	_, err = s.Once(ctx, token, func(tx store.Tx) (string, error) {
		id, err := s.StorePhoto(tx, a, row)
		return strconv.FormatInt(id, 10), err
	})
	return err
}
