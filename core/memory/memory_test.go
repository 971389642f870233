package memory

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"yembo/core/hw"
)

func gb(n int) hw.Dec { return hw.DecOf(n) }

func stick(channels string, size, mts int) Stick {
	s := Stick{Place: fmt.Sprint(channels, size), Module: hw.Module{Capacity: hw.Known(gb(size)), Speed: hw.Known(mts),
		Ranks: hw.Known(1)}}
	for _, c := range channels {
		s.Channels = append(s.Channels, string(c))
	}
	return s
}

func platform(channels, mts int) *hw.Memory {
	return &hw.Memory{Channels: hw.Known(channels), MaxSpeed: hw.Known(mts)}
}

// TestArrange holds the arithmetic of channels: DDR4-3200 is 25.6 GB/s a channel.
func TestArrange(t *testing.T) {
	for name, c := range map[string]struct {
		mem    *hw.Memory
		sticks []Stick
		want   string
	}{
		"equal": {platform(2, 3200), []Stick{stick("A", 8, 3200), stick("B", 8, 3200)},
			"16 dual 16 0 3200 51.2"},
		"unequal": {platform(2, 3200), []Stick{stick("A", 8, 3200), stick("B", 16, 3200)},
			"24 asymmetric 16 8 3200 51.2"},
		"one channel empty": {platform(2, 3200), []Stick{stick("A", 8, 3200)}, "8 single 0 8 3200 25.6"},
		"two on one channel": {platform(2, 3200), []Stick{stick("A", 8, 3200), stick("A", 8, 3200)},
			"16 single 0 16 3200 25.6"},
		"slowest module": {platform(2, 3200), []Stick{stick("A", 8, 2400), stick("B", 8, 3200)},
			"16 dual 16 0 2400 38.4"},
		"platform slower": {platform(2, 2666), []Stick{stick("A", 8, 3200), stick("B", 8, 3200)},
			"16 dual 16 0 2666 42.7"},
		"one channel only": {platform(1, 3200), []Stick{stick("A", 8, 3200)}, "8 single 0 8 3200 25.6"},
		"split over two":   {platform(2, 7500), []Stick{stick("AB", 24, 7500)}, "24 dual 24 0 7500 120"},
		"split over three, uneven": {platform(3, 3200), []Stick{stick("ABC", 16, 3200), stick("A", 4, 3200)},
			"20 asymmetric 16 4 3200 76.8"},
		"four channels": {platform(4, 3200),
			[]Stick{stick("A", 8, 3200), stick("B", 8, 3200), stick("C", 8, 3200), stick("D", 16, 3200)},
			"40 asymmetric 32 8 3200 102.4"},
		"two of four": {platform(4, 3200), []Stick{stick("A", 8, 3200), stick("B", 8, 3200)},
			"16 asymmetric 16 0 3200 51.2"},
		"channel not known": {platform(2, 3200), []Stick{stick("A", 8, 3200), stick("", 8, 3200)},
			"16 - - - 3200 -"},
		"speed not known": {&hw.Memory{Channels: hw.Known(2)}, []Stick{stick("A", 8, 3200)},
			"8 single 0 8 - -"},
		"nothing fitted": {platform(2, 3200), nil, "0 - - - - -"},
	} {
		l := Arrange(c.mem, c.sticks)
		got := fmt.Sprintf("%s %s %s %s %s %s", l.Total, l.Mode.Or("-"), words(l.Interleaved), words(l.Single),
			number(l.Speed), words(l.Bandwidth))
		if got != c.want {
			t.Errorf("%s: %s, want %s", name, got, c.want)
		}
	}
}

func words(m hw.Maybe[hw.Dec]) string {
	if v, ok := m.Get(); ok {
		return v.String()
	}
	return "-"
}

func number(m hw.Maybe[int]) string {
	if v, ok := m.Get(); ok {
		return fmt.Sprint(v)
	}
	return "-"
}

// TestInterleaveGigabyteByGigabyte compares with dealing single gigabytes out: a
// gigabyte of height h lies interleaved when two or more channels reach it.
func TestInterleaveGigabyteByGigabyte(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	for range 2000 {
		n := 1 + r.IntN(4)
		heights := make([]int, n)
		var sticks []Stick
		for range r.IntN(6) {
			i, size := r.IntN(n), 1<<r.IntN(5)
			heights[i] += size
			sticks = append(sticks, stick(string(rune('A'+i)), size, 3200))
		}
		interleaved, widest := 0, 0
		for level := 1; level <= 200; level++ {
			reach := 0
			for _, h := range heights {
				if h >= level {
					reach++
				}
			}
			if reach >= 2 {
				interleaved += reach
			}
			widest = max(widest, reach)
		}
		l := Arrange(platform(n, 3200), sticks)
		if l.Total == 0 {
			continue
		}
		if l.Interleaved.Or(-1) != gb(interleaved) || l.Single.Or(-1) != l.Total-gb(interleaved) ||
			l.Bandwidth.Or(0) != (hw.Dec(widest)*25_600_000) {
			t.Fatalf("%v: %+v; want %d interleaved over %d", heights, l, interleaved, widest)
		}
	}
}

