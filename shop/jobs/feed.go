package jobs

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"time"

	"yembo/exchange"
	"yembo/shop/base"
	"yembo/store"
)

// NewFeed makes the address of somebody's calendar, in place of the one they had, and returns its key: it is shown this once.
// full names machines and work; who may not work at the benches has what is taken alone.
func (s *Jobs) NewFeed(ctx context.Context, a base.Actor, full bool) (string, error) {
	raw := make([]byte, 16)
	if _, err := rand.Read(raw); err != nil {
		return "", err
	}
	key := hex.EncodeToString(raw)
	return key, s.Store.Update(ctx, func(tx store.Tx) error {
		c, err := s.draftIn(tx)
		if err != nil {
			return err
		}
		v := &c.Arr
		if v.Shop == "" {
			v.Shop, v.Key = rand.Text(), rand.Text()
		}
		v.Feeds = slices.DeleteFunc(v.Feeds, func(f Feed) bool { return f.Person == a.Name })
		v.Feeds = append(v.Feeds, Feed{Person: a.Name, Hash: base.KeyHash(key), Full: full, Made: c.Now})
		if err := putArranged(tx, v); err != nil {
			return err
		}
		return s.NoteJournal(tx, a, base.JournalWeek, "calendar address made; the one before it is dead")
	})
}

// FeedOf is the address that somebody has, the zero Feed for none.
func (s *Jobs) FeedOf(ctx context.Context, person string) (Feed, error) {
	var out Feed
	err := s.Store.View(ctx, func(tx store.Tx) error {
		v, err := arrangedIn(tx)
		for _, f := range v.Feeds {
			if f.Person == person {
				out = f
			}
		}
		return err
	})
	return out, err
}

// ReadFeed is the calendar of an address: the week as it was last shown to all. The error is store.ErrNotFound for an address
// that is none, or of somebody who has left. The journal says once who reads it since when.
func (s *Jobs) ReadFeed(ctx context.Context, key string) ([]byte, error) {
	if err := s.showAlone(ctx); err != nil {
		return nil, err
	}
	var out []byte
	first := false
	err := s.Store.View(ctx, func(tx store.Tx) error {
		c, at, err := s.feedAt(tx, key)
		if err != nil {
			return err
		}
		first = c.Arr.Feeds[at].Read.IsZero()
		out, err = s.calendar(tx, &c, &c.Arr.Feeds[at])
		return err
	})
	if err != nil || !first {
		return out, err
	}
	return out, s.Store.Update(ctx, func(tx store.Tx) error {
		c, at, err := s.feedAt(tx, key)
		if err != nil || !c.Arr.Feeds[at].Read.IsZero() {
			return err
		}
		c.Arr.Feeds[at].Read = c.Now
		if err := putArranged(tx, &c.Arr); err != nil {
			return err
		}
		return s.NoteJournal(tx, base.Actor{Name: c.Arr.Feeds[at].Person}, base.JournalWeek, "calendar read for the first time")
	})
}

// showAlone shows the week as it is where one person works: nobody presses anything to show it to others.
func (s *Jobs) showAlone(ctx context.Context) error {
	stale := false
	err := s.Store.View(ctx, func(tx store.Tx) error {
		c, err := s.draftIn(tx)
		if err != nil || len(c.How.AtBench) > 1 {
			return err
		}
		w, err := s.weekIn(tx, c)
		stale = c.Arr.Shown == nil || len(w.Changes) > 0
		return err
	})
	if err != nil || !stale {
		return err
	}
	return s.Store.Update(ctx, func(tx store.Tx) error {
		c, err := s.draftIn(tx)
		if err != nil {
			return err
		}
		return s.showIn(tx, &c, "")
	})
}

// feedAt finds an address.
func (s *Jobs) feedAt(tx store.Tx, key string) (Calendar, int, error) {
	c, err := s.draftIn(tx)
	if err != nil {
		return c, 0, err
	}
	hash := base.KeyHash(key)
	at := slices.IndexFunc(c.Arr.Feeds, func(f Feed) bool { return hmac.Equal([]byte(f.Hash), []byte(hash)) })
	if at < 0 || len(c.How.Technicians) > 0 && !slices.Contains(c.How.Technicians, c.Arr.Feeds[at].Person) {
		return c, 0, store.ErrNotFound
	}
	return c, at, nil
}

// calendar is the week as it was shown, a time a stay on a bench, and the closed days. Neither customer nor complaint, price nor
// note is ever in it; without rights not even the machine.
func (s *Jobs) calendar(tx store.Tx, c *Calendar, f *Feed) ([]byte, error) {
	v := &c.Arr
	full := f.Full && (len(c.How.AtBench) == 0 || slices.Contains(c.How.AtBench, f.Person))
	var events []exchange.Event
	uid := func(name string) string {
		if full {
			return name + "@" + v.Shop
		}
		mac := hmac.New(sha256.New, []byte(v.Key))
		mac.Write([]byte(name))
		return hex.EncodeToString(mac.Sum(nil)[:16]) + "@" + v.Shop
	}
	stamp := f.Made
	if v.Shown != nil {
		stamp = v.Shown.At
		for i := range v.Shown.Stays {
			x := &v.Shown.Stays[i]
			if !x.Gone.IsZero() && c.Now.Sub(x.Gone) > keptGone {
				continue
			}
			e := exchange.Event{UID: uid(fmt.Sprintf("%d-%d", x.Job, x.N)), Sequence: x.Sequence, Stamp: x.Shown, From: x.Start, To: x.End,
				Location: fmt.Sprintf("Bench %d", x.Bench), Cancelled: !x.Gone.IsZero(), Summary: "taken"}
			if full {
				e.Private = true
				var err error
				if e.Summary, err = s.stayWords(tx, x.Job); err != nil {
					return nil, err
				}
			}
			events = append(events, e)
		}
	}
	for _, d := range newPlanner(c).r.Days {
		on, err := time.Parse(time.DateOnly, d.On)
		if err != nil {
			return nil, err
		}
		events = append(events, exchange.Event{UID: uid("closed-" + d.On), Stamp: stamp, From: on, Day: true, Summary: "closed"})
	}
	return exchange.Calendar("Benches", events), nil
}

// stayWords are a job's label, its machine and its work; of one that is gone its label.
func (s *Jobs) stayWords(tx store.Tx, job int64) (string, error) {
	row, err := tx.Job(job)
	if errors.Is(err, store.ErrNotFound) {
		return base.Label(job), nil
	}
	if err != nil {
		return "", err
	}
	r, err := ReadMachine(&row.Machine, &row)
	if err != nil {
		return "", err
	}
	says := base.Label(job) + " " + r.Machine.ID
	if r.Choice != nil {
		says += ": " + placesOf(r.Chassis, &r.Choice.Option)
	}
	return says, nil
}
