// Package jobs is machines and what is wanted of them: taken in, read out, planned, moved along,
// corrected, by customer; and what their records hold of quotes and proofs.
package jobs

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"sync"
	"sync/atomic"

	"yembo/core/hw"
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
	open  *openModels
	// begun says that a new shop has done its first steps: it does not begin twice.
	begun atomic.Bool
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
	return &Jobs{Base: r.Base, Records: r, Stock: s, uses: &uses{}, open: &openModels{of: map[string]openModel{}}}
}

// openModels keeps the records that the bench list reads at every look, so that each is opened once. Nobody may
// change what it holds.
type openModels struct {
	mu sync.Mutex
	of map[string]openModel
}

type openModel struct {
	doc    []byte
	record *hw.Chassis
}

// record is a model's record out of its row.
func (o *openModels) record(row *store.Model) (*hw.Chassis, error) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if kept := o.of[row.ID]; bytes.Equal(kept.doc, row.Doc) && kept.record != nil {
		return kept.record, nil
	}
	ch := &hw.Chassis{}
	if err := json.Unmarshal(row.Doc, ch); err != nil {
		return nil, fmt.Errorf("model %s: %w", row.ID, err)
	}
	if len(o.of) >= mostOpen {
		clear(o.of)
	}
	o.of[row.ID] = openModel{row.Doc, ch}
	return ch, nil
}

// mostOpen is how many records are kept open: those of the jobs that are open in a large shop.
const mostOpen = 200