func TestLimits(t *testing.T) {
	known := func(n int) hw.Maybe[hw.Dec] {
		if n == 0 {
			return hw.Maybe[hw.Dec]{}
		}
		return hw.Known(gb(n))
	}
	for _, c := range []struct {
		practice                  hw.LimitPractice
		maker, proven, controller int
		want, path                string
	}{
		{"", 24, 40, 64, "24", "maker_gb"},
		{"maker", 0, 40, 64, "40", "proven_gb"},
		{"maker", 0, 0, 64, "64", "controller_gb"},
		{"maker", 0, 80, 64, "64", "controller_gb"},
		{"proven", 40, 40, 64, "40", "maker_gb"},
		{"maker", 32, 0, 16, "16", "controller_gb"},
		{"proven", 24, 40, 0, "40", "proven_gb"},
		{"proven", 24, 16, 0, "24", "maker_gb"},
		{"proven", 24, 0, 0, "24", "maker_gb"},
		{"proven", 0, 0, 64, "64", "controller_gb"},
		{"proven", 0, 0, 0, "-", ""},
		{"proven", 24, 40, 32, "32", "controller_gb"},
		{"controller", 24, 40, 64, "64", "controller_gb"},
		{"controller", 24, 40, 0, "40", "proven_gb"},
	} {
		ch := &hw.Chassis{Memory: &hw.Memory{Limits: hw.Limits{Maker: known(c.maker), Proven: known(c.proven),
			Controller: known(c.controller)}}}
		l := InForce(ch, nil, c.practice, Largest())
		if words(l.GB) != c.want || strings.TrimPrefix(l.Path(), limits) != c.path {
			t.Errorf("%+v: %s by %s", c, words(l.GB), l.Path())
		}
	}
	// 8 soldered + 1 × 32 is all that one DDR4 SO-DIMM socket holds.
	ch := &hw.Chassis{Memory: &hw.Memory{Type: hw.Known[hw.MemoryType]("DDR4"),
		Soldered: []hw.Soldered{{Capacity: gb(8)}}, Sockets: []hw.Socket{{Form: "SO-DIMM"}},
		Limits: hw.Limits{Maker: hw.Known(gb(64))}}}
	if l := InForce(ch, nil, "", Largest()); !l.Unreachable || l.GB.Or(0) != gb(40) ||
		l.Arithmetic != "8 soldered + 1 × 32 = 40 GB" {
		t.Errorf("reachable: %+v", l)
	}
	ch.Memory.Sockets[0].Form = "CAMM2" // no row: not checked
	if l := InForce(ch, nil, "", Largest()); l.Unreachable || l.GB.Or(0) != gb(64) {
		t.Errorf("a form without a row is checked: %+v", l)
	}
}

func TestPaired(t *testing.T) {
	mod := func(size, mts, ranks int) *hw.Module {
		m := &hw.Module{Capacity: hw.Known(gb(size)), Speed: hw.Known(mts)}
		if ranks > 0 {
			m.Ranks = hw.Known(ranks)
		}
		return m
	}
	same := mod(8, 3200, 0) // two pieces of one part, whatever is not known of it
	by := func(number string) *hw.Module {
		m := mod(8, 3200, 1)
		m.Maker, m.PartNumber = "Corvane", number
		return m
	}
	type set = []*hw.Module
	for _, c := range []struct {
		practice    hw.Pairing
		kept, added set
		want        bool
	}{
		{"any", set{mod(4, 2400, 1)}, set{mod(16, 3200, 2)}, true},
		{"equal", set{mod(8, 3200, 1)}, set{mod(8, 3200, 2)}, true},
		{"equal", set{mod(8, 3200, 1)}, set{mod(8, 2666, 1)}, false},
		{"equal", set{mod(8, 3200, 1), mod(4, 3200, 1)}, nil, false},
		{"equal", nil, set{mod(16, 3200, 2)}, true},
		{"match", set{mod(8, 3200, 1)}, set{mod(8, 3200, 2)}, false},
		{"match", set{mod(8, 3200, 1)}, set{mod(8, 3200, 1)}, true},
		{"match", set{mod(8, 3200, 0)}, set{mod(8, 3200, 1)}, false},
		{"match", nil, set{mod(8, 3200, 1), mod(8, 3200, 2)}, false},
		{"match", nil, set{mod(8, 3200, 0)}, true},
		{"match", nil, set{same, same}, true},
		{"identical", set{by("CV8")}, set{by("CV8")}, true},
		{"identical", set{by("CV8")}, set{by("CV9")}, false},
		{"identical", set{mod(8, 3200, 1)}, set{mod(8, 3200, 1)}, false},
		{"identical", nil, set{same, same}, true},
	} {
		if got := Paired(c.practice, c.kept, c.added); got != c.want {
			t.Errorf("%s, kept %v, added %v: %v", c.practice, c.kept, c.added, got)
		}
	}
}

func TestRightSize(t *testing.T) {
	peak := hw.Dec(14_600_000)
	need, size, ok := RightSize(peak, []hw.Dec{gb(16), gb(40), gb(24)})
	if !ok || need.Tenths().String() != "18.3" || size != gb(24) {
		t.Errorf("14.6 GB peak: need %s, size %s", need, size)
	}
	if _, size, _ := RightSize(gb(16), []hw.Dec{gb(19), gb(20), gb(24)}); size != gb(20) {
		t.Errorf("16 ÷ 0.8 is exactly 20: %s", size)
	}
	if _, _, ok := RightSize(gb(64), []hw.Dec{gb(32)}); ok {
		t.Error("a total below the need is called right")
	}
}
