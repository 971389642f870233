package store

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"github.com/gofrs/flock"
	"gorm.io/gorm"
)

// ErrServed is returned where a data folder would be replaced while something has it open.
var ErrServed = errors.New("the data folder is in use: stop what serves it first")

// lockFile is held shared by whoever has a data folder open, and alone by whoever replaces
// what is in it.
const lockFile = "yembo.lock"

// servedFile is held by the one server of a folder.
const servedFile = "yembo-served.lock"

func lockOf(dir, name string) *flock.Flock {
	return flock.New(filepath.Join(dir, name), flock.SetPermissions(0o600))
}

// Backup writes a copy of a data folder, also of one that is served, as one file that belongs
// together: what is stored while it runs is in it whole or not at all. The copy is checked
// before it gets its name; a file that is there already is not written over.
func Backup(ctx context.Context, dir, file string) error {
	if _, err := os.Stat(file); err == nil {
		return fmt.Errorf("%s is there already", file)
	}
	path := filepath.Join(dir, File)
	if _, err := os.Stat(path); err != nil {
		return fmt.Errorf("there is no data file in %s", dir)
	}
	part := file + ".part"
	if err := os.Remove(part); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	if err := whole(path); err != nil {
		return err
	}
	err := with(path, func(db *gorm.DB) error {
		if err := notNewer(db); err != nil {
			return err
		}
		return db.WithContext(ctx).Exec("VACUUM INTO ?", part).Error
	})
	if err == nil {
		err = CheckFile(ctx, part)
	}
	if err == nil {
		err = os.Chmod(part, 0o600)
	}
	if err == nil {
		err = synced(part)
	}
	if err == nil {
		err = os.Rename(part, file)
	}
	if err != nil {
		return errors.Join(err, ignoreMissing(os.Remove(part)))
	}
	return nil
}

// CheckFile reads a data file whole: its pages, and that what refers to something finds it.
// The error is ErrDamaged with what is wrong.
func CheckFile(ctx context.Context, file string) error {
	if err := whole(file); err != nil {
		return err
	}
	return with(file, func(db *gorm.DB) error {
		db = db.WithContext(ctx)
		if err := notNewer(db); err != nil {
			return err
		}
		var said []string
		if err := db.Raw("PRAGMA integrity_check(20)").Scan(&said).Error; err != nil {
			return err
		}
		if len(said) != 1 || said[0] != "ok" {
			return fmt.Errorf("%w: %q", ErrDamaged, said)
		}
		var dangling []struct{ Table, Parent string }
		if err := db.Raw("PRAGMA foreign_key_check").Scan(&dangling).Error; err != nil {
			return err
		}
		if len(dangling) > 0 {
			return fmt.Errorf("%w: %d rows of %s refer to nothing in %s", ErrDamaged, len(dangling), dangling[0].Table,
				dangling[0].Parent)
		}
		var n int64
		if err := db.Raw(`SELECT count(*) FROM sqlite_master
		WHERE name IN ('models', 'machines', 'histories')`).Scan(&n).Error; err != nil {
			return err
		}
		if n != 3 {
			return fmt.Errorf("%w: it is no data file of Yembo", ErrDamaged)
		}
		return nil
	})
}

// Restore puts a copy in the place of a data folder's file. It refuses while the folder is
// open anywhere, checks the copy first, and keeps what it replaces; the name of that is
// returned, "" where there was nothing.
func Restore(ctx context.Context, file, dir string, now time.Time) (kept string, err error) {
	if err := CheckFile(ctx, file); err != nil {
		return "", err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return "", err
	}
	lock := lockOf(dir, lockFile)
	free, err := lock.TryLock()
	if err != nil {
		return "", err
	}
	if !free {
		return "", ErrServed
	}
	defer lock.Unlock()
	path, fresh := filepath.Join(dir, File), filepath.Join(dir, File+".new")
	if err := copyFile(file, fresh); err != nil {
		return "", errors.Join(err, ignoreMissing(os.Remove(fresh)))
	}
	// Whoever signed in before the copy was made, and was put out since, is not in again.
	err = with(fresh, func(db *gorm.DB) error {
		if !db.Migrator().HasTable("sessions") {
			return nil // of a version that had none
		}
		return db.Exec("DELETE FROM sessions").Error
	})
	if err != nil {
		return "", err
	}
	if _, err := os.Stat(path); err == nil {
		// What waits in the log beside the file goes into it, so that nothing of it is left
		// behind for the copy.
		if err := with(path, func(db *gorm.DB) error { return db.Exec("PRAGMA wal_checkpoint(TRUNCATE)").Error }); err != nil {
			return "", fmt.Errorf("what is there now cannot be kept: %w", err)
		}
		kept = filepath.Join(dir, "yembo-before-"+now.Format("2006-01-02-150405")+".db")
		if err := os.Rename(path, kept); err != nil {
			return "", err
		}
	}
	for _, beside := range []string{"-wal", "-shm"} {
		if err := ignoreMissing(os.Remove(path + beside)); err != nil {
			return kept, err
		}
	}
	return kept, os.Rename(fresh, path)
}

// with opens a data file by itself for a moment.
func with(path string, do func(db *gorm.DB) error) error {
	at, err := address(path)
	if err != nil {
		return err
	}
	db, err := connect(at+"?mode=rw&_pragma=busy_timeout(5000)", 1)
	if err != nil {
		return named(err)
	}
	pool, err := db.DB()
	if err != nil {
		return err
	}
	return errors.Join(named(do(db)), pool.Close())
}

func copyFile(from, to string) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, in)
	return errors.Join(err, out.Sync(), out.Close())
}

// synced puts a file on the disk.
func synced(file string) error {
	f, err := os.Open(file)
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}

func ignoreMissing(err error) error {
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	return err
}
