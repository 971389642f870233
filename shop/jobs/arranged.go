package jobs

import (
	"encoding/json"
	"fmt"
	"time"

	"yembo/store"
)

// soon is how many open hours before its start a job stays where everybody has seen it.
const soon = 2 * time.Hour

// Pin is where a hand has put a job.
type Pin struct {
	Bench  int       `json:"bench"`
	Person string    `json:"person,omitempty"`
	Start  time.Time `json:"start"`
	By     string    `json:"by"`
	At     time.Time `json:"at"`
}

// Moved is a change of a pin by hand; Before or After is nil where there was, or is, none.
type Moved struct {
	ID     int64     `json:"id"`
	Job    int64     `json:"job"`
	Before *Pin      `json:"before,omitempty"`
	After  *Pin      `json:"after,omitempty"`
	By     string    `json:"by"`
	At     time.Time `json:"at"`
	// Undone says that it was taken back: it is done again by undoing that.
	Undone bool `json:"undone,omitempty"`
	// Undoes is the move that this one takes back, 0 for none.
	Undoes int64 `json:"undoes,omitempty"`
}

// Stay is a job's time at a bench as it was shown to all.
type Stay struct {
	Job    int64     `json:"job"`
	N      int       `json:"n"` // which stay of the job
	Bench  int       `json:"bench"`
	Person string    `json:"person,omitempty"`
	Start  time.Time `json:"start"`
	End    time.Time `json:"end"`
	Ready  time.Time `json:"ready"`
	// Sequence counts the changes of it that were shown; Gone is when it was shown no more.
	Sequence int       `json:"sequence"`
	Gone     time.Time `json:"gone,omitzero"`
	Shown    time.Time `json:"shown"` // when it was shown so first
}

// Shown is the week as it was last shown to all.
type Shown struct {
	At    time.Time `json:"at"`
	By    string    `json:"by"`
	Stays []Stay    `json:"stays"`
}

// of is where a job stood as it was last shown: its first stay.
func (v *Shown) of(job int64) (Stay, bool) {
	if v == nil {
		return Stay{}, false
	}
	for _, s := range v.Stays {
		if s.Job == job && s.N == 1 && s.Gone.IsZero() {
			return s, true
		}
	}
	return Stay{}, false
}

// Arranged is what hands have done to the week: where they put jobs, what they showed to all, who may read it from elsewhere.
type Arranged struct {
	Pins map[int64]Pin `json:"pins,omitempty"`
	// ShownPins are those as they were last shown to all: what everybody but who arranges goes by.
	ShownPins map[int64]Pin `json:"shown_pins,omitempty"`
	Moves     []Moved       `json:"moves,omitempty"` // the last of them, in order
	Shown     *Shown        `json:"shown,omitempty"`
	Feeds     []Feed        `json:"feeds,omitempty"`
	Shop      string        `json:"shop,omitempty"` // a random name of this shop in calendars, for good
	Key       string        `json:"key,omitempty"`  // of names that tell nothing
}

// Feed is the address of a person's calendar: its hash alone is kept.
type Feed struct {
	Person string    `json:"person"`
	Hash   string    `json:"hash"`
	Full   bool      `json:"full"` // with machines and work, not just what is taken
	Made   time.Time `json:"made"`
	Read   time.Time `json:"read,omitzero"` // when it was read first
}

const arrangedName = "week"

func arrangedIn(tx store.Tx) (Arranged, error) {
	var out Arranged
	raw, err := tx.Setting(arrangedName)
	if err != nil || raw == nil {
		return out, err
	}
	if err := json.Unmarshal(raw, &out); err != nil {
		return out, fmt.Errorf("what was arranged of the week: %w", err)
	}
	return out, nil
}

func putArranged(tx store.Tx, v *Arranged) error {
	raw, err := json.Marshal(v)
	if err != nil {
		return err
	}
	return tx.PutSetting(arrangedName, raw)
}
