package shop_test

import (
	"errors"
	"strings"
	"testing"

	"yembo/core/evidence"
	"yembo/core/hw"
	"yembo/core/shorthand"
	"yembo/exchange/slug"
	"yembo/shop/base"
	"yembo/shop/records"
	"yembo/store"
)

// TestLines: lines are kept all or none, each fact with its source; a weaker one makes
// a dispute, a stronger one of the same value becomes the one in force.
func TestLines(t *testing.T) {
	s := workshop(t)
	ctx := t.Context()
	bench := shorthand.Source{Name: "bench"}
	id, err := s.RecordLines(ctx, okell, "t", "", 0,
		"model Sundrel \"Moss 13\" SM13\nram 4 sold a + 1x so b ddr4-3200\nm2a 2280* g3x4 nvme", bench)
	if err != nil || id != "sundrel-moss-13" {
		t.Fatal(id, err)
	}
	if again, err := s.RecordLines(ctx, okell, "t", "", 0, "model Sundrel \"Moss 13\"", bench); err != nil ||
		again != id {
		t.Errorf("the same form twice: %s %v", again, err)
	}
	if _, err := s.RecordLines(ctx, okell, "", id, 1, "m2a @seller x2 @maker:2026-01-02#\"p. 3\" g3\n@-\nm2a pad",
		bench); err != nil {
		t.Fatal(err)
	}
	r, err := s.Model(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	ch := r.Chassis
	lanes := evidence.Of(ch.Findings, "/slots/m2a/lanes")
	if ch.Slots[0].Lanes.Or(0) != 4 || !lanes.Disputed || lanes.InForce.Source != "bench" ||
		lanes.Others[0].By != okell.Name {
		t.Errorf("lanes: %+v", lanes)
	}
	if gen := evidence.Of(ch.Findings, "/slots/m2a/pcie_gen"); len(gen.Others) != 1 || gen.Disputed ||
		gen.Others[0].Note != "p. 3" || gen.Others[0].On != "2026-01-02" {
		t.Errorf("the generation: %+v", gen)
	}
	if ch.Slots[0].Cooling.Or("") != "pad" || evidence.Of(ch.Findings, "/slots/m2a/cooling").InForce != nil {
		t.Error("a fact with no source got one, or was not kept")
	}
	if typed := records.LinesTyped(r.History); len(typed) != 0 || !strings.Contains(r.History[0].What, "(and 2 more lines)") {
		t.Errorf("%v %s", typed, r.History[0].What)
	}
	for text, says := range map[string]string{
		"m2a nvmee":                     "line 1, column 5: nvmee is not a word of slot; did you mean nvme?",
		"m2a pad\nm2b nvme xor:nowhere": "nowhere",
		"":                              "the line is missing",
		"unclip lid after:lid":          "in a circle",
		"model id:another":              "the id of a record cannot change",
		"step:a lift a after:b\nstep:b lift b after:a": "in a circle",
	} {
		_, err := s.RecordLines(ctx, okell, "", id, 2, text, bench)
		var faults hw.Faults
		if !errors.As(err, &faults) || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", text, err)
		}
	}
	for text, says := range map[string]string{"m2a nvme": "the model is not named",
		"model Quillon \"Aster 14\" id:quillon-aster-14": "another model has it"} {
		if _, err := s.RecordLines(ctx, okell, "", "", 0, text, bench); err == nil ||
			!strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", text, err)
		}
	}
	if _, err := s.RecordLines(ctx, okell, "", id, 1, "m2a nvme", bench); !errors.Is(err, base.ErrChanged) {
		t.Errorf("an old version: %v", err)
	}
	// What machines have fitted cannot be typed away; the usual steps of both kinds can be recorded.
	for _, kind := range []string{"notebook", "mini_pc"} {
		lines := shorthand.Parse(records.UsualSteps(&hw.Chassis{Kind: hw.Build(kind)}), nil, bench, slug.Of)
		if len(lines) != 8 || len(shorthand.Faults(lines)) > 0 {
			t.Errorf("%s: %v", kind, shorthand.Faults(lines))
		}
	}
	if _, err := s.RecordLines(ctx, okell, "", id, 2, records.UsualSteps(&hw.Chassis{Kind: hw.Notebook}),
		shorthand.Source{Name: "assumed"}); err != nil {
		t.Error(err)
	}
	if _, err := s.RecordLines(ctx, okell, "", "quillon-block-2", 1, "none steps\n"+records.UsualSteps(&hw.Chassis{Kind: hw.MiniPC}),
		bench); err != nil {
		t.Error(err)
	}
	if _, err := s.RecordLines(ctx, okell, "", "no-such", 1, "m2a nvme", bench); !errors.Is(err, store.ErrNotFound) {
		t.Error(err)
	}
}

// TestUsualNotebook: the usual notebook is a record as soon as it has a name, and its places are behind
// the usual steps.
func TestUsualNotebook(t *testing.T) {
	s := workshop(t)
	if _, err := s.RecordLines(t.Context(), okell, "1", "", 0, records.UsualNotebook(),
		shorthand.Source{Name: hw.Bench}); err == nil {
		t.Error("it is kept without a name")
	}
	text := strings.Replace(records.UsualNotebook(), "model ", `model Sundrel "Cairn 15" SC15 2024`, 1)
	id, err := s.RecordLines(t.Context(), okell, "2", "", 0, text, shorthand.Source{Name: hw.Assumed})
	if err != nil {
		t.Fatal(err)
	}
	r, err := s.Model(t.Context(), id)
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range r.Chassis.Places() {
		if p.Kind != hw.InPack && p.Reach != "battery-plug" {
			t.Errorf("%s is behind %q", p.ID, p.Reach)
		}
	}
	if r.Chassis.BatteryReach != "battery-pack-screws" || len(r.Chassis.Steps) != 8 {
		t.Errorf("the pack is behind %q; %d steps", r.Chassis.BatteryReach, len(r.Chassis.Steps))
	}
}
