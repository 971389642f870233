package past

import (
	"bytes"
	"compress/gzip"
	"context"
	_ "embed"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"time"

	"yembo/shop/demo"
	"yembo/store"
)

// The past is made once, by make demo-past, for it takes longer than somebody who starts the demo would wait. What ships is
// the data file that it left, as it was on the demo's own day.
//
//go:embed past.db.gz
var packed []byte

// Unpack puts the shop with its past into an empty data folder.
func Unpack(dir string) error {
	r, err := gzip.NewReader(bytes.NewReader(packed))
	if err != nil {
		return err
	}
	raw, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(dir, store.File), raw, 0o600)
}

// What the dates of a data file look like: a time in UTC, a day, a day as a sentence says it.
var dates = regexp.MustCompile(
	`\b(20[0-9]{2}-[0-9]{2}-[0-9]{2}[ T][0-9]{2}:[0-9]{2}:[0-9]{2})(\.[0-9]+)?(\+00:00|Z| \+0000 UTC)` +
		`|\b20[0-9]{2}-[0-9]{2}-[0-9]{2}\b` +
		`|\b(?:(?:Mon|Tue|Wed|Thu|Fri|Sat|Sun) )?[0-9]{1,2} (?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)\b`)

// Move brings the past to before another day: each working day of it to the one that lies as far before, on the clock of that
// day's place.
func Move(ctx context.Context, st *store.Store, now time.Time) error {
	today := demo.LastOpen(now)
	_, east := today.Zone()
	m := mover{today: time.Date(today.Year(), today.Month(), today.Day(), 0, 0, 0, 0, time.UTC),
		east: time.Duration(east) * time.Second, seen: map[string]string{}}
	return st.Rewrite(ctx, func(text string) string { return dates.ReplaceAllStringFunc(text, m.moved) })
}

// mover writes dates anew; most stand in a data file many times.
type mover struct {
	today time.Time
	east  time.Duration // how far the shop's clock is before UTC
	seen  map[string]string
}

func (m *mover) moved(found string) string {
	if now, ok := m.seen[found]; ok {
		return now
	}
	now := m.write(found)
	m.seen[found] = now
	return now
}

func (m *mover) write(found string) string {
	if parts := dates.FindStringSubmatch(found); parts[1] != "" {
		layout := "2006-01-02 15:04:05"
		if found[10] == 'T' {
			layout = "2006-01-02T15:04:05"
		}
		at, err := time.Parse(layout, parts[1])
		if err != nil {
			return found
		}
		on := demo.Moved(at, m.today).Add(at.Sub(demo.Midnight(at)) - m.east)
		return on.Format(layout) + parts[2] + parts[3]
	}
	if at, err := time.Parse(time.DateOnly, found); err == nil {
		return demo.Moved(at, m.today).Format(time.DateOnly)
	}
	// A day without its year is one of the weeks before the demo's own day, or soon after it.
	layout := "2 Jan"
	if found[0] > '9' {
		layout = "Mon 2 Jan"
	}
	at, err := time.Parse(layout+" 2006", found+" "+demo.Day.Format("2006"))
	if err != nil {
		return found
	}
	return demo.Moved(at, m.today).Format(layout)
}
