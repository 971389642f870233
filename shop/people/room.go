// Package people is who works here: names, passwords and PINs, what each may, the screens that are shared, and who signed in
// where.
package people

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// People are the use cases of who works here.
type People struct {
	*base.Base
	tries tries
	codes codes
	// hashing lets one password be hashed at a time: each takes 46 MB.
	hashing sync.Mutex
}

// New returns the use cases.
func New(b *base.Base) *People { return &People{Base: b} }

// SessionStore keeps the sessions of browsers in the data file.
func (s *People) SessionStore() store.Sessions { return store.Sessions{Store: s.Store} }

// Member is somebody who works here, or did.
type Member struct {
	ID                    int64
	Name, Initials, Role  string
	HasPassword, HasPIN   bool
	Left                  *time.Time
	Version               int
	own, password, pinned string
}

func memberOf(p *store.Person) Member {
	m := Member{ID: p.ID, Name: p.Name, Initials: p.Initials, Role: p.Role, HasPassword: p.Password != "", HasPIN: p.PIN != "",
		Left: p.LeftAt, Version: p.Version, own: p.Rights, password: p.Password, pinned: p.PIN}
	if m.Initials == "" {
		m.Initials = initials(p.Name)
	}
	return m
}

// Stamp changes with the password and the PIN: a session that was begun with others ends.
func (m *Member) Stamp() string { return base.KeyHash(m.password + " " + m.pinned)[:16] }

// May is what somebody has of a right.
func (m *Member) May(r Right) Grant {
	if m.Left != nil {
		return No
	}
	return granted(m.Role, m.own, r)
}

// Differs reports whether a right was added for them, or taken away.
func (m *Member) Differs(r Right) bool { return differs(m.own, r) }

// initials are the first letters of a name's words, at most three.
func initials(name string) string {
	var out []rune
	for _, word := range strings.FieldsFunc(name, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		r, _ := utf8.DecodeRuneInString(word)
		if out = append(out, unicode.ToUpper(r)); len(out) == 3 {
			break
		}
	}
	return string(out)
}

// People lists who works here and who did, in the order in which they came.
func (s *People) People(ctx context.Context) ([]Member, error) {
	var out []Member
	err := s.Store.View(ctx, func(tx store.Tx) error {
		all, err := tx.People()
		for i := range all {
			out = append(out, memberOf(&all[i]))
		}
		return err
	})
	return out, err
}

// Person returns one of them.
func (s *People) Person(ctx context.Context, id int64) (Member, error) {
	var out Member
	err := s.Store.View(ctx, func(tx store.Tx) error {
		p, err := tx.Person(id)
		out = memberOf(&p)
		return err
	})
	return out, err
}

// Secured reports whether people have to sign in: somebody who works here has a password.
func (s *People) Secured(ctx context.Context) (bool, error) {
	all, err := s.People(ctx)
	if err != nil {
		return false, err
	}
	return slices.ContainsFunc(all, func(m Member) bool { return m.Left == nil && m.HasPassword }), nil
}

// Entry is what is told of somebody. Password and PIN are "" where they stay as they are.
type Entry struct {
	ID                            int64 // 0 for somebody new
	Version                       int
	Name, Initials, Role          string
	Password, PIN                 string
	DropPassword, DropPIN, Leaves bool
}

// Limits of what is told of people.
const (
	mostPeople    = 40
	maxName       = 80
	leastPassword = 10
	maxPassword   = 200
)

func (e *Entry) check(faults *hw.Faults, all []store.Person) {
	fault := func(at, text string) { *faults = append(*faults, hw.Fault{Pointer: at, Text: text}) }
	e.Name = strings.Join(strings.Fields(e.Name), " ")
	e.Initials = strings.ToUpper(strings.TrimSpace(e.Initials))
	switch letters := strings.ContainsFunc(e.Name, unicode.IsLetter); {
	case e.Name == "":
		fault("/name", "a name is missing: the history tells who did what")
	case !letters || strings.ContainsFunc(e.Name, unicode.IsControl) || strings.ContainsAny(e.Name, ",;<>"):
		fault("/name", "that is no name: letters, without , ; < >")
	case utf8.RuneCountInString(e.Name) > maxName:
		fault("/name", fmt.Sprintf("at most %d characters", maxName))
	}
	for i := range all {
		if strings.EqualFold(all[i].Name, e.Name) && all[i].ID != e.ID {
			fault("/name", "another has this name: the history could not tell them apart")
		}
	}
	if utf8.RuneCountInString(e.Initials) > 3 || strings.ContainsFunc(e.Initials, func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r)
	}) {
		fault("/initials", "one to three letters")
	}
	if !slices.Contains(Roles, e.Role) {
		fault("/role", "owner, technician or counter")
	}
	if n := utf8.RuneCountInString(e.Password); e.Password != "" && (n < leastPassword || n > maxPassword) {
		fault("/password", fmt.Sprintf("%d to %d characters; a few words make a good one", leastPassword, maxPassword))
	}
	noDigit := func(r rune) bool { return r < '0' || r > '9' }
	if e.PIN != "" && (len(e.PIN) < 4 || len(e.PIN) > 8 || strings.ContainsFunc(e.PIN, noDigit)) {
		fault("/pin", "4 to 8 digits")
	}
}

