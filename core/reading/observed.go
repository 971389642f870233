// Package reading turns what a machine's own tools report into yembo.observed: what is
// in it, as it says itself. Each kind of report is recognised by its content. What a
// report does not say is absent: a placeholder counts as not said, and nothing is
// borrowed from another field in its place.
package reading

import (
	"encoding/json"
	"fmt"

	"yembo/core/hw"
)

// FormatObserved is the name of the document.
const FormatObserved = "yembo.observed/1"

// Observed is what a machine says about itself.
type Observed struct {
	Format    string     `json:"format"`
	From      []string   `json:"from"`
	System    *System    `json:"system,omitempty"`
	Memory    *Memory    `json:"memory,omitempty"`
	Links     []Link     `json:"links,omitempty"`
	Drives    []Drive    `json:"drives,omitempty"`
	Batteries []Battery  `json:"batteries,omitempty"`
	Conflicts []Conflict `json:"conflicts,omitempty"`

	Notes []string `json:"-"` // what could not be read, and what was read with a grain of salt

	bare []Drive // NVMe logs that do not say whose they are
}

// System is the machine as a whole.
type System struct {
	Maker    string `json:"maker,omitempty"`
	Model    string `json:"model,omitempty"`
	Serial   string `json:"serial,omitempty"`
	Firmware string `json:"firmware,omitempty"`
}

// Memory is what the firmware tells of memory.
type Memory struct {
	Max     hw.Maybe[hw.Dec] `json:"max_gb,omitzero"`
	Sockets hw.Maybe[int]    `json:"sockets,omitzero"`
	Devices []Device         `json:"devices,omitempty"`
}

// Device is a module, soldered memory, or an empty socket (capacity 0).
type Device struct {
	Locator    string           `json:"locator,omitempty"`
	Form       hw.ModuleForm    `json:"form,omitempty"`
	Type       hw.MemoryType    `json:"type,omitempty"`
	Capacity   hw.Maybe[hw.Dec] `json:"capacity_gb,omitzero"`
	Rated      hw.Maybe[int]    `json:"rated_mts,omitzero"`
	Running    hw.Maybe[int]    `json:"running_mts,omitzero"`
	Soldered   hw.Maybe[bool]   `json:"soldered,omitzero"`
	PartNumber string           `json:"part_number,omitempty"`
	Serial     string           `json:"serial,omitempty"`
	Ranks      hw.Maybe[int]    `json:"ranks,omitzero"`
	Voltage    hw.Maybe[hw.Dec] `json:"voltage_v,omitzero"`
	ChipWidth  hw.Maybe[int]    `json:"chip_width,omitzero"`
	CAS        hw.Maybe[int]    `json:"cas,omitzero"`
	ChecksumOK hw.Maybe[bool]   `json:"checksum_ok,omitzero"`

	source string
}

// Link is an endpoint with a PCI Express link.
type Link struct {
	Address  string        `json:"address"`
	Class    string        `json:"class"` // nvme, sata, network
	CapGen   hw.Maybe[int] `json:"cap_gen,omitzero"`
	CapLanes hw.Maybe[int] `json:"cap_lanes,omitzero"`
	NowGen   hw.Maybe[int] `json:"now_gen,omitzero"`
	NowLanes hw.Maybe[int] `json:"now_lanes,omitzero"`
}

// Drive is a drive with its health.
type Drive struct {
	Model       string          `json:"model,omitempty"`
	Serial      string          `json:"serial,omitempty"`
	Interface   hw.Interface    `json:"interface,omitempty"`
	Capacity    hw.Maybe[int64] `json:"capacity_bytes,omitzero"`
	Wear        hw.Maybe[int]   `json:"wear_percent,omitzero"`
	PowerOn     hw.Maybe[int]   `json:"power_on_h,omitzero"`
	Temperature hw.Maybe[int]   `json:"temperature_c,omitzero"`
	Healthy     hw.Maybe[bool]  `json:"healthy,omitzero"`

	source string
}

// Battery is one of the machine's own packs.
type Battery struct {
	Design  hw.Maybe[hw.Dec] `json:"design_wh,omitzero"`
	Full    hw.Maybe[hw.Dec] `json:"full_wh,omitzero"`
	Cycles  hw.Maybe[int]    `json:"cycles,omitzero"`
	Voltage hw.Maybe[hw.Dec] `json:"voltage_v,omitzero"`

	source string
}

// Conflict is a fact about which reports of one machine disagree; the first stands.
type Conflict struct {
	Path   string            `json:"path"`
	Values []json.RawMessage `json:"values"`
	From   []string          `json:"from"`
}

// Refused is a report that cannot be taken.
type Refused struct {
	Reason string
	Line   int // 0 where the place is not one of a text
	Column int
}

func (r *Refused) Error() string {
	if r.Line == 0 {
		return r.Reason
	}
	return fmt.Sprintf("line %d, column %d: %s", r.Line, r.Column, r.Reason)
}

// MaxReport is the largest report that is read, in bytes.
const MaxReport = 64 << 20

// Read recognises a report by its content and reads it. Merge makes a document of one or
// several. The error is *Refused for one
// that is of no known kind or cannot be read.
func Read(data []byte) (*Observed, error) {
	if len(data) > MaxReport {
		return nil, &Refused{Reason: fmt.Sprintf("it is larger than %d MB", MaxReport>>20)}
	}
	o := &Observed{Format: FormatObserved}
	if isSPD(data) {
		return o, o.spd(data)
	}
	text, err := plain(data)
	if err != nil {
		return nil, err
	}
	read, name := kindOf(text)
	if read == nil {
		return nil, &Refused{Reason: "not a supported report; supported: dmidecode, lspci -vv, lshw, smartctl and " +
			"nvme as JSON, upower, power_supply, a battery report as XML, CIM as JSON, or an SPD image"}
	}
	o.From = []string{name}
	if err := read(o, text); err != nil {
		return nil, err
	}
	return o, nil
}

// memory returns the memory part, made when it is first needed.
func (o *Observed) memory() *Memory {
	if o.Memory == nil {
		o.Memory = &Memory{}
	}
	return o.Memory
}

func (o *Observed) system() *System {
	if o.System == nil {
		o.System = &System{}
	}
	return o.System
}

func (o *Observed) note(format string, args ...any) {
	o.Notes = append(o.Notes, fmt.Sprintf(format, args...))
}

// settle brings a report read alone into the document's shape: logs without a name
// become drives of their own, empty parts are left out.
func (o *Observed) settle() {
	o.Drives = append(o.Drives, o.bare...)
	if o.System != nil && *o.System == (System{}) {
		o.System = nil
	}
	if m := o.Memory; m != nil && !m.Max.IsKnown() && !m.Sockets.IsKnown() && len(m.Devices) == 0 {
		o.Memory = nil
	}
}
