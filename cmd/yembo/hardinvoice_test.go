package main

import (
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"net/url"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"
)

// TestInvoicesKilled: twenty clients charge and cancel at once while the program is killed; the invoices
// have numbers without a gap, each once, and none that was answered is lost.
func TestInvoicesKilled(t *testing.T) {
	dir := seeded(t)
	var jobs []int
	p := serving(t, dir)
	for id := range 14 {
		if _, body := p.get(fmt.Sprintf("/jobs/%d/bill", id+1)); strings.Contains(body, "Make the invoice") {
			jobs = append(jobs, id+1)
		}
	}
	p.kill()
	if len(jobs) == 0 {
		t.Fatal("no job can be charged")
	}
	var n atomic.Int64
	var mu sync.Mutex
	answered := map[string]int{}
	rounds := length(2, 40)
	for range rounds {
		p := serving(t, dir)
		var clients sync.WaitGroup
		for c := range 20 {
			clients.Go(func() {
				for {
					job := jobs[(c+rand.IntN(len(jobs)))%len(jobs)]
					status, _, to := p.post(fmt.Sprintf("/jobs/%d/invoice", job), url.Values{"token": {mark(n.Add(1))}})
					if status == 0 {
						return
					}
					if status != 303 { // another has charged it: that one is cancelled
						_, body := p.get(fmt.Sprintf("/jobs/%d/bill", job))
						if at := strings.LastIndex(body, "to be paid"); at >= 0 {
							if at = strings.LastIndex(body[:at], "/invoices/"); at >= 0 {
								to, _, _ = strings.Cut(body[at:], `"`)
							}
						}
					} else {
						mu.Lock()
						answered[to]++
						mu.Unlock()
					}
					if to == "" {
						continue
					}
					status, _, contra := p.post(to+"/cancel", url.Values{"token": {mark(n.Add(1))}, "/why": {"tried"}})
					if status == 303 {
						mu.Lock()
						answered[contra]++
						mu.Unlock()
					}
				}
			})
		}
		time.Sleep(time.Duration(400+rand.IntN(length(300, 800))) * time.Millisecond)
		p.kill()
		clients.Wait()
	}
	p = serving(t, dir)
	_, body := p.get("/invoices/table.csv")
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(body, "\ufeff"))).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	there := map[string]bool{}
	last := 0
	for _, row := range rows[1:] {
		if row[0] != "invoice" || there[row[1]] {
			continue
		}
		last++
		if want := fmt.Sprintf("I-%04d", last); row[1] != want {
			t.Fatalf("after %d comes %s", last-1, row[1])
		}
		there[row[1]] = true
	}
	for to, times := range answered {
		var number int
		if _, err := fmt.Sscanf(to, "/invoices/%d", &number); err != nil || times != 1 || !there[fmt.Sprintf("I-%04d", number)] {
			t.Errorf("%s was answered %d times; it is there: %v", to, times, there[fmt.Sprintf("I-%04d", number)])
		}
	}
	if last < rounds { // so many at least that something was killed on its way
		t.Errorf("only %d invoices in %d rounds", last, rounds)
	}
	t.Logf("%d kills, %d invoices by 20 clients, %d answered, no gap", rounds, last, len(answered))
	p.kill()
	sound(t, dir)
}
