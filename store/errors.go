package store

import (
	"errors"
	"fmt"

	"modernc.org/sqlite"
)

// What the data file may answer beside a record: somebody else writes for too long, the disk
// is full or takes nothing, the file may not be written, or it is damaged.
var (
	ErrBusy     = errors.New("the data file is busy")
	ErrFull     = errors.New("the disk is full")
	ErrReadOnly = errors.New("the data file cannot be written")
	ErrDamaged  = errors.New("the data file is damaged")
)

// SQLite's result codes; the upper bytes of an extended code are left out.
const (
	sqlitePerm, sqliteBusy, sqliteLocked, sqliteReadOnly = 3, 5, 6, 8
	sqliteIO, sqliteCorrupt, sqliteFull, sqliteCantOpen  = 10, 11, 13, 14
	sqliteNotADatabase                                   = 26
	sqliteShortRead                                      = 10 | 2<<8 // a page that should be there is not
)

// named puts a name to an error of the data file; others stay as they are.
func named(err error) error {
	var from *sqlite.Error
	if !errors.As(err, &from) {
		return err
	}
	if from.Code() == sqliteShortRead {
		return fmt.Errorf("%w: its end is missing: %w", ErrDamaged, err)
	}
	switch from.Code() & 0xff {
	case sqliteBusy, sqliteLocked:
		return fmt.Errorf("%w: %w", ErrBusy, err)
	case sqlitePerm, sqliteReadOnly, sqliteCantOpen:
		return fmt.Errorf("%w: %w", ErrReadOnly, err)
	case sqliteFull, sqliteIO: // a limit on the size of files answers like a failing disk
		return fmt.Errorf("%w: %w", ErrFull, err)
	case sqliteCorrupt, sqliteNotADatabase:
		return fmt.Errorf("%w: %w", ErrDamaged, err)
	}
	return err
}
