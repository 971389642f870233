package store

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"time"

	"gorm.io/gorm"
)

// ErrMoved is returned for a change while the data file is no longer where it was opened:
// what is stored then would be lost with the old one, or go into a file that nobody opens.
var ErrMoved = errors.New("the data file was moved, removed or replaced while it is open")

// ErrNewer is returned for a data file that a newer version has changed.
var ErrNewer = errors.New("the data file is newer than this version of Yembo")

// tempDir is where what passes through lies for a moment; it is emptied at each start.
const tempDir = "tmp"

// address is how SQLite is told of a file: every sign of its name stands for itself.
func address(path string) (string, error) {
	whole, err := filepath.Abs(path)
	if err != nil {
		return "", err
	}
	return (&url.URL{Scheme: "file", Path: filepath.ToSlash(whole)}).String(), nil
}

// prepare makes the folder and its file where they are missing, with owner-only rights, and
// looks at what is there before anything touches it. fresh says that there was no data.
func prepare(dir string) (fresh bool, err error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return false, fmt.Errorf("data folder: %w", err)
	}
	path := filepath.Join(dir, File)
	info, err := os.Stat(path)
	fresh = errors.Is(err, os.ErrNotExist) || err == nil && info.Size() == 0
	if log, err := os.Stat(path + "-wal"); fresh && err == nil && log.Size() > 0 {
		return false, fmt.Errorf("%s is missing, but its log %s-wal is there: put the file back beside it, or restore "+
			"a copy", path, path)
	}
	// SQLite would create the file with the rights of the umask; the log files
	// beside it take over the rights of the file.
	if fresh {
		if err := emptied(dir); err != nil {
			return false, err
		}
	}
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return false, fmt.Errorf("data file: %w", err)
	}
	return fresh, f.Close()
}

// mendRights takes the rights of others off Yembo's own files, and off the folder where
// nothing else lies in it. What it may not or will not change is told.
func mendRights(dir string) (complaint string) {
	var foreign bool
	entries, err := os.ReadDir(dir)
	if err != nil {
		return ""
	}
	for _, e := range entries {
		if !own(e.Name()) {
			foreign = true
			continue
		}
		if info, err := e.Info(); err == nil && info.Mode().IsRegular() && info.Mode().Perm()&0o077 != 0 {
			if err := os.Chmod(filepath.Join(dir, e.Name()), info.Mode().Perm()&0o700); err != nil {
				complaint = fmt.Sprintf("others may read %s in the data folder", e.Name())
			}
		}
	}
	info, err := os.Stat(dir)
	if err != nil || info.Mode().Perm()&0o077 == 0 {
		return complaint
	}
	if !foreign && os.Chmod(dir, 0o700) == nil {
		return complaint
	}
	return fmt.Sprintf("others may look into the data folder %s: take their rights away, or give Yembo a folder of its "+
		"own", dir)
}

// isCopy reports whether a file is a copy of a data file that Yembo made: by the day, before it was
// brought up to date, or before another was put in its place.
func isCopy(name string) bool {
	match, _ := filepath.Match("yembo-*.db", name)
	return match
}

// own reports whether a file of the data folder is Yembo's.
func own(name string) bool {
	match, _ := filepath.Match("yembo*", name)
	return match || name == tempDir
}

// known reads which migrations a data file has seen, without changing it.
func known(db *gorm.DB) ([]string, error) {
	var tables int64
	if err := db.Raw("SELECT count(*) FROM sqlite_master WHERE name = 'migrations'").Scan(&tables).Error; err != nil {
		return nil, err
	}
	if tables == 0 {
		return nil, nil
	}
	var ids []string
	return ids, db.Raw("SELECT id FROM migrations ORDER BY id").Scan(&ids).Error
}

// update brings a data file up to date. One that a newer version has changed is refused as
// it is; of one that is changed now a copy is kept beside it.
func update(db *gorm.DB, dir string, now time.Time) error {
	seen, err := known(db)
	if err != nil {
		return fmt.Errorf("reading the data file: %w", err)
	}
	newest := migrations[len(migrations)-1].ID
	if err := newer(seen); err != nil {
		return err
	}
	if len(seen) > 0 && !slices.Contains(seen, newest) {
		kept := filepath.Join(dir, fmt.Sprintf("yembo-of-%s-%s.db", seen[len(seen)-1], now.Format("2006-01-02-150405")))
		if err := db.Exec("VACUUM INTO ?", kept).Error; err != nil {
			return fmt.Errorf("keeping a copy before the data file is brought up to date: %w", err)
		}
		if err := os.Chmod(kept, 0o600); err != nil {
			return err
		}
	}
	if err := migrate(db); err != nil {
		return fmt.Errorf("bringing the data file up to date: %w", err)
	}
	return nil
}

// inPlace reports, as ErrMoved, a data file that is not the one that was opened.
func (s *Store) inPlace() error {
	now, err := os.Stat(s.path)
	if err == nil && os.SameFile(now, s.file) {
		return nil
	}
	return ErrMoved
}

// Moved reports that the data file is no longer the one that was opened.
func (s *Store) Moved() bool { return s.inPlace() != nil }

// QuickCheck looks through the file for damage; it takes a while on a large one.
func (s *Store) QuickCheck() error {
	var said []string
	err := s.View(context.Background(), func(t Tx) error {
		return t.db.Raw("PRAGMA quick_check(5)").Scan(&said).Error
	})
	if err != nil {
		return named(err)
	}
	if len(said) != 1 || said[0] != "ok" {
		return fmt.Errorf("%w: %q", ErrDamaged, said)
	}
	return nil
}

// UseTemp has the process lay what only passes through into a folder of its own in the data
// folder, which is emptied first: what a crash left there goes.
func (s *Store) UseTemp() error {
	temp := filepath.Join(s.Dir, tempDir)
	if err := errors.Join(os.RemoveAll(temp), os.MkdirAll(temp, 0o700)); err != nil {
		return fmt.Errorf("folder for what passes through: %w", err)
	}
	return errors.Join(os.Setenv("TMPDIR", temp), os.Setenv("SQLITE_TMPDIR", temp))
}
