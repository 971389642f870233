package memory

import (
	"fmt"
	"strings"
	"testing"

	"yembo/core/hw"
)

// told writes a verdict whole, with what is missing, the step that shows it and what a
// rule filled in.
func told(v hw.Verdict) string {
	return strings.TrimSpace(fmt.Sprintf("%s %s: %s %s %s %s", v.Code, v.Place, v.Text, v.Fact, v.Step,
		strings.Join(v.Defaulted, " ")))
}

// TestFit holds each check of a socket with its numbers, and their order: each case spoils
// one thing more of a socket and module that fit, going from the last check to the first.
func TestFit(t *testing.T) {
	ch := &hw.Chassis{Memory: &hw.Memory{Type: hw.Known[hw.MemoryType]("DDR4"),
		Limits: hw.Limits{Maker: hw.Known(gb(24))},
		Sockets: []hw.Socket{{ID: "dimm0", Form: "DIMM"},
			{ID: "dimm1", Form: "SO-DIMM", MaxModule: hw.Known(gb(16)), Reach: "shield"}}}}
	mod := hw.Module{Type: "DDR4", Form: "SO-DIMM", Capacity: hw.Known(gb(16))}
	stays, practice := Stays{Soldered: gb(8)}, hw.LimitMaker
	check := func(name, want string) {
		t.Helper()
		if got := told(Fit(ch, stays, 1, &mod, 3, InForce(ch, nil, practice, Largest()), Largest())); got != want {
			t.Errorf("%s:\n got %s\nwant %s", name, got, want)
		}
	}
	check("fits to the last GB", "dimm1:")
	ch.Memory.Sockets[1].MaxModule = hw.Maybe[hw.Dec]{}
	check("the largest made counts", "dimm1:    /memory/sockets/1/max_module_gb")
	stays.Soldered = gb(16)
	check("over the maker's limit",
		"memory.over_limit dimm1: 16 GB soldered + 16 GB = 32 GB; the maker's limit is 24 GB")
	stays.Kept = gb(4)
	check("beside one that stays",
		"memory.over_limit dimm1: 16 GB soldered + 4 GB that stay + 16 GB = 36 GB; the maker's limit is 24 GB")
	stays, ch.Memory.Limits.Maker = Stays{}, hw.Known(gb(8))
	check("alone over it", "memory.over_limit dimm1: 16 GB alone; the maker's limit is 8 GB")
	practice, ch.Memory.Limits.Proven = hw.LimitProven, hw.Known(gb(12))
	check("over the proven limit", "memory.over_limit dimm1: 16 GB alone; the proven limit is 12 GB")
	practice, ch.Memory.Limits.Controller = hw.LimitController, hw.Known(gb(10))
	check("over the controller's limit", "memory.over_limit dimm1: 16 GB alone; the controller's limit is 10 GB")
	ch.Memory.Limits = hw.Limits{}
	check("no limit known", "unknown dimm1: how much memory this model takes in all is not known: the maker's or "+
		"the controller's document tells it chassis:/memory/limits/maker_gb")
	ch.Memory.Sockets[0].Form = "SO-DIMM"
	ch.Memory.Limits.Maker, practice, stays.Soldered, mod.Capacity = hw.Known(gb(128)), hw.LimitMaker, gb(48),
		hw.Known(gb(32))
	ch.Memory.Soldered = []hw.Soldered{{ID: "onboard", Capacity: gb(8)}}
	check("past what the sockets hold",
		"memory.over_limit dimm1: 48 GB soldered + 32 GB = 80 GB; what the sockets can hold is 72 GB")
	mod.Capacity = hw.Known(gb(48))
	check("over the largest made", "memory.over_socket dimm1: 48 GB; the socket holds 32 GB at most")
	ch.Memory.Sockets[1].Form, mod.Form = "CAMM2", "CAMM2"
	check("no row in the table", "unknown dimm1: the largest module that the socket takes is not known "+
		"chassis:/memory/sockets/1/max_module_gb shield")
	mod.Type = "DDR5"
	check("wrong memory type", "memory.type dimm1: a DDR5 module; the socket takes DDR4")
	mod.Type, mod.Clocked = "DDR4", hw.Known(true)
	check("clocked, and nobody knows", "unknown dimm1: whether this model takes modules with a clock driver is not known "+
		"chassis:/memory/clocked")
	ch.Memory.Clocked = hw.Known(hw.ClockedNone)
	check("clocked", "memory.clocked dimm1: a module with a clock driver; this model takes none")
	ch.Memory.ECC = hw.Known(hw.ECCRequired)
	check("no error correction", "memory.ecc dimm1: a module without error correction; this model takes no other than "+
		"those with it")
	mod.ECC, ch.Memory.ECC = hw.Known(true), hw.Known(hw.ECCNone)
	check("error correction", "memory.ecc dimm1: a module with error correction; this model takes none")
	ch.Memory.ECC = hw.Maybe[hw.ECCUse]{}
	check("error correction, and nobody knows", "unknown dimm1: whether this model takes modules with error correction is "+
		"not known chassis:/memory/ecc")
	mod.Type, ch.Memory.Type = "DDR3", hw.Known[hw.MemoryType]("DDR3L")
	check("1.5 V into 1.35 V", "memory.type dimm1: a DDR3 module; the socket takes DDR3L: 1.5 V never into a 1.35 V "+
		"socket")
	ch.Memory.Type = hw.Maybe[hw.MemoryType]{}
	check("generation not known", "unknown dimm1: the memory generation of this model is not known "+
		"chassis:/memory/type shield")
	mod.Form = "SO-DIMM"
	check("form", "memory.form dimm1: the module is a SO-DIMM; the socket takes CAMM2")

	for _, c := range []struct {
		module, machine hw.MemoryType
		want            bool
	}{{"DDR3L", "DDR3", true}, {"DDR3", "DDR3L", false}, {"DDR3", "DDR3", true}, {"DDR4", "DDR3", false},
		{"DDR3L", "DDR4", false}} {
		if TypeEnters(c.module, c.machine) != c.want {
			t.Errorf("a %s module in a %s machine: not %v", c.module, c.machine, c.want)
		}
	}
	for _, c := range []struct {
		sockets []hw.Socket
		want    string
		none    bool
	}{
		{nil, "unknown memory: not recorded whether this model has memory sockets chassis:/memory/sockets",
			true},
		{[]hw.Socket{}, "memory.soldered_only memory: this model has no memory socket: all its memory is soldered",
			true},
		{[]hw.Socket{{ID: "dimm1"}}, ":", false},
	} {
		if v, none := NoSocket(&hw.Memory{Sockets: c.sockets}); none != c.none || told(v) != c.want {
			t.Errorf("%v: %s", c.sockets, told(v))
		}
	}
}

