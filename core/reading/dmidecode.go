package reading

import (
	"regexp"
	"strings"

	"yembo/core/hw"
)

var dmiHandle = regexp.MustCompile(`(?m)^Handle 0x[0-9A-Fa-f]+, DMI type [0-9]+`)

// dmiQuiet is the beginning of a record in a report without handles.
var dmiQuiet = regexp.MustCompile(
	`(?m)^(BIOS Information|System Information|Physical Memory Array|Memory Device|Portable Battery)\r?\n\t`,
)

// dmiRecord is one record of a dmidecode text: its handle, type, and fields.
type dmiRecord struct {
	handle string
	kind   int
	fields row
}

// dmiFields are the fields that are read, by type of record. The other types are left
// alone.
var dmiFields = map[int]wanted{
	0:  fields("Version"),
	1:  fields("Manufacturer", "Product Name", "Serial Number"),
	16: fields("Use", "Maximum Capacity"),
	22: fields("Location", "Design Capacity", "Design Voltage"),
	17: fields("Array Handle", "Locator", "Type", "Part Number", "Serial Number", "Size", "Speed",
		"Configured Memory Speed", "Configured Clock Speed", "Rank", "Configured Voltage", "Form Factor"),
}

func (r *dmiRecord) get(name string) string { return dmiFields[r.kind].get(&r.fields, name) }

// dmidecode reads the text of dmidecode: firmware, system, memory arrays and devices.
func (o *Observed) dmidecode(text []byte) error {
	d := dmiReader{o: o, other: map[string]bool{}}
	eachLine(text, func(line string) {
		if head, ok := strings.CutPrefix(line, "Handle 0x"); ok {
			d.close()
			d.open(head)
			return
		}
		if line != "" && line[0] != '\t' {
			d.title(line)
			return
		}
		// Fields are indented once; what is indented further belongs to a list.
		if d.names == nil || len(line) < 2 || line[0] != '\t' || line[1] == '\t' {
			return
		}
		if name, value, ok := strings.Cut(line[1:], ":"); ok {
			d.names.set(&d.now.fields, name, value)
		}
	})
	d.close()
	if !d.any {
		return &Refused{Reason: "the text of dmidecode holds neither system nor memory records; it may need to be " +
			"run with the rights to read them"}
	}
	d.finish()
	return nil
}

// dmiReader reads one record after the other.
type dmiReader struct {
	o       *Observed
	now     dmiRecord
	names   wanted // of the record that is read; nil for one of no interest
	any     bool
	titled  bool // the record's own first line was read
	handles bool // the report names handles
	max     hw.Maybe[hw.Dec]
	other   map[string]bool // arrays that are not system memory
	arrays  []string        // of each device
}

func (d *dmiReader) open(head string) {
	d.handles, d.titled = true, false
	handle, rest, ok := strings.Cut(head, ", DMI type ")
	kind, number := leadingInt(rest)
	if ok && number && dmiFields[kind] != nil {
		d.names, d.any = dmiFields[kind], true
		d.now = dmiRecord{handle: "0x" + strings.TrimSpace(handle), kind: kind}
	}
}

// dmiTitles are the first lines of the records that are read. A quiet report has them
// alone, without the line that names handle and type.
var dmiTitles = map[string]int{"BIOS Information": 0, "System Information": 1, "Physical Memory Array": 16,
	"Memory Device": 17, "Portable Battery": 22}

// title is the first line of a record.
func (d *dmiReader) title(line string) {
	if d.names != nil && !d.titled {
		d.titled = true
		return
	}
	d.close()
	if kind, ok := dmiTitles[line]; ok && !d.handles {
		d.names, d.any, d.titled = dmiFields[kind], true, true
		d.now = dmiRecord{kind: kind}
	}
}

// close takes over the record that was read.
func (d *dmiReader) close() {
	if d.names == nil {
		return
	}
	d.names = nil
	r := &d.now
	switch r.kind {
	case 0:
		d.o.system().Firmware = said(r.get("Version"))
	case 1:
		s := d.o.system()
		s.Maker, s.Model, s.Serial = said(r.get("Manufacturer")), said(r.get("Product Name")),
			saidSerial(r.get("Serial Number"))
	case 16:
		if use := r.get("Use"); use != "System Memory" && said(use) != "" {
			d.other[r.handle] = true
		} else if gb, ok := sizeGB(r.get("Maximum Capacity")); ok && gb > 0 {
			d.max = hw.Known(d.max.Or(0) + gb)
		}
	case 22:
		if b := dmiBattery(r); b.Design.IsKnown() {
			d.o.Batteries = append(d.o.Batteries, b)
		}
	case 17:
		if !d.handles && strings.EqualFold(r.get("Type"), "Flash") {
			return // without handles, its type alone tells that it is no system memory
		}
		m := d.o.memory()
		m.Devices = append(m.Devices, dmiDevice(r))
		d.arrays = append(d.arrays, r.get("Array Handle"))
	}
}

