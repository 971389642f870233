// Package memory is the arithmetic of memory: what fits a socket, how the
// channels interleave, how far a machine can go, and what pairs with what
// (docs/rules.md, Memory).
package memory

import (
	"yembo/core/hw"
)

// Stick is one module in a socket, or a set of soldered chips, as the arithmetic
// sees it.
type Stick struct {
	Place    string
	Soldered bool
	Channels []string // the channels it serves, nil when not known
	Module   hw.Module
}

// Layout is what a set of modules gives. A figure that rests on something nobody
// knows is left out.
type Layout struct {
	Total       hw.Dec
	Mode        hw.Maybe[string] // dual, asymmetric, single
	Interleaved hw.Maybe[hw.Dec]
	Single      hw.Maybe[hw.Dec]
	Speed       hw.Maybe[int]
	Bandwidth   hw.Maybe[hw.Dec] // GB/s of the widest interleave, to 0.1
	MBs         hw.Maybe[int]    // the same in MB/s, unrounded, for comparing
	// PerChannel is the capacity on each channel in the order of the letters, for
	// drawing; nil when a channel is not known.
	PerChannel []hw.Dec
}

// Soldered returns a machine's soldered memory; the machine's own figures go
// before the model's where boards of one model differ.
func Soldered(ch *hw.Chassis, m *hw.Machine) []Stick {
	var sticks []Stick
	mem := ch.Mem()
	for i := range mem.Soldered {
		s := &mem.Soldered[i]
		capacity := s.Capacity
		if m != nil {
			if own, ok := m.Fitted.SolderedGB[s.ID]; ok {
				capacity = own
			}
		}
		sticks = append(sticks, Stick{
			Place: s.ID, Soldered: true, Channels: hw.OnChannels(s.Channel, s.Channels),
			Module: hw.Module{Type: mem.Type.Or(""), Capacity: hw.Known(capacity), Speed: s.Speed, Ranks: s.Ranks},
		})
	}
	return sticks
}

// ChannelCount is the number of 64-bit channels: as recorded, else up to the
// highest letter that a place carries (a channel no place sits on holds nothing).
func ChannelCount(mem *hw.Memory) int {
	if n, ok := mem.Channels.Get(); ok {
		return n
	}
	highest := 0
	for _, letters := range placesOn(mem) {
		for _, l := range letters {
			highest = max(highest, int(l[0]-'A')+1)
		}
	}
	return highest
}

// Wide reports whether the sockets and the soldered memory are known to lie on at least two channels.
func Wide(mem *hw.Memory) bool {
	first := ""
	for _, on := range placesOn(mem) {
		for _, letter := range on {
			if first == "" {
				first = letter
			}
			if letter != first {
				return true
			}
		}
	}
	return false
}

// placesOn are the channels of each place of memory, nil for one of which they are not known.
func placesOn(mem *hw.Memory) [][]string {
	var out [][]string
	for i := range mem.Soldered {
		out = append(out, hw.OnChannels(mem.Soldered[i].Channel, mem.Soldered[i].Channels))
	}
	for i := range mem.Sockets {
		out = append(out, hw.OnChannels(mem.Sockets[i].Channel, mem.Sockets[i].Channels))
	}
	return out
}

// Arrange computes what the sticks give on a machine with that memory record.
//
// The interleaved part runs over all channels with the smallest capacity, then
// over those that still have some, and so on; what is left on one channel runs
// single. Capacity that serves several channels is split evenly.
func Arrange(mem *hw.Memory, sticks []Stick) Layout {
	out := Layout{Speed: speed(mem, sticks)}
	// Shares are counted in units of 1/scale GB so that an even split is exact.
	scale := hw.Dec(1)
	for _, s := range sticks {
		if n := hw.Dec(len(s.Channels)); n > 1 {
			scale = lcm(scale, n)
		}
	}
	channels := make([]hw.Dec, ChannelCount(mem))
	placed := true
	for _, s := range sticks {
		gb, _ := s.Module.Capacity.Get()
		out.Total += gb
		if gb == 0 {
			continue
		}
		if len(s.Channels) == 0 {
			placed = false
			continue
		}
		share := gb * scale / hw.Dec(len(s.Channels))
		for _, letter := range s.Channels {
			if i := int(letter[0] - 'A'); i < len(channels) {
				channels[i] += share
			} else {
				placed = false
			}
		}
	}
	if !placed || out.Total == 0 {
		return out
	}
	width, interleaved := interleave(channels)
	out.Mode = hw.Known(mode(channels, width))
	out.Interleaved = hw.Known(interleaved / scale)
	out.Single = hw.Known(out.Total - interleaved/scale)
	if mts, ok := out.Speed.Get(); ok {
		// MT/s × 8 bytes is MB/s for one channel; Dec counts millionths.
		out.MBs = hw.Known(width * mts * 8)
		out.Bandwidth = hw.Known((hw.Dec(width*mts*8) * 1000).Tenths())
	}
	for _, c := range channels {
		out.PerChannel = append(out.PerChannel, c/scale)
	}
	return out
}

// interleave returns the number of channels in the widest interleave and the
// capacity that lies on two or more channels.
func interleave(channels []hw.Dec) (width int, interleaved hw.Dec) {
	left := append([]hw.Dec{}, channels...)
	for {
		active, smallest := 0, hw.Dec(0)
		for _, c := range left {
			if c > 0 && (active == 0 || c < smallest) {
				smallest = c
			}
			if c > 0 {
				active++
			}
		}
		if active == 0 {
			return width, interleaved
		}
		if width == 0 {
			width = active
		}
		if active >= 2 {
			interleaved += smallest * hw.Dec(active)
		}
		for i := range left {
			if left[i] > 0 {
				left[i] -= smallest
			}
		}
	}
}

func mode(channels []hw.Dec, width int) string {
	if width <= 1 {
		return "single"
	}
	for _, c := range channels {
		if c != channels[0] {
			return "asymmetric"
		}
	}
	return "dual"
}

// speed is that of the slowest stick, and at most the platform's. A speed that
// nobody knows leaves it out.
func speed(mem *hw.Memory, sticks []Stick) hw.Maybe[int] {
	slowest, known := mem.MaxSpeed.Get()
	if !known {
		return hw.Maybe[int]{}
	}
	fitted := false
	for _, s := range sticks {
		mts, ok := s.Module.Speed.Get()
		if !ok {
			return hw.Maybe[int]{}
		}
		slowest = min(slowest, mts)
		fitted = true
	}
	if !fitted {
		return hw.Maybe[int]{}
	}
	return hw.Known(slowest)
}

// Slowed names the sticks that run below their own rating because of another
// one. What only the platform holds back is not among them.
func Slowed(mem *hw.Memory, sticks []Stick) (places []string, slowest int) {
	for _, s := range sticks {
		if mts, ok := s.Module.Speed.Get(); ok && (slowest == 0 || mts < slowest) {
			slowest = mts
		}
	}
	for _, s := range sticks {
		own, ok := s.Module.Speed.Get()
		if ok && slowest < min(own, mem.MaxSpeed.Or(own)) {
			places = append(places, s.Place)
		}
	}
	return places, slowest
}

func lcm(a, b hw.Dec) hw.Dec {
	x, y := a, b
	for y != 0 {
		x, y = y, x%y
	}
	return a / x * b
}
