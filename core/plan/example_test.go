package plan_test

import (
	"context"
	"fmt"

	"yembo/core/hw"
	"yembo/core/plan"
)

// A notebook with one of two sockets filled, a module of the same kind on the shelf, and a wish for 16 GB.
func ExampleMake() {
	module := hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(hw.DecOf(8)), Speed: hw.Known(3200)}
	made, err := plan.Make(context.Background(), plan.Input{
		Chassis: &hw.Chassis{ID: "tern", Kind: hw.Notebook, Memory: &hw.Memory{Type: hw.Known[hw.MemoryType]("DDR4"),
			Soldered: []hw.Soldered{}, Sockets: []hw.Socket{{ID: "dimm1", Form: "SO-DIMM"}, {ID: "dimm2", Form: "SO-DIMM"}},
			Limits: hw.Limits{Maker: hw.Known(hw.DecOf(32))}}},
		Machine: &hw.Machine{Chassis: "tern", Fitted: hw.Fitted{Memory: []hw.FittedModule{{Socket: "dimm1", Module: module}}}},
		Parts: &hw.Parts{Parts: []hw.Part{{ID: "m8", Kind: hw.KindMemory, Name: "Corvane 8 GB", PriceCents: 1990,
			Stock: hw.Known(1), Memory: &module}}},
		Request: &hw.Request{Goals: hw.Goals{MemoryGB: hw.Known(hw.DecOf(16))}},
	})
	if err != nil {
		fmt.Println(err)
		return
	}
	for i := range made.Options {
		o := &made.Options[i]
		fmt.Println(o.Key(), hw.Money("EUR", o.TotalCents), o.MeetsAll)
	}
	// Output: dimm2+m8 €19.90 true
}
