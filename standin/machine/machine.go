// Package machine is a simulated machine: from a model's record and one machine of it,
// it writes the reports that the tools of a real one would, with faults that can be
// switched on. It stands in for a machine on the bench, in the demo and in tests.
package machine

import (
	"encoding/json"
	"fmt"
	"hash/fnv"
	"strings"

	"yembo/core/hw"
	"yembo/core/proof"
)

// Faults are what can be wrong with the machine, or with what it says.
type Faults struct {
	Unseated      bool // the last module is not seated: its socket reads as empty
	EmptyChannel  bool // nothing answers on the last channel that has sockets
	FewerLanes    bool // the first NVMe drive links at one lane
	DriveAbsent   bool // the last drive does not answer
	WornBattery   bool // the pack holds half of what it did when new, after many cycles
	LyingFirmware bool // twice the sockets and twice the maximum
	Slower        bool // all memory runs at half of what it should
	OtherModule   bool // the last module holds half of what its label says
	OtherDrive    bool // the last drive holds half of what it should
	FailingDrive  bool // the last drive says that it is failing
	UsedDrive     bool // the first drive has run for months
	OtherPack     bool // the pack was made for half as much again
	OtherSerial   bool // the board tells the serial of another machine

	// What no report tells, and somebody sees at the screen.
	OneChannel, NoVolume, NoStart, Message bool
}

// Name is a fault by the name that forms use, with what it means.
type Name struct {
	Name, Words string
	AtScreen    bool // no report tells it: somebody sees it
}

// Names are the faults.
var Names = []Name{
	{"unseated", "a module is not seated", false},
	{"empty_channel", "one channel is empty", false},
	{"fewer_lanes", "the drive links at fewer lanes", false},
	{"drive_absent", "a drive is absent", false},
	{"worn_battery", "the battery is worn", false},
	{"lying_firmware", "firmware lies about its sockets", false},
	{"slower", "the memory runs slower", false},
	{"other_module", "another module than its label says", false},
	{"other_drive", "another drive", false},
	{"failing_drive", "a drive says that it is failing", false},
	{"used_drive", "a new drive was used before", false},
	{"other_pack", "another pack", false},
	{"other_serial", "the serial of another machine", false},
	{"one_channel", "half the bandwidth", true},
	{"no_volume", "the new drive has no volume", true},
	{"no_start", "it stays dark", true},
	{"message", "it says that its settings changed", true},
}

// of is the switch of a fault by its name, nil for one there is not.
func (f *Faults) of(name string) *bool {
	return map[string]*bool{"unseated": &f.Unseated, "empty_channel": &f.EmptyChannel, "fewer_lanes": &f.FewerLanes,
		"drive_absent": &f.DriveAbsent, "worn_battery": &f.WornBattery, "lying_firmware": &f.LyingFirmware, "slower": &f.Slower,
		"other_module": &f.OtherModule, "other_drive": &f.OtherDrive,
		"failing_drive": &f.FailingDrive, "used_drive": &f.UsedDrive, "other_pack": &f.OtherPack, "other_serial": &f.OtherSerial,
		"one_channel": &f.OneChannel, "no_volume": &f.NoVolume, "no_start": &f.NoStart, "message": &f.Message}[name]
}

// FaultsOf switches on the faults of those names. The error names one there is not.
func FaultsOf(names []string) (Faults, error) {
	var f Faults
	for _, name := range names {
		on := f.of(name)
		if on == nil {
			return f, fmt.Errorf("the simulated machine has no fault %q", name)
		}
		*on = true
	}
	return f, nil
}

// Screen is what somebody who looks at the machine sees and no report tells.
func Screen(f Faults) []proof.Code {
	var out []proof.Code
	for _, x := range []struct {
		on   bool
		code proof.Code
	}{{f.OneChannel, proof.OneChannel}, {f.NoVolume, proof.NoVolume}, {f.NoStart, proof.NoStart}, {f.Message, proof.Message}} {
		if x.on {
			out = append(out, x.code)
		}
	}
	return out
}

