package base

import (
	"yembo/store"
)

// RowsOfPage is how many rows a page of a list shows.
const RowsOfPage = 50

// ListQuery is what a list is asked for: words, where the jobs stand, the order, the page from 1.
type ListQuery struct {
	Words, Where, Sort string
	Customer           int64
	Page               int
}

// Store is what the data file is asked for, at a number of rows a page.
func (q ListQuery) Store(rows int) store.ListQuery {
	return store.ListQuery{Words: q.Words, Customer: q.Customer, Where: q.Where, Sort: q.Sort,
		From: (max(q.Page, 1) - 1) * rows, Limit: rows}
}
