package main

import (
	"math/rand/v2"
	"net/url"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"golang.org/x/sys/unix"
)

// TestKilled: killed at any moment, the program loses nothing that it had answered, does nothing twice
// and leaves nothing half-done.
func TestKilled(t *testing.T) {
	dir := seeded(t)
	var n atomic.Int64
	var mu sync.Mutex
	answered := map[string]bool{}
	rounds := length(2, 80)
	for range rounds {
		p := serving(t, dir)
		var writers sync.WaitGroup
		for range 6 {
			writers.Go(func() {
				for {
					m := mark(n.Add(1))
					// Every other one is sent twice, as by a double click.
					status, _, _ := p.post("/jobs/3/contacts", note(m))
					if status == 0 {
						return
					}
					if status != 303 {
						t.Errorf("answered %d", status)
						return
					}
					mu.Lock()
					answered[m] = true
					mu.Unlock()
					if n.Load()%2 == 0 {
						p.post("/jobs/3/contacts", note(m))
					}
				}
			})
		}
		time.Sleep(time.Duration(50+rand.IntN(length(150, 400))) * time.Millisecond)
		p.kill()
		writers.Wait()
	}
	p := serving(t, dir)
	_, body := p.get("/customers/2/known")
	there := marks(body)
	for m := range answered {
		if there[m] == 0 {
			t.Errorf("%s was answered and is lost", m)
		}
	}
	for m, times := range there {
		if times != 1 {
			t.Errorf("%s is there %d times", m, times)
		}
	}
	if len(answered) < rounds {
		t.Errorf("only %d writes in %d rounds", len(answered), rounds)
	}
	t.Logf("%d kills, %d answered writes, none lost", rounds, len(answered))
	p.kill()
	sound(t, dir)
}

// TestFull: with no room left on the disk everything that was stored can be read, a form says what is
// wrong and keeps what was typed, and when there is room again it goes on by itself.
func TestFull(t *testing.T) {
	dir := seeded(t)
	p := serving(t, dir)
	limit := func(bytes uint64) {
		t.Helper()
		to := &unix.Rlimit{Cur: bytes, Max: unix.RLIM_INFINITY}
		if err := unix.Prlimit(p.cmd.Process.Pid, unix.RLIMIT_FSIZE, to, nil); err != nil {
			t.Skip("the size of files cannot be limited here")
		}
	}
	if status, _, _ := p.post("/jobs/3/contacts", note("aa1zz")); status != 303 {
		t.Fatal(status)
	}
	limit(64 << 10)
	long := note("aa2zz")
	long.Set("/agreed", strings.Repeat("a long talk ", 300))
	status, body := 303, ""
	for n := 0; status == 303 && n < 500; n++ {
		long.Set("token", mark(int64(1000+n)))
		status, body, _ = p.post("/jobs/3/contacts", long)
	}
	if status != 507 || !strings.Contains(body, "The disk is full") || !strings.Contains(body, "a long talk") ||
		!strings.Contains(body, "Send again") {
		t.Errorf("on a full disk: %d %.300s", status, body)
	}
	if status, _ := p.get("/jobs/3"); status != 200 {
		t.Errorf("what is stored cannot be read: %d", status)
	}
	limit(unix.RLIM_INFINITY)
	long.Set("/said", "aa3zz")
	if status, _, _ := p.post("/jobs/3/contacts", long); status != 303 {
		t.Errorf("with room again: %d", status)
	}
	if _, body := p.get("/customers/2/known"); marks(body)["aa1zz"] != 1 || marks(body)["aa3zz"] != 1 {
		t.Errorf("%v", marks(body))
	}
	p.kill()
	sound(t, dir)
}

// TestAtOnce: of many who change one record at the same moment each is either stored or told, and the
// last one stored stands.
func TestAtOnce(t *testing.T) {
	dir := seeded(t)
	p := serving(t, dir)
	clients := length(12, 50)
	var stored, told atomic.Int64
	var all sync.WaitGroup
	for i := range clients {
		all.Go(func() {
			f := url.Values{"do": {"save"}, "/customer": {"Wath River Ferries"}, "/contact": {mark(int64(i))},
				"then:/customer": {"Wath River Ferries"}, "then:/contact": {"ticket desk, 015 550 148"}}
			switch status, body, _ := p.post("/customers/2", f); {
			case status == 303:
				stored.Add(1)
			case status == 409 && strings.Contains(body, mark(int64(i))):
				told.Add(1)
			default:
				t.Errorf("%d %.200s", status, body)
			}
		})
	}
	all.Wait()
	if stored.Load() != 1 || told.Load() != int64(clients-1) {
		t.Errorf("of %d clients who saw the same %d were stored and %d told", clients, stored.Load(), told.Load())
	}
	t.Logf("%d clients on one record: %d stored, %d shown what the other changed", clients, stored.Load(), told.Load())
	p.kill()
	sound(t, dir)
}
