package form

import (
	"net/url"
	"testing"

	"yembo/core/hw"
)

func TestFormFields(t *testing.T) {
	f := New(url.Values{"a": {"14,6"}, "b": {" 8 "}, "c": {"x"}, "d": {"220,50"}, "e": {"1.005"}, "f": {"DDR4"},
		"g": {"ddr4"}, "h": {"Bad Id"}, "i": {"good-1"}})
	if v, ok := f.Dec("a").Get(); !ok || v.String() != "14.6" {
		t.Errorf("a decimal comma: %v", v)
	}
	if v, ok := f.Whole("b").Get(); !ok || v != 8 {
		t.Errorf("a whole number: %v", v)
	}
	if f.Whole("none").IsKnown() || f.Dec("none").IsKnown() || f.Cents("none").IsKnown() ||
		f.Choice("none", nil).IsKnown() {
		t.Error("an empty field is known")
	}
	if v, ok := f.Cents("d").Get(); !ok || v != 22050 {
		t.Errorf("an amount: %v", v)
	}
	if f.Count() != 0 {
		t.Fatalf("faults: %v", f.Faults)
	}
	f.Dec("c")
	f.Whole("c")
	f.Cents("e")
	f.Choice("g", hw.MemoryTypes.Words())
	f.Slug("h", "")
	for name, want := range map[string]int{"c": 2, "e": 1, "g": 1, "h": 1} {
		if got := len(f.Errors(name)); got != want {
			t.Errorf("%s has %d faults: %v", name, got, f.Errors(name))
		}
	}
	if v := f.Choice("f", hw.MemoryTypes.Words()); v.Or("") != "DDR4" || f.Slug("i", "") != "good-1" ||
		f.Slug("none", "proposed") != "proposed" {
		t.Error("what is right is not taken")
	}
}

// TestUnits: a figure may be typed with its field's unit, and with no other.
func TestUnits(t *testing.T) {
	f := New(url.Values{"/goals/memory_gb": {"16GB"}, "/a_wh": {"52,5 wh"}, "/b_gb": {"5 h"}, "/c_mts": {"3200 MT/s"},
		"/d": {"220 eur"}, "/e": {"€ 9.50"}, "/f": {"12 pounds"}, "/g_gb": {"1.5 TB"}})
	if gb := f.Dec("/goals/memory_gb"); gb.Or(0) != hw.DecOf(16) {
		t.Error(gb)
	}
	if wh := f.Dec("/a_wh").Or(0); wh.String() != "52.5" {
		t.Error(wh)
	}
	if tb := f.Dec("/g_gb").Or(0); tb != hw.DecOf(1500) {
		t.Error(tb)
	}
	if mts := f.Whole("/c_mts").Or(0); mts != 3200 {
		t.Error(mts)
	}
	if f.Cents("/d").Or(0) != 22000 || f.Cents("/e").Or(0) != 950 {
		t.Error(f.Cents("/d"), f.Cents("/e"))
	}
	if f.Count() > 0 {
		t.Error(f.Faults)
	}
	if f.Dec("/b_gb"); len(f.Errors("/b_gb")) != 1 {
		t.Error("hours are taken for GB")
	}
	if f.Cents("/f"); len(f.Errors("/f")) != 1 {
		t.Error("a currency that is none is taken")
	}
}
