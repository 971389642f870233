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

	"github.com/gofrs/flock"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
	_ "modernc.org/sqlite" // the driver
)

// Store is an open data folder. One connection writes, several read.
type Store struct {
	write *gorm.DB
	read  *gorm.DB
	lock  *flock.Flock // held while the folder is open, so that nothing replaces its file
}

// ErrNotFound is returned for a record that is not there.
var ErrNotFound = errors.New("there is no such record")

// ErrChanged is returned when a record was changed since it was read.
var ErrChanged = errors.New("the record was changed by someone else since it was opened")

// pragmas: write-ahead log so that readers never wait, foreign keys on, a wait of
// five seconds for the other connection, and every commit on the disk before it is
// reported (nothing is lost on a crash).
const pragmas = "?_pragma=journal_mode(WAL)&_pragma=foreign_keys(1)&_pragma=busy_timeout(5000)&_pragma=synchronous(FULL)"

// File is the name of the data file in its folder.
const File = "yembo.db"

// readers is how many connections read at a time.
const readers = 4

// Open opens the data folder, creating it and the file with owner-only rights, and
// brings its tables up to date.
func Open(dir string) (*Store, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("data folder: %w", err)
	}
	path := filepath.Join(dir, File)
	// SQLite would create the file with the rights of the umask; the log files
	// beside it take over the rights of the file.
	f, err := os.OpenFile(path, os.O_RDWR|os.O_CREATE, 0o600)
	if err != nil {
		return nil, fmt.Errorf("data file: %w", err)
	}
	if err := f.Close(); err != nil {
		return nil, fmt.Errorf("data file: %w", err)
	}
	s := &Store{lock: lockOf(dir)}
	if free, err := s.lock.TryRLock(); err != nil || !free {
		return nil, fmt.Errorf("the data folder is being replaced: %w", errors.Join(ErrServed, err))
	}
	if s.write, err = connect("file:"+path+pragmas+"&_txlock=immediate", 1); err != nil {
		return nil, err
	}
	if err := migrate(s.write); err != nil {
		return nil, fmt.Errorf("bringing the data file up to date: %w", err)
	}
	if s.read, err = connect("file:"+path+pragmas+"&mode=ro", readers); err != nil {
		return nil, err
	}
	return s, nil
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
		pool, err := db.DB()
		if err == nil {
			err = pool.Close()
		}
		errs = append(errs, err)
	}
	return errors.Join(append(errs, s.lock.Unlock())...)
}

// Tx is one unit of work: all of it is stored, or none.
type Tx struct{ db *gorm.DB }

// Update runs f in a transaction on the writing connection.
func (s *Store) Update(ctx context.Context, f func(tx Tx) error) error {
	return named(s.write.WithContext(ctx).Transaction(func(db *gorm.DB) error { return f(Tx{db}) }))
}

// View runs f in a transaction that only reads, so that what it reads belongs
// together.
func (s *Store) View(ctx context.Context, f func(tx Tx) error) error {
	return named(s.read.WithContext(ctx).Transaction(func(db *gorm.DB) error { return f(Tx{db}) }))
}
