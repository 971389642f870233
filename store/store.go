// Package store keeps Yembo's records in one SQLite file through GORM. Records are
// kept as the open documents they are exchanged as, with the columns beside them
// that lists and searches need (docs/decisions).
package store

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"sync/atomic"
	"time"

	"github.com/gofrs/flock"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	_ "modernc.org/sqlite" // the driver
)

// Store is an open data folder. One connection writes, several read.
type Store struct {
	// Dir is the folder, as an absolute path; Fresh says that there was no data in it;
	// Complaint is what could not be mended of its rights, "" for nothing.
	Dir       string
	Fresh     bool
	Complaint string

	written atomic.Int64 // how often something was stored since it was opened

	write *gorm.DB
	read  *gorm.DB
	path  string
	file  os.FileInfo    // of the data file as it was opened
	locks []*flock.Flock // held while the folder is open
}

// ErrNotFound is returned for a record that is not there.
var ErrNotFound = errors.New("there is no such record")

// ErrChanged is returned when a record was changed since it was read.
var ErrChanged = errors.New("the record was changed by someone else since it was opened")

// pragmas: write-ahead log so that readers never wait, foreign keys on, a wait of
// five seconds for the other connection, and every commit on the disk before it is
// reported (nothing is lost on a crash). What is removed is written over.
const pragmas = "?_pragma=journal_mode(WAL)&_pragma=foreign_keys(1)&_pragma=busy_timeout(5000)" +
	"&_pragma=synchronous(FULL)&_pragma=secure_delete(1)"

// File is the name of the data file in its folder.
const File = "yembo.db"

// readers is how many connections read at a time.
const readers = 4

// Open opens the data folder, creating it and the file with owner-only rights, and
// brings its tables up to date. Others may have it open beside; nothing replaces its file
// meanwhile.
func Open(dir string) (*Store, error) {
	s, err := openFolder(dir)
	if err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// Serve opens the data folder like Open, as the one server of it.
func Serve(dir string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("data folder: %w", err)
	}
	serving := lockOf(dir, servedFile)
	switch alone, err := serving.TryLock(); {
	case err != nil:
		return nil, fmt.Errorf("the data folder cannot be written: %w", err)
	case !alone:
		return nil, fmt.Errorf("%s is served already: %w", dir, ErrServed)
	}
	s, err := openFolder(dir)
	s.locks = append(s.locks, serving)
	if err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

// openFolder opens the folder as far as that goes; what it returns is to be closed in any case.
func openFolder(dir string) (*Store, error) {
	s := &Store{}
	fresh, err := prepare(dir)
	if err != nil {
		return s, err
	}
	if s.Dir, err = filepath.Abs(dir); err != nil {
		return s, err
	}
	s.Fresh, s.path = fresh, filepath.Join(s.Dir, File)
	lock := lockOf(s.Dir, lockFile)
	switch free, err := lock.TryRLock(); {
	case err != nil:
		return s, fmt.Errorf("the data folder cannot be written: %w", err)
	case !free:
		return s, fmt.Errorf("the data folder is being replaced: %w", ErrServed)
	}
	s.locks = append(s.locks, lock)
	if s.file, err = os.Stat(s.path); err != nil {
		return s, err
	}
	if err := whole(s.path); err != nil {
		return s, err
	}
	at, err := address(s.path)
	if err != nil {
		return s, err
	}
	if s.write, err = connect(at+pragmas+"&_txlock=immediate", 1); err != nil {
		return s, held(err)
	}
	if err := update(s.write, s.Dir, time.Now()); err != nil {
		return s, held(err)
	}
	if s.read, err = connect(at+pragmas+"&mode=ro", readers); err != nil {
		return s, held(err)
	}
	s.Complaint = mendRights(s.Dir)
	return s, nil
}

// held says of a busy file at the start what it means.
func held(err error) error {
	if err = named(err); errors.Is(err, ErrBusy) {
		return fmt.Errorf("another program holds the data file: close it there, then start again: %w", ErrBusy)
	}
	return err
}

func connect(dsn string, connections int) (*gorm.DB, error) {
	db, err := gorm.Open(sqlite.Dialector{DriverName: "sqlite", DSN: dsn}, &gorm.Config{
		Logger:                 logger.Discard, // errors are returned, and values do not belong in logs
		SkipDefaultTransaction: true,
		PrepareStmt:            true,
	})
	if err != nil {
		return nil, fmt.Errorf("opening the data file: %w", err)
	}
	pool, err := db.DB()
	if err != nil {
		return nil, err
	}
	pool.SetMaxOpenConns(connections)
	pool.SetMaxIdleConns(connections)
	return db, nil
}

// Close closes the data file.
func (s *Store) Close() error {
	var errs []error
	for _, db := range []*gorm.DB{s.read, s.write} {
		if db == nil {
			continue
		}
		pool, err := db.DB()
		if err == nil {
			err = pool.Close()
		}
		errs = append(errs, err)
	}
	for _, lock := range s.locks {
		errs = append(errs, lock.Unlock())
	}
	return errors.Join(errs...)
}

// Tx is one unit of work: all of it is stored, or none.
type Tx struct{ db *gorm.DB }

// Update runs f in a transaction on the writing connection. The error is ErrMoved where the
// data file is no longer the one that was opened.
func (s *Store) Update(ctx context.Context, f func(tx Tx) error) error {
	if err := s.inPlace(); err != nil {
		return err
	}
	err := named(s.write.WithContext(ctx).Transaction(func(db *gorm.DB) error { return f(Tx{db}) }))
	if err == nil {
		s.written.Add(1)
	}
	return err
}

// Empty reports whether there was no data in the folder, and none was stored since.
func (s *Store) Empty() bool { return s.Fresh && s.written.Load() == 0 }

// Changes is how often something was stored since it was opened.
func (s *Store) Changes() int64 { return s.written.Load() }

// ErrOlder is returned where a data file has to be brought up to date before it can be read.
var ErrOlder = errors.New("the data file is of an older version of Yembo: start this one on it once, then look again")

// Look opens a data folder to read alone: nothing of it is changed, its version neither.
func Look(dir string) (*Store, error) {
	at, err := address(filepath.Join(dir, File))
	if err != nil {
		return nil, err
	}
	s := &Store{Dir: dir}
	// A copy that was put back has no log yet, and whoever only looks cannot give it one.
	if s.read, err = connect(at+"?_pragma=foreign_keys(1)&_pragma=busy_timeout(5000)"+
		"&mode=ro", readers); err != nil {
		return nil, errors.Join(named(err), s.Close())
	}
	seen, err := known(s.read)
	if err == nil {
		err = newer(seen)
	}
	if newest := migrations[len(migrations)-1].ID; err == nil && !slices.Contains(seen, newest) {
		err = ErrOlder
	}
	if err != nil {
		return nil, errors.Join(named(err), s.Close())
	}
	return s, nil
}

// Each calls f with every record of a kind, in the order in which they came, one at a time.
func Each[T any](t Tx, f func(record *T) error) error {
	rows, err := t.db.Model(new(T)).Order("rowid").Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		record := new(T)
		if err := t.db.ScanRows(rows, record); err != nil {
			return err
		}
		if err := f(record); err != nil {
			return err
		}
	}
	return rows.Err()
}

// View runs f in a transaction that only reads, so that what it reads belongs
// together.
func (s *Store) View(ctx context.Context, f func(tx Tx) error) error {
	return named(s.read.WithContext(ctx).Transaction(func(db *gorm.DB) error { return f(Tx{db}) }))
}
