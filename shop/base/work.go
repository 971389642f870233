package base

import (
	"context"
	"crypto/rand"
	"sync"
	"time"
)

// Work is something that takes long and is done aside, such as an import. One is done at a time,
// for each may need much of the machine. It can be left, looked at again and stopped.
type Work struct {
	ID       string
	What     string // in words
	By       string
	Began    time.Time
	Done, Of int // of what it goes through, 0 of 0 before it is known
	Ended    bool
	Stopped  bool // somebody asked for it
	Result   any  // of one that ended, what its kind of work gives
	Err      error

	token string
	stop  context.CancelFunc
	end   chan struct{}
}

// workbench is the work under way and what came of the last ones.
type workbench struct {
	mu   sync.Mutex
	last []*Work // the newest last
}

// keptWork is how many pieces of work can still be looked at when they have ended.
const keptWork = 20

// Begin does something aside and returns its id; the same form sent again leads to the same. Where
// something else is under way that one is returned, and ok is false. do is told how to say how far it
// is, and to stop by its context.
func (s *Base) Begin(a Actor, token, what string,
	do func(ctx context.Context, step func(done, of int)) (any, error)) (id string,
	ok bool) {
	s.work.mu.Lock()
	defer s.work.mu.Unlock()
	for _, w := range s.work.last {
		if same := token != "" && w.token == token; same || !w.Ended {
			return w.ID, same
		}
	}
	ctx, stop := context.WithCancel(context.Background())
	w := &Work{ID: rand.Text(), What: what, By: a.Name, Began: s.Now(), token: token, stop: stop,
		end: make(chan struct{})}
	s.work.last = append(s.work.last, w)
	if len(s.work.last) > keptWork {
		s.work.last = s.work.last[1:]
	}
	go func() {
		defer stop()
		result, err := do(ctx, func(done, of int) {
			s.work.mu.Lock()
			defer s.work.mu.Unlock()
			w.Done, w.Of = done, of
		})
		s.work.mu.Lock()
		defer s.work.mu.Unlock()
		w.Result, w.Err, w.Ended = result, err, true
		close(w.end)
	}()
	return w.ID, true
}

// Work says how far something is; it waits a moment for its end.
func (s *Base) Work(ctx context.Context, id string, wait time.Duration) (Work, error) {
	w := s.work.find(id)
	if w == nil {
		return Work{}, ErrNotFound
	}
	moment, cancel := context.WithTimeout(ctx, wait)
	defer cancel()
	select {
	case <-w.end:
	case <-moment.Done():
	}
	s.work.mu.Lock()
	defer s.work.mu.Unlock()
	return *w, nil
}

// UnderWay is the id of what is being done aside, "" for nothing.
func (s *Base) UnderWay() string {
	s.work.mu.Lock()
	defer s.work.mu.Unlock()
	for _, w := range s.work.last {
		if !w.Ended {
			return w.ID
		}
	}
	return ""
}

// StopWork asks something to stop. What it has stored stays stored.
func (s *Base) StopWork(id string) error {
	w := s.work.find(id)
	if w == nil {
		return ErrNotFound
	}
	s.work.mu.Lock()
	defer s.work.mu.Unlock()
	w.Stopped = !w.Ended
	w.stop()
	return nil
}

func (b *workbench) find(id string) *Work {
	b.mu.Lock()
	defer b.mu.Unlock()
	for _, w := range b.last {
		if w.ID == id {
			return w
		}
	}
	return nil
}
