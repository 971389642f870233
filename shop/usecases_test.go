package shop_test

import (
	"bytes"
	"crypto/sha256"
	"database/sql"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"maps"
	"path/filepath"
	"strings"
	"testing"

	"yembo/shop"

	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/shop/jobs"
	"yembo/shop/records"
	"yembo/store"
)

// all sums up every row of every table, but for the inner tables of the search.
func all(t *testing.T, dir string) string {
	t.Helper()
	db, err := sql.Open("sqlite", filepath.Join(dir, store.File))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	names := column(t, db, "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT GLOB '*_words_*' ORDER "+
		"BY name")
	sum := sha256.New()
	for _, name := range names {
		rows, err := db.Query("SELECT * FROM " + name + " ORDER BY rowid")
		if err != nil {
			t.Fatal(err)
		}
		columns, _ := rows.Columns()
		for rows.Next() {
			values := make([]any, len(columns))
			for i := range values {
				values[i] = new(sql.RawBytes)
			}
			if err := rows.Scan(values...); err != nil {
				t.Fatal(err)
			}
			for _, v := range values {
				fmt.Fprintf(sum, "%s\x00%s\x00", name, *v.(*sql.RawBytes))
			}
		}
		if err := rows.Close(); err != nil {
			t.Fatal(err)
		}
	}
	return fmt.Sprintf("%x", sum.Sum(nil))
}

func column(t *testing.T, db *sql.DB, query string) []string {
	t.Helper()
	rows, err := db.Query(query)
	if err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	var out []string
	for rows.Next() {
		var v string
		if err := rows.Scan(&v); err != nil {
			t.Fatal(err)
		}
		out = append(out, v)
	}
	return out
}

func jpegOf(width, height int) []byte {
	var b bytes.Buffer
	if err := jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, width, height)), nil); err != nil {
		panic(err)
	}
	return b.Bytes()
}

func only[T any](_ T, err error) error { return err }

func bench(string) (source hw.Source, on, note string, anew bool) { return "bench", "", "", false }

// useCase is one use case as it is done rightly, and in the ways in which it is refused.
type useCase struct {
	does    func(s *shop.Shop, token string) error
	refused func(s *shop.Shop, token string) error // faulty input
	stale   func(s *shop.Shop, token string) error // an older version
	gone    func(s *shop.Shop, token string) error // what is not there
	tokened bool                                   // done once for a token
}

