// Package stock is the shelf: parts and their movements, orders, price lists, what a supplier's service
// says, and what is held for the jobs.
package stock

import (
	"net/http"

	"yembo/shop/base"
	"yembo/store"
)

// Stock are the use cases of the shelf.
type Stock struct {
	*base.Base
	// Jobs hears what comes in for the jobs.
	Jobs Jobs
	// Ask is the client by which a supplier's service is asked.
	Ask   *http.Client
	shelf *shelf
	ask   *asking
}

// Jobs is what the shelf needs of the jobs that its pieces are held for.
type Jobs interface {
	// Arrived makes a job ready that waited for parts, when all of them are here.
	Arrived(tx store.Tx, a base.Actor, job int64) error
}

// New returns the shelf of a workshop. Its Jobs are to be told before it is used.
func New(b *base.Base) *Stock {
	return &Stock{Base: b, shelf: &shelf{parts: -1},
		Ask: &http.Client{Timeout: askTimeout}, ask: &asking{offers: map[string]Offer{}}}
}
