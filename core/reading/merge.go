package reading

import (
	"encoding/json"
	"fmt"
	"strings"

	"yembo/core/hw"
)

// Merge brings reports of one machine together, in their order. Where two disagree, the
// first stands and the fact is listed among the conflicts.
func Merge(reports []*Observed) *Observed {
	out := &Observed{Format: FormatObserved}
	m := merger{out: out, from: map[string]string{}}
	for _, r := range reports {
		m.source = ""
		for _, name := range r.From {
			m.source = name
			seen := false
			for _, x := range out.From {
				seen = seen || x == name
			}
			if !seen {
				out.From = append(out.From, name)
			}
		}
		m.add(r)
	}
	if i := out.ownLog(); i >= 0 {
		m.source = "nvme"
		m.driveAt(i, out.bare[0])
		out.bare = nil
	}
	out.settle()
	return out
}

// merger merges one report after the other.
type merger struct {
	out    *Observed
	source string            // of the report that is merged
	from   map[string]string // which report said a fact, by its key
}

// fact merges one fact: into is where it stands, from the new report's.
func fact[T comparable](m *merger, path string, into *hw.Maybe[T], from hw.Maybe[T]) {
	v, told := from.Get()
	if !told {
		return
	}
	now, known := into.Get()
	if !known {
		*into = from
		m.from[path] = m.source
		return
	}
	if now != v {
		m.conflict(path, now, v)
	}
}

// word is fact for a text, "" is not told.
func word[T ~string](m *merger, path string, into *T, from T) {
	switch {
	case from == "":
	case *into == "":
		*into = from
		m.from[path] = m.source
	case *into != from:
		m.conflict(path, *into, from)
	}
}

// conflict notes that a report says otherwise.
func (m *merger) conflict(path string, first, other any) {
	a, errA := json.Marshal(first)
	b, errB := json.Marshal(other)
	if errA != nil || errB != nil {
		return
	}
	for i := range m.out.Conflicts {
		c := &m.out.Conflicts[i]
		if c.Path != path {
			continue
		}
		for _, v := range c.Values {
			if string(v) == string(b) {
				return
			}
		}
		c.Values, c.From = append(c.Values, b), append(c.From, m.source)
		return
	}
	m.out.Conflicts = append(m.out.Conflicts, Conflict{path, []json.RawMessage{a, b}, []string{m.from[path], m.source}})
}

func (m *merger) add(r *Observed) {
	out := m.out
	out.Notes = append(out.Notes, r.Notes...)
	if r.System != nil {
		s := out.system()
		word(m, "/system/maker", &s.Maker, r.System.Maker)
		if !sameModel(s.Model, r.System.Model) {
			word(m, "/system/model", &s.Model, r.System.Model)
		}
		word(m, "/system/serial", &s.Serial, r.System.Serial)
		word(m, "/system/firmware", &s.Firmware, r.System.Firmware)
	}
	if r.Memory != nil {
		mem := out.memory()
		fact(m, "/memory/max_gb", &mem.Max, r.Memory.Max)
		fact(m, "/memory/sockets", &mem.Sockets, r.Memory.Sockets)
		m.devices(r.Memory.Devices)
	}
	for _, l := range r.Links {
		m.link(l)
	}
	out.bare = append(out.bare, r.bare...)
	for _, d := range r.Drives {
		m.drive(d)
	}
	m.batteries(r.Batteries)
}

// sameModel reports whether two names differ only in a stock number, which some tools
// add in brackets.
func sameModel(a, b string) bool {
	return a != "" && b != "" && (strings.HasPrefix(b, a+" (") || strings.HasPrefix(a, b+" ("))
}

// devices merges memory: by serial and part number, else by locator where another
// report said it. One report's devices are all different ones.
func (m *merger) devices(list []Device) {
	mem := m.out.memory()
	before := len(mem.Devices)
	taken := make([]bool, before)
	for _, d := range list {
		match := -1
		for i := range before {
			x := &mem.Devices[i]
			if !taken[i] && x.source != d.source && d.Serial != "" && d.PartNumber != "" && x.Serial == d.Serial &&
				x.PartNumber == d.PartNumber {
				match = i
				break
			}
		}
		for i := 0; match < 0 && i < before; i++ {
			if x := &mem.Devices[i]; !taken[i] && x.source != d.source && d.Locator != "" && x.Locator == d.Locator {
				match = i
			}
		}
		if match < 0 {
			mem.Devices = append(mem.Devices, Device{source: d.source})
			match = len(mem.Devices) - 1
		} else {
			taken[match] = true
		}
		m.device(match, d)
	}
}

