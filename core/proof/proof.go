// Package proof sets what should be fitted in a machine against what the machine tells, and
// judges what was measured before and after the work (docs/rules.md, Proof and hand-over).
package proof

import (
	"encoding/json"
	"slices"
	"strings"

	"yembo/core/hw"
	"yembo/core/label"
	"yembo/core/memory"
	"yembo/core/reading"
)

// Format of the document.
const Format = "yembo.differences/1"

// Differences is what differs, in the fields of yembo.differences/1.
type Differences struct {
	Format   string `json:"format"`
	Chassis  string `json:"chassis"`
	Machine  string `json:"machine"`
	Same     int    `json:"same"`
	Compared int    `json:"compared"` // Same and the differences; 0 proves nothing
	// Differences in the order of the comparison.
	Differences []Difference `json:"differences"`
}

// Difference is one thing that is otherwise than it should be.
type Difference struct {
	Place    string          `json:"place"`
	What     string          `json:"what"`
	Expected json.RawMessage `json:"expected"`
	Observed json.RawMessage `json:"observed"`
	Code     Code            `json:"code"`
	Causes   []string        `json:"causes"`
	Try      []string        `json:"try"`
}

// Line is one thing that both sides tell: as planned where Code is "".
type Line struct {
	Place, What        string
	Expected, Observed json.RawMessage
	Code               Code
	// Swapped says that this drive and another run as each would in the other's place, Idles that a link was seen at
	// its slowest.
	Swapped, Idles bool
}

// Causes are what is likely behind a difference, likeliest first.
func (l *Line) Causes() []string {
	causes := slices.Clone(l.Code.Row().Causes)
	if l.Idles { // before the last, which doubts the record
		causes = slices.Insert(causes, len(causes)-1, "At rest it idles to save power.")
	}
	if l.Swapped {
		causes = slices.Insert(causes, 0, "The drives are swapped.")
	}
	return causes
}

// Tries are what to try against a difference, one after the other, as numbers of the code's row.
func (l *Line) Tries() []int {
	var out []int
	for n := range l.Code.Row().Try {
		switch {
		case l.Code != LinkDiffers || n != tryUnderLoad:
			out = append(out, n)
		case l.Idles:
			out = slices.Insert(out, 0, n)
		}
	}
	return out
}

// Places that are no place of the chassis.
const (
	PlaceMachine = "machine"
	PlaceMemory  = "memory"
	PlaceDrives  = "drives"
)

// Compare lists what both the machine's document and the report tell, in the order of the
// format; what one side does not tell is compared with nothing. The documents must be valid,
// and the machine one of the chassis.
func Compare(ch *hw.Chassis, m *hw.Machine, o *reading.Observed) []Line {
	c := &comparer{ch: ch, m: m, o: o}
	if o.System != nil && m.Serial != "" && o.System.Serial != "" {
		c.add(PlaceMachine, whatSerial, m.Serial, o.System.Serial, m.Serial == o.System.Serial, OtherSerial)
	}
	if o.Memory != nil && o.Memory.Devices != nil {
		c.sockets()
		c.total()
	}
	c.drives()
	c.battery()
	return c.lines
}

// DifferencesOf is the document of a comparison.
func DifferencesOf(ch *hw.Chassis, m *hw.Machine, lines []Line) *Differences {
	d := &Differences{Format: Format, Chassis: ch.ID, Machine: m.ID, Differences: []Difference{}}
	for _, l := range lines {
		if l.Code == "" {
			d.Same++
			continue
		}
		x := Difference{l.Place, l.What, l.Expected, l.Observed, l.Code, l.Causes(), nil}
		for _, n := range l.Tries() {
			x.Try = append(x.Try, l.Code.Row().Try[n])
		}
		d.Differences = append(d.Differences, x)
	}
	d.Compared = d.Same + len(d.Differences)
	return d
}

type comparer struct {
	ch    *hw.Chassis
	m     *hw.Machine
	o     *reading.Observed
	lines []Line
}

