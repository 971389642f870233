package care

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"yembo/store"
)

// care is what is known of the state of the data folder while it is served.
type care struct {
	mu      sync.Mutex
	tended  bool      // the folder is looked after: one that only the demo uses is not
	folder  string    // of the daily copies, as asked for at the start; "" leaves it to the settings
	inUse   string    // of the daily copies, as it was last time
	newest  time.Time // of the copies
	failed  string    // why the last copy was not made
	damaged error
	purged  time.Time // when what was removed long ago was last removed for good
	// unscrubbed says that what was forgotten is removed, and its bytes are still in the file.
	unscrubbed bool
	watch      watch
}

// clockGrace is how far the clock may stand behind what was noted last: two machines' clocks differ.
const clockGrace = 10 * time.Minute

// Copies say how the daily copies of the data stand.
type Copies struct {
	Folder string // "" where none are made
	Fixed  bool   // it was given at the start, and the settings do not change it
	Newest time.Time
	Failed string // why the last one was not made, "" where it was
}

// oldCopy is the age from which on a copy of the data is told to be too old.
const oldCopy = 48 * time.Hour

// FinishScrub writes over the bytes of what was forgotten, where the program ended before it had.
func (s *Care) FinishScrub(ctx context.Context) {
	var due bool
	err := s.Store.View(ctx, func(tx store.Tx) (err error) {
		due, err = tx.ScrubDue()
		return err
	})
	if err == nil && due {
		err = s.Store.Scrub()
	}
	s.care.mu.Lock()
	defer s.care.mu.Unlock()
	s.care.unscrubbed = due && err != nil
}

// Tend looks after the data folder until the context ends: it reads the file through for
// damage, once, and makes the daily copies. folder is where to, "" for that of the settings.
func (s *Care) Tend(ctx context.Context, folder string) {
	// A look that fails is no news: the file is read through for damage below.
	_ = s.Store.View(ctx, func(tx store.Tx) error {
		last, err := tx.LastNoted()
		s.Noted(last)
		return err
	})
	s.care.mu.Lock()
	s.care.tended, s.care.folder = true, folder
	s.care.mu.Unlock()
	s.FinishScrub(ctx)
	s.CopyDaily(ctx)
	if err := s.Store.QuickCheck(); err != nil {
		s.care.mu.Lock()
		s.care.damaged = err
		s.care.mu.Unlock()
	}
	s.purgeDaily(ctx)
	tick, look := time.NewTicker(15*time.Minute), time.NewTicker(watchEvery)
	defer tick.Stop()
	defer look.Stop()
	for {
		s.care.mu.Lock()
		s.care.watch.look(s.Store, time.Now())
		s.care.mu.Unlock()
		select {
		case <-ctx.Done():
			return
		case <-look.C:
		case <-tick.C:
			s.CopyDaily(ctx)
			s.purgeDaily(ctx)
		}
	}
}

// purgeDaily removes for good what nobody brought back, once a day; what cannot be done today is done
// tomorrow.
func (s *Care) purgeDaily(ctx context.Context) {
	s.care.mu.Lock()
	defer s.care.mu.Unlock()
	if now := s.Now(); now.Sub(s.care.purged) >= 24*time.Hour && s.PurgeRemoved(ctx) == nil {
		s.care.purged = now
	}
}

// CopyDaily makes today's copy of the data where a folder is chosen and it is not there yet,
// and removes those that are kept no longer: seven days and four weeks.
func (s *Care) CopyDaily(ctx context.Context) {
	how, err := s.Settings(ctx)
	s.care.mu.Lock()
	folder := s.care.folder
	s.care.mu.Unlock()
	if folder == "" {
		folder = how.Backups
	}
	var newest time.Time
	if err == nil && folder != "" {
		newest, err = copyInto(ctx, s.Store.Dir, folder, how.CopiesFor, s.Now())
	}
	s.care.mu.Lock()
	defer s.care.mu.Unlock()
	s.care.inUse, s.care.newest, s.care.failed = folder, newest, ""
	if err != nil {
		s.care.failed = err.Error()
	}
}

// copyInto makes today's copy in a folder, encrypted where it is for a recipient, and returns when the newest one there
// was made.
func copyInto(ctx context.Context, data, folder, recipient string, now time.Time) (time.Time, error) {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return time.Time{}, err
	}
	if err := copyToday(ctx, data, filepath.Join(folder, copyName(now)), recipient); err != nil {
		newest, _ := newestCopy(folder)
		return newest, err
	}
	entries, err := os.ReadDir(folder)
	if err != nil {
		return time.Time{}, err
	}
	var days []time.Time
	of := map[time.Time][]string{}
	for _, e := range entries {
		if day, ok := copyDay(e.Name()); ok {
			days = append(days, day)
			of[day] = append(of[day], e.Name())
		}
	}
	for _, day := range outdated(days, now) {
		for _, name := range of[day] {
			if err := os.Remove(filepath.Join(folder, name)); err != nil && !errors.Is(err, os.ErrNotExist) {
				return time.Time{}, err
			}
		}
	}
	return newestCopy(folder)
}