// TestMixedAndSlowed: modules in sockets are compared with one another and not with
// soldered chips; only what another stick slows down is slowed, not what the platform does.
func TestMixedAndSlowed(t *testing.T) {
	with := func(size, mts, ranks int, soldered bool) Stick {
		s := stick("A", size, mts)
		s.Place, s.Soldered, s.Module.Ranks = fmt.Sprint("p", size, "-", mts), soldered, hw.Known(ranks)
		return s
	}
	noRanks := with(8, 3200, 1, false)
	noRanks.Module.Ranks = hw.Maybe[int]{}
	noSpeed := Stick{Place: "silent"}
	for _, c := range []struct {
		max    int
		sticks []Stick
		mixed  bool
		slowed string
	}{
		{3200, []Stick{with(8, 3200, 1, false), with(8, 3200, 1, false)}, false, "[] 3200"},
		{3200, []Stick{with(8, 3200, 1, false), with(16, 3200, 1, false)}, true, "[] 3200"},
		{3200, []Stick{with(8, 3200, 1, false), with(8, 3200, 2, false)}, true, "[] 3200"},
		{3200, []Stick{with(8, 3200, 1, false), with(8, 2400, 1, false)}, true, "[p8-3200] 2400"},
		{2400, []Stick{with(8, 3200, 1, false), with(8, 2400, 1, false)}, true, "[] 2400"},
		{2666, []Stick{with(8, 3200, 1, false), with(8, 2400, 1, false)}, true, "[p8-3200] 2400"},
		{3200, []Stick{with(8, 2400, 1, true), with(16, 3200, 2, false)}, false, "[p16-3200] 2400"},
		{3200, []Stick{with(16, 3200, 1, false), with(8, 3200, 1, true)}, false, "[] 3200"},
		{3200, []Stick{noRanks, with(8, 3200, 2, false)}, false, "[] 3200"},
		{3200, []Stick{noSpeed, with(8, 3200, 2, false)}, false, "[] 3200"},
		{0, []Stick{with(8, 3200, 1, false), with(8, 2133, 1, false)}, true, "[p8-3200] 2133"},
	} {
		mem := &hw.Memory{}
		if c.max > 0 {
			mem.MaxSpeed = hw.Known(c.max)
		}
		places, slowest := Slowed(mem, c.sticks)
		if got := fmt.Sprint(places, slowest); got != c.slowed || Mixed(c.sticks) != c.mixed {
			t.Errorf("at most %d, %v: slowed %s, mixed %v", c.max, c.sticks, got, Mixed(c.sticks))
		}
	}
}

