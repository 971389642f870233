package web_test

import (
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"
	"yembo/shop/base"
	"yembo/shop/records"

	"github.com/labstack/echo/v5"

	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/shop"
	"yembo/store"
	"yembo/web"
	"yembo/web/kit"
	"yembo/web/webtest"
)

// BenchmarkPages asks for the main pages of a workshop with 20,000 machines, 2,000 models
// and 5,000 parts, one after the other.
func BenchmarkPages(b *testing.B) {
	e := largeShop(b)
	for _, path := range []string{"/", "/machines", "/machines?q=firm+69", "/machines/new?q=quillon", "/jobs/3",
		"/jobs/6/proof", "/customers/5", "/models", "/models?q=sundrel", "/machines/tarn-vet-04", "/machines/tarn-vet-04?find=2280"} {
		b.Run(path, func(b *testing.B) {
			for b.Loop() {
				if w := webtest.Raw(e, "GET", path, nil, nil); w.Code != http.StatusOK {
					b.Fatal(w.Code)
				}
			}
		})
	}
}

// BenchmarkKey is one key of a line as it is typed (figure: 30 ms): into a usual record,
// and into the largest that a workshop may meet, with 200 steps and 1,000 screws.
func BenchmarkKey(b *testing.B) {
	e, _, s := webtest.Started(b)
	if _, err := s.RecordLines(b.Context(), base.Actor{Name: "R. Okell"}, "", "", 0, largeRecord(),
		shorthand.Source{Name: "bench"}); err != nil {
		b.Fatal(err)
	}
	key := url.Values{"do": {"look"}, "source": {"bench"}, "text": {"m2b 2280* 2242 g3x2 nvme sata pad"}}
	for _, id := range []string{"marrowby-osier-14", "quillon-large"} {
		b.Run(id, func(b *testing.B) {
			for b.Loop() {
				if w := webtest.Raw(e, "POST", "/models/"+id+"/lines", key, webtest.SameOrigin); w.Code != http.StatusOK {
					b.Fatal(w.Code)
				}
			}
		})
	}
}

func largeRecord() string {
	text := "model Quillon Large 314x221\n"
	for i := range 100 {
		text += fmt.Sprintf("screws:s%d 10xPH0x%d at:", i, 3+i%9)
		for j := range 10 {
			text += fmt.Sprintf("%d/%d,", 10+j*10, 10+i)
		}
		text = strings.TrimSuffix(text, ",") + "\n"
	}
	for i := range 200 {
		text += fmt.Sprintf("unscrew part-%d 2min\n", i)
	}
	return text
}

// BenchmarkShelf is the shelf, its order list and one part at 5,000 parts (figure: 15 ms).
func BenchmarkShelf(b *testing.B) {
	e := largeShop(b)
	page := func(path string) {
		if w := webtest.Directly(e, path); w.Code != http.StatusOK {
			b.Fatal(path, w.Code)
		}
	}
	// What fits where is worked out aside first, once.
	for range 600 {
		if !strings.Contains(webtest.Raw(e, "GET", "/parts?q=no+such+part", nil, nil).Body.String(), "is worked out now") {
			break
		}
		time.Sleep(100 * time.Millisecond)
	}
	for _, path := range []string{"/parts", "/parts?q=drive+lot", "/parts?sort=helps&from=2000", "/orders/new",
		"/parts/cv-d4-8"} {
		b.Run(path, func(b *testing.B) {
			for b.Loop() {
				page(path)
			}
		})
	}
}

