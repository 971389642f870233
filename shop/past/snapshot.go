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
var dates = regexp.MustCompile(`\b(20[0-9]{2}-[0-9]{2}-[0-9]{2}[ T][0-9]{2}:[0-9]{2}:[0-9]{2})(\.[0-9]+)?(\+00:00|Z| \+0000 UTC)` +
	`|\b20[0-9]{2}-[0-9]{2}-[0-9]{2}\b|\b[0-9]{1,2} (?:Jan|Feb|Mar|Apr|May|Jun|Jul|Aug|Sep|Oct|Nov|Dec)\b`)

// Move brings the past to before another day: by whole weeks, so that nobody worked on a Sunday, and by the clock of that
// day's place.
func Move(ctx context.Context, st *store.Store, today time.Time) error {
	day := time.Date(today.Year(), today.Month(), today.Day(), 0, 0, 0, 0, time.UTC)
	weeks := int(day.Sub(demo.Day)/(24*time.Hour)) / 7
	_, east := today.Zone()
	return st.Rewrite(ctx, func(text string) string {
		return dates.ReplaceAllStringFunc(text, func(found string) string { return moved(found, 7*weeks, time.Duration(east)*time.Second) })
	})
}

// moved is a date as it was written, so many days later; a time is that of the clock so far east.
func moved(found string, days int, east time.Duration) string {
	if m := dates.FindStringSubmatch(found); m[1] != "" {
		layout := "2006-01-02 15:04:05"
		if found[10] == 'T' {
			layout = "2006-01-02T15:04:05"
		}
		at, err := time.Parse(layout, m[1])
		if err != nil {
			return found
		}
		return at.AddDate(0, 0, days).Add(-east).Format(layout) + m[2] + m[3]
	}
	if at, err := time.Parse(time.DateOnly, found); err == nil {
		return at.AddDate(0, 0, days).Format(time.DateOnly)
	}
	// A day without its year is one of the weeks before the demo's own day, or soon after it.
	at, err := time.Parse("2 Jan 2006", found+" "+demo.Day.Format("2006"))
	if err != nil {
		return found
	}
	return at.AddDate(0, 0, days).Format("2 Jan")
}