// finish leaves out what is not system memory, and counts the sockets. It comes last,
// since an array may stand behind its devices.
func (d *dmiReader) finish() {
	if d.max.IsKnown() {
		d.o.memory().Max = d.max
	}
	if len(d.arrays) == 0 {
		return
	}
	m := d.o.memory()
	kept, sockets := m.Devices[:0], 0
	for i, device := range m.Devices {
		if d.other[d.arrays[i]] {
			continue
		}
		kept = append(kept, device)
		if !device.Soldered.Or(false) {
			sockets++
		}
	}
	if m.Devices = kept; len(kept) > 0 {
		m.Sockets = hw.Known(sockets)
	}
}

// dmiDevice reads one memory device.
func dmiDevice(r *dmiRecord) Device {
	d := Device{Locator: said(r.get("Locator")), Type: memoryType(r.get("Type")),
		PartNumber: said(r.get("Part Number")), Serial: saidSerial(r.get("Serial Number")), source: "dmidecode"}
	size := r.get("Size")
	if size == "No Module Installed" {
		d.Capacity = hw.Known(hw.Dec(0))
	} else if gb, ok := sizeGB(size); ok {
		d.Capacity = hw.Known(gb)
	}
	d.Rated = speedOf(r.get("Speed"))
	if d.Running = speedOf(r.get("Configured Memory Speed")); !d.Running.IsKnown() {
		d.Running = speedOf(r.get("Configured Clock Speed"))
	}
	if n, ok := leadingInt(r.get("Rank")); ok {
		d.Ranks = positive(n)
	}
	if v, unit, ok := figure(r.get("Configured Voltage")); ok && strings.EqualFold(unit, "V") {
		d.Voltage = likely(v)
	}
	d.build(r.get("Form Factor"))
	return d
}

// dmiBattery reads a pack of the machine: its design alone, for the table says nothing of
// what it holds now.
func dmiBattery(r *dmiRecord) Battery {
	b := Battery{source: "dmidecode"}
	if n, unit, ok := figure(r.get("Design Capacity")); ok && strings.EqualFold(unit, "mWh") {
		b.Design = likely((n / 1000).Hundredths())
	}
	if n, unit, ok := figure(r.get("Design Voltage")); ok && strings.EqualFold(unit, "mV") {
		b.Voltage = likely((n / 1000).Hundredths())
	}
	return b
}

func speedOf(text string) hw.Maybe[int] {
	n, ok := leadingInt(text)
	if !ok {
		return hw.Maybe[int]{}
	}
	return positive(n)
}

// memoryTypes are the generations by the words of the tools, in their own spelling.
var memoryTypes = []string{"LPDDR5X", "LPDDR4X", "LPDDR5", "LPDDR4", "LPDDR3", "LPDDR2", "LPDDR", "DDR5", "DDR4",
	"DDR3L", "DDR3", "DDR2", "DDR"}

func memoryType(text string) hw.MemoryType {
	text = said(text)
	for _, t := range memoryTypes {
		if strings.EqualFold(t, text) {
			return hw.MemoryType(t)
		}
	}
	return ""
}

// build settles how a device is built in: soldered or in a socket, and its form. kind is
// the tool's word for its form.
func (d *Device) build(kind string) {
	word := strings.ToLower(strings.ReplaceAll(strings.TrimSpace(kind), "-", ""))
	low := strings.HasPrefix(string(d.Type), "LPDDR")
	form := map[string]hw.ModuleForm{"sodimm": "SO-DIMM", "dimm": "DIMM", "camm": "CAMM2", "camm2": "CAMM2",
		"lpcamm2": "LPCAMM2", "lpcamm": "LPCAMM2"}[word]
	if form == "CAMM2" && low {
		form = "LPCAMM2"
	}
	card := form == "CAMM2" || form == "LPCAMM2"
	if d.Type == "DDR3" && d.Voltage.Or(0) == hw.DecOf(135)/100 {
		d.Type = "DDR3L"
	}
	empty := false
	if gb, known := d.Capacity.Get(); known && gb == 0 {
		empty = true
	}
	switch {
	case word == "row of chips" || word == "chip" || word == "die" || low && !card && !empty:
		d.Soldered = hw.Known(true)
	case empty:
		d.Soldered, d.Form = hw.Known(false), form
	case form != "":
		d.Soldered, d.Form = hw.Known(false), form
	}
}
