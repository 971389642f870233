// Package work is what hands do: the run at the bench, first openings, the proof, the report, the
// hand-over and what comes afterwards.
package work

import (
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/shop/stock"
)

// Hands are the use cases of the work at the bench and its proof.
type Hands struct {
	*base.Base
	*records.Records
	*stock.Stock
	*jobs.Jobs
	runs *runs
}

// New returns the bench of a workshop.
func New(j *jobs.Jobs) *Hands {
	return &Hands{Base: j.Base, Records: j.Records, Stock: j.Stock, Jobs: j, runs: newRuns()}
}