// Report is what one tool prints.
type Report struct {
	Name string // of a file it could be saved as
	Data []byte
}

// Reports are all that the machine's tools print: memory and firmware, links, each
// drive's health, the packs.
func Reports(ch *hw.Chassis, m *hw.Machine, f Faults) ([]Report, error) {
	s := &sim{ch: ch, m: m, f: f}
	s.drives = append(s.drives, m.Fitted.Drives...)
	if n := len(s.drives); f.DriveAbsent && n > 0 {
		s.drives = s.drives[:n-1]
	}
	out := []Report{{"dmidecode.txt", s.dmidecode()}, {"lspci.txt", s.lspci()}}
	for i := range s.drives {
		data, err := s.smartctl(i)
		if err != nil {
			return nil, err
		}
		out = append(out, Report{fmt.Sprintf("smartctl-%d.json", i), data})
	}
	if pack := s.upower(); pack != nil {
		out = append(out, Report{"upower.txt", pack})
	}
	return out, nil
}

type sim struct {
	ch     *hw.Chassis
	m      *hw.Machine
	f      Faults
	drives []hw.FittedDrive
}

// serial makes up a serial that is always the same for the same thing.
func (s *sim) serial(of string) string {
	h := fnv.New32a()
	h.Write([]byte(s.m.ID + "/" + of))
	return fmt.Sprintf("%08X", h.Sum32())
}

// inSocket is the module that answers in a socket.
func (s *sim) inSocket(id string) *hw.Module {
	last := len(s.m.Fitted.Memory) - 1
	for i := range s.m.Fitted.Memory {
		fitted := &s.m.Fitted.Memory[i]
		if fitted.Socket == id && !(s.f.Unseated && i == last) && !(s.f.EmptyChannel && s.lastChannel(id)) {
			if gb, ok := fitted.Module.Capacity.Get(); ok && s.f.OtherModule && i == last {
				half := fitted.Module
				half.Capacity = hw.Known(gb / 2)
				return &half
			}
			return &fitted.Module
		}
	}
	return nil
}

func (s *sim) lastChannel(id string) bool {
	last, own := "", ""
	for i := range s.ch.Mem().Sockets {
		so := &s.ch.Mem().Sockets[i]
		for _, c := range hw.OnChannels(so.Channel, so.Channels) {
			last = max(last, c)
			if so.ID == id {
				own = c
			}
		}
	}
	return own != "" && own == last
}

// speed is what all memory runs at: the slowest of it, at most the platform's.
func (s *sim) speed() int {
	slowest := s.ch.Mem().MaxSpeed.Or(0)
	limit := func(v hw.Maybe[int]) {
		if n, ok := v.Get(); ok && (slowest == 0 || n < slowest) {
			slowest = n
		}
	}
	for i := range s.ch.Mem().Sockets {
		if m := s.inSocket(s.ch.Mem().Sockets[i].ID); m != nil {
			limit(m.Speed)
		}
	}
	for _, sold := range s.ch.Mem().Soldered {
		limit(sold.Speed)
	}
	if s.f.Slower {
		return slowest / 2
	}
	return slowest
}

// asPrinted: firmware prints clocks doubled from thirds of a hundred, rounded up.
func asPrinted(mts int) int {
	switch mts {
	case 2666, 2933, 1066, 1866, 2133:
		return mts + 1
	}
	return mts
}

