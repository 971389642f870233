package store

import (
	"errors"
	"fmt"
	"testing"
)

// TestShelfChanged counts each change of the parts and of the shelf, so that what was read can be
// kept.
func TestShelfChanged(t *testing.T) {
	s := open(t, t.TempDir())
	count := func() (parts, stock int64) {
		err := s.View(t.Context(), func(tx Tx) (err error) { parts, stock, err = tx.ShelfChanged(); return err })
		if err != nil {
			t.Fatal(err)
		}
		return parts, stock
	}
	parts, stock := count()
	for i := range 3 {
		err := s.Update(t.Context(), func(tx Tx) error {
			id := fmt.Sprint(i)
			err := tx.CreatePart(&Part{ID: id, Doc: []byte("{}")})
			return errors.Join(err, tx.Move(&Movement{PartID: id, Kind: "bought", Shelf: 2}, nil))
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	if p, n := count(); p-parts != 3 || n-stock != 3 {
		t.Errorf("%d and %d changes counted of 3", p-parts, n-stock)
	}
}

// TestMovements: the file itself refuses what cannot lie on a shelf, and what rewrites the past.
func TestMovements(t *testing.T) {
	s := open(t, t.TempDir())
	move := func(m Movement, serials ...string) error {
		return s.Update(t.Context(), func(tx Tx) error { return tx.Move(&m, serials) })
	}
	err := s.Update(t.Context(), func(tx Tx) error { return tx.CreatePart(&Part{ID: "p", Doc: []byte("{}")}) })
	if err != nil {
		t.Fatal(err)
	}
	if err := move(Movement{PartID: "p", Kind: "bought", Shelf: 2}, "A", "B"); err != nil {
		t.Fatal(err)
	}
	for name, m := range map[string]Movement{
		"more than lie there":      {PartID: "p", Kind: "scrapped", Shelf: -3},
		"more kept than lie there": {PartID: "p", Kind: "reserved", Held: 3},
		"more tested than there":   {PartID: "p", Kind: "tested", Tested: 3},
		"less than nothing kept":   {PartID: "p", Kind: "released", Held: -1},
	} {
		if err := move(m); !errors.Is(err, ErrTaken) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if err := move(Movement{PartID: "p", Kind: "bought", Shelf: 1}, "A"); err == nil {
		t.Error("the same serial lies on the shelf twice")
	}
	for _, sql := range []string{"UPDATE movements SET shelf = 9", "DELETE FROM movements"} {
		if err := s.write.Exec(sql).Error; err == nil {
			t.Errorf("%s was done", sql)
		}
	}
	if err := move(Movement{PartID: "p", Kind: "fitted", Shelf: -1}, "A"); err != nil {
		t.Fatal(err)
	}
	err = s.View(t.Context(), func(tx Tx) error {
		stock, err := tx.Stock("p")
		here, errS := tx.SerialsHere("p")
		if stock.Shelf != 1 || len(here) != 1 || here[0].Serial != "B" {
			t.Errorf("%+v, %+v", stock, here)
		}
		return errors.Join(err, errS)
	})
	if err != nil {
		t.Fatal(err)
	}
}
