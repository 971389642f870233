// Package jobs is machines and what is wanted of them: taken in, read out, planned, moved along,
// corrected, by customer; and what their records hold of quotes and proofs.
package jobs

import (
	"context"

	"yembo/core/run"
	"yembo/shop/base"
	"yembo/shop/records"
	"yembo/shop/stock"
	"yembo/store"
)

// Jobs are the use cases of customers, machines and jobs.
type Jobs struct {
	*base.Base
	*records.Records
	*stock.Stock
	// Bills and Runs are the rooms above this one that a job's course asks.
	Bills Bills
	Runs  Runs
	uses  *uses
}

// Bills is what a job needs of what is charged for it.
type Bills interface {
	// DueIn says in words what is still to be charged or paid for a job.
	DueIn(tx store.Tx, job int64) ([]string, error)
}

// Runs is what a job needs of the work at the bench.
type Runs interface {
	// TellRun wakes whoever looks at the run of a job.
	TellRun(ctx context.Context, job int64)
	// KeepEvent adds an event to a run.
	KeepEvent(tx store.Tx, id int64, e *run.Event) error
}

// New returns the jobs of a workshop. Their Bills and Runs are to be told before they are used.
func New(r *records.Records, s *stock.Stock) *Jobs {
	return &Jobs{Base: r.Base, Records: r, Stock: s, uses: &uses{}}
}
