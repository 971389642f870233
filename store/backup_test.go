package store

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"
)

// TestBackupUnderLoad: a copy made while others write holds what was stored before it began,
// nothing half-done, and is a data folder of its own when it is put back.
func TestBackupUnderLoad(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	ctx, stop := context.WithCancel(t.Context())
	// Each write adds two customers: a copy with an odd number of them is half-done.
	write := func(n int) error {
		return s.Update(t.Context(), func(tx Tx) error {
			for _, side := range []string{"a", "b"} {
				if err := tx.Create(&Customer{Name: fmt.Sprintf("%d %s", n, side), CreatedAt: time.Now()}); err != nil {
					return err
				}
			}
			return nil
		})
	}
	for n := range 50 {
		if err := write(n); err != nil {
			t.Fatal(err)
		}
	}
	done := make(chan error, 1)
	go func() {
		for n := 50; ctx.Err() == nil; n++ {
			if err := write(n); err != nil {
				done <- err
				return
			}
		}
		done <- nil
	}()
	file := filepath.Join(t.TempDir(), "copy.db")
	if err := Backup(t.Context(), dir, file); err != nil {
		t.Fatal(err)
	}
	stop()
	if err := <-done; err != nil {
		t.Fatal(err)
	}
	if err := Backup(t.Context(), dir, file); err == nil {
		t.Error("a file that is there is written over")
	}
	if _, err := Restore(t.Context(), file, dir, time.Now()); !errors.Is(err, ErrServed) {
		t.Errorf("a folder in use is replaced: %v", err)
	}
	fresh := t.TempDir()
	if kept, err := Restore(t.Context(), file, fresh, time.Now()); err != nil || kept != "" {
		t.Fatalf("into an empty folder: %q %v", kept, err)
	}
	if n := customers(t, open(t, fresh)); n < 100 || n%2 != 0 {
		t.Errorf("%d customers are in the copy", n)
	}
}

func customers(t *testing.T, s *Store) int {
	t.Helper()
	n := 0
	err := s.View(t.Context(), func(tx Tx) error {
		rows, err := tx.Customers()
		n = len(rows)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	return n
}

// TestRestore: an old copy takes the place of what is there, which is kept whole with what
// waited in its log; what is no copy is refused, and nothing is touched then.
func TestRestore(t *testing.T) {
	dir, file := t.TempDir(), filepath.Join(t.TempDir(), "copy.db")
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	add := func(name string) {
		t.Helper()
		if err := s.Update(t.Context(),
			func(tx Tx) error { return tx.Create(&Customer{Name: name, CreatedAt: time.Now()}) }); err != nil {
			t.Fatal(err)
		}
	}
	add("first")
	if err := Backup(t.Context(), dir, file); err != nil {
		t.Fatal(err)
	}
	add("second")
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	torn := filepath.Join(t.TempDir(), "torn.db")
	raw, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	for i := 5000; i < 9000; i++ {
		raw[i] ^= 0x5a
	}
	if err := os.WriteFile(torn, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	other := filepath.Join(t.TempDir(), "other.db")
	if err := os.WriteFile(other, []byte("no data file"), 0o600); err != nil {
		t.Fatal(err)
	}
	for _, bad := range []string{torn, other, filepath.Join(dir, "nowhere.db")} {
		if _, err := Restore(t.Context(), bad, dir, time.Now()); err == nil {
			t.Errorf("%s is taken for a copy", bad)
		}
	}
	kept, err := Restore(t.Context(), file, dir, time.Now())
	if err != nil {
		t.Fatal(err)
	}
	if n := customers(t, open(t, dir)); n != 1 {
		t.Errorf("%d customers after the old copy was put back", n)
	}
	before := t.TempDir()
	if _, err := Restore(t.Context(), kept, before, time.Now()); err != nil {
		t.Fatal(err)
	}
	if n := customers(t, open(t, before)); n != 2 {
		t.Errorf("%d customers in what was replaced", n)
	}
}

// Two who take what was forgotten out of the file's bytes, and a third who writes with statements
// that were never prepared before: none waits for another for ever.
func TestScrubBesideWrites(t *testing.T) {
	s := open(t, t.TempDir())
	fresh := func(i int) error {
		return s.Update(context.Background(), func(tx Tx) error {
			return tx.db.Exec(fmt.Sprintf("UPDATE customers SET name = name WHERE id = %d", i)).Error
		})
	}
	done := make(chan error)
	for _, work := range []func(int) error{fresh, func(int) error { return s.Scrub() }, func(int) error { return s.Scrub() }} {
		go func() {
			var err error
			for i := range 30 {
				err = errors.Join(err, work(i))
			}
			done <- err
		}()
	}
	for range 3 {
		select {
		case err := <-done:
			if err != nil {
				t.Fatal(err)
			}
		case <-time.After(30 * time.Second):
			t.Fatal("they wait for each other")
		}
	}
}
