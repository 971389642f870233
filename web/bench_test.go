package web

import (
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"testing"
	"time"

	"yembo/shop"
	"yembo/store"
)

// BenchmarkPages asks for the main pages of a workshop with 20,000 machines and 5,000
// parts (figures: 15 ms a page, 60 ms the plan).
func BenchmarkPages(b *testing.B) {
	st, err := store.Open(b.TempDir())
	if err != nil {
		b.Fatal(err)
	}
	defer st.Close()
	sh := shop.New(st, func() time.Time { return time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC) })
	if err := sh.SeedDemo(b.Context()); err != nil {
		b.Fatal(err)
	}
	if err := manyOf(b, sh, st); err != nil {
		b.Fatal(err)
	}
	e, err := New(Config{Shop: sh, Workshop: "W", Actor: shop.Actor{Name: "T"}, Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	if err != nil {
		b.Fatal(err)
	}
	for _, path := range []string{"/", "/machines", "/machines?q=firm+69", "/machines/new?q=quillon", "/jobs/3", "/customers/5", "/models", "/machines/tarn-vet-04", "/machines/tarn-vet-04?find=2280"} {
		b.Run(path, func(b *testing.B) {
			for b.Loop() {
				if w := request(e, "GET", path, nil, nil); w.Code != http.StatusOK {
					b.Fatal(w.Code)
				}
			}
		})
	}
}

// manyOf fills the workshop: machines by its own list import, parts as variants of the
// demo's at other prices.
func manyOf(b *testing.B, sh *shop.Shop, st *store.Store) error {
	list := []byte("Customer;Model;Serial\n")
	for i := range 19_900 {
		list = fmt.Appendf(list, "Firm %d;%s;SN%06d\n", i%700, []string{"QA14-2", "PD15", "QB2", "MO14-2", "SF15-A"}[i%5], i)
	}
	upload, err := sh.KeepUpload(b.Context(), list)
	if err != nil {
		return err
	}
	if _, err := sh.TakeList(b.Context(), shop.Actor{Name: "T"}, "", upload, map[string]int{"customer": 0, "model": 1, "serial": 2}); err != nil {
		return err
	}
	shelf, err := sh.Parts(b.Context())
	if err != nil {
		return err
	}
	return st.Update(b.Context(), func(tx store.Tx) error {
		for i := range 5000 - len(shelf.Parts) {
			p := shelf.Parts[i%len(shelf.Parts)]
			p.ID, p.Name, p.PriceCents = fmt.Sprintf("%s-%d", p.ID, i), fmt.Sprintf("%s, lot %d", p.Name, i), p.PriceCents+int64(i*37%4000)
			doc, err := json.Marshal(p)
			if err != nil {
				return err
			}
			if err := tx.Create(&store.Part{ID: p.ID, Position: 1000 + i, Kind: p.Kind, Name: p.Name, Doc: doc}); err != nil {
				return err
			}
		}
		return nil
	})
}