// SavePerson enters somebody new, or changes what is told of them. The error is hw.Faults for what cannot be: a name that
// another has, a PIN that another has, nobody left who is an owner with a password.
func (s *People) SavePerson(ctx context.Context, a base.Actor, token string, e Entry) error {
	password, pin, err := s.secrets(ctx, &e)
	if err != nil {
		return err
	}
	_, err = s.Once(ctx, token, func(tx store.Tx) (string, error) {
		all, err := tx.People()
		if err != nil {
			return "", err
		}
		var faults hw.Faults
		e.check(&faults, all)
		row := store.Person{CreatedAt: s.Now()}
		if e.ID != 0 {
			if row, err = tx.Person(e.ID); err != nil {
				return "", err
			}
			if row.Version != e.Version {
				return "", base.ErrChanged
			}
		} else if len(all) >= mostPeople {
			faults = append(faults, hw.Fault{Pointer: "/name", Text: fmt.Sprintf("at most %d people", mostPeople)})
		}
		was := row
		row.Name, row.Initials, row.Role = e.Name, e.Initials, e.Role
		switch {
		case e.DropPassword:
			row.Password = ""
		case password != "":
			row.Password = password
		}
		switch {
		case e.DropPIN:
			row.PIN = ""
		case pin != "":
			row.PIN = pin
		}
		switch now := s.Now(); {
		case e.Leaves && row.LeftAt == nil:
			row.LeftAt = &now
		case !e.Leaves:
			row.LeftAt = nil
		}
		if at, text := lastOwner(all, &row); text != "" {
			faults = append(faults, hw.Fault{Pointer: at, Text: text})
		}
		if err := faults.Err(); err != nil {
			return "", err
		}
		if err := tx.SavePerson(&row); err != nil {
			return "", err
		}
		return fmt.Sprint(row.ID), s.NoteJournal(tx, a, base.JournalRights, changes(&was, &row))
	})
	return err
}

// lastOwner says what would leave a shop that asks for passwords without an owner who can sign in, and at which field.
func lastOwner(all []store.Person, next *store.Person) (at, text string) {
	signs := func(p *store.Person) bool { return p.Role == base.Owner && p.LeftAt == nil && p.Password != "" }
	asks := next.LeftAt == nil && next.Password != ""
	owner := signs(next)
	for i := range all {
		if p := &all[i]; p.ID != next.ID {
			asks = asks || p.LeftAt == nil && p.Password != ""
			owner = owner || signs(p)
		}
	}
	switch {
	case !asks || owner:
		return "", ""
	case next.Role != base.Owner && next.LeftAt == nil:
		return "/role", "an owner with a password comes first: only an owner changes who may do what"
	case next.LeftAt != nil:
		return "/leaves", "the last owner who can sign in stays: make another one the owner first"
	}
	return "/password", "the last owner keeps a password while others have one"
}

// changes are what changed of somebody, in words.
func changes(was, now *store.Person) string {
	var out []string
	add := func(is bool, says string) {
		if is {
			out = append(out, says)
		}
	}
	add(was.ID == 0, "added as "+now.Role)
	add(was.ID != 0 && was.Name != now.Name, "named "+now.Name)
	add(was.ID != 0 && was.Role != now.Role, "is "+now.Role+" now")
	add(was.LeftAt == nil && now.LeftAt != nil, "has left")
	add(was.LeftAt != nil && now.LeftAt == nil, "is back")
	add(was.Password != now.Password && now.Password != "", "new password")
	add(was.Password != "" && now.Password == "", "no password any more")
	add(was.PIN != now.PIN && now.PIN != "", "new PIN")
	add(was.PIN != "" && now.PIN == "", "no PIN any more")
	name := was.Name
	if was.ID == 0 {
		name = now.Name
	}
	if len(out) == 0 {
		return name + ": nothing changed"
	}
	return name + ": " + strings.Join(out, ", ")
}

// Allow gives somebody a right beyond their role, or takes one away: pressing what is there turns it round.
func (s *People) Allow(ctx context.Context, a base.Actor, id int64, r Right) error {
	if rowOf(r).Says == "" {
		return store.ErrNotFound
	}
	return s.Store.Update(ctx, func(tx store.Tx) error {
		row, err := tx.Person(id)
		if err != nil {
			return err
		}
		had := granted(row.Role, row.Rights, r)
		if row.Role == base.Owner || had == No {
			return hw.Faults{{Text: "an owner may everything, and what is the owner's alone cannot be given"}}
		}
		words := slices.DeleteFunc(strings.Fields(row.Rights), func(w string) bool { return w[1:] == string(r) })
		says := "may now: "
		if want := May; had == May {
			says = "may no longer without a PIN: "
			if granted(row.Role, "", r) == want {
				words = append(words, "-"+string(r))
			}
		} else if granted(row.Role, "", r) != want {
			words = append(words, "+"+string(r))
		}
		row.Rights = strings.Join(words, " ")
		if err := tx.SavePerson(&row); err != nil {
			return err
		}
		return s.NoteJournal(tx, a, base.JournalRights, row.Name+" "+says+r.Says())
	})
}

// named is the person of a name, however it is written.
func named(all []store.Person, name string) *store.Person {
	for i := range all {
		if strings.EqualFold(all[i].Name, strings.Join(strings.Fields(name), " ")) && all[i].LeftAt == nil {
			return &all[i]
		}
	}
	return nil
}
