package shop

import (
	"database/sql"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"yembo/store"
)

// TestCheck: the demo's data is sound, and whatever is spoilt in it is named.
func TestCheck(t *testing.T) {
	dir := t.TempDir()
	s := workshopIn(t, dir)
	if found, err := s.Check(t.Context()); err != nil || len(found) > 0 {
		t.Fatalf("%v %v", found, err)
	}
	db, err := sql.Open("sqlite", filepath.Join(dir, store.File))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for sql, want := range map[string]string{
		`UPDATE models SET doc = CAST(replace(CAST(doc AS TEXT), '"channels":2', '"channels":"two"') AS BLOB) WHERE id = 'quillon-aster-14'`: "model quillon-aster-14",
		`UPDATE machines SET doc = CAST('{' AS BLOB) WHERE tag = 'wath-07'`:                                                                  "machine ",
		`UPDATE jobs SET wish = CAST('{"goals":{"memory_gb":-1}}' AS BLOB) WHERE id = 1`:                                                     "job YB-0001",
		`UPDATE photos SET "full" = x'ffd8' WHERE id = 1`:                                                                                    "photo 1",
		`UPDATE stocks SET shelf = shelf + 1 WHERE part_id = 'cv-d4-8'`:                                                                      "its movements come to",
		`UPDATE parts SET doc = CAST('{"id":"x","kind":"memory","name":"y","price_cents":-1}' AS BLOB) WHERE id = 'hl-w6'`:                   "part hl-w6: memory is missing",
	} {
		if _, err := db.Exec(sql); err != nil {
			t.Fatal(err)
		}
		look, err := store.Look(dir)
		if err != nil {
			t.Fatal(err)
		}
		found, err := New(look, time.Now).Check(t.Context())
		if err != nil || !strings.Contains(strings.Join(found, "\n"), want) {
			t.Errorf("%s: %q %v", want, found, err)
		}
		look.Close()
	}
}
