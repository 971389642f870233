package people

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"yembo/core/hw"
	"yembo/shop/base"
	"yembo/store"
)

// Screen is a tablet or a computer that people share.
type Screen struct {
	ID     int64
	Name   string
	Bench  int // that it opens on, 0 for the counter
	LastBy string
	Seen   *time.Time
}

// Code lets one screen in, once, for ten minutes.
type Code struct {
	Text  string // eight letters
	Name  string
	Bench int
	Until time.Time
}

// Shown is the code as it is read out.
func (c *Code) Shown() string { return c.Text[:4] + "-" + c.Text[4:] }

const codeHolds = 10 * time.Minute

// codes are the codes that were made; they are kept in memory alone.
type codes struct {
	mu   sync.Mutex
	open []Code
}

// letters are those of a code: none is taken for another.
const letters = "ABCDEFGHJKMNPQRTUVWXYZ34679"

// NewCode makes a code for a screen. The error is hw.Faults for a name that is none.
func (s *People) NewCode(ctx context.Context, a base.Actor, name string, bench, benches int) (Code, error) {
	name = strings.Join(strings.Fields(name), " ")
	var faults hw.Faults
	if name == "" || utf8.RuneCountInString(name) > 40 {
		faults = append(faults, hw.Fault{Pointer: "/name", Text: "a name of at most 40 characters, such as Bench 1"})
	}
	if bench < 0 || bench > benches {
		faults = append(faults, hw.Fault{Pointer: "/bench", Text: fmt.Sprintf("0 for the counter, or a bench from 1 to %d", benches)})
	}
	if err := faults.Err(); err != nil {
		return Code{}, err
	}
	var text strings.Builder
	for text.Len() < 8 {
		var b [1]byte
		if _, err := rand.Read(b[:]); err != nil {
			return Code{}, err
		}
		if int(b[0]) < 256/len(letters)*len(letters) { // none is likelier than another
			text.WriteByte(letters[int(b[0])%len(letters)])
		}
	}
	c := Code{text.String(), name, bench, time.Now().Add(codeHolds)}
	s.codes.mu.Lock()
	s.codes.open = append(s.codes.open, c)
	s.codes.mu.Unlock()
	return c, s.TellJournal(ctx, a, base.JournalScreens, "code for the screen "+name+" made, 10 min")
}

// Codes are those that hold yet.
func (s *People) Codes() []Code {
	s.codes.mu.Lock()
	defer s.codes.mu.Unlock()
	var out []Code
	for _, c := range s.codes.open {
		if time.Now().Before(c.Until) {
			out = append(out, c)
		}
	}
	s.codes.open = out
	return out
}

// DropCodes makes no code hold any more.
func (s *People) DropCodes() {
	s.codes.mu.Lock()
	s.codes.open = nil
	s.codes.mu.Unlock()
}

// take uses a code up.
func (c *codes) take(text string) (Code, bool) {
	text = strings.ToUpper(strings.NewReplacer("-", "", " ", "").Replace(text))
	c.mu.Lock()
	defer c.mu.Unlock()
	for i, x := range c.open {
		if x.Text == text && time.Now().Before(x.Until) {
			c.open = append(c.open[:i:i], c.open[i+1:]...)
			return x, true
		}
	}
	return Code{}, false
}

// Enrol makes the browser that has a code a screen of the shop, and returns the key that it keeps.
func (s *People) Enrol(ctx context.Context, text, address string) (key string, x Screen, err error) {
	from := "enrol " + address
	if wait := s.tries.wait(time.Now(), from); wait > 0 {
		return "", Screen{}, WaitError{wait}
	}
	code, ok := s.codes.take(text)
	if !ok {
		wait := s.tries.wrong(time.Now(), from, from)
		return "", Screen{}, errors.Join(WrongError{"code of a screen", wait},
			s.TellJournal(ctx, base.Actor{Name: "no one"}, base.JournalScreens, "wrong code of a screen"))
	}
	key = rand.Text()
	row := store.Screen{Name: code.Name, Bench: code.Bench, KeyHash: base.KeyHash(key), CreatedAt: s.Now()}
	err = s.Store.Update(ctx, func(tx store.Tx) error {
		if err := tx.SaveScreen(&row); err != nil {
			return err
		}
		return s.NoteJournal(tx, base.Actor{Name: "no one", Screen: code.Name}, base.JournalScreens, "screen enrolled")
	})
	return key, screenOf(&row), err
}

func screenOf(x *store.Screen) Screen {
	return Screen{ID: x.ID, Name: x.Name, Bench: x.Bench, LastBy: x.LastBy, Seen: x.SeenAt}
}

// ScreenOf is the screen that has a key, nil for none.
func (s *People) ScreenOf(ctx context.Context, key string) (*Screen, error) {
	if key == "" {
		return nil, nil
	}
	var out *Screen
	err := s.Store.View(ctx, func(tx store.Tx) error {
		row, err := tx.ScreenByKey(base.KeyHash(key))
		if errors.Is(err, store.ErrNotFound) {
			return nil
		}
		x := screenOf(&row)
		out = &x
		return err
	})
	return out, err
}

// Screens lists the screens that are enrolled.
func (s *People) Screens(ctx context.Context) ([]Screen, error) {
	var out []Screen
	err := s.Store.View(ctx, func(tx store.Tx) error {
		rows, err := tx.Screens()
		for i := range rows {
			out = append(out, screenOf(&rows[i]))
		}
		return err
	})
	return out, err
}

// SeenAt notes who works at a screen.
func (s *People) SeenAt(ctx context.Context, id int64, by string) error {
	return s.Store.Update(ctx, func(tx store.Tx) error {
		row, err := tx.Screen(id)
		if err != nil {
			return err
		}
		now := s.Now()
		row.LastBy, row.SeenAt = by, &now
		return tx.SaveScreen(&row)
	})
}

// Strike takes a screen off: its key opens nothing any more.
func (s *People) Strike(ctx context.Context, a base.Actor, id int64) error {
	return s.Store.Update(ctx, func(tx store.Tx) error {
		row, err := tx.Screen(id)
		if err != nil {
			return err
		}
		now := s.Now()
		row.StruckAt = &now
		if err := tx.SaveScreen(&row); err != nil {
			return err
		}
		return s.NoteJournal(tx, a, base.JournalScreens, "screen "+row.Name+" struck off")
	})
}
