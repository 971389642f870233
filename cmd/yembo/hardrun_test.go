package main

import (
	"fmt"
	"math/rand/v2"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"
)

// TestRunKilled: several tablets tick, take back and note in one run while the program is killed; each
// sends what was not answered again under the same name, as the page does. Nothing that was answered is
// lost, and nothing is there twice.
func TestRunKilled(t *testing.T) {
	dir := seeded(t)
	p := serving(t, dir)
	if status, body, _ := p.post("/jobs/6/run", url.Values{"token": {mark(1)}, "/bench": {"2"}, "/why": {"tried"}}); status != 303 {
		t.Fatalf("the run was not begun: %d %s", status, body)
	}
	p.kill()
	const tablets, most = 6, 500
	rounds := length(3, 40)
	sent := make([]int, tablets) // how many notes each tablet made
	waiting := make([]url.Values, tablets)
	answered := make([]map[string]bool, tablets)
	for c := range answered {
		answered[c] = map[string]bool{}
	}
	for range rounds {
		p := serving(t, dir)
		var clients sync.WaitGroup
		for c := range tablets {
			clients.Go(func() {
				for {
					if waiting[c] == nil {
						if sent[c] >= most {
							return
						}
						name := fmt.Sprintf("tablet-%d-%d", c, sent[c])
						sent[c]++
						waiting[c] = url.Values{"client": {name}, "kind": {"note"}, "text": {"<" + name + ">"}, "step": {"down:power-off"}}
						switch rand.IntN(4) {
						case 0:
							waiting[c].Set("kind", "tick")
						case 1:
							waiting[c].Set("kind", "undo")
						}
					}
					status, _, _ := p.post("/jobs/6/run/event", waiting[c])
					if status == 0 {
						return
					}
					if status != 303 {
						t.Errorf("%s was answered with %d", waiting[c].Get("client"), status)
						return
					}
					if waiting[c].Get("kind") == "note" {
						answered[c][waiting[c].Get("text")] = true
					}
					waiting[c] = nil
				}
			})
		}
		time.Sleep(time.Duration(200+rand.IntN(length(200, 700))) * time.Millisecond)
		p.kill()
		clients.Wait()
	}
	p = serving(t, dir)
	_, body := p.get("/jobs/6/run")
	all := 0
	for c := range tablets {
		for text := range answered[c] {
			all++
			if n := strings.Count(body, strings.NewReplacer("<", "&lt;", ">", "&gt;").Replace(text)); n != 1 {
				t.Errorf("%s was answered, and is there %d times", text, n)
			}
		}
	}
	if all < rounds*2 { // a slow machine answers few before it is killed
		t.Errorf("only %d notes were answered in %d rounds", all, rounds)
	}
	t.Logf("%d kills, %d notes of %d tablets answered, each there once", rounds, all, tablets)
	p.kill()
	sound(t, dir)
}
