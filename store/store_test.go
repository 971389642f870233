package store

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

func open(t *testing.T, dir string) *Store {
	t.Helper()
	s, err := Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

// TestRights: the data folder and its files are the owner's alone.
func TestRights(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "data")
	s := open(t, dir)
	if err := s.Update(t.Context(), func(tx Tx) error { return tx.PutSetting("a", []byte("1")) }); err != nil {
		t.Fatal(err)
	}
	files, err := os.ReadDir(dir)
	if err != nil || len(files) == 0 {
		t.Fatal(err)
	}
	for _, f := range files {
		info, err := f.Info()
		if err != nil || info.Mode().Perm()&0o077 != 0 {
			t.Errorf("%s has the rights %v", f.Name(), info.Mode())
		}
	}
}

// TestWholeOrNothing: a unit of work that fails leaves nothing behind, and what was
// done before is there after the file is opened anew.
func TestWholeOrNothing(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	ctx := t.Context()
	broken := errors.New("broken")
	err := s.Update(ctx, func(tx Tx) error {
		if err := tx.PutSetting("a", []byte("1")); err != nil {
			return err
		}
		return broken
	})
	if !errors.Is(err, broken) {
		t.Fatal(err)
	}
	if err := s.Update(ctx, func(tx Tx) error { return tx.PutSetting("b", []byte("2")) }); err != nil {
		t.Fatal(err)
	}
	s.Close()
	s = open(t, dir)
	err = s.View(ctx, func(tx Tx) error {
		a, err := tx.Setting("a")
		if err != nil || a != nil {
			t.Errorf("half-done work is stored: %s %v", a, err)
		}
		b, err := tx.Setting("b")
		if err != nil || string(b) != "2" {
			t.Errorf("stored work is gone: %s %v", b, err)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

// TestSecondToSave: the second of two people who save the same version is told, and
// overwrites nothing.
func TestSecondToSave(t *testing.T) {
	s := open(t, t.TempDir())
	ctx := t.Context()
	m := Model{ID: "m", Maker: "Q", Doc: []byte("{}"), Version: 1, CreatedAt: time.Now(), UpdatedAt: time.Now()}
	if err := s.Update(ctx, func(tx Tx) error { return tx.CreateModel(&m) }); err != nil {
		t.Fatal(err)
	}
	save := func(maker string) error {
		return s.Update(ctx, func(tx Tx) error {
			mine := m
			mine.Maker, mine.Version = maker, 2
			return tx.SaveModel(&mine, 1)
		})
	}
	if err := save("first"); err != nil {
		t.Fatal(err)
	}
	if err := save("second"); !errors.Is(err, ErrChanged) {
		t.Errorf("the second save: %v", err)
	}
	err := s.View(ctx, func(tx Tx) error {
		got, err := tx.Model("m")
		if got.Maker != "first" {
			t.Errorf("stored: %s", got.Maker)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

func TestRules(t *testing.T) {
	s := open(t, t.TempDir())
	ctx := t.Context()
	err := s.Update(ctx, func(tx Tx) error {
		return tx.CreateMachine(&Machine{ID: "x", CustomerID: 77, ModelID: "none", Doc: []byte("{}"),
			CreatedAt: time.Now(), UpdatedAt: time.Now()})
	})
	if err == nil {
		t.Error("a machine of no model and no customer is stored")
	}
	twice := func() error {
		return s.Update(ctx, func(tx Tx) error { return tx.Create(&Submission{Token: "t", At: time.Now()}) })
	}
	if err := twice(); err != nil {
		t.Fatal(err)
	}
	if err := twice(); err == nil {
		t.Error("a token is taken twice")
	}
	if err := s.View(ctx, func(tx Tx) error { _, err := tx.Machine("nope"); return err }); !errors.Is(err,
		ErrNotFound) {
		t.Errorf("a record that is not there: %v", err)
	}
	if err := s.View(ctx, func(tx Tx) error { return tx.PutSetting("a", nil) }); err == nil {
		t.Error("the reading side writes")
	}
}

// TestOldDataFiles opens a file of each earlier version and finds its records; there is one
// for every migration but the newest.
func TestOldDataFiles(t *testing.T) {
	files, err := filepath.Glob("testdata/yembo-*.db")
	if err != nil || len(files) != len(migrations)-1 {
		t.Fatalf("%d files of earlier versions, %d migrations: %v", len(files), len(migrations), err)
	}
	for _, file := range files {
		t.Run(file, func(t *testing.T) {
			old, err := os.ReadFile(file)
			if err != nil {
				t.Fatal(err)
			}
			dir := t.TempDir()
			if err := os.WriteFile(filepath.Join(dir, File), old, 0o600); err != nil {
				t.Fatal(err)
			}
			if err := open(t, dir).View(t.Context(), oldRecords(t)); err != nil {
				t.Fatal(err)
			}
		})
	}
}

// oldRecords looks at what stood in the first version's file.
func oldRecords(t *testing.T) func(tx Tx) error {
	return func(tx Tx) error {
		machines, _, err := tx.MachinesPage(ListQuery{Limit: 10})
		if err != nil || len(machines) != 2 || machines[0].Customer.Name == "" || machines[0].Model.Maker == "" {
			t.Errorf("%d machines of an old file: %v", len(machines), err)
		}
		if found, _, err := tx.MachinesPage(ListQuery{Words: "PD15 ferr", Limit: 10}); err != nil || len(found) != 1 {
			t.Errorf("%d machines found in an old file: %v", len(found), err)
		}
		// What belonged to a machine by its tag belongs to it by its number.
		for _, m := range machines {
			job, err := tx.JobOf(m.Tag)
			told, errH := tx.HistoryOf("machine", m.ID)
			if err != nil || errH != nil || job.MachineID != m.ID || job.CustomerID != m.CustomerID || len(told) == 0 ||
				m.Tag == m.ID {
				t.Errorf("machine %s, tag %s: job %+v, %d lines of history, %v %v", m.ID, m.Tag, job, len(told), err,
					errH)
			}
		}
		// The search came later; it finds what was recorded before it, in texts and lists.
		for query, want := range map[string]string{"QA14-2 okell": "quillon-aster-14", "QB-525": "quillon-aster-14"} {
			found, err := tx.FindModels(query, -1)
			if err != nil || len(found) != 1 || found[0].ID != want {
				t.Errorf("%s finds %d: %v", query, len(found), err)
			}
		}
		return shelfOf(t, tx)
	}
}

// shelfOf looks at the shelf of an old file: what stood in the documents lies there, and where jobs had chosen
// parts the first to choose has them.
func shelfOf(t *testing.T, tx Tx) error {
	stock, err := tx.Stock("cv-d4-16")
	if err != nil || stock.Shelf == 0 {
		return err // the first files had no parts
	}
	row, errP := tx.Part("cv-d4-16")
	holds, errH := tx.Holds()
	if stock.Shelf != 4 || row.Orderable || strings.Contains(string(row.Doc), "stock") {
		t.Errorf("%+v, %+v", stock, row)
	}
	wanting, err := tx.Wanting()
	if len(wanting) > 0 && (len(holds) != 2 || holds[0].N != 1 || holds[1].N != 3) {
		t.Errorf("held: %+v", holds)
	}
	return errors.Join(err, errP, errH)
}

// TestFind: every word from its beginning, two letters are enough, and what people
// type is never taken for the search's own signs.
func TestFind(t *testing.T) {
	s := open(t, t.TempDir())
	ctx := t.Context()
	err := s.Update(ctx, func(tx Tx) error {
		for id, doc := range map[string]string{
			"a": `{"id":"a","maker":"Quillon","model":"Aster 14","code":"QA14-2","covers":["QA14-3"],
"findings":[{"note":"shield lifted: socketed"}]}`,
			"b": `{"id":"b","maker":"Pellam","model":"Drover 15","batteries":[{"part_numbers":["PB-45"]}]}`} {
			if err := tx.CreateModel(&Model{ID: id, Maker: id, Doc: []byte(doc), Version: 1, CreatedAt: time.Now(),
				UpdatedAt: time.Now()}); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	for query, want := range map[string]string{"": "ab", "qa": "a", "QA14-2": "a", "qa14-3": "a", "PB-45": "b",
		"aster 14": "a", "Quil shield": "a", "drov": "b", "quillon drover": "",
		"format": "", `"`: "ab", `a OR b`: "", `NEAR(`: "", "*": "ab", "-": "ab", "pb-4": "b", "'; DROP TABLE models": "",
		strings.Repeat("x ", 500): ""} {
		err := s.View(ctx, func(tx Tx) error {
			rows, err := tx.FindModels(query, -1)
			got := ""
			for _, r := range rows {
				got += r.ID
			}
			if got != want {
				t.Errorf("%q finds %q, want %q", query, got, want)
			}
			return err
		})
		if err != nil {
			t.Errorf("%q: %v", query, err)
		}
	}
	// A changed record is found by its new words and not by its old ones.
	err = s.Update(ctx, func(tx Tx) error {
		return tx.SaveModel(
			&Model{ID: "b", Maker: "b", Doc: []byte(`{"model":"Osier"}`), Version: 2, CreatedAt: time.Now(), UpdatedAt: time.Now()},
			1,
		)
	})
	if err != nil {
		t.Fatal(err)
	}
	for query, want := range map[string]int{"osier": 1, "drover": 0} {
		if err := s.View(ctx, func(tx Tx) error {
			rows, err := tx.FindModels(query, -1)
			if len(rows) != want {
				t.Errorf("%q finds %d", query, len(rows))
			}
			return err
		}); err != nil {
			t.Fatal(err)
		}
	}
}

// TestMachineWords: the words that machines are found by follow every change of machine,
// customer and model; the newest come first.
func TestMachineWords(t *testing.T) {
	s := open(t, t.TempDir())
	found := func(query string) string {
		var ids []string
		err := s.View(t.Context(), func(tx Tx) error {
			rows, _, err := tx.MachinesPage(ListQuery{Words: query, Limit: 10})
			for i := range rows {
				ids = append(ids, rows[i].Tag)
			}
			return err
		})
		if err != nil {
			t.Fatal(err)
		}
		return strings.Join(ids, " ")
	}
	change := func(f func(tx Tx) error) {
		t.Helper()
		if err := s.Update(t.Context(), f); err != nil {
			t.Fatal(err)
		}
	}
	customer := Customer{Name: "Wath River Ferries"}
	change(func(tx Tx) error {
		model := Model{ID: "m", Maker: "Pellam", Model: "Drover 15", Code: "PD15-A", Doc: []byte("{}"), Version: 1}
		if err := tx.CreateModel(&model); err != nil {
			return err
		}
		if err := tx.Create(&customer); err != nil {
			return err
		}
		for _, id := range []string{"wath-01", "wath-02"} {
			if err := tx.CreateMachine(&Machine{Tag: id, CustomerID: customer.ID, ModelID: "m", Serial: "S-" + id,
				Doc: []byte("{}"), Version: 1}); err != nil {
				return err
			}
		}
		return nil
	})
	change(func(tx Tx) error {
		customer.Name = "Ferry Company"
		return tx.SaveCustomer(&customer)
	})
	change(func(tx Tx) error {
		m, err := tx.Machine("wath-02")
		if err != nil {
			return err
		}
		m.Serial = "NEW/7"
		return tx.SaveMachine(&m, m.Version)
	})
	change(func(tx Tx) error {
		m, err := tx.Model("m")
		if err != nil {
			return err
		}
		m.Model = "Carter 12"
		m.Version++
		return tx.SaveModel(&m, 1)
	})
	for query, want := range map[string]string{"": "wath-02 wath-01", "river": "", "ferr comp": "wath-02 wath-01",
		"NEW/7": "wath-02", "S-wath-02": "", "drover": "", "cart PD15-A": "wath-02 wath-01", "wath-01": "wath-01",
		"*": "wath-02 wath-01", `"`: "wath-02 wath-01"} {
		if got := found(query); got != want {
			t.Errorf("%q finds %q, want %q", query, got, want)
		}
	}
}

// TestPagesOfLists: the pages of every list, one after the other, are the whole list, in every order and
// for every standing, and as many as were said.
func TestPagesOfLists(t *testing.T) {
	s := open(t, t.TempDir())
	err := s.Update(t.Context(), func(tx Tx) error {
		customer := Customer{Name: "C"}
		model := Model{ID: "m", Maker: "Quillon", Model: "Aster", Doc: []byte(`{}`)}
		if err := errors.Join(tx.Create(&customer), tx.CreateModel(&model)); err != nil {
			return err
		}
		for i := range 23 {
			m := Machine{Tag: fmt.Sprintf("c-%02d", i), CustomerID: customer.ID, ModelID: "m", Doc: []byte(`{}`)}
			if err := tx.CreateMachine(&m); err != nil {
				return err
			}
			if i%4 == 0 {
				continue // without a job
			}
			state := []string{`{}`, `{"waits":"parts"}`, `{"waits":"customer"}`, `{"danger":"hot"}`,
				`{"running":"2026-05-14T11:20:00Z"}`}[i%5]
			j := Job{MachineID: m.ID, CustomerID: customer.ID, Wish: []byte(`{}`), Details: []byte(`{}`), State: []byte(state)}
			if i%3 == 0 {
				j.ClosedAt = &j.CreatedAt
			}
			if err := tx.CreateJob(&j); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	err = s.View(t.Context(), func(tx Tx) error {
		sum := 0
		for where := range standing {
			for sort := range machineOrders {
				seen := map[string]bool{}
				total := 0
				for from := 0; ; from += 4 {
					rows, found, err := tx.MachinesPage(ListQuery{Where: where, Sort: sort, From: from, Limit: 4})
					if err != nil {
						return err
					}
					total = found
					for _, r := range rows {
						seen[r.ID] = true
					}
					if len(rows) < 4 {
						break
					}
				}
				if len(seen) != total {
					t.Errorf("%s by %q: %d of %d", where, sort, len(seen), total)
				}
				if sort == "" && where != "open" {
					sum += total
				}
			}
		}
		if sum != 23 {
			t.Errorf("every machine stands somewhere, and once: %d", sum)
		}
		rows, found, err := tx.MachinesPage(ListQuery{Words: "c", From: 20, Limit: 10})
		if err != nil || len(rows) != 3 || found != 23 {
			t.Errorf("the last page of a search: %d of %d, %v", len(rows), found, err)
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
