package reading

import (
	"maps"
	"slices"
	"strings"

	"yembo/core/hw"
)

// cim reads the JSON of CIM objects: memory, disks, packs and the system, alone, in a
// list, or under names of the writer's own.
func (o *Observed) cim(text []byte) error {
	all, err := objects(text)
	if err != nil {
		return err
	}
	packs := map[string]*Battery{}
	var order []string
	found := 0
	var walk func(v any, depth int)
	walk = func(v any, depth int) {
		if depth > 12 {
			return
		}
		switch x := v.(type) {
		case []any:
			for _, e := range x {
				walk(e, depth+1)
			}
		case object:
			if o.cimObject(x, packs, &order) {
				found++
				return
			}
			// By name, so that the same report always gives the same document.
			for _, name := range slices.Sorted(maps.Keys(x)) {
				// What describes the class is not the thing.
				if !strings.HasPrefix(name, "Cim") && !strings.HasPrefix(name, "PS") {
					walk(x[name], depth+1)
				}
			}
		}
	}
	for _, v := range all {
		walk(v, 0)
	}
	for _, name := range order {
		if b := packs[name]; b.Design.IsKnown() || b.Full.IsKnown() {
			o.Batteries = append(o.Batteries, *b)
		}
	}
	if found == 0 {
		return &Refused{Reason: "the JSON holds no memory, disk, battery or system object of CIM"}
	}
	return nil
}

// cimTypes are the generations by SMBIOS number.
var cimTypes = map[int]hw.MemoryType{18: "DDR", 19: "DDR2", 24: "DDR3", 26: "DDR4", 27: "LPDDR", 28: "LPDDR2",
	29: "LPDDR3", 30: "LPDDR4", 34: "DDR5", 35: "LPDDR5"}

// cimObject reads one object; false for one that is of none of the known kinds.
func (o *Observed) cimObject(x object, packs map[string]*Battery, order *[]string) bool {
	has := func(names ...string) bool {
		for _, n := range names {
			if _, ok := x[n]; ok {
				return true
			}
		}
		return false
	}
	class := str(at(x, "CimClass", "CimClassName"))
	if class == "" {
		class = str(x["CreationClassName"])
	}
	switch {
	case class == "Win32_PhysicalMemory" || has("Capacity") && has("SMBIOSMemoryType", "FormFactor", "DeviceLocator",
		"ConfiguredClockSpeed"):
		o.memory().Devices = append(o.memory().Devices, cimDevice(x))
	case has("MaxCapacity", "MaxCapacityEx"):
		o.cimArray(x)
	case has("SMBIOSBIOSVersion"):
		o.system().Firmware = said(str(x["SMBIOSBIOSVersion"]))
		if s := saidSerial(str(x["SerialNumber"])); s != "" {
			o.system().Serial = s
		}
	case class == "Win32_ComputerSystem" || has("Manufacturer") && has("Model") &&
		has("TotalPhysicalMemory", "SystemFamily", "SystemSKUNumber"):
		o.system().Maker, o.system().Model = said(str(x["Manufacturer"])), said(str(x["Model"]))
	case has("DesignedCapacity", "DesignCapacity", "FullChargedCapacity", "FullChargeCapacity", "CycleCount",
		"DesignVoltage"):
		cimBattery(x, packs, order)
	case has("Size") && has("BusType", "InterfaceType", "HealthStatus", "MediaType"):
		o.cimDisk(x)
	default:
		return false
	}
	return true
}

func cimDevice(x object) Device {
	d := Device{Locator: said(str(x["DeviceLocator"])), PartNumber: said(str(x["PartNumber"])),
		Serial: saidSerial(str(x["SerialNumber"])), source: "cim"}
	if n, ok := whole(x["Capacity"]); ok && n >= 0 {
		d.Capacity = hw.Known(bytesGB(n))
	}
	if n, ok := small(x["Speed"]); ok {
		d.Rated = positive(n)
	}
	if n, ok := small(x["ConfiguredClockSpeed"]); ok {
		d.Running = positive(n)
	}
	if mv, ok := small(x["ConfiguredVoltage"]); ok {
		d.Voltage = likely(hw.DecOf(mv) / 1000)
	}
	if n, ok := small(x["SMBIOSMemoryType"]); ok {
		d.Type = cimTypes[n]
	}
	form, _ := small(x["FormFactor"])
	d.build(map[int]string{8: "DIMM", 12: "SODIMM"}[form])
	return d
}