func (s *sim) dmidecode() []byte {
	var b strings.Builder
	mem := s.ch.Mem()
	sockets := len(mem.Sockets)
	most := mem.Limits.Controller.Or(mem.Limits.Maker.Or(0))
	if s.f.LyingFirmware {
		sockets, most = sockets*2, most*2
	}
	handle := 0
	record := func(kind, size int, title string, fields ...string) {
		fmt.Fprintf(&b, "Handle 0x%04X, DMI type %d, %d bytes\n%s\n", handle, kind, size, title)
		for i := 0; i < len(fields); i += 2 {
			fmt.Fprintf(&b, "\t%s: %s\n", fields[i], fields[i+1])
		}
		b.WriteString("\n")
		handle++
	}
	b.WriteString("# dmidecode 3.4\nGetting SMBIOS data from sysfs.\nSMBIOS 3.2.0 present.\n\n")
	record(0, 26, "BIOS Information", "Vendor", s.ch.Maker, "Version", "1.14", "Release Date", "03/02/2026")
	record(1, 27, "System Information", "Manufacturer", s.ch.Maker, "Product Name", s.ch.Model, "Version",
		"To Be Filled By O.E.M.",
		"Serial Number", s.machineSerial(), "SKU Number", or(s.ch.Code, "Not Specified"))
	capacity := "Unknown"
	if most > 0 {
		capacity = most.String() + " GB"
	}
	array := fmt.Sprintf("0x%04X", handle)
	record(16, 23, "Physical Memory Array", "Location", "System Board Or Motherboard", "Use", "System Memory",
		"Error Correction Type", "None",
		"Maximum Capacity", capacity, "Number Of Devices", fmt.Sprint(len(mem.Soldered)+sockets))
	running := fmt.Sprintf("%d MT/s", asPrinted(s.speed()))
	kind := mem.Type.Or("Unknown")
	for i := range mem.Soldered {
		sold := &mem.Soldered[i]
		gb := sold.Capacity
		if own, ok := s.m.Fitted.SolderedGB[sold.ID]; ok {
			gb = own
		}
		rated := running
		if v, ok := sold.Speed.Get(); ok {
			rated = fmt.Sprintf("%d MT/s", asPrinted(v))
		}
		record(17, 40, "Memory Device", "Array Handle", array, "Size", gb.String()+" GB", "Form Factor", "Row Of Chips",
			"Locator", strings.ToUpper(sold.ID),
			"Bank Locator", "Not Specified", "Type", string(kind), "Speed", rated, "Manufacturer", "Corvane",
			"Serial Number", "00000000", "Part Number", "Not Specified",
			"Rank", intOr(sold.Ranks, "Unknown"), "Configured Memory Speed", running, "Configured Voltage", "Unknown")
	}
	for i := range sockets {
		name, form := fmt.Sprintf("SLOT %d", i+1), "SODIMM"
		var module *hw.Module
		if i < len(mem.Sockets) {
			so := &mem.Sockets[i]
			name, form, module = strings.ToUpper(so.ID), formOf(so.Form), s.inSocket(so.ID)
		}
		if module == nil {
			record(17, 40, "Memory Device", "Array Handle", array, "Size", "No Module Installed", "Form Factor", form,
				"Locator", name, "Bank Locator", "Not Specified", "Type", "Unknown")
			continue
		}
		volts := "Unknown"
		if v, ok := module.Voltage.Get(); ok {
			volts = v.String() + " V"
		} else if module.Type == "DDR3L" {
			volts = "1.35 V"
		}
		record(17, 40, "Memory Device", "Array Handle", array, "Size", size(module.Capacity), "Form Factor", form,
			"Locator", name, "Bank Locator", "Not Specified",
			"Type", strings.TrimSuffix(string(or(module.Type, "Unknown")), "L"), "Speed", mts(module.Speed),
			"Manufacturer", "Corvane", "Serial Number", or(module.Serial, s.serial(name)), "Part Number", "CV-"+s.serial(name)[:4],
			"Rank", intOr(module.Ranks, "Unknown"), "Configured Memory Speed", running, "Configured Voltage", volts)
	}
	fmt.Fprintf(&b, "Handle 0x%04X, DMI type 127, 4 bytes\nEnd Of Table\n\n", handle)
	return []byte(b.String())
}

func (s *sim) machineSerial() string {
	if s.f.OtherSerial {
		return "X" + s.serial("board")
	}
	return or(s.m.Serial, "Not Specified")
}

