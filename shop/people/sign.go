package people

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// hashes are how passwords and PINs are hashed: argon2id (RFC 9106) with 46 MiB and two passes. Each takes 60 to 300 ms on the
// small machines that shops have.
var hashes = &argon2id.Params{Memory: 46 * 1024, Iterations: 2, Parallelism: 2, SaltLength: 16, KeyLength: 32}

func (s *People) hash(text string) (string, error) {
	s.hashing.Lock()
	defer s.hashing.Unlock()
	return argon2id.CreateHash(text, hashes)
}

func (s *People) matches(text, hash string) (bool, error) {
	if hash == "" {
		return false, nil
	}
	s.hashing.Lock()
	defer s.hashing.Unlock()
	return argon2id.ComparePasswordAndHash(text, hash)
}

// secrets hashes what was told to be secret, before any transaction: it takes long. A PIN that another has is refused, for on a
// shared screen one could take the other's face.
func (s *People) secrets(ctx context.Context, e *Entry) (password, pin string, err error) {
	var faults hw.Faults
	e.check(&faults, nil)
	if faults.Err() != nil {
		return "", "", nil // the transaction tells of all that is wrong
	}
	if e.Password != "" {
		if password, err = s.hash(e.Password); err != nil {
			return "", "", err
		}
	}
	if e.PIN == "" {
		return password, "", nil
	}
	all, err := s.People(ctx)
	if err != nil {
		return "", "", err
	}
	for i := range all {
		if all[i].ID == e.ID || all[i].Left != nil {
			continue
		}
		same, err := s.matches(e.PIN, all[i].pinned)
		if err != nil {
			return "", "", err
		}
		if same {
			return "", "", hw.Faults{{Pointer: "/pin", Text: "another one is needed: a colleague has this PIN"}}
		}
	}
	pin, err = s.hash(e.PIN)
	return password, pin, err
}

// WaitError means that too many wrong tries were made: how long to wait before the next.
type WaitError struct{ For time.Duration }

func (e WaitError) Error() string {
	return fmt.Sprintf("wait %d s before the next try", int((e.For+time.Second-1)/time.Second))
}

// WrongError means that a password or a PIN is not the one; the next try can be made after a while.
type WrongError struct {
	What string
	Wait time.Duration
}

func (e WrongError) Error() string {
	return fmt.Sprintf("that is not the %s; the next try counts after %d s", e.What, int((e.Wait+time.Second-1)/time.Second))
}

// longestWait is how long a try waits at most: nobody is locked out for good.
const longestWait = 5 * time.Minute

// tries counts wrong tries, by person and by address.
type tries struct {
	mu  sync.Mutex
	bad map[string]*failed
}

type failed struct {
	n     int
	until time.Time
}

// wait is how long to wait yet for any of some keys.
func (t *tries) wait(now time.Time, keys ...string) time.Duration {
	t.mu.Lock()
	defer t.mu.Unlock()
	var longest time.Duration
	for _, k := range keys {
		if f := t.bad[k]; f != nil {
			longest = max(longest, f.until.Sub(now))
		}
	}
	return longest
}

// wrong counts a wrong try and tells how long the next one waits: 2 s, 4, 8, up to five minutes. An address waits as if half as
// many had been wrong, for many sit behind one.
func (t *tries) wrong(now time.Time, person, address string) time.Duration {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.bad == nil || len(t.bad) > 10_000 {
		t.bad = map[string]*failed{} // an attacker with many addresses fills no memory
	}
	var longest time.Duration
	for key, by := range map[string]int{person: 1, address: 2} {
		f := t.bad[key]
		if f == nil {
			f = &failed{}
			t.bad[key] = f
		}
		f.n++
		pause := min(time.Second<<min(f.n/by, 9), longestWait)
		if f.n < by {
			pause = 0
		}
		f.until = now.Add(pause)
		longest = max(longest, pause)
	}
	return longest
}

func (t *tries) right(keys ...string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	for _, k := range keys {
		delete(t.bad, k)
	}
}

// SignIn looks at a name and a password. The error is WrongError or WaitError where they do not let in; whether there is such a
// name is not told, and takes as long.
func (s *People) SignIn(ctx context.Context, name, password, address string) (Member, error) {
	var who *store.Person
	err := s.Store.View(ctx, func(tx store.Tx) error {
		all, err := tx.People()
		who = named(all, name)
		return err
	})
	if err != nil {
		return Member{}, err
	}
	key, hash := "name "+strings.ToLower(name), nobody
	if who != nil && who.Password != "" {
		key, hash = fmt.Sprint("password ", who.ID), who.Password
	}
	ok, err := s.try(password, hash, key, address, "password")
	if err == nil && (!ok || who == nil) {
		err = WrongError{What: "password", Wait: 2 * time.Second}
	}
	if err != nil {
		var wrong WrongError
		if errors.As(err, &wrong) {
			// A name that nobody has may be a password typed into the wrong field: it stands nowhere.
			told := "wrong password, unknown name"
			if who != nil {
				told = "wrong password of " + who.Name
			}
			err = errors.Join(err, s.TellJournal(ctx, base.Actor{Name: "no one"}, base.JournalSign, told))
		}
		return Member{}, err
	}
	return memberOf(who), nil
}

// nobody is the hash that a password is compared with where there is nobody of the name.
const nobody = "$argon2id$v=19$m=47104,t=2,p=2$YWFhYWFhYWFhYWFhYWFhYQ$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"

// ByPIN looks at the PIN of a person, as SignIn does.
func (s *People) ByPIN(ctx context.Context, id int64, pin string, a base.Actor, address string) (Member, error) {
	m, err := s.Person(ctx, id)
	if err != nil {
		return Member{}, err
	}
	if m.Left != nil || !m.HasPIN {
		return Member{}, hw.Faults{{Pointer: "/pin", Text: m.Name + " has no PIN: sign in with the password"}}
	}
	ok, err := s.try(pin, m.pinned, fmt.Sprint("pin ", m.ID), address, "PIN")
	if err != nil || !ok {
		var wrong WrongError
		if errors.As(err, &wrong) {
			at := base.Actor{Name: "no one", Screen: a.Screen}
			err = errors.Join(err, s.TellJournal(ctx, at, base.JournalSign, "wrong PIN of "+m.Name))
		}
		return Member{}, err
	}
	return m, nil
}

// try compares a secret with its hash, unless too many were wrong.
func (s *People) try(secret, hash, key, address, what string) (bool, error) {
	from := "from " + address
	if wait := s.tries.wait(time.Now(), key, from); wait > 0 {
		return false, WaitError{wait}
	}
	ok, err := s.matches(secret, hash)
	if err != nil {
		return false, err
	}
	if !ok {
		return false, WrongError{what, s.tries.wrong(time.Now(), key, from)}
	}
	s.tries.right(key, from)
	return true, nil
}