// TestEveryUseCase holds what each use case that stores something promises: it stores; the
// same form sent twice stores once; a fault, an older version or a record that is not there
// stores nothing at all, and says which of them it is.
func TestEveryUseCase(t *testing.T) {
	const aster, osier, vet = "quillon-aster-14", "marrowby-osier-14", "tarn-vet-03"
	ctx := t.Context()
	wish := func(gb int) *hw.Request {
		return &hw.Request{Format: hw.FormatRequest, Goals: hw.Goals{MemoryGB: dec(gb)}}
	}
	item := func(model string, version int, fields map[string]any) records.ItemEntry {
		return records.ItemEntry{Model: model, Version: version, List: "slots", Before: "m2a", Fields: fields, How: bench}
	}
	at := func(turn int) map[string]any {
		return map[string]any{"slots/m2a": &hw.At{X: hw.DecOf(40), Y: hw.DecOf(20), Turn: hw.Known(turn)}}
	}
	steps := []string{"power-off", "cover-screws", "cover", "battery-plug", "ram-shield", "heatsink"}
	other := append(append([]string{}, steps[:4]...), "heatsink", "ram-shield")
	intake := func(customer string) jobs.Intake {
		return jobs.Intake{Agreement: jobs.Agreement{Customer: customer, Complaint: "slow", Wish: wish(16)},
			Machine: &hw.Machine{Format: hw.FormatMachine, Chassis: aster}}
	}
	first := func(s *shop.Shop) jobs.Customer {
		r, _ := s.Customer(ctx, 1)
		return r.Customer
	}
	newModel := func(model string) records.ModelEntry {
		return records.ModelEntry{Chassis: &hw.Chassis{Format: hw.FormatChassis, ID: slug.Of(model), Maker: "Pellam",
			Model: model, Kind: "notebook"}, How: bench}
	}
	cases := map[string]useCase{
		"RecordModel": {tokened: true,
			does:    func(s *shop.Shop, k string) error { return only(s.RecordModel(ctx, okell, k, newModel("Thrift 11"))) },
			refused: func(s *shop.Shop, k string) error { return only(s.RecordModel(ctx, okell, k, newModel(""))) },
			stale: func(s *shop.Shop, k string) error {
				r, _ := s.Model(ctx, aster)
				return only(s.RecordModel(ctx, okell, k,
					records.ModelEntry{Before: aster, Version: 0, Chassis: r.Chassis, How: bench}))
			}},
		"RecordItem": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return s.RecordItem(ctx, okell, k, item(aster, 1, map[string]any{"lanes": 2}))
			},
			refused: func(s *shop.Shop, k string) error {
				return s.RecordItem(ctx, okell, k, item(aster, 1, map[string]any{"lanes": -2}))
			},
			stale: func(s *shop.Shop, k string) error {
				return s.RecordItem(ctx, okell, k, item(aster, 0, map[string]any{"lanes": 2}))
			},
			gone: func(s *shop.Shop, k string) error { return s.RecordItem(ctx, okell, k, item("nobody", 1, nil)) }},
		"Settle": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return s.Settle(ctx, okell, k, records.Settlement{Model: osier, Version: 1, ID: "far-side", As: records.SettledNew,
					Line: "dimm3 sodimm a", Photo: jpegOf(9, 9)})
			},
			refused: func(s *shop.Shop, k string) error {
				return s.Settle(ctx, okell, k, records.Settlement{Model: osier, Version: 1, ID: "far-side", As: records.SettledNew,
					Line: "dimm3 sodimn", Photo: jpegOf(9, 9)})
			},
			stale: func(s *shop.Shop, k string) error {
				return s.Settle(ctx, okell, k, records.Settlement{Model: osier, ID: "far-side", As: hw.SettledNothing})
			},
			gone: func(s *shop.Shop, k string) error {
				return s.Settle(ctx, okell, k,
					records.Settlement{Model: osier, Version: 1, ID: "nobody", As: hw.SettledNothing})
			}},
		"RecordLines": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return only(s.RecordLines(ctx, okell, k, aster, 1, "m2a g3x2", shorthand.Source{Name: "bench"}))
			},
			refused: func(s *shop.Shop, k string) error {
				return only(s.RecordLines(ctx, okell, k, aster, 1, "m2a g3x2 pda", shorthand.Source{Name: "bench"}))
			},
			stale: func(s *shop.Shop, k string) error {
				return only(s.RecordLines(ctx, okell, k, aster, 0, "m2a g3x2", shorthand.Source{Name: "bench"}))
			},
			gone: func(s *shop.Shop, k string) error {
				return only(s.RecordLines(ctx, okell, k, "nobody", 1, "m2a g3x2", shorthand.Source{Name: "bench"}))
			}},
		"Arrange": {tokened: true,
			does:    func(s *shop.Shop, k string) error { return s.Arrange(ctx, okell, k, aster, 1, at(90)) },
			refused: func(s *shop.Shop, k string) error { return s.Arrange(ctx, okell, k, aster, 1, at(45)) },
			stale:   func(s *shop.Shop, k string) error { return s.Arrange(ctx, okell, k, aster, 0, at(90)) },
			gone:    func(s *shop.Shop, k string) error { return s.Arrange(ctx, okell, k, "nobody", 1, at(90)) }},
		"OrderSteps": {tokened: true,
			does:    func(s *shop.Shop, k string) error { return s.OrderSteps(ctx, okell, k, aster, 1, other) },
			refused: func(s *shop.Shop, k string) error { return s.OrderSteps(ctx, okell, k, aster, 1, steps[1:]) },
			stale:   func(s *shop.Shop, k string) error { return s.OrderSteps(ctx, okell, k, aster, 0, other) },
			gone:    func(s *shop.Shop, k string) error { return s.OrderSteps(ctx, okell, k, "nobody", 1, other) }},
		"AddFinding": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return s.AddFinding(ctx, okell, k, aster, 1,
					hw.Finding{Path: "/slots/m2a/lanes", Value: []byte("2"), Source: "reading"})
			},
			refused: func(s *shop.Shop, k string) error {
				return s.AddFinding(ctx, okell, k, aster, 1,
					hw.Finding{Path: "/slots/m2a/lanes", Value: []byte(`"many"`), Source: "bench"})
			},
			stale: func(s *shop.Shop, k string) error {
				return s.AddFinding(ctx, okell, k, aster, 0,
					hw.Finding{Path: "/slots/m2a/lanes", Value: []byte("2"), Source: "reading"})
			},
			gone: func(s *shop.Shop, k string) error {
				return s.AddFinding(ctx, okell, k, "nobody", 1,
					hw.Finding{Path: "/slots/m2a/lanes", Value: []byte("2"), Source: "reading"})
			}},
		"SetAside": {tokened: true,
			does:    func(s *shop.Shop, k string) error { return s.SetAside(ctx, okell, k, aster, 1, 0, "misread") },
			refused: func(s *shop.Shop, k string) error { return s.SetAside(ctx, okell, k, aster, 1, 0, " ") },
			stale:   func(s *shop.Shop, k string) error { return s.SetAside(ctx, okell, k, aster, 0, 0, "misread") },
			gone:    func(s *shop.Shop, k string) error { return s.SetAside(ctx, okell, k, "nobody", 1, 0, "misread") }},
		"Copy": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return only(s.Copy(ctx, okell, k, aster,
					hw.Chassis{Maker: "Quillon", Model: "Aster 15", Kind: "notebook"}))
			},
			refused: func(s *shop.Shop, k string) error {
				return only(s.Copy(ctx, okell, k, aster,
					hw.Chassis{Maker: "Quillon", Model: "Aster 14", Kind: "notebook"}))
			},
			gone: func(s *shop.Shop, k string) error {
				return only(s.Copy(ctx, okell, k, "nobody",
					hw.Chassis{Maker: "Quillon", Model: "Aster 15", Kind: "notebook"}))
			}},
		"AddPhoto": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return only(s.AddPhoto(ctx, okell, k, aster,
					records.PhotoEntry{File: jpegOf(40, 30), Fact: "/slots/m2a", Caption: "the slot"}))
			},
			refused: func(s *shop.Shop, k string) error {
				return only(s.AddPhoto(ctx, okell, k, aster, records.PhotoEntry{File: []byte("<svg/>")}))
			},
			gone: func(s *shop.Shop, k string) error {
				return only(s.AddPhoto(ctx, okell, k, "nobody", records.PhotoEntry{File: jpegOf(40, 30)}))
			}},
		"AddJobPhoto": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return s.AddJobPhoto(ctx, okell, k, 1, records.PhotoEntry{File: jpegOf(40, 30), Caption: "a scratch"})
			},
			refused: func(s *shop.Shop, k string) error {
				return s.AddJobPhoto(ctx, okell, k, 1, records.PhotoEntry{File: jpegOf(40, 30)[:50]})
			},
			gone: func(s *shop.Shop, k string) error {
				return s.AddJobPhoto(ctx, okell, k, 999, records.PhotoEntry{File: jpegOf(40, 30)})
			}},
		"TakeIn": {tokened: true,
			does:    func(s *shop.Shop, k string) error { return only(s.TakeIn(ctx, okell, k, intake("M. Thwaite"))) },
			refused: func(s *shop.Shop, k string) error { return only(s.TakeIn(ctx, okell, k, intake(""))) }},
		"AddReading": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return only(s.AddReading(ctx, okell, k, vet,
					[]jobs.Report{{Name: "d.txt", Data: []byte("# dmidecode 3.4\nHandle 0x0001, DMI type 1, 27 bytes\nSystem " +
						"Information\n\tManufacturer: Quillon\n\tProduct Name: Aster 14\n")}}, false))
			},
			refused: func(s *shop.Shop, k string) error {
				return only(s.AddReading(ctx, okell, k, vet, []jobs.Report{{Name: "d.txt", Data: []byte("no report at all")}}, false))
			},
			gone: func(s *shop.Shop, k string) error {
				return only(s.AddReading(ctx, okell, k, "nobody",
					[]jobs.Report{{Name: "d.txt", Data: []byte("# dmidecode 3.4\nHandle 0x0001, DMI type 1, 27 bytes\nSystem " +
						"Information\n\tManufacturer: Quillon\n")}}, false))
			}},
		"TakeDraw": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return s.TakeDraw(ctx, okell, k, vet, jobs.Measured{Mean: hw.DecOf(9), Seconds: 90, Profile: "office"})
			},
			refused: func(s *shop.Shop, k string) error {
				return s.TakeDraw(ctx, okell, k, vet, jobs.Measured{Mean: hw.DecOf(9), Seconds: 90, Profile: " "})
			},
			gone: func(s *shop.Shop, k string) error {
				return s.TakeDraw(ctx, okell, k, "nobody", jobs.Measured{Mean: hw.DecOf(9), Seconds: 90, Profile: "office"})
			}},
		"KeepWish": {tokened: true,
			does:    func(s *shop.Shop, k string) error { return s.KeepWish(ctx, okell, k, vet, "", wish(32)) },
			refused: func(s *shop.Shop, k string) error { return s.KeepWish(ctx, okell, k, vet, "", wish(-1)) },
			gone:    func(s *shop.Shop, k string) error { return s.KeepWish(ctx, okell, k, "nobody", "", wish(32)) }},
		"MoveJob": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return s.MoveJob(ctx, okell, k, 1, jobs.Move{To: "customer", For: "the answer"})
			},
			refused: func(s *shop.Shop, k string) error { return s.MoveJob(ctx, okell, k, 1, jobs.Move{To: "customer"}) },
			gone: func(s *shop.Shop, k string) error {
				return s.MoveJob(ctx, okell, k, 999, jobs.Move{To: "customer", For: "the answer"})
			}},
		"AddContact": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return s.AddContact(ctx, okell, k, 1, jobs.Contact{How: "phone", Who: "reception", Said: "go on"},
					[]hw.Consent{"data"})
			},
			refused: func(s *shop.Shop, k string) error {
				return s.AddContact(ctx, okell, k, 1, jobs.Contact{How: "drum"}, nil)
			},
			gone: func(s *shop.Shop, k string) error {
				return s.AddContact(ctx, okell, k, 999, jobs.Contact{How: "phone", Said: "go on"}, nil)
			}},
		"Sign": {tokened: true,
			does: func(s *shop.Shop, k string) error {
				return s.Sign(ctx, okell, k, 1, "", "M10 10 L20 20 L30 10",
					"reception")
			},
			refused: func(s *shop.Shop, k string) error {
				return s.Sign(ctx, okell, k, 1, "", "M10 10\"><script>",
					"reception")
			},
			gone: func(s *shop.Shop, k string) error {
				return s.Sign(ctx, okell, k, 999, "", "M10 10 L20 20 L30 10",
					"reception")
			}},
		"SaveCustomer": {
			does: func(s *shop.Shop, _ string) error {
				return s.SaveCustomer(ctx, okell, first(s), "Another name",
					"015")
			},
			refused: func(s *shop.Shop, _ string) error { return s.SaveCustomer(ctx, okell, first(s), " ", "015") },
			stale: func(s *shop.Shop, _ string) error {
				return s.SaveCustomer(ctx, okell, jobs.Customer{ID: 1, Name: "As it was"}, "A name", "")
			},
			gone: func(s *shop.Shop, _ string) error {
				return s.SaveCustomer(ctx, okell, jobs.Customer{ID: 999}, "A name", "")
			}},
		"MergeCustomers": {
			does:    func(s *shop.Shop, _ string) error { return s.MergeCustomers(ctx, okell, 1, 2) },
			refused: func(s *shop.Shop, _ string) error { return s.MergeCustomers(ctx, okell, 1, 1) },
			gone:    func(s *shop.Shop, _ string) error { return s.MergeCustomers(ctx, okell, 999, 1) }},
		"ForgetCustomer": {
			does: func(s *shop.Shop, _ string) error { return s.ForgetCustomer(ctx, okell, 1, false) },
			gone: func(s *shop.Shop, _ string) error { return s.ForgetCustomer(ctx, okell, 999, false) }},
		"SaveSettings": {
			does: func(s *shop.Shop, _ string) error {
				return setSettings(ctx, s, func(how *base.Settings) { how.LabourRate = 6000 })
			},
			refused: func(s *shop.Shop, _ string) error {
				return setSettings(ctx, s, func(how *base.Settings) { how.LabourRate, how.Currency = 6000, "pounds" })
			},
			stale: func(s *shop.Shop, _ string) error {
				how, _ := s.Settings(ctx)
				return s.SaveSettings(ctx, okell, base.Settings{Currency: "EUR"}, how)
			}},
		"SetLoosen": {
			does:    func(s *shop.Shop, _ string) error { return s.SetLoosen(ctx, okell, base.LoosenPrinted) },
			refused: func(s *shop.Shop, _ string) error { return s.SetLoosen(ctx, okell, "sideways") }},
	}
	maps.Copy(cases, shelfCases(ctx, vet))
	for name, c := range cases {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			dir := t.TempDir()
			s := workshopIn(t, dir)
			before := all(t, dir)
			var faults hw.Faults
			for kind, do := range map[string]func(*shop.Shop, string) error{"refused": c.refused, "stale": c.stale,
				"gone": c.gone} {
				if do == nil {
					continue
				}
				err := do(s, "token-"+kind)
				if ok := kind == "refused" && errors.As(err, &faults) || kind == "stale" &&
					errors.Is(err, base.ErrChanged) || kind == "gone" && errors.Is(err, base.ErrNotFound); !ok {
					t.Errorf("%s: %v", kind, err)
				}
				if all(t, dir) != before {
					t.Fatalf("%s: something was stored", kind)
				}
			}
			if err := c.does(s, "token"); err != nil {
				t.Fatal(err)
			}
			after := all(t, dir)
			if after == before {
				t.Error("nothing was stored")
			}
			if !c.tokened {
				return
			}
			if err := c.does(s, "token"); err != nil {
				t.Errorf("sent twice: %v", err)
			}
			if all(t, dir) != after {
				t.Error("sent twice it was stored twice")
			}
		})
	}
}

