package store

import (
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"os"

	"gorm.io/gorm"
)

// whole reports, as ErrDamaged, a data file that is shorter than it says itself: its end was cut off, as
// by a disk that was full while it was copied. Where a log waits beside it, the log may hold the rest, and
// nothing is said before that went into the file.
//
// The numbers are those of SQLite's file format, section 1.3: the size of a page stands at byte 16 (1 is
// 65536), how many pages there are at byte 28; that is right where the counters at 24 and 92 agree.
func whole(path string) error {
	if log, err := os.Stat(path + "-wal"); err == nil && log.Size() > 0 {
		return nil
	}
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil || info.Size() == 0 {
		return err
	}
	var head [100]byte
	if _, err := io.ReadFull(f, head[:]); err != nil {
		return fmt.Errorf("%w: it is %d bytes long, less than the head of a data file", ErrDamaged, info.Size())
	}
	page := int64(binary.BigEndian.Uint16(head[16:]))
	if page == 1 {
		page = 65536
	}
	pages := int64(binary.BigEndian.Uint32(head[28:]))
	if binary.BigEndian.Uint32(head[24:]) != binary.BigEndian.Uint32(head[92:]) {
		return nil // written by a program that keeps no count
	}
	if info.Size() < page*pages {
		return fmt.Errorf("%w: it is %d bytes long and says that it has %d: its end is missing", ErrDamaged, info.Size(), page*pages)
	}
	return nil
}

// newer reports, as ErrNewer, a data file that a newer version has changed.
func newer(seen []string) error {
	newest := migrations[len(migrations)-1].ID
	for _, id := range seen {
		if id != schemaInit && id > newest {
			return fmt.Errorf(
				"%w: its tables are of version %s, this Yembo knows up to %s; use the newer one, or a copy that this one made",
				ErrNewer,
				id,
				newest,
			)
		}
	}
	return nil
}

// schemaInit is what the library of the migrations notes beside them.
const schemaInit = "SCHEMA_INIT"

// notNewer reports a data file that a newer version has changed; one that is no data file of Yembo's is
// for others to name.
func notNewer(db *gorm.DB) error {
	seen, err := known(db)
	if err != nil {
		return nil // what cannot be read is named by the check of the pages
	}
	return newer(seen)
}

// emptied reports a folder that has copies of data and no data file: it is not taken for a new one.
func emptied(dir string) error {
	entries, err := os.ReadDir(dir)
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	for _, e := range entries {
		if name := e.Name(); isCopy(name) {
			return fmt.Errorf(
				"%s has no data file, but a copy of one, %s: restore a copy (yembo restore), or name another folder",
				dir,
				name,
			)
		}
	}
	return nil
}
