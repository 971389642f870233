package shelf

import (
	"encoding/json"
	"testing"

	"yembo/shop/stock"

	"yembo/core/hw"
	"yembo/shop/demo"
	"yembo/web/form"
)

// TestPartForms: every part of the demo, and one with every field of its kind, goes through its form and
// comes back as it was.
func TestPartForms(t *testing.T) {
	data, err := demo.Load(0)
	if err != nil {
		t.Fatal(err)
	}
	parts := append(data.Parts.Parts,
		hw.Part{Kind: hw.KindMemory, Name: "all of a module",
			Memory: &hw.Module{Type: "DDR5", Form: "SO-DIMM", Capacity: hw.Known(hw.DecOf(24)), Speed: hw.Known(5600),
				Ranks: hw.Known(1), Voltage: hw.Known(hw.DecOf(1)), ECC: hw.Known(false), Maker: "Corvane",
				PartNumber: "C-1"}},
		hw.Part{Kind: hw.KindDrive, Name: "all of a drive", PriceCents: 1, LeadDays: hw.Known(0), Count: hw.Known(2),
			Drive: &hw.Drive{Interface: "sata", Form: hw.Form25,
				Key: hw.Known("M"), Length: hw.Known(80), Gen: hw.Known(4), Lanes: hw.Known(4),
				Capacity: hw.Known(hw.DecOf(1)), ReadMBs: hw.Known(hw.DecOf(2)),
				WriteMBs: hw.Known(hw.DecOf(3)), Top: hw.Known(hw.Dec(0)), Bottom: hw.Known(hw.DecOf(1)),
				Height: hw.Known(hw.DecOf(7)), PowerW: hw.Known(hw.DecOf(5)),
				CacheModule: hw.Known(true), Heatsink: hw.Known(false), Rotational: hw.Known(true), Maker: "B",
				Model: "X"}})
	for _, p := range parts {
		p.Stock = hw.Maybe[int]{}
		line := stock.ShelfLine{PartLine: stock.PartLine{Part: p, Orderable: true, Low: 3, OrderNo: "N-1", Note: "a note",
			Supplier: 1}}
		f := form.New(partTyped(&line))
		back := sentPart(f, p.Kind, "EUR")
		back.Part.ID = p.ID
		want, errW := json.Marshal(line.PartLine)
		got, errG := json.Marshal(back)
		if errW != nil || errG != nil || string(got) != string(want) || f.Count() != 0 {
			t.Errorf("%s\n%s, not\n%s %v", p.Name, got, want, f.AllFaults())
		}
	}
}
