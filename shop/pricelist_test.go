package shop_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"yembo/shop"

	"yembo/shop/stock"
	"yembo/store"
)

// listOf keeps a list and looks at it.
func listOf(t testing.TB, s *shop.Shop, text string, supplier int64) (int64, stock.PriceList) {
	t.Helper()
	upload, err := s.KeepUpload(t.Context(), []byte(text))
	if err != nil {
		t.Fatal(err)
	}
	list, err := s.LookAtPrices(t.Context(), upload, nil, supplier)
	if err != nil {
		t.Fatal(err)
	}
	return upload, list
}

func quiet(int, int) {}

// TestPriceList: rows become the parts they mean, faulty ones are kept aside with the reason, the columns
// are remembered, and what lies on the shelf is never written over.
func TestPriceList(t *testing.T) {
	s := workshop(t)
	const text = "Article;Description;Net price;Delivery;Stock\n" +
		"A1;Corvane 32 GB DDR4-3200 SO-DIMM;80,00;3 days;\n" + // is there, costs another price
		"A2;Bexmoor 4 TB NVMe 2280 g4x4;289,90 €;2;\n" +
		"A3;Corvane 16 GB DDR4-2666 SO-DIMM 2Rx8;\"1.234,50\";;7\n" +
		"A4;Mystery box;5;1;\n" +
		"A5;Bexmoor 8 TB NVMe 2280;-3;1;\n" +
		"A6;Bexmoor 8 TB NVMe 2280 g4;9,99 USD;1;\n" +
		"A2;Bexmoor 4 TB NVMe 2280 g4x4;289,90;2;\n" +
		"A7;Wexcell QB-999 60 Wh;70;soon;\n" +
		"A8;cable;1;1;3;4\n"
	upload, list := listOf(t, s, text, 1)
	var got []string
	for _, l := range list.Rows {
		got = append(got, strings.TrimSpace(fmt.Sprint(l.Part, " ", l.Cents, " ", l.Fault)))
	}
	for i, want := range []string{"cv-d4-32 8000", "28990", "123450", "500 it does not say", "0 price: -3 is less",
		"0 price: USD is another", "28990 the same part",
		"0 days: \"soon\"", "0 6 cells"} {
		if !strings.HasPrefix(got[i], want) {
			t.Errorf("row %d: %q, not %q", i+1, got[i], want)
		}
	}
	before := shelfOf(t, s, "cv-d4-32")
	taken, err := s.TakePrices(t.Context(), okell, upload, list.Columns, 1, quiet)
	if err != nil || taken.New != 2 || taken.Changed != 1 || taken.Aside != 6 {
		t.Fatalf("%+v %v", taken, err)
	}
	after := shelfOf(t, s, "cv-d4-32")
	if after.Part.PriceCents != 8000 || after.Shelf != before.Shelf || after.OrderNo != "A1" || after.Supplier != 1 {
		t.Errorf("%+v", after.ShelfLine)
	}
	shelf, err := s.Shelf(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	found := false
	for _, l := range shelf.Lines {
		found = found || l.OrderNo == "A3" && l.Shelf == 7 && l.Part.Memory.Ranks.Or(0) == 2
	}
	if !found {
		t.Error("the new module is not on the shelf with what the list says")
	}
	// The next list of this shape needs no columns chosen, and is known by the supplier's numbers.
	_, again := listOf(t, s, strings.Replace(text, "80,00", "81,00", 1), 0)
	if again.Supplier != 1 || again.Rows[0].Part != "cv-d4-32" || again.Rows[0].Was != 8000 || !again.Rows[1].Same {
		t.Errorf("%+v", again.Rows[:2])
	}
	for name, text := range map[string]string{"currency": `{"format":"yembo.parts/1","currency":"USD","parts":[]}`,
		"shape":   `{"format":"yembo.parts/1"}`,
		"nothing": "", "wide": strings.Repeat("a;", 1000)} {
		upload, err := s.KeepUpload(t.Context(), []byte(text))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := s.LookAtPrices(t.Context(), upload, nil, 0); err == nil ||
			!strings.Contains(err.Error(), "/list") {
			t.Errorf("%s: %v", name, err)
		}
	}
	sumsUp(t, s)
}

// longList is a price list of many rows.
func longList(rows int) string {
	var out strings.Builder
	out.WriteString("number;part;price;days\n")
	for i := range rows {
		fmt.Fprintf(&out, "N%05d;Corvane %d GB DDR4-%d SO-DIMM, lot %d;%d,%02d;%d\n", i, 4<<(i%4),
			[]int{2400, 2666, 3200}[i%3], i, 10+i%200, i%100, i%9)
	}
	return out.String()
}

// BenchmarkPriceList takes in 20,000 rows.
func BenchmarkPriceList(b *testing.B) {
	text := longList(20_000)
	for b.Loop() {
		st, err := store.Open(b.TempDir())
		if err != nil {
			b.Fatal(err)
		}
		s := shop.New(st, time.Now)
		upload, list := listOf(b, s, text, 0)
		taken, err := s.TakePrices(context.Background(), okell, upload, list.Columns, 0, quiet)
		if err != nil || taken.New != 20_000 {
			b.Fatalf("%+v %v", taken, err)
		}
		st.Close()
	}
}
