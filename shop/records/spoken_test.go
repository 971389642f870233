package records

import (
	"fmt"
	"testing"
	"time"
	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/exchange"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/shop/demo"
)

// TestSpokenPart: lines brought into the part of a record that they speak of give what they
// give in the whole record, and the same faults.
func TestSpokenPart(t *testing.T) {
	data, err := demo.Load(0)
	if err != nil {
		t.Fatal(err)
	}
	all, okell := data.Models, base.Actor{Name: "R. Okell"}
	s := &Records{Base: base.New(nil, func() time.Time { return demo.Day })}
	seen, wrong := 0, 0
	for i := range all {
		ch, before := all[i], written(t, all[i])
		for _, text := range []string{
			"m2a 2280* 2230- g4x4 nvme pad", "m2z 2242 g5x4 nvme keyM", "bat:small 40wh", "limit maker16 @seller",
			"screws:odd 3xPH1x9", "year 2020",
			"unclip odd cover 4min after:cover", "m2a >nowhere", "dimm1 max8 >cover", "none services",
			"service:dust Dust >cover 3min", "none steps", "none screws",
			"suspect:x a third socket? >cover", "unscrew odd lid 3*nothing", "unscrew odd lid 4xPH0x3", "ram ddr5-4800",
			"shape:q fan at:300/10/90x90", "quirk lid-powers-on",
		} {
			lines := shorthand.Parse(text, ch, shorthand.Source{Name: "bench"}, slug.Of)
			if len(shorthand.Faults(lines)) > 0 {
				continue
			}
			next, err := s.applyLines(okell, ch, lines)
			if err != nil {
				t.Fatalf("%s, %q: %v", ch.ID, text, err)
			}
			typed, stated, err := shorthand.Apply(ch, lines...)
			if err != nil {
				t.Fatal(err)
			}
			today := demo.Day.Format(time.DateOnly)
			want, err := evidence.Record(ch, typed, func(path string) bool {
				from, spoken := stated.Of(path)
				return spoken && from.Name != ""
			}, func(path string) (hw.Finding, bool) {
				from, _ := stated.Of(path)
				now := evidence.Of(ch.Findings, path).InForce
				return hw.Finding{Source: from.Name, On: today, By: okell.Name, Note: from.Note},
					now == nil || now.Source != from.Name
			}, hw.SetAside{On: today, By: okell.Name, Note: "cleared in the record"})
			if err != nil {
				t.Fatal(err)
			}
			if a, b := written(t, next), written(t, want); a != b {
				t.Errorf("%s, %q:\n%s\nwant\n%s", ch.ID, text, a, b)
			}
			got, whole := checkSpoken(next, lines), exchange.CheckWhole(next)
			if fmt.Sprint(got) != fmt.Sprint(whole) {
				t.Errorf("%s, %q: %v, want %v", ch.ID, text, got, whole)
			}
			if whole != nil {
				wrong++
			}
			if seen++; written(t, ch) != before {
				t.Fatalf("%q changed the record itself", text)
			}
		}
	}
	if seen < 15*len(all) || wrong < len(all) {
		t.Errorf("only %d lines were read, %d of them wrong", seen, wrong)
	}
}

func written(t *testing.T, ch *hw.Chassis) string {
	t.Helper()
	doc, err := exchange.WriteChassis(ch)
	if err != nil {
		t.Fatal(err)
	}
	return string(doc)
}