// TestSoldered: the machine's own figure goes before the model's, also in the ceiling.
func TestSoldered(t *testing.T) {
	ch := &hw.Chassis{Memory: &hw.Memory{Type: hw.Known[hw.MemoryType]("DDR4"),
		Limits:   hw.Limits{Maker: hw.Known(gb(128))},
		Soldered: []hw.Soldered{{ID: "onboard", Channel: "A", Capacity: gb(8), Speed: hw.Known(3200)}},
		Sockets: []hw.Socket{{ID: "a", Form: "SO-DIMM", Channel: "B"}, {ID: "b", Form: "SO-DIMM", Channel: "D"},
			{ID: "c", Form: "DIMM"}}}}
	m := &hw.Machine{Fitted: hw.Fitted{SolderedGB: map[string]hw.Dec{"onboard": gb(16)}}}
	for name, c := range map[string]struct {
		machine *hw.Machine
		want    string
	}{
		"another board": {m, "16 16 soldered + 2 × 32 + 1 × 32 = 112 GB"},
		"as recorded":   {&hw.Machine{}, "8 8 soldered + 2 × 32 + 1 × 32 = 104 GB"},
		"no machine":    {nil, "8 8 soldered + 2 × 32 + 1 × 32 = 104 GB"},
	} {
		s := Soldered(ch, c.machine)
		limit := InForce(ch, c.machine, hw.LimitMaker, Largest())
		if got := fmt.Sprintf("%s %s", s[0].Module.Capacity.Or(0), limit.Arithmetic); got != c.want ||
			!limit.Unreachable || limit.Stated != gb(128) || limit.GB.Or(0) != limit.Reachable {
			t.Errorf("%s: %s (%+v), want %s", name, got, limit, c.want)
		}
		if !s[0].Soldered || s[0].Channels[0] != "A" || s[0].Module.Speed.Or(0) != 3200 || s[0].Module.Type != "DDR4" {
			t.Errorf("%s: %+v", name, s[0])
		}
	}
	// Up to the highest letter, whoever carries it; a recorded number goes before.
	if n := ChannelCount(ch.Memory); n != 4 {
		t.Errorf("sockets up to D: %d channels", n)
	}
	ch.Memory.Soldered[0].Channel = "F"
	if n := ChannelCount(ch.Memory); n != 6 {
		t.Errorf("soldered on F: %d channels", n)
	}
	ch.Memory.Channels = hw.Known(2)
	if n := ChannelCount(ch.Memory); n != 2 {
		t.Errorf("recorded as 2: %d channels", n)
	}
	if n := ChannelCount(&hw.Memory{}); n != 0 {
		t.Errorf("nothing told: %d channels", n)
	}
	// Without a socket nothing is planned, and nothing is said of the figure.
	ch.Memory.Sockets = []hw.Socket{}
	if l := InForce(ch, nil, hw.LimitMaker, Largest()); l.GB.Or(0) != gb(128) || l.Unreachable {
		t.Errorf("soldered only: %+v", l)
	}
	// What nobody recorded is not checked.
	ch.Memory.Sockets = nil
	if l := InForce(ch, nil, hw.LimitMaker, Largest()); l.GB.Or(0) != gb(128) || l.Unreachable {
		t.Errorf("sockets not known: %+v", l)
	}
}

// TestPastTheLimit: past the maker's figure; where that is not known, growth past what was
// proven, or any where nothing was.
func TestPastTheLimit(t *testing.T) {
	limits := func(maker, proven int) *hw.Memory {
		m := &hw.Memory{}
		if maker > 0 {
			m.Limits.Maker = hw.Known(gb(maker))
		}
		if proven > 0 {
			m.Limits.Proven = hw.Known(gb(proven))
		}
		return m
	}
	for _, c := range []struct {
		mem            *hw.Memory
		before, after  int
		beyond, unsure bool
	}{
		{limits(24, 0), 16, 24, false, false}, {limits(24, 0), 16, 32, true, false},
		{limits(24, 40), 40, 32, true, false},
		{limits(0, 0), 16, 32, false, true}, {limits(0, 0), 16, 16, false, false}, {limits(0, 0), 16, 8, false, false},
		{limits(0, 32), 16, 32, false, false}, {limits(0, 32), 16, 40, false, true},
		{limits(0, 32), 48, 40, false, false},
	} {
		if beyond, unsure := BeyondMaker(c.mem, gb(c.after)),
			LimitUnsure(c.mem, gb(c.before), gb(c.after)); beyond != c.beyond || unsure != c.unsure {
			t.Errorf("%+v from %d to %d: %v %v", c.mem.Limits, c.before, c.after, beyond, unsure)
		}
	}
}