// BenchmarkLoad is 50 readers who ask for a page a second each, and 5 writers who change
// something once a second each, for 20 seconds. It reports the 95th percentile of pages
// and of plans (figures: 15 ms and 60 ms).
func BenchmarkLoad(b *testing.B) {
	e := largeShop(b)
	pages := []string{"/", "/machines", "/machines?q=firm+69", "/machines/new?q=quillon", "/jobs/3", "/customers/5",
		"/models?q=sundrel", "/machines/wath-07/readings", "/models/quillon-aster-14"}
	var mu sync.Mutex
	var quick, plans []time.Duration
	for b.Loop() {
		ends := time.Now().Add(20 * time.Second)
		var wg sync.WaitGroup
		for i := range 50 {
			wg.Go(func() {
				time.Sleep(time.Duration(i) * 20 * time.Millisecond)
				for n := i; time.Now().Before(ends); n++ {
					path, plan := pages[n%len(pages)], n%10 == 0
					if plan {
						path = []string{"/machines/tarn-vet-04", "/machines/wath-07", "/machines/wath-08"}[n/10%3]
					}
					begun := time.Now()
					w := webtest.Raw(e, "GET", path, nil, nil)
					took := time.Since(begun)
					if w.Code != http.StatusOK {
						b.Error(path, w.Code)
					}
					mu.Lock()
					if plan {
						plans = append(plans, took)
					} else {
						quick = append(quick, took)
					}
					mu.Unlock()
					time.Sleep(time.Second - took)
				}
			})
		}
		for i := range 5 {
			wg.Go(func() {
				for n := 0; time.Now().Before(ends); n++ {
					form := url.Values{"/how": {"phone"}, "/said": {fmt.Sprintf("talk %d of %d", n, i)}}
					if w := webtest.Raw(e, "POST", fmt.Sprintf("/jobs/%d/contacts", 1+i), form,
						webtest.SameOrigin); w.Code != http.StatusSeeOther {
						b.Error("a talk is not noted", w.Code)
					}
					time.Sleep(time.Second)
				}
			})
		}
		wg.Wait()
	}
	p95 := func(list []time.Duration) float64 {
		slices.Sort(list)
		return float64(list[len(list)*95/100].Microseconds()) / 1000
	}
	b.ReportMetric(p95(quick), "page-p95-ms")
	b.ReportMetric(p95(plans), "plan-p95-ms")
	b.ReportMetric(float64(len(quick)+len(plans)), "pages")
}

// largeShop is the application on such a workshop.
func largeShop(b *testing.B) *echo.Echo {
	b.Helper()
	st, err := store.Open(b.TempDir())
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { st.Close() })
	sh := shop.New(st, func() time.Time { return time.Date(2026, 5, 14, 11, 20, 0, 0, time.UTC) })
	if err := sh.SeedDemo(b.Context()); err != nil {
		b.Fatal(err)
	}
	if err := manyOf(b, sh, st); err != nil {
		b.Fatal(err)
	}
	e, err := web.New(kit.Config{Shop: sh, Workshop: "W", Actor: base.Actor{Name: "T"},
		Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	if err != nil {
		b.Fatal(err)
	}
	return e
}

// manyOf fills the workshop: machines by its own list import, models and parts as variants
// of the demo's.
func manyOf(b *testing.B, sh *shop.Shop, st *store.Store) error {
	list := []byte("Customer;Model;Serial\n")
	for i := range 19_900 {
		list = fmt.Appendf(list, "Firm %d;%s;SN%06d\n", i%700,
			[]string{"QA14-2", "PD15", "QB2", "MO14-2", "SF15-A"}[i%5], i)
	}
	upload, err := sh.KeepUpload(b.Context(), list)
	if err != nil {
		return err
	}
	if _, err := sh.TakeList(b.Context(), base.Actor{Name: "T"}, "", upload,
		map[string]int{"customer": 0, "model": 1, "serial": 2}); err != nil {
		return err
	}
	shelf, err := sh.Parts(b.Context())
	if err != nil {
		return err
	}
	aster, err := sh.Model(b.Context(), "quillon-aster-14")
	if err != nil {
		return err
	}
	return st.Update(b.Context(), func(tx store.Tx) error {
		for i := range 1991 {
			ch := *aster.Chassis
			ch.ID, ch.Maker, ch.Model, ch.Code = fmt.Sprintf("model-%d", i),
				[]string{"Quillon", "Sundrel", "Pellam"}[i%3], fmt.Sprintf("Variant %d", i), fmt.Sprintf("V-%d", i)
			doc, err := json.Marshal(ch)
			if err != nil {
				return err
			}
			brief, err := json.Marshal(records.BriefOf(&ch))
			if err != nil {
				return err
			}
			if err := tx.CreateModel(&store.Model{Brief: brief, ID: ch.ID, Maker: ch.Maker, Model: ch.Model,
				Code: ch.Code, Kind: string(ch.Kind), Doc: doc, Version: 1}); err != nil {
				return err
			}
		}
		for i := range 5000 - len(shelf.Parts) {
			p := shelf.Parts[i%len(shelf.Parts)]
			p.ID, p.Name, p.PriceCents = fmt.Sprintf("%s-%d", p.ID, i), fmt.Sprintf("%s, lot %d", p.Name, i),
				p.PriceCents+int64(i*37%4000)
			n := p.Stock.Or(0)
			p.Stock = hw.Maybe[int]{}
			doc, err := json.Marshal(p)
			if err != nil {
				return err
			}
			err = tx.Create(&store.Part{ID: p.ID, Position: 1000 + i, Kind: string(p.Kind), Name: p.Name, Doc: doc,
				Version: 1})
			if err != nil {
				return err
			}
			if err := tx.Move(&store.Movement{At: webtest.TestNow, PartID: p.ID, Kind: "counted", Shelf: n}, nil); err != nil {
				return err
			}
		}
		return nil
	})
}