// TestHistorySaysWhat: a change is told with who, when and in words; the record as it was
// before can be read back.
func TestHistorySaysWhat(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	if err := s.Arrange(ctx, ansty, "", "quillon-aster-14", 1,
		map[string]any{"slots/m2a": nil, "slots/wlan": &hw.At{X: hw.DecOf(9), Y: hw.DecOf(9)}}); err != nil {
		t.Fatal(err)
	}
	if err := s.OrderSteps(ctx, okell, "", "quillon-aster-14", 2,
		[]string{"power-off", "cover-screws", "cover", "battery-plug", "heatsink", "ram-shield"}); err != nil {
		t.Fatal(err)
	}
	r, err := s.Model(ctx, "quillon-aster-14")
	if err != nil {
		t.Fatal(err)
	}
	if r.Chassis.Slots[0].At != nil || r.Chassis.Steps[4].ID != "heatsink" || r.Version != 3 {
		t.Errorf("version %d: %+v", r.Version, r.Chassis.Slots[0])
	}
	var told []string
	for _, c := range r.History[:2] {
		told = append(told, c.By+": "+c.What)
	}
	if got := strings.Join(told, "; "); got != "R. Okell: steps put in another order; T. Ansty: arranged: m2a, wlan" ||
		!r.History[0].At.Equal(morning) {
		t.Errorf("told: %s at %v", got, r.History[0].At)
	}
	was, changes, err := s.Since(ctx, "quillon-aster-14", 2)
	if err != nil || len(changes) != 1 || was.Steps[4].ID != "ram-shield" || was.Slots[0].At != nil {
		t.Errorf("version 2: %v, %d changes, %v", was.Steps[4].ID, len(changes), err)
	}
	was, changes, err = s.Since(ctx, "quillon-aster-14", 1)
	if err != nil || len(changes) != 2 || was.Slots[0].At == nil {
		t.Errorf("version 1: %d changes, %v", len(changes), err)
	}
	if _, changes, err := s.Since(ctx, "quillon-aster-14", 3); err != nil || len(changes) != 0 {
		t.Errorf("nothing happened since: %d %v", len(changes), err)
	}
}
