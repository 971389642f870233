package past_test

import (
	"bytes"
	"compress/gzip"
	"os"
	"path/filepath"
	"testing"
	"time"

	"yembo/shop"
	"yembo/shop/demo"
	"yembo/shop/past"
	"yembo/store"
)

// TestMakePast lets the past happen, and packs the data file that it leaves where YEMBO_PAST says (make demo-past).
func TestMakePast(t *testing.T) {
	to := os.Getenv("YEMBO_PAST")
	if to == "" {
		t.Skip("make demo-past makes it")
	}
	dir := t.TempDir()
	seeded(t, dir, past.WorkDays)
	small := filepath.Join(t.TempDir(), "small.db")
	if err := store.Backup(t.Context(), dir, small); err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile(small)
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	z, _ := gzip.NewWriterLevel(&out, gzip.BestCompression)
	if _, err := z.Write(raw); err != nil {
		t.Fatal(err)
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(to, out.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	t.Logf("%d KB, packed %d KB", len(raw)/1024, out.Len()/1024)
}

// TestSeed lets two weeks happen, so that a use case that the past needs and does not find fails here, and not when the
// past is made the next time.
func TestSeed(t *testing.T) {
	sh := seeded(t, t.TempDir(), 14)
	done, err := sh.Invoices(t.Context(), 100)
	if err != nil || len(done) < 8 {
		t.Errorf("%d jobs were charged: %v", len(done), err)
	}
}

// seeded is the demo's shop with so many working days behind it.
func seeded(t *testing.T, dir string, days int) *shop.Shop {
	t.Helper()
	st, err := store.Open(dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	now := demo.Day.Add(demo.Clock)
	sh := shop.New(st, func() time.Time { return now })
	data, err := sh.SeedShop(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	if err := past.Seed(t.Context(), sh, data, now, days); err != nil {
		t.Fatal(err)
	}
	return sh
}
