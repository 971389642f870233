// Package shop is the use cases of the workshop. Each is one transaction, takes the person who acts,
// and writes what it changes to the record's history. They have rooms; here the rooms are put together.
package shop

import (
	"time"

	"yembo/shop/base"
	"yembo/shop/billing"
	"yembo/shop/care"
	"yembo/shop/jobs"
	"yembo/shop/people"
	"yembo/shop/records"
	"yembo/shop/stock"
	"yembo/shop/work"
	"yembo/store"
)

// Shop is the workshop on a data folder, all its rooms.
type Shop struct {
	*base.Base
	*records.Records
	*stock.Stock
	*jobs.Jobs
	*billing.Billing
	*work.Hands
	*care.Care
	*people.People
}

// New returns the workshop on an open store. now is the clock.
func New(s *store.Store, now func() time.Time) *Shop {
	b := base.New(s, now)
	r := &records.Records{Base: b}
	shelf := stock.New(b)
	j := jobs.New(r, shelf)
	money, hands := billing.New(j), work.New(j)
	shelf.Jobs, j.Bills, j.Runs = j, money, hands
	return &Shop{b, r, shelf, j, money, hands, care.New(j), people.New(b)}
}
