// Package billing is the money: quotes, their answers and links, invoices, payments.
package billing

import (
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/stock"
)

// Billing are the use cases of quotes and invoices.
type Billing struct {
	*base.Base
	*stock.Stock
	*jobs.Jobs
}

// New returns the money side of a workshop.
func New(j *jobs.Jobs) *Billing { return &Billing{Base: j.Base, Stock: j.Stock, Jobs: j} }