func or[T ~string](a, b T) T {
	if a != "" {
		return a
	}
	return b
}

func intOr(v hw.Maybe[int], none string) string {
	if n, ok := v.Get(); ok {
		return fmt.Sprint(n)
	}
	return none
}

func mts(v hw.Maybe[int]) string {
	if n, ok := v.Get(); ok {
		return fmt.Sprintf("%d MT/s", asPrinted(n))
	}
	return "Unknown"
}

func size(v hw.Maybe[hw.Dec]) string {
	if gb, ok := v.Get(); ok {
		return gb.String() + " GB"
	}
	return "Unknown"
}

func formOf(form hw.ModuleForm) string {
	switch form {
	case "SO-DIMM":
		return "SODIMM"
	case "CAMM2", "LPCAMM2":
		return "CAMM"
	}
	return string(or(form, "Unknown"))
}

// lspci prints a root port and an endpoint for each NVMe drive and a wireless card
// that hangs on a link of its own.
func (s *sim) lspci() []byte {
	var b strings.Builder
	b.WriteString("00:00.0 Host bridge: Pellam Device 9a14 (rev 01)\n\tControl: I/O- Mem+ BusMaster+\n\n")
	bus := 0
	device := func(class string, capGen, capLanes, gen, lanes int) {
		bus++
		less := func(now, can int) string {
			if now < can {
				return " (downgraded)"
			}
			return ""
		}
		fmt.Fprintf(&b, "00:1%d.0 PCI bridge: Pellam Device 9a1%d (rev 20) (prog-if 00 [Normal "+
			"decode])\n\tCapabilities: [40] Express (v2) Root Port (Slot+), IntMsgNum 0\n\t\tLnkCap:\tPort #%d, Speed "+
			"%s, Width x%d, ASPM L1\n\t\tLnkSta:\tSpeed %s, Width x%d\n\n",
			bus%10, bus%10, bus, rate(capGen), capLanes, rate(gen), lanes)
		fmt.Fprintf(&b, "%02x:00.0 %s\n\tCapabilities: [40] Power Management version 3\n\tCapabilities: [70] "+
			"Express (v2) Endpoint, IntMsgNum 0\n\t\tDevCap:\tMaxPayload 256 bytes, PhantFunc 0\n\t\tLnkCap:\tPort #0, "+
			"Speed %s, Width x%d, ASPM L1, Exit Latency L1 <8us\n\t\tLnkSta:\tSpeed %s%s, Width x%d%s\n\n",
			bus, class, rate(capGen), capLanes, rate(gen), less(gen, capGen), lanes, less(lanes, capLanes))
	}
	first := true
	for _, d := range s.drives {
		if d.Drive.Interface != "nvme" {
			continue
		}
		gen, lanes := d.Drive.Gen.Or(3), d.Drive.Lanes.Or(4)
		nowGen, nowLanes := gen, lanes
		if i := s.ch.SlotByID(d.Place); i >= 0 {
			slot := &s.ch.Slots[i]
			nowGen, nowLanes = min(gen, slot.Gen.Or(gen)), min(lanes, slot.Lanes.Or(lanes))
		}
		if s.f.FewerLanes && first {
			nowLanes = 1
		}
		first = false
		device("Non-Volatile memory controller: Bexmoor Device 5010 (rev 01) (prog-if 02 [NVM Express])", gen, lanes,
			nowGen, nowLanes)
	}
	if w := s.m.Fitted.Wireless; w != nil && w.Interface.Or("") == "pcie" {
		device("Network controller: Hallam Device 2725 (rev 1a)", 2, 1, 2, 1)
	}
	return []byte(b.String())
}

func rate(gen int) string {
	return map[int]string{1: "2.5GT/s", 2: "5GT/s", 3: "8GT/s", 4: "16GT/s", 5: "32GT/s"}[gen]
}