// add appends a line; a nil value is null.
func (c *comparer) add(place, what string, expected, observed any, same bool, code Code) {
	if same {
		code = ""
	}
	c.lines = append(c.lines, Line{Place: place, What: what, Expected: written(expected), Observed: written(observed), Code: code})
}

// written is a value as documents have it.
func written(v any) json.RawMessage {
	raw, err := json.Marshal(v)
	if err != nil {
		return json.RawMessage("null")
	}
	return raw
}

// fittedIn is the module planned in a socket, nil for an empty one; told says that the
// machine's document tells what its sockets hold.
func (c *comparer) fittedIn(socket string) (mod *hw.Module, told bool) {
	for i := range c.m.Fitted.Memory {
		if c.m.Fitted.Memory[i].Socket == socket {
			return &c.m.Fitted.Memory[i].Module, true
		}
	}
	return nil, c.m.Fitted.Memory != nil
}

// deviceOf is the device of the i-th socket, nil for none; told is false where the report
// does not say which it is: where some device carries the id of a socket all go by their ids,
// else by their order.
func (c *comparer) deviceOf(i int) (d *reading.Device, told bool) {
	sockets := c.ch.Mem().Sockets
	var loose []*reading.Device
	named := false
	for k := range c.o.Memory.Devices {
		x := &c.o.Memory.Devices[k]
		if x.Soldered.Or(false) {
			continue
		}
		loose = append(loose, x)
		for s := range sockets {
			named = named || strings.EqualFold(x.Locator, sockets[s].ID)
		}
	}
	if !named {
		if i < len(loose) {
			return loose[i], true
		}
		return nil, true
	}
	for _, x := range loose {
		if strings.EqualFold(x.Locator, sockets[i].ID) {
			return x, true
		}
	}
	return nil, false
}

func (c *comparer) sockets() {
	for i := range c.ch.Mem().Sockets {
		id := c.ch.Memory.Sockets[i].ID
		mod, told := c.fittedIn(id)
		d, known := c.deviceOf(i)
		if !told || !known {
			continue
		}
		c.socket(id, mod, d)
	}
}

func (c *comparer) socket(id string, mod *hw.Module, d *reading.Device) {
	var expected, observed any
	want, seen := hw.Dec(0), hw.Dec(0)
	if mod != nil {
		gb, told := mod.Capacity.Get()
		if !told {
			c.moduleType(id, mod, d)
			return
		}
		want, expected = gb, gb
	}
	if d != nil {
		gb, told := d.Capacity.Get()
		if !told {
			c.moduleType(id, mod, d)
			return
		}
		seen, observed = gb, gb
	}
	code := OtherModule
	if seen == 0 {
		code = ModuleAbsent
	}
	c.add(id, whatCapacity, expected, observed, want == seen, code)
	c.moduleType(id, mod, d)
}

// moduleType compares the types where both hold a module.
func (c *comparer) moduleType(id string, mod *hw.Module, d *reading.Device) {
	if mod == nil || d == nil || d.Capacity.Or(1) == 0 || mod.Type == "" || d.Type == "" {
		return
	}
	same := mod.Type == d.Type || lowVolt[mod.Type] && lowVolt[d.Type]
	c.add(id, whatType, mod.Type, d.Type, same, OtherModule)
}

// lowVolt are two types that a report tells apart by the volts alone.
var lowVolt = map[hw.MemoryType]bool{"DDR3": true, "DDR3L": true}

// sticks are the modules and chips that the machine should have; told says that all of them
// are.
func (c *comparer) sticks() (out []memory.Stick, told bool) {
	mem := c.ch.Mem()
	if mem.Soldered == nil {
		return nil, false
	}
	none := mem.Sockets != nil && len(mem.Sockets) == 0
	if c.m.Fitted.Memory == nil && !none {
		return nil, false
	}
	out = memory.Soldered(c.ch, c.m)
	for i := range c.m.Fitted.Memory {
		f := &c.m.Fitted.Memory[i]
		out = append(out, memory.Stick{Place: f.Socket, Module: f.Module})
	}
	return out, true
}