// cimArray reads an array of memory: its largest size is told in kB.
func (o *Observed) cimArray(x object) {
	if use, ok := small(x["Use"]); ok && use != 3 {
		return
	}
	for _, name := range []string{"MaxCapacityEx", "MaxCapacity"} {
		if kb, ok := whole(x[name]); ok && kb > 0 && kb < 1<<40 {
			o.memory().Max = hw.Known(o.memory().Max.Or(0) + bytesGB(kb*1024))
			return
		}
	}
}

// cimBattery reads what one of the classes about packs says; the same pack is found
// again by its instance.
func cimBattery(x object, packs map[string]*Battery, order *[]string) {
	name := str(x["InstanceName"])
	if packs[name] == nil {
		packs[name] = &Battery{source: "cim"}
		*order = append(*order, name)
	}
	b := packs[name]
	for _, field := range []string{"DesignedCapacity", "DesignCapacity"} {
		if n, ok := whole(x[field]); ok && !b.Design.IsKnown() {
			b.Design = likely(fromMilli(min(n, 1e9)))
		}
	}
	for _, field := range []string{"FullChargedCapacity", "FullChargeCapacity"} {
		if n, ok := whole(x[field]); ok && !b.Full.IsKnown() {
			b.Full = likely(fromMilli(min(n, 1e9)))
		}
	}
	if n, ok := small(x["CycleCount"]); ok {
		b.Cycles = positive(n)
	}
	if mv, ok := whole(x["DesignVoltage"]); ok {
		b.Voltage = likely(fromMilli(min(mv, 1e9)))
	}
}

func (o *Observed) cimDisk(x object) {
	d := Drive{Model: said(str(x["Model"])), Serial: saidSerial(str(x["SerialNumber"])), source: "cim"}
	if d.Model == "" {
		d.Model = said(str(x["FriendlyName"]))
	}
	bus := strings.ToUpper(str(x["BusType"]))
	if n, ok := small(x["BusType"]); ok {
		bus = map[int]string{17: "NVME", 11: "SATA", 3: "ATA", 7: "USB"}[n]
	}
	if bus == "" && strings.EqualFold(str(x["InterfaceType"]), "USB") {
		bus = "USB"
	}
	switch bus {
	case "USB":
		return // outside the machine
	case "NVME":
		d.Interface = "nvme"
	case "SATA", "ATA":
		d.Interface = "sata"
	}
	if n, ok := whole(x["Size"]); ok && n > 0 {
		d.Capacity = hw.Known(n)
	}
	if n, ok := small(x["Wear"]); ok && n >= 0 {
		d.Wear = hw.Known(n)
	}
	if n, ok := small(x["PowerOnHours"]); ok && n >= 0 {
		d.PowerOn = hw.Known(n)
	}
	if n, ok := small(x["Temperature"]); ok {
		d.Temperature = positive(n)
	}
	health := strings.ToUpper(str(x["HealthStatus"]))
	if n, ok := small(x["HealthStatus"]); ok {
		health = map[int]string{0: "HEALTHY", 1: "WARNING", 2: "UNHEALTHY"}[n]
	}
	if health == "" {
		health = map[string]string{"OK": "HEALTHY", "PRED FAIL": "WARNING"}[strings.ToUpper(str(x["Status"]))]
	}
	if health == "HEALTHY" || health == "WARNING" || health == "UNHEALTHY" {
		d.Healthy = hw.Known(health == "HEALTHY")
	}
	o.Drives = append(o.Drives, d)
}