// copyToday makes a copy where it is not there yet. One that was made in plain before a recipient was named goes once
// the encrypted one is there.
func copyToday(ctx context.Context, data, file, recipient string) error {
	made := file
	if recipient != "" {
		made += sealedEnd
	}
	if _, err := os.Stat(made); err == nil || !errors.Is(err, os.ErrNotExist) {
		return err
	}
	if recipient == "" {
		return store.Backup(ctx, data, made)
	}
	to, err := store.Recipient(recipient)
	if err != nil {
		return err
	}
	if err := store.BackupFor(ctx, data, made, to); err != nil {
		return err
	}
	if err := os.Remove(file); !errors.Is(err, os.ErrNotExist) {
		return err
	}
	return nil
}

// sealedEnd ends the name of an encrypted copy.
const sealedEnd = ".age"

func copyName(day time.Time) string { return "yembo-" + day.Format(time.DateOnly) + ".db" }

// copyDay is the day of a daily copy; ok is false for any other file.
func copyDay(name string) (day time.Time, ok bool) {
	text, isDB := strings.CutSuffix(strings.TrimSuffix(name, sealedEnd), ".db")
	text, isOurs := strings.CutPrefix(text, "yembo-")
	day, err := time.Parse(time.DateOnly, text)
	return day, err == nil && isDB && isOurs
}

// outdated are the days whose copies are kept no longer: the last seven are, and of each of the
// last four weeks the newest one. Days that lie ahead, by a clock that was wrong, are left.
func outdated(days []time.Time, now time.Time) []time.Time {
	today := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	newestOf := map[string]time.Time{}
	week := func(day time.Time) string {
		year, n := day.ISOWeek()
		return fmt.Sprint(year, "-", n)
	}
	for _, day := range days {
		if day.After(newestOf[week(day)]) {
			newestOf[week(day)] = day
		}
	}
	var out []time.Time
	for _, day := range days {
		age := int(today.Sub(day).Hours() / 24)
		if age >= 7 && (age >= 28 || newestOf[week(day)] != day) {
			out = append(out, day)
		}
	}
	return out
}

// newestCopy is when the newest copy in a folder was made, zero where there is none.
func newestCopy(folder string) (newest time.Time, err error) {
	entries, err := os.ReadDir(folder)
	for _, e := range entries {
		if _, ok := copyDay(e.Name()); !ok {
			continue
		}
		if info, err := e.Info(); err == nil && info.ModTime().After(newest) {
			newest = info.ModTime()
		}
	}
	return newest, err
}

// Copies says how the daily copies stand.
func (s *Care) Copies() Copies {
	s.care.mu.Lock()
	defer s.care.mu.Unlock()
	return Copies{Folder: s.care.inUse, Fixed: s.care.folder != "", Newest: s.care.newest, Failed: s.care.failed}
}

func stampWords(t time.Time) string { return t.Format("2 Jan 2006 15:04") }

// Notices are what everybody has to know of the data folder, in sentences; none where all is
// well. They cost no look into the data.
func (s *Care) Notices() []string {
	var out []string
	if s.Store.Moved() {
		out = append(out, "The data file was moved, removed or replaced while Yembo is running. Nothing can be stored: "+
			"put it back where it was, or stop Yembo and start it again on the right folder.")
	}
	s.care.mu.Lock()
	defer s.care.mu.Unlock()
	if now, last := s.Now(), s.LastNoted(); last.Sub(now) > clockGrace {
		out = append(
			out,
			fmt.Sprintf(
				"This machine's clock says %s, and something was noted here on %s already: "+
					"set the clock right. Until then times do not add up.",
				stampWords(now),
				stampWords(last),
			),
		)
	}
	if s.care.damaged != nil {
		out = append(out, "The data file is damaged. Stop Yembo, keep the folder as it is, and put the last copy back.")
	}
	if s.care.unscrubbed {
		out = append(
			out,
			"What was forgotten on request is removed from every record; its bytes are still in the data file "+
				"and are written over at the next start.",
		)
	}
	if !s.care.tended {
		return out
	}
	for _, told := range []string{s.care.watch.leap, s.care.watch.full} {
		if told != "" {
			out = append(out, told)
		}
	}
	if s.Store.Empty() {
		out = append(out, "This is a new, empty data folder: "+s.Store.Dir+". If there should be records here, stop "+
			"Yembo and start it on the right folder.")
	}
	if s.Store.Complaint != "" {
		out = append(out, "The rights of the data folder: "+s.Store.Complaint+".")
	}
	switch age := s.Now().Sub(s.care.newest); {
	case s.care.inUse == "":
	case s.care.failed != "":
		out = append(out, "The daily copy of the data was not made: "+s.care.failed+".")
	case age > oldCopy:
		out = append(out, fmt.Sprintf("The newest copy of the data is %d days old.", int(age.Hours()/24)))
	}
	return out
}
