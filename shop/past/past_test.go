package past_test

import (
	"testing"
	"time"

	"yembo/shop"
	"yembo/shop/past"
	"yembo/store"
)

func TestSeed(t *testing.T) {
	st, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	now := time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC)
	sh := shop.New(st, func() time.Time { return now })
	begun := time.Now()
	data, err := sh.SeedShop(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	t.Log("shop", time.Since(begun))
	if err := past.Seed(t.Context(), sh, data, now); err != nil {
		t.Fatal(err)
	}
	t.Log("past", time.Since(begun))
	if err := sh.SeedToday(t.Context(), data); err != nil {
		t.Fatal(err)
	}
	t.Log("today", time.Since(begun))
}
