package shop_test

import (
	"bytes"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"yembo/shop"
	"yembo/shop/care"
	"yembo/store"
)

// TestForgottenAgain: a copy that was made before somebody was forgotten brings them back, and restoring it forgets them
// again, once; nobody else. The list of who was forgotten holds no word of theirs.
func TestForgottenAgain(t *testing.T) {
	dir, ctx := t.TempDir(), t.Context()
	s := workshopIn(t, dir)
	customer, _, words, serials := planted(t, s)
	old := filepath.Join(t.TempDir(), "old.db")
	if err := store.Backup(ctx, dir, old); err != nil {
		t.Fatal(err)
	}
	if err := s.ForgetCustomer(ctx, okell, customer, true); err != nil {
		t.Fatal(err)
	}
	if err := s.Store.Close(); err != nil {
		t.Fatal(err)
	}
	if _, err := store.Restore(ctx, old, dir, morning); err != nil {
		t.Fatal(err)
	}
	st, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	if !bytes.Contains(raw(t, dir), []byte(words[0])) {
		t.Fatal("the copy does not bring the customer back")
	}
	back := shop.New(st, s.Clock)
	if n, err := back.ForgetAgain(ctx, okell); n != 1 || err != nil {
		t.Errorf("%d were forgotten again, not 1: %v", n, err)
	}
	if n, err := back.ForgetAgain(ctx, okell); n != 0 || err != nil {
		t.Errorf("%d were forgotten a third time: %v", n, err)
	}
	all, err := back.Customers(ctx, "")
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range all {
		if gone := strings.HasPrefix(c.Name, care.Nobody); gone != (c.ID == customer) {
			t.Errorf("%+v", c)
		}
	}
	list, err := os.ReadFile(filepath.Join(dir, "yembo-forgotten.txt"))
	if err != nil {
		t.Fatal(err)
	}
	held := slices.Concat(raw(t, dir), list)
	for _, mark := range slices.Concat(words, serials) {
		if bytes.Contains(held, []byte(mark)) {
			t.Errorf("%q is back", mark)
		}
	}
}
