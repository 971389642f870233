package web

import (
	"testing"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/shop"
	"yembo/web/draw"
)

// TestLinkBars: lanes in use and idle are drawn, what holds a drive back is said.
func TestLinkBars(t *testing.T) {
	p := &shop.Planned{Parts: &hw.Parts{Parts: []hw.Part{{ID: "fast", Kind: hw.KindDrive,
		Drive: &hw.Drive{Interface: "nvme", Gen: hw.Known(4), Lanes: hw.Known(4), Capacity: hw.Known(hw.DecOf(2000)),
			ReadMBs: hw.Known(hw.DecOf(5000))}}}}}
	p.Record.Chassis = &hw.Chassis{Slots: []hw.Slot{{ID: "m2a", Gen: hw.Known(3), Lanes: hw.Known(2)}, {ID: "m2b"}},
		Bays: []hw.Bay{{ID: "bay"}}}
	p.Record.Machine = &hw.Machine{Fitted: hw.Fitted{Drives: []hw.FittedDrive{{Place: "m2a",
		Drive: hw.Drive{Interface: "nvme", Lanes: hw.Known(2), Capacity: hw.Known(hw.DecOf(256)),
			ReadMBs: hw.Known(hw.DecOf(1500))}},
		{Place: "bay", Drive: hw.Drive{Interface: "sata", Capacity: hw.Known(hw.DecOf(1000))}},
		{Place: "m2b", Drive: hw.Drive{Interface: "nvme"}}}}}
	links := []plan.Link{{Place: "m2a", Gen: hw.Known(3), Lanes: hw.Known(2), LinkMBs: hw.Known(1969),
		ReadMBs: hw.Known(hw.DecOf(1500))}, {Place: "bay", LinkMBs: hw.Known(600)}, {Place: "m2b"}}
	today := draw.LinksOf(p.Input(), &plan.StorageState{Links: links}, nil)
	for i, want := range []draw.Link{{Drive: "256 GB", Label: "gen 3 ×2", Sub: "1500 MB/s: the drive's own speed"},
		{Drive: "1 TB", Label: "SATA", Sub: "link 600 MB/s; the drive's speed was not told"},
		{Drive: "?", Label: "not known", Sub: "its link is not yet known"}} {
		if got := today[i]; got.Drive != want.Drive || got.Label != want.Label || got.Sub != want.Sub || got.New ||
			got.Held {
			t.Errorf("%+v, want %+v", got, want)
		}
	}
	o := &plan.Option{Actions: []plan.Action{{Do: plan.DoReplace, Place: "m2a", Part: "fast"}}}
	links[0].ReadMBs = hw.Known(hw.DecOf(1969))
	if got := draw.LinksOf(p.Input(), &plan.StorageState{Links: links[:1]}, o)[0]; !got.New || !got.Held ||
		got.Drive != "+2 TB" || len(got.Lanes) != 2 || len(got.Idle) != 2 ||
		got.Sub != "1969 of 5000 MB/s: the link holds it back" {
		t.Errorf("a drive that is held back: %+v", got)
	}
}
