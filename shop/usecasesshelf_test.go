package shop_test

import (
	"context"

	"yembo/shop"

	"yembo/shop/stock"
)

// shelfCases are the use cases of the shelf.
func shelfCases(ctx context.Context, vet string) map[string]useCase {
	june := stock.Delivery{Expected: "2026-06-01 10:30", Confirmed: true}
	return map[string]useCase{
		"AddPart": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return only(s.AddPart(ctx, okell, k, module("Corvane new", 16, 100),
					stock.Moving{Kind: stock.Bought, N: 2, Serials: []string{"A", "B"}}))
			},
			refused: func(s *shop.Shop, k string) error {
				return only(s.AddPart(ctx, okell, k, module("Corvane new", 16, 100),
					stock.Moving{Kind: stock.Bought, N: 1, Serials: []string{"A", "B"}}))
			}},
		"ChangePart": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return s.ChangePart(ctx, okell, k, "cv-d4-8", 1, module("Corvane other", 8, 100))
			},
			refused: func(s *shop.Shop, k string) error {
				return s.ChangePart(ctx, okell, k, "cv-d4-8", 1,
					module("", 8, 100))
			},
			stale: func(s *shop.Shop, k string) error {
				return s.ChangePart(ctx, okell, k, "cv-d4-8", 0, module("Corvane other", 8, 100))
			},
			gone: func(s *shop.Shop, k string) error {
				return s.ChangePart(ctx, okell, k, "nothing", 1, module("Corvane other", 8, 100))
			}},
		"RetirePart": {tokened: true,
			does:    func(s *shop.Shop, k string) error { return s.RetirePart(ctx, okell, k, "cv-d5-48", 1, true) },
			refused: func(s *shop.Shop, k string) error { return s.RetirePart(ctx, okell, k, "cv-d4-8", 1, true) },
			stale:   func(s *shop.Shop, k string) error { return s.RetirePart(ctx, okell, k, "cv-d5-48", 7, true) },
			gone:    func(s *shop.Shop, k string) error { return s.RetirePart(ctx, okell, k, "nothing", 1, true) }},
		"MovePart": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return s.MovePart(ctx, okell, k, stock.Moving{Part: "cv-d4-8", Kind: stock.Scrapped, N: 1, Note: "bent"})
			},
			refused: func(s *shop.Shop, k string) error {
				return s.MovePart(ctx, okell, k, stock.Moving{Part: "cv-d4-8", Kind: stock.Scrapped, N: 1})
			},
			gone: func(s *shop.Shop, k string) error {
				return s.MovePart(ctx, okell, k, stock.Moving{Part: "nothing", Kind: stock.Bought, N: 1})
			}},
		"CountShelf": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return s.CountShelf(ctx, okell, k, []stock.CountLine{{Part: "cv-d4-8", Seen: 6, Counts: 4}}, "two are gone")
			},
			refused: func(s *shop.Shop, k string) error {
				return s.CountShelf(ctx, okell, k, []stock.CountLine{{Part: "cv-d4-8", Seen: 5, Counts: 4}}, "two are gone")
			}},
		"SaveSupplier": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return only(s.SaveSupplier(ctx, okell, k,
					stock.Supplier{Name: "Dunmoor"}))
			},
			refused: func(s *shop.Shop, k string) error { return only(s.SaveSupplier(ctx, okell, k, stock.Supplier{})) },
			stale: func(s *shop.Shop, k string) error {
				return only(s.SaveSupplier(ctx, okell, k, stock.Supplier{ID: 1, Name: "X", Version: 9}))
			},
			gone: func(s *shop.Shop, k string) error {
				return only(s.SaveSupplier(ctx, okell, k,
					stock.Supplier{ID: 99, Name: "X"}))
			}},
		"PlaceOrder": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return only(s.PlaceOrder(ctx, okell, k, 1, []stock.Wanted{{Part: "cv-d4-8", N: 2, Cents: 100}},
					stock.Delivery{}))
			},
			refused: func(s *shop.Shop, k string) error {
				return only(s.PlaceOrder(ctx, okell, k, 1, []stock.Wanted{{Part: "cv-d4-8", N: 2}, {Part: "nothing", N: 1}},
					stock.Delivery{}))
			}},
		"Deliver": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return s.Deliver(ctx, okell, k, 1, 1,
					[]stock.Arrival{{Line: 1, N: 1}})
			},
			refused: func(s *shop.Shop, k string) error {
				return s.Deliver(ctx, okell, k, 1, 1,
					[]stock.Arrival{{Line: 1, N: 9}})
			},
			stale: func(s *shop.Shop, k string) error {
				return s.Deliver(ctx, okell, k, 1, 8,
					[]stock.Arrival{{Line: 1, N: 1}})
			},
			gone: func(s *shop.Shop, k string) error { return s.Deliver(ctx, okell, k, 99, 1, nil) }},
		"Expect": {tokened: true,
			does: func(s *shop.Shop, k string) error { return s.Expect(ctx, okell, k, 1, 1, june) },
			refused: func(s *shop.Shop, k string) error {
				return s.Expect(ctx, okell, k, 1, 1, stock.Delivery{Expected: "soon"})
			},
			stale: func(s *shop.Shop, k string) error { return s.Expect(ctx, okell, k, 1, 5, june) },
			gone:  func(s *shop.Shop, k string) error { return s.Expect(ctx, okell, k, 99, 1, june) }},
		"BringPart": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return only(s.BringPart(ctx, okell, k, vet,
					"8GB DDR4-3200 SO-DIMM"))
			},
			refused: func(s *shop.Shop, k string) error { return only(s.BringPart(ctx, okell, k, vet, "a thing")) },
			gone: func(s *shop.Shop, k string) error {
				return only(s.BringPart(ctx, okell, k, "nobody-01", "8GB DDR4-3200 SO-DIMM"))
			}},
		"EnterPart": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return only(s.EnterPart(ctx, okell, k, "64GB DDR5-5600 SO-DIMM 199.00", "", 2))
			},
			refused: func(s *shop.Shop, k string) error { return only(s.EnterPart(ctx, okell, k, "a thing", "", 2)) },
			stale: func(s *shop.Shop, k string) error {
				return only(s.EnterPart(ctx, okell, k, "Corvane 8GB DDR4-3200 SO-DIMM", "", 2))
			}},
	}
}
