package store

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// stored is a data folder with something in it, closed.
func stored(t *testing.T) (dir, file string) {
	t.Helper()
	dir = t.TempDir()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	err = s.Update(t.Context(), func(tx Tx) error {
		return tx.Create(&Customer{Name: strings.Repeat("x", 30_000), CreatedAt: time.Now()})
	})
	if err := errors.Join(err, s.Close()); err != nil {
		t.Fatal(err)
	}
	return dir, filepath.Join(dir, File)
}

// TestCutOff: a file whose end is missing is damage, whoever opens it and wherever it was cut; one that is
// whole is not.
func TestCutOff(t *testing.T) {
	dir, file := stored(t)
	raw, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	aside := filepath.Join(t.TempDir(), "aside.db")
	for name, length := range map[string]int{"whole": len(raw), "the last page": len(raw) - 4096, "half": len(raw) / 2,
		"a byte": len(raw) - 1, "the head": 60} {
		if err := os.WriteFile(file, raw[:length], 0o600); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(aside, raw[:length], 0o600); err != nil {
			t.Fatal(err)
		}
		_ = os.Remove(filepath.Join(dir, "copy.db"))
		for what, try := range map[string]func() error{
			"check":   func() error { return CheckFile(t.Context(), file) },
			"backup":  func() error { return Backup(t.Context(), dir, filepath.Join(dir, "copy.db")) },
			"restore": func() error { _, err := Restore(t.Context(), aside, t.TempDir(), time.Now()); return err },
			"serve": func() error {
				s, err := Serve(dir)
				if err == nil {
					err = s.Close()
				}
				return err
			},
		} {
			err := try()
			if name == "whole" && err != nil || name != "whole" && !errors.Is(err, ErrDamaged) {
				t.Errorf("%s is missing, %s: %v", name, what, err)
			}
			if err := os.WriteFile(file, raw[:length], 0o600); err != nil {
				t.Fatal(err)
			}
			_ = os.Remove(file + "-wal")
		}
	}
}

// TestLookAfterRestore: what was just put back can be looked at without being changed.
func TestLookAfterRestore(t *testing.T) {
	dir, _ := stored(t)
	copied := filepath.Join(t.TempDir(), "copy.db")
	if err := Backup(t.Context(), dir, copied); err != nil {
		t.Fatal(err)
	}
	fresh := t.TempDir()
	if _, err := Restore(t.Context(), copied, fresh, time.Now()); err != nil {
		t.Fatal(err)
	}
	s, err := Look(fresh)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if err := s.View(t.Context(), func(tx Tx) error { return Each(tx, func(*Customer) error { return nil }) }); err != nil {
		t.Error(err)
	}
}

// TestNewerRefused: a file of a newer version is refused as that by everything that opens one.
func TestNewerRefused(t *testing.T) {
	dir, file := stored(t)
	s := open(t, dir)
	if err := s.Update(t.Context(),
		func(tx Tx) error { return tx.db.Exec("INSERT INTO migrations VALUES ('9000')").Error }); err != nil {
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	for what, try := range map[string]func() error{
		"check":   func() error { return CheckFile(t.Context(), file) },
		"backup":  func() error { return Backup(t.Context(), dir, filepath.Join(t.TempDir(), "copy.db")) },
		"restore": func() error { _, err := Restore(t.Context(), file, t.TempDir(), time.Now()); return err },
		"look":    func() error { _, err := Look(dir); return err },
		"serve":   func() error { _, err := Serve(dir); return err },
	} {
		if err := try(); !errors.Is(err, ErrNewer) {
			t.Errorf("%s: %v", what, err)
		}
	}
}

// TestNoEmptyShop: a folder that has copies and no data file is not taken for a new one; one without
// rights is not said to be served.
func TestNoEmptyShop(t *testing.T) {
	for _, name := range []string{"yembo-2026-05-13.db", "yembo-before-2026-05-13-101500.db", "yembo-of-0015-2026-05-13-101500.db"} {
		dir := t.TempDir()
		if err := os.WriteFile(filepath.Join(dir, name), []byte("x"), 0o600); err != nil {
			t.Fatal(err)
		}
		if _, err := Serve(dir); err == nil || !strings.Contains(err.Error(), name) || !strings.Contains(err.Error(), "restore") {
			t.Errorf("beside %s: %v", name, err)
		}
		if _, err := os.Stat(filepath.Join(dir, File)); err == nil {
			t.Errorf("beside %s an empty data file was made", name)
		}
	}
	// A lock that cannot be taken for want of rights; the test may be run by root, whom no rights stop.
	dir := t.TempDir()
	if err := os.Mkdir(filepath.Join(dir, servedFile), 0o700); err != nil {
		t.Fatal(err)
	}
	if _, err := Serve(dir); err == nil || errors.Is(err, ErrServed) {
		t.Errorf("a folder that cannot be locked is said to be served: %v", err)
	}
}
