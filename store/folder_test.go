package store

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"gorm.io/gorm"
)

// TestFolderNames: a folder of any name holds its own data, and nothing is written beside it.
func TestFolderNames(t *testing.T) {
	for _, name := range []string{"shop#1", "what?", "100%41", "a;b", "a b", "Werkstätte", "q?mode=memory", "x&y=z"} {
		base := t.TempDir()
		dir := filepath.Join(base, name)
		s := open(t, dir)
		if err := s.Update(t.Context(), func(tx Tx) error { return tx.PutSetting("a", []byte("1")) }); err != nil {
			t.Errorf("%s: %v", name, err)
		}
		if err := Backup(t.Context(), dir, filepath.Join(base, name+".db")); err != nil {
			t.Errorf("%s: %v", name, err)
		}
		s.Close()
		beside, err := os.ReadDir(base)
		if info, statErr := os.Stat(filepath.Join(dir, File)); err != nil || len(beside) != 2 || statErr != nil ||
			info.Size() == 0 {
			t.Errorf("%s: the data is not in its folder, or something lies beside it: %v %v", name, beside, statErr)
		}
	}
}

// TestOpening: a folder that is not to be opened as it is, is refused with what it is, and left
// as it was.
func TestOpening(t *testing.T) {
	file := func(dir string) string { return filepath.Join(dir, File) }
	for name, c := range map[string]struct {
		before func(t *testing.T, dir string)
		open   func(dir string) (*Store, error)
		is     error
		says   string
	}{
		"served already": {func(t *testing.T, dir string) {
			s, err := Serve(dir)
			if err != nil {
				t.Fatal(err)
			}
			t.Cleanup(func() { s.Close() })
		}, Serve, ErrServed, "served already"},
		"of a newer version": {func(t *testing.T, dir string) {
			s := open(t, dir)
			if err := s.write.Exec("INSERT INTO migrations (id) VALUES ('9001')").Error; err != nil {
				t.Fatal(err)
			}
			s.Close()
		}, Open, ErrNewer, "version 9001, this Yembo knows up to " + migrations[len(migrations)-1].ID},
		"a log without its file": {func(t *testing.T, dir string) {
			if err := os.WriteFile(file(dir)+"-wal", []byte("log"), 0o600); err != nil {
				t.Fatal(err)
			}
		}, Open, nil, "is missing, but its log"},
		"not a data file": {func(t *testing.T, dir string) {
			if err := os.WriteFile(file(dir), []byte(strings.Repeat("no data file ", 100)), 0o600); err != nil {
				t.Fatal(err)
			}
		}, Open, ErrDamaged, "damaged"},
		"held by another program": {func(t *testing.T, dir string) {
			open(t, dir).Close()
			other, err := connect("file:"+file(dir)+"?_pragma=locking_mode(EXCLUSIVE)&_txlock=exclusive", 1)
			if err != nil {
				t.Fatal(err)
			}
			tx := other.Begin()
			t.Cleanup(func() { tx.Rollback() })
		}, Open, ErrBusy, "another program holds the data file"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			dir := t.TempDir()
			c.before(t, dir)
			was, _ := os.ReadFile(file(dir))
			s, err := c.open(dir)
			if err == nil {
				s.Close()
				t.Fatal("it is opened")
			}
			now, _ := os.ReadFile(file(dir))
			if c.is != nil && !errors.Is(err, c.is) || !strings.Contains(err.Error(), c.says) ||
				string(now) != string(was) {
				t.Errorf("%v; the file was changed: %v", err, string(now) != string(was))
			}
		})
	}
}

// TestOldCopyKept: before a data file is changed by a newer version it is copied as it was.
func TestOldCopyKept(t *testing.T) {
	dir := t.TempDir()
	last := migrations[len(migrations)-1].ID
	old, err := os.ReadFile(fmt.Sprintf("testdata/yembo-%04d.db", len(migrations)-1))
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(dir, File), old, 0o600); err != nil {
		t.Fatal(err)
	}
	open(t, dir)
	kept, err := filepath.Glob(filepath.Join(dir, "yembo-of-*.db"))
	if err != nil || len(kept) != 1 {
		t.Fatalf("%v %v", kept, err)
	}
	err = with(kept[0], func(db *gorm.DB) error {
		ids, err := known(db)
		if len(ids) == 0 || ids[len(ids)-1] >= last {
			t.Errorf("the copy has %v", ids)
		}
		return err
	})
	if err != nil {
		t.Error(err)
	}
}

// TestMoved: once its file is moved away or replaced nothing is stored, and it goes on when the
// file is back.
func TestMoved(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	write := func() error {
		return s.Update(t.Context(), func(tx Tx) error { return tx.PutSetting("a", []byte("1")) })
	}
	path := filepath.Join(dir, File)
	if err := os.Rename(path, path+".away"); err != nil {
		t.Fatal(err)
	}
	if err := write(); !errors.Is(err, ErrMoved) || !s.Moved() {
		t.Errorf("moved away: %v", err)
	}
	if err := os.WriteFile(path, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	if err := write(); !errors.Is(err, ErrMoved) {
		t.Errorf("replaced: %v", err)
	}
	if err := os.Rename(path+".away", path); err != nil {
		t.Fatal(err)
	}
	if err := write(); err != nil {
		t.Errorf("back again: %v", err)
	}
}

// TestFull: what does not fit is told as that, nothing of it stays, and it goes on by itself
// when there is room.
func TestFull(t *testing.T) {
	s := open(t, t.TempDir())
	pages := func(most string) {
		if err := s.write.Exec("PRAGMA max_page_count = " + most).Error; err != nil {
			t.Fatal(err)
		}
	}
	large := func() error {
		return s.Update(t.Context(), func(tx Tx) error { return tx.PutSetting("large", make([]byte, 1<<20)) })
	}
	pages("1") // no page more than there are
	if err := large(); !errors.Is(err, ErrFull) {
		t.Errorf("a full disk: %v", err)
	}
	err := s.View(t.Context(), func(tx Tx) error {
		value, err := tx.Setting("large")
		if value != nil {
			t.Error("half of it is stored")
		}
		return err
	})
	if err != nil {
		t.Error(err)
	}
	pages("100000")
	if err := large(); err != nil {
		t.Errorf("with room again: %v", err)
	}
}

// TestRightsMended: what others may read is taken back, or told where it may not be.
func TestRightsMended(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "data")
	open(t, dir).Close()
	for path, mode := range map[string]os.FileMode{dir: 0o755, filepath.Join(dir, File): 0o644} {
		if err := os.Chmod(path, mode); err != nil {
			t.Fatal(err)
		}
	}
	s := open(t, dir)
	if s.Complaint != "" {
		t.Errorf("a folder of its own is mended: %q", s.Complaint)
	}
	for _, path := range []string{dir, filepath.Join(dir, File)} {
		if info, err := os.Stat(path); err != nil || info.Mode().Perm()&0o077 != 0 {
			t.Errorf("%s: %v %v", path, info.Mode(), err)
		}
	}
	s.Close()
	if err := errors.Join(os.Chmod(dir, 0o755),
		os.WriteFile(filepath.Join(dir, "letters.txt"), nil, 0o644)); err != nil {
		t.Fatal(err)
	}
	if s = open(t, dir); !strings.Contains(s.Complaint, "others may look into") {
		t.Errorf("a folder shared with other files: %q", s.Complaint)
	}
	if info, err := os.Stat(dir); err != nil || info.Mode().Perm() != 0o755 {
		t.Errorf("the shared folder's rights were changed: %v %v", info.Mode(), err)
	}
}