// bytesOf is how many bytes a drive sold by a size has: makers agreed on the count of
// sectors for each size.
func bytesOf(gb hw.Dec) int64 {
	whole := int64(gb / hw.DecOf(1))
	if whole <= 50 {
		return whole * 1_000_000_000
	}
	return (97_696_368 + 1_953_504*(whole-50)) * 512
}

func (s *sim) smartctl(i int) ([]byte, error) {
	d := &s.drives[i]
	passed := !d.Fails() && !(s.f.FailingDrive && i == len(s.drives)-1)
	hours, worn := 4100+7*i, 6
	if d.New.Or(false) && !(s.f.UsedDrive && i == 0) {
		hours, worn = 1, 0
	}
	nvme := d.Drive.Interface == "nvme"
	out := map[string]any{
		"json_format_version": []int{1, 0}, "smartctl": map[string]any{"version": []int{7, 4}, "exit_status": 0},
		"model_name": "BX-" + d.Drive.Capacity.Or(0).String(), "serial_number": or(d.Drive.Serial, "BX"+s.serial(d.Place)),
		"firmware_version": "2.1",
		"smart_status":     map[string]any{"passed": passed}, "power_on_time": map[string]any{"hours": hours},
		"temperature": map[string]any{"current": 38},
	}
	if gb, ok := d.Drive.Capacity.Get(); ok {
		if s.f.OtherDrive && i == len(s.drives)-1 {
			gb /= 2
		}
		out["user_capacity"] = map[string]any{"bytes": bytesOf(gb)}
	}
	if nvme {
		out["device"] = map[string]any{"name": fmt.Sprintf("/dev/nvme%d", i), "type": "nvme", "protocol": "NVMe"}
		warning := 0
		if !passed {
			warning = 4
		}
		out["nvme_smart_health_information_log"] = map[string]any{"critical_warning": warning, "temperature": 38,
			"percentage_used": worn, "power_on_hours": hours}
	} else {
		out["device"] = map[string]any{"name": fmt.Sprintf("/dev/sd%c", 'a'+i), "type": "sat", "protocol": "ATA"}
		out["rotation_rate"] = 0
		out["ata_smart_attributes"] = map[string]any{"table": []any{map[string]any{"id": 231, "name": "SSD_Life_Left",
			"value": 100 - worn}}}
	}
	data, err := json.MarshalIndent(out, "", "  ")
	return append(data, '\n'), err
}

// upower prints the pack, and what adds the packs up; nil for a machine without one.
func (s *sim) upower() []byte {
	own := s.m.Fitted.Battery
	if own == nil {
		return nil
	}
	for i := range s.ch.Batteries {
		p := &s.ch.Batteries[i]
		design, ok := p.DesignWh.Get()
		if p.ID != own.Option || !ok {
			continue
		}
		full, cycles := own.FullWh.Or(design), own.Cycles.Or(0)
		if s.f.WornBattery {
			full, cycles = design/2, 1100
		}
		if s.f.OtherPack {
			design = design * 3 / 2
		}
		var b strings.Builder
		b.WriteString("Device: /org/freedesktop/UPower/devices/line_power_AC\n  power supply:         yes\n  " +
			"line-power\n    online:             yes\n\n")
		for _, name := range []string{"battery_BAT0", "DisplayDevice"} {
			fmt.Fprintf(&b, "Device: /org/freedesktop/UPower/devices/%s\n  vendor:               Wexcell\n  power "+
				"supply:         yes\n  battery\n    present:             yes\n    energy-full:         %s Wh\n    "+
				"energy-full-design:  %s Wh\n", name, full, design)
			if v, ok := p.NominalV.Get(); ok {
				fmt.Fprintf(&b, "    voltage-min-design:  %s V\n", v)
			}
			if cycles > 0 {
				fmt.Fprintf(&b, "    charge-cycles:       %d\n", cycles)
			}
			b.WriteString("\n")
		}
		b.WriteString("Daemon:\n  daemon-version:  1.90.2\n")
		return []byte(b.String())
	}
	return nil
}
