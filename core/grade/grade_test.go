package grade

import (
	"fmt"
	"strings"
	"testing"

	"yembo/core/hw"
)

// TestMake: ten points for a place, less for each step past the fourth, a seal, glue and the board, never below none; a
// kind counts with its easiest place times its weight; soldered is nought, not known counts nothing, and what a model has
// not is left out.
func TestMake(t *testing.T) {
	yes := hw.Known(true)
	model := func() *hw.Chassis {
		ch := &hw.Chassis{ID: "c", BatteryReach: "s3", Batteries: []hw.Battery{{ID: "p"}}, Bays: []hw.Bay{},
			Memory:   &hw.Memory{Sockets: []hw.Socket{{ID: "d1", Reach: "s6"}, {ID: "d2", Reach: "s8"}}},
			Slots:    []hw.Slot{{ID: "m2a", Purpose: hw.ForStorage, Reach: "s5"}, {ID: "wlan", Purpose: hw.ForWireless}},
			Services: []hw.Service{{ID: "paste", Reach: "s7"}}}
		for i := 1; i <= 9; i++ {
			st := hw.Step{ID: fmt.Sprintf("s%d", i), Verb: hw.Lift}
			if i > 1 {
				st.Needs = []string{fmt.Sprintf("s%d", i-1)}
			}
			ch.Steps = append(ch.Steps, st)
		}
		return ch
	}
	say := func(g Grade) string {
		var out []string
		for _, r := range g.Rows {
			words := fmt.Sprintf("%s %s %d", r.Kind, r.Place, r.Sum())
			switch {
			case !r.Known:
				words += " ?"
			case r.Fixed:
				words += " fixed"
			}
			for _, m := range r.Lost {
				words += string(m)
			}
			out = append(out, words)
		}
		return fmt.Sprintf("%s = %d of %d, %s", strings.Join(out, ", "), g.Sum, g.Of, strings.TrimSuffix(g.Words(), " of 100"))
	}
	for name, c := range map[string]struct {
		change func(ch *hw.Chassis)
		w      Weights
		want   string
	}{
		"plain": {func(ch *hw.Chassis) {}, nil,
			"memory d1 24vv, drives m2a 27v, battery battery 20, wireless  0 ?, cooling paste 7vvv = 78 of 100, 78 to 88"},
		"a seal and glue": {func(ch *hw.Chassis) { ch.Steps[0].Seal, ch.Steps[5].Glued = yes, yes }, nil,
			"memory d1 12vvssgg, drives m2a 21vss, battery battery 16ss, wireless  0 ?, cooling paste 3vvvssgg = 52 of 100, 52 to 62"},
		"under the board, never below none": {func(ch *hw.Chassis) {
			ch.Memory.Sockets = ch.Memory.Sockets[1:]
			ch.Steps[7].RemovesBoard, ch.Steps[7].Glued, ch.Steps[7].Seal = yes, yes, yes
		}, nil, "memory d2 0vvssggbbbb, drives m2a 27v, battery battery 20, wireless  0 ?, cooling paste 7vvv = 54 of 100, 54 to 64"},
		"soldered, no pack, the shop's weights": {func(ch *hw.Chassis) {
			ch.Memory.Sockets, ch.Batteries, ch.BatteryReach, ch.Services = []hw.Socket{}, []hw.Battery{}, "", nil
		}, Weights{Memory: 5, Wireless: 0}, "memory  0 fixed, drives m2a 27v, wireless  0 ? = 27 of 80, 34"},
		"nobody looked": {func(ch *hw.Chassis) { ch.Memory, ch.Slots, ch.Bays, ch.Batteries = nil, nil, nil, nil }, nil,
			"memory  0 ?, drives  0 ?, battery  0 ?, wireless  0 ?, cooling paste 7vvv = 7 of 100, 7 to 97"},
	} {
		ch := model()
		c.change(ch)
		if got := say(Make(ch, c.w)); got != c.want {
			t.Errorf("%s:\n%s\nnot\n%s", name, got, c.want)
		}
	}
}