func (c *comparer) total() {
	if len(c.o.From) == 1 && c.o.From[0] == "spd" {
		c.modules()
		return
	}
	sticks, told := c.sticks()
	if !told {
		return
	}
	if differs := c.capacity(sticks, false); !differs {
		c.speed(sticks)
	}
}

// modules compares the modules alone: images of modules tell nothing of what is soldered.
func (c *comparer) modules() {
	none := c.ch.Mem().Sockets != nil && len(c.ch.Memory.Sockets) == 0
	if c.m.Fitted.Memory == nil && !none {
		return
	}
	var sticks []memory.Stick
	for i := range c.m.Fitted.Memory {
		f := &c.m.Fitted.Memory[i]
		sticks = append(sticks, memory.Stick{Place: f.Socket, Module: f.Module})
	}
	if !c.capacity(sticks, true) {
		if all, told := c.sticks(); told {
			c.speed(all)
		}
	}
}

// capacity compares the totals, of modules alone or of all there is; it reports whether they differ.
func (c *comparer) capacity(sticks []memory.Stick, alone bool) (differs bool) {
	want, seen := hw.Dec(0), hw.Dec(0)
	planned, filled := 0, 0
	for _, s := range sticks {
		gb, known := s.Module.Capacity.Get()
		if !known {
			return false
		}
		want += gb
		if !s.Soldered {
			planned++
		}
	}
	for i := range c.o.Memory.Devices {
		d := &c.o.Memory.Devices[i]
		gb, known := d.Capacity.Get()
		if alone && d.Soldered.Or(false) {
			continue
		}
		if !known {
			return false
		}
		seen += gb
		if gb > 0 && !d.Soldered.Or(false) {
			filled++
		}
	}
	code := OtherModule
	if filled < planned {
		code = ModuleAbsent
	}
	c.add(PlaceMemory, whatCapacity, want, seen, want == seen, code)
	return want != seen
}

// near is how far a speed may be from another and is the same: tools round clocks.
const near = 2

func (c *comparer) speed(sticks []memory.Stick) {
	want, told := memory.Arrange(c.ch.Mem(), sticks).Speed.Get()
	seen, known := 0, false
	for i := range c.o.Memory.Devices {
		d := &c.o.Memory.Devices[i]
		mts, ok := d.Running.Get()
		if ok && d.Capacity.Or(1) > 0 && (!known || mts < seen) {
			seen, known = mts, true
		}
	}
	if !told || !known {
		return
	}
	for _, rate := range label.Rates {
		if apart(rate, seen) <= near {
			seen = rate
			break
		}
	}
	code := Slower
	if seen > want {
		code = OtherModule
	}
	c.add(PlaceMemory, whatSpeed, want, seen, apart(want, seen) <= near, code)
}

func apart(a, b int) int {
	if a > b {
		return a - b
	}
	return b - a
}

// DeviceOf is the device that a report has for the i-th socket of a chassis, nil for none or where it
// does not tell which it is.
func DeviceOf(ch *hw.Chassis, o *reading.Observed, i int) *reading.Device {
	if o.Memory == nil {
		return nil
	}
	c := &comparer{ch: ch, o: o, m: &hw.Machine{}}
	d, _ := c.deviceOf(i)
	return d
}

// DriveOf is the drive of a report that stands for the one planned in a place, nil for none.
func DriveOf(ch *hw.Chassis, m *hw.Machine, o *reading.Observed, place string) *reading.Drive {
	c := &comparer{ch: ch, m: m, o: o}
	list, _ := c.planned()
	c.match(list)
	for i := range list {
		if list[i].place.ID == place && list[i].seen >= 0 {
			return &o.Drives[list[i].seen]
		}
	}
	return nil
}
