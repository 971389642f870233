// Package supplier is a small stand-in for a supplier's service: a catalogue with prices, stock and days,
// asked over HTTP on this machine alone. It fails in the ways that such services fail, when told to.
package supplier

import (
	"encoding/json"
	"hash/fnv"
	"net/http"
	"sync"
	"time"

	"yembo/core/hw"
)

// Offer is what the supplier says of one part.
type Offer struct {
	Number     string `json:"number"`
	Name       string `json:"name"`
	PriceCents int64  `json:"price_cents"`
	Currency   string `json:"currency"`
	Stock      int    `json:"stock"`
	Days       int    `json:"days"`
}

// The faults that can be switched on.
const (
	Slow     = "slow"     // it answers after many seconds
	Down     = "down"     // it answers with a failure
	Dearer   = "dearer"   // prices are others than in the catalogue
	Gone     = "gone"     // it has nothing any more
	Nonsense = "nonsense" // what it answers is no offer
)

// Faults lists them.
var Faults = []string{Slow, Down, Dearer, Gone, Nonsense}

// Standin is the service. Its zero value has an empty catalogue.
type Standin struct {
	// SlowFor is how long a slow answer takes; 0 is twenty seconds.
	SlowFor time.Duration

	mu     sync.Mutex
	offers map[string]Offer
	fault  string
	asked  int
}

// New returns a service that sells the parts of a list: each has what a number made of its name says.
func New(parts []hw.Part, currency string) *Standin {
	s := &Standin{offers: map[string]Offer{}}
	for i := range parts {
		p := &parts[i]
		if p.Pulled() || p.Brought() {
			continue
		}
		h := fnv.New32a()
		h.Write([]byte(p.ID))
		n := h.Sum32()
		s.offers[p.ID] = Offer{p.ID, p.Name, p.PriceCents + int64(n%5)*10, currency, int(n % 40), 1 + int(n%4)}
	}
	return s
}

// Switch turns a fault on, "" turns all off.
func (s *Standin) Switch(fault string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.fault = fault
}

// Asked is how many requests came.
func (s *Standin) Asked() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.asked
}

// ServeHTTP answers GET /offers?number=N with an offer, 404 for a number that is not sold, and
// POST /fault?is=slow by switching a fault on.
func (s *Standin) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if r.Method == http.MethodPost && r.URL.Path == "/fault" {
		s.Switch(r.URL.Query().Get("is"))
		w.WriteHeader(http.StatusNoContent)
		return
	}
	if r.Method != http.MethodGet || r.URL.Path != "/offers" {
		http.NotFound(w, r)
		return
	}
	s.mu.Lock()
	s.asked++
	fault, offer := s.fault, s.offers[r.URL.Query().Get("number")]
	s.mu.Unlock()
	switch {
	case fault == Slow:
		wait := s.SlowFor
		if wait == 0 {
			wait = 20 * time.Second
		}
		select {
		case <-time.After(wait):
		case <-r.Context().Done():
			return
		}
	case fault == Down:
		http.Error(w, "out of order", http.StatusServiceUnavailable)
		return
	case fault == Nonsense:
		w.Write([]byte("<html>welcome to our shop</html>"))
		return
	}
	if offer.Number == "" || fault == Gone {
		http.NotFound(w, r)
		return
	}
	if fault == Dearer {
		offer.PriceCents += offer.PriceCents/10 + 1
	}
	w.Header().Set("Content-Type", "application/json")
	json.NewEncoder(w).Encode(offer)
}
