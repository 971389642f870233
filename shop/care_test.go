package shop_test

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"yembo/shop"

	"yembo/store"

	"filippo.io/age"
)

// TestDailyCopy: one copy a day goes into the folder of the settings; where it cannot, or the
// newest is old, everybody is told.
func TestDailyCopy(t *testing.T) {
	dir, folder := filepath.Join(t.TempDir(), "data"), filepath.Join(t.TempDir(), "copies")
	st, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	at := time.Now()
	s := shop.New(st, func() time.Time { return at })
	ctx := t.Context()
	begun, end := context.WithCancel(ctx)
	end()
	s.Tend(begun, "")
	if n := s.Notices(); len(n) != 1 || !strings.Contains(n[0], "new, empty data folder: "+dir) {
		t.Errorf("a new folder is not announced: %q", n)
	}
	st.Fresh = false
	keep := func(folder string) error {
		was, err := s.Settings(ctx)
		if err != nil {
			t.Fatal(err)
		}
		next := was
		next.Backups = folder
		return s.SaveSettings(ctx, okell, was, next)
	}
	file := filepath.Join(t.TempDir(), "file")
	if err := os.WriteFile(file, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	for _, wrong := range []string{"copies", dir, file} {
		if err := keep(wrong); err == nil {
			t.Errorf("%s is taken as a folder for copies", wrong)
		}
	}
	if err := keep(folder); err != nil {
		t.Fatal(err)
	}
	for range 3 {
		s.CopyDaily(ctx)
		at = at.Add(24 * time.Hour)
	}
	copies, err := filepath.Glob(filepath.Join(folder, "yembo-*.db"))
	if err != nil || len(copies) != 3 || s.Copies().Failed != "" || len(s.Notices()) != 1 {
		t.Fatalf("%v %v %+v %q", copies, err, s.Copies(), s.Notices())
	}
	if err := store.CheckFile(ctx, copies[0]); err != nil {
		t.Error(err)
	}
	// A recipient named on a day whose copy is there in plain: it is encrypted, and the plain one goes.
	key, err := age.GenerateX25519Identity()
	if err != nil {
		t.Fatal(err)
	}
	was, err := s.Settings(ctx)
	if err != nil {
		t.Fatal(err)
	}
	next := was
	if next.ServeAt = "0.0.0.0:8423"; s.SaveSettings(ctx, okell, was, next) == nil {
		t.Error("other machines are answered before anyone has a password")
	}
	next = was
	if next.CopiesFor = "age1nobody"; s.SaveSettings(ctx, okell, was, next) == nil {
		t.Error("a recipient that is none is taken")
	}
	if next.CopiesFor = key.Recipient().String(); s.SaveSettings(ctx, okell, was, next) != nil {
		t.Error("a recipient is refused")
	}
	at = at.Add(-24 * time.Hour)
	s.CopyDaily(ctx)
	s.CopyDaily(ctx)
	if _, err := os.Stat(copies[2]); !errors.Is(err, os.ErrNotExist) || s.Copies().Failed != "" {
		t.Errorf("the plain copy is left beside the encrypted one: %v %q", err, s.Copies().Failed)
	}
	plain, done, err := store.Unseal(copies[2]+".age", t.TempDir(), key)
	if err != nil {
		t.Fatal(err)
	}
	defer done()
	if err := store.CheckFile(ctx, plain); err != nil {
		t.Error(err)
	}
	at = at.Add(25 * time.Hour) // the newest was made just now, by the clock of the disk: three days back
	if n := s.Notices(); !strings.Contains(strings.Join(n, " "), "newest copy of the data is 3 days old") {
		t.Errorf("an old copy is not known: %q", n)
	}
	if err := os.RemoveAll(folder); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(folder, nil, 0o600); err != nil {
		t.Fatal(err)
	}
	s.CopyDaily(ctx)
	if n := s.Notices(); len(n) != 1 || !strings.Contains(n[0], "was not made") {
		t.Errorf("a copy that fails is not known: %q", n)
	}
}
