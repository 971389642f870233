package plan

import (
	"strings"
	"testing"

	"yembo/core/hw"
)

// TestNames: an option is known by what it does, whatever its number; its words name parts
// and services, and what falls short says of what and by how much.
func TestNames(t *testing.T) {
	ch := &hw.Chassis{Services: []hw.Service{{ID: "repaste", Name: "Renew thermal paste"}, {ID: "clock-cell"}}}
	parts := &hw.Parts{Parts: []hw.Part{{ID: "mem", Name: "Corvane 16 GB"}}}
	for name, c := range map[string]struct {
		o          Option
		key, words string
	}{
		"add and take out": {Option{ID: "o3",
			Actions: []Action{{Do: DoAdd, Place: "dimm2", Part: "mem"}, {Do: DoKeep, Place: "m2a"},
				{Do: DoRemove, Place: "bay"}}}, "dimm2+mem.bay-", "dimm2: Corvane 16 GB; bay out"},
		"other number": {Option{ID: "o9",
			Actions: []Action{{Do: DoReplace, Place: "dimm2", Part: "mem"}, {Do: DoRemove, Place: "bay"}}},
			"dimm2+mem.bay-", "dimm2: Corvane 16 GB; bay out"},
		"part gone": {Option{Actions: []Action{{Do: DoAdd, Place: "dimm2", Part: "old"}}}, "dimm2+old",
			"dimm2: a part that is no longer listed"},
		"with a service": {Option{Actions: []Action{{Do: DoRemove, Place: "bay"}}, Services: []string{"repaste"}},
			"bay-", "bay out; renew thermal paste"},
		"services alone": {Option{Services: []string{"repaste", "clock-cell", "gone"}}, "repaste.clock-cell.gone",
			"renew thermal paste; clock cell; gone"},
	} {
		if key, words := c.o.Key(), c.o.Words(ch, parts.Names()); key != c.key || words != c.words {
			t.Errorf("%s: %q, %q", name, key, words)
		}
	}
	no, yes, gb := hw.Known(false), hw.Known(true), func(n int) hw.Maybe[hw.Dec] { return hw.Known(hw.DecOf(n)) }
	goals := hw.Goals{MemoryGB: gb(32), StorageGB: gb(1000), RuntimeH: gb(6), Wireless: hw.Known[hw.Standard]("wifi6")}
	for name, c := range map[string]struct {
		o    Option
		want string
	}{
		"all met": {Option{Meets: Meets{yes, yes, yes, yes}}, ""},
		"all short": {Option{Meets: Meets{no, no, no, no}, Memory: &MemoryState{TotalGB: hw.DecOf(16)},
			Storage: &StorageState{TotalGB: hw.DecOf(512)}, Battery: &BatteryState{RuntimeH: gb(5)}},
			"memory 16 of 32 GB, storage 512 of 1000 GB, battery 5 of 6 h, wireless below Wi-Fi 6"},
		"nothing told": {Option{Meets: Meets{no, no, no, yes}, Battery: &BatteryState{}},
			"memory not known, of 32 GB, storage not known, of 1000 GB, battery not known, of 6 h"},
		"not asked": {Option{Meets: Meets{Memory: yes}}, ""},
	} {
		if got := strings.Join(c.o.Short(goals), ", "); got != c.want {
			t.Errorf("%s: %q", name, got)
		}
	}
	for _, kind := range allKinds {
		goal := kind.names().goal
		if says := GoalSays(goal); says == goal && goal != "wireless" {
			t.Errorf("the goal %s has no words", goal)
		}
	}
}
