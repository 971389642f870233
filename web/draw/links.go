package draw

import (
	"fmt"

	"yembo/core/hw"
	"yembo/core/plan"
	"yembo/core/storage"
)

// Link is one drive drawn as its link: the place, the lanes, the drive, and what holds
// it back under it.
type Link struct {
	Place, Drive string
	Label        string    // on the link
	Lanes        []float64 // where each lane in use lies
	Idle         []float64 // lanes that the slot has and the drive does not use, or the other way round
	New, Held    bool
	Sub          string
}

// LinksOf draws the drives of a state; o is nil for today.
func LinksOf(in plan.Input, st *plan.StorageState, o *plan.Option) []Link {
	if st == nil {
		return nil
	}
	var out []Link
	for _, l := range st.Links {
		d, fresh := driveAt(in, o, l.Place)
		if d == nil {
			continue
		}
		b := Link{Place: l.Place, Drive: sizeWords(d.Capacity), New: fresh}
		if fresh {
			b.Drive = "+" + b.Drive
		}
		lanes := l.Lanes.Or(1)
		if gen, ok := l.Gen.Get(); ok {
			b.Label = fmt.Sprintf("gen %d ×%d", gen, lanes)
		} else if d.Interface == "sata" {
			b.Label, lanes = "SATA", 1
		} else {
			b.Label = "not known"
		}
		most := max(lanes, d.Lanes.Or(lanes))
		if i := in.Chassis.SlotByID(l.Place); i >= 0 && d.Interface == "nvme" {
			most = max(most, in.Chassis.Slots[i].Lanes.Or(lanes))
		}
		most = min(most, 4)
		for k := range most {
			at := 13 + (float64(k)-float64(most-1)/2)*4.5
			if k < lanes {
				b.Lanes = append(b.Lanes, at)
			} else {
				b.Idle = append(b.Idle, at)
			}
		}
		link := storage.Link{Place: l.Place, Gen: l.Gen, Lanes: l.Lanes, MBs: l.LinkMBs, Read: l.ReadMBs}
		read, told := d.ReadMBs.Get()
		switch {
		case storage.HeldBack(link, d):
			b.Held = true
			b.Sub = fmt.Sprintf("%d of %s MB/s: the link holds it back", l.LinkMBs.Or(0), read)
		case told && l.LinkMBs.IsKnown():
			b.Sub = fmt.Sprintf("%s MB/s: the drive's own speed", read)
		case l.LinkMBs.IsKnown():
			b.Sub = fmt.Sprintf("link %d MB/s; the drive's speed is not known", l.LinkMBs.Or(0))
		default:
			b.Sub = "its link is not yet known"
		}
		out = append(out, b)
	}
	return out
}

// driveAt is the drive in a place after an option, and whether the option puts it there.
func driveAt(in plan.Input, o *plan.Option, place string) (*hw.Drive, bool) {
	if o != nil {
		for _, a := range o.Actions {
			if a.Place != place || a.Part == "" {
				continue
			}
			for i := range in.Parts.Parts {
				if x := &in.Parts.Parts[i]; x.ID == a.Part && x.Drive != nil {
					return x.Drive, true
				}
			}
		}
	}
	for i := range in.Machine.Fitted.Drives {
		if f := &in.Machine.Fitted.Drives[i]; f.Place == place {
			return &f.Drive, false
		}
	}
	return nil, false
}

// sizeWords is a drive's size the way it is sold: 512 GB, 1 TB.
func sizeWords(m hw.Maybe[hw.Dec]) string {
	gb, ok := m.Get()
	switch {
	case !ok:
		return "?"
	case gb >= hw.DecOf(1000) && gb%hw.DecOf(500) == 0:
		return (gb / 1000).String() + " TB"
	}
	return gb.String() + " GB"
}
