package store

import (
	"context"
	"errors"
	"time"
)

// Person is somebody who works here. What they did stays theirs when they have left.
type Person struct {
	ID        int64 `gorm:"primaryKey"`
	Name      string
	Initials  string
	Role      string
	Rights    string // beyond the role or less than it: words such as +sign -intake, apart by blanks
	Password  string // argon2id, "" for none
	PIN       string `gorm:"column:pin"` // argon2id, "" for none
	LeftAt    *time.Time
	Version   int
	CreatedAt time.Time
}

// Screen is a tablet or a computer that people share.
type Screen struct {
	ID        int64 `gorm:"primaryKey"`
	Name      string
	Bench     int    // that it opens on, 0 for the counter
	KeyHash   string // of what its cookie holds
	By        string
	LastBy    string // who worked at it last
	SeenAt    *time.Time
	StruckAt  *time.Time
	CreatedAt time.Time
}

// Session is a browser in which somebody signed in. Data is the session manager's own.
type Session struct {
	Token  string `gorm:"primaryKey"` // its hash
	Data   []byte
	Expiry time.Time
}

// JournalLine is one line of the journal. It is never changed.
type JournalLine struct {
	ID     int64 `gorm:"primaryKey"`
	At     time.Time
	By     string
	Screen string
	What   string
	Kind   string
}

// TableName is the journal's.
func (JournalLine) TableName() string { return "journal" }

// People lists who works here, and who did, in the order in which they came.
func (t Tx) People() ([]Person, error) {
	var out []Person
	return out, t.db.Order("id").Find(&out).Error
}

// Person returns one of them.
func (t Tx) Person(id int64) (Person, error) { return first[Person](t.db, "id = ?", id) }

// SavePerson stores somebody, new or changed. The error is ErrChanged where somebody else changed them since.
func (t Tx) SavePerson(p *Person) error {
	if p.ID == 0 {
		p.Version = 1
		return t.db.Create(p).Error
	}
	was := p.Version
	p.Version++
	done := t.db.Model(&Person{}).Where("id = ? AND version = ?", p.ID, was).Select("*").Updates(p)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrChanged
	}
	return done.Error
}

// Screens lists the screens that are enrolled.
func (t Tx) Screens() ([]Screen, error) {
	var out []Screen
	return out, t.db.Order("id").Find(&out, "struck_at IS NULL").Error
}

// ScreenByKey returns the screen with a key, by its hash; one that was struck off is none.
func (t Tx) ScreenByKey(hash string) (Screen, error) {
	return first[Screen](t.db, "key_hash = ? AND struck_at IS NULL", hash)
}

// Screen returns one that is enrolled.
func (t Tx) Screen(id int64) (Screen, error) {
	return first[Screen](t.db, "id = ? AND struck_at IS NULL", id)
}

// SaveScreen stores a screen, new or changed.
func (t Tx) SaveScreen(x *Screen) error { return t.db.Save(x).Error }

// Journal lists the newest lines in which a text stands, at most so many.
func (t Tx) Journal(find string, most int) ([]JournalLine, error) {
	q := t.db.Order("id DESC").Limit(most)
	if find != "" {
		q = q.Where("instr(lower(by || ' ' || screen || ' ' || what), lower(?)) > 0", find)
	}
	var out []JournalLine
	return out, q.Find(&out).Error
}

// Sessions keeps the sessions of browsers in the data file, as the session manager asks it to; tokens come hashed.
type Sessions struct{ Store *Store }

// FindCtx returns the data of a session; found is false where there is none, or it has ended.
func (s Sessions) FindCtx(ctx context.Context, token string) (data []byte, found bool, err error) {
	err = s.Store.View(ctx, func(tx Tx) error {
		row, err := first[Session](tx.db, "token = ? AND expiry > ?", token, time.Now())
		data = row.Data
		return err
	})
	if errors.Is(err, ErrNotFound) {
		return nil, false, nil
	}
	return data, err == nil, err
}

// CommitCtx stores a session, and drops those that have ended.
func (s Sessions) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	return s.Store.Update(ctx, func(tx Tx) error {
		if err := tx.db.Delete(&Session{}, "expiry <= ?", time.Now()).Error; err != nil {
			return err
		}
		return tx.db.Save(&Session{token, data, expiry}).Error
	})
}

// DeleteCtx ends a session.
func (s Sessions) DeleteCtx(ctx context.Context, token string) error {
	return s.Store.Update(ctx, func(tx Tx) error { return tx.db.Delete(&Session{}, "token = ?", token).Error })
}

// AllCtx returns the data of all sessions, by their hashed tokens.
func (s Sessions) AllCtx(ctx context.Context) (map[string][]byte, error) {
	out := map[string][]byte{}
	err := s.Store.View(ctx, func(tx Tx) error {
		var rows []Session
		if err := tx.db.Find(&rows, "expiry > ?", time.Now()).Error; err != nil {
			return err
		}
		for _, r := range rows {
			out[r.Token] = r.Data
		}
		return nil
	})
	return out, err
}

// Find, Commit and Delete are the same without a context, which the manager asks for and does not use.
func (s Sessions) Find(token string) ([]byte, bool, error) {
	return s.FindCtx(context.Background(), token)
}

// Commit is CommitCtx without a context.
func (s Sessions) Commit(token string, data []byte, expiry time.Time) error {
	return s.CommitCtx(context.Background(), token, data, expiry)
}

// Delete is DeleteCtx without a context.
func (s Sessions) Delete(token string) error { return s.DeleteCtx(context.Background(), token) }
