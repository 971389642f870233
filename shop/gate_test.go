package shop_test

import (
	"errors"
	"strings"
	"testing"

	"yembo/core/hw"
	"yembo/exchange"
	"yembo/shop/records"
)

// TestFittedKeepsItsPlace: whichever way a record is changed, no machine's module loses the
// socket that it sits in.
func TestFittedKeepsItsPlace(t *testing.T) {
	s := workshop(t)
	r, err := s.Model(t.Context(), "quillon-aster-14")
	if err != nil {
		t.Fatal(err)
	}
	for name, change := range map[string]func(token string) error{
		"by form": func(k string) error {
			return only(s.RecordModel(t.Context(), okell, k,
				entry(r, func(ch *hw.Chassis) { ch.Memory.Sockets = nil })))
		},
		"as a thing": func(k string) error {
			return s.RecordItem(t.Context(), okell, k,
				records.ItemEntry{Model: r.Chassis.ID, Version: r.Version, List: "memory/sockets", Before: "dimm1", How: bench})
		},
		"as a document": func(k string) error {
			doc := *r.Chassis
			mem := *doc.Memory
			doc.Memory, doc.Findings, mem.Sockets = &mem, nil, nil
			raw, err := exchange.WriteChassis(&doc)
			if err != nil {
				return err
			}
			return only(s.TakeImport(t.Context(), okell, k, raw, r.Version))
		},
	} {
		if err := change(name); err == nil || !strings.Contains(err.Error(), "machine ") {
			t.Errorf("%s: a socket with a module in it goes: %v", name, err)
		}
	}
}

// TestSettle: what was suspected is kept as what it turned out to be, with its place, its
// picture and its date, all at once; it is open and drawn no more.
func TestSettle(t *testing.T) {
	s := workshop(t)
	const osier = "marrowby-osier-14"
	settle := func(token string, in records.Settlement) error {
		in.Model, in.ID = osier, "far-side"
		return s.Settle(t.Context(), okell, token, in)
	}
	for at, in := range map[string]records.Settlement{
		"/as":    {},
		"/line":  {As: records.SettledNew, Line: "unclip base cover"},
		"/photo": {As: hw.SettledNothing, Photo: []byte("no picture")},
	} {
		in.Version = 1
		var faults hw.Faults
		if err := settle(at, in); !errors.As(err, &faults) || faults[0].Pointer != at {
			t.Errorf("%s: %v", at, err)
		}
	}
	if err := settle("a", records.Settlement{Version: 1, As: records.SettledNew, Line: "dimm3 sodimm a", On: "2026-05-13",
		Photo: jpegOf(9, 9)}); err != nil {
		t.Fatal(err)
	}
	r, err := s.Model(t.Context(), osier)
	if err != nil {
		t.Fatal(err)
	}
	want := hw.Settled{On: "2026-05-13", By: okell.Name, As: "dimm3"}
	if got := r.Chassis.Suspected[0].Settled; got == nil || *got != want || r.Chassis.SocketByID("dimm3") < 0 ||
		len(r.Chassis.Open()) != 0 {
		t.Errorf("%+v, %+v", got, r.Chassis.Mem().Sockets)
	}
	photos, err := s.Photos(t.Context(), osier)
	if n := len(photos); err != nil || n == 0 || photos[n-1].On != "2026-05-13" || photos[n-1].Caption == "" {
		t.Errorf("%+v, %v", photos, err)
	}
	if err := settle("b", records.Settlement{Version: r.Version, As: hw.SettledNothing}); err != nil {
		t.Fatal(err)
	}
	if r, _ := s.Model(t.Context(), osier); r.Chassis.Suspected[0].Settled.As != hw.SettledNothing {
		t.Error("a settlement cannot be put right")
	}
}
