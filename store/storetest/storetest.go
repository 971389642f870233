// Package storetest gives tests data folders that are filled already.
package storetest

import (
	"os"
	"path/filepath"
	"sync"
	"testing"

	"yembo/store"
)

// A folder is what a data folder holds: the content of each file by its name.
type folder map[string][]byte

var (
	mu     sync.Mutex
	filled = map[string]folder{}
)

// Open is a store in a new data folder. What it holds was made by fill the first time that a test asked
// under this name, and is copied since: filling takes half a second, copying a few milliseconds.
func Open(t testing.TB, name string, fill func(*store.Store) error) *store.Store {
	t.Helper()
	return OpenIn(t, t.TempDir(), name, fill)
}

// OpenIn is Open in a folder that the test names.
func OpenIn(t testing.TB, dir, name string, fill func(*store.Store) error) *store.Store {
	t.Helper()
	for file, content := range filledOnce(t, name, fill) {
		if err := os.WriteFile(filepath.Join(dir, file), content, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

func filledOnce(t testing.TB, name string, fill func(*store.Store) error) folder {
	t.Helper()
	mu.Lock()
	defer mu.Unlock()
	if f := filled[name]; f != nil {
		return f
	}
	dir := t.TempDir()
	s, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	if err := fill(s); err != nil {
		s.Close()
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	entries, err := os.ReadDir(dir)
	if err != nil {
		t.Fatal(err)
	}
	f := folder{}
	for _, e := range entries {
		if e.IsDir() {
			continue
		}
		if f[e.Name()], err = os.ReadFile(filepath.Join(dir, e.Name())); err != nil {
			t.Fatal(err)
		}
	}
	filled[name] = f
	return f
}
