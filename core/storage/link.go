// Package storage is the arithmetic of drives: what fits an M.2 slot or a bay,
// what its link carries, and how long a copy takes (docs/rules.md, Storage).
package storage

import (
	"fmt"
	"math/big"

	"yembo/core/hw"
)

// SATA figures in MB/s: what 6 Gb/s carries, and what is seen in practice.
const (
	SATALink = 600
	SATARead = 550
)

// HotLink is the link from which on a drive without cooling is called hot.
const HotLink = 7877

// LinkMBs is what a PCI Express link carries, in MB/s, half up: GT/s × 1000 ×
// encoding ÷ 8 × lanes, with 8b/10b for generations 1 and 2 and 128b/130b from 3.
// Generations 1 to 5; others give 0.
func LinkMBs(gen, lanes int) int {
	gts10 := []int{0, 25, 50, 80, 160, 320} // GT/s × 10
	if gen < 1 || gen >= len(gts10) || lanes < 1 {
		return 0
	}
	up, down := 128, 130
	if gen <= 2 {
		up, down = 8, 10
	}
	n, d := gts10[gen]*100*up*lanes, down*8
	return (2*n + d) / (2 * d)
}

// Link is what a drive gets in its place. A figure that rests on something nobody
// knows is left out.
type Link struct {
	Place string
	Gen   hw.Maybe[int]
	Lanes hw.Maybe[int]
	MBs   hw.Maybe[int]
	Read  hw.Maybe[hw.Dec]
}

// Connect computes the link of a drive in a slot (slot is nil for a bay).
func Connect(place string, slot *hw.Slot, d *hw.Drive) Link {
	l := Link{Place: place}
	read, hasRead := d.ReadMBs.Get()
	if d.Interface == hw.SATA {
		l.MBs = hw.Known(SATALink)
		if hasRead {
			l.Read = hw.Known(min(read, hw.DecOf(SATARead)))
		}
		return l
	}
	if slot == nil || d.Interface != hw.NVMe {
		return l
	}
	l.Gen = lower(slot.Gen, d.Gen)
	l.Lanes = lower(slot.Lanes, d.Lanes)
	gen, okG := l.Gen.Get()
	lanes, okL := l.Lanes.Get()
	if okG && okL {
		l.MBs = hw.Known(LinkMBs(gen, lanes))
		if hasRead {
			l.Read = hw.Known(min(read, hw.DecOf(LinkMBs(gen, lanes))))
		}
	}
	return l
}

func lower(a, b hw.Maybe[int]) hw.Maybe[int] {
	x, okX := a.Get()
	y, okY := b.Get()
	if !okX || !okY {
		return hw.Maybe[int]{}
	}
	return hw.Known(min(x, y))
}

// HeldBack reports whether the drive could read faster than its link carries.
func HeldBack(l Link, d *hw.Drive) bool {
	read, okR := d.ReadMBs.Get()
	mbs, okL := l.MBs.Get()
	return okR && okL && read > hw.DecOf(mbs)
}

// Hot reports whether a drive will run hot: a fast link or more than 5 W in a slot
// recorded as having no cooling.
func Hot(l Link, slot *hw.Slot, d *hw.Drive) bool {
	if slot == nil || slot.Cooling.Or("") != hw.NoCooling {
		return false
	}
	mbs, _ := l.MBs.Get()
	watts, _ := d.PowerW.Get()
	return (d.Interface == hw.NVMe && mbs >= HotLink) || watts > hw.DecOf(5)
}

// NoGain reports a newer generation that its link does not make faster than the
// old drive's link was.
func NoGain(old, fresh Link, oldDrive, newDrive *hw.Drive) bool {
	was, okA := old.MBs.Get()
	is, okB := fresh.MBs.Get()
	genWas, okC := oldDrive.Gen.Get()
	genIs, okD := newDrive.Gen.Get()
	return okA && okB && okC && okD && genIs > genWas && is <= was
}

// EnclosureMBs is the external enclosure that a copy is reckoned through.
const EnclosureMBs = 400

// Clone says whether a boot drive can be copied to its replacement.
type Clone struct {
	Possible bool
	Minutes  hw.Maybe[hw.Dec] // of copying, to 0.1
	Why      string           // where it is not possible
}

// PlanClone decides between copying and a clean installation: a copy when the used
// space is at most 0.9 of the new drive and the old one still reads. Time = used ÷
// (0.7 × the slowest of the old drive's read, the new one's write, its link and the
// enclosure); figures that are not known are left out, and nobody can say how long a
// failing drive takes.
func PlanClone(old *hw.FittedDrive, fresh *hw.Drive, link Link) Clone {
	capacity, _ := fresh.Capacity.Get()
	used, known := old.UsedGB.Get()
	if old.Unreadable.Or(false) {
		return Clone{Why: "the old drive cannot be read"}
	}
	most, sure := used, known
	if !known {
		most, sure = old.Drive.Capacity.Get()
	}
	if !sure {
		return Clone{Why: "how much of the old drive is used is not known"}
	}
	if most*10 > capacity*9 {
		return Clone{Why: fmt.Sprintf("%s GB used is more than 0.9 of %s GB", most, capacity)}
	}
	if !known || old.Fails() {
		return Clone{Possible: true}
	}
	slowest := hw.DecOf(EnclosureMBs)
	if read, ok := old.Drive.ReadMBs.Get(); ok {
		slowest = min(slowest, read)
	}
	if write, ok := fresh.WriteMBs.Get(); ok {
		slowest = min(slowest, write)
	}
	if mbs, ok := link.MBs.Get(); ok {
		slowest = min(slowest, hw.DecOf(mbs))
	}
	// GB × 1000 = MB; ÷ (0.7 × MB/s) = s; ÷ 60 = min.
	r := new(big.Rat).Mul(used.Rat(), big.NewRat(1000*10, 7*60))
	r.Quo(r, slowest.Rat())
	return Clone{Possible: true, Minutes: hw.Known(hw.RatTenths(r))}
}

// MBRLimitGB is where MBR partition tables end: 2 TiB in GB of 10^9 bytes.
const MBRLimitGB hw.Dec = 2_199_023_256

// GiB shows a drive's capacity the way a system does: 500 GB is 465.8 (docs/rules.md, Storage).
func GiB(gb hw.Dec) hw.Dec {
	r := new(big.Rat).Mul(gb.Rat(), big.NewRat(1_000_000_000, 1<<30))
	return hw.RatTenths(r)
}

// MonthsUntilFull is free space ÷ monthly growth, to 0.1; not known where the growth
// is not above zero.
func MonthsUntilFull(capacity, used, growth hw.Dec) hw.Maybe[hw.Dec] {
	if growth <= 0 {
		return hw.Maybe[hw.Dec]{}
	}
	free := max(capacity-used, 0)
	return hw.Known(hw.RatTenths(new(big.Rat).Quo(free.Rat(), growth.Rat())))
}

// CentsPerGB is a drive's price by its size, to 0.1 cent.
func CentsPerGB(cents int64, capacity hw.Dec) hw.Maybe[hw.Dec] {
	if capacity <= 0 || cents < 0 {
		return hw.Maybe[hw.Dec]{}
	}
	return hw.Known(hw.RatTenths(new(big.Rat).Quo(new(big.Rat).SetInt64(cents), capacity.Rat())))
}
