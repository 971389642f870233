// Package care looks after the data: copies, checks, removal, forgetting, and what is known of one person.
package care

import (
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/shop/stock"
)

// Care are the use cases that look after the data.
type Care struct {
	*base.Base
	*records.Records
	*stock.Stock
	*jobs.Jobs
	care *care
}

// New returns the care of a workshop's data.
func New(j *jobs.Jobs) *Care {
	return &Care{Base: j.Base, Records: j.Records, Stock: j.Stock, Jobs: j, care: &care{}}
}
