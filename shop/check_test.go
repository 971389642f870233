package shop_test

import (
	"database/sql"
	"fmt"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"yembo/shop"

	"yembo/shop/care"
	"yembo/shop/work"
	sim "yembo/standin/machine"
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
		`UPDATE models SET doc = CAST(replace(CAST(doc AS TEXT), '"channels":2', '"channels":"two"') AS BLOB)
			WHERE id = 'quillon-aster-14'`: "model quillon-aster-14",
		`UPDATE machines SET doc = CAST('{' AS BLOB) WHERE tag = 'wath-07'`:              "machine ",
		`UPDATE jobs SET wish = CAST('{"goals":{"memory_gb":-1}}' AS BLOB) WHERE id = 1`: "job YB-0001",
		`UPDATE photos SET "full" = x'ffd8' WHERE id = 1`:                                "photo 1",
		`UPDATE stocks SET shelf = shelf + 1 WHERE part_id = 'cv-d4-8'`:                  "its movements come to",
		`UPDATE parts SET doc = CAST('{"id":"x","kind":"memory","name":"y",
"price_cents":-1}' AS BLOB) WHERE id = 'hl-w6'`: "part hl-w6: memory is missing",
	} {
		if _, err := db.Exec(sql); err != nil {
			t.Fatal(err)
		}
		look, err := store.Look(dir)
		if err != nil {
			t.Fatal(err)
		}
		found, err := shop.New(look, time.Now).Check(t.Context())
		if err != nil || !strings.Contains(strings.Join(found, "\n"), want) {
			t.Errorf("%s: %q %v", want, found, err)
		}
		look.Close()
	}
}

// TestCheckReadsEveryTable: every table is checked or said to hold plain values, and a document that is
// broken is named, in whatever table and column it stands.
func TestCheckReadsEveryTable(t *testing.T) {
	dir := t.TempDir()
	b := &bencher{t: t, s: workshopIn(t, dir), now: morning, serial: "s"}
	b.s.Clock = func() time.Time { return b.now }
	ctx := t.Context()
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	// A quote that was answered, an invoice, a run with its events, a proof.
	q := accepted(t, b.s, "tarn-vet-03")
	must(only(b.s.MakeInvoice(ctx, okell, "", q.JobID, nil)))
	b.job = jobOfMachine(t, b.s, "wath-05").Record.JobID
	b.begin()
	b.finish()
	b.read(sim.Faults{}, nil)
	b.must(work.ProofNoted("seen"))
	must(b.s.ChangeTag(ctx, okell, "", "wath-07", "wath-07", "wath-77"))
	if found, err := b.s.Check(ctx); err != nil || len(found) > 0 {
		t.Fatalf("sound, and found: %v %v", found, err)
	}
	known := map[string]bool{}
	for _, name := range care.CheckedTables() {
		known[name] = true
	}
	must(b.s.Store.View(ctx, func(tx store.Tx) error {
		tables, err := tx.Tables()
		for _, name := range tables {
			if !known[name] {
				t.Errorf("the table %s is not checked: add it to checkedTables", name)
			}
			delete(known, name)
		}
		for name := range known {
			t.Errorf("checkedTables has %s, which is no table", name)
		}
		return err
	}))
	must(b.s.Store.Close())
	db, err := sql.Open("sqlite", filepath.Join(dir, store.File))
	must(err)
	defer db.Close()
	db.SetMaxOpenConns(1)
	var triggers []string
	rows, err := db.Query("SELECT name FROM sqlite_master WHERE type = 'trigger'")
	must(err)
	for rows.Next() {
		var name string
		must(rows.Scan(&name))
		triggers = append(triggers, name)
	}
	must(rows.Close())
	for _, name := range triggers {
		must(only(db.Exec("DROP TRIGGER " + name)))
	}
	var columns [][2]string
	rows, err = db.Query(
		`SELECT m.name, c.name FROM sqlite_master m JOIN pragma_table_info(m.name) c WHERE m.type = 'table' AND c.type = 'BLOB'
		AND m.name NOT LIKE '%words%' AND m.name NOT IN ('uploads', 'sessions')`,
	)
	must(err)
	for rows.Next() {
		var c [2]string
		must(rows.Scan(&c[0], &c[1]))
		columns = append(columns, c)
	}
	must(rows.Close())
	if len(columns) < 18 {
		t.Fatalf("only %d columns of documents: %v", len(columns), columns)
	}
	for _, c := range columns {
		var id int64
		var was []byte
		err := db.QueryRow(fmt.Sprintf(`SELECT rowid, "%[2]s" FROM %[1]s WHERE length("%[2]s") > 2 LIMIT 1`, c[0], c[1])).
			Scan(&id, &was)
		if err != nil {
			t.Errorf("%s.%s: the test has no row of it: %v", c[0], c[1], err)
			continue
		}
		set := fmt.Sprintf(`UPDATE %s SET "%s" = ? WHERE rowid = ?`, c[0], c[1])
		must(only(db.Exec(set, []byte("{"), id)))
		look, err := store.Look(dir)
		must(err)
		found, err := shop.New(look, time.Now).Check(ctx)
		if err == nil && len(found) == 0 {
			t.Errorf("%s.%s is broken, and the data is said to be sound", c[0], c[1])
		}
		must(look.Close())
		must(only(db.Exec(set, was, id)))
	}
}