// TestInferredLimit: where no figure is known, soldered + for each socket its own largest module, else the
// largest that runs in any of them now.
func TestInferredLimit(t *testing.T) {
	ch := &hw.Chassis{Memory: &hw.Memory{Type: hw.Known[hw.MemoryType]("DDR4"),
		Soldered: []hw.Soldered{{ID: "on", Capacity: gb(4)}},
		Sockets: []hw.Socket{{ID: "a", Form: "SO-DIMM"}, {ID: "b", Form: "SO-DIMM", MaxModule: hw.Known(gb(8))},
			{ID: "c", Form: "DIMM"}}}}
	m := &hw.Machine{Fitted: hw.Fitted{SolderedGB: map[string]hw.Dec{"on": gb(8)}, Memory: []hw.FittedModule{
		{Socket: "b", Module: hw.Module{Capacity: hw.Known(gb(4))}},
		{Socket: "c", Module: hw.Module{Capacity: hw.Known(gb(16))}}}}}
	l := InForce(ch, m, hw.LimitProven, Largest())
	if l.GB.Or(0) != gb(48) || l.From != Inferred || !l.FellBack || l.Path() != "" ||
		l.Arithmetic != "8 soldered + 1 × 16 + 1 × 8 + 1 × 16 = 48 GB" {
		t.Errorf("%+v", l)
	}
	m.Fitted.Memory = []hw.FittedModule{}
	if l := InForce(ch, m, hw.LimitMaker, Largest()); l.GB.IsKnown() {
		t.Errorf("nothing in the sockets, and a limit of %v", l.GB)
	}
	for i := range ch.Memory.Sockets {
		ch.Memory.Sockets[i].MaxModule = hw.Known(gb(8))
	}
	l = InForce(ch, m, hw.LimitMaker, Largest())
	if l.GB.Or(0) != gb(32) || l.Arithmetic != "8 soldered + 2 × 8 + 1 × 8 = 32 GB" {
		t.Errorf("every socket's own figure is known: %+v", l)
	}
}

// TestSocketsLimit: by the practice of what the sockets take, the controller's figure, else soldered + for each
// socket its own largest module, which is never past the largest one made, else as proven.
func TestSocketsLimit(t *testing.T) {
	ch := &hw.Chassis{Memory: &hw.Memory{Type: hw.Known[hw.MemoryType]("DDR5"),
		Soldered: []hw.Soldered{{ID: "on", Capacity: gb(8)}},
		Sockets:  []hw.Socket{{ID: "a", Form: "SO-DIMM", MaxModule: hw.Known(gb(48))}, {ID: "b", Form: "SO-DIMM"}}}}
	limit := func(practice hw.LimitPractice) Limit { return InForce(ch, nil, practice, Largest()) }
	if l := limit(hw.LimitSockets); l.GB.Or(0) != gb(120) || l.From != BySockets || l.FellBack || l.Path() != "" ||
		l.Arithmetic != "8 soldered + 1 × 48 + 1 × 64 = 120 GB" {
		t.Errorf("%+v", l)
	}
	ch.Memory.Limits.Maker = hw.Known(gb(256))
	if l := limit(hw.LimitMaker); !l.Unreachable || l.GB.Or(0) != gb(120) {
		t.Errorf("a maker's figure past what the sockets hold: %+v", l)
	}
	ch.Memory.Sockets[0].MaxModule = hw.Known(gb(128)) // the label says so; none is made
	if l := limit(hw.LimitSockets); l.GB.Or(0) != gb(136) {
		t.Errorf("past the largest module made: %+v", l)
	}
	ch.Memory.Limits.Controller = hw.Known(gb(96))
	if l := limit(hw.LimitSockets); l.GB.Or(0) != gb(96) || l.From != ByController {
		t.Errorf("the controller's limit is known: %+v", l)
	}
	ch.Memory.Limits.Controller, ch.Memory.Limits.Proven = hw.Maybe[hw.Dec]{}, hw.Known(gb(64))
	ch.Memory.Limits.Maker, ch.Memory.Sockets[1].Form = hw.Maybe[hw.Dec]{}, "CAMM2" // no row, and no figure of its own
	if l := limit(hw.LimitSockets); l.GB.Or(0) != gb(64) || l.From != ByProof {
		t.Errorf("a socket of which nothing is known: %+v", l)
	}
	ch.Memory.Type, ch.Memory.Sockets[1].MaxModule = hw.Maybe[hw.MemoryType]{}, hw.Known(gb(16))
	if l := limit(hw.LimitSockets); l.GB.Or(0) != gb(152) {
		t.Errorf("no type, and every socket's own figure: %+v", l)
	}
}