func (m *merger) device(i int, d Device) {
	x := &m.out.Memory.Devices[i]
	at := fmt.Sprintf("/memory/devices/%d/", i)
	word(m, at+"locator", &x.Locator, d.Locator)
	word(m, at+"form", &x.Form, d.Form)
	word(m, at+"type", &x.Type, d.Type)
	word(m, at+"part_number", &x.PartNumber, d.PartNumber)
	word(m, at+"serial", &x.Serial, d.Serial)
	fact(m, at+"capacity_gb", &x.Capacity, d.Capacity)
	fact(m, at+"rated_mts", &x.Rated, d.Rated)
	fact(m, at+"running_mts", &x.Running, d.Running)
	fact(m, at+"ranks", &x.Ranks, d.Ranks)
	fact(m, at+"chip_width", &x.ChipWidth, d.ChipWidth)
	fact(m, at+"cas", &x.CAS, d.CAS)
	fact(m, at+"voltage_v", &x.Voltage, d.Voltage)
	fact(m, at+"soldered", &x.Soldered, d.Soldered)
	fact(m, at+"checksum_ok", &x.ChecksumOK, d.ChecksumOK)
}

func (m *merger) link(l Link) {
	i := 0
	for i < len(m.out.Links) && m.out.Links[i].Address != l.Address {
		i++
	}
	if i == len(m.out.Links) {
		m.out.Links = append(m.out.Links, Link{Address: l.Address, Class: l.Class})
	}
	x := &m.out.Links[i]
	at := fmt.Sprintf("/links/%d/", i)
	fact(m, at+"cap_gen", &x.CapGen, l.CapGen)
	fact(m, at+"cap_lanes", &x.CapLanes, l.CapLanes)
	fact(m, at+"now_gen", &x.NowGen, l.NowGen)
	fact(m, at+"now_lanes", &x.NowLanes, l.NowLanes)
}

// drive merges a drive by its serial.
func (m *merger) drive(d Drive) {
	i := 0
	for i < len(m.out.Drives) && (d.Serial == "" || m.out.Drives[i].Serial != d.Serial) {
		i++
	}
	if i == len(m.out.Drives) {
		m.out.Drives = append(m.out.Drives, Drive{source: d.source})
	}
	m.driveAt(i, d)
}

func (m *merger) driveAt(i int, d Drive) {
	x := &m.out.Drives[i]
	at := fmt.Sprintf("/drives/%d/", i)
	word(m, at+"model", &x.Model, d.Model)
	word(m, at+"serial", &x.Serial, d.Serial)
	word(m, at+"interface", &x.Interface, d.Interface)
	fact(m, at+"capacity_bytes", &x.Capacity, d.Capacity)
	fact(m, at+"healthy", &x.Healthy, d.Healthy)
	fact(m, at+"wear_percent", &x.Wear, d.Wear)
	fact(m, at+"power_on_h", &x.PowerOn, d.PowerOn)
	// A drive is as warm as it is at the moment: two readings do not contradict.
	if !x.Temperature.IsKnown() {
		x.Temperature = d.Temperature
	}
}

// batteries merges packs by their design capacity, where another report said it. One
// report's packs are all different ones.
func (m *merger) batteries(list []Battery) {
	before := len(m.out.Batteries)
	taken := make([]bool, before)
	for _, b := range list {
		match := -1
		for i := range before {
			x := &m.out.Batteries[i]
			if match < 0 && !taken[i] && x.source != b.source && samePack(x.Design, b.Design) {
				match = i
			}
		}
		if match < 0 {
			m.out.Batteries = append(m.out.Batteries, Battery{source: b.source})
			match = len(m.out.Batteries) - 1
		} else {
			taken[match] = true
		}
		x := &m.out.Batteries[match]
		at := fmt.Sprintf("/batteries/%d/", match)
		figureOf(m, at+"design_wh", &x.Design, b.Design)
		figureOf(m, at+"full_wh", &x.Full, b.Full)
		fact(m, at+"cycles", &x.Cycles, b.Cycles)
		figureOf(m, at+"voltage_v", &x.Voltage, b.Voltage)
	}
}

// samePack reports whether two reports tell of one design capacity: some print one place
// behind the point, some two.
func samePack(a, b hw.Maybe[hw.Dec]) bool {
	x, okX := a.Get()
	y, okY := b.Get()
	return okX && okY && x.Tenths() == y.Tenths()
}

// figureOf merges a figure of a pack; one that only says more places is no contradiction.
func figureOf(m *merger, path string, into *hw.Maybe[hw.Dec], from hw.Maybe[hw.Dec]) {
	if !samePack(*into, from) {
		fact(m, path, into, from)
	}
}
